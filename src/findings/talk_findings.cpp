#include "findings/talk_findings.h"
#include "dsp/number.h"
#include "engine/origin.h"
#include "engine/path_response.h"
#include "model/block_names.h"
#include "model/contact.h"
#include "model/set_up.h"
#include "program/ports.h"
#include "rooms/owned_ports.h"
#include "talk/belongings.h"
#include "talk/mixes.h"
#include "talk/mute_board.h"
#include "talk/prove.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

using Code = FindingCode;
using engine::PortRef;

constexpr double heard = 1e-3; // a path below -60 dB is none

bool passes(const engine::Program& p, const PortRef& from, const PortRef& to) {
    const auto h = engine::pathResponse(p, from, to, {500, 1000, 2000}, 48000);
    return h && std::any_of(h->begin(), h->end(), [](const auto& v) { return std::abs(v) > heard; });
}

class TalkChecker {
  public:
    explicit TalkChecker(const Project& p) : p_(p) {}
    std::vector<Finding> run() {
        for (const auto& space : spacesThatTalk(p_))
            checkSpace(space);
        for (const auto& b : p_.buildings)
            checkClaims(b);
        for (const auto& one : otherChannels(p_))
            add(Code::otherChannel, one.device, "", nameOf(one.device) + " \u00b7 " + one.free, roomName(one.owner),
                one.used + " belongs to " + roomName(one.owner) + " and " + one.free +
                    " to nobody: a call on the computer's other channel is not heard.",
                "Give " + one.free + " to " + roomName(one.owner) + " in Talk, Whose is what, and press First pass.");
        for (const auto& d : p_.devices) {
            checkLine(d);
            checkWalls(d);
        }
        checkProofs();
        return std::move(found_);
    }

  private:
    void add(Code code, const std::string& device, const std::string& block, std::string place, std::string room,
             std::string reason, std::string remedy) {
        if (!seen_.insert({code, device, block}).second)
            return; // a room is looked at in each state of its walls
        found_.push_back(
            {code, device, block, std::move(place), std::move(reason), std::move(remedy), std::move(room)});
    }
    std::string nameOf(const std::string& device) const {
        const auto* d = p_.device(device);
        return d ? d->name : device;
    }
    std::string nameOf(const std::string& device, const std::string& block) const {
        const auto& p = *p_.device(device)->program;
        const auto* b = p.find(block);
        return nameOf(device) + (b ? " \u00b7 " + blockName(p, *b) : "");
    }
    std::string roomName(const std::string& owner) const {
        std::string all;
        for (const auto& id : roomsOfOwner(owner)) {
            const auto* r = p_.room(id);
            all += (all.empty() ? "" : " | ") + (r ? r->name : id);
        }
        return all.empty() ? "Equipment rack" : all;
    }

    void checkSpace(const SpaceOf& space) {
        const auto c = conversationOf(p_, space);
        std::map<std::string, engine::Program> now; // by device, with its walls
        const auto at = [&](const std::string& device) -> const engine::Program& {
            auto it = now.find(device);
            if (it == now.end())
                it = now.emplace(device, atWalls(*p_.device(device)->program, c.open)).first;
            return it->second;
        };
        for (const auto& f : c.farEnds) {
            if (f.source.empty() || f.destination.empty())
                continue;
            if (passes(at(f.device), {f.source, 0}, {f.destination, 0}))
                add(Code::hearsItself, f.device, f.destination, nameOf(f.device, f.destination), c.name,
                    "Whoever is at " + f.name + " hears their own voice again.",
                    "Close the crossing of " + f.name + " to itself, in Talk, Mixes.");
            checkEcho(c, f, at(f.device));
            checkOthers(space, c, f, at(f.device));
        }
        for (const auto& m : c.microphones)
            if (!m.echo.empty())
                checkReference(c, m, at(m.input.device));
        checkMutes(space, c);
        std::set<std::string> processors;
        for (const auto& g : c.groups)
            processors.insert(g.device);
        if (processors.size() > 1)
            add(Code::groupsApart, *processors.begin(), c.groups.front().block, c.name, c.name,
                "The microphones of " + c.name + " are in groups of " + std::to_string(processors.size()) +
                    " processors, which do not know of each other: as many may be open in each.",
                "Send the microphones of one to the other by a stream, in Patch, and group them there.");
    }

