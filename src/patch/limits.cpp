#include "patch/limits.h"
#include <algorithm>

namespace loom::project {
namespace {

int portsOf(const DeviceModel& m, bool input, Transport transport) {
    int all = 0;
    for (const auto& g : input ? m.inputs : m.outputs)
        if (transportOf(g.name + " ") == transport)
            all += g.count;
    return all;
}

double widestSocket(const Device& d) {
    double most = 0;
    for (const auto& s : socketsOf(d))
        most = std::max(most, s.megabits);
    return most;
}

bool feedsAt(const Device& d, const std::string& socket) {
    const auto all = socketsOf(d);
    return std::any_of(all.begin(), all.end(), [&](const Socket& s) { return s.name == socket && s.feeds; });
}

// Who feeds whom over this cable; -1, -1: nobody.
std::pair<int, int> feedsOver(const Project& p, const WireLoad& l) {
    if (l.transport != Transport::network || !l.works)
        return {-1, -1};
    const auto& a = p.devices[static_cast<std::size_t>(l.from)];
    const auto& b = p.devices[static_cast<std::size_t>(l.to)];
    if (feedsAt(a, endOf(l.wire->from).second) && !feedsAt(b, endOf(l.wire->to).second))
        return {l.from, l.to};
    if (feedsAt(b, endOf(l.wire->to).second) && !feedsAt(a, endOf(l.wire->from).second))
        return {l.to, l.from};
    return {-1, -1};
}

double takes(const Project& p, int device) {
    const auto* m = p.devices[static_cast<std::size_t>(device)].spec();
    return m ? m->poeWatts : 0;
}

} // namespace

std::vector<Limit> limitsOf(const Patched& patched, const Device& d) {
    std::vector<Limit> all;
    const auto* m = d.spec();
    if (!m)
        return all;
    const auto& u = patched.use(d.id);
    const auto add = [&](Limit::What what, const char* words, double used, double most) {
        if (most > 0)
            all.push_back({what, words, used, most});
    };
    using What = Limit::What;
    if (const auto& s = m->soundNetwork) {
        add(What::flowsOut, "streams it sends", u.flowsOut, s->flowsOut);
        add(What::flowsIn, "streams it hears", u.flowsIn, s->flowsIn);
    }
    add(What::channelsOut, "network outputs", u.channelsOut, portsOf(*m, false, Transport::network));
    add(What::channelsIn, "network inputs", u.channelsIn, portsOf(*m, true, Transport::network));
    add(What::ringOut, "ring outputs", u.ringOut, portsOf(*m, false, Transport::ring));
    add(What::ringIn, "ring inputs", u.ringIn, portsOf(*m, true, Transport::ring));
    const double socket = widestSocket(d);
    add(What::megabitsOut, "Mbit/s it sends", u.megabitsOut, socket);
    add(What::megabitsIn, "Mbit/s it hears", u.megabitsIn, socket);
    if (m->soundNetwork)
        for (const auto& peer : m->soundNetwork->peers) {
            std::set<std::string> heard;
            for (const auto& h : patched.hearings)
                if (h.device == &d && h.offer >= 0) {
                    const auto* from = patched.offers[static_cast<std::size_t>(h.offer)].device;
                    if (const auto* model = from->spec(); model && model->use == peer.use)
                        heard.insert(from->id);
                }
            all.push_back({What::peers, "devices of the use \"" + peer.use + "\" it hears",
                           static_cast<double>(heard.size()), static_cast<double>(peer.devices)});
        }
    return all;
}

std::vector<PowerUse> powerUse(const Project& p, const Wired& wired) {
    std::map<int, PowerUse> all;
    for (const auto& l : wired.wires)
        if (const auto [from, to] = feedsOver(p, l); from >= 0) {
            auto& u = all[from];
            u.device = from;
            u.most = p.devices[static_cast<std::size_t>(from)].spec()->poeBudget;
            u.taken += takes(p, to);
        }
    std::vector<PowerUse> list;
    for (const auto& [_, u] : all)
        list.push_back(u);
    return list;
}

std::vector<int> unpowered(const Project& p, const Wired& wired) {
    std::set<int> wiredUp, fed;
    for (const auto& l : wired.wires)
        if (l.works && l.transport == Transport::network) {
            wiredUp.insert({l.from, l.to});
            fed.insert(feedsOver(p, l).second);
        }
    std::vector<int> all;
    for (const int d : wiredUp)
        if (takes(p, d) > 0 && !fed.count(d))
            all.push_back(d);
    return all;
}

} // namespace loom::project
