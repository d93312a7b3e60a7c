#include "patch/board.h"
#include "patch/limits.h"
#include <algorithm>

namespace loom::project {
namespace {

class BoardMaker {
  public:
    BoardMaker(const Project& p, const Patched& patched, const Wired& wired, const BoardFilter& filter)
        : p_(p), patched_(patched), wired_(wired), filter_(filter) {
        if (!filter.ring.empty())
            for (const auto& r : wired.rings)
                if (r.name == filter.ring)
                    onRing_.insert(r.devices.begin(), r.devices.end());
        for (const auto& d : p.devices)
            for (const auto& [input, from] : d.feeds)
                ++leads_[from];
    }

    Board run() {
        for (std::size_t n = 0; n < p_.devices.size(); ++n)
            if (inRoom(p_.devices[n]))
                add(static_cast<int>(n));
        for (auto* side : {&board_.offers, &board_.takers})
            std::stable_partition(side->begin(), side->end(), [](const BoardDevice& d) { return d.why.empty(); });
        std::map<int, int> offerAt, takerAt;
        for (std::size_t n = 0; n < board_.offers.size(); ++n)
            offerAt[board_.offers[n].device] = static_cast<int>(n);
        for (std::size_t n = 0; n < board_.takers.size(); ++n)
            takerAt[board_.takers[n].device] = static_cast<int>(n);
        std::map<std::string, std::pair<int, int>> rowAt;
        for (std::size_t n = 0; n < board_.offers.size(); ++n)
            for (std::size_t r = 0; r < board_.offers[n].rows.size(); ++r)
                rowAt[board_.offers[n].rows[r].key] = {static_cast<int>(n), static_cast<int>(r)};
        for (std::size_t n = 0; n < board_.takers.size(); ++n)
            thread(static_cast<int>(n), rowAt);
        return std::move(board_);
    }

  private:
    bool seen(Transport t) const { return !filter_.transport || t == *filter_.transport; }

    bool inRoom(const Device& d) const {
        if (filter_.rooms.empty() || filter_.rooms.count(d.room))
            return true;
        return std::any_of(d.owners.begin(), d.owners.end(),
                           [&](const auto& o) { return filter_.rooms.count(o.second) > 0; });
    }

    void add(int number) {
        const auto& d = p_.devices[static_cast<std::size_t>(number)];
        const auto* m = d.spec();
        if (!m)
            return;
        BoardDevice offers{number}, takes{number};
        const bool on = onRing_.empty() || onRing_.count(number);
        if (on) {
            for (const auto& s : d.streams) {
                const auto* o = patched_.offer(d.id + "/" + s.id);
                if (!o || !seen(o->transport))
                    continue;
                BoardRow row{o->key, s.name, o->transport, true, s.ports, static_cast<int>(o->heardBy.size())};
                offers.rows.push_back(std::move(row));
            }
            for (const auto& port : m->ports(false))
                if (const auto t = transportOf(port); leadOn(t) && seen(t))
                    if (const auto it = leads_.find(d.id + "/" + port); it != leads_.end() || filter_.transport)
                        offers.rows.push_back(
                            {d.id + "/" + port, port, t, false, {port}, it == leads_.end() ? 0 : it->second});
            for (const auto& port : m->ports(true))
                if (const auto t = transportOf(port); seen(t) && (specOf(t).streams || leadOn(t)))
                    takes.inputs.push_back({port, t});
        }
        const bool could = hasSound(*m);
        if (filter_.transport && could && offers.rows.empty() && takes.inputs.empty()) {
            BoardDevice faint{number};
            faint.why = on ? std::string("no ports on it") : "not joined to " + filter_.ring;
            if (!m->ports(false).empty() && !m->ports(true).empty())
                board_.takers.push_back(faint);
            return;
        }
        // Without a filter an input of a cable is shown where something comes.
        if (!filter_.transport)
            std::erase_if(takes.inputs,
                          [&](const BoardSlot& s) { return !specOf(s.transport).streams && !d.feeds.count(s.port); });
        if (!offers.rows.empty())
            board_.offers.push_back(std::move(offers));
        if (!takes.inputs.empty())
            board_.takers.push_back(std::move(takes));
    }
    // USB and telephone lead to what is no device of the project.
    static bool leadOn(Transport t) { return t == Transport::cable || t == Transport::pair; }
    static bool hasSound(const DeviceModel& m) { return !m.inputs.empty() || !m.outputs.empty(); }

