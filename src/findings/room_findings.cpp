#include "findings/room_findings.h"
#include "catalogue/materials.h"
#include "dsp/number.h"
#include "findings/output_findings.h"
#include "model/address.h"
#include "program/load.h"
#include "rooms/owned_ports.h"
#include "rooms/room_edit.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>
#include <set>

namespace loom::project {
namespace {

using Code = FindingCode;

class RoomChecker {
  public:
    explicit RoomChecker(const Project& p) : p_(p) {}
    std::vector<Finding> run() {
        for (const auto& b : p_.buildings) {
            for (const auto& r : b.rooms)
                checkRoom(r);
            for (const auto& w : b.walls)
                checkWall(b, w);
            for (const auto& k : b.racks)
                checkRack(k);
        }
        checkNames();
        for (const auto& d : p_.devices)
            checkDevice(d);
        checkPower();
        checkOwners();
        return std::move(found_);
    }

  private:
    void add(Code code, std::string device, std::string place, std::string room, std::string reason,
             std::string remedy) {
        found_.push_back(
            {code, std::move(device), "", std::move(place), std::move(reason), std::move(remedy), std::move(room)});
    }
    std::string roomName(const Device& d) const {
        const auto* r = p_.room(d.room);
        return r ? r->name : "Equipment rack";
    }

    void checkRoom(const Room& r) {
        for (const auto& t : errorsOf(r))
            add(Code::roomShape, r.id, r.name, r.name, "This room " + t.message + ".", t.remedy);
        for (const auto& [surface, material] : r.finishes)
            if (!findMaterial(material))
                add(Code::unknownMaterial, r.id, r.name, r.name,
                    "The material \"" + material + "\" of \"" + surface + "\" is not known here.",
                    "Choose one of the table; until then it counts as plaster.");
        if (r.outline.size() < 3)
            return;
        for (const auto& s : seatsOf(r))
            if (!acoustics::contains(r.outline, {s.ear[0], s.ear[1]}))
                return add(Code::seatOutside, r.id, r.name, r.name,
                           "A seat of \"" + s.seats + "\" lies outside the room.", "Move the seats inside.");
    }

    void checkWall(const Building& b, const MovableWall& w) {
        int known = 0;
        for (const auto& r : b.rooms)
            known += std::find(w.rooms.begin(), w.rooms.end(), r.id) != w.rooms.end();
        if (known != 2)
            add(Code::wallRooms, w.id, w.name, "", "This movable wall does not divide two rooms.",
                "Draw it again between two rooms.");
    }

    void checkRack(const Rack& k) {
        std::map<int, std::string> taken;
        for (const auto& d : p_.devices) {
            const auto* m = d.place.rack == k.id ? d.spec() : nullptr;
            for (int u = d.place.unit; m && u < d.place.unit + std::max(m->rackUnits, 1); ++u) {
                if (u < 1 || u > k.units)
                    add(Code::rackFull, d.id, k.name + " \u00b7 " + d.name, k.name,
                        print("Unit %d lies outside the rack's %d units.", u, k.units),
                        "Choose a lower unit, or a higher rack.");
                else if (const auto [it, good] = taken.emplace(u, d.name); !good && it->second != d.name)
                    add(Code::rackOverlap, d.id, k.name + " \u00b7 " + d.name, k.name,
                        print("Unit %d holds %s already.", u, it->second.c_str()), "Move one of the two.");
            }
        }
    }

    void checkNames() {
        std::map<std::string, std::vector<const Device*>> names, addresses;
        for (const auto& d : p_.devices) {
            names[d.name].push_back(&d);
            if (!d.address.empty())
                addresses[d.address].push_back(&d);
        }
        for (const auto& [name, all] : names)
            for (std::size_t i = 1; i < all.size(); ++i)
                add(Code::sameName, all[i]->id, all[i]->name, roomName(*all[i]),
                    name.empty() ? "This device has no name." : "Another device is called \"" + name + "\" too.",
                    "Rename it, or rename all by a pattern such as {room} {use} {n}.");
        for (const auto& [address, all] : addresses)
            for (std::size_t i = 1; i < all.size(); ++i)
                add(Code::sameAddress, all[i]->id, all[i]->name, roomName(*all[i]),
                    all[0]->name + " has the address " + address + " as well.",
                    "\"Address all\" gives free ones to those that clash.");
    }

