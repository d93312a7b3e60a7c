// A program made ready to run: blocks in order, buffers laid out, kernels made or taken over.
#pragma once
#include "engine/block_kind.h"
#include <set>

namespace loom::engine {

struct MeterReading {
    double peakDb = dsp::silenceDb, rmsDb = dsp::silenceDb;
};

// Immutable after compile() but for the sound in its buffers and the state of its kernels, which belong to the one
// thread that calls process(). Kernels are shared between a plan and its successor, so that their state goes on.
class Plan {
  public:
    // One frame of 1..64 samples. in/out: a pointer per name of inputs()/outputs(), null where nothing is.
    // No allocation, no lock, no system call.
    void process(const PortIo& io, int frames) noexcept;

    double rate() const { return rate_; }
    const std::vector<std::string>& inputs() const { return inputs_; }
    const std::vector<std::string>& outputs() const { return outputs_; }
    // Where the sound leaving (or, for a block without outputs, arriving at) a port lies; -1: no such port.
    int bufferOf(const PortRef& port) const;
    const float* buffer(int index) const { return samples_.data() + static_cast<std::size_t>(index) * maxFrame; }
    // Levels since shortly before, with the ballistics of a peak programme meter (decay 20 dB in 1.7 s) and a 125 ms
    // RMS. Any thread.
    MeterReading meter(int buffer) const;
    std::shared_ptr<Kernel> kernel(const std::string& block) const;
    const std::vector<std::string>& order() const { return order_; }

  private:
    friend class Compiler;
    struct Step {
        Kernel* kernel;
        std::size_t in, inCount, out, outCount; // into pointers_
        bool port;
    };
    struct Entry { // what must be the same for a kernel to be taken over
        std::string kind;
        Shape shape;
        std::map<std::string, std::string> texts;
        std::shared_ptr<Kernel> kernel;
    };
    struct Meter {
        std::atomic<float> peak{0}, power{0};
    };
    void measure(int frames) noexcept;

    double rate_ = 48000;
    std::vector<Step> steps_;
    std::vector<float> samples_; // buffer 0 is silence
    std::vector<float*> pointers_;
    std::map<PortRef, int> buffers_;
    std::map<PortRef, int> arriving_;
    std::unique_ptr<Meter[]> meters_;
    std::size_t bufferCount_ = 1;
    std::map<std::string, Entry> entries_;
    std::vector<std::string> inputs_, outputs_, order_;
    // Kernels are told their port by the thread that runs them, at the first frame: the plan before may still run.
    std::vector<std::pair<Kernel*, int>> slots_;
    bool freshSlots_ = true;
    float peakDecay_ = 1, powerPull_ = 1;
};

// Makes a plan at 8 to 192 kHz. Blocks of unknown kind are silent. Kernels of `previous` are taken over where block id,
// kind, shape, texts and rate are the same; their parameters are not touched (see Runner::swap). New blocks with an
// "on" switch fade in if there is a previous plan. Trouble: a loop (its path), a thread to a port that is not there,
// two threads into one port, two blocks of one name, more than 20,000 blocks.
Result<std::unique_ptr<Plan>> compile(const Program& program, double rate, const Resources& resources,
                                      const Plan* previous = nullptr);

// Order in which blocks can run, or the loop that prevents it: "eq -> matrix -> eq".
Result<std::vector<std::string>> runningOrder(const Program& program);

} // namespace loom::engine
