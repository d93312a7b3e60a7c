#include "voicings/voiced.h"
#include "catalogue/device_model.h"
#include "dsp/convolver.h"
#include "engine/block_kind.h"
#include "patch/streams.h"
#include "program/marks.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

bool isVoicing(const engine::Block& b) {
    return b.marks.count(voicingMark) > 0;
}

std::string destinationAt(const engine::Program& p, const std::string& port) {
    for (const auto& b : p.blocks)
        if (engine::endOf(b) == engine::End::leaves && b.texts.count("port") && b.texts.at("port") == port)
            return b.id;
    return {};
}

// "out 2" -> "in 2": what an analogue amplifier plays there.
std::string inputOf(const std::string& output) {
    const auto space = output.rfind(' ');
    return "in" + (space == std::string::npos ? std::string() : output.substr(space));
}

// The thread that brings sound to a lane's end, before any block of a voicing; null: none.
const engine::Connection* arriving(const engine::Program& p, const std::string& destination) {
    const auto* t = p.into({destination, 0});
    for (std::size_t guard = 0; t && guard < p.blocks.size(); ++guard) {
        const auto* b = p.find(t->from.block);
        if (!b || !isVoicing(*b))
            return t;
        t = p.into({b->id, 0});
    }
    return t && p.find(t->from.block) && !isVoicing(*p.find(t->from.block)) ? t : nullptr;
}

// The inputs of an amplifier whose sound its program leads to a lane's end; each channel of a pair link is one of its
// own.
std::vector<std::string> inputsTo(const engine::Program& p, const std::string& destination) {
    std::vector<std::string> found;
    std::set<std::string> seen;
    std::vector<std::string> waiting{destination};
    while (!waiting.empty()) {
        const std::string at = waiting.back();
        waiting.pop_back();
        const auto* b = p.find(at);
        if (!b || !seen.insert(at).second)
            continue;
        if (engine::endOf(*b) == engine::End::arrives) {
            const auto port = b->texts.find("port");
            found.push_back(port == b->texts.end() ? std::string() : port->second);
        }
        for (const auto& t : p.connections)
            if (t.to.block == at)
                waiting.push_back(t.from.block);
    }
    return found;
}

// The lane's end with these blocks before it, in place of those of any voicing.
engine::Program withChain(engine::Program p, const std::string& destination, const std::vector<engine::Block>& chain) {
    std::set<std::string> old;
    std::string at = destination;
    for (std::size_t guard = 0; guard <= p.blocks.size(); ++guard) {
        const auto* t = p.into({at, 0});
        const auto* b = t ? p.find(t->from.block) : nullptr;
        if (!b || !isVoicing(*b) || old.count(b->id))
            break;
        old.insert(b->id);
        at = b->id;
    }
    std::optional<engine::PortRef> from;
    if (const auto* t = p.into({at, 0}))
        from = t->from;
    erase_if(p.connections, [&](const engine::Connection& t) {
        return old.count(t.from.block) || old.count(t.to.block) || t.to == engine::PortRef{destination, 0};
    });
    // Blocks keep their place in the list, and so their order in files, where there was one of the same id.
    std::vector<engine::Block> fresh;
    for (const auto& b : chain) {
        auto* there = p.find(b.id);
        if (there && old.count(b.id)) {
            auto marks = there->marks; // a bead's colour and the like stay
            *there = b;
            for (const auto& [key, value] : marks)
                there->marks.emplace(key, value);
            old.erase(b.id);
        } else
            fresh.push_back(b);
    }
    erase_if(p.blocks, [&](const engine::Block& b) { return old.count(b.id) > 0; });
    for (auto& b : fresh)
        p.blocks.push_back(std::move(b));
    for (const auto& b : chain) {
        if (from)
            p.connections.push_back({*from, {b.id, 0}});
        from = engine::PortRef{b.id, 0};
    }
    if (from)
        p.connections.push_back({*from, {destination, 0}});
    return p;
}

bool hasTaps(const Way& w) {
    return std::any_of(w.chain.begin(), w.chain.end(),
                       [](const engine::Block& b) { return b.kind == "fir" && b.texts.count("file"); });
}

bool sameSound(const engine::Program& a, const engine::Program& b) {
    auto left = a.connections, right = b.connections;
    left.sort(std::less<>());
    right.sort(std::less<>());
    return left == right && a.blocks == b.blocks;
}

} // namespace

