// What rules cost: from a button to the value in the running plan; many rules, scenes and events; a scene of 1,000
// values at once, and what is heard of it; a script that loops for ever. docs/measurements.md has the figures.
#include "../tests/rules/rules_demo.h"
#include "engine/runner.h"
#include "rig/rig.h"
#include "rules/occasions.h"
#include "rules/rule_pack.h"
#include "rules/scenes.h"
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <nlohmann/json.hpp>
#include <random>

using namespace loom;
using namespace loom::project;

namespace {

double now() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

double median(std::vector<double> all) {
    std::sort(all.begin(), all.end());
    return all[all.size() / 2];
}

// Presses at a tap on the network; the value in the processor's plan.
void buttonToPlan() {
    auto p = test::rulesProject();
    test::addRule(p, "tap", "when button:oak-tap becomes pressed\nthen turn box/cut.muted over").room = "oak";
    test::addRule(p, "contact", "when contact:box/contact 2 becomes closed\nthen change box/speech.gain by -1 dB")
        .room = "oak";
    QTemporaryDir folder;
    rig::Rig rig(test::models(), 47352);
    (void)rig.open();
    const auto scenario = site::scenarioFromJson(nlohmann::json::parse(
        R"({"devices": [{"serial": "BOX", "model": "heddle-16", "address": "127.20.44.1", "as": "box"},
                        {"serial": "TAP", "model": "tap", "address": "127.20.44.2", "as": "oak-tap"}]})"));
    if (const auto done = rig.play(*scenario, &p, nullptr, folder.path().toStdString()); !done)
        return (void)std::printf("%s\n", done.error().text().c_str());
    auto& box = rig.server("BOX")->device();
    auto& tap = rig.server("TAP")->device();
    const auto turns = [](int ms) {
        QElapsedTimer t;
        t.start();
        while (t.elapsed() < ms)
            QCoreApplication::processEvents(QEventLoop::AllEvents, 1);
    };
    turns(4000);
    std::vector<double> far, here;
    for (int i = 0; i < 60; ++i) {
        const double before = *box.get("cut.muted"), at = now();
        tap.holdButton(true);
        while (*box.get("cut.muted") == before && now() - at < 1)
            QCoreApplication::processEvents(QEventLoop::AllEvents, 1);
        far.push_back((now() - at) * 1000);
        tap.holdButton(false);
        turns(40 + i % 17);
        const double level = *box.get("speech.gain"), then = now();
        (void)bool(box.setContact("contact 2", true));
        while (*box.get("speech.gain") == level && now() - then < 1)
            QCoreApplication::processEvents(QEventLoop::AllEvents, 1);
        here.push_back((now() - then) * 1000);
        (void)bool(box.setContact("contact 2", false));
        turns(30);
    }
    std::printf("a tap on the network to the value in the processor's plan: median %.2f ms, most %.2f ms\n",
                median(far), *std::max_element(far.begin(), far.end()));
    std::printf("a contact of the processor to its plan: median %.3f ms, most %.3f ms\n", median(here),
                *std::max_element(here.begin(), here.end()));
}

