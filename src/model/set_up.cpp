#include "model/set_up.h"
#include "catalogue/transport.h"
#include "dsp/number.h"
#include "model/contact.h"
#include "model/describe.h"
#include <algorithm>
#include <mutex>

namespace loom::project {
namespace {

constexpr int mostControls = 16;
constexpr const char *streamId = "stream ", *receiverId = "receiver ", *muteId = "mute ", *contactId = "contact ",
                     *relayId = "relay ";
constexpr std::size_t longestSound = 8000; // bytes of one, as JSON

void addControls(std::vector<SetUpSpec>& all, int knobs, int buttons) {
    for (int i = 1; i <= knobs; ++i)
        all.push_back({"knob " + std::to_string(i), "Knob " + std::to_string(i), ""});
    for (int i = 1; i <= buttons; ++i)
        all.push_back({"button " + std::to_string(i), "Push-button " + std::to_string(i), ""});
}

std::vector<SetUpSpec> networkSpecs(const std::string& name, bool usb, bool tel) {
    std::vector<SetUpSpec> all{
        {"name", "Name", name, {}, {}, true},
        {"lampLive", "Lamp while live", "", {}, {}, true},
        {"lampMuted", "Lamp while muted", "", {}, {}, true},
        {"panel", "Front panel", "open", {"open", "locked"}, {"Open", "Locked"}},
        {"timeServer", "Time server", ""},
        {"addressBy", "Address", "fixed", {"fixed", "dhcp"}, {"Fixed", "From the network"}},
    };
    if (usb) {
        all.push_back({"usbName", "Name on USB", name});
        all.push_back({"usbAudio", "USB sound", "speakerphone", {"speakerphone", "line"}, {"Speakerphone", "Line"}});
    }
    if (tel) {
        all.push_back({"telAnswer",
                       "Telephone answers",
                       "hand",
                       {"hand", "2", "5"},
                       {"By hand", "After 2 rings", "After 5 rings"}});
        all.push_back({"telServer", "Telephone server", ""});
        all.push_back({"telName", "Name of the line's account", ""});
    }
    return all;
}

std::string after(const std::string& id, const char* prefix) {
    return id.substr(std::char_traits<char>::length(prefix));
}

template <class T> std::string soundText(const T& one) {
    return toJson(one).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

template <class T> Result<T> readSound(const std::string& text) {
    const auto j = parseJson(text, "");
    return j ? fromJson<T>(*j) : Result<T>(j.error());
}

bool carriesSound(const DeviceModel& m) {
    const auto streamed = [](const PortGroup& g) { return specOf(transportOf(g.name + " ")).streams; };
    return m.network && (std::any_of(m.inputs.begin(), m.inputs.end(), streamed) ||
                         std::any_of(m.outputs.begin(), m.outputs.end(), streamed));
}

// Error: it is none, has another id than it is filed under, or ports that the model does not have.
template <class T>
Result<Done> checkSound(const DeviceModel& model, const std::string& id, const std::string& value, const char* prefix,
                        std::vector<std::string> T::*ports, bool input) {
    if (value.empty())
        return Done{};
    const auto one = readSound<T>(value);
    if (!one)
        return Error{one.error().message, "setUp/" + id, one.error().remedy};
    if (one->id != after(id, prefix))
        return Error{"is filed under another id", "setUp/" + id, ""};
    const auto all = model.ports(input);
    for (const auto& port : (*one).*ports)
        if (!port.empty() && std::find(all.begin(), all.end(), port) == all.end())
            return Error{"a " + model.name + " has no port \"" + port.substr(0, 40) + "\"", "setUp/" + id, ""};
    return Done{};
}

// `D` is a Device, or a const one.
template <class D> auto& fieldOf(D& d, const std::string& id) {
    return id == "lampLive" ? d.lampLive : id == "lampMuted" ? d.lampMuted : d.name;
}

} // namespace

const std::vector<SetUpSpec>& setUpOf(const DeviceModel& model) {
    static std::mutex door; // devices of a rig ask from threads of their own
    static std::map<std::string, std::vector<SetUpSpec>> known;
    const std::lock_guard inside(door);
    const auto it = known.find(model.id);
    if (it != known.end())
        return it->second;
    const auto has = [&](const std::string& group) {
        const auto in = [&](const std::vector<PortGroup>& all) {
            return std::any_of(all.begin(), all.end(), [&](const PortGroup& g) { return g.name == group; });
        };
        return in(model.inputs) || in(model.outputs);
    };
    std::vector<SetUpSpec> all;
    if (model.network)
        all = networkSpecs(model.name, has("usb"), has("tel"));
    else if (model.usb)
        all = {{"name", "Name", model.name, {}, {}, true}};
    if (model.onSite())
        addControls(all, model.knobs, model.buttons);
    return known.emplace(model.id, std::move(all)).first->second;
}

std::string setUpLabel(const std::string& id) {
    if (id.rfind(streamId, 0) == 0)
        return "Offers " + after(id, streamId);
    if (id.rfind(receiverId, 0) == 0)
        return "Hears " + after(id, receiverId);
    if (id == "mute self")
        return "Mute";
    if (id.rfind(muteId, 0) == 0)
        return "Mute at " + after(id, muteId);
    if (id.rfind(contactId, 0) == 0 || id.rfind(relayId, 0) == 0)
        return std::string(1, static_cast<char>(std::toupper(static_cast<unsigned char>(id[0])))) + id.substr(1);
    auto all = networkSpecs("", true, true);
    addControls(all, mostControls, mostControls);
    for (const auto& s : all)
        if (s.id == id)
            return s.label;
    return id;
}

SetUp factorySetUp(const DeviceModel& model) {
    SetUp all;
    for (const auto& s : setUpOf(model))
        all[s.id] = s.def;
    return all;
}

SetUp setUpOf(const Device& device) {
    const auto* m = device.spec();
    if (!m)
        return {};
    SetUp all;
    for (const auto& s : setUpOf(*m)) {
        const auto it = device.setUp.find(s.id);
        all[s.id] = s.ofDevice ? fieldOf(device, s.id) : it != device.setUp.end() ? it->second : s.def;
    }
    if (carriesSound(*m)) {
        for (const auto& one : device.streams)
            all[streamId + one.id] = soundText(one);
        for (const auto& one : device.receivers)
            all[receiverId + one.id] = soundText(one);
    }
    if (!m->network)
        return all;
    for (const auto& [place, does] : device.mutes)
        if (const auto space = spaceOfMute(device, place); !space.empty() && (does == "sets" || does == "shows"))
            all[muteId + place] = space + " " + does;
    for (const auto& [id, use] : device.contacts)
        if (const auto read = readContact(id, use); read && read->kind != ContactUse::Kind::none)
            all[id] = use;
    return all;
}

std::string spaceOfMute(const Device& device, const std::string& place) {
    if (place != "self")
        if (const auto it = device.owners.find(place); it != device.owners.end())
            return it->second;
    return device.place.rack.empty() || place == "self" ? device.room : std::string();
}

namespace {

// The one of this id as the text says, at its place; a new one at the end.
template <class T> void adopt(std::vector<T>& all, const std::string& id, const std::string& text) {
    const auto at = std::find_if(all.begin(), all.end(), [&](const T& one) { return one.id == id; });
    if (text.empty()) {
        if (at != all.end())
            all.erase(at);
    } else if (const auto one = readSound<T>(text)) {
        at == all.end() ? void(all.push_back(*one)) : void(*at = *one);
    }
}

} // namespace

void adoptSetUp(Device& device, const SetUp& values) {
    const auto* m = device.spec();
    if (!m)
        return;
    for (const auto& s : setUpOf(*m))
        if (const auto it = values.find(s.id); it != values.end()) {
            if (s.ofDevice)
                fieldOf(device, s.id) = it->second;
            else if (it->second == s.def)
                device.setUp.erase(s.id);
            else
                device.setUp[s.id] = it->second;
        }
    for (const auto& [id, text] : values)
        if (id.rfind(streamId, 0) == 0)
            adopt(device.streams, after(id, streamId), text);
        else if (id.rfind(receiverId, 0) == 0)
            adopt(device.receivers, after(id, receiverId), text);
        else if (id.rfind(muteId, 0) == 0) {
            const auto use = readMuteUse(text);
            const auto place = after(id, muteId);
            if (use)
                device.mutes[place] = use->sets ? "sets" : "shows";
            else if (device.mutes.count(place))
                device.mutes[place] = "off";
        } else if (isLink(id))
            text.empty() ? void(device.contacts.erase(id)) : void(device.contacts[id] = text);
}

namespace {

// Error: no such place, contact or relay, or no use of it.
Result<Done> checkLink(const DeviceModel& model, const std::string& id, const std::string& value) {
    const auto at = "setUp/" + id;
    if (id.rfind(muteId, 0) == 0) {
        const auto place = after(id, muteId);
        const auto in = model.ports(true), out = model.ports(false);
        const auto by = transportOf(place);
        const bool far = (by == Transport::usb || by == Transport::telephone) &&
                         (std::find(in.begin(), in.end(), place) != in.end() ||
                          std::find(out.begin(), out.end(), place) != out.end());
        if (place == "self" ? model.mute.empty() : !far)
            return Error{"a " + model.name + " has no mute there", at, ""};
        if (value.empty())
            return Done{};
        const auto use = readMuteUse(value);
        if (!use)
            return Error{use.error().message, at, use.error().remedy};
        if (use->sets && place == "self" && model.mute == "shows")
            return Error{"a " + model.name + " shows a mute and cannot set one", at, "Let it show it."};
        return Done{};
    }
    const bool relay = id.rfind(relayId, 0) == 0;
    const auto number = wholeInteger(after(id, relay ? relayId : contactId), 1, relay ? model.relays : model.contacts);
    if (!number)
        return Error{"a " + model.name + " has no such " + (relay ? "relay" : "contact"), at, ""};
    if (const auto use = readContact(id, value); !use)
        return Error{use.error().message, at, use.error().remedy};
    return Done{};
}

} // namespace

Result<Done> checkSetUp(const DeviceModel& model, const SetUp& values) {
    const auto& specs = setUpOf(model);
    for (const auto& [id, value] : values) {
        if (isSound(id) && carriesSound(model)) {
            if (value.size() > longestSound)
                return Error{"is longer than 8,000 bytes", "setUp/" + id, ""};
            auto done = id.rfind(streamId, 0) == 0
                            ? checkSound<Stream>(model, id, value, streamId, &Stream::ports, false)
                            : checkSound<Receiver>(model, id, value, receiverId, &Receiver::inputs, true);
            if (!done)
                return done;
            continue;
        }
        if (isLink(id) && model.network) {
            if (auto done = checkLink(model, id, value); !done)
                return done;
            continue;
        }
        const auto s = std::find_if(specs.begin(), specs.end(), [&, key = id](const auto& x) { return x.id == key; });
        if (s == specs.end())
            return Error{"a " + model.name + " has no such set-up", "setUp/" + id, ""};
        if (value.size() > 200)
            return Error{"is longer than 200 bytes", "setUp/" + id, ""};
        if (!s->choices.empty() && std::find(s->choices.begin(), s->choices.end(), value) == s->choices.end())
            return Error{"\"" + value + "\" is not one of its choices", "setUp/" + id, ""};
        if (isControl(id))
            if (const auto use = readKnob(value); !use)
                return Error{use.error().message, "setUp/" + id, use.error().remedy};
    }
    return Done{};
}

bool isSound(const std::string& id) {
    return id.rfind(streamId, 0) == 0 || id.rfind(receiverId, 0) == 0;
}

bool isLink(const std::string& id) {
    return id.rfind(muteId, 0) == 0 || id.rfind(contactId, 0) == 0 || id.rfind(relayId, 0) == 0;
}

bool comesAndGoes(const std::string& id) {
    return isSound(id) || isLink(id);
}

DeviceSound soundOf(const SetUp& values) {
    DeviceSound all;
    for (const auto& [id, text] : values) {
        if (id.rfind(streamId, 0) == 0)
            adopt(all.streams, after(id, streamId), text);
        else if (id.rfind(receiverId, 0) == 0)
            adopt(all.receivers, after(id, receiverId), text);
    }
    return all;
}

void nameMissing(SetUp& values, const SetUp& other) {
    for (const auto& [id, _] : other)
        if (comesAndGoes(id))
            values.try_emplace(id, "");
}

std::string setUpText(const SetUp& values, const std::string& id) {
    const auto it = values.find(id);
    return it == values.end() ? std::string() : it->second;
}

std::string setUpWords(const std::string& id, const std::string& value) {
    if (!comesAndGoes(id))
        return value;
    if (value.empty())
        return "\u2014";
    if (isLink(id))
        return value;
    const auto list = [](const std::vector<std::string>& ports) {
        std::string all;
        for (const auto& p : ports)
            if (!p.empty())
                all += (all.empty() ? "" : ", ") + p;
        return all;
    };
    const auto rest = [](double levelDb, bool muted, bool inverted) {
        return (levelDb != 0 ? print(", %.1f dB", levelDb) : std::string()) + (muted ? ", muted" : "") +
               (inverted ? ", inverted" : "");
    };
    if (id.rfind(streamId, 0) == 0) {
        const auto s = readSound<Stream>(value);
        if (!s)
            return "cannot be read";
        return list(s->ports) + (s->samples == Stream::Samples::l16 ? ", L16" : ", L24") +
               print(", %g ms", s->packetMs) + (s->address.empty() ? "" : ", " + s->address) +
               rest(s->levelDb, s->muted, s->inverted);
    }
    const auto r = readSound<Receiver>(value);
    if (!r)
        return "cannot be read";
    const auto n = static_cast<std::size_t>(std::max(r->chosen, 0));
    return (n < r->streams.size() ? r->streams[n] : std::string("nothing")) + " on " + list(r->inputs) +
           (r->delayMs > 0 ? print(", %.3g ms", r->delayMs) : std::string()) + rest(r->levelDb, r->muted, r->inverted);
}

bool isControl(const std::string& id) {
    return id.rfind("knob ", 0) == 0 || id.rfind("button ", 0) == 0;
}

Result<Done> checkControls(const SetUp& values, const std::optional<engine::Program>& program) {
    for (const auto& [id, value] : values) {
        if (!isControl(id) || value.empty())
            continue;
        const auto use = readKnob(value);
        if (!use)
            return use.error();
        if (!program)
            return Error{"there is no program that it could act on", setUpLabel(id), "Give the board a program."};
        if (auto done = checkKnob(*use, *program); !done)
            return Error{setUpLabel(id) + ": " + done.error().message, done.error().place, done.error().remedy};
    }
    return Done{};
}

void unpair(Device& d) {
    d.serial.clear();
    d.known = {};
}

} // namespace loom::project
