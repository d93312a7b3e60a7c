#include "rooms/plan_items.h"
#include "dsp/number.h"
#include "model/describe.h"
#include "model/set_up.h"
#include "rooms/room_copy.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

struct Ref {
    std::string kind, room, id;
};

Ref refOf(const std::string& key) {
    const auto colon = key.find(':');
    Ref r{key.substr(0, colon), "", colon == std::string::npos ? "" : key.substr(colon + 1)};
    if (r.kind == "seats" || r.kind == "talker" || r.kind == "piece" || r.kind == "corner") {
        const auto slash = r.id.find('/');
        r.room = r.id.substr(0, slash);
        r.id = slash == std::string::npos ? "" : r.id.substr(slash + 1);
    }
    return r;
}

template <class Items> auto* byId(Items& list, const std::string& id) {
    for (auto& one : list)
        if (one.id == id)
            return &one;
    return static_cast<decltype(&*list.begin())>(nullptr);
}

Room* roomOf(List<Building>& buildings, const std::string& id) {
    for (std::size_t b = 0; b < buildings.size(); ++b)
        for (std::size_t r = 0; r < buildings[b].rooms.size(); ++r)
            if (buildings[b].rooms[r].id == id)
                return &buildings.change(b).rooms.change(r);
    return {};
}

acoustics::Outline hullOf(const std::vector<Seat>& seats) {
    if (seats.empty())
        return {};
    acoustics::Outline all;
    for (const auto& s : seats)
        all.push_back({s.ear[0], s.ear[1]});
    const auto e = acoustics::extentOf(all);
    return acoustics::rectangle({e.least[0] - 0.35, e.least[1] - 0.35}, e.width() + 0.7, e.depth() + 0.7);
}

// A room brings along all that lies in it; nothing is moved twice.
struct Moving {
    std::set<std::string> rooms, others;
};
Moving movingOf(const std::vector<std::string>& keys) {
    Moving m;
    for (const auto& k : keys)
        if (refOf(k).kind == "room")
            m.rooms.insert(refOf(k).id);
    for (const auto& k : keys)
        if (const Ref r = refOf(k); r.kind != "room" && !m.rooms.count(r.room))
            m.others.insert(k);
    return m;
}

void moveOne(List<Building>& buildings, const Ref& r, double dx, double dy) {
    if (Room* room = roomOf(buildings, r.room)) {
        if (r.kind == "seats")
            if (auto* s = byId(room->seats, r.id)) {
                s->x += dx;
                s->y += dy;
            }
        if (r.kind == "talker")
            if (auto* t = byId(room->talkers, r.id)) {
                t->x += dx;
                t->y += dy;
            }
        if (r.kind == "piece")
            if (auto* p = byId(room->furniture, r.id)) {
                p->x += dx;
                p->y += dy;
            }
        if (const auto i = static_cast<std::size_t>(wholeInteger(r.id, 1, 100000).value_or(1));
            r.kind == "corner" && i <= room->outline.size()) {
            room->outline[i - 1][0] += dx;
            room->outline[i - 1][1] += dy;
        }
    }
    buildings.changeEach([&](Building& b) {
        if (r.kind == "rack")
            if (auto* k = byId(b.racks, r.id)) {
                k->x += dx;
                k->y += dy;
            }
        if (r.kind == "wall")
            if (auto* w = byId(b.walls, r.id)) {
                w->from[0] += dx;
                w->from[1] += dy;
                w->to[0] += dx;
                w->to[1] += dy;
            }
    });
}

void moveAll(Project& p, const std::vector<std::string>& keys, double dx, double dy) {
    const auto m = movingOf(keys);
    std::set<std::string> walls; // between rooms that both move
    p.buildings.changeEach([&](Building& b) {
        b.rooms.changeIf([&](const Room& r) { return m.rooms.count(r.id) > 0; }, [&](Room& r) { moveRoom(r, dx, dy); });
        for (const auto& w : b.walls)
            if (std::all_of(w.rooms.begin(), w.rooms.end(), [&](const auto& r) { return m.rooms.count(r); }))
                walls.insert(w.id);
    });
    for (const auto& id : walls)
        moveOne(p.buildings, {"wall", "", id}, dx, dy);
    for (const auto& k : m.others)
        moveOne(p.buildings, refOf(k), dx, dy);
    p.devices.changeIf(
        [&](const Device& d) {
            return d.place.placed && d.place.rack.empty() &&
                   (m.others.count("device:" + d.id) || m.rooms.count(d.room));
        },
        [&](Device& d) {
            d.place.x += dx;
            d.place.y += dy;
        });
}

