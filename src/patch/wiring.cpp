#include "patch/wiring.h"
#include "dsp/number.h"
#include <algorithm>
#include <limits>
#include <queue>

namespace loom::project {

std::vector<Socket> socketsOf(const Device& d) {
    std::vector<Socket> all;
    const auto* m = d.spec();
    if (!m)
        return all;
    for (const auto& g : m->sockets)
        for (int n = 1; n <= g.count; ++n)
            all.push_back({g.name + " " + std::to_string(n), Transport::network, g.megabits, g.feeds});
    if (m->sockets.empty() && m->network)
        all.push_back({"lan 1", Transport::network, 1000, false});
    if (m->ring)
        for (const char* name : {"ring a", "ring b"})
            all.push_back({name, Transport::ring, 0, false});
    return all;
}

std::pair<std::string, std::string> endOf(const std::string& text) {
    const auto slash = text.find('/');
    return slash == std::string::npos ? std::pair<std::string, std::string>()
                                      : std::pair(text.substr(0, slash), text.substr(slash + 1));
}

namespace {

class Wirer {
  public:
    Wirer(const Project& p, const Patched& patched, const Cut& cut) : patched_(patched), cut_(cut) {
        const int n = static_cast<int>(p.devices.size());
        for (int i = 0; i < n; ++i) {
            const auto& d = p.devices[static_cast<std::size_t>(i)];
            devices_.push_back(&d);
            number_.emplace(d.id, i);
            const auto* m = d.spec();
            bridges_.push_back(m && m->bridges);
            dead_.push_back(cut.devices.count(d.id) > 0);
            outside_.push_back(isOutside(d));
        }
        sockets_.resize(static_cast<std::size_t>(n));
        known_.resize(static_cast<std::size_t>(n), false);
        for (const auto& w : p.wires)
            lay(w);
    }

    Wired run(Wired all, const std::vector<std::size_t>* only) {
        all.wires = std::move(wires_);
        all_ = &all;
        for (const auto& w : all.wires) {
            all.network = all.network || w.transport == Transport::network;
            all.ring = all.ring || w.transport == Transport::ring;
        }
        findRings();
        growTree();
        all.segments.assign(devices_.size(), 0);
        if (all.network)
            findSegments();
        const auto take = [&](std::size_t h) {
            if (patched_.hearings[h].offer >= 0)
                all.deliveries.push_back(deliver(h));
        };
        if (only) {
            for (const auto h : *only)
                take(h);
            return all;
        }
        for (std::size_t h = 0; h < patched_.hearings.size(); ++h)
            take(h);
        count();
        return all;
    }

  private:
    struct Step { // along a cable
        std::size_t wire;
        int to;
    };

    const std::vector<Socket>& sockets(int device) {
        const auto at = static_cast<std::size_t>(device);
        if (!known_[at]) {
            sockets_[at] = socketsOf(*devices_[at]);
            known_[at] = true;
        }
        return sockets_[at];
    }

    void lay(const Wire& w) {
        WireLoad l;
        l.wire = &w;
        const auto [from, out] = endOf(w.from);
        const auto [to, in] = endOf(w.to);
        const auto place = [&](const std::string& id) {
            const auto it = number_.find(id);
            return it == number_.end() ? -1 : it->second;
        };
        l.from = place(from);
        l.to = place(to);
        const auto socket = [&](int device, const std::string& name) -> const Socket* {
            if (device < 0)
                return nullptr;
            for (const auto& s : sockets(device))
                if (s.name == name)
                    return &s;
            return nullptr;
        };
        const Socket *a = socket(l.from, out), *b = socket(l.to, in);
        if (a && b && a->transport == b->transport) {
            l.transport = a->transport;
            l.megabits = std::min(a->megabits, b->megabits);
        } else if (a || b) { // half of it is a socket: it is no lead, and carries nothing
            l.transport = (a ? a : b)->transport;
            l.works = false;
        } else {
            l.transport = transportOf(out) == Transport::pair ? Transport::pair : Transport::cable;
        }
        if (l.from < 0 || l.to < 0 || l.from == l.to || cut_.wires.count(w.id) || dead(l.from) || dead(l.to))
            l.works = false;
        wires_.push_back(l);
    }
    bool dead(int device) const { return dead_[static_cast<std::size_t>(device)]; }

