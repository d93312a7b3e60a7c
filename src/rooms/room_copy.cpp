#include "rooms/room_copy.h"
#include "model/block_names.h"
#include "model/contact.h"
#include "model/describe.h"
#include "model/set_up.h"
#include "patch/wire_edit.h"
#include "rooms/owned_ports.h"
#include <algorithm>
#include <cstdlib>
#include <set>

namespace loom::project {
namespace {

// "N-14" -> "N-27" if that is the first behind all that begin so; "" stays.
std::string freeNumber(const List<Wire>& wires, const std::string& like) {
    const auto parts = [](const std::string& number) {
        const auto end = number.find_last_not_of("0123456789") + 1;
        return std::pair(number.substr(0, end), number.substr(end));
    };
    const auto [head, digits] = parts(like);
    if (like.empty())
        return {};
    long most = 0;
    for (const auto& w : wires)
        if (const auto [begin, number] = parts(w.number); begin == head && number.size() < 9)
            most = std::max(most, std::atol(number.c_str()));
    std::string next = std::to_string(most + 1);
    if (next.size() < digits.size())
        next.insert(0, digits.size() - next.size(), '0');
    return head + next;
}

// The cables of `now`, with copies of those in `from` whose devices were copied as `ids` says.
List<Wire> copiedWires(const Project& from, Project now, const std::map<std::string, std::string>& ids, bool same,
                       std::vector<Renewal>& told) {
    for (const auto& w : from.wires) {
        const auto a = endOf(w.from), b = endOf(w.to);
        const auto newA = ids.find(a.first), newB = ids.find(b.first);
        const bool hasA = newA != ids.end(), hasB = newB != ids.end(), ring = a.second.rfind("ring ", 0) == 0;
        if ((!hasA && !hasB) || (!(hasA && hasB) && (!same || ring)))
            continue;
        NewWire copy;
        // At the other end another socket, for this one is taken; a lead's cable has none there.
        copy.from = hasA ? newA->second + "/" + a.second : a.first;
        copy.to = hasB ? newB->second + "/" + b.second : b.first;
        copy.number = freeNumber(now.wires, w.number);
        copy.metres = w.metres;
        copy.grade = w.grade;
        const auto laid = layWire(now, copy);
        auto then = laid ? laid->make(now) : Result<Project>(laid.error());
        if (!then)
            continue; // no free socket: the finding of the copy says that it hangs on nothing
        now = std::move(*then);
        told.push_back({hasA ? newA->second : newB->second, "cable", w.number, copy.number});
    }
    return now.wires;
}

// What of the room's conversation comes along, as it is called then; and what lies in devices that stay.
std::vector<Renewal> conversationOfCopy(const Project& from, const std::string& room, const std::vector<Device>& coming,
                                        const std::map<std::string, std::string>& ids) {
    std::vector<Renewal> told;
    for (const auto& d : coming) {
        for (const auto& b : d.program ? d.program->blocks : List<engine::Block>{})
            if (b.kind == "automixer")
                told.push_back({d.id, "microphone group", blockName(*d.program, b), blockName(*d.program, b)});
        for (const auto& [place, does] : d.mutes)
            if (const auto space = spaceOfMute(d, place); !space.empty())
                told.push_back({d.id, "mute at " + place, room + " " + does, space + " " + does});
    }
    for (const auto& d : from.devices) { // processors of several rooms
        if (!d.program || ids.count(d.id))
            continue;
        int led = 0;
        for (const auto& [port, end] : d.feeds)
            led += ids.count(end.substr(0, end.find('/'))) > 0;
        if (led > 0)
            told.push_back({d.id, "conversation", std::to_string(led) + " microphones of " + room,
                            "stays there: lead the copies to free inputs, then First pass in Talk makes theirs"});
    }
    return told;
}

// Scenes and surfaces that belong to the room, as they are of its copy; and what of them stays as it was.
void copyPages(const Project& from, const Project& to, const std::string& room, RoomCopy& c, const std::string& called,
               CopyNames& names) {
    std::set<std::string> taken;
    for (const auto& s : to.scenes)
        taken.insert(s.id);
    for (const auto& s : from.scenes) {
        if (s.room != room)
            continue;
        Scene copy = s;
        copy.id = names.scenes[s.id] = freeId(taken, s.id);
        copy.room = c.room;
        copy.values.clear();
        std::size_t moved = 0;
        for (const auto& [path, value] : s.values) {
            const auto now = names.anew(path);
            moved += now != path;
            copy.values[now] = value;
        }
        c.renewed.list.push_back(
            {c.room, "scene", s.name,
             std::to_string(moved) + " of " + std::to_string(s.values.size()) + " values are those of the copies"});
        c.scenes.push_back(std::move(copy));
    }
    taken.clear();
    for (const auto& s : to.surfaces)
        taken.insert(s.id);
    for (const auto& s : from.surfaces) {
        const auto screen = names.things.find(s.device);
        if (s.device.empty() || screen == names.things.end())
            continue;
        Surface copy = s;
        copy.device = screen->second;
        const auto renewed = c.renewed.devices.find(copy.device);
        const auto* screenWas = from.device(s.device);
        if (screenWas && s.name == screenWas->name && renewed != c.renewed.devices.end() && renewed->second)
            copy.name = renewed->second->name;
        else
            copy.name = s.name.substr(0, 60) + " " + called.substr(0, 59);
        copy.id = names.surfaces[s.id] = freeId(taken, copy.name);
        std::size_t moved = 0, stay = 0;
        const auto* was = from.room(room);
        const auto renamed = [&](std::string& text, std::size_t most) { // what says the room's name says the copy's
            if (const auto at = was && !was->name.empty() ? text.find(was->name) : std::string::npos;
                at != std::string::npos)
                text = (text.substr(0, at) + called + text.substr(at + was->name.size())).substr(0, most);
        };
        copy.pages.changeEach([&](SurfacePage& page) {
            renamed(page.name, 120);
            page.plies.changeEach([&](Ply& ply) {
                ply.shown = names.anew(ply.shown);
                ply.controls.changeEach([&](Control& one) {
                    const auto now = names.anew(one.param);
                    if (!one.param.empty())
                        now == one.param ? ++stay : ++moved;
                    one.param = now;
                    renamed(one.text, 500);
                    one.shown = names.anew(one.shown);
                    one.enabled = names.anew(one.enabled);
                    if (&from != &to)
                        for (const auto* name : {&one.pictures.always, &one.pictures.off, &one.pictures.on,
                                                 &one.pictures.mixed, &one.pictures.unknown, &one.pictures.held})
                            if (const auto it = from.assets.find(*name);
                                it != from.assets.end() && !to.assets.count(*name))
                                c.pictures[*name] = it->second;
                });
            });
        });
        c.renewed.list.push_back(
            {copy.device, "surface", s.name,
             copy.name + ": " + std::to_string(moved) + " controls re-pointed" +
                 (stay ? ", " + std::to_string(stay) + " still drive what stays there: Re-point in Surfaces" : "")});
        c.surfaces.push_back(std::move(copy));
    }
}

} // namespace

Result<RoomCopy> copyRoom(const Project& from, const std::string& room, const Project& to, const std::string& name) {
    const Room* r = from.room(room);
    if (!r)
        return Error{"there is no such room", room, "loomctl rooms lists them."};
    RoomCopy c;
    Project now = to;
    if (now.buildings.empty())
        now.buildings.push_back({"building", now.name});
    auto taken = idsOf(now);
    Room copy = *r;
    copy.name = name.empty() ? r->name + " copy" : name.substr(0, longestName);
    c.room = copy.id = freeId(taken, copy.name);
    // Beside everything that is there, on the right.
    double right = -1e9;
    for (const auto& o : now.buildings.back().rooms)
        if (!o.outline.empty())
            right = std::max(right, acoustics::extentOf(o.outline).most[0]);
    const double dx = r->outline.empty() || right < -1e8 ? 0 : right + 1 - acoustics::extentOf(r->outline).least[0];
    moveRoom(copy, dx, 0);
    now.buildings.changeBack().rooms.push_back(copy);
    std::map<std::string, std::string> ids{{room, copy.id}};
    std::vector<Device> coming;
    for (const auto* d : devicesOf(from, room)) {
        Device n = *d;
        n.room = copy.id;
        schema::forgetOwn(n);
        if (!n.place.rack.empty())
            n.place = {}; // its twin finds a place in a rack by hand
        n.place.x += dx;
        n.id.clear();
        n.name = freeName(now, n, copy.pattern, coming);
        n.id = freeId(taken, n.name);
        ids[d->id] = n.id;
        if (!d->address.empty()) {
            n.address.clear();
            n.address = freeAddress(now, subnetOf(to, copy).empty() ? "10.20.1.0/24" : subnetOf(from, *r), coming);
        }
        c.renewed.list.push_back({n.id, "name", d->name, n.name});
        if (d->address != n.address)
            c.renewed.list.push_back({n.id, "address", d->address, n.address});
        coming.push_back(std::move(n));
    }
    std::set<std::string> streamNames;
    for (const auto& d : to.devices)
        for (const auto& s : d.streams)
            streamNames.insert(s.name);
    for (auto& d : coming) {
        for (auto& [port, owner] : d.owners) {
            auto rooms = roomsOfOwner(owner);
            for (auto& one : rooms)
                if (ids.count(one))
                    one = ids[one];
            owner = ownerOf(rooms);
        }
        // Buttons and lamps of the room's mute are those of the copy's; what follows a wall stays behind.
        for (auto it = d.contacts.begin(); it != d.contacts.end();) {
            auto use = readContact(it->first, it->second);
            if (use && use->kind == ContactUse::Kind::wall) {
                it = d.contacts.erase(it);
                continue;
            }
            if (use && ids.count(use->space))
                use->space = ids[use->space], it->second = contactText(*use);
            ++it;
        }
        // What it hears of devices of the room it hears of their copies; of others, of the same as before.
        const auto pointed = [&](std::string& end) {
            const auto slash = end.find('/');
            if (const auto it = ids.find(end.substr(0, slash)); it != ids.end() && slash != std::string::npos)
                end = it->second + end.substr(slash);
        };
        for (auto& [port, end] : d.feeds)
            pointed(end);
        for (auto& receiver : d.receivers)
            for (auto& stream : receiver.streams)
                pointed(stream);
        for (auto& [port, output] : d.outputs)
            for (auto& load : output.loads)
                if (const auto it = ids.find(load.device); it != ids.end())
                    load.device = it->second;
        for (auto& s : d.streams) { // no two streams of a network are called the same
            const std::string was = s.name;
            for (int n = 2; streamNames.count(s.name); ++n)
                s.name = was + " " + std::to_string(n);
            streamNames.insert(s.name);
            s.address.clear(); // it is given another by itself
            if (s.name != was)
                c.renewed.list.push_back({d.id, "stream", was, s.name});
        }
        c.renewed.devices[d.id] = d;
    }
    const auto talks = conversationOfCopy(from, room, coming, ids);
    c.renewed.list.insert(c.renewed.list.begin(), talks.begin(), talks.end());
    c.buildings = now.buildings;
    for (auto& d : coming)
        now.devices.push_back(std::move(d));
    c.wires = copiedWires(from, now, ids, &from == &to, c.renewed.list);
    CopyNames names{ids};
    copyPages(from, to, room, c, copy.name, names);
    c.happens = copyRules(from, to, room, c.room, names, c.renewed.list);
    return c;
}

void drivesItself(Device& copy, const std::string& original) {
    for (auto& [port, output] : copy.outputs)
        for (auto& load : output.loads)
            if (load.device == original)
                load.device = copy.id;
}

Project withCopy(Project to, const RoomCopy& copy) {
    to.buildings = copy.buildings;
    for (const auto& [id, d] : copy.renewed.devices)
        if (d)
            to.devices.push_back(*d);
    to.wires = copy.wires;
    for (const auto& s : copy.surfaces)
        to.surfaces.push_back(s);
    for (const auto& s : copy.scenes)
        to.scenes.push_back(s);
    for (const auto& r : copy.happens.rules)
        to.rules.push_back(r);
    for (const auto& s : copy.happens.scripts)
        to.scripts.push_back(s);
    for (const auto& t : copy.happens.tests)
        to.ruleTests.push_back(t);
    for (const auto& d : copy.happens.outside)
        to.outside.push_back(d);
    for (const auto& k : copy.happens.outsideKinds)
        to.outsideKinds.push_back(k);
    for (const auto& [name, bytes] : copy.pictures)
        to.assets[name] = bytes;
    return to;
}

} // namespace loom::project
