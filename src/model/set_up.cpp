#include "model/set_up.h"
#include <algorithm>
#include <mutex>

namespace loom::project {
namespace {

constexpr int mostControls = 16;

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
    }
    return all;
}

// `D` is a Device, or a const one.
template <class D> auto* fieldOf(D& d, const std::string& id) {
    return id == "name" ? &d.name : id == "lampLive" ? &d.lampLive : id == "lampMuted" ? &d.lampMuted : nullptr;
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
        all[s.id] = s.ofDevice ? *fieldOf(device, s.id) : it != device.setUp.end() ? it->second : s.def;
    }
    return all;
}

void adoptSetUp(Device& device, const SetUp& values) {
    const auto* m = device.spec();
    if (!m)
        return;
    for (const auto& s : setUpOf(*m))
        if (const auto it = values.find(s.id); it != values.end()) {
            if (s.ofDevice)
                *fieldOf(device, s.id) = it->second;
            else if (it->second == s.def)
                device.setUp.erase(s.id);
            else
                device.setUp[s.id] = it->second;
        }
}

Result<Done> checkSetUp(const DeviceModel& model, const SetUp& values) {
    const auto& specs = setUpOf(model);
    for (const auto& [id, value] : values) {
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
