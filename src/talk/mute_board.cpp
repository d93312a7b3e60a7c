#include "talk/mute_board.h"
#include "model/contact.h"
#include "model/set_up.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include <algorithm>

namespace loom::project {

namespace {

using Line = MuteBoard::Line;
using MuteAt = MuteBoard::Place;

std::string kindOfDevice(const DeviceModel& m) {
    return m.microphone ? (m.microphone->lobes > 0 ? "array" : "microphone") : m.use == "slate" ? "surface" : "button";
}

} // namespace

bool MuteBoard::any() const {
    return std::any_of(places.begin(), places.end(), [](const auto& p) { return p.does == "sets"; });
}

std::string MuteBoard::withoutNetwork() const {
    for (const auto& p : places)
        if (p.does == "sets" && p.line != Line::network)
            return p.name;
    for (const auto& p : places)
        if (p.cuts && p.key == "self" && p.does != "off")
            return p.name;
    return "";
}

const char* nameOf(MuteBoard::Line line) {
    constexpr const char* names[] = {"in itself", "by a wire", "over USB", "over the telephone line",
                                     "over the network"};
    return names[static_cast<std::size_t>(line)];
}

std::map<std::string, std::vector<std::string>> mutedBlocks(const engine::Program& p,
                                                            const std::map<std::string, std::string>& spaceOfPort) {
    std::map<std::string, std::vector<std::string>> all;
    for (const auto& [port, space] : spaceOfPort)
        if (const auto* to = endAt(p, port, engine::End::leaves))
            for (auto& b : mutesBefore(p, to->id))
                if (auto& blocks = all[space]; std::find(blocks.begin(), blocks.end(), b) == blocks.end())
                    blocks.push_back(std::move(b));
    return all;
}

MuteBoard muteBoardOf(const Project& p, const SpaceOf& of) {
    MuteBoard board;
    const auto c = conversationOf(p, of);
    std::vector<std::string> processors;
    const auto take = [&](const std::string& id) {
        if (std::find(processors.begin(), processors.end(), id) == processors.end())
            processors.push_back(id);
    };
    for (const auto& f : c.farEnds) {
        take(f.device);
        if (!f.destination.empty())
            board.cuts.push_back({f.device, f.name, f.destination, f.mutes});
    }
    for (const auto& m : c.microphones)
        if (const auto* d = p.device(m.input.device); d && d->program)
            take(m.input.device);
    for (const auto& m : c.mutePlaces) {
        const auto* d = p.device(m.device);
        const auto key = m.port.empty() ? std::string("self") : m.port;
        const auto it = d->mutes.find(key);
        const auto by = m.port.empty() ? Transport::network : transportOf(m.port);
        MuteAt one;
        one.device = m.device, one.key = key, one.name = m.name;
        one.does = it == d->mutes.end() ? "off" : it->second;
        one.space = spaceOfMute(*d, key);
        one.kind = m.port.empty()               ? kindOfDevice(*d->spec())
                   : by == Transport::usb       ? "computer"
                   : by == Transport::telephone ? "telephone"
                                                : "far end";
        one.line = by == Transport::usb && !m.port.empty()         ? Line::usb
                   : by == Transport::telephone && !m.port.empty() ? Line::telephone
                                                                   : Line::network;
        one.maySet = m.port.empty() ? d->spec()->mute == "sets" : by == Transport::usb;
        one.cuts = m.port.empty() && d->spec()->microphone.has_value();
        board.places.push_back(std::move(one));
    }
    for (const auto& id : processors) {
        const auto* d = p.device(id);
        for (const auto& [contact, text] : d->contacts)
            if (const auto use = readContact(contact, text);
                use && (use->kind == ContactUse::Kind::mute || use->kind == ContactUse::Kind::lamp) &&
                of.owns(use->space)) {
                const bool button = use->kind == ContactUse::Kind::mute;
                board.places.push_back({id, contact, d->name + " " + contact, button ? "wired button" : "lamp",
                                        button ? "sets" : "shows", button, false, Line::wired, use->space});
            }
        std::size_t blocks = 0;
        for (const auto& cut : board.cuts)
            blocks += cut.device == id ? cut.blocks.size() : 0;
        if (blocks > 0)
            board.places.push_back({id, "cut", d->name, "processor", "cuts", false, true, Line::own, c.space});
    }
    return board;
}

Result<Edit> setMutePlace(const Project& p, const SpaceOf& space, const std::string& device, const std::string& key,
                          const std::string& does) {
    if (does != "sets" && does != "shows" && does != "off")
        return Error{"\"" + does + "\" is nothing that a place does", key, "Say sets, shows or off."};
    const auto* d = p.device(device);
    if (!d)
        return Error{"there is no such device", device, "loomctl mutes lists the places."};
    const bool contact = key.rfind("contact ", 0) == 0, relay = key.rfind("relay ", 0) == 0;
    if (contact || relay) {
        if (does == (contact ? "shows" : "sets"))
            return Error{contact ? "a contact cannot show it" : "a relay cannot set it", d->name + " " + key,
                         contact ? "Let it set it." : "Let it show it."};
        const auto text = does == "off" ? "" : (contact ? "mute " : "lamp ") + space.key();
        SetUp wanted{{key, text}};
        if (auto good =
                d->spec() ? checkSetUp(*d->spec(), wanted) : Result<Done>(Error{"is of no known model", d->name, ""});
            !good)
            return good.error();
        return changeDevice(device, d->name + " " + key + (text.empty() ? " is free" : " mutes " + space.space.name),
                            [key, text](Device& one) {
                                text.empty() ? void(one.contacts.erase(key)) : void(one.contacts[key] = text);
                            });
    }
    for (const auto& place : muteBoardOf(p, space).places)
        if (place.device == device && place.key == key) {
            if (key == "cut")
                return Error{"the processor always cuts it", place.name, "Take its mute blocks out in Weave."};
            if (does == "sets" && !place.maySet)
                return Error{"cannot set it", place.name, "Let it show it."};
            return changeDevice(device,
                                place.name + (does == "off" ? " takes no part in the mute" : " " + does + " the mute"),
                                [key, does](Device& one) { one.mutes[key] = does; });
        }
    return Error{"has no such place in " + space.space.name, d->name + " " + key, "loomctl mutes lists the places."};
}

Result<Edit> cutFarEnds(const Project& p, const SpaceOf& space) {
    std::vector<std::pair<std::string, std::string>> missing; // device, destination
    for (const auto& cut : muteBoardOf(p, space).cuts)
        if (cut.blocks.empty())
            missing.emplace_back(cut.device, cut.destination);
    if (missing.empty())
        return Error{"all far ends are cut already", space.space.name, ""};
    return Edit{"Mute on the way to " + std::to_string(missing.size()) +
                    (missing.size() == 1 ? " far end" : " far ends"),
                [missing](Project now) -> Result<Project> {
                    for (const auto& [device, to] : missing) {
                        auto* d = now.device(device);
                        auto made = insertBlock(*d->program, "mute", {to, 0});
                        if (!made)
                            return made.error();
                        d->program = std::move(made->program);
                    }
                    return now;
                }};
}

} // namespace loom::project
