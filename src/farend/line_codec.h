// Speech over a telephone line, one way: coded and decoded again, with the delay and loss of the network between.
// G.711 and G.722 of ITU-T by spandsp; what is lost is filled as in our streams (stream/conceal).
#pragma once
#include <cstdint>
#include <deque>
#include <memory>
#include <optional>
#include <random>
#include <string>
#include <vector>

namespace loom::farend {

enum class Codec { g711a, g711u, g722 };
const char* nameOf(Codec codec);                     // "G.711 A-law"
std::optional<Codec> codecOf(const std::string& id); // "g711a", "g711u", "g722"

struct LineFaults {
    double loss = 0;    // share of packets of 20 ms that do not come, 0 to 1
    double delayMs = 0; // of the network and its buffer, beside what coding takes
    bool operator==(const LineFaults&) const = default;
};

// One thread. Samples at 48 kHz, full scale 1.
class LineCodec {
  public:
    static constexpr double rate = 48000;
    explicit LineCodec(Codec codec, LineFaults faults = {}, unsigned seed = 1);
    ~LineCodec();
    LineCodec(const LineCodec&) = delete;
    LineCodec& operator=(const LineCodec&) = delete;
    // What goes in, and what came out at the other end meanwhile: as many samples, later by latency().
    void step(const float* in, float* out, int frames);
    Codec codec() const { return codec_; }
    std::uint64_t lost() const { return lost_; } // packets

  private:
    struct Coders;
    void packet();
    Codec codec_;
    LineFaults faults_;
    std::unique_ptr<Coders> coders_;
    std::vector<float> narrow_{}, wide_{}; // waits to be coded; and to be heard
    std::deque<float> out_{};
    std::mt19937 dice_;
    std::uint64_t lost_ = 0;
};

// Keypad tones (ITU-T Q.23) by spandsp, at 48 kHz. Error: other than digits, A-D, * and #.
std::vector<float> keypadTones(const std::string& keys);
// What keys were heard in a sound at 48 kHz.
std::string keysIn(const std::vector<float>& sound);

} // namespace loom::farend
