#include "talk/conversation.h"
#include "engine/origin.h"
#include "model/block_names.h"
#include "patch/streams.h"
#include "program/ports.h"
#include "program/routes.h"
#include "rooms/owned_ports.h"
#include <algorithm>
#include <set>

namespace loom::project {

namespace {

using engine::PortRef;

std::string portOf(const engine::Block& b) {
    const auto it = b.texts.find("port");
    return it == b.texts.end() ? "" : it->second;
}

// A program read backwards and forwards, as far as a conversation asks.
class Reader {
  public:
    explicit Reader(const engine::Program& p) : p_(p), origin_(engine::origins(p)) {}
    // The source whose sound alone comes to an input; "": several, or none.
    std::string originOf(const PortRef& input) const {
        const auto* c = p_.into(input);
        const auto it = c ? origin_.find(c->from) : origin_.end();
        return it == origin_.end() ? "" : it->second;
    }
    // Blocks of a kind on the way back from an input, each with the input of it that is passed; nearest first.
    std::vector<std::pair<const engine::Block*, int>> before(const PortRef& input, const char* kind) const {
        std::vector<std::pair<const engine::Block*, int>> all;
        std::set<PortRef> seen;
        std::vector<PortRef> open{input};
        for (std::size_t i = 0; i < open.size(); ++i) {
            const auto* c = p_.into(open[i]);
            const auto* b = c ? p_.find(c->from.block) : nullptr;
            if (!b || !engine::findKind(b->kind))
                continue;
            const engine::BlockView view(*b);
            for (int in = 0; in < view.inputs(); ++in) {
                const PortRef at{b->id, in};
                if (!engine::goesOn(view, in, c->from.port) || !seen.insert(at).second)
                    continue;
                if (b->kind == kind)
                    all.emplace_back(b, in);
                open.push_back(at);
            }
        }
        return all;
    }

