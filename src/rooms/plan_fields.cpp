// The fields of things on a plan, each declared once: how it reads, its range, how it is set.
#include "catalogue/device_model.h"
#include "catalogue/materials.h"
#include "dsp/number.h"
#include "engine/parameter.h"
#include "model/describe.h"
#include "model/set_up.h"
#include "patch/patch_edit.h"
#include "rooms/owned_ports.h"
#include "rooms/plan_items.h"
#include <algorithm>
#include <cmath>
#include <functional>

namespace loom::project {
namespace {

using RoomNames = std::vector<std::pair<std::string, std::string>>; // id and name

template <class T> std::vector<FieldOf<T>> fieldsFor(const T& thing, const RoomNames&) {
    return schema::formOf(thing);
}

// Which room each port of a shared device belongs to.
void addOwners(std::vector<FieldOf<Device>>& all, const DeviceModel& m, const RoomNames& rooms) {
    for (const bool input : {true, false})
        for (const auto& port : m.ports(input)) {
            const std::string key = port + (input ? "" : " out"); // a name may stand on both sides
            FieldOf<Device> f{{"owner " + key, (input ? "Input " : "Output ") + port + " of"}};
            f.look.choices.push_back("");
            f.look.choiceNames.push_back("as the device");
            for (const auto& [id, name] : rooms) {
                f.look.choices.push_back(id);
                f.look.choiceNames.push_back(name);
            }
            f.text = [key](const Device& d) {
                const auto it = d.owners.find(key);
                return it == d.owners.end() ? std::string() : it->second;
            };
            f.setText = [key](Device& d, const std::string& v) {
                v.empty() ? void(d.owners.erase(key)) : void(d.owners[key] = v);
            };
            all.push_back(f);
        }
}

// Whose its ports are stands behind its use: that takes the rooms of the project.
std::vector<FieldOf<Device>> fieldsFor(const Device& d, const RoomNames& rooms) {
    std::vector<FieldOf<Device>> all;
    const auto* m = d.spec();
    for (auto& f : schema::formOf(d)) {
        const bool use = f.look.id == "use";
        all.push_back(std::move(f));
        if (use && m && (m->workBudget > 0 || !d.place.rack.empty()))
            addOwners(all, *m, rooms);
    }
    return all;
}

const Building& partOf(const List<Building>& buildings, std::size_t i) {
    return buildings[i];
}
Building& partOf(List<Building>& buildings, std::size_t i) {
    return buildings.change(i);
}

// Calls f with the thing itself, found in the project, to be changed where that is one to be changed.
template <class P, class F> bool visit(P& project, const std::string& key, F f) {
    const auto colon = key.find(':');
    const std::string kind = key.substr(0, colon), id = colon == std::string::npos ? "" : key.substr(colon + 1);
    const auto slash = id.find('/');
    const std::string room = id.substr(0, slash), part = slash == std::string::npos ? "" : id.substr(slash + 1);
    const auto in = [&](auto& list, const std::string& name) {
        for (auto& one : list)
            if (one.id == name)
                return f(one), true;
        return false;
    };
    const auto inRoom = [&](auto& r) {
        return (kind == "seats" && in(r.seats, part)) || (kind == "talker" && in(r.talkers, part)) ||
               (kind == "piece" && in(r.furniture, part));
    };
    if (kind == "device" || kind == "room") {
        auto* one = kind == "device" ? nullptr : project.room(id);
        auto* device = kind == "device" ? project.device(id) : nullptr;
        one ? f(*one) : device ? f(*device) : void();
        return one || device;
    }
    if (auto* r = room.empty() ? nullptr : project.room(room); r && slash != std::string::npos)
        return inRoom(*r);
    for (std::size_t i = 0; i < project.buildings.size(); ++i) {
        auto& b = partOf(project.buildings, i);
        if ((kind == "rack" && in(b.racks, id)) || (kind == "wall" && in(b.walls, id)))
            return true;
    }
    return false;
}

// Rooms, and those that a wall state joins.
RoomNames ownersOf(const Project& p) {
    RoomNames all;
    for (const auto& b : p.buildings)
        for (const auto& r : b.rooms)
            all.emplace_back(r.id, r.name);
    for (const auto& joined : joinableRooms(p)) {
        std::string name;
        for (const auto& id : roomsOfOwner(joined))
            name += (name.empty() ? "" : " + ") + (p.room(id) ? p.room(id)->name : id);
        all.emplace_back(joined, name + ", joined");
    }
    return all;
}

} // namespace

namespace {

// Where a microphone's sound is led: a field of its own, as it stands in the device at the other end of the cable.
constexpr const char* ledTo = "ledTo";

// "device/..." of what comes to an input, by a cable or as a stream; "": nothing.
std::string comesTo(const Device& d, const std::string& input) {
    if (const auto it = d.feeds.find(input); it != d.feeds.end())
        return it->second;
    for (const auto& r : d.receivers)
        if (std::find(r.inputs.begin(), r.inputs.end(), input) != r.inputs.end() && r.chosen >= 0 &&
            static_cast<std::size_t>(r.chosen) < r.streams.size())
            return r.streams[static_cast<std::size_t>(r.chosen)];
    return {};
}

std::optional<Field> ledToOf(const Project& p, const Device& microphone) {
    const auto* model = microphone.spec();
    if (!model || !model->microphone || model->outputs.empty())
        return {};
    Field f{ledTo, "Led to"};
    const std::string mine = microphone.id + "/";
    f.choices.push_back("");
    f.choiceNames.push_back("nowhere");
    for (const auto& d : p.devices) {
        const auto* m = d.spec();
        if (!m || m->workBudget <= 0)
            continue;
        for (const auto& port : m->ports(true)) {
            if ((port.rfind(networkPort, 0) == 0) != model->network)
                continue;
            const auto from = comesTo(d, port);
            const bool here = from.rfind(mine, 0) == 0;
            if (!from.empty() && !here)
                continue; // another one's
            f.choices.push_back(d.id + "/" + port);
            f.choiceNames.push_back(d.name + ", " + port);
            if (here && f.text.empty())
                f.text = f.choices.back();
        }
    }
    return f;
}

Result<Edit> leadTo(const Project& p, const std::vector<std::string>& keys, const std::string& value) {
    if (keys.size() != 1 && !value.empty())
        return Error{"one input takes one microphone", "Led to", "Choose one microphone."};
    Project now = p;
    for (const auto& key : keys) {
        const auto* d = key.rfind("device:", 0) == 0 ? p.device(key.substr(7)) : nullptr;
        const auto field = d ? ledToOf(p, *d) : std::nullopt;
        if (!field)
            return Error{"nothing that is chosen has this field", ledTo, ""};
        if (auto wrong = errorInText(*field, value))
            return *wrong;
        for (const auto& other : p.devices)
            if (const auto* m = other.spec())
                for (const auto& port : m->ports(true))
                    if (comesTo(*std::as_const(now).device(other.id), port).rfind(d->id + "/", 0) == 0)
                        if (auto then = joined(now, "", other.id + "/" + port))
                            now = std::move(*then);
        if (value.empty())
            continue;
        auto then = joined(std::move(now), d->id + "/" + d->spec()->ports(false).front(), value);
        if (!then)
            return then.error();
        now = std::move(*then);
    }
    std::map<std::string, std::optional<Device>> changed;
    for (const auto& d : now.devices)
        if (!(d == *p.device(d.id)))
            changed[d.id] = d;
    return changed.empty() ? Edit{} : setDevices(std::move(changed), "Set Led to");
}

} // namespace

std::vector<Field> fieldsOf(const Project& p, const std::string& key) {
    std::vector<Field> all;
    const RoomNames rooms = ownersOf(p);
    visit(p, key, [&](const auto& thing) {
        for (const auto& f : fieldsFor(thing, rooms))
            all.push_back(f.shown(thing));
    });
    if (const auto* d = key.rfind("device:", 0) == 0 ? p.device(key.substr(7)) : nullptr)
        if (auto f = ledToOf(p, *d))
            all.push_back(std::move(*f));
    return all;
}

std::vector<Field> fieldsOf(const Project& p, const std::vector<std::string>& keys) {
    constexpr std::size_t mostCompared = 200; // a form is made anew at each choice
    auto all = keys.empty() ? std::vector<Field>{} : fieldsOf(p, keys.front());
    for (std::size_t i = 1; i < keys.size() && i < mostCompared; ++i)
        for (const auto& other : fieldsOf(p, keys[i]))
            for (auto& f : all)
                if (f.id == other.id && (f.value != other.value || f.text != other.text))
                    f.mixed = true;
    return all;
}

Result<Edit> setField(const Project& p, const std::vector<std::string>& keys, const std::string& field,
                      const std::string& value) {
    if (field == ledTo)
        return leadTo(p, keys, value);
    Project after = p;
    std::optional<Error> wrong;
    std::string label;
    bool any = false;
    const RoomNames rooms = ownersOf(p);
    for (const auto& key : keys)
        visit(after, key, [&](auto& thing) {
            for (const auto& f : fieldsFor(thing, rooms))
                if (f.look.id == field) {
                    any = true;
                    label = f.look.label;
                    if (auto error = f.set(thing, value))
                        wrong = std::move(error);
                }
        });
    if (wrong)
        return *wrong;
    if (!any)
        return Error{"nothing that is chosen has this field", field, ""};
    for (const auto& b : after.buildings)
        for (const auto& r : b.rooms)
            if (const auto* before = p.room(r.id); before && r != *before)
                if (const auto errors = errorsOf(r); !errors.empty() && errorsOf(*before).empty())
                    return errors.front();
    return editBetween(p, std::move(after), "Set " + label);
}

} // namespace loom::project