    void thread(int taker, const std::map<std::string, std::pair<int, int>>& rowAt) {
        auto& t = board_.takers[static_cast<std::size_t>(taker)];
        if (!t.why.empty())
            return;
        const auto& d = p_.devices[static_cast<std::size_t>(t.device)];
        std::map<std::string, std::size_t> slotAt;
        for (std::size_t s = 0; s < t.inputs.size(); ++s)
            slotAt[t.inputs[s].port] = s;
        const auto fill = [&](const std::string& port, int thread, int channel) {
            const auto it = slotAt.find(port);
            if (it == slotAt.end())
                return false;
            auto& slot = t.inputs[it->second];
            slot.twice = slot.thread >= 0;
            t.used += slot.thread < 0;
            slot.thread = thread;
            slot.channel = channel;
            return true;
        };
        const auto from = [&](BoardThread& one, const std::string& key) {
            if (const auto it = rowAt.find(key); it != rowAt.end()) {
                one.from = it->second.first;
                one.row = it->second.second;
                if (!one.runs)
                    board_.offers[static_cast<std::size_t>(one.from)].rows[static_cast<std::size_t>(one.row)].waits =
                        true;
            }
        };
        for (const auto& r : d.receivers) {
            const auto* h = patched_.hearing(d.id + "/" + r.id);
            const int number = static_cast<int>(board_.threads.size());
            bool any = false;
            for (std::size_t c = 0; c < r.inputs.size(); ++c)
                any = (!r.inputs[c].empty() && fill(r.inputs[c], number, static_cast<int>(c))) || any;
            if (any)
                board_.threads.push_back(heard(*h, taker, from));
        }
        for (const auto& [input, source] : d.feeds)
            if (fill(input, static_cast<int>(board_.threads.size()), 0)) {
                BoardThread one;
                one.to = taker;
                one.lead = d.id + "/" + input;
                one.name = source;
                one.transport = transportOf(input);
                one.runs = p_.device(endOf(source).first) != nullptr;
                if (!one.runs)
                    one.why = "The device it comes from is not there.";
                from(one, source);
                board_.threads.push_back(std::move(one));
            }
    }

    template <class From> BoardThread heard(const Hearing& h, int taker, From from) {
        BoardThread one;
        one.to = taker;
        one.receiver = h.key;
        one.name = endOf(h.stream).second;
        for (const auto& input : h.receiver->inputs)
            if (!input.empty())
                one.transport = transportOf(input);
        if (h.offer < 0) {
            one.why = h.stream.empty() ? "It has no stream." : "Nobody offers it.";
        } else {
            const auto& o = patched_.offers[static_cast<std::size_t>(h.offer)];
            one.name = o.stream->name;
            if (const auto* way = wired_.delivery(static_cast<std::size_t>(&h - patched_.hearings.data()))) {
                one.runs = way->runs;
                one.why = way->why;
                if (way->runs) {
                    const auto late = delayOf(p_, patched_, wired_, *way);
                    one.delayMs = late.total();
                    one.late = late.late();
                }
            }
        }
        from(one, h.stream);
        return one;
    }

    const Project& p_;
    const Patched& patched_;
    const Wired& wired_;
    const BoardFilter& filter_;
    std::set<int> onRing_;
    std::map<std::string, int> leads_; // by where they come from
    Board board_;
};

} // namespace

Board boardOf(const Project& project, const Patched& patched, const Wired& wired, const BoardFilter& filter) {
    return BoardMaker(project, patched, wired, filter).run();
}

std::vector<TransportUse> transportUses(const Project& p, const Patched& patched, const Wired& wired) {
    std::map<Transport, TransportUse> all;
    for (const auto& d : p.devices) {
        if (const auto* m = d.spec())
            for (const auto& g : m->inputs)
                if (const auto t = transportOf(g.name + " "); t != Transport::usb && t != Transport::telephone)
                    all[t].most += g.count;
        const auto& u = patched.use(d.id);
        all[Transport::network].used += u.channelsIn;
        all[Transport::ring].used += u.ringIn;
        for (const auto& [input, _] : d.feeds)
            ++all[transportOf(input)].used;
    }
    std::vector<TransportUse> list;
    for (auto& [t, use] : all) {
        if (use.most == 0)
            continue;
        use.transport = t;
        use.name = specOf(t).name;
        if (t == Transport::ring && !wired.rings.empty()) {
            for (const auto& r : wired.rings)
                list.push_back({t, r.name, r.used, r.most});
            continue;
        }
        list.push_back(use);
    }
    return list;
}

NetworkState networkState(const Project& p, const Patched& patched, const Wired& wired) {
    NetworkState s;
    for (const auto& [id, _] : patched.uses) {
        const auto* d = p.device(id);
        if (!d)
            continue;
        for (const auto& l : limitsOf(patched, *d))
            if ((l.what == Limit::What::flowsIn || l.what == Limit::What::flowsOut) && l.used > s.flows) {
                s.flows = static_cast<int>(l.used);
                s.most = static_cast<int>(l.most);
            }
    }
    for (const auto& l : wired.wires)
        if (l.transport == Transport::network && l.megabits > 0 && (!s.busiest || l.busy() > s.busiest->busy()))
            s.busiest = &l;
    return s;
}

} // namespace loom::project
