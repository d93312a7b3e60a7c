// A program made ready to run: blocks in order, memory laid out, kernels made or taken over, lanes put side by side.
#pragma once
#include "engine/block_kind.h"
#include "engine/name_index.h"

namespace loom::engine {

struct MeterReading {
    double peakDb = dsp::silenceDb, rmsDb = dsp::silenceDb;
};

// Immutable after compile() but for the sound in its memory and the state of its kernels, which belong to the one
// thread that calls process(). Kernels are shared between a plan and its successor, so that their state goes on.
class Schedule {
  public:
    // One frame of 1..64 samples. in/out: a pointer per name of inputs()/outputs(), null where nothing is.
    // No allocation, no lock, no system call.
    void process(const PortIo& io, int frames) noexcept;

    double rate() const { return rate_; }
    const std::vector<std::string>& inputs() const { return inputs_; }
    const std::vector<std::string>& outputs() const { return outputs_; }
    // The kernel's parameters are about to be set; the thread that processes.
    void wake(Kernel* kernel) noexcept;
    // Another plan goes on with the kernels from the next frame; the thread that processes.
    void release() noexcept;
    // Number of the sound leaving (or, for a block without outputs, arriving at) a port; 0: silence; -1: no such port.
    int bufferOf(const PortRef& port) const;
    // Copies the newest frame of it; the thread that processes, or none.
    void read(int buffer, float* to, int frames) const { dsp::copyLane(places_[at(buffer)], to, frames); }
    // Levels since shortly before, with the ballistics of a peak programme meter (decay 20 dB in 1.7 s) and a 125 ms
    // RMS. Any thread.
    MeterReading meter(int buffer) const;
    std::shared_ptr<Kernel> kernel(const std::string& block) const;
    // Place of a block in the program this was made from, or -1. Whoever walks through a similar program starts with 0;
    // the next one is looked at first.
    int numberOf(std::string_view id, std::size_t& walk) const;
    int numberOf(std::string_view id) const;

  private:
    friend class Compiler;
    static std::size_t at(int i) { return static_cast<std::size_t>(i); }
    // A block: what must be the same for its kernel to be taken over, and where its ports lie.
    struct Entry {
        std::string id;
        const BlockKind* kind = nullptr; // null: unknown
        Shape asked{};                   // as the program says it
        const Form* form = nullptr;
        std::map<std::string, std::string> texts{};
        std::shared_ptr<Kernel> kernel{};
        int ins = 0, outs = 0;
        int firstIn = 0;  // in arriving_
        int firstOut = 0; // a buffer
    };
    struct Collect { // onto a bundle
        dsp::Strided from[laneCount];
        float* bundle;
    };
    struct Run { // a gang at work
        std::unique_ptr<Gang> gang;
        float *in, *out;
        std::array<Kernel*, laneCount> kernels;
    };
    struct Step {
        enum class Kind { collect, loosen, gang, flat, wide } kind;
        Kernel* kernel = nullptr;
        std::size_t index = 0;                                  // of a Collect, Run or Copy
        std::size_t in = 0, inCount = 0, out = 0, outCount = 0; // flat, wide: in pointers_
        std::size_t meter = 0, meters = 0;                      // slots that this step's output moves
    };
    struct Copy { // out of a bundle
        dsp::Strided from;
        float* to;
    };
    void runStep(const Step& s, int frames) noexcept;
    void advanceKernels(int frames) noexcept;
    void publishMeters() noexcept;

    double rate_ = 48000;
    std::vector<Kernel*> kernels_, ports_;
    std::vector<Kernel*> awake_; // those whose parameters may move; the others need nothing
    std::size_t awakeCount_ = 0;
    bool anyFading_ = true;
    std::vector<Step> steps_;
    std::vector<Collect> collects_;
    std::vector<Copy> copies_;
    std::vector<Run> gangs_;
    std::vector<float*> pointers_;
    std::vector<std::unique_ptr<float[]>> memory_;
    std::vector<dsp::Strided> places_; // by buffer; 0 is silence
    std::vector<int> meterOf_;         // slot by buffer
    // Levels are gathered frame by frame and made public every few frames.
    std::vector<float> newPeaks_, newPowers_;
    int gathered_ = 0; // samples since they were last made public
    std::unique_ptr<std::atomic<float>[]> peaks_, powers_;
    std::vector<Entry> entries_; // in the order of the program's blocks
    NameIndex byName_;
    std::vector<int> arriving_; // buffers
    std::vector<std::string> inputs_, outputs_;
    // Kernels are told their port by the thread that runs them, at the first frame: the plan before may still run.
    std::vector<std::pair<Kernel*, int>> slots_;
    bool fresh_ = true;
};

// Makes a plan at 8 to 192 kHz. Blocks of unknown kind are silent. Kernels of `previous` are taken over where block id,
// kind, shape, texts and rate are the same; their parameters are not touched (see Runner::load). New blocks with an
// "on" switch fade in if there is a previous plan. Error: a loop (its path), a thread to a port that is not there,
// two threads into one port, two blocks of one name, more than 20,000 blocks.
Result<std::unique_ptr<Schedule>> compile(const Program& program, double rate, const Resources& resources,
                                          const Schedule* previous = nullptr);

// Order in which blocks can run, or the loop that prevents it: "eq -> matrix -> eq".
Result<std::vector<std::string>> runningOrder(const Program& program);

} // namespace loom::engine
