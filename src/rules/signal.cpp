#include "rules/signal.h"
#include "dsp/number.h"
#include "model/contact.h"
#include "model/set_up.h"
#include "rules/search_words.h"
#include <algorithm>
#include <functional>
#include <set>

namespace loom::project {
namespace {

using engine::ParamSpec;
using engine::Unit;

ParamSpec statesOf(std::vector<std::string> states) {
    ParamSpec s;
    s.id = "state", s.unit = Unit::choice;
    s.min = 0, s.max = static_cast<double>(states.size()) - 1;
    s.choices = std::move(states);
    return s;
}

Signal moment(std::string path, std::string label, std::string group, bool settable) {
    Signal s;
    s.path = std::move(path), s.label = std::move(label), s.group = std::move(group);
    s.pulse = true, s.settable = settable;
    s.spec.min = 0, s.spec.max = 1;
    return s;
}

std::string roomsText(const Project& p, const std::string& space) {
    std::string all;
    std::size_t at = 0;
    while (at <= space.size()) {
        const auto end = std::min(space.find('+', at), space.size());
        const auto* room = p.room(space.substr(at, end - at));
        all += (all.empty() ? "" : " and ") + (room ? room->name : space.substr(at, end - at));
        at = end + 1;
    }
    return all;
}

Signal wallSignal(const MovableWall& w) {
    Signal s;
    s.path = wallPrefix + w.id, s.group = "Walls";
    s.label = w.name.empty() ? w.id : w.name;
    if (lowered(s.label).find("wall") == std::string::npos)
        s.label += " wall";
    s.spec = statesOf({"closed", "open"});
    return s;
}

Signal contactSignal(const Device& d, const std::string& id, bool relay) {
    Signal s;
    s.path = (relay ? relayPrefix : contactPrefix) + d.id + "/" + id;
    s.label = d.name + " \u00b7 " + id, s.group = relay ? "Switched" : "Pressed and turned", s.device = d.id;
    s.spec = statesOf({"open", "closed"});
    s.settable = relay;
    return s;
}

Signal buttonSignal(const Device& d) {
    Signal s;
    s.path = buttonPrefix + d.id, s.label = d.name, s.group = "Pressed and turned", s.device = d.id;
    s.spec = statesOf({"released", "pressed"});
    return s;
}

Signal knobSignal(const Device& d, const std::string& id) {
    Signal s;
    s.path = knobPrefix + d.id + "/" + id, s.label = d.name + " \u00b7 " + id, s.group = "Pressed and turned";
    s.device = d.id;
    s.spec.id = "turn", s.spec.min = 0, s.spec.max = 1, s.spec.step = 0.01;
    return s;
}

Signal muteSignal(const Project& p, const std::string& space) {
    Signal s;
    s.path = mutePrefix + space, s.label = roomsText(p, space) + " mute", s.group = "Conversations";
    s.spec = statesOf({"off", "on"});
    s.settable = true;
    return s;
}

Signal deviceSignal(const Device& d) {
    Signal s;
    s.path = devicePrefix + d.id, s.label = "device " + d.name, s.group = "Devices", s.device = d.id;
    s.spec = statesOf({"lost", "there"});
    return s;
}

Signal streamSignal(const Device& d, const Receiver& r) {
    Signal s;
    s.path = streamPrefix + d.id + "/" + r.id, s.label = d.name + " hears " + r.id, s.group = "Devices";
    s.device = d.id;
    s.spec = statesOf({"lost", "there"});
    return s;
}

// Of a receiver that may hear several; they are called as its device knows them.
std::optional<Signal> hearsSignal(const Device& d, const Receiver& r) {
    if (r.streams.size() < 2)
        return {};
    Signal s;
    s.path = hearsPrefix + d.id + "/" + r.id, s.label = "what " + d.name + " hears at " + r.id, s.group = "Devices";
    s.device = d.id;
    s.spec = statesOf(r.streams);
    s.settable = true;
    return s;
}

Signal outsideSignal(const OutsideDevice& d, const OutsideState& state) {
    Signal s;
    s.path = outsidePrefix + d.id + "/" + state.id;
    s.label = d.name + " \u00b7 " + (state.name.empty() ? state.id : state.name);
    s.group = "Outside", s.settable = !state.set.empty();
    if (!state.choices.empty()) {
        s.spec = statesOf(state.choices);
    } else {
        s.spec.min = state.low, s.spec.max = state.high, s.spec.step = state.step;
        if (!state.unit.empty())
            s.label += " (" + state.unit + ")";
    }
    s.spec.id = state.id;
    return s;
}

std::vector<Signal> outsideSignals(const Project& p, const OutsideDevice& d) {
    std::vector<Signal> all;
    const auto* kind = p.outsideKind(d.kind);
    if (!kind)
        return all;
    for (const auto& state : kind->states)
        all.push_back(outsideSignal(d, state));
    for (const auto& c : kind->commands)
        all.push_back(moment(outsidePrefix + d.id + "/" + c.id, d.name + " \u00b7 " + (c.name.empty() ? c.id : c.name),
                             "Outside", true));
    Signal there;
    there.path = outsidePrefix + d.id + "/" + outsideThere;
    there.label = "device " + d.name, there.group = "Outside";
    there.spec = statesOf({"lost", "there"});
    all.push_back(there);
    return all;
}

// Spaces whose mute somebody sets or shows.
std::set<std::string> mutedSpaces(const Project& p) {
    std::set<std::string> all;
    for (const auto& d : p.devices) {
        for (const auto& [place, does] : d.mutes)
            if (does == "sets" || does == "shows")
                if (const auto space = spaceOfMute(d, place); !space.empty())
                    all.insert(space);
        for (const auto& [id, text] : d.contacts)
            if (const auto use = readContact(id, text); use && use->kind != ContactUse::Kind::none &&
                                                        !use->space.empty() && use->kind != ContactUse::Kind::wall)
                all.insert(use->space);
    }
    return all;
}

int countOf(const DeviceModel& m, bool relay) {
    return relay ? m.relays : m.contacts;
}

std::optional<Signal> ofDevice(const Project& p, const std::string& path, const char* prefix,
                               const std::function<std::optional<Signal>(const Device&, const std::string&)>& make) {
    const auto rest = behind(path, prefix);
    if (!rest)
        return {};
    const auto slash = rest->find('/');
    const auto* d = p.device(rest->substr(0, slash));
    return d ? make(*d, slash == std::string::npos ? "" : rest->substr(slash + 1)) : std::nullopt;
}

std::optional<Signal> contactOf(const Device& d, const std::string& id, bool relay) {
    const auto* m = d.spec();
    const std::string word = relay ? "relay " : "contact ";
    if (!m || id.rfind(word, 0) != 0 || !wholeInteger(id.substr(word.size()), 1, countOf(*m, relay)))
        return {};
    return contactSignal(d, id, relay);
}

bool hasButton(const Device& d) {
    return d.spec() && d.spec()->network && d.spec()->mute == "sets" && d.spec()->screenWidth == 0;
}
bool hasKnob(const Device& d) {
    return d.spec() && d.spec()->use == "dial";
}

// Words between prefixes and names are told apart once; parameters and readings are drives.
std::optional<Signal> ofDrive(const Drive& d) {
    if (d.kind == Drive::Kind::lanes || d.kind == Drive::Kind::response)
        return {};
    if (d.kind == Drive::Kind::scene)
        return moment(d.path, d.label, "Scenes", true);
    if (d.kind == Drive::Kind::cue)
        return moment(d.path, d.label, "Cues", true);
    Signal s;
    s.path = d.path, s.label = d.label, s.device = d.device;
    if (d.kind == Drive::Kind::line) {
        s.group = "Conversations";
        s.spec = statesOf(lineStates());
        return s;
    }
    s.spec = d.spec;
    s.fast = d.kind == Drive::Kind::reading;
    s.settable = !s.fast;
    s.group = s.fast ? "Heard" : "Parameters";
    return s;
}

} // namespace

// As farend/telephone.h names them.
const std::vector<std::string>& lineStates() {
    static const std::vector<std::string> all{"on hook",    "dialling",  "rings there",
                                              "rings here", "in a call", "on hold"};
    return all;
}

bool isLine(const Signal& s) {
    constexpr std::string_view end = "@line";
    return s.path.size() > end.size() && s.path.compare(s.path.size() - end.size(), end.size(), end) == 0;
}

bool canBeSet(const Signal& s) {
    return s.settable || s.pulse || isLine(s);
}

std::optional<Signal> signalOf(const Project& p, const std::string& path) {
    if (path == startPath)
        return moment(path, "Power comes", "Devices", false);
    if (const auto id = behind(path, wallPrefix)) {
        for (const auto& b : p.buildings)
            for (const auto& w : b.walls)
                if (w.id == *id)
                    return wallSignal(w);
        return {};
    }
    if (const auto space = behind(path, mutePrefix)) {
        std::size_t at = 0;
        while (at <= space->size()) { // of rooms that are there
            const auto end = std::min(space->find('+', at), space->size());
            if (!p.room(space->substr(at, end - at)))
                return {};
            at = end + 1;
        }
        return muteSignal(p, *space);
    }
    const auto none = std::optional<Signal>();
    for (const bool relay : {false, true})
        if (path.rfind(relay ? relayPrefix : contactPrefix, 0) == 0)
            return ofDevice(p, path, relay ? relayPrefix : contactPrefix,
                            [&](const Device& d, const std::string& id) { return contactOf(d, id, relay); });
    if (path.rfind(buttonPrefix, 0) == 0)
        return ofDevice(p, path, buttonPrefix, [&](const Device& d, const std::string& rest) {
            return hasButton(d) && rest.empty() ? std::optional(buttonSignal(d)) : none;
        });
    if (path.rfind(knobPrefix, 0) == 0)
        return ofDevice(p, path, knobPrefix, [&](const Device& d, const std::string& id) {
            return hasKnob(d) && id == "knob 1" ? std::optional(knobSignal(d, id)) : none;
        });
    if (path.rfind(devicePrefix, 0) == 0)
        return ofDevice(p, path, devicePrefix, [&](const Device& d, const std::string& rest) {
            return rest.empty() ? std::optional(deviceSignal(d)) : none;
        });
    if (path.rfind(streamPrefix, 0) == 0)
        return ofDevice(p, path, streamPrefix, [&](const Device& d, const std::string& id) {
            for (const auto& r : d.receivers)
                if (r.id == id)
                    return std::optional(streamSignal(d, r));
            return none;
        });
    if (path.rfind(hearsPrefix, 0) == 0)
        return ofDevice(p, path, hearsPrefix, [&](const Device& d, const std::string& id) {
            for (const auto& r : d.receivers)
                if (r.id == id)
                    return hearsSignal(d, r);
            return none;
        });
    if (const auto rest = behind(path, outsidePrefix)) {
        const auto* d = p.outsideDevice(rest->substr(0, rest->find('/')));
        if (d)
            for (auto& s : outsideSignals(p, *d))
                if (s.path == path)
                    return s;
        return {};
    }
    const auto drive = driveOf(p, path);
    return drive ? ofDrive(*drive) : std::nullopt;
}

std::vector<Signal> happenings(const Project& p) {
    std::vector<Signal> all;
    for (const auto& b : p.buildings)
        for (const auto& w : b.walls)
            all.push_back(wallSignal(w));
    for (const auto& d : p.devices) {
        const auto* m = d.spec();
        if (!m)
            continue;
        if (hasButton(d))
            all.push_back(buttonSignal(d));
        if (hasKnob(d))
            all.push_back(knobSignal(d, "knob 1"));
        for (int i = 1; i <= m->contacts; ++i) {
            const auto id = "contact " + std::to_string(i);
            // One that tells of a wall or a mute is listed as that.
            if (const auto it = d.contacts.find(id); it == d.contacts.end() || it->second.empty())
                all.push_back(contactSignal(d, id, false));
        }
    }
    for (const auto& d : p.devices)
        for (const auto& one : findDrives(p, "telephone line", 20, d.id))
            if (one.kind == Drive::Kind::line)
                all.push_back(*ofDrive(one));
    for (const auto& space : mutedSpaces(p))
        if (const auto s = signalOf(p, mutePrefix + space))
            all.push_back(*s);
    for (const auto& d : p.outside)
        for (auto& s : outsideSignals(p, d))
            all.push_back(std::move(s));
    for (const auto& s : p.scenes)
        all.push_back(moment(scenePrefix + s.id, s.name, "Scenes", true));
    for (const auto& cue : cuesOf(p))
        all.push_back(moment(cuePrefix + cue, cue, "Cues", true));
    for (const auto& d : p.devices) {
        if (d.spec() && d.spec()->network)
            all.push_back(deviceSignal(d));
        for (const auto& r : d.receivers) {
            all.push_back(streamSignal(d, r));
            if (auto s = hearsSignal(d, r))
                all.push_back(std::move(*s));
        }
    }
    all.push_back(moment(startPath, "Power comes", "Devices", false));
    return all;
}

std::vector<Signal> roomSignals(const Project& p) {
    auto all = happenings(p);
    for (const auto& d : p.devices)
        if (const auto* m = d.spec())
            for (int i = 1; i <= m->relays; ++i)
                all.push_back(contactSignal(d, "relay " + std::to_string(i), true));
    return all;
}

Result<std::string> signalSaid(const Project& p, const std::string& said,
                               const std::function<bool(const Signal&)>& fits) {
    constexpr std::size_t looked = 400;
    if (const auto s = signalOf(p, said); s && (!fits || fits(*s)))
        return s->path;
    std::vector<Signal> exact, named, having;
    for (auto& s : findSignals(p, said, looked)) {
        if (fits && !fits(s))
            continue;
        if (s.label == said)
            exact.push_back(s);
        if (lowered(s.label) == lowered(said))
            named.push_back(s);
        having.push_back(std::move(s));
    }
    const auto& found = !exact.empty() ? exact : !named.empty() ? named : having;
    if (found.size() == 1)
        return found[0].path;
    if (found.empty())
        return Error{"there is no \"" + said.substr(0, 60) + "\" here", "",
                     "Write its name, or its path as in wall:fold."};
    return Error{"\"" + said.substr(0, 60) + "\" could be " + found[0].path + " or " + found[1].path, "", "Say which."};
}

std::vector<Signal> findSignals(const Project& p, const std::string& typed, std::size_t most) {
    const auto words = searchWords(typed);
    std::vector<Signal> all;
    const auto take = [&](const Signal& s) {
        if (all.size() < most && (hasWords(s.group + " " + s.label + " " + s.path, words)))
            all.push_back(s);
    };
    for (const auto& s : roomSignals(p))
        take(s);
    for (const auto& d : findDrives(p, typed, most))
        if (d.kind != Drive::Kind::scene && d.kind != Drive::Kind::cue && d.kind != Drive::Kind::line)
            if (const auto s = ofDrive(d); s && all.size() < most)
                all.push_back(*s);
    return all;
}

std::optional<double> restingValue(const Project& p, const Signal& s) {
    if (s.pulse || s.fast || s.path.rfind(knobPrefix, 0) == 0)
        return {};
    if (s.path.rfind(devicePrefix, 0) == 0 || s.path.rfind(streamPrefix, 0) == 0)
        return 1;
    if (s.path.rfind(outsidePrefix, 0) == 0) {
        const std::string there = std::string("/") + outsideThere;
        const bool isThere =
            s.path.size() > there.size() && s.path.compare(s.path.size() - there.size(), there.size(), there) == 0;
        return isThere ? 1 : s.spec.min;
    }
    if (const auto rest = behind(s.path, hearsPrefix)) {
        const auto* d = p.device(rest->substr(0, rest->find('/')));
        for (const auto& r : d ? d->receivers : std::vector<Receiver>{})
            if (d->id + "/" + r.id == *rest)
                return r.chosen;
        return {};
    }
    const auto drive = driveOf(p, s.path);
    return drive && isValue(*drive) ? designValue(p, *drive) : std::optional(0.0);
}

std::string valueText(const Signal& s, double v) {
    if (s.pulse)
        return "now";
    if (s.spec.unit == Unit::choice) {
        const auto i = static_cast<std::size_t>(std::max(0.0, v + 0.5));
        return i < s.spec.choices.size() ? s.spec.choices[i] : plainText(v);
    }
    return engine::formatValue(s.spec, v);
}

Result<double> readSignalValue(const Signal& s, const std::string& text) {
    if (s.pulse)
        return Error{s.label + " is a moment and has no value", text.substr(0, 40), ""};
    const auto v = engine::parseValue(s.spec, text);
    if (!v)
        return v;
    if (!(*v >= s.spec.min && *v <= s.spec.max))
        return Error{"the value is outside the range", text.substr(0, 40),
                     "Use " + valueText(s, s.spec.min) + " to " + valueText(s, s.spec.max) + "."};
    return v;
}

std::string plainValue(const Signal& s, double v) {
    if (s.spec.unit == Unit::choice || s.spec.unit == Unit::onOff || (s.spec.minIsOff && v <= s.spec.min))
        return valueText(s, v);
    return plainText(v);
}

} // namespace loom::project
