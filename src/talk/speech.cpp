#include "talk/speech.h"
#include "catalogue/catalogue.h"
#include "dsp/audio_file.h"
#include "voicings/room_sound.h"
#include <cmath>

namespace loom::project {

namespace {

constexpr double speechRate = 48000;
constexpr std::size_t longestPause = 16000; // samples

Result<std::vector<float>> readVoice(const std::string& file, double level) {
    dsp::AudioClip clip;
    std::string error;
    if (!dsp::readClip(file, speechRate, clip, error))
        return Error{error, file, "The speech belongs to the program; install it again."};
    std::vector<float> spoken;
    std::size_t quiet = longestPause;
    for (const float v : clip.channels[0]) {
        quiet = std::abs(v) > 0.01f ? 0 : quiet + 1;
        if (quiet < longestPause)
            spoken.push_back(v);
    }
    const double rms = speechLevelA(spoken, speechRate);
    if (rms <= 0)
        return Error{"is silent", file, "The speech belongs to the program; install it again."};
    for (float& v : spoken)
        v = static_cast<float>(v * level / rms);
    return spoken;
}

} // namespace

std::string speechFolder() {
    return dataFolder() + "/speech";
}

Result<Speech> readSpeech(const std::string& folder) {
    constexpr int voices = 9;
    Speech s;
    for (int i = 1; i <= voices; ++i) {
        auto v = readVoice(folder + "/voice-" + std::to_string(i) + ".flac", 1);
        if (!v)
            return v.error();
        s.voices.push_back(std::move(*v));
    }
    auto far = readVoice(folder + "/far-end.flac", 0.1);
    if (!far)
        return far.error();
    s.farEnd = std::move(*far);
    return s;
}

} // namespace loom::project