    // ---- the packet network ----

    // The tree of bridges, and each other device at the first of its sockets that works.
    void growTree() {
        const std::size_t n = devices_.size();
        std::vector<std::vector<Step>> between(n); // bridges
        for (std::size_t w = 0; w < all_->wires.size(); ++w) {
            const auto& l = all_->wires[w];
            if (l.works && l.transport == Transport::network && bridge(l.from) && bridge(l.to)) {
                between[static_cast<std::size_t>(l.from)].push_back({w, l.to});
                between[static_cast<std::size_t>(l.to)].push_back({w, l.from});
            }
        }
        tree_.assign(n, {});
        std::vector<bool> done(n, false);
        for (std::size_t root = 0; root < n; ++root)
            if (bridge(static_cast<int>(root)) && !done[root])
                spanFrom(static_cast<int>(root), between, done);
        attach();
        hang();
    }
    bool bridge(int device) const { return bridges_[static_cast<std::size_t>(device)]; }

    void spanFrom(int root, const std::vector<std::vector<Step>>& between, std::vector<bool>& done) {
        // By cost, then by who stands first in the project (its identity), then by the cable.
        using Open = std::tuple<double, int, std::size_t, int>; // cost, from, wire, to
        std::priority_queue<Open, std::vector<Open>, std::greater<>> open;
        open.emplace(0, -1, 0, root);
        while (!open.empty()) {
            const auto [cost, from, wire, at] = open.top();
            open.pop();
            if (done[static_cast<std::size_t>(at)])
                continue;
            done[static_cast<std::size_t>(at)] = true;
            if (from >= 0)
                join(wire, from, at);
            for (const auto& s : between[static_cast<std::size_t>(at)])
                if (!done[static_cast<std::size_t>(s.to)])
                    open.emplace(cost + 2e10 / (std::max(all_->wires[s.wire].megabits, 1.0) * 1000), at, s.wire, s.to);
        }
    }
    void join(std::size_t wire, int a, int b) {
        all_->wires[wire].used = true;
        tree_[static_cast<std::size_t>(a)].push_back({wire, b});
        tree_[static_cast<std::size_t>(b)].push_back({wire, a});
    }

    void attach() {
        std::map<std::pair<int, std::string>, std::size_t> at; // who is in which socket
        for (std::size_t w = 0; w < all_->wires.size(); ++w)
            if (const auto& l = all_->wires[w]; l.works && l.transport == Transport::network) {
                at.emplace(std::pair(l.from, endOf(l.wire->from).second), w);
                at.emplace(std::pair(l.to, endOf(l.wire->to).second), w);
            }
        std::vector<bool> attached(devices_.size(), false);
        for (std::size_t d = 0; d < devices_.size(); ++d) {
            const int here = static_cast<int>(d);
            if (bridge(here) || dead(here))
                continue;
            for (const auto& s : sockets(here)) {
                const auto it = at.find({here, s.name});
                if (it == at.end())
                    continue;
                const auto& l = all_->wires[it->second];
                const int other = l.from == here ? l.to : l.from;
                // From one device straight to another: both use it, unless one is attached elsewhere.
                if (attached[d] || (!bridge(other) && (attached[static_cast<std::size_t>(other)] || l.used)))
                    continue;
                join(it->second, here, other);
                attached[d] = true;
                if (!bridge(other))
                    attached[static_cast<std::size_t>(other)] = true;
            }
        }
    }

