// The room load through the real engine (plan, queue, smoothing, meters on) beside loops without any engine: each
// channel on its own ("plain"), and eight lanes side by side in registers ("lanes", single precision). One core,
// medians.
#include "room_load.h"
#include "dsp/dispatch.h"
#include "engine/block_kind.h"
#include "engine/runner.h"
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <functional>
#include <random>

using namespace loom;
using namespace loom::bench;

namespace {

using Clock = std::chrono::steady_clock;
std::vector<std::vector<float>> noise;

double median(std::vector<double> v) {
    std::sort(v.begin(), v.end());
    return v[v.size() / 2];
}

// Nanoseconds a channel-sample (of 32 channels), for each of the candidates, measured in turns.
std::vector<double> measure(const std::vector<std::function<void()>>& candidates, int channels) {
    constexpr int rounds = 25, frames = 400;
    std::vector<std::vector<double>> ns(candidates.size());
    for (int r = 0; r < rounds; ++r)
        for (std::size_t c = 0; c < candidates.size(); ++c) {
            const auto start = Clock::now();
            for (int f = 0; f < frames; ++f)
                candidates[c]();
            ns[c].push_back(std::chrono::duration<double>(Clock::now() - start).count() * 1e9 / frames / roomFrame /
                            channels);
        }
    std::vector<double> all;
    for (auto& n : ns)
        all.push_back(median(n));
    return all;
}

std::vector<dsp::Section> bells(int lane) {
    std::vector<dsp::Section> s;
    for (int k = 0; k < roomBells; ++k)
        s.push_back(dsp::designBand(dsp::BellKind::bell, bellHz[k], bellGain(lane, k), 1.41, roomRate));
    return s;
}

std::vector<dsp::Section> edge(dsp::EdgeSide side, int order, double hz) {
    const auto d = dsp::designEdge(dsp::EdgeShape::butterworth, side, order, hz, roomRate);
    return {d.sections.begin(), d.sections.begin() + static_cast<long>(d.count)};
}

std::vector<dsp::Section> inChain(int lane) {
    auto s = edge(dsp::EdgeSide::highPass, 3, 100);
    for (const auto& b : bells(lane))
        s.push_back(b);
    return s;
}

std::vector<dsp::Section> outChain(int lane) {
    auto s = bells(lane);
    for (const auto& e : edge(dsp::EdgeSide::lowPass, 4, 16000))
        s.push_back(e);
    return s;
}

// A peak limiter with 64 samples of look-ahead for the loops: windowed minimum by comparison, averaged, one-pole
// release.
template <class T> struct LoopLimiter {
    static constexpr int look = 64;
    T gains[look], delay[look];
    T sum = T{} + static_cast<float>(look), held = T{} + 1.0f;
    int at = 0;
    LoopLimiter() {
        for (int i = 0; i < look; ++i) {
            gains[i] = T{} + 1.0f;
            delay[i] = T{};
        }
    }
    T step(T x) {
        const T size = x > -x ? x : -x;
        T g = size > 1.0f ? 1.0f / size : T{} + 1.0f;
        held = held + (1.0f - held) * 0.0005f;
        held = g < held ? g : held;
        sum += held - gains[at];
        gains[at] = held;
        const T y = delay[at] * (sum * (1.0f / look));
        delay[at] = x;
        at = (at + 1) % look;
        return y;
    }
};

// -- plain: each channel on its own, section after section --
struct Plain {
    struct Channel {
        std::vector<float> c, z;
        void set(const std::vector<dsp::Section>& s) {
            for (const auto& k : s)
                for (const double v : {k.b0, k.b1, k.b2, k.a1, k.a2})
                    c.push_back(static_cast<float>(v));
            z.assign(2 * s.size(), 0);
        }
        void run(float* x) {
            for (std::size_t s = 0; s < z.size() / 2; ++s) {
                const float *k = &c[5 * s], b0 = k[0], b1 = k[1], b2 = k[2], a1 = k[3], a2 = k[4];
                float z1 = z[2 * s], z2 = z[2 * s + 1];
                for (int i = 0; i < roomFrame; ++i) {
                    const float in = x[i], y = b0 * in + z1;
                    z1 = b1 * in - a1 * y + z2;
                    z2 = b2 * in - a2 * y;
                    x[i] = y;
                }
                z[2 * s] = z1;
                z[2 * s + 1] = z2;
            }
        }
    };
    std::vector<Channel> ins{roomIns}, outs{roomOuts};
    std::vector<float> gains;
    std::vector<std::vector<float>> lines{roomOuts, std::vector<float>(256, 0.0f)};
    std::vector<LoopLimiter<float>> limiters{roomOuts};
    int at = 0;
    float x[roomIns][roomFrame], y[roomOuts][roomFrame];
    Plain() {
        for (int i = 0; i < roomIns; ++i)
            ins[static_cast<std::size_t>(i)].set(inChain(i));
        for (int o = 0; o < roomOuts; ++o)
            outs[static_cast<std::size_t>(o)].set(outChain(o));
        for (int i = 0; i < roomIns * roomOuts; ++i)
            gains.push_back(static_cast<float>(std::pow(10.0, -(20 + (i / roomOuts + i % roomOuts) % 5) / 20.0)));
    }
    void run() {
        for (int i = 0; i < roomIns; ++i) {
            for (int s = 0; s < roomFrame; ++s)
                x[i][s] = noise[static_cast<std::size_t>(i)][static_cast<std::size_t>(s)] * 1.995f;
            ins[static_cast<std::size_t>(i)].run(x[i]);
        }
        for (int o = 0; o < roomOuts; ++o) {
            std::fill_n(y[o], roomFrame, 0.0f);
            for (int i = 0; i < roomIns; ++i) {
                const float g = gains[static_cast<std::size_t>(i * roomOuts + o)];
                for (int s = 0; s < roomFrame; ++s)
                    y[o][s] += g * x[i][s];
            }
            outs[static_cast<std::size_t>(o)].run(y[o]);
            auto& line = lines[static_cast<std::size_t>(o)];
            for (int s = 0; s < roomFrame; ++s) {
                line[static_cast<std::size_t>((at + s) & 255)] = y[o][s];
                y[o][s] = line[static_cast<std::size_t>((at + s - 240) & 255)];
                y[o][s] = limiters[static_cast<std::size_t>(o)].step(y[o][s]);
            }
        }
        at += roomFrame;
    }
};

// -- lanes: eight side by side, single precision, the whole chain in one pass over memory --
typedef float V __attribute__((vector_size(32)));
struct Lanes {
    struct Chain {
        int n = 0;
        V c[10][5], z[10][2];
        void set(const std::vector<std::vector<dsp::Section>>& lanes) {
            n = static_cast<int>(lanes[0].size());
            for (int s = 0; s < n; ++s) {
                z[s][0] = z[s][1] = V{};
                for (std::size_t l = 0; l < 8; ++l) {
                    const auto& k = lanes[l][static_cast<std::size_t>(s)];
                    const double v[] = {k.b0, k.b1, k.b2, k.a1, k.a2};
                    for (int q = 0; q < 5; ++q)
                        c[s][q][l] = static_cast<float>(v[q]);
                }
            }
        }
    };
    Chain ins[4], outs[2];
    V gains[roomIns][2], sound[4][roomFrame], mixed[2][roomFrame], lines[2][256];
    LoopLimiter<V> limiters[2];
    int at = 0;
    Lanes() {
        for (int g = 0; g < 4; ++g) {
            std::vector<std::vector<dsp::Section>> all;
            for (int l = 0; l < 8; ++l)
                all.push_back(inChain(8 * g + l));
            ins[g].set(all);
        }
        for (int g = 0; g < 2; ++g) {
            std::vector<std::vector<dsp::Section>> all;
            for (int l = 0; l < 8; ++l)
                all.push_back(outChain(8 * g + l));
            outs[g].set(all);
            for (auto& v : lines[g])
                v = V{};
        }
        for (int i = 0; i < roomIns; ++i)
            for (int o = 0; o < roomOuts; ++o)
                gains[i][o / 8][o % 8] = static_cast<float>(std::pow(10.0, -(20 + (i + o) % 5) / 20.0));
    }
    // Sections are taken in pairs, so that their waiting overlaps.
    static inline void runChain(Chain& k, V* x) {
        for (int s = 0; s < k.n; s += 2) {
            V *p = k.c[s], *q = k.c[s + 1], a1 = k.z[s][0], a2 = k.z[s][1], b1 = k.z[s + 1][0], b2 = k.z[s + 1][1];
            for (int i = 0; i < roomFrame; ++i) {
                const V v = x[i], y = p[0] * v + a1;
                a1 = p[1] * v + a2 - p[3] * y;
                a2 = p[2] * v - p[4] * y;
                const V w = q[0] * y + b1;
                b1 = q[1] * y + b2 - q[3] * w;
                b2 = q[2] * y - q[4] * w;
                x[i] = w;
            }
            k.z[s][0] = a1;
            k.z[s][1] = a2;
            k.z[s + 1][0] = b1;
            k.z[s + 1][1] = b2;
        }
    }
    __attribute__((target("avx2,fma"), flatten)) void run() {
        for (int g = 0; g < 4; ++g) {
            for (int i = 0; i < roomFrame; ++i)
                for (std::size_t l = 0; l < 8; ++l)
                    sound[g][i][l] = noise[8 * static_cast<std::size_t>(g) + l][static_cast<std::size_t>(i)] * 1.995f;
            runChain(ins[g], sound[g]);
        }
        for (int g = 0; g < 2; ++g) {
            for (int i = 0; i < roomFrame; ++i) {
                V sum{};
                for (int k = 0; k < roomIns; ++k)
                    sum += gains[k][g] * sound[k / 8][i][k % 8];
                mixed[g][i] = sum;
            }
            runChain(outs[g], mixed[g]);
            for (int i = 0; i < roomFrame; ++i) {
                lines[g][(at + i) & 255] = mixed[g][i];
                mixed[g][i] = limiters[g].step(lines[g][(at + i - 240) & 255]);
            }
        }
        at += roomFrame;
    }
};

} // namespace

