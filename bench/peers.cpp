// The engine beside general-purpose peers, each where it is installed: Faust, SoX, zita-convolver. One core, medians of
// rounds taken in turns.
#include "dsp/cascade.h"
#include "dsp/convolver.h"
#include "engine/runner.h"
#include "room_load.h"
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <functional>
#include <memory>
#include <random>
#include <string>
#if LOOM_HAVE_ZITA
#include <zita-convolver.h>
#endif
#if LOOM_HAVE_FAUST
#include "peers/faust_peers.h"
#endif

using namespace loom;
using namespace loom::bench;

namespace {

using Clock = std::chrono::steady_clock;
constexpr int frame = 64;

struct Candidate {
    std::string name;
    std::function<void()> run; // a frame of 64 samples of every channel
    std::vector<double> ns{};
};

double median(std::vector<double> v) {
    std::sort(v.begin(), v.end());
    return v[v.size() / 2];
}

void measure(const char* title, std::vector<Candidate>& all, int channels, int frames) {
    for (int round = 0; round < 21; ++round)
        for (auto& c : all) {
            const auto start = Clock::now();
            for (int f = 0; f < frames; ++f)
                c.run();
            c.ns.push_back(std::chrono::duration<double>(Clock::now() - start).count() * 1e9 / frames / frame /
                           channels);
        }
    std::printf("%s, nanoseconds a channel-sample:\n", title);
    const double own = median(all[0].ns);
    for (auto& c : all)
        std::printf("  %-44s %8.2f   %5.2f x the engine's\n", c.name.c_str(), median(c.ns), median(c.ns) / own);
}

std::vector<std::vector<float>> noise(int channels) {
    std::mt19937 random(1);
    std::uniform_real_distribution<float> spread(-0.1f, 0.1f);
    std::vector<std::vector<float>> all(static_cast<std::size_t>(channels), std::vector<float>(frame));
    for (auto& n : all)
        for (auto& x : n)
            x = spread(random);
    return all;
}

// A program in the engine, fed by noise.
struct Engine {
    engine::Runner runner{roomRate, {}};
    std::vector<const float*> in;
    std::vector<float*> out;
    std::vector<std::vector<float>> sound, outs;
    Engine(const engine::Program& p, int ins, int outputs) : sound(noise(ins)) {
        if (!runner.load(p))
            std::abort();
        outs.assign(static_cast<std::size_t>(outputs), std::vector<float>(frame));
        for (auto& s : sound)
            in.push_back(s.data());
        for (auto& o : outs)
            out.push_back(o.data());
    }
    void run() { runner.process({in.data(), out.data()}, frame); }
};

engine::Program lane(const char* kind) {
    engine::Program p;
    p.blocks = {{"s", "source", ""}, {"b", kind, ""}, {"d", "destination", ""}};
    p.connections = {{{"s", 0}, {"b", 0}}, {{"b", 0}, {"d", 0}}};
    return p;
}

#if LOOM_HAVE_FAUST
struct FaustRun {
    std::unique_ptr<::dsp> program;
    std::vector<std::vector<float>> sound, outs;
    std::vector<float*> in, out;
    FaustRun(std::unique_ptr<::dsp> made, int ins, int outputs)
        : program(std::move(made)), sound(noise(ins)),
          outs(static_cast<std::size_t>(outputs), std::vector<float>(frame)) {
        program->init(48000);
        for (auto& s : sound)
            in.push_back(s.data());
        for (auto& o : outs)
            out.push_back(o.data());
    }
    void run() { program->compute(frame, in.data(), out.data()); }
};
#endif

// All sections of a sample before the next sample, so that their waiting overlaps.
__attribute__((target("avx2,fma"), optimize("O3"))) void
plainBySample(float (&state)[roomBells][2], const float (&c)[roomBells][5], const float* x, float* y) {
    float z1[roomBells], z2[roomBells];
    for (int k = 0; k < roomBells; ++k) {
        z1[k] = state[k][0];
        z2[k] = state[k][1];
    }
    for (int i = 0; i < frame; ++i) {
        float v = x[i];
#pragma GCC unroll 8
        for (int k = 0; k < roomBells; ++k) {
            const float out = c[k][0] * v + z1[k];
            z1[k] = c[k][1] * v - c[k][3] * out + z2[k];
            z2[k] = c[k][2] * v - c[k][4] * out;
            v = out;
        }
        y[i] = v;
    }
    for (int k = 0; k < roomBells; ++k) {
        state[k][0] = z1[k];
        state[k][1] = z2[k];
    }
}

void eightBells() {
    auto p = lane("eq");
    std::vector<loom::dsp::Section> sections;
    for (int k = 0; k < roomBells; ++k) {
        const std::string n = std::to_string(k + 1);
        p.blocks.change(1).values[n + ".on"] = 1;
        p.blocks.change(1).values[n + ".hz"] = bellHz[k];
        p.blocks.change(1).values[n + ".gain"] = bellGain(0, k);
        sections.push_back(loom::dsp::designBand(loom::dsp::BellKind::bell, bellHz[k], bellGain(0, k), 1.41, roomRate));
    }
    static Engine engine(p, 1, 1);
    static std::vector<float> x = noise(1)[0], y(frame);
    static float state[roomBells][2]{}, coefficient[roomBells][5];
    for (std::size_t k = 0; k < roomBells; ++k) {
        const auto& s = sections[k];
        const double v[] = {s.b0, s.b1, s.b2, s.a1, s.a2};
        for (std::size_t i = 0; i < 5; ++i)
            coefficient[k][i] = static_cast<float>(v[i]);
    }
    const auto plain = [] {
        std::copy(x.begin(), x.end(), y.begin());
        for (int k = 0; k < roomBells; ++k) {
            const float *c = coefficient[k], b0 = c[0], b1 = c[1], b2 = c[2], a1 = c[3], a2 = c[4];
            float z1 = state[k][0], z2 = state[k][1];
            for (float& v : y) {
                const float in = v, out = b0 * in + z1;
                z1 = b1 * in - a1 * out + z2;
                z2 = b2 * in - a2 * out;
                v = out;
            }
            state[k][0] = z1;
            state[k][1] = z2;
        }
    };
    std::vector<Candidate> all{
        {"engine (double, source and destination, meters)", [] { engine.run(); }},
        {"plain scalar loop, section by section", plain},
        {"plain scalar loop, sample by sample", [] { plainBySample(state, coefficient, x.data(), y.data()); }}};
#if LOOM_HAVE_FAUST
    static FaustRun faust(makeBells(), 1, 1);
    all.push_back({"Faust", [] { faust.run(); }});
#endif
    measure("8 bells on 1 channel", all, 1, 2000);
    if (std::system("command -v sox >/dev/null 2>&1") == 0) { // the whole program, less what reading the file costs
        std::string bells;
        for (int k = 0; k < roomBells; ++k)
            bells += " equalizer " + std::to_string(bellHz[k]) + " 1.41q " + std::to_string(bellGain(0, k));
        const std::string file = "/tmp/loom-bench-noise.wav";
        (void)!std::system(("sox -n -r 48000 -c 1 -b 16 " + file + " synth 60 pinknoise vol 0.1").c_str());
        const auto took = [&](const std::string& effects) {
            std::vector<double> s;
            for (int i = 0; i < 5; ++i) {
                const auto start = Clock::now();
                (void)!std::system(("sox " + file + " -n" + effects).c_str());
                s.push_back(std::chrono::duration<double>(Clock::now() - start).count());
            }
            return median(s);
        };
        std::printf("  %-44s %8.2f\n", "SoX (program, less reading)", (took(bells) - took("")) * 1e9 / 60 / 48000);
    }
}

void room() {
    static Engine engine(roomProgram(), roomIns, roomOuts);
    std::vector<Candidate> all{{"engine (plan, queue, smoothing, meters)", [] { engine.run(); }}};
#if LOOM_HAVE_FAUST
    static FaustRun scalar(makeRoomScalar(), roomIns, roomOuts), vec32(makeRoomVector32(), roomIns, roomOuts),
        vec64(makeRoomVector64(), roomIns, roomOuts);
    all.push_back({"Faust, scalar", [] { scalar.run(); }});
    all.push_back({"Faust, -vec -lv 1 -vs 32", [] { vec32.run(); }});
    all.push_back({"Faust, -vec -lv 0 -vs 64", [] { vec64.run(); }});
#endif
    measure("Room load", all, roomIns, 200);
}

void convolution() {
    constexpr int channels = 64, taps = 4096;
    std::mt19937 random(2);
    std::normal_distribution<float> spread(0, 0.02f);
    std::vector<std::vector<float>> h(channels, std::vector<float>(taps));
    for (auto& one : h)
        for (auto& t : one)
            t = spread(random);
    static std::vector<std::vector<float>> x = noise(channels), y = x;
    static std::vector<std::unique_ptr<loom::dsp::Convolver>> own;
    for (int c = 0; c < channels; ++c)
        own.push_back(std::make_unique<loom::dsp::Convolver>(
            std::make_shared<loom::dsp::ConvolverTaps>(h[static_cast<std::size_t>(c)])));
    std::vector<Candidate> all{{"engine's convolver, latency 64", [] {
                                    for (std::size_t c = 0; c < own.size(); ++c)
                                        own[c]->process(x[c].data(), y[c].data(), frame);
                                }}};
#if LOOM_HAVE_ZITA
    static std::vector<std::unique_ptr<Convproc>> zita;
    for (const unsigned longest : {64u, 8192u}) { // partitions of one size, or growing (then with threads of its own)
        static std::vector<std::unique_ptr<Convproc>> sets[2];
        auto& set = sets[longest == 64 ? 0 : 1];
        for (int c = 0; c < channels; ++c) {
            auto one = std::make_unique<Convproc>();
            one->configure(1, 1, taps, frame, frame, longest, 0);
            one->impdata_create(0, 0, 1, h[static_cast<std::size_t>(c)].data(), 0, taps);
            one->start_process(0, 0);
            set.push_back(std::move(one));
        }
        auto* used = &set;
        all.push_back(
            {longest == 64 ? "zita-convolver, partitions of 64" : "zita-convolver, growing partitions", [used] {
                 for (std::size_t c = 0; c < used->size(); ++c) {
                     std::copy(x[c].begin(), x[c].end(), (*used)[c]->inpdata(0));
                     (*used)[c]->process(true);
                     std::copy_n((*used)[c]->outdata(0), frame, y[c].begin());
                 }
             }});
    }
#endif
    measure("64 channels, 4,096 taps", all, channels, 100);
}

} // namespace

int main(int argc, char**) {
    eightBells();
    if (argc > 1) // any argument: that only
        return 0;
    room();
    convolution();
    std::fflush(stdout);
    std::quick_exit(0); // zita's threads need no ceremony
}
