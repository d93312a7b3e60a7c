#include "rules/scene_figures.h"
#include "engine/block_kind.h"
#include "engine/path_response.h"
#include "file/project_json.h"
#include "rooms/predict.h"
#include "rules/scenes.h"
#include "talk/conversation.h"
#include "voicings/room_sound.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <set>

namespace loom::project {
namespace {

constexpr std::size_t mostRemembered = 64;

struct Rest {                              // of a space, as long as nothing in it is moved
    std::map<std::string, double> spare{}; // by microphone
    double level = 0;
    bool predicted = false;
};

// What the predictions of a space depend on, as text: everything but programs.
std::string placesOf(const Project& p, const SpaceOf& space) {
    std::string all = space.key() + "|" + (space.state ? space.state->id : "");
    for (const auto* r : space.space.rooms)
        all += toJson(*r).dump();
    for (const auto& d : p.devices)
        if (space.space.has(d.room))
            all += "|" + d.id + d.model + toJson(d.place).dump() + std::to_string(d.trimDb) + "," +
                   std::to_string(d.delayMs) + d.voicing + (d.silentHere ? "s" : "");
    return all;
}

Rest restOf(const Project& p, const SpaceOf& space, std::stop_token stop) {
    static std::mutex guard;
    static std::map<std::string, Rest> known;
    const auto key = placesOf(p, space);
    {
        const std::scoped_lock lock(guard);
        if (const auto it = known.find(key); it != known.end())
            return it->second;
    }
    Rest r;
    const auto model = modelOf(p, space.space, space.state);
    const auto figures = figuresOf(model);
    r.predicted = figures.predicted;
    r.level = figures.meanA;
    for (const auto& loop : loopsOf(model, 1, stop))
        r.spare[loop.microphone] = loop.spareDb;
    if (stop.stop_requested())
        return r;
    const std::scoped_lock lock(guard);
    if (known.size() >= mostRemembered)
        known.clear();
    known[key] = r;
    return r;
}

std::string blockAt(const engine::Program& program, const std::string& port, engine::End end) {
    for (const auto& b : program.blocks)
        if (const auto it = b.texts.find("port"); it != b.texts.end() && it->second == port && engine::endOf(b) == end)
            return b.id;
    return {};
}

struct MicrophoneWay {
    const Device* microphone;
    std::string end; // a port that leads to loudspeakers
    double db;
    std::set<std::string> mixers; // automatic ones that it goes through
};

// Blocks that sound reaches from one, or that reach it.
std::set<std::string> reached(const engine::Program& program, const std::string& from, bool forward) {
    std::set<std::string> all{from};
    std::vector<std::string> todo{from};
    while (!todo.empty()) {
        const auto at = todo.back();
        todo.pop_back();
        for (const auto& c : program.connections) {
            const auto &here = forward ? c.from.block : c.to.block, &there = forward ? c.to.block : c.from.block;
            if (here == at && all.insert(there).second)
                todo.push_back(there);
        }
    }
    return all;
}

// Every way from a microphone of the space to a port that leads to loudspeakers.
std::vector<MicrophoneWay> waysOut(const Project& p, const SpaceOf& space) {
    static const std::vector<double> hz{250, 500, 1000, 2000, 4000};
    std::vector<MicrophoneWay> all;
    std::set<SoundEnd> drives; // what leads to loudspeakers
    for (const auto& end : drivingEnds(p))
        drives.insert(end);
    for (const auto& lead : leadsOf(p))
        if (const auto* to = p.device(lead.to.device);
            to && to->spec() && (to->spec()->amplifier || to->spec()->loudspeaker))
            drives.insert(lead.from);
    for (const auto& d : p.devices) {
        if (!d.spec() || !d.spec()->microphone || !space.space.has(d.room))
            continue;
        for (const auto& processor : p.devices) {
            if (!processor.program)
                continue;
            for (const auto& [input, from] : processor.feeds) {
                if (from.compare(0, d.id.size() + 1, d.id + "/") != 0)
                    continue;
                const auto source = blockAt(*processor.program, input, engine::End::arrives);
                if (source.empty())
                    continue;
                const auto forward = reached(*processor.program, source, true);
                for (const auto& b : processor.program->blocks) {
                    const auto port = b.texts.find("port");
                    if (engine::endOf(b) != engine::End::leaves || port == b.texts.end() || !forward.count(b.id) ||
                        !drives.count({processor.id, port->second}))
                        continue;
                    const auto way = engine::pathResponse(*processor.program, engine::PortRef{source, 0},
                                                          engine::PortRef{b.id, 0}, hz, processor.rate);
                    if (!way)
                        continue;
                    double power = 0;
                    for (const auto& h : *way)
                        power += std::norm(h) / static_cast<double>(way->size());
                    if (power <= 1e-12)
                        continue;
                    MicrophoneWay one{&d, processor.id + "/" + port->second, 10 * std::log10(power), {}};
                    const auto back = reached(*processor.program, b.id, false);
                    for (const auto& block : processor.program->blocks)
                        if (block.kind == "automixer" && forward.count(block.id) && back.count(block.id))
                            one.mixers.insert(processor.id + "/" + block.id);
                    all.push_back(std::move(one));
                }
            }
        }
    }
    return all;
}

// The loudest of each microphone, dB, by its name.
std::map<std::string, double> loudest(const std::vector<MicrophoneWay>& ways) {
    std::map<std::string, double> all;
    for (const auto& w : ways) {
        const auto [it, fresh] = all.try_emplace(w.microphone->name, w.db);
        it->second = std::max(it->second, w.db);
    }
    return all;
}

std::vector<SceneFigures::Twice> heardTwice(const SpaceOf& space, const std::vector<MicrophoneWay>& ways) {
    constexpr double apart = 9.5, nearest = 0.1, audible = -60; // dB, m, dB
    std::map<std::string, SceneFigures::Twice> all;             // by talker: the loudest second
    for (const auto* room : space.space.rooms)
        for (const auto& talker : room->talkers) {
            std::map<std::string, std::vector<std::pair<double, const MicrophoneWay*>>> byEnd;
            for (const auto& w : ways) {
                const auto& at = w.microphone->place;
                if (!at.placed || w.db < audible)
                    continue;
                const double metres = std::hypot(at.x - talker.x, at.y - talker.y, at.z - talker.z);
                byEnd[w.end].emplace_back(w.db - 20 * std::log10(std::max(metres, nearest)), &w);
            }
            for (const auto& [_, heard] : byEnd) {
                const auto first = std::max_element(heard.begin(), heard.end(),
                                                    [](const auto& a, const auto& b) { return a.first < b.first; });
                for (const auto& second : heard) {
                    const double lower = first->first - second.first;
                    const auto& mixers = second.second->mixers;
                    if (second.second->microphone == first->second->microphone || lower >= apart ||
                        std::any_of(mixers.begin(), mixers.end(),
                                    [&](const auto& m) { return first->second->mixers.count(m) > 0; }))
                        continue;
                    const auto it = all.find(talker.id);
                    if (it == all.end() || lower < it->second.lower)
                        all[talker.id] = {talker.name.empty() ? talker.id : talker.name,
                                          first->second->microphone->name, second.second->microphone->name, lower};
                }
            }
        }
    std::vector<SceneFigures::Twice> list;
    for (auto& [_, one] : all)
        list.push_back(std::move(one));
    return list;
}

} // namespace

SceneFigures figuresOf(const Project& p, const Scene& scene, std::stop_token stop) {
    SceneFigures f;
    if (scene.room.empty())
        return f;
    const auto space = spaceSaid(p, scene.room);
    if (!space)
        return f;
    const auto edit = recallScene(p, scene.id);
    auto then = edit ? edit->make(p) : Result<Project>(Error{});
    if (!then)
        return f;
    const auto rest = restOf(p, *space, stop);
    const auto ways = waysOut(*then, *space);
    f.twice = heardTwice(*space, ways);
    const auto before = loudest(waysOut(p, *space)), after = loudest(ways);
    f.space = space->space.name;
    double most = -200, mostThen = -200;
    for (const auto& [_, db] : before)
        most = std::max(most, db);
    for (const auto& [_, db] : after)
        mostThen = std::max(mostThen, db);
    if (rest.predicted && most > -200) {
        f.level = rest.level;
        if (mostThen > -200)
            f.levelThen = rest.level + mostThen - most;
    }
    for (const auto& [name, spare] : rest.spare) {
        f.spare = std::min(f.spare.value_or(spare), spare);
        const auto was = before.find(name), is = after.find(name);
        if (is == after.end() || most <= -200)
            continue; // it is not heard
        // One that is silent in the design is held against the loudest of it.
        const double change = is->second - (was == before.end() ? most : was->second);
        if (!f.spareThen || spare - change < *f.spareThen)
            f.spareThen = spare - change, f.microphone = name;
    }
    return f;
}

} // namespace loom::project