    void checkDevice(const Device& d) {
        const auto* m = d.spec();
        if (!m)
            return add(Code::unknownModel, d.id, d.name, roomName(d),
                       "The model \"" + d.model + "\" is not on the shelf.",
                       "Add its file to the shelf, or choose another model.");
        if (d.name.size() > 200)
            add(Code::longName, d.id, d.name.substr(0, 40) + "\u2026", roomName(d),
                "This name has " + std::to_string(d.name.size()) + " letters.", "Shorten it; lists show about 30.");
        if (!d.address.empty() && !isAddress(d.address))
            add(Code::badAddress, d.id, d.name, roomName(d), "\"" + d.address.substr(0, 60) + "\" is no address.",
                "Type four numbers such as 10.20.4.21, or let \"Address all\" find one.");
        else if (m->network && d.address.empty() && d.place.placed)
            add(Code::noAddress, d.id, d.name, roomName(d), "This device has no address yet.",
                "\"Address all\" gives it one of the room's subnet.");
        const auto* r = p_.room(d.room);
        if (r && r->outline.size() >= 3 && d.place.placed && d.place.rack.empty()) {
            if (!acoustics::contains(r->outline, {d.place.x, d.place.y}) && wallDistance(*r, d.place) > 0.4)
                add(Code::outsideRoom, d.id, d.name, r->name, "It is drawn outside of its room.",
                    "Drag it inside, or give it to the room where it is.");
            if (d.place.z > r->height + 0.01)
                add(Code::aboveCeiling, d.id, d.name, r->name,
                    print("It hangs at %.2f m, above the ceiling at %.2f m.", d.place.z, r->height),
                    "Type a lower height.");
        }
    }

    static double wallDistance(const Room& r, const Place& p) {
        double least = 1e9;
        for (std::size_t i = 0; i < r.outline.size(); ++i)
            least =
                std::min(least, acoustics::distanceTo({p.x, p.y}, r.outline[i], r.outline[(i + 1) % r.outline.size()]));
        return least;
    }

    void checkPower() {
        double taken = 0, budget = 0;
        int sockets = 0, devices = 0;
        for (const auto& d : p_.devices)
            if (const auto* m = d.spec()) {
                taken += m->poeWatts;
                budget += m->poeBudget;
                sockets += m->poePorts;
                devices += m->network;
            }
        if (budget > 0 && taken > budget)
            add(Code::poeOver, "", p_.name, "",
                print("Devices take %.0f W over the network; the switches offer %.0f W.", taken, budget),
                "Add a switch, or feed some by other means.");
        if (sockets > 0 && devices > sockets)
            add(Code::socketsOver, "", p_.name, "",
                print("%d devices want a socket; the switches have %d.", devices, sockets), "Add a switch.");
    }

    // A port is one room's, or several rooms' that some wall state makes one.
    void checkOwners() {
        const auto joinable = joinableRooms(p_);
        for (const auto& d : p_.devices)
            for (const auto& [port, owner] : d.owners) {
                const auto rooms = roomsOfOwner(owner);
                if (rooms.empty() ||
                    std::any_of(rooms.begin(), rooms.end(), [&](const auto& r) { return !p_.room(r); }))
                    add(Code::ownerUnknown, d.id, d.name, roomName(d),
                        "Port \"" + port + "\" belongs to a room that is not there.",
                        "Give it to a room of this project.");
                else if (rooms.size() > 1 && std::none_of(joinable.begin(), joinable.end(), [&](const auto& j) {
                             const auto one = roomsOfOwner(j);
                             return std::all_of(rooms.begin(), rooms.end(), [&](const auto& r) {
                                 return std::find(one.begin(), one.end(), r) != one.end();
                             });
                         }))
                    add(Code::ownerTwoRooms, d.id, d.name, roomName(d),
                        "Port \"" + port + "\" belongs to " + std::to_string(rooms.size()) +
                            " rooms that no wall state joins.",
                        "Give it to one of them, or put a movable wall between them.");
            }
    }