Project many(int rules, int scenes, int values) {
    auto p = test::rulesProject();
    auto& d = *p.device("box");
    for (int i = 0; i < 300; ++i) {
        engine::Block b;
        b.id = "l" + std::to_string(i), b.kind = "level", b.label = "Level " + std::to_string(i);
        d.program->blocks.push_back(b);
    }
    for (int i = 0; i < scenes; ++i) {
        Scene s;
        s.id = "s" + std::to_string(i), s.name = "Scene " + std::to_string(i), s.room = "oak";
        for (int k = 0; k < values; ++k)
            s.values["box/l" + std::to_string(k) + ".gain"] = -(i + k) % 60;
        p.scenes.push_back(s);
    }
    for (int i = 0; i < rules; ++i) {
        Rule r;
        r.id = "r" + std::to_string(i), r.name = "Rule " + std::to_string(i), r.room = "oak";
        Clause when{"becomes", {{"signal", "box/l" + std::to_string(i % 300) + ".muted"}, {"state", "on"}}};
        if (!signalOf(p, when["signal"]))
            when = {"cue", {{"cue", "cue:c" + std::to_string(i)}}};
        r.when = {when};
        r.only = {{"not", {{"signal", "wall:fold"}, {"state", "open"}}}};
        if (i % 40 == 0 && scenes > 0)
            r.then = {{"scene", {{"scene", "s" + std::to_string(i / 40 % scenes)}}}};
        else
            r.then = {{"set",
                       {{"signal", "box/l" + std::to_string((i * 7) % 300) + ".gain"},
                        {"state", std::to_string(-(i % 50))}}}};
        p.rules.push_back(r);
    }
    return p;
}

void manyOfThem() {
    double t = now();
    const auto p = many(2000, 500, 300);
    std::printf("2,000 rules and 500 scenes of 300 values: made in %.2f s\n", now() - t);
    t = now();
    RuleRun run(p);
    std::printf("compiled in %.2f s (%zu signals known)\n", now() - t, run.book().known().size());
    for (const auto& k : run.book().known())
        if (const auto v = restingValue(p, k.signal))
            run.know(k.signal.path, *v);
    run.start(0, *readMoment("2026-11-30T08:00:00", *Zone::named("UTC")));
    std::mt19937 random(3);
    const int events = 50000;
    std::size_t outputs = 0, told = 0;
    std::vector<std::string> cues;
    for (int i = 0; i < 2000; ++i)
        cues.push_back("cue:c" + std::to_string(i));
    t = now();
    for (int i = 0; i < events; ++i) {
        run.input(i, cues[random() % cues.size()], 1);
        run.advance(i);
        outputs += run.takeOutputs().size();
        told += run.takeEvents().size();
    }
    const double took = now() - t;
    std::printf("%d things that happen: %.2f s, %.0f a second (%zu values set, %zu events)\n", events, took,
                events / took, outputs, told);
    t = now();
    const auto text = packRules(p, "box");
    std::printf("packed for the processor: %.2f s, %.1f MB\n", now() - t, static_cast<double>(text.size()) / 1e6);
    t = now();
    const auto all = occasionsOf(p);
    std::printf("what can happen, with its counts: %.2f s (%zu)\n", now() - t, all.size());
}

// What is left of a sound above 5 kHz: four high-passes in a row (Bristow-Johnson, Audio EQ Cookbook), dBFS at its
// peak.
double above5k(const std::vector<float>& sound, double rate) {
    const double w = 2 * M_PI * 5000 / rate, alpha = std::sin(w) / (2 * 0.7071), c = std::cos(w), a0 = 1 + alpha;
    std::vector<double> x(sound.begin(), sound.end());
    for (int pass = 0; pass < 4; ++pass) {
        double x1 = 0, x2 = 0, y1 = 0, y2 = 0;
        for (auto& v : x) {
            const double in = v,
                         y = ((1 + c) / 2 * in - (1 + c) * x1 + (1 + c) / 2 * x2 + 2 * c * y1 - (1 - alpha) * y2) / a0;
            x2 = x1, x1 = in, y2 = y1, y1 = y;
            v = y;
        }
    }
    double most = 0;
    for (std::size_t i = x.size() / 8; i < x.size(); ++i) // after the filters' own beginning
        most = std::max(most, std::abs(x[i]));
    return 20 * std::log10(std::max(most, 1e-9));
}

