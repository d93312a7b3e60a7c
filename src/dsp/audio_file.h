// Sound files in and out of memory (WAV, FLAC: whatever libsndfile reads).
#pragma once
#include <cstdint>
#include <string>
#include <vector>

namespace loom::dsp {

// Samples per channel, each -1..1 (more is allowed for float files).
struct AudioClip {
    double rate = 48000;
    std::vector<std::vector<float>> channels;
    std::size_t frames() const { return channels.empty() ? 0 : channels[0].size(); }
};

inline constexpr std::int64_t maxClipFrames = 48'000LL * 60 * 30; // half an hour at 48 kHz
inline constexpr int maxClipChannels = 64;
inline constexpr std::int64_t maxClipSamples =
    48'000LL * 60 * 60; // of all channels together, at the rate that is asked for

// Reads a file and converts it to `rate` (0: as it is). On failure returns false and says what is wrong with which
// file and what to do. Not-a-number samples are read as silence.
bool readClip(const std::string& path, double rate, AudioClip& clip, std::string& error);
// The same from memory, `name` is for messages.
bool readClip(const std::vector<char>& bytes, const std::string& name, double rate, AudioClip& clip,
              std::string& error);
// Samples per channel that a file in memory says it has; on failure, or if it could not be read at 48 kHz, 0, and
// `error` as above.
std::int64_t clipFrames(const std::vector<char>& bytes, const std::string& name, std::string& error);
// Writes 32-bit float WAV.
bool writeWav(const std::string& path, const AudioClip& clip, std::string& error);
AudioClip resampled(AudioClip clip, double rate);

} // namespace loom::dsp
