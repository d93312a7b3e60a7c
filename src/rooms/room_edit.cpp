#include "rooms/room_edit.h"
#include "acoustics/ceiling_grid.h"
#include "dsp/number.h"
#include "engine/block_kind.h"
#include "model/address.h"
#include "model/describe.h"
#include "model/set_up.h"
#include "program/program_edit.h"
#include "rooms/owned_ports.h"
#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <set>

namespace loom::project {
std::set<std::string> idsOf(const Project& p) {
    std::set<std::string> ids;
    for (const auto& b : p.buildings) {
        ids.insert(b.id);
        for (const auto& r : b.rooms)
            ids.insert(r.id);
    }
    for (const auto& d : p.devices)
        ids.insert(d.id);
    return ids;
}

std::string freeId(std::set<std::string>& taken, const std::string& name) {
    std::string base = engine::slug(name).substr(0, 60), id = base.empty() ? base = "room" : base;
    for (int n = 2; !taken.insert(id).second; ++n)
        id = base + "-" + std::to_string(n);
    return id;
}

std::vector<const Device*> devicesOf(const Project& p, const std::string& room) {
    std::vector<const Device*> all;
    for (const auto& d : p.devices)
        if (d.room == room)
            all.push_back(&d);
    return all;
}

namespace {

const char* const colours[] = {"madder", "weld", "lichen", "teal", "woad", "plum", "rose", "walnut"};

std::string metres(double m) {
    return fixedText(m, 1) + " m";
}

void replaceAll(std::string& text, const std::string& what, const std::string& with) {
    for (std::size_t at = 0; (at = text.find(what, at)) != std::string::npos; at += with.size())
        text.replace(at, what.size(), with);
}

std::string useOf(const Device& d) {
    const auto* model = d.spec();
    return !d.use.empty() ? d.use : model && !model->use.empty() ? model->use : "device";
}

// What the name of a device would be without a number that only tells it from its like.
std::string filled(const std::string& pattern, const Project& p, const Device& d, int n) {
    std::string name = pattern;
    const auto* room = p.room(d.room);
    const auto* model = d.spec();
    std::string roomName = room ? room->name : "Rack";
    if (roomName.size() > 5 && roomName.ends_with(" Room")) // "Tern canopy", not "Tern Room canopy"
        roomName.resize(roomName.size() - 5);
    replaceAll(name, "{room}", roomName);
    replaceAll(name, "{use}", useOf(d));
    replaceAll(name, "{model}", model ? model->name : d.model);
    replaceAll(name, "{n}", std::to_string(n));
    return name.substr(0, longestName);
}

} // namespace

// ---- rooms ----

const std::map<std::string, std::string>& usualFinishes() {
    static const std::map<std::string, std::string> usual{
        {"walls", "plaster-brick"}, {"ceiling", "ceiling-tile"}, {"floor", "carpet"}};
    return usual;
}

Result<List<Building>> withRoom(const Project& p, acoustics::Outline outline, double height, const std::string& name,
                                std::string* id, const std::string& building) {
    Room r;
    r.name = name.substr(0, longestName);
    r.outline = std::move(outline);
    r.height = height;
    if (const auto errors = errorsOf(r); !errors.empty())
        return errors.front();
    auto buildings = p.buildings;
    auto taken = idsOf(p);
    if (buildings.empty())
        buildings.push_back({freeId(taken, "building"), p.name});
    std::size_t rooms = 0;
    for (const auto& b : buildings)
        rooms += b.rooms.size();
    r.id = freeId(taken, name);
    r.colour = colours[rooms % std::size(colours)];
    r.finishes = usualFinishes();
    if (id)
        *id = r.id;
    const auto at =
        std::find_if(buildings.begin(), buildings.end(), [&](const Building& b) { return b.id == building; });
    const auto n = at == buildings.end() ? buildings.size() - 1 : static_cast<std::size_t>(at - buildings.begin());
    buildings.change(n).rooms.push_back(std::move(r));
    return buildings;
}

List<Building> withChanged(const Project& p, const std::string& room, const std::function<void(Room&)>& how) {
    auto buildings = p.buildings;
    for (std::size_t b = 0; b < buildings.size(); ++b)
        for (std::size_t r = 0; r < buildings[b].rooms.size(); ++r)
            if (buildings[b].rooms[r].id == room)
                how(buildings.change(b).rooms.change(r));
    return buildings;
}

void moveRoom(Room& r, double dx, double dy) {
    for (auto& c : r.outline) {
        c[0] += dx;
        c[1] += dy;
    }
    for (auto& s : r.seats) {
        s.x += dx;
        s.y += dy;
    }
    for (auto& t : r.talkers) {
        t.x += dx;
        t.y += dy;
    }
    for (auto& f : r.furniture) {
        f.x += dx;
        f.y += dy;
    }
}

// ---- devices ----

std::string freeName(const Project& p, const Device& d, const std::string& pattern, const std::vector<Device>& beside) {
    std::set<std::string> taken;
    for (const auto& o : p.devices)
        if (o.id != d.id)
            taken.insert(o.name);
    for (const auto& o : beside)
        if (o.id != d.id)
            taken.insert(o.name);
    const bool counts = pattern.find("{n}") != std::string::npos;
    for (int n = 1; n < 100000; ++n) {
        std::string name = filled(pattern.empty() ? "{room} {use} {n}" : pattern, p, d, n);
        if (!counts && n > 1)
            name += " " + std::to_string(n);
        if (!taken.count(name))
            return name;
    }
    return pattern;
}

std::string freeAddress(const Project& p, const std::string& subnet, const std::vector<Device>& beside) {
    const auto slash = subnet.find('/');
    const auto net = addressOf(subnet.substr(0, slash));
    const int bits = slash == std::string::npos ? 24 : wholeInteger(subnet.substr(slash + 1), 0, 32).value_or(0);
    if (!net || bits < 8 || bits > 30)
        return {};
    std::set<std::string> taken;
    for (const auto& d : p.devices)
        taken.insert(d.address);
    for (const auto& d : beside)
        taken.insert(d.address);
    const std::uint32_t mask = ~std::uint32_t(0) << (32 - bits);
    const std::uint32_t whole = (std::uint32_t((*net)[0]) << 24) | (std::uint32_t((*net)[1]) << 16) |
                                (std::uint32_t((*net)[2]) << 8) | std::uint32_t((*net)[3]);
    const std::uint32_t first = (whole & mask) + (bits <= 24 ? 21 : 1),
                        last = (whole | ~mask) - 1; // below: the network's own
    for (std::uint32_t at = first; at <= last; ++at) {
        char text[20];
        std::snprintf(text, sizeof text, "%u.%u.%u.%u", at >> 24, (at >> 16) & 255, (at >> 8) & 255, at & 255);
        if (!taken.count(text))
            return text;
    }
    return {};
}

std::string subnetOf(const Project& p, const Room& room) {
    if (!room.subnet.empty())
        return room.subnet;
    for (const auto* d : devicesOf(p, room.id))
        if (const auto four = addressOf(d->address))
            return d->address.substr(0, d->address.rfind('.')) + ".0/24";
    return "10.20.1.0/24";
}

std::vector<Device> newDevices(const Project& p, const std::string& room, const DeviceModel& model,
                               const std::vector<acoustics::Spot>& spots) {
    std::vector<Device> all;
    const Room* r = p.room(room);
    auto taken = idsOf(p);
    for (const auto& spot : spots) {
        Device d;
        d.model = model.id;
        d.models = ModelSource(model);
        d.room = room;
        d.name = freeName(p, d, r ? r->pattern : "{use} {n}", all);
        d.id = freeId(taken, d.name);
        if (model.network && r)
            d.address = freeAddress(p, subnetOf(p, *r), all);
        if (model.workBudget > 0)
            d.program.emplace();
        if (model.loudspeaker && model.amplifier) // it drives itself
            if (const auto outs = model.ports(false); !outs.empty()) {
                d.outputs[outs.front()].loads = {{d.id}};
                d.outputs[outs.front()].metres = 0.2;
                if (auto program = passingOn(model))
                    d.program = std::move(*program);
            }
        const double floor = r ? floorAt(*r, spot) : 0, height = r ? r->height : 3;
        d.place = {spot[0], spot[1], floor + 1.2, 0, 0, "", 0, true};
        if (model.mount == "ceiling") {
            d.place.z = height;
            d.place.tilt = -90;
        } else if (model.mount == "table")
            d.place.z = floor + 1.0;
        else if (model.mount == "floor" || model.mount == "rack")
            d.place.z = floor + 0.3;
        else if (model.mount == "hand")
            d.place.z = floor + 1.4;
        else if (model.mount == "wall" && r) { // looks to the middle of the room
            const auto middle = acoustics::centreOf(r->outline);
            d.place.turn = std::round(std::atan2(middle[1] - spot[1], middle[0] - spot[0]) * 180 / 3.14159265);
            if (model.loudspeaker) {
                d.place.z = floor + std::min(2.4, height - 0.4);
                d.place.tilt = -10;
            }
        }
        all.push_back(std::move(d));
    }
    return all;
}

Result<Device> rackedDevice(const Project& p, const Rack& rack, const DeviceModel& model) {
    if (model.mount != "rack")
        return Error{model.name + " does not go into a rack", rack.name, "Press on the plan where it is to be."};
    std::set<int> taken;
    for (const auto& d : p.devices)
        if (d.place.rack == rack.id) {
            const auto* m = d.spec();
            for (int u = 0; u < std::max(m ? m->rackUnits : 1, 1); ++u)
                taken.insert(d.place.unit + u);
        }
    const int units = std::max(model.rackUnits, 1);
    for (int at = 1; at + units - 1 <= rack.units; ++at) {
        bool free = true;
        for (int u = 0; u < units; ++u)
            free = free && !taken.count(at + u);
        if (!free)
            continue;
        Device d = newDevices(p, rack.room, model, {{rack.x, rack.y}}).front();
        if (model.network && d.address.empty())
            for (const auto& b : p.buildings)
                if (d.address.empty() && !b.rooms.empty())
                    d.address = freeAddress(p, subnetOf(p, b.rooms.front()));
        d.place = {0, 0, 0, 0, 0, rack.id, at, true};
        return d;
    }
    return Error{"has no " + std::to_string(units) + " free units in a row", rack.name,
                 "Take something out, or choose a higher rack."};
}

Result<GridWish> readGrid(const std::string& text) {
    const auto typed = typedNumber(text);
    const auto rest = text.find_first_not_of(" \t", typed.length);
    const std::string unit =
        rest == std::string::npos ? "" : text.substr(rest, text.find_last_not_of(" \t") + 1 - rest);
    if (typed.length > 0 && !typed.unsure && unit.empty())
        return GridWish{GridBy::count, typed.value};
    if (typed.length > 0 && !typed.unsure && unit == "m")
        return GridWish{GridBy::spacing, typed.value};
    if (typed.length > 0 && !typed.unsure && unit == "%")
        return GridWish{GridBy::overlap, typed.value / 100};
    return Error{"\"" + text.substr(0, 40) + "\" is no grid", "", "Type 6, 2.5 m or 30 %."};
}

Result<std::vector<acoustics::Spot>> ceilingSpots(const Room& r, const DeviceModel& model, GridBy by, double value) {
    if (!model.loudspeaker)
        return Error{model.name + " is no loudspeaker", "", "Choose one with coverage angles on the shelf."};
    double ear = 1.2;
    if (!r.seats.empty())
        ear = r.seats.front().ear;
    const double covered = acoustics::coverageAtEars(r.height, ear, model.loudspeaker->horizontal[5]); // at 2 kHz
    std::vector<acoustics::Spot> spots;
    if (by == GridBy::count)
        spots = value >= 1 && value <= 400 ? acoustics::gridOf(r.outline, static_cast<int>(value)) : spots;
    else
        spots =
            acoustics::gridBySpacing(r.outline, by == GridBy::spacing ? value : acoustics::gridSpacing(covered, value));
    if (spots.empty() || spots.size() > 400)
        return Error{spots.empty() ? "no loudspeaker finds a place" : "more than 400 loudspeakers would be needed",
                     r.name, "Give a count of 1 to 400, or a spacing that fits the room."};
    return spots;
}

Renewed renamed(const Project& p, const std::vector<std::string>& devices, const std::string& pattern) {
    Renewed r;
    Project now = p;
    for (const auto& id : devices) // the old names do not stand in the way of the new ones
        if (auto* d = now.device(id))
            d->name.clear();
    for (const auto& id : devices) {
        auto* d = now.device(id);
        if (!d)
            continue;
        d->name = freeName(now, *d, pattern);
        const auto& before = *p.device(id);
        if (d->name != before.name) {
            r.list.push_back({id, "name", before.name, d->name});
            r.devices[id] = *d;
        }
    }
    return r;
}

Renewed addressed(const Project& p, const std::vector<std::string>& devices, const std::string& subnet, bool every) {
    Renewed r;
    Project now = p;
    std::map<std::string, int> count;
    for (const auto& d : p.devices)
        if (!d.address.empty())
            ++count[d.address];
    std::vector<Device*> todo;
    for (const auto& id : devices) {
        auto* d = now.device(id);
        const auto* model = d ? d->spec() : nullptr;
        if (!model || !model->network)
            continue;
        const bool clash = count[d->address] > 1;
        if (!every && isAddress(d->address) && !clash)
            continue;
        if (clash)
            --count[d->address]; // the last one of them may keep it
        todo.push_back(d);
    }
    for (auto* d : todo)
        d->address.clear();
    for (auto* d : todo) {
        const auto* room = now.room(d->room);
        d->address = freeAddress(now, !subnet.empty() ? subnet : room ? subnetOf(now, *room) : "10.20.1.0/24");
        const auto& before = *p.device(d->id);
        if (d->address != before.address) {
            r.list.push_back({d->id, "address", before.address, d->address});
            r.devices[d->id] = *d;
        }
    }
    return r;
}

Result<std::map<std::string, std::optional<Device>>> pasteDevice(const Project& p, const Device& from,
                                                                 const std::vector<std::string>& to) {
    std::map<std::string, std::optional<Device>> changed;
    for (const auto& id : to) {
        const auto* d = p.device(id);
        if (!d || d->model != from.model || d->id == from.id)
            continue;
        Device n = *d;
        schema::takeSettings(n, from);
        changed[id] = n;
    }
    if (changed.empty())
        return Error{"none of the chosen devices is another " + from.model, "",
                     "Settings go from a device to others of its model."};
    return changed;
}

// ---- suggestions ----

namespace {

SpaceFigures figuresWith(const Project& p, const std::string& room, const WallState* state,
                         const std::map<std::string, std::optional<Device>>& devices) {
    Project now = p;
    if (auto then = setDevices(devices, "try").make(now))
        now = std::move(*then);
    const auto* b = now.buildingOf(room);
    const Space space = spaceOf(*b, state, room);
    return figuresOf(modelOf(now, space, state));
}

std::string percent(double share) {
    return std::to_string(static_cast<int>(std::lround(share * 100))) + " %";
}

// Other counts of the ceiling loudspeakers that are there, laid out evenly: the fewest that reach the target.
void suggestGrid(const Project& p, const Room& r, const WallState* state, const SpaceFigures& now, std::stop_token stop,
                 std::vector<Suggestion>& all) {
    std::vector<const Device*> ceiling;
    for (const auto* d : devicesOf(p, r.id))
        if (const auto* m = d->spec(); m && m->loudspeaker && m->mount == "ceiling" && d->place.placed)
            ceiling.push_back(d);
    if (ceiling.empty() || now.levels.within3 >= r.targets.within3)
        return;
    const auto* model = ceiling.front()->spec();
    const int here = static_cast<int>(ceiling.size());
    for (int count = std::max(2, here - 2); count <= std::min(here * 3 + 6, 64) && !stop.stop_requested(); ++count) {
        const auto spots = ceilingSpots(r, *model, GridBy::count, count);
        if (!spots || static_cast<int>(spots->size()) < count)
            continue;
        Suggestion s;
        for (std::size_t i = 0; i < ceiling.size(); ++i) { // those that are there move; more come, or some go
            Device d = *ceiling[i];
            if (i < spots->size()) {
                d.place.x = (*spots)[i][0];
                d.place.y = (*spots)[i][1];
                s.devices[d.id] = d;
            } else
                s.devices[d.id] = std::nullopt;
        }
        if (spots->size() > ceiling.size())
            for (auto& d : newDevices(p, r.id, *model, {spots->begin() + here, spots->end()})) {
                d.trimDb = ceiling.front()->trimDb;
                s.devices[d.id] = d;
            }
        const auto then = figuresWith(p, r.id, state, s.devices);
        if (then.levels.within3 < r.targets.within3)
            continue;
        const double apart =
            spots->size() > 1 ? std::hypot((*spots)[1][0] - (*spots)[0][0], (*spots)[1][1] - (*spots)[0][1]) : 0;
        s.text = std::to_string(spots->size()) + " × " + model->name + ", " + metres(apart) + " apart";
        s.why = percent(now.levels.within3) + " of the seats lie within ±3 dB now, " + percent(then.levels.within3) +
                " then.";
        all.push_back(std::move(s));
        return;
    }
}

// Loudspeakers further from the talker than the first: held back by the way of the sound, and 10 ms for the ear to hear
// the talker first (H. Haas, Acustica 1, 1951).
void suggestDelays(const Project& p, const Room& r, const WallState* state, const SpaceFigures& now,
                   std::vector<Suggestion>& all) {
    const auto* b = p.buildingOf(r.id);
    const auto m = modelOf(p, spaceOf(*b, state, r.id), state);
    if (m.loudspeakers.size() < 2 || r.talkers.empty())
        return;
    const acoustics::Point from{r.talkers[0].x, r.talkers[0].y, r.talkers[0].z};
    Suggestion s;
    double longest = 0;
    for (const auto& l : m.loudspeakers) {
        Device d = *p.device(l.id);
        const double way =
            acoustics::lengthOf(acoustics::operator-(l.at, from)) / acoustics::speedOfSound(m.air) * 1000;
        d.delayMs = std::round((way + 10) * 10) / 10;
        longest = std::max(longest, d.delayMs);
        if (std::abs(d.delayMs - p.device(l.id)->delayMs) > 1)
            s.devices[d.id] = d;
    }
    if (s.devices.empty() || longest < 15)
        return;
    const auto then = figuresWith(p, r.id, state, s.devices);
    if (then.worstSti + 0.02 < now.worstSti)
        return; // it would cost clarity
    s.text = print("Delay %d loudspeakers to %s, up to %.1f ms", s.devices.size(), r.talkers[0].name, longest);
    s.why = print("The talker is heard first, from where he is; worst clarity %.2f STI now, %.2f then.", now.worstSti,
                  then.worstSti);
    all.push_back(std::move(s));
}

void suggestMicrophones(const Project& p, const Room& r, const WallState* state, const SpaceFigures& now,
                        std::vector<Suggestion>& all) {
    if (now.heard.empty() || now.talkersHeard == static_cast<int>(now.heard.size()))
        return;
    for (const double lower : {0.3, 0.6, 0.9}) {
        Suggestion s;
        for (const auto* d : devicesOf(p, r.id)) {
            const auto* m = d->spec();
            if (!m || !m->microphone || m->mount != "ceiling" || d->place.z - lower < 2.2)
                continue;
            Device n = *d;
            n.place.z = std::round((n.place.z - lower) * 100) / 100;
            s.devices[n.id] = n;
        }
        if (s.devices.empty())
            return;
        const auto then = figuresWith(p, r.id, state, s.devices);
        if (then.talkersHeard <= now.talkersHeard)
            continue;
        s.text = "Hang the ceiling microphones " + metres(lower) + " lower";
        s.why = std::to_string(now.talkersHeard) + " of " + std::to_string(now.heard.size()) +
                " talkers are picked up well now, " + std::to_string(then.talkersHeard) + " then.";
        all.push_back(std::move(s));
        return;
    }
}

} // namespace

std::vector<Suggestion> suggestionsOf(const Project& p, const std::string& room, const WallState* state,
                                      std::stop_token stop) {
    std::vector<Suggestion> all;
    const Room* r = p.room(room);
    if (!r || r->outline.size() < 3)
        return all;
    const auto now = figuresWith(p, room, state, {});
    if (now.predicted) {
        suggestGrid(p, *r, state, now, stop, all);
        if (!stop.stop_requested())
            suggestDelays(p, *r, state, now, all);
    }
    if (!stop.stop_requested())
        suggestMicrophones(p, *r, state, now, all);
    return all;
}

} // namespace loom::project
