#include "patch/figures.h"
#include "dsp/number.h"
#include "patch/limits.h"
#include <algorithm>

namespace loom::project {
namespace {

// How many of the receivers of a stream are silent after a cut.
int silentOf(const Project& p, const Patched& patched, const Offer& o, const Cut& cut) {
    const auto after = wiredOf(p, patched, cut, &o.heardBy);
    return static_cast<int>(
        std::count_if(after.deliveries.begin(), after.deliveries.end(), [](const auto& d) { return !d.runs; }));
}

std::string stops(int silent, int all) {
    if (silent == 0)
        return "nothing stops";
    return silent == all ? print(all == 1 ? "its receiver stops" : "all %d stop", all)
                         : print("%d of %d stop", silent, all);
}

} // namespace

std::vector<PatchFigure> figuresOf(const Project& p, const Patched& patched, const Wired& wired, const Offer& o) {
    std::vector<PatchFigure> all;
    const int heard = static_cast<int>(o.heardBy.size());
    if (o.transport == Transport::network) {
        const auto load = o.load();
        all.push_back({"this stream", print("%.2f Mbit/s \u00d7 %d", load.megabits(), o.stream->unicast ? heard : 1)});
        all.push_back({"packets a second", print("%.0f", load.packets)});
    } else {
        all.push_back({"this stream", print("%d slots of the ring", static_cast<int>(o.stream->ports.size()))});
    }
    std::set<const Device*> hearers;
    const auto limits = [&](const Device& d, std::initializer_list<Limit::What> which, const char* does) {
        for (const auto& l : limitsOf(patched, d))
            if (std::find(which.begin(), which.end(), l.what) != which.end())
                all.push_back(
                    {d.name.substr(0, d.name.find(" \u00b7 ")) + " " + does,
                     print("%.0f of %.0f ", l.used, l.most) + (l.words.find("streams") == 0 ? "flows" : "inputs"),
                     l.over()});
    };
    using What = Limit::What;
    limits(*o.device, {What::flowsOut}, "sends");
    for (const auto h : o.heardBy)
        if (const auto& d = *patched.hearings[h].device; hearers.insert(&d).second && hearers.size() <= 3)
            limits(d, {o.transport == Transport::ring ? What::ringIn : What::channelsIn}, "hears");
    const WireLoad* busiest = nullptr;
    std::set<int> passed;
    std::set<std::size_t> wires;
    for (const auto h : o.heardBy)
        if (const auto* d = wired.delivery(h); d && d->runs) {
            for (const auto w : d->wires)
                if (const auto& l = wired.wires[w]; wires.insert(w).second && (!busiest || l.busy() > busiest->busy()))
                    busiest = &l;
            for (std::size_t n = 1; n + 1 < d->devices.size(); ++n)
                passed.insert(d->devices[n]);
        }
    if (busiest && busiest->megabits > 0)
        all.push_back({"busiest cable",
                       print("%.1f of %.0f Mbit/s", std::max(busiest->there, busiest->back), busiest->megabits),
                       busiest->busy() > 0.8});
    if (o.transport == Transport::network) {
        for (const int n : passed) {
            const auto& d = p.devices[static_cast<std::size_t>(n)];
            const int silent = silentOf(p, patched, o, {{}, {d.id}});
            all.push_back(
                {"if " + d.name.substr(0, d.name.find(" \u00b7 ")) + " fails", stops(silent, heard), silent > 0});
        }
    } else {
        int worst = 0;
        for (const auto w : wires)
            worst = std::max(worst, silentOf(p, patched, o, {{wired.wires[w].wire->id}, {}}));
        if (heard > 0)
            all.push_back({"if the ring is cut", stops(worst, heard), worst > 0});
    }
    return all;
}

std::vector<WireLine> linesOver(const Project& p, const Patched& patched, const Wired& wired, const Cut& cut,
                                const std::string& wire) {
    std::vector<WireLine> all;
    Cut then = cut;
    then.wires.insert(wire);
    const auto after = wiredOf(p, patched, then);
    for (const auto& d : wired.deliveries)
        for (std::size_t n = 0; n < d.wires.size(); ++n)
            if (const auto& l = wired.wires[d.wires[n]]; l.wire->id == wire) {
                WireLine line{d.hearing, l.from == d.devices[n]};
                const auto* now = after.delivery(d.hearing);
                line.cut = now && now->runs ? WireLine::moved : WireLine::silent;
                all.push_back(line);
            }
    return all;
}

} // namespace loom::project