std::vector<OutputPath> outputPaths(const Project& p) {
    std::vector<OutputPath> all;
    std::map<std::string, std::string> streamed; // "device/port" that hears a stream -> where it comes from
    for (const auto& t : streamThreads(p))
        streamed[t.toDevice + "/" + t.toPort] = t.fromDevice + "/" + t.fromPort;
    const auto feedOf = [&](const Device& d, const std::string& input) {
        if (const auto cable = d.feeds.find(input); cable != d.feeds.end())
            return cable->second;
        const auto stream = streamed.find(d.id + "/" + input);
        return stream == streamed.end() ? std::string() : stream->second;
    };
    for (const auto& d : p.devices) {
        const auto* m = d.spec();
        if (!m || !m->amplifier)
            continue;
        for (const auto& port : m->ports(false)) {
            OutputPath path;
            path.amplifier = &d;
            path.port = port;
            path.data = &*m->amplifier;
            const auto out = d.outputs.find(port);
            static const AmplifierOutput bare;
            path.output = out == d.outputs.end() ? &bare : &out->second;
            for (const auto& l : path.output->loads)
                if (const auto* s = p.device(l.device); s && !path.voicing)
                    if (const auto* v = p.voicing(s->voicing)) {
                        path.voicing = v;
                        path.way = l.way;
                    }
            if (d.program) {
                path.runsIn = &d;
                path.destination = destinationAt(*d.program, port);
                const auto inputs = inputsTo(*d.program, path.destination);
                path.input = inputs.empty() ? inputOf(port) : inputs.front();
                // Over a network or ring, or by a cable that is told.
                path.driven = std::any_of(inputs.begin(), inputs.end(), [&](const std::string& in) {
                    return specOf(transportOf(in)).streams || d.feeds.count(in);
                });
            } else if (const auto feed = feedOf(d, path.input = inputOf(port)); !feed.empty()) {
                path.driven = true;
                const auto slash = feed.find('/');
                const auto* from = p.device(feed.substr(0, slash));
                if (from && from->program && slash != std::string::npos) {
                    path.destination = destinationAt(*from->program, feed.substr(slash + 1));
                    path.runsIn = path.destination.empty() ? nullptr : from;
                    path.driven = path.runsIn && arriving(*from->program, path.destination);
                }
            }
            path.from = feedOf(d, path.input);
            if (path.driven || !path.output->loads.empty())
                all.push_back(path);
        }
    }
    return all;
}

std::optional<loudspeaker::Protection> protectionOf(const OutputPath& path) {
    if (!path.voicing || path.way < 0 || path.way >= static_cast<int>(path.voicing->ways.size()))
        return {};
    const auto& w = path.voicing->ways[static_cast<std::size_t>(path.way)];
    if (w.rmsWatts <= 0)
        return {};
    loudspeaker::DriverPower driver{w.nominalOhms, w.rmsWatts, w.peakWatts, w.driver, w.coilMm, 0};
    for (const auto& b : w.chain)
        if (b.id == "highpass") {
            const engine::BlockView view(b);
            const auto value = [&](const char* id) {
                return view.values[static_cast<std::size_t>(view.table->indexOf(id))];
            };
            driver.lowestHz = value("on") >= 0.5 ? value("corner") : 0;
        }
    loudspeaker::Drive drive;
    drive.gainDb = path.data->gainDb;
    drive.maxVolts = path.data->maxVolts() * std::sqrt(2.0);
    drive.fullScaleDbu = path.data->fullScaleDbu;
    if (path.runsIn && path.runsIn != path.amplifier) { // the processor's own output stage
        const auto* m = path.runsIn->spec();
        drive.fullScaleDbu = m ? m->fullScaleDbu : 18;
    }
    const auto& out = *path.output;
    if (out.wiring == Wiring::series)
        drive.partOfVolts = 1.0 / static_cast<double>(std::max<std::size_t>(1, out.loads.size()));
    else if (out.line()) { // a tap of P W at 100 V brings sqrt(P R) to the driver; on 70 V half of it
        double most = 0;
        for (const auto& l : out.loads)
            most = std::max(most, l.tapWatts);
        if (most <= 0)
            return {};
        drive.partOfVolts = std::sqrt(most * w.nominalOhms) / 100;
    }
    auto found = loudspeaker::protect(driver, drive, w.margins);
    if (const auto stated = loudspeaker::statedLimit(w.peakLimit))
        loudspeaker::hold(found.peak, *stated, true, drive);
    if (const auto stated = loudspeaker::statedLimit(w.rmsLimit))
        loudspeaker::hold(found.thermal, *stated, false, drive);
    if (out.line()) { // transformers saturate above their voltage
        const std::string why = "the line's " + std::to_string(static_cast<int>(std::lround(out.lineVolts()))) + " V, ";
        const auto hold = [](loudspeaker::Limit& l, double volts, std::string reason) {
            if (l.volts <= volts)
                return;
            const double down = 20 * std::log10(l.volts / volts);
            l.volts = volts;
            l.dbfs -= down;
            l.dbu -= down;
            l.watts *= std::pow(10, -down / 10);
            l.reason = std::move(reason);
        };
        hold(found.peak, out.lineVolts() * std::sqrt(2.0), why + "above which transformers saturate");
        hold(found.thermal, out.lineVolts(), why + "at which the taps give less than the drivers bear");
    }
    return found;
}