std::string nameOf(const Project& p, const std::vector<std::string>& keys) {
    if (keys.size() != 1)
        return std::to_string(keys.size()) + " things";
    for (const auto& b : p.buildings)
        for (const auto& item : planItems(p, b))
            if (item.key == keys.front())
                return item.name;
    return keys.front();
}

template <class Items> std::string freeIn(const Items& list, const std::string& base) {
    for (int n = 1;; ++n) {
        const std::string id = n == 1 ? base : base + "-" + std::to_string(n);
        if (std::none_of(list.begin(), list.end(), [&](const auto& one) { return one.id == id; }))
            return id;
    }
}

constexpr const char* pieceNames[] = {"Table", "Lectern", "Screen", "Door", "Stage"};

} // namespace

std::vector<PlanItem> planItems(const Project& p, const Building& b) {
    std::vector<PlanItem> all;
    std::set<std::string> rooms;
    for (const auto& r : b.rooms) {
        rooms.insert(r.id);
        if (!r.outline.empty())
            all.push_back({"room:" + r.id, r.name, r.id, acoustics::centreOf(r.outline), r.outline});
    }
    for (const auto& w : b.walls)
        all.push_back(
            {"wall:" + w.id, w.name, "", {(w.from[0] + w.to[0]) / 2, (w.from[1] + w.to[1]) / 2}, {w.from, w.to}});
    for (const auto& r : b.rooms) {
        for (const auto& f : r.furniture)
            all.push_back({"piece:" + r.id + "/" + f.id,
                           f.label.empty() ? pieceNames[static_cast<int>(f.kind)] : f.label,
                           r.id,
                           {f.x, f.y},
                           cornersOf(f)});
        for (const auto& s : r.seats)
            all.push_back({"seats:" + r.id + "/" + s.id,
                           std::to_string(s.rows * s.across) + " seats",
                           r.id,
                           {s.x, s.y},
                           hullOf(seatsOf(r, s))});
        for (const auto& t : r.talkers)
            all.push_back({"talker:" + r.id + "/" + t.id, t.name, r.id, {t.x, t.y}, {}});
    }
    for (const auto& k : b.racks)
        all.push_back(
            {"rack:" + k.id, k.name, k.room, {k.x, k.y}, acoustics::rectangle({k.x - 0.3, k.y - 0.3}, 0.6, 0.6)});
    for (const auto& d : p.devices)
        if (d.place.placed && d.place.rack.empty() && rooms.count(d.room))
            all.push_back({"device:" + d.id, d.name, d.room, {d.place.x, d.place.y}, {}});
    return all;
}

const Building* buildingOfItem(const Project& p, const std::string& key) {
    for (const auto& b : p.buildings)
        for (const auto& item : planItems(p, b))
            if (item.key == key)
                return &b;
    return {};
}

Project withMoved(const Project& p, const std::vector<std::string>& keys, double dx, double dy) {
    Project after = p;
    moveAll(after, keys, dx, dy);
    return after;
}

Edit moveItems(const Project& p, const std::vector<std::string>& keys, double dx, double dy) {
    if (dx == 0 && dy == 0)
        return {};
    Project after = withMoved(p, keys, dx, dy);
    // a device that was carried into another room belongs there
    after.devices.changeIf(
        [&](const Device& d) { return std::find(keys.begin(), keys.end(), "device:" + d.id) != keys.end(); },
        [&](Device& d) {
            for (const auto& b : after.buildings)
                if (const auto* own = byId(b.rooms, d.room);
                    own && !own->outline.empty() && !acoustics::contains(own->outline, {d.place.x, d.place.y}))
                    if (const Room* other = roomAt(b, {d.place.x, d.place.y}))
                        d.room = other->id;
        });
    return editBetween(p, std::move(after), "Move " + nameOf(p, keys));
}

Edit removeItems(const Project& p, const std::vector<std::string>& keys) {
    Project after = p;
    std::set<std::string> rooms, devices;
    for (const auto& key : keys) {
        const Ref r = refOf(key);
        if (r.kind == "room")
            rooms.insert(r.id);
        if (r.kind == "device")
            devices.insert(r.id);
        const auto is = [&](const auto& one) { return one.id == r.id; };
        if (Room* room = roomOf(after.buildings, r.room)) {
            if (r.kind == "seats")
                std::erase_if(room->seats, is);
            if (r.kind == "talker")
                std::erase_if(room->talkers, is);
            if (r.kind == "piece")
                std::erase_if(room->furniture, is);
            if (const auto i = wholeInteger(r.id, 0, 100000).value_or(0);
                r.kind == "corner" && i >= 1 && i <= static_cast<int>(room->outline.size()) && room->outline.size() > 3)
                room->outline.erase(room->outline.begin() + i - 1);
        }
        after.buildings.changeEach([&](Building& b) {
            if (r.kind == "wall")
                std::erase_if(b.walls, is);
            if (r.kind == "rack")
                std::erase_if(b.racks, is);
        });
    }
    after.buildings.changeEach([&](Building& b) {
        erase_if(b.rooms, [&](const Room& r) { return rooms.count(r.id); });
        std::erase_if(b.walls, [&](const MovableWall& w) {
            return std::any_of(w.rooms.begin(), w.rooms.end(), [&](const auto& r) { return rooms.count(r); });
        });
        for (auto& s : b.states)
            std::erase_if(s.open, [&](const auto& id) { return !byId(b.walls, id); });
    });
    erase_if(after.devices, [&](const Device& d) { return devices.count(d.id) || rooms.count(d.room); });
    return editBetween(p, std::move(after), "Remove " + nameOf(p, keys));
}