    const Project& p_;
    std::vector<Finding> found_;
};

} // namespace

std::vector<Finding> checkRooms(const Project& project) {
    return RoomChecker(project).run();
}

std::vector<Finding> checkAcoustics(const Project& p, std::stop_token stop) {
    std::vector<Finding> found;
    const auto add = [&](const SpaceFigures& f, Code code, std::string reason, std::string remedy) {
        const std::string where = f.name + (f.wallState.empty() ? "" : ", " + f.wallState);
        const auto* room = p.room(f.rooms.front());
        found.push_back(
            {code, f.rooms.front(), f.wallState, where, std::move(reason), std::move(remedy), room ? room->name : ""});
    };
    RoomDrives drives;
    for (const auto& b : p.buildings) {
        std::set<std::string> seen; // spaces that more than one wall state has are looked at once
        std::vector<const WallState*> states{nullptr};
        for (const auto& s : b.states)
            states.push_back(&s);
        for (const auto* state : states)
            for (const auto& space : spacesOf(b, state)) {
                if (stop.stop_requested())
                    return found;
                if ((space.rooms.size() == 1 && state) || !seen.insert(space.name).second)
                    continue;
                const auto m = modelOf(p, space, state);
                const auto f = figuresOf(m);
                for (const auto* r : space.rooms)
                    if (f.predicted && space.rooms.size() == 1)
                        drives[r->id] = f.drive;
                if (f.predicted) {
                    if (f.levels.within3 < m.targets.within3)
                        add(f, Code::uneven,
                            print("%.0f %% of the seats get direct sound within ±3 dB (2 kHz), %.0f %% are wanted.",
                                  f.levels.within3 * 100, m.targets.within3 * 100),
                            "See the suggestions beside the plan, or add loudspeakers where it is weak.");
                    if (f.worstSti < m.targets.sti)
                        add(f, Code::unclear,
                            print("Speech clarity is %.2f STI at %s, %.2f is wanted.", f.worstSti, f.worstSeat.c_str(),
                                  m.targets.sti),
                            "Less reverberation, less noise, or loudspeakers nearer to the seats.");
                    if (f.headroom < 0)
                        add(f, Code::tooWeak,
                            print("The loudspeakers would have to play %.1f dB louder than they can.", -f.headroom),
                            "More or stronger loudspeakers, or a lower target level.");
                }
                if (!f.heard.empty() && f.microphones > 0 && f.talkersHeard < static_cast<int>(f.heard.size()))
                    add(f, Code::notPickedUp,
                        print("%d of %d talkers are picked up well enough.", f.talkersHeard, f.heard.size()),
                        "Move a microphone nearer, or add one; the pick-up map shows where.");
                const auto loops = loopsOf(m, 1, stop);
                if (!loops.empty() && loops.front().spareDb < 0)
                    add(f, Code::feedback,
                        print("%s is %.1f dB short of gain before feedback (at %.0f Hz).",
                              loops.front().microphone.c_str(), -loops.front().spareDb, loops.front().hz),
                        "Nearer microphones, loudspeakers further from them, or a lower target level.");
            }
    }
    const auto weak = checkHeadroom(p, drives);
    found.insert(found.end(), weak.begin(), weak.end());
    return found;
}

RackLoad loadOf(const Project& p, const Rack& rack) {
    RackLoad l;
    l.units = rack.units;
    for (const auto& d : p.devices)
        if (const auto* m = d.place.rack == rack.id ? d.spec() : nullptr) {
            l.unitsUsed += std::max(m->rackUnits, 1);
            l.watts += m->watts;
            l.heat += m->heat > 0 ? m->heat : m->watts;
            l.poeTaken += m->poeWatts;
            l.poeBudget += m->poeBudget;
        }
    return l;
}

} // namespace loom::project