std::vector<engine::Block> blocksOf(const Voicing& v, int way, const std::string& lane,
                                    const std::optional<loudspeaker::Protection>& protection, double rate) {
    std::vector<engine::Block> all;
    if (way < 0 || way >= static_cast<int>(v.ways.size()))
        return all;
    const bool fine = hasDelays(v);
    const bool filtered = std::any_of(v.ways.begin(), v.ways.end(), hasTaps);
    const auto add = [&](engine::Block b, const std::string& part) {
        b.id = lane + ".v-" + (part == "whole" ? part : part.substr(2));
        setMark(b, voicingMark, v.id);
        setMark(b, partMark, part);
        if (b.kind == "limiter") {
            const auto& w = v.ways[static_cast<std::size_t>(way)];
            const bool holds = w.protect && protection;
            // Where another way is limited, this one's limiter looks ahead as long, so that both stay together.
            const bool beside =
                std::any_of(v.ways.begin(), v.ways.end(), [](const Way& o) { return o.protect && o.rmsWatts > 0; });
            b.values["on"] = holds || beside ? 1 : 0;
            b.values["thermal"] = holds ? 1 : 0;
            b.values["peak"] = 0;
            if (holds) {
                const auto& peak = protection->peak;
                b.values["peak"] = std::clamp(peak.dbfs, -60.0, 0.0);
                b.values["rms"] = std::clamp(protection->thermal.dbfs, -60.0, 0.0);
                b.values["seconds"] = protection->seconds;
                b.values["release"] = protection->releaseMs;
            }
        }
        if (b.kind == "delay" && fine)
            b.values["fine"] = 1; // all ways alike, so that parts of a sample between them are kept
        if (b.kind == "delay" && filtered && !hasTaps(v.ways[static_cast<std::size_t>(way)])) {
            const auto time = b.values.find("time");
            engine::enterValue(b, "time",
                               (time == b.values.end() ? 0 : time->second) + 1000 * dsp::convolverLatency / rate);
        }
        all.push_back(std::move(b));
    };
    add(v.whole, "whole");
    for (const auto& b : v.ways[static_cast<std::size_t>(way)].chain)
        add(b, std::to_string(way + 1) + "." + b.id);
    // What does nothing is left out: an equaliser without bands, a delay of nothing.
    std::erase_if(all, [](const engine::Block& b) {
        if (b.kind == "highpass" || b.kind == "lowpass") {
            const auto on = b.values.find("on");
            return on != b.values.end() && on->second < 0.5;
        }
        if (b.kind == "limiter")
            return b.values.at("on") < 0.5;
        if (b.kind == "fir")
            return !b.texts.count("file");
        return std::all_of(b.values.begin(), b.values.end(), [](const auto& value) {
            return value.second == 0 || (value.first == "on" && value.second == 1);
        });
    });
    return all;
}

std::map<std::string, engine::Program> voicedPrograms(const Project& p) {
    std::map<std::string, engine::Program> programs;
    const auto program = [&](const Device& d) -> engine::Program& {
        return programs.try_emplace(d.id, *d.program).first->second;
    };
    std::set<std::pair<std::string, std::string>> wanted;
    for (const auto& path : outputPaths(p)) {
        if (!path.runsIn || path.destination.empty())
            continue;
        std::vector<engine::Block> chain;
        if (path.voicing)
            chain = blocksOf(*path.voicing, path.way, path.destination, protectionOf(path), path.runsIn->rate);
        wanted.emplace(path.runsIn->id, path.destination);
        auto& now = program(*path.runsIn);
        now = withChain(std::move(now), path.destination, chain);
    }
    for (const auto& d : p.devices) // lanes that lead to no amplifier any more
        if (d.program)
            for (const auto& b : d.program->blocks)
                if (engine::endOf(b) == engine::End::leaves && !wanted.count({d.id, b.id})) {
                    const auto* t = d.program->into({b.id, 0});
                    const auto* before = t ? d.program->find(t->from.block) : nullptr;
                    if (before && isVoicing(*before))
                        program(d) = withChain(program(d), b.id, {});
                }
    std::erase_if(programs, [&](const auto& one) { return sameSound(one.second, *p.device(one.first)->program); });
    return programs;
}

std::vector<std::string> reachOf(const Project& p, const std::string& voicing) {
    std::vector<std::string> all;
    for (const auto& d : p.devices)
        if (!voicing.empty() && d.voicing == voicing)
            all.push_back(d.id);
    return all;
}

} // namespace loom::project
