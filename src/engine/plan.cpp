#include "engine/plan.h"
#include "dsp/lane_level.h"
#if defined(__SSE2__)
#include <xmmintrin.h>
#endif

namespace loom::engine {
namespace {

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

int Plan::bufferOf(const PortRef& port) const {
    const auto entry = entries_.find(port.block);
    if (entry == entries_.end() || port.port < 0)
        return -1;
    const Entry& e = entry->second;
    if (port.port < e.outs)
        return e.firstOut + port.port;
    // A block without outputs is listened to at what arrives.
    return e.outs == 0 && port.port < static_cast<int>(e.arriving.size()) ? e.arriving[at(port.port)] : -1;
}

MeterReading Plan::meter(int buffer) const {
    if (buffer <= 0 || buffer >= static_cast<int>(meterOf_.size()) || meterOf_[at(buffer)] < 0)
        return {};
    const auto slot = at(meterOf_[at(buffer)]);
    return {dsp::dbFromGain(peaks_[slot].load(std::memory_order_relaxed)),
            dsp::dbFromPower(powers_[slot].load(std::memory_order_relaxed))};
}

std::shared_ptr<Kernel> Plan::kernel(const std::string& block) const {
    const auto it = entries_.find(block);
    return it == entries_.end() ? nullptr : it->second.kernel;
}

void Plan::process(const PortIo& io, int frames) noexcept {
    const FlushDenormals flush;
    if (freshSlots_)
        for (const auto& [kernel, slot] : slots_)
            kernel->attachPort(slot);
    freshSlots_ = false;
    for (Kernel* k : kernels_)
        k->advance(frames);
    for (const Step& s : steps_)
        runStep(s, io, frames);
}

void Plan::runStep(const Step& s, const PortIo& io, int frames) noexcept {
    switch (s.kind) {
    case Step::Kind::collect:
        return dsp::gather(collects_[s.index].from, collects_[s.index].sheet, frames);
    case Step::Kind::loosen:
        return dsp::copyLane(copies_[s.index].from, copies_[s.index].to, frames);
    case Step::Kind::gang: {
        const Run& run = gangs_[s.index];
        run.gang->process(run.in, run.out, frames);
        for (int l = 0; l < laneCount; ++l)
            if (const Kernel* k = run.kernels[at(l)]; k && k->fading())
                k->blend({run.in + l, laneCount}, {run.out + l, laneCount}, frames);
        return measureSheet(s.meter, run.out, frames);
    }
    case Step::Kind::wide:
        s.kernel->processWide(pointers_.data() + s.in, pointers_.data() + s.out, frames);
        for (std::size_t o = 0; o < s.outCount; ++o)
            measureSheet(s.meter + o * laneCount, pointers_[s.out + o], frames);
        return;
    case Step::Kind::flat:
        break;
    }
    if (s.port)
        s.kernel->exchange(io, frames);
    s.kernel->process({pointers_.data() + s.in, s.inCount}, {pointers_.data() + s.out, s.outCount}, frames);
    if (s.kernel->fading())
        for (std::size_t c = 0; c < std::min(s.inCount, s.outCount); ++c)
            s.kernel->blend({pointers_[s.in + c], 1}, {pointers_[s.out + c], 1}, frames);
    for (std::size_t o = 0; o < s.outCount; ++o)
        measureFlat(s.meter + o, pointers_[s.out + o], frames);
}

void Plan::hold(std::size_t slot, float peak, float meanPower) noexcept {
    const float held = peaks_[slot].load(std::memory_order_relaxed) * peakDecay_;
    peaks_[slot].store(std::max(peak, held), std::memory_order_relaxed);
    const float was = powers_[slot].load(std::memory_order_relaxed);
    powers_[slot].store(was + powerPull_ * (meanPower - was), std::memory_order_relaxed);
}

void Plan::measureFlat(std::size_t slot, const float* x, int frames) noexcept {
    float peak = 0, power = 0;
    dsp::levelOf(x, frames, peak, power);
    hold(slot, peak, power / static_cast<float>(frames));
}

void Plan::measureSheet(std::size_t slot, const float* sheet, int frames) noexcept {
    float peaks[laneCount], powers[laneCount];
    dsp::levelsOf(sheet, frames, peaks, powers);
    for (std::size_t l = 0; l < laneCount; ++l)
        hold(slot + l, peaks[l], powers[l] / static_cast<float>(frames));
}

} // namespace loom::engine
