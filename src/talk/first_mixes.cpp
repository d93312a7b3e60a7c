// First pass: who is heard by whom, and how loud.
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

constexpr double sendDb = 0; // of microphones to a far end

// A free input or output of a matrix that is not promised, or one more.
Result<int> nextPort(Program& p, const std::string& matrix, bool input, const std::set<int>& promised = {}) {
    const engine::BlockView view(*p.find(matrix));
    for (int i = 0; i < (input ? view.inputs() : view.outputs()); ++i) {
        bool used = promised.count(i) || (input && p.into({matrix, i}));
        for (const auto& t : p.connections)
            used = used || (!input && t.from == PortRef{matrix, i});
        if (!used)
            return i;
    }
    const int n = input ? view.inputs() : view.outputs();
    auto grown = reshapeBlock(p, matrix, input ? "inputs" : "outputs", n + 1);
    if (!grown)
        return grown.error();
    p = std::move(*grown);
    return n;
}

// What a switch for these destinations has to know of each: the input of the lane that it goes into.
Result<Program> throughSwitch(Program p, const std::string& walls, const std::string& name,
                              const std::vector<std::pair<PortRef, PortRef>>& drawn) { // from a matrix to an entry
    const auto n = static_cast<int>(drawn.size());
    auto made = addBlock(p, "selector", name + " by the wall");
    if (!made)
        return made.error();
    p = std::move(made->program);
    for (const auto& [shape, many] : {std::pair("inputs", 2 * n), std::pair("outputs", n)}) {
        auto grown = reshapeBlock(p, made->block, shape, many);
        if (!grown)
            return grown.error();
        p = std::move(*grown);
    }
    p.find(made->block)->marks[wallSwitchMark] = "-;" + walls;
    for (int k = 0; k < n; ++k) {
        const auto& [from, entry] = drawn[static_cast<std::size_t>(k)];
        for (std::size_t i = 0; i < p.connections.size(); ++i)
            if (std::as_const(p.connections)[i].to == entry)
                p.connections.change(i).to = {made->block, k};
        p.connections.push_back({from, {made->block, n + k}});
        p.connections.push_back({{made->block, k}, entry});
    }
    return atWalls(std::move(p), {});
}

// Who talks onto the inputs and who hears onto the outputs of a matrix mixer; "": a new one. With walls, it is at work
// while they are open, and what was there before goes on while they are closed.
Result<Program> mixOnto(Program p, const std::string& matrix, const std::vector<std::string>& talk,
                        const std::vector<std::string>& hear, const std::string& walls, const std::string& name) {
    const auto in = present(p, talk), out = present(p, hear);
    std::string id = matrix;
    if (id.empty()) {
        auto made = addBlock(p, "matrix", walls.empty() ? "Mixes" : name + " mixes");
        if (!made)
            return made.error();
        p = std::move(made->program), id = made->block;
        if (!walls.empty())
            p.find(id)->marks[wallsMark] = walls;
        for (const auto& [shape, n] : {std::pair("inputs", in.size()), std::pair("outputs", out.size())}) {
            auto grown = reshapeBlock(p, id, shape, static_cast<int>(n));
            if (!grown)
                return grown.error();
            p = std::move(*grown);
        }
    }
    for (const auto& s : in)
        if (inputOn(p, id, s, walls) < 0) {
            const auto port = nextPort(p, id, true);
            if (!port)
                return port.error();
            auto drawn = drawThread(p, laneOut(p, s, walls), {id, *port});
            if (!drawn)
                return drawn.error();
            p = std::move(*drawn);
        }
    std::vector<std::pair<PortRef, PortRef>> switched;
    std::set<int> promised;
    for (const auto& to : out) {
        const auto entry = entryOf(p, to);
        if (outputOn(p, id, to) >= 0 || (walls.empty() && p.into(entry)))
            continue;
        const auto port = nextPort(p, id, false, promised);
        if (!port)
            return port.error();
        if (!walls.empty()) {
            promised.insert(*port);
            switched.emplace_back(PortRef{id, *port}, entry);
            continue;
        }
        auto drawn = drawThread(p, {id, *port}, entry);
        if (!drawn)
            return drawn.error();
        p = std::move(*drawn);
    }
    return switched.empty() ? Result<Program>(p) : throughSwitch(std::move(p), walls, name, switched);
}

} // namespace

