// The running part of a block.
#pragma once
#include "dsp/audio_file.h"
#include "dsp/lanes.h"
#include "engine/glide.h"
#include <array>
#include <atomic>
#include <functional>
#include <map>
#include <memory>
#include <span>

namespace loom::engine {

class Cable;

using dsp::laneCount;
using dsp::maxFrame;
using Shape = std::map<std::string, int>;

// What a kernel may need from outside; looked up when the program is compiled, never on the audio thread.
struct Feed { // sound for an input of the device where there is no device
    std::shared_ptr<const dsp::AudioClip> clip{};
    double gain = 1; // factor
    bool loop = true;
};

struct Resources {
    std::function<Feed(const std::string& port, double rate)> feed{};
    std::function<std::shared_ptr<const dsp::AudioClip>(const std::string& file, double rate)> clip{};
    // What comes to an input, and what leaves an output, while other devices run beside this one; null: nothing.
    std::function<std::shared_ptr<Cable>(const std::string&port)> arriving{}, leaving{};
};

struct KernelSetup {
    double rate = 48000;
    Shape shape{};
    std::map<std::string, std::string> texts{};
    const Resources* resources = nullptr;
};

// What kernels exchange with the outside during one frame: one pointer per device port in use, null where nothing is.
struct PortIo {
    const float* const* in = nullptr;
    float* const* out = nullptr;
};

using Inputs = std::span<const float* const>;
using Outputs = std::span<float* const>;

// One block's parameters, state and sound. Made on a control thread; after that one thread at a time calls advance()
// and then one of the process functions, once a frame of at most 64 samples. Nothing of that allocates, locks or calls
// the system.
//
// A kernel takes its sound in one of three ways, as its kind declares (BlockKind::flow):
//   flat   process(): each channel's samples next to each other; inputs and outputs never overlap.
//   wide   processWide(): bundles of eight channels, in the order of the ports.
//   ganged its channels are run by a Gang (gang.h), eight of any blocks side by side.
class Kernel {
  public:
    Kernel(const ParamTable& table, const std::vector<double>& values, double rate);
    virtual ~Kernel() = default;
    Kernel(const Kernel&) = delete;
    Kernel& operator=(const Kernel&) = delete;

    void set(int param, double value) noexcept { params_.set(param, value); }
    bool listed = false; // among those that are advanced; the plan's own
    // Nothing moves: advance() need not be called until a parameter is set.
    bool resting() const { return !awake_ && !fading_ && !params_.stirring() && params_.changes() == seen_; }
    virtual void attachPort(int slot) { (void)slot; }
    virtual void exchange(const PortIo& io, int frames) noexcept { (void)io, (void)frames; }
    // Samples a recorder has gathered: moves up to `to.size()` of channel 0.. interleaved; control thread.
    virtual std::size_t drain(std::span<float> to) noexcept { return (void)to, 0; }
    // What the block has to show besides levels (BlockKind::readouts); any thread.
    virtual float readout(int which) const noexcept { return (void)which, 0; }
    // Starts from "as if absent", so that a block put into running sound fades in.
    void fadeIn();

    // Moves the parameters on by a frame; first of all, once a frame.
    void advance(int frames) noexcept {
        const bool moved = params_.advance();
        if (fading_ || params_.changes() != seen_)
            advanceFade();
        if (moved || awake_ || params_.changes() != seen_) {
            seen_ = params_.changes();
            prepare(frames);
        }
    }
    virtual void process(Inputs in, Outputs out, int frames) noexcept { (void)in, (void)out, (void)frames; }
    virtual void processWide(const float* const* in, float* const* out, int frames) noexcept {
        (void)in, (void)out, (void)frames;
    }
    // Where the block is being switched on or off (or is off): mixes what came in into what went out.
    bool fading() const { return fading_; }
    void blend(dsp::Strided in, dsp::Strided out, int frames) const noexcept;

  protected:
    // Parameters moved or were set, or awake_ is set: work out what the sound needs.
    virtual void prepare(int frames) noexcept { (void)frames; }
    GlideBank params_;
    double rate_;
    bool awake_ = false;

  private:
    void advanceFade() noexcept;
    int onParam_, seen_ = 0;
    bool fading_ = false;
    double wet_ = 1, wetMid_ = 1, wetFrom_ = 1;
    double wetPull_;
};

// Applies a straight ramp of gain over a frame.
void applyGain(const float* in, float* out, double from, double to, int frames) noexcept;

} // namespace loom::engine
