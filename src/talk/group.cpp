#include "talk/group.h"
#include "acoustics/pick_up.h"
#include "engine/schedule.h"
#include "program/program_edit.h"
#include "rooms/space_model.h"
#include "talk/by_hand.h"
#include "talk/reference.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

namespace {

// From a microphone to whoever is nearest, m; 0: nobody talks there.
double talkerDistance(const SpaceModel& model, const std::string& microphone) {
    using acoustics::operator-;
    double best = 0;
    for (const auto& m : model.microphones)
        if (m.id == microphone)
            for (const auto& v : model.voices)
                if (const double d = acoustics::lengthOf(v.at - m.at); best == 0 || d < best)
                    best = std::max(d, 0.02);
    return best;
}

} // namespace

GroupSetting groupSetting(const Project& project, const SpaceOf& space,
                          const std::vector<const Conversation::Microphone*>& microphones) {
    GroupSetting s;
    s.name = space.space.name;
    s.limit = std::min<int>(static_cast<int>(microphones.size()), microphones.size() > 4 ? 3 : 2);
    const auto model = modelOf(project, space.space, space.state);
    s.decay = model.reverberation.eyring[4];
    for (const auto* m : microphones) {
        if (m->role == "chair")
            s.first.push_back(m->source);
        if (m->beams > 0 && microphones.size() > 2)
            s.behind.push_back(m->source);
    }
    if (!s.behind.empty()) // an array that stays open brings the room's noise: a nearer one does
        for (const auto* m : microphones)
            if (m->beams == 0 && (s.home.empty() || m->role == "chair"))
                s.home = m->source;
    // Whoever is far from its talker is turned up, and its noise with it: closed, all together add half a decibel to
    // that of the one that stays open.
    constexpr double share = 0.12, leastDepth = -24, mostDepth = -50;
    double closed = 0, home = 0;
    for (const auto* m : microphones) {
        const double d = talkerDistance(model, m->device);
        if (d <= 0)
            continue;
        closed += d * d;
        if (m->source == s.home || home == 0)
            home = d * d;
    }
    if (home > 0 && closed > home)
        s.depth = std::clamp(std::floor(-10 * std::log10((closed - home) / home / share)), mostDepth, leastDepth);
    return s;
}

Result<engine::Program> groupInto(const Project& project, const Device& d, const SpaceOf& space,
                                  const std::vector<std::string>& sources, const GroupSetting& setting) {
    engine::Program p = *d.program;
    std::vector<engine::PortRef> ends;
    for (const auto& s : sources)
        ends.push_back(first::laneOut(p, s, wallsText(space.walls())));
    const auto played = first::playedIn(p, conversationOf(project, space), d.id);
    auto made = addBlock(p, "automixer", setting.name + " microphones");
    if (!made)
        return made.error();
    p = std::move(made->program);
    if (const auto walls = wallsText(space.walls()); !walls.empty())
        p.find(made->block)->marks[wallsMark] = walls;
    const auto lanes = static_cast<int>(sources.size());
    for (const auto& [shape, n] : {std::pair("lanes", lanes), std::pair("heard", played.empty() ? 0 : 1)}) {
        auto grown = reshapeBlock(p, made->block, shape, n);
        if (!grown)
            return grown.error();
        p = std::move(*grown);
    }
    for (int i = 0; i < lanes; ++i)
        first::splice(p, ends[static_cast<std::size_t>(i)], {made->block, i}, {made->block, i + 1});
    if (!played.empty()) {
        auto reference = first::referenceIn(p, played, setting.name);
        if (!reference)
            return reference.error();
        p.connections.push_back({*reference, {made->block, lanes}});
    }
    auto& b = *p.find(made->block);
    first::setFirst(b, "limit", std::min(setting.limit, lanes));
    first::setFirst(b, "hold", 300);
    first::setFirst(b, "release", 150);
    first::setFirst(b, "depth", setting.depth);
    first::setFirst(b, "decay", std::max(0.1, setting.decay));
    for (int i = 0; i < lanes; ++i) {
        const auto& source = sources[static_cast<std::size_t>(i)];
        const auto in = [&](const auto& list) { return std::find(list.begin(), list.end(), source) != list.end(); };
        const std::string lane = std::to_string(i + 1);
        if (in(setting.first))
            first::setFirst(b, lane + ".priority", 1);
        if (in(setting.behind))
            first::setFirst(b, lane + ".weight", -4), first::setFirst(b, lane + ".behind", 1);
        if (source == setting.home) {
            first::setFirst(b, "last", 2);
            first::setFirst(b, "home", i + 1);
        }
    }
    if (auto order = engine::runningOrder(p); !order)
        return order.error();
    return p;
}

Result<Edit> groupMicrophones(const Project& project, const SpaceOf& space, const std::vector<std::string>& devices) {
    const auto c = conversationOf(project, space);
    std::vector<const Conversation::Microphone*> chosen;
    for (const auto& id : devices) {
        const auto m =
            std::find_if(c.microphones.begin(), c.microphones.end(), [&](const auto& one) { return one.device == id; });
        if (m == c.microphones.end())
            return Error{"is no microphone of " + c.name + " that is led to a processor", id,
                         "loomctl conversations lists them."};
        if (m->source.empty())
            return Error{"no program takes it", m->name, "Give it a lane first, in Weave or by a first pass."};
        if (m->group >= 0)
            return Error{"is in a group already", m->name,
                         "Take it out of " + c.groups[static_cast<std::size_t>(m->group)].name + " in Weave first."};
        if (!chosen.empty() && m->input.device != chosen.front()->input.device)
            return Error{"is led to another processor than " + chosen.front()->name, m->name,
                         "A group lies in one: send it there by a stream, in Patch, and take that input."};
        if (std::find(chosen.begin(), chosen.end(), &*m) == chosen.end())
            chosen.push_back(&*m);
    }
    if (chosen.size() < 2)
        return Error{"one microphone is no group", c.name, "Choose two or more."};
    std::vector<std::string> sources;
    for (const auto* m : chosen)
        sources.push_back(m->source);
    const auto& device = chosen.front()->input.device;
    auto program = groupInto(project, *project.device(device), space, sources, groupSetting(project, space, chosen));
    if (!program)
        return program.error();
    return setProgram(device, std::move(*program), "Group " + std::to_string(chosen.size()) + " microphones");
}

} // namespace loom::project
