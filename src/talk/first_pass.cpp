#include "talk/first_pass.h"
#include "acoustics/pick_up.h"
#include "engine/path_response.h"
#include "engine/schedule.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include "rooms/owned_ports.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <set>
#include <sstream>

namespace loom::project {

namespace {

using engine::Block;
using engine::PortRef;
using engine::Program;
using Listener = Conversation::Listener;

constexpr double closedDb = -79.9; // a crossing below is closed
constexpr double enough = 1;       // dB by which a level may differ
constexpr double sendDb = 0;       // of microphones to a far end

std::string figure(double v, int digits = 1) {
    char text[40];
    std::snprintf(text, sizeof text, "%.*f", digits, v);
    std::string s = text;
    return s[0] == '-' ? "\u2212" + s.substr(1) : s;
}

std::string count(std::size_t n, const char* what) {
    return std::to_string(n) + " " + what + (n == 1 ? "" : "s");
}

std::string nameOf(const Block& b) {
    const auto* kind = engine::findKind(b.kind);
    return b.label.empty() && kind ? kind->label : b.label;
}

// ---- what a first pass set ----

std::map<std::string, double> setBefore(const Block& b) {
    std::map<std::string, double> all;
    const auto it = b.marks.find(firstPassMark);
    std::istringstream in(it == b.marks.end() ? "" : it->second);
    in.imbue(std::locale::classic());
    for (std::string one; std::getline(in, one, ';');)
        if (const auto eq = one.find('='); eq != std::string::npos) {
            std::istringstream number(one.substr(eq + 1));
            number.imbue(std::locale::classic());
            number >> all[one.substr(0, eq)];
        }
    return all;
}

bool isByHand(const Block& b, const std::string& param) {
    const auto now = b.values.find(param);
    if (now == b.values.end())
        return false;
    const auto set = setBefore(b);
    const auto was = set.find(param);
    return was == set.end() || std::abs(was->second - now->second) > 1e-6;
}

void setFirst(Block& b, const std::string& param, double value) {
    value = std::round(value * 10) / 10;
    engine::enterValue(b, param, value);
    auto all = setBefore(b);
    all[param] = value;
    std::ostringstream out;
    out.imbue(std::locale::classic());
    for (const auto& [p, v] : all)
        out << (out.tellp() > 0 ? ";" : "") << p << "=" << v;
    b.marks[firstPassMark] = out.str();
}

double valueOf(const Block& b, const std::string& param) {
    const engine::BlockView view(b);
    const int i = view.table->indexOf(param);
    return i < 0 ? 0 : view.values[static_cast<std::size_t>(i)];
}

// ---- one space, worked on step by step ----

class Work {
  public:
    Work(const Project& p, const SpaceOf& of, std::stop_token stop)
        : p_(p), key_(of.key()), state_(of.state ? of.state->id : ""), stop_(stop) {
        pass_.space = key_, pass_.state = state_, pass_.name = of.space.name;
    }
    FirstPass run();

  private:
    // What is there now, in the project with all that was proposed so far.
    Conversation talk() const { return conversationOf(p_, *spaceSaid(p_, key_, state_)); }
    // Proposes it if it changes anything. What cannot be done is told.
    void propose(Proposal one) {
        auto then = one.apply(p_);
        if (!then)
            return pass_.cannot.push_back(then.error().text());
        if (!one.byHand)
            p_ = std::move(*then);
        pass_.proposals.push_back(std::move(one));
    }
    using Change = std::function<Result<Program>(const Project&, const Device&)>;
    static std::function<Result<Project>(Project)> inProgram(const std::string& device, Change change) {
        return [device, change](Project p) -> Result<Project> {
            auto program = change(p, *std::as_const(p).device(device));
            if (!program)
                return program.error();
            p.device(device)->program = std::move(*program);
            return p;
        };
    }
    const Program& program() const { return *std::as_const(p_).device(device_)->program; }

    void lanes();
    void preamps();
    void highPasses();
    void mixes();
    void farEnds();
    void crossings();
    void echo();
    void group();
    void mutes();
    double levelAtA(const Conversation::Microphone& m, double& distance) const;
    double zoneGain(const Conversation& c) const;
    const Block* onLane(const std::string& source, const char* kind) const;

