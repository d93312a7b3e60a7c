#include "site/found.h"
#include "dsp/number.h"
#include "model/address.h"
#include "rooms/room_edit.h"
#include <algorithm>
#include <set>
#include <tuple>

namespace loom::site {

using nlohmann::json;
using project::Device;
using project::Project;

bool tellsTheSame(const DiscoveredDevice& a, const DiscoveredDevice& b) {
    return schema::toJson(a) == schema::toJson(b);
}

// ---- addresses ----

bool onSite(const Device& d) {
    const auto* m = d.spec();
    return m && m->onSite();
}

std::optional<std::uint32_t> readAddress(const std::string& text) {
    if (!project::isAddress(text))
        return {};
    std::uint32_t all = 0, part = 0;
    for (const char c : text)
        if (c == '.') {
            all = all << 8 | part;
            part = 0;
        } else
            part = part * 10 + static_cast<std::uint32_t>(c - '0');
    return all << 8 | part;
}

std::string addressText(std::uint32_t a) {
    std::string t;
    for (int shift = 24; shift >= 0; shift -= 8)
        t += std::to_string(a >> shift & 255) + (shift ? "." : "");
    return t;
}

std::optional<Subnet> readSubnet(const std::string& text) {
    const auto slash = text.find('/');
    if (slash == std::string::npos || text.size() - slash > 3)
        return {};
    const auto a = readAddress(text.substr(0, slash));
    const auto digits = text.substr(slash + 1);
    if (!a || digits.empty() || digits.find_first_not_of("0123456789") != std::string::npos)
        return {};
    const int bits = wholeInteger(digits, 0, 99).value_or(0);
    if (bits < 8 || bits > 30)
        return {};
    return Subnet{*a & ~((1u << (32 - bits)) - 1), bits};
}

bool Subnet::holds(const std::string& address) const {
    const auto a = readAddress(address);
    return a && (*a & ~((1u << (32 - bits)) - 1)) == base;
}

std::vector<std::string> Subnet::hosts() const {
    std::vector<std::string> all;
    const std::uint32_t count = std::min<std::uint32_t>((1u << (32 - bits)) - 2, 1022);
    for (std::uint32_t i = 1; i <= count; ++i)
        all.push_back(addressText(base + i));
    return all;
}

std::vector<std::string> usbSockets() {
    std::vector<std::string> all;
    for (int i = 1; i <= 8; ++i)
        all.push_back("127.47.10." + std::to_string(i));
    return all;
}

// ---- pairing ----

namespace {

bool onUsb(const DiscoveredDevice& f) {
    const auto* m = f.spec();
    return m && m->usb;
}

std::set<std::string> takenSerials(const Project& p) {
    std::set<std::string> taken;
    for (const auto& d : p.devices)
        if (!d.serial.empty())
            taken.insert(d.serial);
    return taken;
}

} // namespace

std::vector<Match> matches(const Project& p, const std::vector<DiscoveredDevice>& found,
                           const std::vector<PairBy>& ways) {
    std::vector<Match> out;
    auto taken = takenSerials(p);
    std::vector<const Device*> planned;
    for (const auto& d : p.devices)
        if (d.serial.empty() && onSite(d))
            planned.push_back(&d);
    std::map<std::string, std::vector<const DiscoveredDevice*>> free; // by model
    for (const auto& f : found)
        if (!taken.count(f.serial))
            free[f.model].push_back(&f);
    const auto pair = [&](const Device* d, const DiscoveredDevice& f, PairBy by, const std::string& why) {
        out.push_back({d->id, f.serial, by, why});
        taken.insert(f.serial);
        std::erase(planned, d);
    };
    const auto candidates = [&](const Device& d, auto fits) {
        std::vector<const DiscoveredDevice*> all;
        if (const auto likes = free.find(d.model); likes != free.end())
            for (const auto* f : likes->second)
                if (!taken.count(f->serial) && fits(*f))
                    all.push_back(f);
        return all;
    };
    const auto plannedOf = [&](const std::string& model) {
        std::vector<const Device*> all;
        std::copy_if(planned.begin(), planned.end(), std::back_inserter(all),
                     [&](const Device* d) { return d->model == model; });
        return all;
    };
    for (const auto way : ways) {
        const auto todo = planned;
        for (const auto* d : todo) {
            if (std::find(planned.begin(), planned.end(), d) == planned.end())
                continue;
            std::vector<const DiscoveredDevice*> fits;
            std::string why;
            if (way == PairBy::name) {
                fits = candidates(*d, [&](const DiscoveredDevice& f) { return f.name == d->name; });
                why = "same name";
            } else if (way == PairBy::serial) // the asset number may be the serial as delivered
            {
                fits = candidates(*d, [&](const DiscoveredDevice& f) { return f.serial == d->assetNumber; });
                why = "same serial";
            } else if (way == PairBy::address) {
                fits = candidates(*d, [&](const DiscoveredDevice& f) { return f.address == d->address; });
                why = "same address";
            } else {
                fits = candidates(*d, [](const DiscoveredDevice&) { return true; });
                const auto likes = plannedOf(d->model);
                if (way == PairBy::model) {
                    if (likes.size() != 1)
                        continue;
                    why = "the only " + (fits.empty() ? d->model : fits[0]->modelName) + " left";
                } else {
                    const auto net = readSubnet(d->address + "/24"); // strangers to the plan's network come last
                    const auto rank = [&](const DiscoveredDevice* f) {
                        return std::tuple(net && !net->holds(f->address), readAddress(f->address), f->serial);
                    };
                    std::sort(fits.begin(), fits.end(),
                              [&](const DiscoveredDevice* a, const DiscoveredDevice* b) { return rank(a) < rank(b); });
                    for (std::size_t i = 0; i < std::min(likes.size(), fits.size()); ++i)
                        pair(likes[i], *fits[i], way, "by position");
                    continue;
                }
            }
            if (fits.size() == 1)
                pair(d, *fits[0], way, why);
        }
    }
    return out;
}

// ---- what is wrong ----

std::string proposeAddress(const Project& p, const std::vector<DiscoveredDevice>& found, const DiscoveredDevice& of,
                           const Subnet& subnet, const std::vector<std::string>& promised) {
    std::set<std::string> heard(promised.begin(), promised.end()), planned;
    for (const auto& f : found)
        if (f.serial != of.serial)
            heard.insert(f.address);
    const Device* mine = nullptr;
    for (const auto& d : p.devices) {
        planned.insert(d.address);
        if (d.serial == of.serial)
            mine = &d;
    }
    const auto free = [&](const std::string& a) { return subnet.holds(a) && !heard.count(a); };
    if (mine)
        return free(mine->address) ? mine->address : "";
    for (const auto& d : p.devices) // one of its model that waits for a device, where nobody is yet
        if (d.serial.empty() && d.model == of.model && free(d.address))
            return d.address;
    const auto hosts = subnet.hosts();
    const std::size_t first = hosts.size() > 30 ? 9 : 0; // routers and servers like the lowest
    for (std::size_t i = first; i < hosts.size(); ++i)
        if (free(hosts[i]) && !planned.count(hosts[i]))
            return hosts[i];
    return "";
}

std::string randomAddress(const Project& p, const std::vector<DiscoveredDevice>& found, const DiscoveredDevice& of,
                          const Subnet& subnet, std::uint32_t dice) {
    std::set<std::string> taken;
    for (const auto& f : found)
        if (f.serial != of.serial)
            taken.insert(f.address);
    for (const auto& d : p.devices)
        taken.insert(d.address);
    auto free = subnet.hosts();
    std::erase_if(free, [&](const std::string& a) { return taken.count(a) > 0; });
    return free.empty() ? std::string() : free[dice % free.size()];
}

std::vector<SiteFinding> siteFindings(const Project& p, const std::vector<DiscoveredDevice>& found,
                                      const std::optional<Subnet>& reached, const std::vector<std::string>& lost) {
    using Cure = SiteFinding::Cure;
    using Code = project::FindingCode;
    std::vector<SiteFinding> out;
    std::map<std::string, const Device*> pairedTo;
    for (const auto& d : p.devices)
        if (!d.serial.empty())
            pairedTo[d.serial] = &d;
    const auto who = [&](const DiscoveredDevice& f) { return f.modelName + " " + f.serial; };
    std::vector<std::string> promised;
    std::map<std::string, std::vector<const DiscoveredDevice*>> byAddress;
    for (const auto& f : found)
        byAddress[f.address].push_back(&f);
    for (const auto& [address, holders] : byAddress) {
        if (holders.size() < 2 || onUsb(*holders.front()))
            continue;
        // The one that is planned there, or the first, may stay.
        const auto stays = std::find_if(holders.begin(), holders.end(), [&, here = address](const DiscoveredDevice* f) {
            const auto it = pairedTo.find(f->serial);
            return it != pairedTo.end() && it->second->address == here;
        });
        const DiscoveredDevice* keeps = stays == holders.end() ? holders.front() : *stays;
        for (const auto* f : holders) {
            if (f == keeps)
                continue;
            SiteFinding s{Cure::readdress, Code::addressShared, "", f->serial};
            s.reason = who(*f) + " and " + who(*keeps) + " both have the address " + address + ".";
            s.address = proposeAddress(p, found, *f, reached ? *reached : *readSubnet(address + "/24"), promised);
            promised.push_back(s.address);
            s.remedy = s.address.empty() ? "Give it another address by hand: the subnet is full."
                                         : "Give " + f->serial + " the address " + s.address + ".";
            out.push_back(s);
        }
    }
    for (const auto& f : found) {
        const bool planned = pairedTo.count(f.serial) > 0;
        if (reached && !reached->holds(f.address) && f.asked.empty() && !onUsb(f)) {
            SiteFinding s{Cure::readdress, Code::wrongSubnet, "", f.serial};
            s.reason = who(f) + " has the address " + f.address + ", which this adapter cannot reach.";
            s.address = proposeAddress(p, found, f, *reached, promised);
            promised.push_back(s.address);
            s.remedy = "Give it the address " + s.address + ".";
            out.push_back(s);
        }
        if (const auto* m = f.spec(); m && older(f.firmware, m->firmware) && planned) {
            SiteFinding s{Cure::firmware, Code::firmware, pairedTo[f.serial]->id, f.serial};
            s.reason = who(f) + " has firmware " + f.firmware + "; " + m->firmware + " is offered.";
            s.remedy = "Bring it up to date when nobody needs the room, or leave it for later with a reason.";
            out.push_back(s);
        }
    }
    // Which found ones nobody has, by model; they may stand for what is planned or what is lost.
    std::map<std::string, std::vector<const DiscoveredDevice*>> spare;
    for (const auto& f : found)
        if (!pairedTo.count(f.serial))
            spare[f.model].push_back(&f);
    for (const auto& d : p.devices) {
        if (!onSite(d))
            continue;
        const bool gone = !d.serial.empty() && std::find(lost.begin(), lost.end(), d.serial) != lost.end();
        if (!gone && !d.serial.empty())
            continue;
        auto& spares = spare[d.model];
        SiteFinding s{Cure::look, gone ? Code::lost : Code::notFound, d.id, ""};
        if (gone) {
            s.reason = d.name + " (" + d.serial + ") does not answer.";
            s.remedy = "Look at its power and cable.";
            if (!spares.empty()) {
                s.cure = Cure::replace;
                s.serial = spares.front()->serial;
                s.remedy += " Or let " + spares.front()->serial + " take its place.";
            }
        } else if (spares.empty()) {
            s.reason = d.name + " is planned, and no " + d.spec()->name + " is left for it.";
            s.remedy = "Look at its power and cable, then look again.";
        } else {
            continue; // it can be paired
        }
        out.push_back(s);
    }
    for (const auto& f : found) {
        if (pairedTo.count(f.serial))
            continue;
        const bool wanted = std::any_of(p.devices.begin(), p.devices.end(), [&](const Device& d) {
            return d.model == f.model &&
                   (d.serial.empty() || std::find(lost.begin(), lost.end(), d.serial) != lost.end());
        });
        if (wanted)
            continue;
        SiteFinding s{Cure::add, Code::notPlanned, "", f.serial};
        s.reason = who(f) + " at " + f.address + " is not in the plan.";
        s.remedy = "Put it into the plan, or leave it.";
        out.push_back(s);
    }
    return out;
}

std::string likelyRoom(const Project& p, const DiscoveredDevice& f) {
    std::string named, near;
    std::size_t longest = 0;
    int nearby = 0;
    for (const auto& b : p.buildings)
        for (const auto& r : b.rooms) {
            if (!r.name.empty() && f.name.rfind(r.name, 0) == 0 && r.name.size() > longest) {
                named = r.id;
                longest = r.name.size();
            }
            if (const auto subnet = readSubnet(r.subnet); subnet && subnet->holds(f.address)) {
                near = r.id;
                ++nearby;
            }
        }
    return !named.empty() ? named : nearby == 1 ? near : std::string();
}

Device plannedFrom(const Project& p, const DiscoveredDevice& f, const std::string& room) {
    Device d;
    d.model = f.model;
    d.models = f.models;
    d.room = room;
    const std::string named = project::freeName(p, d, f.name.empty() || f.name == f.modelName ? "{model} {n}" : f.name);
    d.name = named;
    std::string id;
    for (const char c : named)
        id += std::isalnum(static_cast<unsigned char>(c)) ? static_cast<char>(std::tolower(c)) : '-';
    d.id = id;
    for (int n = 2; p.device(d.id); ++n)
        d.id = id + "-" + std::to_string(n);
    if (!onUsb(f))
        d.address = f.address;
    d.serial = f.serial;
    d.known.identity = f.identity;
    if (const auto* m = f.spec())
        d.use = m->use;
    return d;
}

bool older(const std::string& a, const std::string& b) {
    const auto parts = [](const std::string& text) {
        std::vector<int> all;
        std::istringstream in(text);
        for (std::string part; std::getline(in, part, '.');)
            all.push_back(static_cast<int>(leadingNumber(part.substr(0, 6)).value));
        return all;
    };
    return parts(a) < parts(b);
}

} // namespace loom::site