    void findSegments() {
        auto& segment = all_->segments;
        std::fill(segment.begin(), segment.end(), -1);
        int next = 0;
        for (std::size_t d = 0; d < devices_.size(); ++d) {
            if (segment[d] >= 0)
                continue;
            std::vector<int> todo{static_cast<int>(d)};
            segment[d] = next;
            while (!todo.empty()) {
                const auto here = static_cast<std::size_t>(todo.back());
                todo.pop_back();
                for (const auto& s : tree_[here])
                    if (std::exchange(segment[static_cast<std::size_t>(s.to)], next) < 0)
                        todo.push_back(s.to);
            }
            ++next;
        }
    }

    // Every part of the forest from one of its devices on: by which step each hangs on the one above it.
    void hang() {
        above_.assign(devices_.size(), {0, -1});
        depth_.assign(devices_.size(), -1);
        for (std::size_t top = 0; top < devices_.size(); ++top) {
            if (depth_[top] >= 0)
                continue;
            depth_[top] = 0;
            std::vector<int> todo{static_cast<int>(top)};
            while (!todo.empty()) {
                const auto here = static_cast<std::size_t>(todo.back());
                todo.pop_back();
                for (const auto& s : tree_[here])
                    if (auto& depth = depth_[static_cast<std::size_t>(s.to)]; depth < 0) {
                        depth = depth_[here] + 1;
                        above_[static_cast<std::size_t>(s.to)] = {s.wire, static_cast<int>(here)};
                        todo.push_back(s.to);
                    }
            }
        }
    }

    // Up from both until they meet.
    bool along(int from, int to, Delivery& d) const {
        const auto up = [&](int n) -> const Step& { return above_[static_cast<std::size_t>(n)]; };
        const auto deep = [&](int n) { return depth_[static_cast<std::size_t>(n)]; };
        std::vector<std::size_t> wires; // of the far side, from its end
        std::vector<int> devices;
        int a = from, b = to;
        d.devices.push_back(a);
        while (a != b) {
            const bool left = deep(a) >= deep(b);
            int& n = left ? a : b;
            if (up(n).to < 0) { // parts of their own
                d.wires.clear();
                d.devices.clear();
                return false;
            }
            (left ? d.wires : wires).push_back(up(n).wire);
            if (!left)
                devices.push_back(n);
            n = up(n).to;
            if (left)
                d.devices.push_back(n);
        }
        d.wires.insert(d.wires.end(), wires.rbegin(), wires.rend());
        d.devices.insert(d.devices.end(), devices.rbegin(), devices.rend());
        return true;
    }

    // ---- rings ----

    void findRings() {
        const std::size_t n = devices_.size();
        std::vector<std::vector<Step>> planned(n);
        around_.assign(n, {});
        for (std::size_t w = 0; w < all_->wires.size(); ++w) {
            const auto& l = all_->wires[w];
            if (l.transport != Transport::ring || l.from < 0 || l.to < 0 || l.from == l.to)
                continue;
            planned[static_cast<std::size_t>(l.from)].push_back({w, l.to});
            planned[static_cast<std::size_t>(l.to)].push_back({w, l.from});
            if (l.works) {
                around_[static_cast<std::size_t>(l.from)].push_back({w, l.to});
                around_[static_cast<std::size_t>(l.to)].push_back({w, l.from});
            }
        }
        ringOf_.assign(n, -1);
        for (std::size_t d = 0; d < n; ++d)
            if (!planned[d].empty() && ringOf_[d] < 0)
                all_->rings.push_back(ringFrom(static_cast<int>(d), planned));
        for (const auto& o : patched_.offers)
            if (o.transport == Transport::ring)
                if (const int r = ringOf_[static_cast<std::size_t>(number_.at(o.device->id))]; r >= 0)
                    all_->rings[static_cast<std::size_t>(r)].used += static_cast<int>(o.stream->ports.size());
    }