  private:
    const engine::Program& p_;
    std::map<PortRef, std::string> origin_;
};

// Of all rooms, with their room.
std::vector<std::pair<std::string, Conversation::Microphone>> allMicrophones(const Project& p) {
    std::vector<std::pair<std::string, Conversation::Microphone>> all;
    std::map<std::pair<std::string, std::string>, std::size_t> arrays; // by microphone and processor
    const auto add = [&](const Device& d, const SoundEnd& input) {
        const auto* taker = p.device(input.device);
        const auto* s = taker && taker->program ? endAt(*taker->program, input.port, engine::End::arrives) : nullptr;
        const bool array = d.spec()->microphone->lobes > 0;
        if (array)
            if (const auto known = arrays.find({d.id, input.device}); known != arrays.end()) {
                auto& one = all[known->second].second;
                ++one.beams;
                if (one.source.empty() && s)
                    one.input = input, one.source = s->id;
                return;
            }
        if (array)
            arrays[{d.id, input.device}] = all.size();
        all.push_back({d.room, {d.id, d.name, d.role, input, s ? s->id : "", -1, -1, "", array ? 1 : 0}});
    };
    for (const auto& d : p.devices)
        if (!d.feeds.empty() && d.spec())
            for (const auto& port : d.spec()->ports(true))
                if (const auto it = d.feeds.find(port); it != d.feeds.end())
                    if (const auto from = readSoundEnd(it->second))
                        if (const auto* source = p.device(from->device);
                            source && source->spec() && source->spec()->microphone && !source->spec()->network)
                            add(*source, {d.id, port});
    for (const auto& t : streamThreads(p))
        if (const auto* source = p.device(t.fromDevice); source && source->spec() && source->spec()->microphone)
            add(*source, {t.toDevice, t.toPort});
    return all;
}

// Rooms that a port belongs to: by its own entry, or that of the input of its name.
bool belongs(const Device& d, const std::string& port, bool input, const SpaceOf& of) {
    auto it = d.owners.find(port + (input ? "" : " out"));
    if (it == d.owners.end())
        it = d.owners.find(port);
    return it == d.owners.end() ? of.space.has(d.room) && d.place.rack.empty() : of.owns(it->second);
}

// USB and telephone, and what comes over the network and is called so: "Far end by stream".
bool isFarPort(const std::string& port, const std::string& name) {
    const auto by = transportOf(port);
    return by == Transport::usb || by == Transport::telephone || (specOf(by).streams && fitsPattern("*far*end*", name));
}

std::vector<Conversation::FarEnd> farEndsOf(const Project& p, const SpaceOf& of) {
    std::vector<Conversation::FarEnd> all;
    for (const auto& d : p.devices) {
        std::vector<std::string> ports; // that its program uses
        if (d.program)
            for (const auto& b : d.program->blocks)
                if (const auto port = portOf(b); isFarPort(port, blockName(*d.program, b)) &&
                                                 engine::endOf(b) != engine::End::none &&
                                                 belongs(d, port, engine::endOf(b) == engine::End::arrives, of) &&
                                                 std::find(ports.begin(), ports.end(), port) == ports.end())
                    ports.push_back(port);
        if (ports.empty())
            continue;
        for (const auto& port : ports) {
            Conversation::FarEnd f{transportOf(port), d.id, port, "", "", "", {}};
            if (const auto* s = endAt(*d.program, port, engine::End::arrives))
                f.source = s->id, f.name = blockName(*d.program, *s);
            if (const auto* out = endAt(*d.program, port, engine::End::leaves)) {
                f.destination = out->id;
                if (f.name.empty())
                    f.name = blockName(*d.program, *out);
                f.mutes = mutesBefore(*d.program, out->id);
            }
            all.push_back(std::move(f));
        }
    }
    return all;
}

} // namespace

std::vector<std::string> mutesBefore(const engine::Program& p, const std::string& destination) {
    std::vector<std::string> all;
    PortRef at{destination, 0};
    for (int i = 0; i < 64; ++i) {
        const auto* c = p.into(at);
        const auto* b = c ? p.find(c->from.block) : nullptr;
        if (!b || engine::inputsOf(p, *b) != 1) // where lanes meet, what lies before is muted for others as well
            break;
        if (b->kind == "mute")
            all.push_back(b->id);
        at = {b->id, 0};
    }
    return all;
}

std::set<SoundEnd> zoneEnds(const Project& p, const Space& space) {
    std::set<SoundEnd> ends;
    for (const auto& d : p.devices) // amplifiers that loudspeakers of the space hang on, by their inputs and outputs
        for (const auto& [port, output] : d.outputs)
            for (const auto& load : output.loads)
                if (const auto* l = p.device(load.device); l && space.has(l->room)) {
                    ends.insert({d.id, port});
                    ends.insert({d.id, "in " + port.substr(port.find(' ') + 1)});
                }
    const auto leads = leadsOf(p);
    for (bool grew = true; grew;) { // what an input hears came from an output; devices in between pass by program
        grew = false;
        for (const auto& l : leads)
            if (ends.count(l.to) && ends.insert(l.from).second)
                grew = true;
        for (const auto& d : p.devices)
            if (d.program && d.spec() && d.spec()->amplifier)
                for (const auto& b : d.program->blocks)
                    if (engine::endOf(b) == engine::End::leaves && ends.count({d.id, portOf(b)})) {
                        const auto* c = d.program->into({b.id, 0});
                        const auto from = c ? engine::origins(*d.program) : std::map<PortRef, std::string>{};
                        const auto it = c ? from.find(c->from) : from.end();
                        if (it != from.end())
                            if (const auto* s = d.program->find(it->second))
                                if (const auto port = portOf(*s); !port.empty() && ends.insert({d.id, port}).second)
                                    grew = true;
                    }
    }
    return ends;
}

std::string SpaceOf::key() const {
    std::vector<std::string> ids;
    for (const auto* r : space.rooms)
        ids.push_back(r->id);
    return ownerOf(ids);
}

bool SpaceOf::owns(const std::string& owner) const {
    const auto rooms = roomsOfOwner(owner);
    return !rooms.empty() && (rooms.size() > 1 ? ownerOf(rooms) == key() : space.has(rooms.front()));
}

std::set<std::string> SpaceOf::walls() const {
    std::set<std::string> all;
    if (building && state)
        for (const auto& w : building->walls)
            if (std::find(state->open.begin(), state->open.end(), w.id) != state->open.end() &&
                std::all_of(w.rooms.begin(), w.rooms.end(), [&](const auto& r) { return space.has(r); }))
                all.insert(w.id);
    return all;
}

Project SpaceOf::at(Project p) const {
    const auto open = walls();
    for (std::size_t i = 0; i < p.devices.size(); ++i)
        if (const auto& d = std::as_const(p).devices[i]; d.program)
            if (auto then = atWalls(*d.program, open); then != *d.program)
                p.devices.change(i).program = std::move(then);
    return p;
}

std::vector<SpaceOf> spacesToTalkIn(const Project& p) {
    std::vector<SpaceOf> all;
    std::set<std::string> seen;
    const auto add = [&](const Building& b, const WallState* state) {
        for (auto& s : spacesOf(b, state)) {
            SpaceOf one{&b, state, std::move(s)};
            if (seen.insert(one.key()).second)
                all.push_back(std::move(one));
        }
    };
    for (const auto& b : p.buildings)
        add(b, nullptr);
    for (const auto& b : p.buildings)
        for (const auto& s : b.states)
            add(b, &s);
    return all;
}

std::vector<SpaceOf> spacesThatTalk(const Project& p) {
    std::set<std::string> heard; // rooms
    for (const auto& [room, m] : allMicrophones(p))
        heard.insert(room);
    auto all = spacesToTalkIn(p);
    std::erase_if(all, [&](const SpaceOf& s) {
        return std::none_of(s.space.rooms.begin(), s.space.rooms.end(),
                            [&](const auto* r) { return heard.count(r->id); }) &&
               farEndsOf(p, s).empty();
    });
    return all;
}

Result<SpaceOf> spaceSaid(const Project& p, const std::string& said, const std::string& state) {
    for (auto& s : spacesToTalkIn(p)) {
        const bool called = s.key() == said || s.space.name == said ||
                            (s.space.rooms.size() == 1 && s.space.rooms.front()->name == said);
        if (called && (state.empty() || (s.state && (s.state->id == state || s.state->name == state))))
            return s;
    }
    for (const auto& b : p.buildings) // a room in a state in which it is one with others, or stays alone
        for (const auto& s : b.states)
            if (s.id == state || s.name == state)
                for (const auto& r : b.rooms)
                    if (r.id == said || r.name == said)
                        return SpaceOf{&b, &s, spaceOf(b, &s, r.id)};
    return Error{"there is no such room", said + (state.empty() ? "" : ", " + state),
                 "loomctl conversations lists the spaces and their wall states."};
}

Conversation conversationOf(const Project& p, const SpaceOf& of) {
    Conversation c;
    c.name = of.space.name;
    c.space = of.key();
    c.state = of.state ? of.state->id : "";
    c.open = of.walls();
    std::map<std::pair<std::string, std::string>, std::string> homes; // room of what a source of a processor hears
    for (auto& [room, m] : allMicrophones(p)) {
        if (!m.source.empty())
            homes[{m.input.device, m.source}] = room;
        if (of.space.has(room))
            c.microphones.push_back(std::move(m));
    }
    c.farEnds = farEndsOf(p, of);
    const auto zones = zoneEnds(p, of.space);
    for (const auto& d : p.devices) {
        const auto hears = [&](const auto& one) { return one.input.device == d.id; };
        const auto calls = [&](const auto& one) { return one.device == d.id; };
        if (!d.program || (std::none_of(c.microphones.begin(), c.microphones.end(), hears) &&
                           std::none_of(c.farEnds.begin(), c.farEnds.end(), calls) &&
                           std::none_of(zones.begin(), zones.end(), calls)))
            continue;
        const Reader reader(*d.program);
        for (const auto& b : d.program->blocks) {
            if (b.kind == "automixer") {
                const engine::BlockView view(b);
                Conversation::Group g{d.id, b.id, blockName(*d.program, b), {}, {}};
                bool mine = false;
                for (int lane = 0; lane < view.shape.at("lanes"); ++lane) {
                    const auto source = reader.originOf({b.id, lane});
                    int which = -1;
                    for (std::size_t i = 0; i < c.microphones.size() && which < 0; ++i)
                        if (c.microphones[i].input.device == d.id && !source.empty() &&
                            c.microphones[i].source == source)
                            which = static_cast<int>(i);
                    mine = mine || which >= 0;
                    g.lanes.push_back(which);
                }
                for (int h = 0; h < view.shape.at("heard"); ++h) {
                    const auto* from = d.program->into({b.id, view.shape.at("lanes") + h});
                    g.heard.push_back(from ? from->from.block : "");
                }
                // A group of joined rooms is not that of one of them.
                std::set<std::string> rooms;
                for (int lane = 0; lane < view.shape.at("lanes"); ++lane)
                    if (const auto home = homes.find({d.id, reader.originOf({b.id, lane})}); home != homes.end())
                        rooms.insert(home->second);
                std::set<std::string> wanted;
                for (const auto* r : of.space.rooms)
                    wanted.insert(r->id);
                if (mine && rooms == wanted) {
                    for (std::size_t lane = 0; lane < g.lanes.size(); ++lane)
                        if (g.lanes[lane] >= 0) {
                            auto& m = c.microphones[static_cast<std::size_t>(g.lanes[lane])];
                            m.group = static_cast<int>(c.groups.size());
                            m.lane = static_cast<int>(lane);
                            for (const auto& [echo, in] : reader.before({b.id, static_cast<int>(lane)}, "echo"))
                                if (m.echo.empty() && in < engine::BlockView(*echo).shape.at("channels"))
                                    m.echo = echo->id;
                        }
                    c.groups.push_back(std::move(g));
                }
            }
            if (engine::endOf(b) != engine::End::leaves)
                continue;
            Conversation::Listener l{
                Conversation::Listener::Kind::other, d.id, b.id, portOf(b), blockName(*d.program, b), -1};
            for (std::size_t f = 0; f < c.farEnds.size(); ++f)
                if (c.farEnds[f].device == d.id && c.farEnds[f].destination == b.id)
                    l.kind = Conversation::Listener::Kind::farEnd, l.farEnd = static_cast<int>(f);
            if (l.kind != Conversation::Listener::Kind::farEnd) {
                if (zones.count({d.id, l.port}) && !(d.spec() && d.spec()->amplifier))
                    l.kind = Conversation::Listener::Kind::zone;
                else if (!belongs(d, l.port, false, of))
                    continue;
                else if (fitsPattern("*loop*", l.name))
                    l.kind = Conversation::Listener::Kind::loop;
                else if (fitsPattern("*record*", l.name))
                    l.kind = Conversation::Listener::Kind::recorder;
                else
                    continue;
            }
            c.listeners.push_back(std::move(l));
        }
    }
    for (auto& m : c.microphones) // those outside a group, too
        if (m.echo.empty() && m.group < 0 && !m.source.empty())
            for (const auto& b : p.device(m.input.device)->program->blocks)
                if (b.kind == "echo" && isAtWork(b, c.walls())) {
                    const Reader reader(*p.device(m.input.device)->program);
                    for (int in = 0; in < engine::BlockView(b).shape.at("channels"); ++in)
                        if (m.echo.empty() && reader.originOf({b.id, in}) == m.source)
                            m.echo = b.id;
                }
    for (const auto& d : p.devices) {
        const auto* m = d.spec();
        if (!m || !of.space.has(d.room) || !d.place.rack.empty() || m->mute.empty())
            continue;
        const auto it = d.mutes.find("self");
        const std::string does = it == d.mutes.end() ? "off" : it->second;
        c.mutePlaces.push_back({d.id, "", d.name, does == "sets", does != "off"});
    }
    for (const auto& f : c.farEnds) {
        const auto& mutes = p.device(f.device)->mutes;
        const auto it = mutes.find(f.port);
        const std::string does = it == mutes.end() ? "off" : it->second;
        c.mutePlaces.push_back({f.device, f.port, f.name, does == "sets", does != "off"});
    }
    return c;
}

const char* nameOf(Conversation::Listener::Kind kind) {
    constexpr const char* names[] = {"far end", "zone", "hearing loop", "recorder", "other"};
    return names[static_cast<std::size_t>(kind)];
}

std::string roleName(const std::string& role) {
    return role == "chair"       ? "Chair"
           : role == "delegate"  ? "Delegate"
           : role == "presenter" ? "Presenter"
           : role == "public"    ? "Public"
                                 : "Talker";
}

} // namespace loom::project
