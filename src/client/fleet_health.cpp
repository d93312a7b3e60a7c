// How devices are, in a word each.
#include "client/fleet.h"

namespace loom::client {

namespace {
constexpr int afterMs = 3000; // a power-cycle is no illness
}

// Devices that have an address can be looked for; what is not on a network has no state to tell.
void Fleet::tellHealth() {
    project::SiteHealth health;
    for (const auto& d : design_.project().devices) {
        if (!site::onSite(d) || !(looked_ || !members_.empty()))
            continue;
        project::DeviceReport r;
        r.paired = !d.serial.empty();
        if (const auto* m = member(d.id)) {
            if (m->link.up())
                seen_.insert(d.id);
            r.reachable = m->link.up();
            r.locked = m->locked;
            r.vitals = m->vitals;
            r.hasProgram = !d.program || (m->config && m->config->program);
            r.differing = static_cast<int>(m->rows.size());
            r.kept = m->kept();
        }
        health[d.id] = project::wordOf(r);
    }
    const auto& before = design_.health();
    for (const auto& [id, word] : health) {
        const auto was = before.find(id);
        if (word.health == project::Health::bad && seen_.count(id) && was != before.end() &&
            was->second.health != project::Health::bad)
            ill_.insert(id);
    }
    if (!ill_.empty() && !illness_.active())
        illness_.start(afterMs);
    design_.setHealth(std::move(health));
}

void Fleet::tellIll() {
    std::vector<std::string> worse;
    for (const auto& id : std::exchange(ill_, {}))
        if (const auto it = design_.health().find(id);
            it != design_.health().end() && it->second.health == project::Health::bad)
            worse.push_back(nameOf(id) + ": " + it->second.reason);
    if (worse.empty())
        return;
    const std::string text =
        worse.size() == 1 ? worse.front() : std::to_string(worse.size()) + " devices are faulty. " + worse.front();
    design_.say(text);
    emit alarm(text);
}

} // namespace loom::client
