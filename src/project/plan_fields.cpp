// The fields of things on a plan, each declared once: how it reads, its range, how it is set.
#include "engine/parameter.h"
#include "project/materials.h"
#include "project/plan_items.h"
#include "project/resources.h"
#include "project/set_up.h"
#include <algorithm>
#include <cmath>
#include <functional>

namespace loom::project {
namespace {

using RoomNames = std::vector<std::pair<std::string, std::string>>; // id and name

std::vector<FieldOf<Seats>> fieldsFor(const Seats& s, const RoomNames&) {
    std::vector<FieldOf<Seats>> all{
        numberField("rows", s.shape == Seats::Shape::rows ? "Rows" : "Arcs", "", 1, 200, &Seats::rows, 0),
        numberField("across", "Seats in each", "", 1, 200, &Seats::across, 0),
        numberField("pitch", "Seat to seat", "m", 0.2, 20, &Seats::pitch),
        numberField("rowPitch", "Row to row", "m", 0.2, 20, &Seats::rowPitch)};
    if (s.shape == Seats::Shape::horseshoe)
        all[2] = numberField("radius", "Radius", "m", 0.2, 100, &Seats::radius);
    all.push_back(numberField("x", "Middle x", "m", -1e4, 1e4, &Seats::x));
    all.push_back(numberField("y", "Middle y", "m", -1e4, 1e4, &Seats::y));
    all.push_back(numberField("turn", "Turned by", "°", -360, 360, &Seats::turn, 0));
    all.push_back(numberField("ear", "Ears above the floor", "m", 0.3, 3, &Seats::ear));
    all.push_back(choiceField<Seats>(
        "shape", "Shape", {"rows", "horseshoe"}, {"Rows", "Horseshoe"},
        [](const Seats& t) { return t.shape == Seats::Shape::rows ? "rows" : "horseshoe"; },
        [](Seats& t, const std::string& v) { t.shape = v == "rows" ? Seats::Shape::rows : Seats::Shape::horseshoe; }));
    all.push_back(choiceField<Seats>(
        "talks", "People speak there", {"no", "yes"}, {"No", "Yes"},
        [](const Seats& t) { return t.talks ? "yes" : "no"; },
        [](Seats& t, const std::string& v) { t.talks = v == "yes"; }));
    return all;
}

std::vector<FieldOf<Talker>> fieldsFor(const Talker&, const RoomNames&) {
    return {textField("name", "Name", &Talker::name), numberField("x", "x", "m", -1e4, 1e4, &Talker::x),
            numberField("y", "y", "m", -1e4, 1e4, &Talker::y), numberField("z", "Mouth at", "m", 0.3, 50, &Talker::z),
            numberField("level", "Level at 1 m", "dB(A)", 20, 120, &Talker::level, 0)};
}

std::vector<FieldOf<Piece>> fieldsFor(const Piece& p, const RoomNames&) {
    std::vector<FieldOf<Piece>> all{
        textField("label", "Name", &Piece::label),
        numberField("x", "Middle x", "m", -1e4, 1e4, &Piece::x),
        numberField("y", "Middle y", "m", -1e4, 1e4, &Piece::y),
        numberField("width", "Width", "m", 0.01, 200, &Piece::width),
        numberField("depth", "Depth", "m", 0.01, 200, &Piece::depth),
        numberField("turn", "Turned by", "°", -360, 360, &Piece::turn, 0),
        numberField("height", p.kind == Piece::Kind::stage ? "Front edge" : "Height", "m", 0, 20, &Piece::height)};
    if (p.kind == Piece::Kind::stage)
        all.push_back(numberField("rise", "Rises by", "m", 0, 20, &Piece::rise));
    return all;
}

std::vector<FieldOf<Rack>> fieldsFor(const Rack&, const RoomNames&) {
    return {textField("name", "Name", &Rack::name), numberField("units", "Units", "", 1, 60, &Rack::units, 0),
            numberField("x", "x", "m", -1e4, 1e4, &Rack::x), numberField("y", "y", "m", -1e4, 1e4, &Rack::y)};
}

std::vector<FieldOf<MovableWall>> fieldsFor(const MovableWall&, const RoomNames&) {
    return {textField("name", "Name", &MovableWall::name)};
}

// Which room each port of a shared device belongs to.
void addOwners(std::vector<FieldOf<Device>>& all, const DeviceModel& m, const RoomNames& rooms) {
    for (const bool input : {true, false})
        for (const auto& port : m.ports(input)) {
            const std::string key = port + (input ? "" : " out"); // a name may stand on both sides
            FieldOf<Device> f{{"owner " + key, (input ? "Input " : "Output ") + port + " of"}};
            f.look.choices.push_back(""), f.look.choiceNames.push_back("as the device");
            for (const auto& [id, name] : rooms)
                f.look.choices.push_back(id), f.look.choiceNames.push_back(name);
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

std::vector<FieldOf<Device>> fieldsFor(const Device& d, const RoomNames& rooms) {
    std::vector<FieldOf<Device>> all{textField("name", "Name", &Device::name),
                                     textField("address", "Address", &Device::address)};
    all.back().check = [](const std::string& v) -> std::optional<Trouble> {
        if (v.empty() || isAddress(v))
            return {};
        return Trouble{"\"" + v.substr(0, 40) + "\" is no address", "Address", "Type four numbers such as 10.20.4.21."};
    };
    const auto place = [&](const char* id, const char* label, const char* unit, double min, double max,
                           double Place::*member, int digits = 2) {
        FieldOf<Device> f{{id, label, unit, 0, min, max, digits}};
        f.number = [member](const Device& one) { return one.place.*member; };
        f.setNumber = [member](Device& one, double v) { one.place.*member = v; };
        all.push_back(f);
    };
    const auto* m = findModel(d.model);
    if (d.place.rack.empty()) {
        place("x", "x", "m", -1e4, 1e4, &Place::x);
        place("y", "y", "m", -1e4, 1e4, &Place::y);
        place("z", "Height", "m", -100, 200, &Place::z);
        if (m && (m->loudspeaker || m->microphone)) {
            place("turn", "Turned to", "°", -360, 360, &Place::turn, 0);
            place("tilt", "Tilted up", "°", -90, 90, &Place::tilt, 0);
        }
    }
    if (m && m->loudspeaker) {
        all.push_back(numberField("trim", "Level against others", "dB", -40, 20, &Device::trimDb, 1));
        all.push_back(numberField("delay", "Delay", "ms", 0, 2000, &Device::delayMs, 1));
    }
    if (m && m->microphone) {
        all.push_back(choiceField<Device>(
            "heard", "Heard in its room", {"yes", "no"}, {"Yes", "No"},
            [](const Device& one) { return one.silentHere ? "no" : "yes"; },
            [](Device& one, const std::string& v) { one.silentHere = v == "no"; }));
    }
    all.push_back(textField("use", "Use", &Device::use));
    if (m && (m->workBudget > 0 || !d.place.rack.empty()))
        addOwners(all, *m, rooms);
    all.push_back(textField("lampLive", "Lamp while live", &Device::lampLive));
    all.push_back(textField("lampMuted", "Lamp while muted", &Device::lampMuted));
    if (m)
        for (const auto& s : setUpOf(*m)) {
            if (s.ofDevice)
                continue;
            const auto get = [s](const Device& one) {
                const auto it = one.setUp.find(s.id);
                return it == one.setUp.end() ? s.def : it->second;
            };
            const auto set = [s](Device& one, const std::string& v) { adoptSetUp(one, {{s.id, v}}); };
            if (!s.choices.empty()) {
                all.push_back(choiceField<Device>(s.id.c_str(), s.label.c_str(), s.choices, s.choiceNames, get, set));
                continue;
            }
            FieldOf<Device> f{{s.id, s.label}};
            f.text = get, f.setText = set;
            if (isControl(s.id))
                f.check = [](const std::string& v) -> std::optional<Trouble> {
                    if (const auto use = readKnob(v); !use)
                        return use.trouble();
                    return {};
                };
            all.push_back(f);
        }
    all.push_back(textField("assetNumber", "Asset number", &Device::assetNumber));
    all.push_back(textField("notes", "Notes", &Device::notes));
    return all;
}

void addFinish(std::vector<FieldOf<Room>>& all, const std::string& surface, const std::string& label, bool mayFollow) {
    FieldOf<Room> f{{"finish " + surface, label}};
    if (mayFollow)
        f.look.choices.push_back(""), f.look.choiceNames.push_back("as all walls");
    for (const auto& m : materials())
        f.look.choices.push_back(m.id), f.look.choiceNames.push_back(m.name);
    f.text = [surface](const Room& r) {
        const auto it = r.finishes.find(surface);
        return it != r.finishes.end()           ? it->second
               : surface.rfind("wall ", 0) == 0 ? ""
                                                : finishOf(r, surface == "walls" ? "wall 1" : surface).id;
    };
    f.setText = [surface](Room& r, const std::string& v) {
        v.empty() ? void(r.finishes.erase(surface)) : void(r.finishes[surface] = v);
    };
    all.push_back(f);
}

std::vector<FieldOf<Room>> fieldsFor(const Room& room, const RoomNames&) {
    std::vector<FieldOf<Room>> all{textField("name", "Name", &Room::name)};
    FieldOf<Room> size{{"size", "Size, width x depth"}};
    size.text = [](const Room& r) {
        const auto e = room::extentOf(r.outline);
        char text[40];
        std::snprintf(text, sizeof text, "%.2f x %.2f", e.width(), e.depth());
        return std::string(text);
    };
    size.setText = [](Room& r, const std::string& v) { // stretched; what stands inside keeps its place from the corner
        const auto wanted = readSize(v);
        const auto e = room::extentOf(r.outline);
        if (wanted && e.width() > 0 && e.depth() > 0)
            for (auto& c : r.outline)
                c = {e.least[0] + (c[0] - e.least[0]) * (*wanted)[0] / e.width(),
                     e.least[1] + (c[1] - e.least[1]) * (*wanted)[1] / e.depth()};
    };
    size.check = [](const std::string& v) -> std::optional<Trouble> {
        const auto read = readSize(v);
        return read ? std::nullopt : std::optional(read.trouble());
    };
    all.push_back(size);
    all.push_back(numberField("height", "Height", "m", 1.5, 60, &Room::height));
    all.push_back(choiceField<Room>(
        "noiseCurve", "Noise by", {"nc", "nr", "bands"}, {"NC curve", "NR curve", "octave"},
        [](const Room& r) {
            return r.noise.kind == Noise::Kind::nr ? "nr" : r.noise.kind == Noise::Kind::bands ? "bands" : "nc";
        },
        [](Room& r, const std::string& v) {
            if (v == "bands" && r.noise.kind != Noise::Kind::bands)
                r.noise.bands = noiseBands(r.noise); // what the curve said is where one begins
            r.noise.kind = v == "nr" ? Noise::Kind::nr : v == "bands" ? Noise::Kind::bands : Noise::Kind::nc;
        }));
    const auto inside = [&](const char* id, const char* label, const char* unit, double min, double max, auto get,
                            int digits, double scale = 1) {
        FieldOf<Room> f{{id, label, unit, 0, min, max, digits}};
        f.number = [get, scale](const Room& r) { return get(const_cast<Room&>(r)) * scale; };
        f.setNumber = [get, scale](Room& r, double v) { get(r) = v / scale; };
        all.push_back(f);
    };
    if (room.noise.kind != Noise::Kind::bands)
        inside(
            "noise", "Background noise", "", 10, 70, [](Room& r) -> double& { return r.noise.value; }, 0);
    else
        for (std::size_t b = 0; b < room::bandHz.size(); ++b) {
            const std::string hz = std::to_string(static_cast<int>(room::bandHz[b]));
            inside(("noise " + hz).c_str(), ("Noise at " + hz + " Hz").c_str(), "dB", -20, 140,
                   [b](Room& r) -> double& { return r.noise.bands[b]; }, 1);
        }
    inside(
        "people", "Seats taken", "%", 0, 100, [](Room& r) -> double& { return r.people; }, 0, 100);
    inside(
        "celsius", "Temperature", "°C", -20, 50, [](Room& r) -> double& { return r.celsius; }, 0);
    inside(
        "humidity", "Humidity", "%", 1, 100, [](Room& r) -> double& { return r.humidity; }, 0);
    inside(
        "level", "Wanted at the seats", "dB(A)", 30, 120, [](Room& r) -> double& { return r.targets.level; }, 0);
    inside(
        "within3", "Seats wanted within ±3 dB", "%", 0, 100, [](Room& r) -> double& { return r.targets.within3; }, 0,
        100);
    inside(
        "sti", "Clarity wanted", "STI", 0, 1, [](Room& r) -> double& { return r.targets.sti; }, 2);
    inside(
        "toNoise", "Talkers over noise", "dB", -40, 80, [](Room& r) -> double& { return r.targets.toNoise; }, 0);
    inside(
        "toReverberant", "Talkers over reverberation", "dB", -40, 80,
        [](Room& r) -> double& { return r.targets.toReverberant; }, 0);
    all.push_back(textField("pattern", "Names of devices", &Room::pattern));
    all.push_back(textField("subnet", "Addresses from", &Room::subnet));
    addFinish(all, "floor", "Floor", false);
    addFinish(all, "ceiling", "Ceiling", false);
    addFinish(all, "walls", "All walls", false);
    for (std::size_t i = 1; i <= room.outline.size(); ++i)
        addFinish(all, "wall " + std::to_string(i), "Wall " + std::to_string(i), true);
    return all;
}

// Calls f with the thing itself, found in buildings or devices.
template <class F>
bool visit(std::vector<Building>& buildings, std::vector<Device>& devices, const std::string& key, F f) {
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
    if (kind == "device")
        return in(devices, id);
    for (auto& b : buildings) {
        if ((kind == "room" && in(b.rooms, id)) || (kind == "rack" && in(b.racks, id)) ||
            (kind == "wall" && in(b.walls, id)))
            return true;
        for (auto& r : b.rooms)
            if (r.id == room && ((kind == "seats" && in(r.seats, part)) || (kind == "talker" && in(r.talkers, part)) ||
                                 (kind == "piece" && in(r.pieces, part))))
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

std::optional<Field> ledToOf(const Project& p, const Device& microphone) {
    const auto* model = findModel(microphone.model);
    if (!model || !model->microphone || model->outputs.empty())
        return {};
    Field f{ledTo, "Led to"};
    const std::string mine = microphone.id + "/";
    f.choices.push_back(""), f.choiceNames.push_back("nowhere");
    for (const auto& d : p.devices) {
        const auto* m = findModel(d.model);
        if (!m || m->workBudget <= 0)
            continue;
        for (const auto& port : m->ports(true)) {
            if ((port.rfind(networkPort, 0) == 0) != model->network)
                continue;
            const auto feed = d.feeds.find(port);
            const bool here = feed != d.feeds.end() && feed->second.rfind(mine, 0) == 0;
            if (feed != d.feeds.end() && !here)
                continue; // another one's
            f.choices.push_back(d.id + "/" + port), f.choiceNames.push_back(d.name + ", " + port);
            if (here && f.text.empty())
                f.text = f.choices.back();
        }
    }
    return f;
}

Result<std::unique_ptr<Edit>> leadTo(const Project& p, const std::vector<std::string>& keys, const std::string& value) {
    if (keys.size() != 1 && !value.empty())
        return Trouble{"one input takes one microphone", "Led to", "Choose one microphone."};
    Project now = p;
    for (const auto& key : keys) {
        const auto* d = key.rfind("device:", 0) == 0 ? p.device(key.substr(7)) : nullptr;
        const auto field = d ? ledToOf(p, *d) : std::nullopt;
        if (!field)
            return Trouble{"nothing that is chosen has this field", ledTo, ""};
        if (auto wrong = troubleWithText(*field, value))
            return *wrong;
        for (auto& other : now.devices)
            std::erase_if(other.feeds, [&](const auto& f) { return f.second.rfind(d->id + "/", 0) == 0; });
        if (!value.empty())
            now.device(value.substr(0, value.find('/')))->feeds[value.substr(value.find('/') + 1)] =
                d->id + "/" + findModel(d->model)->ports(false).front();
    }
    std::map<std::string, std::optional<Device>> changed;
    for (const auto& d : now.devices)
        if (!(d == *p.device(d.id)))
            changed[d.id] = d;
    return changed.empty() ? std::unique_ptr<Edit>() : setDevices(std::move(changed), "Set Led to");
}

} // namespace

std::vector<Field> fieldsOf(const Project& p, const std::string& key) {
    std::vector<Field> all;
    auto& project = const_cast<Project&>(p); // visit() is one for reading and writing; nothing is written here
    const RoomNames rooms = ownersOf(p);
    visit(project.buildings, project.devices, key, [&](auto& thing) {
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

Result<std::unique_ptr<Edit>> setField(const Project& p, const std::vector<std::string>& keys, const std::string& field,
                                       const std::string& value) {
    if (field == ledTo)
        return leadTo(p, keys, value);
    auto buildings = p.buildings;
    std::map<std::string, std::optional<Device>> changed;
    std::optional<Trouble> wrong;
    std::string label;
    bool any = false;
    const RoomNames rooms = ownersOf(p);
    for (const auto& key : keys) {
        std::vector<Device> one;
        if (key.rfind("device:", 0) == 0)
            if (const auto* d = p.device(key.substr(7)))
                one.push_back(*d);
        visit(buildings, one, key, [&](auto& thing) {
            for (const auto& f : fieldsFor(thing, rooms))
                if (f.look.id == field) {
                    any = true, label = f.look.label;
                    if (auto trouble = f.set(thing, value))
                        wrong = std::move(trouble);
                }
        });
        if (!one.empty())
            changed[one.front().id] = one.front();
    }
    if (wrong)
        return *wrong;
    if (!any)
        return Trouble{"nothing that is chosen has this field", field, ""};
    std::vector<std::unique_ptr<Edit>> edits;
    if (buildings != p.buildings) {
        for (const auto& b : buildings)
            for (const auto& r : b.rooms)
                if (const auto* before = p.room(r.id); before && r != *before)
                    if (const auto troubles = troublesOf(r); !troubles.empty() && troublesOf(*before).empty())
                        return troubles.front();
        edits.push_back(setBuildings(std::move(buildings), "Set " + label));
    }
    if (!changed.empty())
        edits.push_back(setDevices(std::move(changed), "Set " + label));
    if (edits.empty())
        return std::unique_ptr<Edit>();
    if (edits.size() == 1)
        return std::move(edits.front());
    return together(std::move(edits), "Set " + label);
}

} // namespace loom::project
