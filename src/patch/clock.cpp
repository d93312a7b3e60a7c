#include "patch/clock.h"
#include <algorithm>

namespace loom::project {
namespace {

constexpr int neverLeads = 255;

bool takesPart(const Device& d) {
    const auto* m = d.spec();
    if (!m || isOutside(d))
        return false;
    for (const auto* side : {&m->inputs, &m->outputs})
        for (const auto& g : *side)
            if (transportOf(g.name + " ") == Transport::network)
                return true;
    return false;
}

int classOf(const Device& d) {
    const auto* m = d.spec();
    return m && m->soundNetwork ? m->soundNetwork->clockClass : 248;
}

} // namespace

bool mayLead(const Device& d) {
    return clockPriority(d) < neverLeads && classOf(d) < neverLeads;
}

int clockPriority(const Device& d) {
    if (d.clockPriority > 0)
        return d.clockPriority;
    const auto* m = d.spec();
    return m && m->soundNetwork ? m->soundNetwork->clockPriority : 128;
}

std::vector<Clock> clocksOf(const Project& p, const Wired& wired) {
    std::map<std::pair<std::string, int>, Clock> all;
    for (std::size_t n = 0; n < p.devices.size(); ++n)
        if (const auto& d = p.devices[n]; takesPart(d)) {
            const int segment = n < wired.segments.size() ? wired.segments[n] : 0;
            auto& c = all[{d.soundNetwork, segment}];
            c.network = d.soundNetwork;
            c.segment = segment;
            c.order.push_back(static_cast<int>(n));
        }
    std::vector<Clock> list;
    for (auto& [_, c] : all) {
        const auto rank = [&](int n) {
            const auto& d = p.devices[static_cast<std::size_t>(n)];
            return std::tuple(!mayLead(d), clockPriority(d), classOf(d), d.serial.empty() ? d.id : d.serial);
        };
        std::sort(c.order.begin(), c.order.end(), [&](int a, int b) { return rank(a) < rank(b); });
        c.leads = mayLead(p.devices[static_cast<std::size_t>(c.order.front())]);
        list.push_back(std::move(c));
    }
    return list;
}

} // namespace loom::project
