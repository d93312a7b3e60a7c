// The room load: 32 inputs with gain, high-pass 18 dB/oct and 8 bells; a 32 x 16 matrix; 16 outputs with 8 bells,
// low-pass 24 dB/oct, 5 ms delay and limiter. The same designs for the engine and for the loops it is held against.
#pragma once
#include "dsp/edge.h"
#include "dsp/section.h"
#include "engine/program.h"
#include <string>
#include <vector>

namespace loom::bench {

inline constexpr int roomIns = 32, roomOuts = 16, roomBells = 8, roomFrame = 64;
inline constexpr double roomRate = 48000;
inline constexpr double bellHz[roomBells] = {80, 160, 320, 640, 1250, 2500, 5000, 10000};

inline double bellGain(int lane, int bell) {
    return ((lane * 7 + bell * 3) % 11 - 5) * 0.8 + 0.3; // never 0: every bell works
}

inline engine::Program roomProgram(bool limiter = true) {
    engine::Program p;
    std::string last;
    const auto add = [&](const std::string& id, const char* kind) -> engine::Block& {
        if (!last.empty())
            p.connections.push_back({{last, 0}, {id, 0}});
        last = id;
        return p.blocks.push_back({id, kind, ""});
    };
    const auto eq = [&](const std::string& id, int lane) {
        auto& b = add(id, "eq");
        for (int k = 0; k < roomBells; ++k) {
            const std::string n = std::to_string(k + 1);
            b.values[n + ".on"] = 1;
            b.values[n + ".hz"] = bellHz[k];
            b.values[n + ".gain"] = bellGain(lane, k);
        }
    };
    std::vector<std::string> ends;
    for (int i = 0; i < roomIns; ++i) {
        const std::string id = "in-" + std::to_string(i);
        last.clear();
        add(id, "source").texts["port"] = "in " + std::to_string(i + 1);
        add(id + ".preamp", "preamp").values["gain"] = 6;
        add(id + ".highpass", "highpass").values["slope"] = 2;
        eq(id + ".eq", i);
        ends.push_back(last);
    }
    last.clear();
    auto& m = add("mix", "matrix");
    m.shape = {{"inputs", roomIns}, {"outputs", roomOuts}};
    for (int i = 0; i < roomIns; ++i) {
        p.connections.push_back({{ends[static_cast<std::size_t>(i)], 0}, {"mix", i}});
        for (int o = 0; o < roomOuts; ++o)
            m.values[std::to_string(i + 1) + "." + std::to_string(o + 1)] = -20 - (i + o) % 5;
    }
    for (int o = 0; o < roomOuts; ++o) {
        const std::string id = "out-" + std::to_string(o);
        last.clear();
        eq(id + ".eq", o);
        p.connections.push_back({{"mix", o}, {last, 0}});
        auto& low = add(id + ".lowpass", "lowpass");
        low.values["slope"] = 3;
        low.values["corner"] = 16000;
        add(id + ".delay", "delay").values["time"] = 5;
        if (limiter)
            add(id + ".limiter", "limiter");
        add(id, "destination").texts["port"] = "out " + std::to_string(o + 1);
    }
    return p;
}

} // namespace loom::bench
