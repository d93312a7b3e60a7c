// First pass: echo canceller, group and mute.
#include "engine/path_response.h"
#include "engine/schedule.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include "talk/first_work.h"
#include <algorithm>
#include <cmath>

namespace loom::project::first {

namespace {

// Sources that are no microphones of the space and get to its loudspeakers: what a canceller has to know.
std::vector<std::string> playedIn(const Program& p, const Conversation& c, const std::string& device) {
    std::vector<std::string> all;
    for (const auto& b : p.blocks) {
        if (engine::endOf(b) != engine::End::arrives)
            continue;
        if (std::any_of(c.microphones.begin(), c.microphones.end(),
                        [&](const auto& m) { return m.input.device == device && m.source == b.id; }))
            continue;
        bool heard = std::any_of(c.farEnds.begin(), c.farEnds.end(),
                                 [&](const auto& f) { return f.device == device && f.source == b.id; });
        for (const auto& l : c.listeners)
            if (!heard && l.kind == Listener::Kind::zone && l.device == device)
                if (const auto h = engine::pathResponse(p, {b.id, 0}, {l.block, 0}, {1000}, 48000); h)
                    heard = std::abs(h->front()) > 1e-3;
        if (heard)
            all.push_back(b.id);
    }
    return all;
}

// The sum of what is played, as one thread: there already, or made.
Result<PortRef> referenceIn(Program& p, const std::vector<std::string>& played, const std::string& name) {
    if (played.empty())
        return Error{"nothing is played that might come back", name, "Route a far end to the loudspeakers first."};
    if (played.size() == 1)
        return laneEnd(p, played.front());
    for (const auto& b : p.blocks) {
        if (b.kind != "sum")
            continue;
        std::size_t mine = 0;
        for (const auto& s : played)
            for (const auto& t : p.connections)
                mine += t.to.block == b.id && t.from == laneEnd(p, s);
        if (mine == played.size())
            return PortRef{b.id, 0};
    }
    std::vector<PortRef> ends;
    for (const auto& s : played)
        ends.push_back(laneEnd(p, s));
    auto made = addBlock(p, "sum", name + " reference");
    if (!made)
        return made.error();
    auto grown = reshapeBlock(made->program, made->block, "inputs", static_cast<int>(played.size()));
    if (!grown)
        return grown.error();
    p = std::move(*grown);
    for (std::size_t i = 0; i < ends.size(); ++i)
        p.connections.push_back({ends[i], {made->block, static_cast<int>(i)}});
    return PortRef{made->block, 0};
}

} // namespace

void Work::echo() {
    const auto c = talk();
    std::vector<std::string> without;
    for (const auto& m : c.microphones)
        if (m.input.device == device_ && !m.source.empty() && m.echo.empty())
            without.push_back(m.source);
    if (without.empty() || c.farEnds.empty())
        return;
    const auto space = *spaceSaid(p_, key_, state_);
    const auto model = modelOf(p_, space.space, space.state);
    const double decay = model.reverberation.eyring[4];
    const int tail = std::clamp(static_cast<int>(decay * 0.6 * 1000 / 32) * 32, 128, 320);
    const std::string name = pass_.name;
    propose(
        {"echo " + device_, "Echo canceller on " + count(without.size(), "microphone") + ", reference from the far end",
         "The far end is heard in the same room, which dies away in " + figure(decay, 2) + " s", "1 block", false,
         inProgram(
             device_,
             [without, tail, name, key = key_, state = state_](const Project& all, const Device& d) -> Result<Program> {
                 Program p = *d.program;
                 const auto lanes = present(p, without);
                 if (lanes.empty())
                     return p;
                 const auto now = conversationOf(all, *spaceSaid(all, key, state));
                 auto reference = referenceIn(p, playedIn(p, now, d.id), name);
                 if (!reference)
                     return reference.error();
                 std::vector<PortRef> ends;
                 for (const auto& s : lanes)
                     ends.push_back(laneEnd(p, s));
                 auto made = addBlock(p, "echo", name + " echo canceller");
                 if (!made)
                     return made.error();
                 p = std::move(made->program);
                 for (const auto& [shape, n] :
                      {std::pair("channels", static_cast<int>(lanes.size())), std::pair("tail", tail)}) {
                     auto grown = reshapeBlock(p, made->block, shape, n);
                     if (!grown)
                         return grown.error();
                     p = std::move(*grown);
                 }
                 for (std::size_t i = 0; i < ends.size(); ++i)
                     splice(p, ends[i], {made->block, static_cast<int>(i)}, {made->block, static_cast<int>(i)});
                 p.connections.push_back({*reference, {made->block, static_cast<int>(lanes.size())}});
                 p.find(made->block)->marks[firstPassMark] = "";
                 if (auto order = engine::runningOrder(p); !order)
                     return order.error();
                 return p;
             })});
}

void Work::group() {
    const auto c = talk();
    std::vector<std::size_t> mine;
    for (std::size_t i = 0; i < c.microphones.size(); ++i)
        if (c.microphones[i].input.device == device_ && !c.microphones[i].source.empty() && c.microphones[i].group < 0)
            mine.push_back(i);
    if (mine.size() < 2 || !c.groups.empty())
        return;
    std::vector<std::string> sources;
    std::vector<int> first, behind; // lanes with priority; those that hear the others from afar
    for (std::size_t k = 0; k < mine.size(); ++k) {
        sources.push_back(c.microphones[mine[k]].source);
        if (c.microphones[mine[k]].role == "chair")
            first.push_back(static_cast<int>(k) + 1);
        if (c.microphones[mine[k]].beams > 0 && mine.size() > 2)
            behind.push_back(static_cast<int>(k) + 1);
    }
    int home = 0; // an array that stays open brings the room's noise: a nearer one does
    for (std::size_t k = 0; k < mine.size() && !behind.empty(); ++k)
        if (c.microphones[mine[k]].beams == 0 && (home == 0 || c.microphones[mine[k]].role == "chair"))
            home = static_cast<int>(k) + 1;
    const int limit = std::min<int>(static_cast<int>(mine.size()), mine.size() > 4 ? 3 : 2);
    const std::string name = pass_.name;
    const auto space = *spaceSaid(p_, key_, state_);
    const double decay = modelOf(p_, space.space, space.state).reverberation.eyring[4];
    propose(
        {"group " + device_,
         "Group of " + count(mine.size(), "microphone") + ": at most " + std::to_string(limit) + " open, " +
             (home > 0 ? "that of " + c.microphones[mine[static_cast<std::size_t>(home) - 1]].name
                       : std::string("the last")) +
             " stays open" + (first.empty() ? "" : ", the chair goes first"),
         count(mine.size(), "open microphone") + " raise the noise at the far end by " +
             figure(10 * std::log10(static_cast<double>(mine.size()))) + " dB",
         "1 block", false,
         inProgram(device_, [=, key = key_, state = state_](const Project& all, const Device& d) -> Result<Program> {
             Program p = *d.program;
             const auto now = conversationOf(all, *spaceSaid(all, key, state));
             const auto here = present(p, sources);
             if (here.size() < 2)
                 return p;
             std::vector<PortRef> ends;
             for (const auto& s : here)
                 ends.push_back(laneOut(p, s));
             const auto played = playedIn(p, now, d.id);
             auto made = addBlock(p, "automixer", name + " microphones");
             if (!made)
                 return made.error();
             p = std::move(made->program);
             const auto lanes = static_cast<int>(here.size());
             const auto laneOf = [&](int which) { // as it is numbered among those that are there; 0: it is not
                 const auto it = which > 0
                                     ? std::find(here.begin(), here.end(), sources[static_cast<std::size_t>(which) - 1])
                                     : here.end();
                 return it == here.end() ? 0 : static_cast<int>(it - here.begin()) + 1;
             };
             for (const auto& [shape, n] : {std::pair("lanes", lanes), std::pair("heard", played.empty() ? 0 : 1)}) {
                 auto grown = reshapeBlock(p, made->block, shape, n);
                 if (!grown)
                     return grown.error();
                 p = std::move(*grown);
             }
             for (int i = 0; i < lanes; ++i)
                 splice(p, ends[static_cast<std::size_t>(i)], {made->block, i}, {made->block, i + 1});
             if (!played.empty()) {
                 auto reference = referenceIn(p, played, name);
                 if (!reference)
                     return reference.error();
                 p.connections.push_back({*reference, {made->block, lanes}});
             }
             auto& b = *p.find(made->block);
             setFirst(b, "limit", std::min(limit, lanes));
             setFirst(b, "hold", 300);
             setFirst(b, "release", 150);
             if (laneOf(home) > 0) {
                 setFirst(b, "last", 2);
                 setFirst(b, "home", laneOf(home));
             }
             setFirst(b, "depth", -24);
             setFirst(b, "decay", std::max(0.1, decay));
             for (const int lane : first)
                 if (laneOf(lane) > 0)
                     setFirst(b, std::to_string(laneOf(lane)) + ".priority", 1);
             for (const int lane : behind)
                 if (laneOf(lane) > 0)
                     setFirst(b, std::to_string(laneOf(lane)) + ".weight", -4);
             if (auto order = engine::runningOrder(p); !order)
                 return order.error();
             return p;
         })});
}

void Work::mutes() {
    const auto c = talk();
    std::vector<std::string> without;
    for (const auto& f : c.farEnds)
        if (f.device == device_ && !f.destination.empty() && f.mutes.empty())
            without.push_back(f.destination);
    if (!without.empty())
        propose({"mute " + device_, "Mute on the way to " + count(without.size(), "far end"),
                 "The sound is cut in the processor, whatever becomes of buttons and lines",
                 count(without.size(), "block"), false,
                 inProgram(device_, [without](const Project&, const Device& d) -> Result<Program> {
                     Program p = *d.program;
                     for (const auto& to : without) {
                         if (!p.find(to))
                             continue; // that far end was left out
                         auto made = insertBlock(p, "mute", {to, 0});
                         if (!made)
                             return made.error();
                         p = std::move(made->program);
                     }
                     return p;
                 })});
    std::vector<std::pair<std::string, std::string>> places; // device, port
    std::vector<std::string> names;
    for (const auto& m : c.mutePlaces)
        if (!m.sets && !m.shows) {
            const auto* d = std::as_const(p_).device(m.device);
            const auto key = m.port.empty() ? std::string("self") : m.port;
            if (d->mutes.count(key))
                continue; // somebody said that it takes no part
            places.emplace_back(m.device, key);
            names.push_back(m.name);
        }
    if (places.empty() || c.farEnds.empty())
        return;
    std::string who = names.front();
    for (std::size_t i = 1; i < names.size(); ++i)
        who += (i + 1 == names.size() ? " and " : ", ") + names[i];
    propose({"mute-places " + key_, who + " mute together, and show it",
             count(places.size(), "place") + " could be muted and disagree", count(places.size(), "link"), false,
             [places](Project p) -> Result<Project> {
                 for (const auto& [id, key] : places) {
                     auto* d = p.device(id);
                     const auto* m = d ? d->spec() : nullptr;
                     if (d)
                         d->mutes[key] = key == "self" && m && m->mute == "shows" ? "shows" : "sets";
                 }
                 return p;
             }});
}

} // namespace loom::project::first
