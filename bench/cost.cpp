// The cost model beside the clock: for each kind of block, eight of it (or one, if it is no lane block) in the engine,
// less what the same program takes without it. Nanoseconds a sample for one block.
#include "dsp/noise.h"
#include "engine/runner.h"
#include <algorithm>
#include <chrono>
#include <cstdio>

using namespace loom;
using namespace loom::engine;

namespace {

constexpr int lanes = 8;

Program around(const BlockKind* kind, int blocks) {
    Program p;
    for (int l = 0; l < lanes; ++l) {
        const std::string n = std::to_string(l);
        p.blocks.push_back({"s" + n, "source", ""});
    }
    for (int b = 0; kind && b < blocks; ++b) {
        const std::string id = "b" + std::to_string(b);
        p.blocks.push_back({id, kind->id, ""});
        if (kind->id == "eq")
            for (int n = 1; n <= 8; ++n) {
                p.blocks.changeBack().values[std::to_string(n) + ".on"] = 1;
                p.blocks.changeBack().values[std::to_string(n) + ".gain"] = 3;
            }
        const int ins = inputsOf(p, p.blocks.back());
        for (int i = 0; i < ins; ++i)
            p.connections.push_back({{"s" + std::to_string((b + i) % lanes), 0}, {id, i}});
    }
    return p;
}

double nanoseconds(Runner& r, const std::vector<const float*>& in) {
    constexpr int frames = 400;
    std::vector<double> all;
    for (int round = 0; round < 9; ++round) {
        const auto start = std::chrono::steady_clock::now();
        for (int f = 0; f < frames; ++f)
            r.process({in.data(), nullptr}, maxFrame);
        all.push_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count() * 1e9 / frames /
                      maxFrame);
    }
    std::nth_element(all.begin(), all.begin() + 4, all.end());
    return all[4];
}

} // namespace

int main() {
    dsp::WhiteNoise white;
    std::vector<std::vector<float>> sound(lanes, std::vector<float>(maxFrame));
    std::vector<const float*> in;
    for (auto& s : sound) {
        for (float& x : s)
            x = static_cast<float>(0.1 * white.step());
        in.push_back(s.data());
    }
    Runner plain(48000, {});
    if (!plain.load(around(nullptr, 0)))
        return 2;
    std::printf("%-12s %10s %10s\n", "kind", "predicted", "measured");
    for (const auto& k : blockKinds()) {
        if (k.end != End::none)
            continue;
        const BlockView view(Block{"x", k.id, ""});
        const int blocks = k.channelwise() || view.inputs() <= 1 ? lanes : 1;
        Runner r(48000, {});
        if (!r.load(around(&k, blocks)))
            return 2;
        const double took = (nanoseconds(r, in) - nanoseconds(plain, in)) / blocks,
                     says = k.cost(view.shape, 48000).work;
        std::printf("%-12s %10.2f %10.2f  x %.2f\n", k.id.c_str(), says, took, took / says);
    }
}
