#include "engine/schedule.h"
#include "dsp/lane_level.h"
#include <algorithm>
#include <cmath>
#if defined(__SSE2__)
#include <xmmintrin.h>
#endif

namespace loom::engine {
namespace {

constexpr int meterSamples = 512; // between two readings

// Denormal numbers cost a hundredfold; a fading tail must not.
class FlushDenormals {
#if defined(__SSE2__)
  public:
    FlushDenormals() : before_(_mm_getcsr()) {
        _mm_setcsr(before_ | 0x8040);
    }
    ~FlushDenormals() {
        _mm_setcsr(before_);
    }

  private:
    unsigned before_;
#endif
};

} // namespace

int Schedule::numberOf(std::string_view id) const {
    return byName_.find(id, [this](int i) { return std::string_view(entries_[at(i)].id); });
}

int Schedule::numberOf(std::string_view id, std::size_t& walk) const {
    const int i = walk < entries_.size() && entries_[walk].id == id ? static_cast<int>(walk) : numberOf(id);
    if (i >= 0)
        walk = at(i) + 1;
    return i;
}

int Schedule::bufferOf(const PortRef& port) const {
    const int number = numberOf(port.block);
    if (number < 0 || port.port < 0)
        return -1;
    const Entry& e = entries_[at(number)];
    if (port.port < e.outs)
        return e.firstOut + port.port;
    // A block without outputs is listened to at what arrives.
    return e.outs == 0 && port.port < e.ins ? arriving_[at(e.firstIn + port.port)] : -1;
}

MeterReading Schedule::meter(int buffer) const {
    if (buffer <= 0 || buffer >= static_cast<int>(meterOf_.size()) || meterOf_[at(buffer)] < 0)
        return {};
    const auto slot = at(meterOf_[at(buffer)]);
    return {dsp::dbFromGain(peaks_[slot].load(std::memory_order_relaxed)),
            dsp::dbFromPower(powers_[slot].load(std::memory_order_relaxed))};
}

std::shared_ptr<Kernel> Schedule::kernel(const std::string& block) const {
    const int number = numberOf(block);
    return number < 0 ? nullptr : entries_[at(number)].kernel;
}

void Schedule::process(const PortIo& io, int frames) noexcept {
    const FlushDenormals flush;
    if (fresh_) {
        for (const auto& [kernel, slot] : slots_)
            kernel->attachPort(slot);
        for (Kernel* k : kernels_)
            k->listed = true;
        fresh_ = false;
    }
    for (Kernel* k : ports_)
        k->exchange(io, frames);
    advanceKernels(frames);
    for (const Step& s : steps_)
        runStep(s, frames);
    gathered_ += frames;
    if (gathered_ >= meterSamples)
        publishMeters();
}

void Schedule::wake(Kernel* kernel) noexcept {
    if (fresh_ || kernel->listed)
        return; // all are awake at the start
    kernel->listed = true;
    awake_[awakeCount_++] = kernel;
}

void Schedule::advanceKernels(int frames) noexcept {
    anyFading_ = false;
    std::size_t kept = 0;
    for (std::size_t i = 0; i < awakeCount_; ++i) {
        Kernel* k = awake_[i];
        k->advance(frames);
        anyFading_ = anyFading_ || k->fading();
        k->listed = !k->resting();
        awake_[kept] = k;
        kept += k->listed;
    }
    awakeCount_ = kept;
}

void Schedule::release() noexcept {
    for (auto& run : gangs_)
        run.gang->release();
}

void Schedule::runStep(const Step& s, int frames) noexcept {
    switch (s.kind) {
    case Step::Kind::collect:
        return dsp::gather(collects_[s.index].from, collects_[s.index].bundle, frames);
    case Step::Kind::loosen:
        return dsp::copyLane(copies_[s.index].from, copies_[s.index].to, frames);
    case Step::Kind::gang: {
        const Run& run = gangs_[s.index];
        run.gang->process(run.in, run.out, frames);
        for (int l = 0; anyFading_ && l < laneCount; ++l)
            if (const Kernel* k = run.kernels[at(l)]; k && k->fading())
                k->blend({run.in + l, laneCount}, {run.out + l, laneCount}, frames);
        return dsp::levelsOf(run.out, frames, &newPeaks_[s.meter], &newPowers_[s.meter]);
    }
    case Step::Kind::wide:
        s.kernel->processWide(pointers_.data() + s.in, pointers_.data() + s.out, frames);
        for (std::size_t o = 0; o < s.outCount; ++o)
            dsp::levelsOf(pointers_[s.out + o], frames, &newPeaks_[s.meter + o * laneCount],
                          &newPowers_[s.meter + o * laneCount]);
        return;
    case Step::Kind::flat:
        break;
    }
    s.kernel->process({pointers_.data() + s.in, s.inCount}, {pointers_.data() + s.out, s.outCount}, frames);
    if (anyFading_ && s.kernel->fading())
        for (std::size_t c = 0; c < std::min(s.inCount, s.outCount); ++c)
            s.kernel->blend({pointers_[s.in + c], 1}, {pointers_[s.out + c], 1}, frames);
    for (std::size_t o = 0; o < s.outCount; ++o)
        dsp::levelOf(pointers_[s.out + o], frames, newPeaks_[s.meter + o], newPowers_[s.meter + o]);
}

// Decay of 20 dB in 1.7 s; mean power over 125 ms.
void Schedule::publishMeters() noexcept {
    const double seconds = gathered_ / rate_;
    const auto decay = static_cast<float>(std::exp(-seconds * std::log(10.0) / 1.7));
    const auto pull = static_cast<float>(1.0 - std::exp(-seconds / 0.125)),
               share = 1.0f / static_cast<float>(gathered_);
    for (std::size_t i = 0; i < newPeaks_.size(); ++i) {
        const float held = peaks_[i].load(std::memory_order_relaxed) * decay;
        const float fresh = newPeaks_[i] < 1e6f ? newPeaks_[i] : 1e6f; // and not a number is no level
        peaks_[i].store(std::max(fresh, held), std::memory_order_relaxed);
        const float was = powers_[i].load(std::memory_order_relaxed);
        powers_[i].store(was + pull * (newPowers_[i] * share - was), std::memory_order_relaxed);
        newPeaks_[i] = newPowers_[i] = 0;
    }
    gathered_ = 0;
}

} // namespace loom::engine
