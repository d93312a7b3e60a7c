#include "patch/ways.h"
#include "engine/block_kind.h"
#include "engine/latency.h"
#include <algorithm>

namespace loom::project {

using Kind = WayStep::Kind;

const char* nameOf(Kind kind) {
    static constexpr const char* names[]{"converter", "program", "packet", "network", "buffer", "ring", "cable"};
    return names[static_cast<std::size_t>(kind)];
}

SoundWays::SoundWays(const Project& p, const Patched& patched, const Wired& wired) {
    for (const auto& d : p.devices)
        inside(d);
    between(p, patched, wired);
}

int SoundWays::node(const std::string& device, const std::string& port, bool input) {
    std::string name = device + "/" + port;
    const auto [it, fresh] = at_.try_emplace({name, input}, static_cast<int>(nodes_.size()));
    if (fresh)
        nodes_.push_back({std::move(name), input});
    return it->second;
}

int SoundWays::find(const std::string& text, bool output) const {
    for (const bool input : {!output, output})
        if (const auto it = at_.find({text, input}); it != at_.end())
            return it->second;
    return -1;
}

void SoundWays::add(int from, int to, double least, double most, std::vector<WayStep> steps) {
    nodes_[static_cast<std::size_t>(from)].on.push_back({to, least, most, std::move(steps)});
}

// From the inputs of a device to its outputs.
void SoundWays::inside(const Device& d) {
    const auto* m = d.spec();
    const double perSample = 1000 / d.rate;
    const auto pass = [&](const std::string& in, const std::string& out, double least, double most) {
        const int a = node(d.id, in, true), b = node(d.id, out, false);
        std::vector<WayStep> steps;
        const double before = m && transportOf(in) == Transport::cable ? m->converterIn * perSample : 0;
        const double after = m && transportOf(out) == Transport::cable ? m->converterOut * perSample : 0;
        if (before > 0)
            steps.push_back({Kind::converter, d.id + "/" + in, d.id + "/" + in, before});
        steps.push_back({Kind::program, d.id + "/" + in, d.id + "/" + out, most});
        if (after > 0)
            steps.push_back({Kind::converter, d.id + "/" + out, d.id + "/" + out, after});
        add(a, b, least + before + after, most + before + after, std::move(steps));
    };
    if (d.program && !d.program->blocks.empty()) {
        std::vector<std::pair<const engine::Block*, std::string>> sources, destinations;
        for (const auto& b : d.program->blocks) {
            const auto end = engine::endOf(b);
            const auto it = b.texts.find("port");
            if (end == engine::End::none || it == b.texts.end() || it->second.empty())
                continue;
            (end == engine::End::arrives ? sources : destinations).emplace_back(&b, it->second);
        }
        for (const auto& [source, in] : sources) {
            const auto late = engine::latenciesFrom(*d.program, source->id, d.rate);
            for (const auto& [destination, out] : destinations)
                if (const auto it = late.find({destination->id, 0}); it != late.end())
                    pass(in, out, it->second.least * perSample, it->second.most * perSample);
        }
        return;
    }
    if (!m || (m->workBudget > 0 && !m->amplifier))
        return; // a processor without a program is silent
    const auto streamed = [](const std::string& port) { return specOf(transportOf(port)).streams; };
    const auto ins = m->ports(true), outs = m->ports(false);
    // A box passes on between its sockets and the network; an amplifier from each input to its output.
    const bool box = !m->amplifier &&
                     (std::any_of(ins.begin(), ins.end(), streamed) || std::any_of(outs.begin(), outs.end(), streamed));
    for (const auto& in : ins)
        for (const auto& out : outs)
            if (in.substr(in.rfind(' ') + 1) == out.substr(out.rfind(' ') + 1) &&
                (box ? streamed(in) != streamed(out) : in.rfind("in ", 0) == 0 || m->amplifier))
                pass(in, out, 0, 0);
}

// From device to device.
void SoundWays::between(const Project& p, const Patched& patched, const Wired& wired) {
    for (const auto& d : p.devices)
        for (const auto& [in, text] : d.feeds)
            if (const auto [from, out] = endOf(text); !from.empty() && p.device(from)) {
                const int a = node(from, out, false), b = node(d.id, in, true);
                add(a, b, 0, 0, {{Kind::cable, text, d.id + "/" + in, 0}});
            }
    for (const auto& way : wired.deliveries) {
        if (!way.runs)
            continue;
        const auto& o = patched.offers[way.offer];
        const auto& h = patched.hearings[way.hearing];
        const StreamDelay late = delayOf(p, patched, wired, way);
        for (std::size_t c = 0; c < std::min(o.stream->ports.size(), h.receiver->inputs.size()); ++c) {
            if (h.receiver->inputs[c].empty())
                continue;
            const std::string from = o.device->id + "/" + o.stream->ports[c],
                              to = h.device->id + "/" + h.receiver->inputs[c];
            std::vector<WayStep> steps;
            if (o.transport == Transport::ring)
                steps = {{Kind::ring, from, to, late.total()}};
            else
                steps = {{Kind::packet, from, to, late.packet},
                         {Kind::network, from, to, late.network},
                         {Kind::buffer, from, to, late.buffer}};
            const int a = node(o.device->id, o.stream->ports[c], false),
                      b = node(h.device->id, h.receiver->inputs[c], true);
            add(a, b, late.total(), late.total(), std::move(steps));
        }
    }
}

std::optional<SoundWay> SoundWays::between(const std::string& from, const std::string& to) const {
    // A name may be an input and an output of one device: sound begins at what comes in and ends at what goes out.
    const int begin = find(from, false), end = find(to, true);
    if (begin < 0 || end < 0)
        return {};
    struct Left {
        bool done = false, there = false, at = false;
        double least = 0, most = 0;
        int next = -1; // edge of the longest
    };
    std::vector<Left> known(nodes_.size());
    // What is left from each node to the end; a loop is gone through once.
    std::vector<std::pair<int, std::size_t>> stack{{begin, 0}};
    known[static_cast<std::size_t>(begin)].at = true;
    while (!stack.empty()) {
        const int n = stack.back().first;
        auto& k = known[static_cast<std::size_t>(n)];
        const auto& on = nodes_[static_cast<std::size_t>(n)].on;
        if (n == end) {
            k.there = true;
        } else if (stack.back().second < on.size()) {
            const int next = on[stack.back().second].to;
            auto& other = known[static_cast<std::size_t>(next)];
            if (!other.done && !other.at) {
                other.at = true;
                stack.push_back({next, 0});
                continue;
            }
            if (const auto& e = on[stack.back().second]; other.done && other.there) {
                const double least = other.least + e.least, most = other.most + e.most;
                if (!k.there || most > k.most) {
                    k.most = most;
                    k.next = static_cast<int>(stack.back().second);
                }
                k.least = k.there ? std::min(k.least, least) : least;
                k.there = true;
            }
            ++stack.back().second;
            continue;
        }
        k.done = true;
        k.at = false;
        stack.pop_back();
    }
    const auto& first = known[static_cast<std::size_t>(begin)];
    if (!first.there)
        return {};
    SoundWay way{first.least, first.most, {}};
    for (int n = begin; n != end;) {
        const auto& e =
            nodes_[static_cast<std::size_t>(n)].on[static_cast<std::size_t>(known[static_cast<std::size_t>(n)].next)];
        way.steps.insert(way.steps.end(), e.steps.begin(), e.steps.end());
        n = e.to;
    }
    return way;
}

std::vector<std::string> SoundWays::inputsTo(const std::string& output) const {
    std::vector<std::string> all;
    if (const auto end = at_.find({output, false}); end != at_.end())
        for (const auto& n : nodes_)
            if (n.input && std::any_of(n.on.begin(), n.on.end(), [&](const Edge& e) { return e.to == end->second; }))
                all.push_back(n.name);
    return all;
}

std::vector<SoundWays::Passed> SoundWays::back(const std::string& device, const std::string& port, bool input,
                                               const LevelOf& level) const {
    std::vector<Passed> all;
    const auto start = at_.find({device + "/" + port, input});
    if (start == at_.end())
        return all;
    struct From {
        int node;
        Kind kind;
    };
    std::vector<std::vector<From>> into(nodes_.size());
    for (std::size_t n = 0; n < nodes_.size(); ++n)
        for (const auto& e : nodes_[n].on)
            into[static_cast<std::size_t>(e.to)].push_back(
                {static_cast<int>(n), e.steps.empty() ? Kind::program : e.steps.front().kind});
    const auto passed = [&](int n) {
        const auto& node = nodes_[static_cast<std::size_t>(n)];
        const auto [id, name] = endOf(node.name);
        return Passed{id, name, node.input, {}, level ? level(id, name, node.input) : std::nullopt};
    };
    std::vector<bool> seen(nodes_.size());
    for (int at = start->second; at >= 0 && !seen[static_cast<std::size_t>(at)];) {
        seen[static_cast<std::size_t>(at)] = true;
        all.push_back(passed(at));
        int next = -1;
        std::optional<double> most;
        for (const auto& from : into[static_cast<std::size_t>(at)]) {
            const auto db = passed(from.node).db;
            if (next < 0 || (db && (!most || *db > *most))) {
                next = from.node;
                all.back().from = from.kind;
                most = db;
            }
        }
        all.back().others = std::max(0, static_cast<int>(into[static_cast<std::size_t>(at)].size()) - 1);
        at = next;
    }
    return all;
}

std::string cameBefore(const Project& p, const std::string& device, const std::string& input) {
    const auto patched = patchedOf(p);
    const auto way = SoundWays(p, patched, wiredOf(p, patched)).back(device, input, true);
    std::string all;
    for (std::size_t n = 1; n < way.size(); ++n)
        all += (n == 1 ? "Before that: " : ", ") + wordsOf(p, way[n]);
    return all.empty() ? all : all + ".";
}

std::string wordsOf(const Project& p, const SoundWays::Passed& passed) {
    const auto* d = p.device(passed.device);
    return (d ? d->name : passed.device) + " \u00b7 " + passed.port;
}

std::vector<std::string> SoundWays::loop() const {
    std::vector<int> state(nodes_.size(), 0); // 1: on the way here, 2: done
    for (std::size_t start = 0; start < nodes_.size(); ++start) {
        if (state[start])
            continue;
        std::vector<std::pair<int, std::size_t>> way{{static_cast<int>(start), 0}};
        state[start] = 1;
        while (!way.empty()) {
            auto& [n, next] = way.back();
            const auto& on = nodes_[static_cast<std::size_t>(n)].on;
            if (next == on.size()) {
                state[static_cast<std::size_t>(n)] = 2;
                way.pop_back();
                continue;
            }
            const int to = on[next++].to;
            if (state[static_cast<std::size_t>(to)] == 1) {
                std::vector<std::string> names;
                bool in = false;
                for (const auto& [m, _] : way) {
                    in = in || m == to;
                    if (in)
                        names.push_back(nodes_[static_cast<std::size_t>(m)].name);
                }
                return names;
            }
            if (state[static_cast<std::size_t>(to)] == 0) {
                state[static_cast<std::size_t>(to)] = 1;
                way.push_back({to, 0});
            }
        }
    }
    return {};
}

} // namespace loom::project