    // All that hang together with a device, in their order round the ring.
    Ring ringFrom(int first, const std::vector<std::vector<Step>>& planned) {
        Ring ring;
        const int number = static_cast<int>(all_->rings.size());
        ring.name =
            "Ring " + (number < 26 ? std::string(1, static_cast<char>('A' + number)) : std::to_string(number + 1));
        std::set<std::size_t> wires;
        std::vector<int> todo{first}, members;
        ringOf_[static_cast<std::size_t>(first)] = number;
        bool chain = true; // nobody has more than two
        while (!todo.empty()) {
            const int here = todo.back();
            todo.pop_back();
            members.push_back(here);
            chain = chain && planned[static_cast<std::size_t>(here)].size() <= 2;
            for (const auto& s : planned[static_cast<std::size_t>(here)]) {
                wires.insert(s.wire);
                if (std::exchange(ringOf_[static_cast<std::size_t>(s.to)], number) < 0)
                    todo.push_back(s.to);
            }
        }
        // From an end, if there is one, else from the first; by its socket b.
        int at = first;
        for (const int m : members)
            if (planned[static_cast<std::size_t>(m)].size() == 1 &&
                (planned[static_cast<std::size_t>(at)].size() != 1 || m < at))
                at = m;
        std::set<std::size_t> gone;
        ring.devices.push_back(at);
        for (bool more = true; more;) {
            more = false;
            const Step* next = nullptr;
            for (const auto& s : planned[static_cast<std::size_t>(at)])
                if (!gone.count(s.wire) && (!next || socketAt(s.wire, at) == "ring b"))
                    next = &s;
            if (next) {
                gone.insert(next->wire);
                at = next->to;
                more = std::find(ring.devices.begin(), ring.devices.end(), at) == ring.devices.end();
                if (more)
                    ring.devices.push_back(at);
            }
        }
        for (const int m : members) // what a branch leaves over
            if (std::find(ring.devices.begin(), ring.devices.end(), m) == ring.devices.end())
                ring.devices.push_back(m);
        ring.wires.assign(wires.begin(), wires.end());
        ring.closed = chain && wires.size() == members.size() && members.size() > 1;
        ring.most = std::numeric_limits<int>::max();
        for (const int m : members)
            if (const auto* spec = devices_[static_cast<std::size_t>(m)]->spec(); spec && spec->ring) {
                ring.most = std::min(ring.most, spec->ring->channels);
                ring.hopSamples += spec->ring->hopSamples;
            }
        for (const auto w : wires)
            ring.crossed =
                ring.crossed || endOf(all_->wires[w].wire->from).second == endOf(all_->wires[w].wire->to).second;
        return ring;
    }
    std::string socketAt(std::size_t wire, int device) const {
        const auto& l = all_->wires[wire];
        return endOf(l.from == device ? l.wire->from : l.wire->to).second;
    }

    // The shorter way round that is whole.
    bool round(int from, int to, Delivery& d) const {
        std::vector<Step> by(devices_.size(), {0, -1});
        std::queue<int> todo;
        todo.push(from);
        by[static_cast<std::size_t>(from)].to = from;
        while (!todo.empty() && by[static_cast<std::size_t>(to)].to < 0) {
            const int here = todo.front();
            todo.pop();
            for (const auto& s : around_[static_cast<std::size_t>(here)])
                if (by[static_cast<std::size_t>(s.to)].to < 0) {
                    by[static_cast<std::size_t>(s.to)] = {s.wire, here};
                    todo.push(s.to);
                }
        }
        return follow(by, from, to, d);
    }

    static bool follow(const std::vector<Step>& by, int from, int to, Delivery& d) {
        if (by[static_cast<std::size_t>(to)].to < 0)
            return false;
        for (int at = to; at != from; at = by[static_cast<std::size_t>(at)].to) {
            d.wires.push_back(by[static_cast<std::size_t>(at)].wire);
            d.devices.push_back(at);
        }
        d.devices.push_back(from);
        std::reverse(d.wires.begin(), d.wires.end());
        std::reverse(d.devices.begin(), d.devices.end());
        return true;
    }

