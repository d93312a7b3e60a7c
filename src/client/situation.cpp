#include "client/situation.h"
#include "dsp/number.h"

namespace loom::client {
Situation::Step Situation::next() const {
    if (!looked)
        return Step::look;
    if (certain)
        return Step::pair;
    if (canTry() && open == 0)
        return Step::tryIt;
    if (canKeep())
        return Step::keep;
    return byPosition ? Step::pairRest : Step::none;
}

std::string Situation::sentence() const {
    if (!looked)
        return "Look for devices: nothing on them is changed by looking.";
    if (devices == 0)
        return "Pair the planned devices with those found.";
    if (locked > 0)
        return print("%d sealed: give the password under Seal.", locked);
    if (up == 0)
        return "No line. It comes back by itself; nothing of the design is lost" +
               (differ > 0 ? print(", %d edits wait.", differ) : std::string("."));
    if (open > 0)
        return print(open == 1 ? "%d value waits for a side: choose before going on."
                               : "%d values wait for a side: choose before going on.",
                     open);
    if (differ > 0)
        return print(differ == 1 ? "%d value differs from the design." : "%d values differ from the design.", differ);
    if (empty > 0)
        return print("Nothing was tried on %d yet.", empty);
    if (loose > 0)
        return print("They run the design; %d not kept: lost at power-off.", loose);
    return "What runs is the design, and is kept.";
}

Situation situationOf(Fleet& fleet, const std::vector<std::string>& devices) {
    Situation s;
    s.looked = fleet.looked();
    s.busy = fleet.work().running();
    s.found = static_cast<int>(fleet.discovery().found().size());
    s.planned = fleet.planned();
    s.paired = static_cast<int>(fleet.members().size());
    for (const auto& m : site::matches(fleet.design().project(), fleet.found(),
                                       {site::PairBy::serial, site::PairBy::name, site::PairBy::address,
                                        site::PairBy::model, site::PairBy::position}))
        (m.by == site::PairBy::position ? s.byPosition : s.certain) = true;
    s.devices = static_cast<int>(devices.size());
    for (const auto& id : devices)
        if (const auto* m = fleet.member(id)) {
            s.up += m->link.up() && !m->locked;
            s.locked += m->locked;
            s.differ += static_cast<int>(m->rows.size());
            s.open += m->open();
            s.empty += m->link.up() && m->runningRevision() < 0;
            s.loose += m->link.up() && m->runningRevision() >= 0 && !m->kept();
            s.back = std::max(s.back, m->revisionBefore());
        }
    return s;
}

} // namespace loom::client