    // While walls are closed a call is of one room; nobody there may hear what is said next door.
    void checkOthers(const SpaceOf& space, const Conversation& c, const Conversation::FarEnd& f,
                     const engine::Program& p) {
        if (!microphones_)
            microphones_ = microphonesByRoom();
        std::vector<std::string> names;
        for (const auto& [room, device, source, name] : *microphones_)
            if (device == f.device && !space.space.has(room) && passes(p, {source, 0}, {f.destination, 0}))
                names.push_back(name);
        if (!names.empty())
            add(Code::overheard, f.device, f.destination, nameOf(f.device, f.destination), c.name,
                f.name + " of " + c.name + " hears what is said at " + names.front() +
                    (names.size() > 1 ? " and " + std::to_string(names.size() - 1) + " more microphones of other rooms."
                                      : ", in another room."),
                "Close that crossing in Talk, Mixes; what holds while a wall is open has mixes of its own.");
    }
    using MicrophoneOf =
        std::tuple<std::string, std::string, std::string, std::string>; // room, processor, source, name
    std::vector<MicrophoneOf> microphonesByRoom() const {
        std::vector<MicrophoneOf> all;
        for (const auto& b : p_.buildings)
            for (auto& s : spacesOf(b, nullptr)) {
                const SpaceOf of{&b, nullptr, std::move(s)};
                for (const auto& m : conversationOf(p_, of).microphones)
                    if (!m.source.empty())
                        all.emplace_back(of.space.rooms.front()->id, m.input.device, m.source, m.name);
            }
        return all;
    }

    // A far end that is heard in the room comes back over every microphone that it is sent.
    void checkEcho(const Conversation& c, const Conversation::FarEnd& f, const engine::Program& p) {
        const bool played = std::any_of(c.listeners.begin(), c.listeners.end(), [&](const auto& l) {
            return l.kind == Conversation::Listener::Kind::zone && l.device == f.device &&
                   passes(p, {f.source, 0}, {l.block, 0});
        });
        if (!played)
            return;
        std::vector<std::string> names;
        std::string first;
        for (const auto& m : c.microphones)
            if (m.input.device == f.device && !m.source.empty() && m.echo.empty() &&
                passes(p, {m.source, 0}, {f.destination, 0})) {
                names.push_back(m.name);
                if (first.empty())
                    first = m.source;
            }
        if (names.empty())
            return;
        add(Code::noCanceller, f.device, first, nameOf(f.device, first), c.name,
            f.name + " is heard in " + c.name + " and comes back to itself over " +
                (names.size() == 1 ? names.front() : std::to_string(names.size()) + " microphones") + ".",
            "Press First pass in Talk: it puts an echo canceller on " +
                std::string(names.size() == 1 ? "it." : "them."));
    }

    void checkReference(const Conversation& c, const Conversation::Microphone& m, const engine::Program& p) {
        const auto* b = p.find(m.echo);
        const int last = engine::BlockView(*b).inputs() - 1;
        const auto* t = p.into({b->id, last});
        if (t && passes(p, {m.source, 0}, t->from))
            add(Code::ownReference, m.input.device, b->id, nameOf(m.input.device, b->id), c.name,
                "The sound of " + m.name + " is in its own reference: the canceller takes the talker away.",
                "Take the reference from what is played and not from what is said: the far end's lane.");
    }

    void checkMutes(const SpaceOf& space, const Conversation& c) {
        const auto board = muteBoardOf(p_, space);
        if (!board.any())
            return;
        for (const auto& cut : board.cuts)
            if (cut.blocks.empty())
                add(Code::nothingCuts, cut.device, cut.destination, nameOf(cut.device, cut.destination), c.name,
                    c.name + " can be muted, and " + cut.farEnd + " still hears all that is said.",
                    "Put a mute on the way to it: First pass in Talk does.");
        for (const auto& place : board.places) {
            const auto* d = p_.device(place.device);
            if (place.key.rfind("contact", 0) == 0 || place.key.rfind("relay", 0) == 0 || place.key == "cut" ||
                d->mutes.count(place.key))
                continue; // somebody said what it does
            add(Code::outsideMute, place.device, place.key == "self" ? "" : place.key, place.name, c.name,
                place.name + " may be muted or not while " + c.name + " is, and show something else.",
                "Say in Talk, Mute, what it does: it sets the mute, shows it, or takes no part.");
        }
    }

