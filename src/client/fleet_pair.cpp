// Which found device stands for which planned one.
#include "client/fleet.h"

namespace loom::client {

void Fleet::pair(const std::string& device, const std::string& serial) {
    const auto* d = design_.project().device(device);
    const auto it = discovery_.found().find(serial);
    if (!d || it == discovery_.found().end())
        return design_.say("That device is not on the network any more. Look again.");
    const auto& f = it->second;
    if (f.model != d->model)
        return design_.say("The planned " + d->name + " (" + d->model + ") cannot be paired with a " + f.modelName +
                           ".");
    for (const auto& other : design_.project().devices)
        if (other.serial == serial && other.id != device)
            return design_.say(serial + " stands for " + other.name + " already. Swap them, or unpair it first.");
    const bool replaces = !d->serial.empty();
    design_.edit(project::changeDevice(device, (replaces ? "Replace " : "Pair ") + d->name + " with " + serial,
                                       [serial, identity = f.identity](project::Device& one) {
                                           project::unpair(one); // what was last sent went to another device
                                           one.serial = serial;
                                           one.known.identity = identity;
                                       }));
    note(device, me(),
         (replaces ? "Replaced by " : "Paired with ") + serial + ", key " + site::printOf(f.identity) + ".");
}

int Fleet::pairAll(const std::vector<site::PairBy>& ways) {
    std::map<std::string, std::optional<project::Device>> paired;
    for (const auto& m : site::matches(design_.project(), found(), ways)) {
        auto one = *design_.project().device(m.device);
        project::unpair(one);
        one.serial = m.serial;
        one.known.identity = discovery_.found().at(m.serial).identity;
        paired[m.device] = std::move(one);
        note(m.device, me(), "Paired with " + m.serial + ": " + m.why + ".");
    }
    const int count = static_cast<int>(paired.size());
    if (count > 0)
        design_.edit(project::setDevices(std::move(paired), "Pair " + std::to_string(count) + " devices"));
    design_.say(count == 0   ? "No planned device matches a found one for certain. Draw a thread from one to the other."
                : count == 1 ? "1 device paired."
                             : std::to_string(count) + " devices paired.",
                count == 0);
    return count;
}

void Fleet::unpair(const std::string& device) {
    if (const auto* d = design_.project().device(device); d && !d->serial.empty())
        design_.edit(project::changeDevice(device, "Unpair " + d->name, project::unpair));
}

void Fleet::swapPairs(const std::string& a, const std::string& b) {
    const auto *da = design_.project().device(a), *db = design_.project().device(b);
    if (!da || !db || da->model != db->model || (da->serial.empty() && db->serial.empty()))
        return design_.say("Choose two paired devices of one model to swap.");
    const auto give = [](const project::Device& from) {
        return [serial = from.serial, known = from.known](project::Device& to) {
            to.serial = serial;
            to.known = known; // what was sent to it goes with it
        };
    };
    std::vector<project::Edit> edits;
    edits.push_back(project::changeDevice(a, "Swap", give(*db)));
    edits.push_back(project::changeDevice(b, "Swap", give(*da)));
    design_.edit(project::together(std::move(edits), "Swap " + da->name + " and " + db->name));
}

} // namespace loom::client
