// How many times faster than real time the demo's program runs on one core, and how long compiling takes.
#include "engine/runner.h"
#include "file/store.h"
#include "models.h"
#include "program/load.h"
#include "program/render.h"
#include <algorithm>
#include <chrono>
#include <cstdio>

using namespace loom;
using Clock = std::chrono::steady_clock;

namespace {

double secondsSince(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

// 5,000 blocks and 20,000 threads: ten layers of matrix mixers, with a level, a high-pass or an equaliser before each
// in one of its inputs.
engine::Program large() {
    constexpr int layers = 10, wide = 250, ports = 8;
    engine::Program p;
    const auto id = [](const char* what, int layer, int i) {
        return what + std::to_string(layer) + "-" + std::to_string(i);
    };
    for (int l = 0; l < layers; ++l)
        for (int i = 0; i < wide; ++i) {
            const std::string mix = id("m", l, i), bead = id("b", l, i);
            p.blocks.push_back({mix, "matrix", ""});
            p.blocks.push_back({bead, l == 0 ? "source" : i % 3 == 0 ? "eq" : i % 3 == 1 ? "highpass" : "level", ""});
            p.connections.push_back({{bead, 0}, {mix, 0}});
            if (l == 0)
                continue;
            p.connections.push_back({{id("m", l - 1, i), 0}, {bead, 0}});
            for (int k = 1; k < ports; ++k)
                p.connections.push_back({{id("m", l - 1, (i + 7 * k) % wide), k}, {mix, k}});
        }
    return p;
}

double medianOf(std::vector<double> v) {
    std::sort(v.begin(), v.end());
    return v[v.size() / 2];
}

void compileTimes() {
    auto program = large();
    std::vector<double> compiling, editing, swapping;
    for (int round = 0; round < 7; ++round) {
        auto start = Clock::now();
        const auto schedule = engine::compile(program, 48000, {});
        compiling.push_back(secondsSince(start) * 1000);
        if (!schedule)
            return void(std::printf("compile failed: %s\n", schedule.error().text().c_str()));
    }
    engine::Runner runner(48000, {});
    (void)bool(runner.load(program));
    runner.process({}, engine::maxFrame);
    for (int round = 0; round < 7; ++round) { // a level put into one thread
        const std::string id = "new-" + std::to_string(round);
        program.blocks.push_back({id, "level", ""});
        const auto to = program.connections[static_cast<std::size_t>(1000 * round + 700)].to;
        program.connections.change(static_cast<std::size_t>(1000 * round + 700)).to = {id, 0};
        program.connections.push_back(engine::Connection{{id, 0}, to});
        auto start = Clock::now();
        (void)bool(runner.load(program));
        editing.push_back(secondsSince(start) * 1000);
        start = Clock::now();
        runner.process({}, engine::maxFrame);
        swapping.push_back(secondsSince(start) * 1000);
        runner.tend();
    }
    std::printf(
        "%zu blocks, %zu threads: compile %.0f ms; one block more, compiled and handed over %.1f ms, first frame of it "
        "%.1f ms\n",
        program.blocks.size(), program.connections.size(), medianOf(compiling), medianOf(editing), medianOf(swapping));
}

} // namespace

int main(int argc, char** argv) {
    const auto project = test::load(argc > 1 ? argv[1] : "demo/marram-point");
    if (!project) {
        std::fprintf(stderr, "%s\n", project.error().text().c_str());
        return 2;
    }
    const auto& device = project->devices[0];
    engine::Runner runner(device.rate, project::resourcesOf(*project, device, true));
    if (!runner.load(*device.program))
        return 2;
    std::vector<double> factors;
    constexpr int frames = 7500; // ten seconds
    for (int round = 0; round < 7; ++round) {
        const auto start = Clock::now();
        for (int i = 0; i < frames; ++i)
            runner.process({}, engine::maxFrame);
        factors.push_back(frames * engine::maxFrame / device.rate / secondsSince(start));
    }
    std::sort(factors.begin(), factors.end());
    std::printf("demo program: %.0f times real time (median of 7; meters, queue and speech on)\n", factors[3]);
    engine::Runner silent(device.rate, project::resourcesOf(*project, device, false)); // the program's own work
    if (!silent.load(*device.program))
        return 2;
    std::vector<double> taken;
    for (int round = 0; round < 9; ++round) {
        const auto start = Clock::now();
        for (int i = 0; i < frames; ++i)
            silent.process({}, engine::maxFrame);
        taken.push_back(secondsSince(start) * 1e9 / frames / engine::maxFrame);
    }
    const double measured = medianOf(taken), predicted = project::loadOf(device).work;
    std::printf("cost model: predicted %.0f ns a sample, measured %.0f (%+.0f %%)\n", predicted, measured,
                100 * (predicted / measured - 1));
    compileTimes();
}
