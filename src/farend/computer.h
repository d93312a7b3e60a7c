// A computer on USB that calls by itself: two channels both ways, its own rate and its own mute.
#pragma once
#include "farend/line_codec.h"
#include "farend/rate_change.h"
#include "farend/record.h"
#include <memory>

namespace loom::farend {

// One thread at a time.
class Computer {
  public:
    explicit Computer(std::shared_ptr<const std::vector<float>> voice);
    bool here = true, calling = true;
    bool muted = false;        // what it shows, and sets where its user presses it: what is sent to it is not sent on
    int channel = 1;           // that the call is on, 1 or 2: the computer's user may choose either
    int rate = 48000;          // of the call: 16000 or 48000
    bool cameAway = false;     // it was unplugged in a call
    std::string words() const; // "in a call on channel 2", "muted", "gone in a call"
    // channels: what it is sent and what it says, on both; null: that channel does not exist.
    void step(const float* const sent[2], float* const says[2], int frames);
    const Record& heard() const { return heard_; } // by whoever is called

  private:
    std::shared_ptr<const std::vector<float>> voice_;
    std::size_t spoken_ = 0;
    struct Narrow { // a call at another rate
        RateChange down, up;
        std::vector<float> out{}, mid{};
        Narrow() : down(LineCodec::rate, 16000), up(16000, LineCodec::rate) {}
        void step(const float* in, float* to, int frames);
    };
    std::unique_ptr<Narrow> there_{}, here_{};
    Record heard_{};
};

} // namespace loom::farend
