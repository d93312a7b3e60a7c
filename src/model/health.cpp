#include "model/health.h"

namespace loom::project {

HealthWord wordOf(const DeviceReport& r) {
    if (!r.paired)
        return {Health::attention, "not paired", "It is planned, and no device on site stands for it yet."};
    if (!r.reachable)
        return {Health::bad, "lost", "It does not answer: power, cable or address."};
    if (r.locked)
        return {Health::attention, "sealed", "It is sealed: give the room's password to see and change it."};
    for (const auto& [port, how] : r.vitals.outputs)
        if (how != "good")
            return {Health::bad, "output " + how,
                    how == "open" ? port + " feeds nothing: a loudspeaker or its cable is broken."
                                  : port + " is short-circuited: look at the cable."};
    if (r.vitals.celsius >= hotCelsius)
        return {Health::bad, "hot",
                "It is " + std::to_string(static_cast<int>(r.vitals.celsius)) + " \u00b0C warm: give it air."};
    if (r.vitals.clockLost)
        return {Health::bad, "no clock", "It lost the clock of the audio network: its sound may click or stop."};
    if (r.vitals.clip)
        return {Health::attention, "clips", "It is driven past full scale: take gain out before it."};
    if (!r.hasProgram)
        return {Health::attention, "empty", "It runs no program yet."};
    if (r.differing > 0)
        return {Health::attention, "differs",
                std::to_string(r.differing) + (r.differing == 1 ? " value differs" : " values differ") +
                    " from the design."};
    if (!r.kept)
        return {Health::attention, "not kept", "It runs the design, and would lose it at power-off."};
    return {Health::good, "well", "It runs the design, and keeps it through power-off."};
}

HealthWord roomHealth(const Project& p, const std::string& room, const SiteHealth& devices) {
    HealthWord worst;
    int known = 0, unwell = 0, bad = 0;
    for (const auto& d : p.devices) {
        const auto it = d.room == room && d.place.rack.empty() ? devices.find(d.id) : devices.end();
        if (it == devices.end() || it->second.health == Health::unknown)
            continue;
        ++known;
        unwell += it->second.health != Health::good;
        bad += it->second.health == Health::bad;
        if (it->second.health > worst.health)
            worst = it->second;
    }
    if (known == 0)
        return {};
    if (unwell == 0)
        return {Health::good, "all well",
                std::to_string(known) + " of " + std::to_string(known) + " devices are well."};
    worst.word = std::to_string(unwell) + " of " + std::to_string(known) + " " + worst.word;
    const int counted = bad > 0 ? bad : unwell;
    worst.reason = std::to_string(counted) + " of " + std::to_string(known) + " devices " +
                   (bad > 0 ? (counted == 1 ? "is faulty." : "are faulty.")
                            : (counted == 1 ? "needs attention." : "need attention."));
    return worst;
}

} // namespace loom::project