// Level at the seats, dB(A), for speech of r.m.s. 1 (A-weighted) at the output of the mixes to each zone.
double Work::zoneGain(const Conversation& c) const {
    if (model_.seats.empty())
        return 0;
    const auto matrix = firstMatrix(program(), c, device_);
    const auto now = atWalls(program(), c.open);
    const auto leads = leadsOf(p_);
    const auto driven = drivenEnds(p_);
    const std::vector<double> hz{500, 1000, 2000};
    const auto gainOf = [&](const Program& p, const PortRef& from, const PortRef& to) {
        const auto h = engine::pathResponse(p, from, to, hz, 48000);
        double sum = 0;
        for (const auto& v : h ? *h : std::vector<dsp::Complex>{})
            sum += std::norm(v) / 3;
        return std::sqrt(sum);
    };
    std::map<std::string, double> pascals; // of a loudspeaker
    for (const auto& l : c.listeners) {
        if (l.kind != Listener::Kind::zone || l.device != device_)
            continue;
        const int out = matrix.empty() ? -1 : outputOn(program(), matrix, l.block);
        const double own = out < 0 ? 1 : gainOf(now, {matrix, out}, {l.block, 0});
        for (const auto& d : driven) {
            double way = 0;
            if (d.end == SoundEnd{device_, l.port})
                way = 1;
            for (const auto& lead : leads)
                if (lead.from == SoundEnd{device_, l.port} && lead.to.device == d.end.device)
                    if (const auto* amp = std::as_const(p_).device(d.end.device); amp && amp->program) {
                        const auto* in = endAt(*amp->program, lead.to.port, engine::End::arrives);
                        const auto* to = endAt(*amp->program, d.end.port, engine::End::leaves);
                        if (in && to)
                            way += lead.gain * gainOf(*amp->program, {in->id, 0}, {to->id, 0});
                    }
            for (const auto& [id, pa] : d.loudspeakers)
                pascals[id] += own * way * pa * std::sqrt(2.0);
        }
    }
    auto field = model_.field(0);
    for (std::size_t i = 0; i < model_.loudspeakers.size(); ++i) {
        const auto it = pascals.find(model_.loudspeakers[i].id);
        const double level = it == pascals.end() || it->second <= 0 ? -200 : 20 * std::log10(it->second / 20e-6);
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            field.emitters[i].level[b] += level - model_.loudspeakers[i].level;
    }
    const acoustics::Prediction prediction(field);
    double mean = 0;
    for (const auto& s : model_.seats)
        mean += prediction.at(s.ear).totalA / static_cast<double>(model_.seats.size());
    return mean;
}

std::string Work::wallNames(const std::string& walls) const {
    std::vector<std::string> names;
    for (const auto& id : readWalls(walls)) {
        std::string name = id;
        for (const auto& b : p_.buildings)
            for (const auto& w : b.walls)
                if (w.id == id && !w.name.empty())
                    name = w.name;
        names.push_back(name);
    }
    std::string all;
    for (std::size_t i = 0; i < names.size(); ++i)
        all += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
    return all + (names.size() == 1 ? " is" : " are");
}

// One matrix mixer that all of the space are on: talkers and far ends in, listeners out.
void Work::mixes() {
    const auto c = talk();
    const auto matrix = firstMatrix(program(), c, device_);
    std::vector<std::string> in, out, names;
    for (const auto& m : c.microphones)
        if (m.input.device == device_ && !m.source.empty())
            in.push_back(m.source);
    for (const auto& f : c.farEnds)
        if (f.device == device_ && !f.source.empty())
            in.push_back(f.source);
    for (const auto& l : c.listeners)
        if (l.device == device_)
            out.push_back(l.block);
    std::size_t missing = 0;
    for (const auto& s : in)
        missing += matrix.empty() || inputOn(program(), matrix, s, c.walls()) < 0;
    for (const auto& d : out)
        missing += matrix.empty() || outputOn(program(), matrix, d) < 0;
    if (missing == 0 || in.empty() || out.empty())
        return;
    const auto walls = c.walls();
    const auto at = walls.empty() ? std::string() : ", at work while " + wallNames(walls) + " open";
    propose(
        {"mixes " + device_ + (walls.empty() ? "" : "|" + walls),
         matrix.empty() ? "A matrix mixer for " + pass_.name + at
                        : count(missing, "lane") + " onto " + blockName(program(), *program().find(matrix)),
         walls.empty() ? "Whoever talks meets whoever listens at one place"
                       : "What is joined is mixed of its own; the processor changes over when the wall moves",
         count(missing, "thread"), false,
         inProgram(device_, [talk = in, hear = out, matrix, walls, name = pass_.name](const Project&, const Device& d) {
             return mixOnto(*d.program, matrix, talk, hear, walls, name);
         })});
}

