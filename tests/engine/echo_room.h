// A hall with a loudspeaker, microphones and two voices: what an echo canceller is judged by.
#pragma once
#include "acoustics/decay.h"
#include "acoustics/image_source.h"
#include "dsp/audio_file.h"
#include "dsp/convolver.h"
#include <cmath>
#include <random>
#include <stdexcept>
#include <vector>

namespace loom {

// 14 x 10 x 4 m, reverberation time 0.6 s, loudspeaker 4 m from the microphones, hiss 60 dB below the echo.
struct EchoRoom {
    static constexpr double rate = 48000;
    std::vector<float> far;                      // at the loudspeaker
    std::vector<float> near;                     // the talker's voice at the first microphone, for as long as `far`
    std::vector<std::vector<float>> echo, moved; // at each microphone; the same 30 cm further

    explicit EchoRoom(double seconds, int microphones = 1) {
        const auto length = static_cast<std::size_t>(seconds * rate);
        far = voice("far-end.flac", length);
        const acoustics::Point hall{14, 10, 4}, loudspeaker{7, 0.5, 2.5};
        acoustics::Shoebox box{hall, {}};
        // Eyring's formula takes a diffuse field, which a bare box is not: the walls are tuned until the hall has 0.6
        // s.
        double low = 0.1, high = 0.9;
        for (int i = 0; i < 7; ++i) {
            box.absorption.fill((low + high) / 2);
            const auto h = acoustics::imageSourceResponse(box, loudspeaker, {5, 4.4, 1.1}, 16000, 16000);
            (acoustics::reverberationTime(h, 16000) > 0.6 ? low : high) = (low + high) / 2;
        }
        std::mt19937 random(7);
        for (int m = 0; m < microphones; ++m) {
            const acoustics::Point at{5 + 0.5 * m, 4.4, 1.1}, then{5.2 + 0.5 * m, 4.6, 1.2};
            echo.push_back(heard(far, box, loudspeaker, at));
            moved.push_back(heard(far, box, loudspeaker, then));
            double power = 0;
            for (const float x : echo.back())
                power += static_cast<double>(x) * x;
            std::normal_distribution<float> hiss(
                0, static_cast<float>(std::sqrt(power / static_cast<double>(length)) * 1e-3));
            for (std::size_t i = 0; i < length; ++i) {
                const float n = hiss(random);
                echo.back()[i] += n, moved.back()[i] += n;
            }
            if (m == 0)
                near = heard(voice("delegate-2.flac", length), box, {5, 4.9, 1.3}, at, 0.35f);
        }
    }

    static std::vector<float> voice(const char* file, std::size_t length) {
        dsp::AudioClip clip;
        std::string error;
        if (!dsp::readClip(std::string(LOOM_SOURCE_DIR "/demo/marram-point/assets/") + file, rate, clip, error))
            throw std::runtime_error(error);
        std::vector<float> spoken, x(length); // without pauses of more than a third of a second
        std::size_t quiet = 1 << 20;
        for (const float v : clip.channels[0]) {
            quiet = std::abs(v) > 0.01f ? 0 : quiet + 1;
            if (quiet < 16000)
                spoken.push_back(v);
        }
        for (std::size_t i = 0; i < length; ++i)
            x[i] = spoken.at(i % spoken.size());
        return x;
    }

  private:
    static std::vector<float> heard(const std::vector<float>& x, const acoustics::Shoebox& box,
                                    const acoustics::Point& from, const acoustics::Point& to, float gain = 1) {
        auto h = acoustics::imageSourceResponse(box, from, to, rate, 16000);
        for (float& t : h)
            t *= 12 * gain; // a pressure of 1/(4 pi r): the echo arrives about as loud as it left
        std::vector<float> y(x.size() + dsp::convolverLatency), in = x;
        in.resize(y.size());
        dsp::Convolver c(std::make_shared<dsp::ConvolverTaps>(h));
        c.process(in.data(), y.data(), static_cast<int>(y.size()));
        return {y.begin() + dsp::convolverLatency, y.end()};
    }
};

} // namespace loom