    // ---- what comes where ----

    Delivery deliver(std::size_t hearing) {
        const auto& h = patched_.hearings[hearing];
        const auto& o = patched_.offers[static_cast<std::size_t>(h.offer)];
        Delivery d{static_cast<std::size_t>(h.offer), hearing};
        const int from = number_.at(o.device->id), to = number_.at(h.device->id);
        if (dead(from) || dead(to)) {
            d.why = devices_[static_cast<std::size_t>(dead(from) ? from : to)]->name + " is off.";
            return d;
        }
        const bool outside = outside_[static_cast<std::size_t>(from)];
        if (!outside && o.network() != h.device->soundNetwork) {
            const auto named = [](const std::string& n) {
                return n.empty() ? "the one without a name" : "\"" + n + "\"";
            };
            d.why = "They are on different sound networks: " + named(o.network()) + " and " +
                    named(h.device->soundNetwork) + ".";
            return d;
        }
        if (o.device->rate != h.device->rate) {
            d.why = print("They run at different rates: %g and %g kHz.", o.device->rate / 1000, h.device->rate / 1000);
            return d;
        }
        const bool ring = o.transport == Transport::ring;
        const bool planned =
            ring ? all_->ring : all_->network && !(outside && tree_[static_cast<std::size_t>(from)].empty());
        d.runs = !planned || (ring ? round(from, to, d) : along(from, to, d));
        if (!d.runs)
            d.why = ring ? "No way round the ring leads there." : "No cable of the network leads there.";
        return d;
    }

    void count() {
        std::map<std::size_t, std::set<std::pair<std::size_t, bool>>> once; // streams to many: cables and their way
        for (const auto& d : all_->deliveries) {
            const auto& o = patched_.offers[d.offer];
            if (!d.runs || o.transport != Transport::network)
                continue;
            const double megabits = o.load().megabits();
            for (std::size_t n = 0; n < d.wires.size(); ++n) {
                auto& l = all_->wires[d.wires[n]];
                const bool there = l.from == d.devices[n];
                if (!o.stream->unicast && !once[d.offer].emplace(d.wires[n], there).second)
                    continue;
                (there ? l.there : l.back) += megabits;
                ++(there ? l.flowsThere : l.flowsBack);
            }
        }
    }

    const Patched& patched_;
    const Cut& cut_;
    Wired* all_ = nullptr;
    std::vector<const Device*> devices_;
    std::map<std::string, int> number_;
    std::vector<bool> bridges_, dead_, outside_, known_;
    std::vector<std::vector<Socket>> sockets_;
    std::vector<WireLoad> wires_;
    std::vector<std::vector<Step>> tree_, around_; // by device
    std::vector<int> ringOf_;
    std::vector<Step> above_; // by device
    std::vector<int> depth_;
};

} // namespace

Wired wiredOf(const Project& project, const Patched& patched, const Cut& cut, const std::vector<std::size_t>* only) {
    Wired all = Wirer(project, patched, cut).run({}, only);
    for (std::size_t n = 0; n < all.deliveries.size(); ++n)
        all.of_[all.deliveries[n].hearing] = n;
    return all;
}

const Delivery* Wired::delivery(std::size_t hearing) const {
    const auto at = of_.find(hearing);
    return at == of_.end() ? nullptr : &deliveries[at->second];
}

std::vector<CutEffect> effectsOf(const Wired& whole, const Wired& cut) {
    std::vector<CutEffect> all;
    for (std::size_t n = 0; n < std::min(whole.deliveries.size(), cut.deliveries.size()); ++n) {
        const auto &before = whole.deliveries[n], &now = cut.deliveries[n];
        if (before.runs && (!now.runs || before.wires != now.wires))
            all.push_back({before.hearing, !now.runs});
    }
    return all;
}

} // namespace loom::project