Edit duplicateItems(const Project& p, const std::vector<std::string>& keys, double dx, double dy,
                    std::vector<std::string>* made) {
    Project after = p;
    std::vector<std::string> copies;
    for (const auto& key : keys) {
        const Ref r = refOf(key);
        if (r.kind == "room") {
            if (auto c = copyRoom(after, r.id, after, "")) {
                after = withCopy(std::move(after), *c);
                copies.push_back("room:" + c->room);
            }
        } else if (r.kind == "device") {
            const auto* d = p.device(r.id);
            const auto* model = d ? d->spec() : nullptr;
            if (!model)
                continue;
            Device n = newDevices(after, d->room, *model, {{d->place.x + dx, d->place.y + dy}}).front();
            Device copy = *d;
            copy.id = n.id;
            copy.name = n.name;
            copy.address = n.address;
            drivesItself(copy, d->id);
            schema::forgetOwn(copy);
            copy.place.x += dx;
            copy.place.y += dy;
            after.devices.push_back(copy);
            copies.push_back("device:" + n.id);
        } else if (Room* room = roomOf(after.buildings, r.room)) {
            const auto copy = [&](auto& list) {
                if (const auto* one = byId(list, r.id)) {
                    auto n = *one;
                    n.id = freeIn(list, one->id);
                    n.x += dx;
                    n.y += dy;
                    copies.push_back(r.kind + ":" + r.room + "/" + n.id);
                    list.push_back(n);
                }
            };
            if (r.kind == "seats")
                copy(room->seats);
            if (r.kind == "talker")
                copy(room->talkers);
            if (r.kind == "piece")
                copy(room->furniture);
        }
    }
    if (made)
        *made = copies;
    return editBetween(p, std::move(after), "Copy " + nameOf(p, keys));
}

Edit mirrorItems(const Project& p, const std::vector<std::string>& keys) {
    const std::set<std::string> chosen(keys.begin(), keys.end());
    acoustics::Outline all;
    for (const auto& b : p.buildings)
        for (const auto& item : planItems(p, b))
            if (chosen.count(item.key)) {
                all.push_back(item.at);
                all.insert(all.end(), item.outline.begin(), item.outline.end());
            }
    if (all.empty())
        return {};
    const auto e = acoustics::extentOf(all);
    const double sum = e.least[0] + e.most[0];
    const auto m = movingOf(keys);
    Project after = p;
    const auto turn = [](double t) { return std::remainder(180 - t, 360); };
    after.buildings.changeEach([&](Building& b) {
        b.rooms.changeEach([&](Room& r) {
            const bool whole = m.rooms.count(r.id);
            const auto mine = [&](const char* kind, const std::string& id) {
                return whole || chosen.count(std::string(kind) + ":" + r.id + "/" + id);
            };
            if (whole)
                for (auto& c : r.outline)
                    c[0] = sum - c[0];
            for (auto& s : r.seats)
                if (mine("seats", s.id)) {
                    s.x = sum - s.x;
                    s.turn = -s.turn;
                }
            for (auto& t : r.talkers)
                if (mine("talker", t.id))
                    t.x = sum - t.x;
            for (auto& f : r.furniture)
                if (mine("piece", f.id)) {
                    f.x = sum - f.x;
                    f.turn = -f.turn;
                }
        });
    });
    after.devices.changeIf(
        [&](const Device& d) {
            return d.place.placed && d.place.rack.empty() && (chosen.count("device:" + d.id) || m.rooms.count(d.room));
        },
        [&](Device& d) {
            d.place.x = sum - d.place.x;
            d.place.turn = turn(d.place.turn);
        });
    return editBetween(p, std::move(after), "Mirror " + nameOf(p, keys));
}