    Project p_;
    std::string key_, state_, device_; // the processor that hears the space
    std::stop_token stop_;
    FirstPass pass_{};
};

// The first block of a kind on the lane of a source, before lanes meet.
const Block* beadOf(const Program& p, const std::string& source, const char* kind) {
    std::string at = source;
    for (int i = 0; i < 64; ++i) {
        const Block* next = nullptr;
        int leaving = 0;
        for (const auto& c : p.connections)
            if (c.from.block == at)
                next = p.find(c.to.block), ++leaving;
        if (!next || leaving != 1)
            return nullptr;
        if (next->kind == kind)
            return next;
        if (engine::inputsOf(p, *next) != 1)
            return nullptr;
        at = next->id;
    }
    return nullptr;
}

const Block* Work::onLane(const std::string& source, const char* kind) const {
    return beadOf(program(), source, kind);
}

// Where a lane's sound has come to before other lanes join it: behind its last bead of one way in and out.
PortRef laneEnd(const Program& p, const std::string& source) {
    PortRef at{source, 0};
    for (int i = 0; i < 64; ++i) {
        const Block* next = nullptr;
        int leaving = 0;
        for (const auto& c : p.connections)
            if (c.from == at)
                next = p.find(c.to.block), ++leaving;
        if (!next || leaving != 1 || engine::inputsOf(p, *next) != 1 || engine::outputsOf(p, *next) != 1)
            return at;
        at = {next->id, 0};
    }
    return at;
}

// Where a lane's sound has come to at last: on through blocks that keep lanes apart, such as cancellers and groups.
PortRef laneOut(const Program& p, const std::string& source) {
    PortRef at{source, 0};
    for (int i = 0; i < 64; ++i) {
        std::optional<PortRef> next;
        for (const auto& c : p.connections) {
            const auto* b = c.from == at ? p.find(c.to.block) : nullptr;
            if (!b || next || engine::isMatrix(*b) || engine::endOf(*b) != engine::End::none ||
                !engine::findKind(b->kind))
                continue;
            const engine::BlockView view(*b);
            if (b->kind == "automixer") {
                if (c.to.port < view.shape.at("lanes"))
                    next = {b->id, c.to.port + 1};
            } else if (const int out = outputFor(view, c.to.port); out >= 0 && (b->kind != "sum" || view.inputs() == 1))
                next = {b->id, out};
        }
        if (!next)
            return at;
        at = *next;
    }
    return at;
}

// Those of them that are there: others belong to proposals that were left out.
std::vector<std::string> present(const Program& p, const std::vector<std::string>& blocks) {
    std::vector<std::string> all;
    for (const auto& b : blocks)
        if (p.find(b))
            all.push_back(b);
    return all;
}

// Puts a channel of a block into a lane: what left `from` leaves `out` from now on.
void splice(Program& p, const PortRef& from, const PortRef& in, const PortRef& out) {
    for (std::size_t i = 0; i < p.connections.size(); ++i)
        if (p.connections[i].from == from && p.connections[i].to.block != in.block)
            p.connections.change(i).from = out;
    p.connections.push_back({from, in});
}

std::string firstMatrix(const Program& p, const Conversation& c, const std::string& device) {
    std::map<std::string, int> reached;
    for (const auto& m : c.microphones) {
        if (m.input.device != device || m.source.empty())
            continue;
        // On through blocks that keep lanes apart.
        const auto end = laneOut(p, m.source);
        for (const auto& t : p.connections)
            if (t.from == end)
                if (const auto* b = p.find(t.to.block); b && engine::isMatrix(*b))
                    ++reached[b->id];
    }
    std::string best;
    for (const auto& [id, n] : reached)
        if (best.empty() || n > reached[best])
            best = id;
    return best;
}

// The input or output of a matrix that a lane is on; -1: none.
int inputOn(const Program& p, const std::string& matrix, const std::string& source) {
    const auto end = laneOut(p, source);
    for (const auto& c : p.connections)
        if (c.from == end && c.to.block == matrix)
            return c.to.port;
    return -1;
}
int outputOn(const Program& p, const std::string& matrix, const std::string& destination) {
    PortRef at = entryOf(p, destination);
    for (int i = 0; i < 64; ++i) { // back through a mute or level that lies between
        const auto* c = p.into(at);
        if (!c)
            return -1;
        if (c->from.block == matrix)
            return c->from.port;
        at = {c->from.block, c->from.port};
        const auto* b = p.find(at.block);
        if (!b || engine::inputsOf(p, *b) != engine::outputsOf(p, *b))
            return -1;
    }
    return -1;
}

std::string crossing(int in, int out) {
    return std::to_string(in + 1) + "." + std::to_string(out + 1);
}

void Work::lanes() {
    const auto c = talk();
    std::vector<std::pair<std::string, std::string>> missing; // port, label
    for (const auto& m : c.microphones)
        if (m.input.device == device_ && m.source.empty())
            missing.emplace_back(m.input.port, m.name);
    if (missing.empty())
        return;
    propose({"lanes " + device_,
             missing.size() == 1 ? "A lane for " + missing.front().second
                                 : "Lanes for " + count(missing.size(), "microphone"),
             "Led to " + std::as_const(p_).device(device_)->name + ", where no program takes them",
             count(missing.size(), "block"), false,
             inProgram(device_, [missing](const Project&, const Device& d) -> Result<Program> {
                 Program now = *d.program;
                 for (const auto& [port, label] : missing) {
                     std::string name = label;
                     if (const auto at = name.rfind(" microphone"); at != std::string::npos && at > 0)
                         name.resize(at);
                     auto made = addBlock(now, "source", name, {{"port", port}});
                     if (!made)
                         return made.error();
                     now = std::move(made->program);
                 }
                 return now;
             })});
}

// Level of whoever is nearest, A-weighted, where a microphone stands.
double Work::levelAtA(const Conversation::Microphone& m, double& distance) const {
    const auto space = *spaceSaid(p_, key_, state_);
    const auto model = modelOf(p_, space.space, space.state);
    const SpaceModel::Voice* nearest = nullptr;
    using acoustics::operator-;
    acoustics::Point at{};
    for (const auto& one : model.microphones)
        if (one.id == m.device)
            at = one.at;
    for (const auto& v : model.voices)
        if (!nearest || acoustics::lengthOf(v.at - at) < acoustics::lengthOf(nearest->at - at))
            nearest = &v;
    if (!nearest)
        return 0;
    distance = std::max(acoustics::lengthOf(nearest->at - at), 0.02);
    return nearest->level - 20 * std::log10(distance);
}

void Work::preamps() {
    for (const auto& m : talk().microphones) {
        const auto* mic = std::as_const(p_).device(m.device);
        if (m.input.device != device_ || m.source.empty())
            continue;
        const bool network = mic->spec()->network;
        const char* kind = network ? "level" : "preamp";
        double distance = 0;
        const double level = levelAtA(m, distance);
        if (distance <= 0)
            continue;
        const double wanted = std::clamp(
            nominalDb -
                (level - 94 + 20 * std::log10(inputPerPascal(p_, *mic, network ? SoundEnd{m.device, ""} : m.input))),
            network ? -20.0 : 0.0, network ? 12.0 : 66.0);
        const Block* now = onLane(m.source, kind);
        const double is = now ? valueOf(*now, "gain") : 0;
        if (now && std::abs(is - wanted) < enough)
            continue;
        if (!now && network && std::abs(wanted) < enough)
            continue;
        const std::string source = m.source, name = nameOf(*program().find(m.source));
        const double rounded = std::round(wanted * 2) / 2;
        propose({std::string(kind) + " " + device_ + "/" + source,
                 (network ? "Level of " : "Preamp of ") + name + ": " + (now ? figure(is) + " \u2192 " : "") +
                     figure(rounded) + " dB",
                 "A talker at " + figure(distance, 2) + " m reaches \u221220 dBFS", now ? "1 value" : "1 block",
                 now && isByHand(*now, "gain"),
                 inProgram(device_, [source, kind, rounded](const Project&, const Device& d) -> Result<Program> {
                     Program p = *d.program;
                     if (!p.find(source))
                         return p; // that lane was left out
                     const Block* b = beadOf(p, source, kind);
                     std::string id = b ? b->id : "";
                     if (!b) {
                         auto made = insertBlock(p, kind, {source, 0});
                         if (!made)
                             return made.error();
                         p = std::move(made->program), id = made->block;
                     }
                     setFirst(*p.find(id), "gain", rounded);
                     return p;
                 })});
    }
}

void Work::highPasses() {
    const auto space = *spaceSaid(p_, key_, state_);
    const auto model = modelOf(p_, space.space, space.state);
    for (const auto& m : talk().microphones) {
        if (m.input.device != device_ || m.source.empty())
            continue;
        // Where the room's noise comes near to speech there, an octave lower than where speech begins (100 Hz).
        double distance = 0;
        const double level = levelAtA(m, distance);
        if (distance <= 0)
            continue;
        const auto speech = acoustics::speechAt(level);
        const double over = speech[1] - model.noise[1]; // at 125 Hz
        const double wanted = over < 15 ? 120 : 90;
        const Block* now = onLane(m.source, "highpass");
        if (now && std::abs(valueOf(*now, "corner") - wanted) < 31)
            continue;
        const std::string source = m.source, name = nameOf(*program().find(m.source));
        propose({"highpass " + device_ + "/" + source,
                 "High-pass of " + name + ": " +
                     (now ? figure(valueOf(*now, "corner"), 0) + " \u2192 " : std::string()) + figure(wanted, 0) +
                     " Hz",
                 "Speech at 125 Hz stands " + figure(over, 0) + " dB over the room's noise",
                 now ? "1 value" : "1 block", now && isByHand(*now, "corner"),
                 inProgram(device_, [source, wanted](const Project&, const Device& d) -> Result<Program> {
                     Program p = *d.program;
                     if (!p.find(source))
                         return p; // that lane was left out
                     const Block* b = beadOf(p, source, "highpass");
                     std::string id = b ? b->id : "";
                     if (!b) {
                         const Block* gain = beadOf(p, source, "preamp");
                         auto made = insertBlock(p, "highpass", {gain ? gain->id : source, 0});
                         if (!made)
                             return made.error();
                         p = std::move(made->program), id = made->block;
                         setFirst(*p.find(id), "slope", 2);
                     }
                     setFirst(*p.find(id), "corner", wanted);
                     return p;
                 })});
    }
}

// Ports of USB and telephone that belong to the space and that no program uses.
void Work::farEnds() {
    const auto space = *spaceSaid(p_, key_, state_);
    const auto& d = *std::as_const(p_).device(device_);
    for (const auto& port : d.spec()->ports(true)) {
        const auto by = transportOf(port);
        const auto owner = d.owners.find(port);
        if ((by != Transport::usb && by != Transport::telephone) || owner == d.owners.end())
            continue;
        const auto rooms = roomsOfOwner(owner->second);
        if (rooms.empty() || (rooms.size() > 1 ? ownerOf(rooms) != key_ : !space.space.has(rooms.front())))
            continue;
        const bool in = endAt(*d.program, port, engine::End::arrives),
                   out = endAt(*d.program, port, engine::End::leaves);
        if (in && out)
            continue;
        const std::string name = by == Transport::usb ? "Far end" : "Telephone";
        const auto places = d.spec()->ports(false);
        const bool sends = std::find(places.begin(), places.end(), port) != places.end();
        propose({"far-end " + device_ + "/" + port, name + " on " + port + ": heard, and hears the microphones",
                 "It belongs to " + pass_.name + ", and no program uses it",
                 count((in ? 0u : 1u) + (out ? 0u : 1u), "block"), false,
                 inProgram(device_, [=](const Project&, const Device& one) -> Result<Program> {
                     Program p = *one.program;
                     if (!endAt(p, port, engine::End::arrives)) {
                         auto made = addBlock(p, "source", name, {{"port", port}});
                         if (!made)
                             return made.error();
                         p = std::move(made->program);
                     }
                     if (sends && !endAt(p, port, engine::End::leaves)) {
                         auto made = addBlock(p, "destination", name + " send", {{"port", port}});
                         if (!made)
                             return made.error();
                         p = std::move(made->program);
                     }
                     return p;
                 })});
    }
}

// Level at the seats, dB(A), for speech of r.m.s. 1 (A-weighted) at the output of the mixes to each zone.
double Work::zoneGain(const Conversation& c) const {
    const auto space = *spaceSaid(p_, key_, state_);
    const auto model = modelOf(p_, space.space, space.state);
    if (model.seats.empty())
        return 0;
    const auto matrix = firstMatrix(program(), c, device_);
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
        const double own = out < 0 ? 1 : gainOf(program(), {matrix, out}, {l.block, 0});
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
    auto field = model.field(0);
    for (std::size_t i = 0; i < model.loudspeakers.size(); ++i) {
        const auto it = pascals.find(model.loudspeakers[i].id);
        const double level = it == pascals.end() || it->second <= 0 ? -200 : 20 * std::log10(it->second / 20e-6);
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            field.emitters[i].level[b] += level - model.loudspeakers[i].level;
    }
    const acoustics::Prediction prediction(field);
    double mean = 0;
    for (const auto& s : model.seats)
        mean += prediction.at(s.ear).totalA / static_cast<double>(model.seats.size());
    return mean;
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
        missing += matrix.empty() || inputOn(program(), matrix, s) < 0;
    for (const auto& d : out)
        missing += matrix.empty() || outputOn(program(), matrix, d) < 0;
    if (missing == 0 || in.empty() || out.empty())
        return;
    propose({"mixes " + device_,
             matrix.empty() ? "A matrix mixer for " + pass_.name
                            : count(missing, "lane") + " onto " + nameOf(*program().find(matrix)),
             "Whoever talks meets whoever listens at one place", count(missing, "thread"), false,
             inProgram(device_, [talk = in, hear = out, matrix](const Project&, const Device& d) -> Result<Program> {
                 Program p = *d.program;
                 const auto in = present(p, talk), out = present(p, hear);
                 std::string id = matrix;
                 if (id.empty()) {
                     auto made = addBlock(p, "matrix", "Mixes");
                     if (!made)
                         return made.error();
                     p = std::move(made->program), id = made->block;
                     for (const auto& [shape, n] : {std::pair("inputs", in.size()), std::pair("outputs", out.size())}) {
                         auto grown = reshapeBlock(p, id, shape, static_cast<int>(n));
                         if (!grown)
                             return grown.error();
                         p = std::move(*grown);
                     }
                 }
                 const auto nextPort = [&](bool input) -> Result<int> { // a free one, or one more
                     const engine::BlockView view(*p.find(id));
                     for (int i = 0; i < (input ? view.inputs() : view.outputs()); ++i) {
                         bool used = input && p.into({id, i});
                         for (const auto& t : p.connections)
                             used = used || (!input && t.from == PortRef{id, i});
                         if (!used)
                             return i;
                     }
                     const int n = input ? view.inputs() : view.outputs();
                     auto grown = reshapeBlock(p, id, input ? "inputs" : "outputs", n + 1);
                     if (!grown)
                         return grown.error();
                     p = std::move(*grown);
                     return n;
                 };
                 for (const auto& s : in)
                     if (inputOn(p, id, s) < 0) {
                         const auto port = nextPort(true);
                         if (!port)
                             return port.error();
                         auto drawn = drawThread(p, laneOut(p, s), {id, *port});
                         if (!drawn)
                             return drawn.error();
                         p = std::move(*drawn);
                     }
                 for (const auto& to : out)
                     if (outputOn(p, id, to) < 0 && !p.into(entryOf(p, to))) {
                         const auto port = nextPort(false);
                         if (!port)
                             return port.error();
                         auto drawn = drawThread(p, {id, *port}, entryOf(p, to));
                         if (!drawn)
                             return drawn.error();
                         p = std::move(*drawn);
                     }
                 return p;
             })});
}

void Work::crossings() {
    const auto c = talk();
    const auto matrix = firstMatrix(program(), c, device_);
    if (matrix.empty())
        return;
    const auto space = *spaceSaid(p_, key_, state_);
    const auto* room = space.space.rooms.front();
    const double atSeats = zoneGain(c); // for r.m.s. 1
    int open = 2;
    for (const auto& g : c.groups)
        open = static_cast<int>(valueOf(*program().find(g.block), "limit"));
    double need = atSeats > 0 ? room->targets.level - (atSeats + nominalDb) : -6; // crossing for speech at -20 dBFS
    double spare = 0;
    if (const auto loops = loopsOf(modelOf(p_, space.space, space.state), open, stop_); !loops.empty())
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
            if (const int in = m.source.empty() ? -1 : inputOn(program(), matrix, m.source); in >= 0)
                voices.push_back({m.source, l.block, in, out, zone ? (mayHear(m) ? held : -80) : sendDb});
        for (std::size_t f = 0; f < c.farEnds.size(); ++f)
            if (const int in = c.farEnds[f].source.empty() ? -1 : inputOn(program(), matrix, c.farEnds[f].source);
                in >= 0)
                far.push_back({c.farEnds[f].source, l.block, in, out,
                               l.farEnd == static_cast<int>(f) ? -80
                               : zone                          ? need
                                                               : 0});
        const std::string name = nameOf(*program().find(l.block));
        all.emplace_back("voices " + device_ + "/" + l.block,
                         zone ? "Microphones in " + name + ": " + figure(held) + " dB" : "Microphones to " + name,
                         zone ? (spare < 0 ? "The seats' target of " + figure(room->targets.level, 0) + " dB(A), " +
                                                 figure(-spare) + " dB less for gain before feedback"
                                           : "Seats get their target of " + figure(room->targets.level, 0) + " dB(A)")
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
            const bool closedNow = is < closedDb, closedThen = x.db < closedDb;
            if (closedNow && closedThen)
                continue;
            if (closedNow != closedThen || std::abs(is - x.db) >= enough) {
                differ.push_back(x);
                hand = hand || (!closedNow && isByHand(b, crossing(x.in, x.out)));
            }
        }
        if (differ.empty())
            continue;
        propose(
            {id, text, reason, count(differ.size(), "value"), hand,
             inProgram(device_, [matrix, differ](const Project&, const Device& d) -> Result<Program> {
                 Program p = *d.program;
                 if (!p.find(matrix))
                     return Error{"the matrix mixer is not there", matrix, "Take the proposal that makes it as well."};
                 for (const auto& x : differ) // where lanes were left out, others lie elsewhere
                     if (const int in = inputOn(p, matrix, x.from), out = outputOn(p, matrix, x.to);
                         in >= 0 && out >= 0)
                         setFirst(*p.find(matrix), crossing(in, out), x.db);
                 return p;
             })});
    }
}

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

FirstPass Work::run() {
    const auto c = talk();
    std::map<std::string, int> processors;
    for (const auto& m : c.microphones)
        ++processors[m.input.device];
    for (const auto& [id, n] : processors)
        if (const auto* d = std::as_const(p_).device(id);
            d->program && !d->spec()->amplifier && (device_.empty() || n > processors[device_]))
            device_ = id;
    if (device_.empty()) {
        pass_.cannot.push_back(c.microphones.empty()
                                   ? "No microphone of " + pass_.name +
                                         " is led to a processor. Lead them in Patch or Survey."
                                   : "The microphones of " + pass_.name + " are led to devices without a program.");
        return pass_;
    }
    if (processors.size() > 1)
        pass_.cannot.push_back("Microphones of " + pass_.name + " are led to " + count(processors.size(), "processor") +
                               "; a group lies in one. Send the others there by a stream.");
    lanes();
    farEnds();
    preamps();
    highPasses();
    mixes();
    echo();
    group();
    crossings();
    mutes();
    return pass_;
}

} // namespace

FirstPass firstPassOf(const Project& p, const SpaceOf& space, std::stop_token stop) {
    return Work(p, space, stop).run();
}

Edit takeFirstPass(const FirstPass& pass, const std::vector<std::string>& ids) {
    std::vector<Proposal> taken;
    for (const auto& one : pass.proposals)
        if (std::find(ids.begin(), ids.end(), one.id) != ids.end())
            taken.push_back(one);
    if (taken.empty())
        return {};
    return {"First pass of " + pass.name, [taken](Project p) -> Result<Project> {
                for (const auto& one : taken) {
                    auto then = one.apply(std::move(p));
                    if (!then)
                        return then.error();
                    p = std::move(*then);
                }
                return p;
            }};
}

} // namespace loom::project
