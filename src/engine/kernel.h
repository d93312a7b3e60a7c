// The running part of a block.
#pragma once
#include "dsp/audio_file.h"
#include "dsp/cascade.h"
#include "engine/glide.h"
#include <atomic>
#include <functional>
#include <map>
#include <memory>
#include <span>

namespace loom::engine {

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

// One block's sound. Made on a control thread; after that run() is called by one thread at a time and neither
// allocates, locks nor calls the system. Frames are at most 64 samples; inputs and outputs never overlap.
class Kernel {
  public:
    Kernel(const ParamTable& table, const std::vector<double>& values, double rate);
    virtual ~Kernel() = default;
    Kernel(const Kernel&) = delete;
    Kernel& operator=(const Kernel&) = delete;

    // Advances the parameters and processes; where the block has an "on" switch, fades between sound and thread.
    void run(Inputs in, Outputs out, int frames) noexcept;
    void set(int param, double value) noexcept { params_.set(param, value); }
    virtual void attachPort(int slot) { (void)slot; }
    virtual void exchange(const PortIo& io, int frames) noexcept { (void)io, (void)frames; }
    // Samples a recorder has gathered: moves up to `to.size()` of channel 0.. interleaved; control thread.
    virtual std::size_t drain(std::span<float> to) noexcept { return (void)to, 0; }
    // Starts from "as if absent", so that a block put into running sound fades in.
    void fadeIn();

  protected:
    virtual void process(Inputs in, Outputs out, int frames) noexcept = 0;
    GlideBank params_;
    double rate_;

  private:
    int onParam_;
    double wet_ = 1, wetMid_ = 1;
    double wetPull_;
};

// Applies a straight ramp of gain over a frame.
void applyGain(const float* in, float* out, double from, double to, int frames) noexcept;

} // namespace loom::engine