const Room* roomAt(const Building& b, const acoustics::Spot& spot) {
    for (auto r = b.rooms.rbegin(); r != b.rooms.rend(); ++r)
        if (r->outline.size() >= 3 && acoustics::contains(r->outline, spot))
            return &*r;
    return {};
}

Edit addSeats(const Project& p, const std::string& room, Seats seats, std::string* made) {
    auto buildings = p.buildings;
    Room* r = roomOf(buildings, room);
    if (!r)
        return {};
    seats.id = freeIn(r->seats, "seats");
    if (made)
        *made = "seats:" + room + "/" + seats.id;
    const int count = seats.rows * seats.across;
    r->seats.push_back(std::move(seats));
    return setBuildings(std::move(buildings), "Add " + std::to_string(count) + " seats");
}

Edit addTalker(const Project& p, const std::string& room, const acoustics::Spot& at, std::string* made) {
    auto buildings = p.buildings;
    Room* r = roomOf(buildings, room);
    if (!r)
        return {};
    Talker t;
    t.id = freeIn(r->talkers, "talker");
    t.name = "Talker " + std::to_string(r->talkers.size() + 1);
    t.x = at[0];
    t.y = at[1];
    t.z = floorAt(*r, at) + 1.5;
    if (made)
        *made = "talker:" + room + "/" + t.id;
    r->talkers.push_back(t);
    return setBuildings(std::move(buildings), "Add " + t.name);
}

Edit addFurniture(const Project& p, const std::string& room, Furniture::Kind kind, const acoustics::Spot& at,
                  std::string* made) {
    auto buildings = p.buildings;
    Room* r = roomOf(buildings, room);
    if (!r)
        return {};
    Furniture f;
    f.kind = kind;
    f.x = at[0];
    f.y = at[1];
    if (kind == Furniture::Kind::lectern) {
        f.width = 0.8;
        f.depth = 0.5;
        f.height = 1.1;
    }
    if (kind == Furniture::Kind::screen) {
        f.width = 3;
        f.depth = 0.15;
        f.height = 2.2;
    }
    if (kind == Furniture::Kind::door) {
        f.width = 1;
        f.depth = 0.2;
        f.height = 2.1;
    }
    if (kind == Furniture::Kind::stage) {
        f.width = 6;
        f.depth = 2.5;
        f.height = 0.4;
    }
    f.label = pieceNames[static_cast<int>(kind)];
    f.id = freeIn(r->furniture, engine::slug(f.label));
    if (made)
        *made = "piece:" + room + "/" + f.id;
    r->furniture.push_back(f);
    return setBuildings(std::move(buildings), "Add " + f.label);
}

Edit addRack(const Project& p, const acoustics::Spot& at, std::string* made) {
    auto buildings = p.buildings;
    if (buildings.empty())
        return {};
    auto& b = buildings.changeBack();
    Rack k;
    k.id = freeIn(b.racks, "rack");
    k.name = "Rack " + std::to_string(b.racks.size() + 1);
    k.units = 24;
    k.x = at[0];
    k.y = at[1];
    if (const Room* r = roomAt(b, at))
        k.room = r->id;
    if (made)
        *made = "rack:" + k.id;
    b.racks.push_back(k);
    return setBuildings(std::move(buildings), "Add " + k.name);
}

Result<Edit> addMovableWall(const Project& p, const acoustics::Spot& from, const acoustics::Spot& to) {
    constexpr double reach = 0.6; // m beside the line
    const acoustics::Spot middle{(from[0] + to[0]) / 2, (from[1] + to[1]) / 2};
    auto buildings = p.buildings;
    for (std::size_t i = 0; i < buildings.size(); ++i) {
        Building& b = buildings.change(i);
        std::vector<std::pair<double, const Room*>> near;
        for (const auto& r : b.rooms) {
            double least = 1e9;
            for (std::size_t c = 0; c < r.outline.size(); ++c)
                least =
                    std::min(least, acoustics::distanceTo(middle, r.outline[c], r.outline[(c + 1) % r.outline.size()]));
            if (least < reach)
                near.emplace_back(least, &r);
        }
        std::sort(near.begin(), near.end());
        if (near.size() < 2)
            continue;
        MovableWall w;
        w.id = freeIn(b.walls, "wall");
        w.from = from;
        w.to = to;
        w.rooms = {near[0].second->id, near[1].second->id};
        w.name = "Wall " + near[0].second->name + " | " + near[1].second->name;
        b.walls.push_back(w);
        if (b.states.empty())
            b.states = {{"apart", "Apart"}, {"joined", "Joined", {w.id}}};
        else
            b.states.back().open.push_back(w.id);
        return setBuildings(std::move(buildings), "Add movable wall");
    }
    return Error{"no two rooms meet there", "", "Drag along the wall that two rooms share."};
}

} // namespace loom::project
