// The echo canceller beside SpeexDSP's in the same hall: how much echo is left, how fast, what happens to a voice in
// the room, and how long it takes. 48 kHz, tail of 256 ms, one core.
#include "dsp/echo_canceller.h"
#include "engine/echo_room.h"
#include <chrono>
#include <cstdio>
#include <cstring>
#include <functional>
#include <memory>
#if LOOM_HAVE_SPEEX
#include <speex/speex_echo.h>
#include <speex/speex_preprocess.h>
#endif

using namespace loom;

namespace {

using Sound = std::vector<float>;
// Takes what the loudspeaker plays and what a microphone hears; gives what goes to the far end, `delay` samples later.
struct Canceller {
    const char* name;
    int delay;
    std::function<Sound(const Sound& far, const Sound& microphone)> run;
};

Sound ours(const Sound& far, const Sound& mic, double suppression) {
    const int partitions = static_cast<int>(0.256 * EchoRoom::rate / dsp::echoBlock);
    dsp::EchoReference reference(partitions);
    dsp::EchoCanceller canceller(partitions);
    Sound out(mic.size());
    for (std::size_t at = 0; at + dsp::echoBlock <= mic.size(); at += dsp::echoBlock) {
        reference.push(&far[at]);
        canceller.filter(reference, &mic[at], &out[at], suppression);
        canceller.adapt(reference, 0, partitions);
    }
    return out;
}

#if LOOM_HAVE_SPEEX
Sound speex(const Sound& far, const Sound& mic, bool suppress) {
    constexpr int frame = 512, rate = 48000;
    int sampling = rate;
    SpeexEchoState* state = speex_echo_state_init(frame, static_cast<int>(0.256 * rate));
    speex_echo_ctl(state, SPEEX_ECHO_SET_SAMPLING_RATE, &sampling);
    SpeexPreprocessState* after = speex_preprocess_state_init(frame, rate);
    speex_preprocess_ctl(after, SPEEX_PREPROCESS_SET_ECHO_STATE, state);
    int off = 0;
    speex_preprocess_ctl(after, SPEEX_PREPROCESS_SET_DENOISE, &off);
    Sound out(mic.size());
    spx_int16_t x[frame], d[frame], e[frame];
    for (std::size_t at = 0; at + frame <= mic.size(); at += frame) {
        const auto take = [&](const Sound& from, spx_int16_t* to) {
            for (int i = 0; i < frame; ++i)
                to[i] = static_cast<spx_int16_t>(
                    std::lround(std::clamp(from[at + static_cast<std::size_t>(i)] * 32767.0f, -32767.0f, 32767.0f)));
        };
        take(far, x);
        take(mic, d);
        speex_echo_cancellation(state, d, x, e);
        if (suppress)
            speex_preprocess_run(after, e);
        for (int i = 0; i < frame; ++i)
            out[at + static_cast<std::size_t>(i)] = static_cast<float>(e[i]) / 32767.0f;
    }
    speex_preprocess_state_destroy(after);
    speex_echo_state_destroy(state);
    return out;
}
#endif

double power(const Sound& x, double from, double to, int delay = 0) {
    double sum = 0;
    for (auto i = static_cast<std::size_t>(from * EchoRoom::rate); i < static_cast<std::size_t>(to * EchoRoom::rate);
         ++i)
        sum += static_cast<double>(x[i + static_cast<std::size_t>(delay)]) * x[i + static_cast<std::size_t>(delay)];
    return sum;
}

void judge(const Canceller& c, const EchoRoom& room) {
    const Sound &echo = room.echo[0], &moved = room.moved[0];
    const auto out = c.run(room.far, echo);
    std::printf("%-34s", c.name);
    for (const double t : {2.0, 4.0, 8.0, 14.0})
        std::printf(" %5.1f", 10 * std::log10(power(echo, t, t + 2) / power(out, t, t + 2, c.delay)));
    // The microphone moves at 10 s.
    Sound walk = echo;
    std::copy(moved.begin() + 480000, moved.end(), walk.begin() + 480000);
    const auto after = c.run(room.far, walk);
    for (const double t : {10.5, 12.0, 13.0, 14.0})
        std::printf(" %5.1f", 10 * std::log10(power(walk, t, t + 1) / power(after, t, t + 1, c.delay)));
    // A voice in the room from 10 s on.
    Sound both = echo, voice(echo.size());
    for (std::size_t i = 480000; i < both.size(); ++i)
        both[i] += voice[i] = room.near[i];
    const auto talk = c.run(room.far, both);
    double nn = 0, on = 0, oo = 0;
    for (std::size_t i = 11 * 48000; i + 4096 < both.size(); ++i) {
        const double n = voice[i], o = talk[i + static_cast<std::size_t>(c.delay)];
        nn += n * n;
        on += o * n;
        oo += o * o;
    }
    std::printf(" | %5.1f dB %5.3f (%4.1f dB over echo)\n", 20 * std::log10(on / nn), on / std::sqrt(nn * oo),
                10 * std::log10(nn / power(echo, 11, static_cast<double>(both.size()) / 48000 - 0.1)));
}

double seconds(const std::function<void()>& f) {
    const auto start = std::chrono::steady_clock::now();
    f();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

} // namespace

int main() {
    const EchoRoom room(20, 1);
    std::vector<Canceller> all = {
        {"linear filter only", dsp::echoLatency - dsp::echoBlock,
         [](const Sound& f, const Sound& m) { return ours(f, m, 0); }},
        {"with suppression of 20 dB", dsp::echoLatency - dsp::echoBlock,
         [](const Sound& f, const Sound& m) { return ours(f, m, 20); }},
    };
#if LOOM_HAVE_SPEEX
    all.push_back({"SpeexDSP", 0, [](const Sound& f, const Sound& m) { return speex(f, m, false); }});
    all.push_back(
        {"SpeexDSP with its suppressor", 512, [](const Sound& f, const Sound& m) { return speex(f, m, true); }});
#endif
    std::printf("echo return loss enhancement, dB       2-4   4-6  8-10 14-16 | moved at 10 s: 10.5, 12, 13, 14 | near "
                "end: level, correlation\n");
    for (const auto& c : all)
        judge(c, room);
    // Eight microphones, one loudspeaker signal.
    std::vector<double> own, peer;
    for (int round = 0; round < 5; ++round) {
        own.push_back(seconds([&] {
            const int partitions = 48;
            dsp::EchoReference reference(partitions);
            std::vector<std::unique_ptr<dsp::EchoCanceller>> mics;
            for (int m = 0; m < 8; ++m)
                mics.push_back(std::make_unique<dsp::EchoCanceller>(partitions));
            float out[dsp::echoBlock];
            for (std::size_t at = 0; at + dsp::echoBlock <= 5 * 48000; at += dsp::echoBlock) {
                reference.push(&room.far[at]);
                for (auto& m : mics) {
                    m->filter(reference, &room.echo[0][at], out, 20);
                    m->adapt(reference, 0, partitions);
                }
            }
        }));
#if LOOM_HAVE_SPEEX
        const Sound far(room.far.begin(), room.far.begin() + 5 * 48000),
            mic(room.echo[0].begin(), room.echo[0].begin() + 5 * 48000);
        peer.push_back(seconds([&] { (void)speex(far, mic, true); }));
#endif
    }
    const auto median = [](std::vector<double> v) {
        std::sort(v.begin(), v.end());
        return v[v.size() / 2];
    };
    const double samples = 5 * 48000;
    std::printf("time: %.0f ns a channel-sample (8 microphones)", median(own) * 1e9 / samples / 8);
    if (!peer.empty())
        std::printf(", SpeexDSP %.0f ns: %.1f times as fast", median(peer) * 1e9 / samples,
                    median(peer) * 8 / median(own));
    std::printf("\n");
}