int main(int argc, char** argv) {
    std::mt19937 random(1);
    std::uniform_real_distribution<float> spread(-0.1f, 0.1f);
    noise.assign(roomIns, std::vector<float>(roomFrame));
    for (auto& n : noise)
        for (auto& x : n)
            x = spread(random);
    engine::Runner runner(roomRate, {});
    if (!runner.load(roomProgram(engine::findKind("limiter") != nullptr)))
        return 2;
    std::vector<const float*> in(roomIns);
    std::vector<std::vector<float>> outs(roomOuts, std::vector<float>(roomFrame));
    std::vector<float*> out(roomOuts);
    runner.process({}, roomFrame);
    for (std::size_t i = 0; i < roomIns; ++i)
        for (std::size_t n = 0; n < roomIns; ++n)
            if (runner.schedule()->inputs()[n] == "in " + std::to_string(i + 1))
                in[n] = noise[i].data();
    for (std::size_t o = 0; o < roomOuts; ++o)
        out[o] = outs[o].data();
    auto plain = std::make_unique<Plain>();
    auto lanes = std::make_unique<Lanes>();
    const std::vector<std::function<void()>> candidates = {[&] {
                                                               runner.process({in.data(), out.data()}, roomFrame);
                                                           },
                                                           [&] { plain->run(); }, [&] { lanes->run(); }};
    if (argc > 1) { // for a profiler: the engine alone, with registers of so many bytes
        dsp::useWidth(static_cast<dsp::Width>(std::atoi(argv[1])));
        for (int i = 0; i < 40000; ++i)
            candidates[0]();
        return 0;
    }
    const auto ns = measure(candidates, roomIns);
    const double frame = 1e9 / roomRate / roomIns;
    std::printf("room load, ns a channel-sample (and times real time), width %d\n", static_cast<int>(dsp::width()) * 8);
    std::printf("  engine      %6.2f  %5.0f x\n", ns[0], frame / ns[0]);
    std::printf("  plain loop  %6.2f  %5.0f x   engine is %.1f times as fast\n", ns[1], frame / ns[1], ns[1] / ns[0]);
    std::printf("  lanes loop  %6.2f  %5.0f x   engine takes %.2f of its time\n", ns[2], frame / ns[2], ns[0] / ns[2]);
    for (const auto w : {dsp::Width::avx2, dsp::Width::any}) {
        if (static_cast<int>(w) > static_cast<int>(dsp::widest()))
            continue;
        dsp::useWidth(w);
        const auto narrow = measure({candidates[0]}, roomIns);
        std::printf("  engine at %d bits  %6.2f\n", static_cast<int>(w) * 8, narrow[0]);
    }
}
