// First pass: echo canceller, group and mute.
#include "engine/origin.h"
#include "engine/path_response.h"
#include "engine/schedule.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include "talk/first_work.h"
#include "talk/group.h"
#include "talk/reference.h"
#include <algorithm>
#include <cmath>

namespace loom::project::first {

namespace {

// The canceller that a lane passes while its room is by itself; "": none.
std::string cancellerOn(const Program& p, const std::string& source) {
    const auto from = engine::origins(p);
    for (const auto& b : p.blocks)
        if (b.kind == "echo")
            for (int in = 0; in < engine::BlockView(b).shape.at("channels"); ++in)
                if (const auto* c = p.into({b.id, in}))
                    if (const auto it = from.find(c->from); it != from.end() && it->second == source)
                        return b.id;
    return "";
}

// Cancellers of rooms that are apart go on at work while walls are open, with a reference of what is played then.
Result<Program> shareCancellers(Program p, const std::set<std::string>& blocks, const PortRef& reference,
                                const std::string& walls, const std::string& name) {
    for (const auto& id : blocks) {
        const int channels = engine::BlockView(*std::as_const(p).find(id)).shape.at("channels");
        p.find(id)->marks[wallsMark] = "any";
        for (int i = 0; i < channels; ++i) { // what went past it to the larger room's own blocks
            const auto* in = p.into({id, i});
            const auto from = in ? in->from : PortRef{};
            for (std::size_t k = 0; in && k < p.connections.size(); ++k) {
                const auto one = std::as_const(p.connections)[k];
                const auto* to = std::as_const(p).find(one.to.block);
                if (one.from == from && to && wallsOf(*to) == walls)
                    p.connections.change(k).from = {id, i};
            }
        }
        auto made = addBlock(p, "selector", name + " reference by the wall");
        if (!made)
            return made.error();
        p = std::move(made->program);
        auto grown = reshapeBlock(p, made->block, "inputs", 2);
        if (!grown)
            return grown.error();
        p = std::move(*grown);
        p.find(made->block)->marks[wallSwitchMark] = "-;" + walls;
        for (std::size_t k = 0; k < p.connections.size(); ++k)
            if (std::as_const(p.connections)[k].to == PortRef{id, channels})
                p.connections.change(k).to = {made->block, 0};
        p.connections.push_back({reference, {made->block, 1}});
        p.connections.push_back({{made->block, 0}, {id, channels}});
    }
    p = atWalls(std::move(p), {});
    if (auto order = engine::runningOrder(p); !order)
        return order.error();
    return p;
}

} // namespace

void Work::shareEcho(const Conversation& c) {
    std::vector<std::string> lanes;
    for (const auto& m : c.microphones)
        if (m.input.device == device_ && !m.source.empty() && m.echo.empty() &&
            !cancellerOn(program(), m.source).empty())
            lanes.push_back(m.source);
    if (lanes.empty() || c.open.empty() || c.farEnds.empty())
        return;
    propose({"echo-reference " + device_,
             "A reference for " + count(lanes.size(), "microphone") + " while " + wallNames(c.walls()) + " open",
             "What is played in all of " + pass_.name + " comes back then", "1 switch a canceller", false,
             inProgram(device_,
                       [lanes, key = key_, state = state_, name = pass_.name](const Project& all,
                                                                              const Device& d) -> Result<Program> {
                           Program p = *d.program;
                           std::set<std::string> blocks;
                           for (const auto& lane : present(p, lanes))
                               if (auto id = cancellerOn(p, lane);
                                   !id.empty() && wallsOf(*std::as_const(p).find(id)).empty())
                                   blocks.insert(std::move(id));
                           if (blocks.empty())
                               return p;
                           const auto now = conversationOf(all, *spaceSaid(all, key, state));
                           auto reference = referenceIn(p, playedIn(p, now, d.id), name);
                           if (!reference)
                               return reference.error();
                           return shareCancellers(std::move(p), blocks, *reference, now.walls(), name);
                       })});
}

void Work::echo() {
    shareEcho(talk());
    const auto c = talk();
    std::vector<std::string> without;
    for (const auto& m : c.microphones)
        if (m.input.device == device_ && !m.source.empty() && m.echo.empty())
            without.push_back(m.source);
    if (without.empty() || c.farEnds.empty())
        return;
    const double decay = model_.reverberation.eyring[4];
    // Until it has died away by 36 dB, and what amplifiers and streams on the way take before it begins.
    const int tail = std::clamp(static_cast<int>((decay * 0.6 * 1000 + 64) / 32) * 32, 192, 256);
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
                 if (!now.open.empty())
                     p.find(made->block)->marks[wallsMark] = now.walls();
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
    std::vector<const Conversation::Microphone*> chosen;
    std::vector<std::string> sources;
    for (const auto i : mine) {
        chosen.push_back(&c.microphones[i]);
        sources.push_back(c.microphones[i].source);
    }
    const auto setting = groupSetting(p_, *spaceSaid(p_, key_, state_), chosen);
    std::string stays = "the last";
    for (const auto* m : chosen)
        if (m->source == setting.home)
            stays = "that of " + m->name;
    propose({"group " + device_,
             "Group of " + count(mine.size(), "microphone") + ": at most " + std::to_string(setting.limit) + " open, " +
                 stays + " stays open" + (setting.first.empty() ? "" : ", the chair goes first"),
             count(mine.size(), "open microphone") + " raise the noise at the far end by " +
                 figure(10 * std::log10(static_cast<double>(mine.size()))) + " dB",
             "1 block", false,
             inProgram(device_,
                       [sources, setting, key = key_, state = state_](const Project& all,
                                                                      const Device& d) -> Result<Program> {
                           const auto there = present(*d.program, sources);
                           return there.size() < 2 ? Result<Program>(*d.program)
                                                   : groupInto(all, d, *spaceSaid(all, key, state), there, setting);
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
                         d->mutes[key] =
                             (key == "self" && m && m->mute == "shows") || transportOf(key) == Transport::telephone
                                 ? "shows"
                                 : "sets";
                 }
                 return p;
             }});
}

} // namespace loom::project::first