    // In one wall state, a microphone is in one conversation.
    void checkClaims(const Building& b) {
        std::vector<const WallState*> states{nullptr};
        for (const auto& s : b.states)
            states.push_back(&s);
        for (const auto* state : states) {
            std::map<std::pair<std::string, std::string>, std::pair<std::string, std::string>> mine; // its group, space
            for (auto& s : spacesOf(b, state)) {
                const SpaceOf of{&b, state, std::move(s)};
                const auto key = of.key();
                const auto open = of.walls();
                for (const auto& m : conversationOf(p_, of).microphones) {
                    const auto* d = p_.device(m.input.device);
                    if (!d || !d->program || m.source.empty())
                        continue;
                    for (const auto& block : d->program->blocks)
                        if (block.kind == "automixer" && wallsOf(block) == wallsText(open) &&
                            laneOf(*d->program, block, m.source) >= 0) {
                            const auto [it, fresh] = mine.try_emplace({m.input.device, m.source}, block.id, key);
                            if (!fresh && it->second.first != block.id)
                                add(Code::claimedTwice, m.input.device, block.id, nameOf(m.input.device, block.id),
                                    of.space.name,
                                    m.name + " is in two groups at once: " + nameIn(*d->program, it->second.first) +
                                        " and " + nameIn(*d->program, block.id) + ".",
                                    "Take it out of one, in Weave, or let one be at work only while a wall is open.");
                        }
                }
            }
        }
    }
    static std::string nameIn(const engine::Program& p, const std::string& block) {
        return blockName(p, *p.find(block));
    }
    int laneOf(const engine::Program& p, const engine::Block& group, const std::string& source) {
        const int lanes = engine::BlockView(group).shape.at("lanes");
        for (int i = 0; i < lanes; ++i)
            if (const auto* c = p.into({group.id, i})) {
                auto& from = origins_[&p];
                if (from.empty())
                    from = engine::origins(p);
                const auto it = from.find(c->from);
                if (it != from.end() && it->second == source)
                    return i;
            }
        return -1;
    }

    void checkLine(const Device& d) {
        if (!d.program || !d.spec())
            return;
        for (const auto& port : d.spec()->ports(true)) {
            if (transportOf(port) != Transport::telephone ||
                (!endAt(*d.program, port, engine::End::arrives) && !endAt(*d.program, port, engine::End::leaves)))
                continue;
            const auto set = setUpOf(d);
            const bool server = !setUpText(set, "telServer").empty(), name = !setUpText(set, "telName").empty();
            if (!server || !name)
                add(Code::noAccount, d.id, "", d.name + " \u00b7 " + port, roomName(spaceOfMute(d, port)),
                    "The telephone line of " + d.name + " has no " +
                        (server ? "account"
                         : name ? "server"
                                : "server and no account") +
                        ": it cannot be called.",
                    "Type the server and the name of the account under Device at Site; its secret goes to the device "
                    "alone.");
        }
    }

    void checkWalls(const Device& d) {
        if (!d.program)
            return;
        std::set<std::string> told;
        for (const auto& [id, text] : d.contacts)
            if (const auto use = readContact(id, text); use && use->kind == ContactUse::Kind::wall)
                told.insert(use->wall);
        for (const auto& b : d.program->blocks)
            for (const auto& state : statesOf(b))
                for (const auto& wall : readWalls(state))
                    if (!told.count(wall))
                        add(Code::wallUnknown, d.id, b.id, nameOf(d.id, b.id), roomName(d.room),
                            "This changes over with the wall \"" + wall + "\", and no contact of " + d.name +
                                " tells it how that is.",
                            "Say in Talk, Whose is what, on which contact the wall's latch is.");
    }

    void checkProofs() {
        if (p_.proofs.empty())
            return;
        const auto sum = designSum(p_);
        for (const auto& proof : p_.proofs) {
            const auto space = spaceSaid(p_, proof.space, proof.state);
            if (!space || proof.kind != "talk")
                continue;
            const auto place = space->space.name + (space->state ? " \u00b7 " + space->state->name : "");
            const auto room = space->space.rooms.front()->id;
            if (proof.design != sum) {
                add(Code::proofOld, room, "proof " + proof.space + "|" + proof.state, place, space->space.name,
                    "What the far end of " + space->space.name + " gets was measured on " + proof.when.substr(0, 10) +
                        ", before the design was changed.",
                    "Run it again in Talk: What the far end gets.");
                continue;
            }
            for (const auto& f : talkFigures())
                if (const auto it = proof.figures.find(f.id); it != proof.figures.end() && !meets(f, it->second)) {
                    const auto where = proof.where.find(f.id);
                    add(Code::proofMissed, room, proof.space + "|" + proof.state + " " + f.id, place, space->space.name,
                        std::string(f.label) + ": " + fixedText(it->second, f.digits) + " " + f.unit + ", and " +
                            (f.most ? "at most " : "at least ") + fixedText(f.target, f.digits) + " is wanted" +
                            (where == proof.where.end() ? "." : " (" + where->second + ")."),
                        f.remedy);
                }
        }
    }

    const Project& p_;
    std::map<const engine::Program*, std::map<PortRef, std::string>> origins_;
    std::optional<std::vector<MicrophoneOf>> microphones_{};
    std::set<std::tuple<Code, std::string, std::string>> seen_;
    std::vector<Finding> found_;
};

} // namespace

std::vector<Finding> checkTalk(const Project& project) {
    return TalkChecker(project).run();
}

} // namespace loom::project
