// A chain of sections that can be changed while sound runs through it.
#pragma once
#include "dsp/lanes.h"
#include "dsp/section.h"
#include <array>
#include <span>

namespace loom::dsp {

// Up to 16 sections on one channel. Coefficients either glide (linearly over the next frame) or, where the kind of
// filter changes, the old and the new chain run side by side and are cross-faded. Nothing here allocates.
// glideTo() and switchTo() only ask: the change is made when the next frame is processed, here or by a LaneCascade,
// which holds the state of the sound while it runs.
class Cascade {
  public:
    static constexpr int maxSections = 16;

    void jumpTo(std::span<const Section> sections);   // at once, state cleared
    void glideTo(std::span<const Section> sections);  // same count; reached at the end of the next frame
    void switchTo(std::span<const Section> sections); // cross-fade; unchanged leading sections keep their state
    bool switching() const { return fadeLeft_ > 0 || wish_ == Wish::fade; }
    void process(const float* in, float* out, int frames);

  private:
    friend class LaneCascade;
    enum class Wish { none, glide, fade };
    void grant(); // makes the change that was asked for; the state must be here
    // Adds to `out`, the sound of the new chain, what is left of the old one.
    void fade(const float* in, Strided out, int frames);
    struct Chain {
        std::array<Section, maxSections> now{}, next{};
        std::array<SectionState, maxSections> state{};
        int count = 0;
        bool gliding = false;
        void run(const float* in, double* out, int frames);
    };
    static constexpr int fadeSamples = 2048;
    Chain active_, old_;
    std::array<Section, maxSections> wished_{};
    int wishedCount_ = 0;
    Wish wish_ = Wish::none;
    int fadeLeft_ = 0;
    unsigned version_ = 1; // counts wishes
    bool cleared_ = true;  // jumpTo(): the state here is the one that counts
};

} // namespace loom::dsp
