#include "rig/net_clocks.h"
#include "stream/sap.h"

namespace loom::rig {
namespace {

constexpr double crystal = 30; // ppm to either side: what a plain quartz oscillator keeps

} // namespace

void NetClocks::set(const project::Project& project, const project::Wired& wired, const Sides& sides) {
    groups_.clear();
    for (const auto& c : project::clocksOf(project, wired)) {
        auto& group = groups_.emplace_back();
        for (const int n : c.order) {
            const auto& d = project.devices[static_cast<std::size_t>(n)];
            const auto side = sides.find(d.id);
            if (side == sides.end())
                continue;
            group.push_back(d.id);
            auto& clock = clocks_[d.id];
            clock.name = d.name;
            clock.side = side->second;
            clock.rate = d.rate;
            clock.mayLead = project::mayLead(d);
            clock.crystalPpm = (stream::numberOf(d.id) % 2001 / 1000.0 - 1) * crystal;
        }
    }
}

void NetClocks::step(int samples) {
    for (const auto& group : groups_) {
        const Clock* leader = nullptr;
        const auto rateOf = [](const Clock& c) { return c.side->faults().driftPpm.value_or(c.crystalPpm); };
        for (const auto& id : group)
            if (const auto& c = clocks_.at(id); !leader && c.mayLead && c.side->plugged && !c.side->faults().free)
                leader = &c;
        for (const auto& id : group) {
            auto& c = clocks_.at(id);
            const auto faults = c.side->faults();
            c.ahead += (faults.aheadMs - std::exchange(c.setAheadMs, faults.aheadMs)) * c.rate / 1000;
            ClockState state;
            if (!c.side->plugged) {
                c.side->setClock(state);
                continue;
            }
            if (&c == leader) {
                state.how = ClockState::How::leads;
            } else if (faults.free || !leader) {
                state.how = ClockState::How::free;
                c.ahead += (rateOf(c) - (leader ? rateOf(*leader) : 0)) * 1e-6 * samples;
            } else {
                state.how = ClockState::How::follows;
                c.ahead += (leader->ahead - c.ahead) * (1 - std::exp(-samples / c.rate / settles));
            }
            state.leader = leader ? leader->name : "";
            state.aheadSamples = leader ? c.ahead - leader->ahead : 0;
            c.side->setClock(std::move(state));
        }
    }
}

int NetClocks::ahead(const std::string& device) const {
    const auto at = clocks_.find(device);
    return at == clocks_.end() ? 0 : static_cast<int>(std::lround(at->second.ahead));
}

} // namespace loom::rig
