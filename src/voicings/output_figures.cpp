#include "voicings/output_figures.h"
#include "dsp/fractional_delay.h"
#include "engine/path_response.h"
#include "program/render.h"
#include "rooms/predict.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::project {
namespace {

using dsp::Complex;

double levelOf(const Complex& h) {
    return 20 * std::log10(std::max(std::abs(h), 1e-9));
}

} // namespace

Result<loudspeaker::ResponseFile> responseOf(const Project& p, const std::string& asset) {
    const auto it = p.assets.find(asset);
    if (it == p.assets.end())
        return Error{"is not among the project's files", asset, "Open it again."};
    return loudspeaker::readResponse({it->second.begin(), it->second.end()}, asset);
}

std::vector<double> curveFrequencies() {
    std::vector<double> hz;
    for (double f = 20; f < 20001; f *= std::exp2(1.0 / 24))
        hz.push_back(f);
    return hz;
}

std::vector<Complex> voicingResponse(const Project& p, const Voicing& v, int way, const std::vector<double>& hz,
                                     double rate) {
    const auto resources = resourcesOf(p, Device{}, false);
    std::vector<Complex> h(hz.size(), 1.0);
    const auto through = [&](const engine::Block& b) {
        const auto own = engine::blockResponse(b, 0, 0, hz, rate, resources);
        for (std::size_t i = 0; i < hz.size(); ++i)
            h[i] *= own[i];
    };
    through(v.whole);
    if (way >= 0 && way < static_cast<int>(v.ways.size())) {
        for (const auto& b : v.ways[static_cast<std::size_t>(way)].chain) {
            if (b.kind == "delay") { // as it runs, but for the samples by which that makes every way later
                engine::Block fine = b;
                fine.values["fine"] = 1;
                through(fine);
                for (std::size_t i = 0; i < hz.size(); ++i)
                    h[i] *= std::polar(1.0, 2 * std::numbers::pi * hz[i] / rate * dsp::fineLatency);
            } else if (b.kind != "limiter") { // holds levels, and delays every way alike
                through(b);
            }
        }
    }
    return h;
}

VoicingCurves curvesOf(const Project& p, const Voicing& v, const std::vector<double>& hz) {
    VoicingCurves c;
    c.hz = hz;
    c.sum.assign(hz.size(), 0);
    c.without.assign(hz.size(), 0);
    for (std::size_t w = 0; w < v.ways.size(); ++w) {
        const auto& way = v.ways[w];
        std::vector<Complex> driver(hz.size(), std::pow(10.0, way.sensitivity / 20));
        if (!way.response.empty()) {
            const auto file = responseOf(p, way.response);
            if (file) {
                for (std::size_t i = 0; i < hz.size(); ++i)
                    driver[i] = file->at(hz[i]);
                for (const auto& note : file->notes)
                    c.notes.push_back(way.name + ": " + note);
            } else
                c.notes.push_back(way.name + ": " + file.error().text());
        } else if (way.sensitivity <= 0 && v.ways.size() > 1)
            c.notes.push_back(way.name + ": neither response nor sensitivity is known; it is taken as 0 dB.");
        auto with = voicingResponse(p, v, static_cast<int>(w), hz);
        for (std::size_t i = 0; i < hz.size(); ++i) {
            with[i] *= driver[i];
            c.sum[i] += with[i];
            c.without[i] += driver[i];
        }
        c.driver.push_back(std::move(driver));
        c.ways.push_back(std::move(with));
    }
    if (!v.target.empty()) {
        const auto file = responseOf(p, v.target);
        if (file)
            for (const double f : hz)
                c.target.push_back(levelOf(file->at(f)));
        else
            c.notes.push_back("Target: " + file.error().text());
    }
    return c;
}

Result<Aligned> withAlignment(const Project& p, const Voicing& v) {
    if (v.ways.size() < 2)
        return Error{"there is one way only", v.name, "Alignment brings the delays of two or more together."};
    Aligned a{v, {}};
    for (auto& w : a.voicing.ways)
        for (auto& b : w.chain)
            if (b.id == "delay")
                b.values.clear();
    const auto curves = curvesOf(p, a.voicing, curveFrequencies());
    std::vector<double> delay(v.ways.size(), 0);
    constexpr double mostMs = 10;
    for (std::size_t w = 1; w < v.ways.size(); ++w) {
        auto upper = curves.ways[w];
        const auto found = loudspeaker::alignWays(curves.hz, curves.ways[w - 1], upper, mostMs);
        delay[w] = delay[w - 1] + found.delayMs;
        a.found.push_back(found);
        if (found.inverted) {
            auto& level = *partOf(a.voicing, std::to_string(w + 1) + ".level");
            const bool turned = level.values.count("polarity") && level.values.at("polarity") >= 0.5;
            engine::enterValue(level, "polarity", turned ? 0 : 1);
        }
    }
    const double least = *std::min_element(delay.begin(), delay.end());
    for (std::size_t w = 0; w < delay.size(); ++w)
        if (const double ms = std::round((delay[w] - least) * 1000) / 1000; ms > 0)
            engine::enterValue(*partOf(a.voicing, std::to_string(w + 1) + ".delay"), "time", ms);
    return a;
}

