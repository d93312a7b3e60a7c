#include "rooms/owned_ports.h"
#include "dsp/number.h"
#include <algorithm>
#include <sstream>

namespace loom::project {

std::vector<std::string> roomsOfOwner(const std::string& owner) {
    std::vector<std::string> all;
    std::istringstream in(owner);
    for (std::string one; std::getline(in, one, '+');)
        if (!one.empty())
            all.push_back(one);
    return all;
}

std::string ownerOf(const std::vector<std::string>& rooms) {
    std::string all;
    for (const auto& r : rooms)
        all += (all.empty() ? "" : "+") + r;
    return all;
}

std::vector<OwnedPort> portsOf(const Project& p, const Space& space) {
    std::vector<OwnedPort> all;
    for (const auto& d : p.devices) {
        const auto* m = d.spec();
        if (!m)
            continue;
        const bool here = space.has(d.room) && d.place.rack.empty() && m->network; // others are at the end of a cable
        for (const bool input : {true, false})
            for (const auto& port : m->ports(input)) {
                const auto it = d.owners.find(port + (input ? "" : " out"));
                const auto rooms = it == d.owners.end() ? std::vector<std::string>{} : roomsOfOwner(it->second);
                const bool given = !rooms.empty() &&
                                   std::all_of(rooms.begin(), rooms.end(), [&](const auto& r) { return space.has(r); });
                if (given || (here && rooms.empty()))
                    all.push_back({&d, port, input});
            }
    }
    return all;
}

std::vector<std::string> portsText(const std::vector<OwnedPort>& ports) {
    std::vector<std::string> all;
    for (std::size_t i = 0; i < ports.size();) {
        const auto* d = ports[i].device;
        std::string line = d->name + " ", before;
        for (std::size_t from = i; i < ports.size() && ports[i].device == d; ++i) {
            // A run of numbered ports is told by its ends.
            const auto space = ports[i].port.rfind(' ');
            const std::string group = ports[i].port.substr(0, space);
            const int number = wholeInteger(ports[i].port.substr(space + 1), 0, 100000).value_or(0);
            const bool follows = i + 1 < ports.size() && ports[i + 1].device == d &&
                                 ports[i + 1].port == group + " " + std::to_string(number + 1);
            if (follows)
                continue;
            int first = number;
            for (std::size_t k = i; k > from && ports[k - 1].port == group + " " + std::to_string(first - 1); --k)
                --first;
            line += (before.empty() ? "" : ", ") + group + " " + std::to_string(first) +
                    (first < number ? "\u2013" + std::to_string(number) : "");
            before = group;
        }
        all.push_back(line);
    }
    return all;
}

std::vector<std::string> joinableRooms(const Project& p) {
    std::vector<std::string> all;
    for (const auto& b : p.buildings)
        for (const auto& s : b.states)
            for (const auto& space : spacesOf(b, &s)) {
                std::vector<std::string> ids;
                for (const auto* r : space.rooms)
                    ids.push_back(r->id);
                if (ids.size() > 1 && std::find(all.begin(), all.end(), ownerOf(ids)) == all.end())
                    all.push_back(ownerOf(ids));
            }
    return all;
}

} // namespace loom::project
