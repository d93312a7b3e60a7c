#include "dsp/loudness_meter.h"
#include <algorithm>

namespace loom::dsp {
namespace {

constexpr double lowestLufs = -70;

// Windowed sinc, 48 taps at four times the rate, unity gain at 0 Hz for each phase.
struct Oversampling {
    float taps[4][12];
    Oversampling() {
        for (int p = 0; p < 4; ++p) {
            double sum = 0;
            for (int k = 0; k < 12; ++k) {
                const double t = (k - 5.5) + (p - 1.5) / 4, x = pi * t;
                const double window = 0.5 + 0.5 * std::cos(pi * t / 6.25);
                taps[p][k] = static_cast<float>(window * (std::abs(x) < 1e-9 ? 1 : std::sin(x) / x));
                sum += static_cast<double>(taps[p][k]);
            }
            for (float& t : taps[p])
                t = static_cast<float>(static_cast<double>(t) / sum);
        }
    }
};
const Oversampling oversampling;

} // namespace

LoudnessMeter::LoudnessMeter(double rate, int channels)
    : filters_(static_cast<std::size_t>(channels), KWeighting(rate)), past_(filters_.size()),
      sliceLength_(static_cast<int>(std::lround(rate / 10))), histogram_(bins) {}

void LoudnessMeter::restart() {
    std::fill(histogram_.begin(), histogram_.end(), Bin{});
    peak_ = 0;
}

void LoudnessMeter::process(const float* const* in, int frames) {
    for (std::size_t c = 0; c < filters_.size(); ++c)
        findPeaks(c, in[c], frames);
    at_ = (at_ + frames) % taps;
    for (int done = 0; done < frames;) {
        const int n = std::min(frames - done, sliceLength_ - inSlice_);
        for (std::size_t c = 0; c < filters_.size(); ++c)
            sum_ += filters_[c].power(in[c] + done, n) * n;
        done += n;
        inSlice_ += n;
        if (inSlice_ == sliceLength_)
            endSlice();
    }
}

void LoudnessMeter::endSlice() {
    newest_ = (newest_ + 1) % slices;
    powers_[static_cast<std::size_t>(newest_)] = sum_ / sliceLength_;
    full_ = std::min(full_ + 1, slices);
    sum_ = 0;
    inSlice_ = 0;
    if (full_ < 4)
        return;
    const double loudness = momentary(); // a gating block: 400 ms, each overlapping the one before by 300
    if (!(loudness > lowestLufs))
        return;
    auto& bin = histogram_[static_cast<std::size_t>(std::clamp((loudness - lowestLufs) * 10, 0.0, bins - 1.0))];
    bin.power += std::pow(10.0, (loudness + 0.691) / 10);
    ++bin.count;
}

double LoudnessMeter::over(int count) const {
    double sum = 0;
    for (int i = 0; i < count; ++i) // what was before the start counts as silence
        sum += powers_[static_cast<std::size_t>((newest_ - i + slices) % slices)];
    return loudnessFromPower(sum / count);
}

double LoudnessMeter::integrated() const {
    const auto mean = [this](std::size_t from) {
        double power = 0;
        long count = 0;
        for (std::size_t i = from; i < histogram_.size(); ++i) {
            power += histogram_[i].power;
            count += histogram_[i].count;
        }
        return count ? loudnessFromPower(power / static_cast<double>(count)) : silenceDb;
    };
    const double all = mean(0);
    if (all <= lowestLufs)
        return silenceDb;
    return mean(static_cast<std::size_t>(std::max(0.0, (all - 10 - lowestLufs) * 10)));
}

void LoudnessMeter::findPeaks(std::size_t channel, const float* x, int frames) {
    auto& past = past_[channel];
    int at = at_;
    float highest = 0;
    for (int i = 0; i < frames; ++i) {
        past[static_cast<std::size_t>(at)] = past[static_cast<std::size_t>(at + taps)] = x[i];
        at = at + 1 == taps ? 0 : at + 1;
        const float* oldest = &past[static_cast<std::size_t>(at)];
        for (const auto& phase : oversampling.taps) {
            float y = 0;
            for (int k = 0; k < taps; ++k)
                y += phase[k] * oldest[k];
            const float size = std::abs(y);
            highest = size > highest ? size : highest; // not a number counts as silence
        }
        const float size = std::abs(x[i]);
        highest = size > highest ? size : highest;
    }
    if (static_cast<double>(highest) > peak_ && highest < 1e6f)
        peak_ = static_cast<double>(highest);
}

} // namespace loom::dsp