Result<Fitted> withFit(const Project& p, const Voicing& v, double fromHz, double toHz, int bells,
                       std::stop_token stop) {
    if (!(fromHz >= 20 && toHz <= 20000 && toHz >= 2 * fromHz))
        return Error{"this range is no range", "Fit", "From 20 Hz to 20 kHz, an octave at least."};
    Fitted f{v, {}};
    f.voicing.whole.values.clear();
    const auto c = curvesOf(p, f.voicing, curveFrequencies());
    std::vector<double> now, wanted = c.target;
    for (const auto& h : c.sum)
        now.push_back(levelOf(h));
    if (wanted.empty())
        wanted.assign(now.size(), 0);
    loudspeaker::FitRange range;
    range.fromHz = fromHz;
    range.toHz = toHz;
    range.bells = std::clamp(bells, 1, static_cast<int>(mostBells));
    f.fit = loudspeaker::fitBells(c.hz, now, wanted, range, stop);
    int n = 0;
    for (const auto& bell : f.fit.bells) {
        const std::string at = std::to_string(++n) + ".";
        const auto set = [&](const char* id, double value, double step) {
            engine::enterValue(f.voicing.whole, at + id, std::round(value / step) * step);
        };
        set("hz", bell.hz, 0.1);
        set("gain", bell.gainDb, 0.01);
        set("q", bell.q, 0.001);
    }
    return f;
}

RoomDrives drivesOf(const Project& p, std::stop_token stop) {
    RoomDrives drives;
    for (const auto& b : p.buildings)
        for (const auto& space : spacesOf(b, nullptr)) {
            if (stop.stop_requested())
                return drives;
            const auto f = figuresOf(modelOf(p, space, nullptr));
            for (const auto* r : space.rooms)
                if (f.predicted)
                    drives[r->id] = f.drive;
        }
    return drives;
}

std::vector<OutputFigures> outputFigures(const Project& p, const RoomDrives& drives) {
    std::vector<OutputFigures> all;
    for (const auto& path : outputPaths(p)) {
        OutputFigures f;
        const auto& out = *path.output;
        f.amplifier = path.amplifier->id;
        f.port = path.port;
        f.input = path.input;
        f.from = path.from;
        f.runsIn = path.runsIn ? path.runsIn->name : "";
        f.protection = protectionOf(path);
        std::vector<loudspeaker::Impedance> ohms;
        const Room* room = nullptr;
        double oneDriver = 8; // ohms
        for (const auto& l : out.loads) {
            const auto* d = p.device(l.device);
            const auto* v = d ? p.voicing(d->voicing) : nullptr;
            const Way* w = v && l.way >= 0 && l.way < static_cast<int>(v->ways.size())
                               ? &v->ways[static_cast<std::size_t>(l.way)]
                               : nullptr;
            ohms.push_back(w ? loudspeaker::Impedance{w->nominalOhms, minimumOhms(*w)} : loudspeaker::Impedance{});
            oneDriver = ohms.back().nominal;
            f.loudspeakers += (f.loudspeakers.empty() ? "" : ", ") + (d ? d->name : l.device);
            f.tapWatts += l.tapWatts;
            f.driverWatts += w ? w->rmsWatts : 0;
            if (d && drives.count(d->room)) {
                room = p.room(d->room);
                f.needed = std::max(f.needed, std::pow(10.0, (drives.at(d->room) + d->trimDb) / 10));
            }
        }
        if (path.voicing) {
            f.voicing = path.voicing->name;
            if (path.way < static_cast<int>(path.voicing->ways.size())) {
                const auto& w = path.voicing->ways[static_cast<std::size_t>(path.way)];
                f.way = w.name;
                f.limited = w.protect && f.protection && path.runsIn;
            }
        }
        if (!ohms.empty()) {
            double volts = 0, part = 1;
            f.cableOhms = loudspeaker::resistanceOf(out.cable());
            if (out.line()) {
                f.load = {1e9, 1e9};
                if (f.tapWatts > 0) { // taps are given for 100 V
                    const double z = loudspeaker::lineImpedance(100, f.tapWatts);
                    f.load = {z, z};
                }
                volts = out.lineVolts();
                f.ampWatts = path.data->lineWatts;
                const double biggest =
                    std::max_element(out.loads.begin(), out.loads.end(), [](const auto& a, const auto& b) {
                        return a.tapWatts < b.tapWatts;
                    })->tapWatts;
                part = std::sqrt(biggest * oneDriver) / 100;
            } else {
                f.load = out.wiring == Wiring::series ? loudspeaker::series(ohms) : loudspeaker::parallel(ohms);
                f.ampWatts = path.data->wattsInto(f.load.nominal + f.cableOhms);
                volts = std::sqrt(f.ampWatts * (f.load.nominal + f.cableOhms));
                part = out.wiring == Wiring::series ? 1.0 / static_cast<double>(ohms.size()) : 1;
            }
            const auto run = loudspeaker::runOf(out.cable(), f.load.nominal, volts, path.data->sourceOhms);
            f.lossDb = run.lossDb;
            f.damping = run.damping;
            f.amperes = run.amperes;
            const double atDriver = run.atLoad * part;
            f.most = atDriver * atDriver / oneDriver;
            if (f.limited)
                f.most = std::min(f.most, f.protection->thermal.watts);
            if (f.needed > 0 && room) {
                f.headroomDb = 10 * std::log10(f.most / f.needed);
                f.seatDb = room->targets.level + f.headroomDb;
            }
        }
        all.push_back(std::move(f));
    }
    return all;
}

} // namespace loom::project
