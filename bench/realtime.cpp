// How many times faster than real time the demo's program runs on one core, and how long compiling takes.
#include "engine/runner.h"
#include "project/render.h"
#include "project/store.h"
#include <algorithm>
#include <chrono>
#include <cstdio>

using namespace loom;
using Clock = std::chrono::steady_clock;

namespace {

double secondsSince(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

engine::Program large(int lanes) { // lanes of four blocks through small matrices
    engine::Program p;
    for (int i = 0; i < lanes; ++i) {
        const std::string id = "l" + std::to_string(i);
        std::string last = id;
        p.blocks.push_back({id, "source", ""});
        for (const char* kind : {"preamp", "highpass", "level"}) {
            p.blocks.push_back({id + "." + kind, kind, ""});
            p.threads.push_back({{last, 0}, {id + "." + kind, 0}});
            last = id + "." + kind;
        }
        p.blocks.push_back({id + ".out", "destination", ""});
        p.threads.push_back({{last, 0}, {id + ".out", 0}});
    }
    return p;
}

} // namespace

int main(int argc, char** argv) {
    const auto project = project::loadProject(argc > 1 ? argv[1] : "demo/marram-point");
    if (!project) {
        std::fprintf(stderr, "%s\n", project.trouble().text().c_str());
        return 2;
    }
    const auto& device = project->devices.at(0);
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
    const auto program = large(1000);
    const auto start = Clock::now();
    const auto plan = engine::compile(program, 48000, {});
    std::printf("compile of %zu blocks: %.0f ms%s\n", program.blocks.size(), secondsSince(start) * 1000,
                plan ? "" : " (failed)");
}