void Work::crossings() {
    const auto c = talk();
    const auto matrix = firstMatrix(program(), c, device_);
    if (matrix.empty())
        return;
    const double atSeats = zoneGain(c); // for r.m.s. 1
    int open = 2;
    for (const auto& g : c.groups)
        open = static_cast<int>(valueOf(*program().find(g.block), "limit"));
    double need = atSeats > 0 ? model_.targets.level - (atSeats + nominalDb) : -6; // crossing for speech at -20 dBFS
    double spare = 0;
    if (const auto loops = loopsOf(model_, open, stop_); !loops.empty())
        spare = loops.front().spareDb;
    const double held = spare < 0 ? need + spare : need; // microphones: gain before feedback is kept
    struct Cross {
        std::string from, to; // a source, a destination
        int in, out;
        double db;
    };
    const auto mayHear = [&](const Conversation::Microphone& m) {
        const auto* d = std::as_const(p_).device(m.device);
        return d->spec()->microphone->reinforced && !d->silentHere && m.role != "public";
    };
    std::vector<std::tuple<std::string, std::string, std::string, std::vector<Cross>>> all; // id, text, reason
    for (const auto& l : c.listeners) {
        if (l.device != device_)
            continue;
        const int out = outputOn(program(), matrix, l.block);
        if (out < 0)
            continue;
        std::vector<Cross> voices, far;
        const bool zone = l.kind == Listener::Kind::zone;
        for (const auto& m : c.microphones)
            if (const int in = m.source.empty() ? -1 : inputOn(program(), matrix, m.source, c.walls()); in >= 0)
                voices.push_back({m.source, l.block, in, out, zone ? (mayHear(m) ? held : -80) : sendDb});
        for (std::size_t f = 0; f < c.farEnds.size(); ++f)
            if (const int in =
                    c.farEnds[f].source.empty() ? -1 : inputOn(program(), matrix, c.farEnds[f].source, c.walls());
                in >= 0)
                far.push_back({c.farEnds[f].source, l.block, in, out,
                               l.farEnd == static_cast<int>(f) ? -80
                               : zone                          ? need
                                                               : 0});
        const std::string name = blockName(program(), *program().find(l.block));
        all.emplace_back("voices " + device_ + "/" + l.block,
                         zone ? "Microphones in " + name + ": " + figure(held) + " dB" : "Microphones to " + name,
                         zone ? (spare < 0 ? "The seats' target of " + figure(model_.targets.level, 0) + " dB(A), " +
                                                 figure(-spare) + " dB less for gain before feedback"
                                           : "Seats get their target of " + figure(model_.targets.level, 0) + " dB(A)")
                         : l.farEnd >= 0 ? "Whoever is far away hears every microphone of the room"
                                         : "It is to have everything that is said",
                         voices);
        all.emplace_back("far " + device_ + "/" + l.block,
                         zone            ? "Far ends in " + name + ": " + figure(need) + " dB"
                         : l.farEnd >= 0 ? "Far ends to " + name + ", but its own sound"
                                         : "Far ends to " + name,
                         zone            ? "As loud at the seats as who talks in the room"
                         : l.farEnd >= 0 ? "Its own sound is left out by itself"
                                         : "It is to have everything that is said",
                         far);
    }
    for (auto& [id, text, reason, wanted] : all) {
        std::vector<Cross> differ;
        bool hand = false;
        const auto& b = *program().find(matrix);
        for (const auto& x : wanted) {
            const double is = valueOf(b, crossing(x.in, x.out));
            const bool closedNow = is < closedCrossing, closedThen = x.db < closedCrossing;
            if (closedNow && closedThen)
                continue;
            if (closedNow != closedThen || std::abs(is - x.db) >= enough) {
                differ.push_back(x);
                hand = hand || (!closedNow && isByHand(b, crossing(x.in, x.out)));
            }
        }
        if (differ.empty())
            continue;
        propose({id, text, reason, count(differ.size(), "value"), hand,
                 inProgram(
                     device_, [matrix, differ, walls = c.walls()](const Project&, const Device& d) -> Result<Program> {
                         Program p = *d.program;
                         if (!p.find(matrix))
                             return Error{"the matrix mixer is not there", matrix,
                                          "Take the proposal that makes it as well."};
                         for (const auto& x : differ) // where lanes were left out, others lie elsewhere
                             if (const int in = inputOn(p, matrix, x.from, walls), out = outputOn(p, matrix, x.to);
                                 in >= 0 && out >= 0)
                                 setFirst(*p.find(matrix), crossing(in, out), x.db);
                         return p;
                     })});
    }
}

} // namespace loom::project::first
