#include "rules/control_drive.h"
#include "rules/rule_home.h"
#include "rules/search_words.h"

namespace loom::project {
namespace {

// Buttons are no states, and what runs by itself (power comes) nobody gives.
constexpr const char* shownPrefixes[]{outsidePrefix, wallPrefix,  mutePrefix,   relayPrefix, contactPrefix,
                                      knobPrefix,    hearsPrefix, devicePrefix, streamPrefix};

bool isShown(const std::string& path) {
    for (const char* prefix : shownPrefixes)
        if (path.rfind(prefix, 0) == 0)
            return true;
    return false;
}

Drive ofSignal(const Project& p, const Signal& s) {
    Drive d;
    d.path = d.param = s.path;
    d.label = s.label;
    d.spec = s.spec;
    d.device = tellerOf(p, s);
    d.settable = s.settable;
    d.kind = s.pulse                      ? Drive::Kind::cue
             : s.spec.choices.size() == 2 ? Drive::Kind::onOff
             : !s.spec.choices.empty()    ? Drive::Kind::choice
             : s.settable                 ? Drive::Kind::range
                                          : Drive::Kind::reading;
    return d;
}

} // namespace

std::optional<Drive> controlDrive(const Project& p, const std::string& path) {
    if (!isShown(path))
        return driveOf(p, path);
    const auto s = signalOf(p, path);
    return s ? std::optional(ofSignal(p, *s)) : std::nullopt;
}

bool isSignal(const Drive& d) {
    return isShown(d.path);
}

bool isToldToSurfaces(const Project& p, const Drive& d) {
    if (!isShown(d.path))
        return true;
    const auto* teller = p.device(d.device);
    return teller && teller->program;
}

std::vector<Drive> findControlDrives(const Project& p, const std::string& text, std::size_t most,
                                     const std::string& device) {
    std::vector<Drive> all;
    const auto words = searchWords(text);
    for (const auto& s : roomSignals(p))
        if (all.size() < most && isShown(s.path) && hasWords(s.group + " " + s.label + " " + s.path, words)) {
            auto one = ofSignal(p, s);
            if (isToldToSurfaces(p, one) && (device.empty() || one.device == device))
                all.push_back(std::move(one));
        }
    for (auto& one : findDrives(p, text, most - all.size(), device))
        all.push_back(std::move(one));
    return all;
}

std::optional<double> controlValue(const Project& p, const Drive& d) {
    if (!isShown(d.path))
        return designValue(p, d);
    const auto s = signalOf(p, d.path);
    return s && !s->pulse ? restingValue(p, *s) : std::nullopt;
}

} // namespace loom::project