// 1,000 values at once: how long it takes, and what is heard of it beside the tone that goes through.
void aSceneAtOnce() {
    engine::Program program;
    constexpr int lanes = 112, bands = 8;
    std::vector<std::tuple<std::string, std::string, double>> set;
    for (int i = 0; i < lanes; ++i) {
        const auto id = std::to_string(i);
        engine::Block in, level, eq;
        in.id = "in" + id, in.kind = "generator", in.values = {{"level", -20}, {"hz", 1000}};
        level.id = "level" + id, level.kind = "level";
        eq.id = "eq" + id, eq.kind = "eq", eq.shape = {{"bands", bands}};
        set.emplace_back(level.id, "gain", i % 2 ? -12.0 : 6.0);
        for (int band = 1; band <= bands; ++band) {
            eq.values[std::to_string(band) + ".on"] = 1;
            eq.values[std::to_string(band) + ".hz"] = 400.0 + 150 * band;
            set.emplace_back(eq.id, std::to_string(band) + ".gain", band % 2 ? 3.0 : -3.0);
        }
        for (auto* b : {&in, &level, &eq})
            program.blocks.push_back(*b);
        program.connections.push_back({{in.id, 0}, {level.id, 0}});
        program.connections.push_back({{level.id, 0}, {eq.id, 0}});
    }
    set.resize(1000);
    for (const bool change : {false, true}) {
        engine::Runner runner(48000, {});
        if (const auto done = runner.load(program); !done)
            return (void)std::printf("%s\n", done.error().text().c_str());
        for (int slot = 0; slot < 8; ++slot)
            runner.probe(slot, engine::PortRef{"eq" + std::to_string(slot), 0});
        std::vector<std::vector<float>> heard(8);
        double took = 0, longest = 0;
        for (int frame = 0; frame < 1500; ++frame) {
            if (change && frame == 750) {
                const double t = now();
                for (const auto& [block, param, v] : set)
                    if (const auto done = runner.set(block, param, v); !done)
                        return (void)std::printf("%s\n", done.error().text().c_str());
                took = now() - t;
            }
            const double t = now();
            (void)runner.process({}, 64);
            if (frame >= 740)
                longest = std::max(longest, now() - t);
            runner.tend();
            for (std::size_t slot = 0; slot < 8; ++slot) {
                float buffer[256];
                for (auto n = runner.readProbe(static_cast<int>(slot), buffer); n > 0;
                     n = runner.readProbe(static_cast<int>(slot), buffer))
                    heard[slot].insert(heard[slot].end(), buffer, buffer + n);
            }
        }
        double most = -200;
        for (const auto& one : heard)
            most = std::max(most, above5k(one, 48000));
        if (change)
            std::printf(
                "a scene of %zu values: handed over in %.2f ms; longest frame of sound then %.2f ms (1.33 ms is one); "
                "above 5 kHz %.1f dBFS at most (tones of -20 dBFS at 1 kHz)\n",
                set.size(), took * 1000, longest * 1000, most);
        else
            std::printf("the same without a scene: longest frame %.2f ms; above 5 kHz %.1f dBFS\n", longest * 1000,
                        most);
    }
}

void aScriptForEver() {
    auto p = test::rulesProject();
    Script s;
    s.id = "ever", s.name = "Ever", s.text = "while true do end";
    p.scripts.push_back(s);
    test::addRule(p, "ever", "when the cue go is given\nthen run Ever");
    RuleRun run(p);
    run.start(0, *readMoment("2026-11-30T08:00:00", *Zone::named("UTC")));
    std::vector<double> all;
    for (int i = 0; i < 30; ++i) {
        const double t = now();
        run.input(i * 1000, "cue:go", 1);
        run.advance(i * 1000 + 1);
        all.push_back((now() - t) * 1000);
        (void)run.takeEvents();
    }
    std::printf("a script that loops for ever is stopped after: median %.1f ms, most %.1f ms\n", median(all),
                *std::max_element(all.begin(), all.end()));
}

} // namespace

int main(int argc, char** argv) {
    QCoreApplication app(argc, argv);
    manyOfThem();
    aSceneAtOnce();
    aScriptForEver();
    buttonToPlan();
}
