#include "talk/belongings.h"
#include "catalogue/transport.h"
#include "model/block_names.h"
#include "model/contact.h"
#include "model/set_up.h"
#include "program/ports.h"
#include "rooms/owned_ports.h"
#include "talk/conversation.h"
#include <algorithm>
#include <set>

namespace loom::project {

namespace {

using Kind = Belonging::Kind;

std::string ownerOfPort(const Device& d, const std::string& port, bool input) {
    auto it = d.owners.find(port + (input ? "" : " out"));
    if (it == d.owners.end())
        it = d.owners.find(port);
    return it == d.owners.end() ? std::string() : it->second;
}

// A room is told where the port says nothing: of the microphone that is led there.
std::string roomOfFeed(const Project& p, const Device& d, const std::string& port) {
    const auto it = d.feeds.find(port);
    if (it == d.feeds.end())
        return "";
    const auto* from = p.device(it->second.substr(0, it->second.find('/')));
    return from ? from->room : std::string();
}

std::string nameOfFeed(const Project& p, const Device& d, const std::string& port) {
    const auto it = d.feeds.find(port);
    const auto* from = it == d.feeds.end() ? nullptr : p.device(it->second.substr(0, it->second.find('/')));
    return from ? from->name : std::string();
}

} // namespace

const char* nameOf(Belonging::Kind kind) {
    constexpr const char* names[] = {"Microphone or line", "Line out", "USB", "Telephone", "Array", "Contact"};
    return names[static_cast<std::size_t>(kind)];
}

std::vector<Belonging> belongingsOf(const Project& p) {
    std::vector<Belonging> all;
    std::map<std::pair<std::string, std::string>, std::string> zones; // room that an output is heard in
    for (const auto& b : p.buildings)
        for (auto& s : spacesOf(b, nullptr)) {
            const SpaceOf of{&b, nullptr, std::move(s)};
            for (const auto& l : conversationOf(p, of).listeners)
                if (l.kind == Conversation::Listener::Kind::zone)
                    zones.try_emplace({l.device, l.port}, of.key());
        }
    for (const auto& d : p.devices) {
        const auto* m = d.spec();
        if (m && m->microphone && m->network) {
            all.push_back({Kind::array, d.id, "", true, d.name, d.room, true, false});
            continue;
        }
        if (!m || !d.program || m->amplifier || !m->network)
            continue;
        std::set<std::string> seen; // USB and telephone are one port both ways
        for (const bool input : {true, false})
            for (const auto& port : m->ports(input)) {
                const auto by = transportOf(port);
                const auto* end = endAt(*d.program, port, input ? engine::End::arrives : engine::End::leaves);
                Belonging one;
                one.device = d.id, one.port = port, one.input = input;
                one.owner = ownerOfPort(d, port, input);
                if (by == Transport::usb || by == Transport::telephone) {
                    if (!seen.insert(port).second)
                        continue;
                    one.kind = by == Transport::usb ? Kind::usb : Kind::telephone;
                    const auto* other = endAt(*d.program, port, input ? engine::End::leaves : engine::End::arrives);
                    one.used = end || other;
                    one.name = end ? blockName(*d.program, *end) : other ? blockName(*d.program, *other) : "";
                } else if (specOf(by).streams) {
                    if (one.owner.empty())
                        continue;
                    one.kind = input ? Kind::microphone : Kind::line;
                    one.used = end != nullptr;
                    one.name = end ? blockName(*d.program, *end) : "";
                } else {
                    one.kind = input ? Kind::microphone : Kind::line;
                    one.name = input ? nameOfFeed(p, d, port) : "";
                    if (one.owner.empty() && input)
                        one.owner = roomOfFeed(p, d, port);
                    else if (const auto zone = zones.find({d.id, port}); one.owner.empty() && zone != zones.end())
                        one.owner = zone->second;
                    one.used = end || !one.name.empty();
                    if (one.name.empty() && end)
                        one.name = blockName(*d.program, *end);
                }
                all.push_back(std::move(one));
            }
        for (const auto& [what, n] : {std::pair("contact ", m->contacts), std::pair("relay ", m->relays)})
            for (int i = 1; i <= n; ++i) {
                Belonging one;
                one.kind = Kind::contact, one.device = d.id, one.port = what + std::to_string(i);
                one.input = what[0] == 'c';
                one.owner = ownerOfPort(d, one.port, true);
                if (const auto it = d.contacts.find(one.port); it != d.contacts.end())
                    if (const auto use = readContact(it->first, it->second);
                        use && use->kind != ContactUse::Kind::none) {
                        one.used = true, one.name = it->second;
                        one.owner = use->space;
                        one.mayMove = use->kind != ContactUse::Kind::wall;
                    }
                all.push_back(std::move(one));
            }
    }
    return all;
}

Result<Edit> giveTo(const Project& p, const std::vector<std::pair<std::string, std::string>>& ports,
                    const std::string& owner) {
    const auto rooms = roomsOfOwner(owner);
    std::string whose = "nobody";
    for (std::size_t i = 0; i < rooms.size(); ++i) {
        const auto* room = p.room(rooms[i]);
        if (!room)
            return Error{"there is no such room", rooms[i], "loomctl rooms lists them."};
        whose = i == 0 ? room->name : whose + " | " + room->name;
    }
    if (rooms.size() > 1) {
        const auto joinable = joinableRooms(p);
        if (std::find(joinable.begin(), joinable.end(), owner) == joinable.end())
            return Error{"are never one", whose, "Give it to one of them, or draw a wall state that joins them."};
    }
    if (ports.empty())
        return Error{"no port is chosen", whose, "Choose one or more."};
    std::vector<Edit> edits;
    const auto all = belongingsOf(p);
    for (const auto& [device, port] : ports) {
        const auto it = std::find_if(all.begin(), all.end(),
                                     [&, d = device, o = port](const auto& b) { return b.device == d && b.port == o; });
        if (it == all.end())
            return Error{"there is no such port", device + "/" + port, "loomctl whose lists them."};
        if (!it->mayMove)
            return it->kind == Kind::array
                       ? Error{"belongs to the room it hangs in", it->name, "Move it in Survey."}
                       : Error{"belongs to the rooms that its wall divides", device + "/" + port, ""};
        const bool used = it->kind == Kind::contact && it->used;
        edits.push_back(changeDevice(device, "Give", [port = port, owner, used](Device& d) {
            owner.empty() ? void(d.owners.erase(port)) : void(d.owners[port] = owner);
            if (!used)
                return;
            if (auto use = readContact(port, d.contacts[port])) {
                use->space = owner;
                owner.empty() ? void(d.contacts.erase(port)) : void(d.contacts[port] = contactText(*use));
            }
        }));
    }
    return together(std::move(edits), (ports.size() == 1 ? "Give " + ports.front().second
                                                         : "Give " + std::to_string(ports.size()) + " ports") +
                                          " to " + whose);
}

Result<Edit> setLatch(const Project& p, const std::string& device, const std::string& contact,
                      const std::string& wall) {
    const auto* d = p.device(device);
    if (!d || !d->spec())
        return Error{"there is no such device", device, "loomctl whose lists them."};
    ContactUse use;
    std::string name = "nothing";
    if (!wall.empty()) {
        for (const auto& b : p.buildings)
            for (const auto& w : b.walls)
                if (w.id == wall)
                    use = {ContactUse::Kind::wall, w.id, ownerOf(w.rooms)}, name = w.name;
        if (use.kind == ContactUse::Kind::none)
            return Error{"there is no such movable wall", wall, "Draw it in Survey."};
    }
    const auto text = contactText(use);
    if (contact.rfind("contact ", 0) != 0)
        return Error{"is no contact", contact, "A latch hangs on contact 1, contact 2 ..."};
    if (auto good = checkSetUp(*d->spec(), {{contact, text}}); !good)
        return good.error();
    return changeDevice(device, d->name + " " + contact + ": " + name, [contact, text](Device& one) {
        text.empty() ? void(one.contacts.erase(contact)) : void(one.contacts[contact] = text);
    });
}

std::vector<OtherChannel> otherChannels(const Project& p) {
    std::vector<OtherChannel> all;
    const auto list = belongingsOf(p);
    for (const auto& used : list)
        if (used.kind == Kind::usb && used.used && !used.owner.empty())
            for (const auto& other : list)
                if (other.kind == Kind::usb && other.device == used.device && !other.used && other.owner.empty())
                    all.push_back({used.device, used.port, other.port, used.owner});
    return all;
}

} // namespace loom::project
