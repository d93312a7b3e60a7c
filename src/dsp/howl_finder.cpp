#include "dsp/howl_finder.h"
#include "dsp/units.h"
#include <algorithm>

namespace loom::dsp {
namespace {

constexpr double quietDb = -60;                                 // below that nothing is looked for
constexpr double growing = 0.15, risesBy = 3;                   // seconds, dB: while a note builds up
constexpr double steady = 0.4, staysWithin = 1.5, loudDb = -24; // ... or when the amplifier stops it
constexpr double overHarmonics = 20;                            // dB; odd harmonics come from clipping as well
constexpr double overClipped = 7, clippingDb = -12;
constexpr double lowestHz = 80, highestHz = 14000;

} // namespace

HowlFinder::HowlFinder(double rate)
    : rate_(rate), fft_(length), window_(length), past_(length), levels_(length / 2 + 1) {
    for (int i = 0; i < length; ++i)
        window_[static_cast<std::size_t>(i)] = static_cast<float>(0.5 - 0.5 * std::cos(2 * pi * i / length));
}

HowlFinder::Howl HowlFinder::process(const float* x, int frames, double sensitivityDb) {
    Howl found;
    for (int i = 0; i < frames; ++i) {
        past_[static_cast<std::size_t>(at_)] = std::isfinite(x[i]) ? x[i] : 0;
        at_ = at_ + 1 == length ? 0 : at_ + 1;
        if (++fresh_ == hop) {
            found = look(sensitivityDb);
            fresh_ = 0;
        }
    }
    return found;
}

bool HowlFinder::standsOut(int line, double sensitivityDb) const {
    const double here = level(line);
    if (here > clippingDb) // several notes at once, and what clipping makes of them
        sensitivityDb = std::min(sensitivityDb, 10.0);
    for (const int aside : {-9, -8, -7, -6, 6, 7, 8, 9}) // beyond the window's own skirt
        if (level(line + aside) > here - sensitivityDb)
            return false;
    for (const double times : {0.5, 2.0, 3.0, 4.0}) {
        const double over = here > clippingDb || (times == 3.0 && here > loudDb) ? overClipped : overHarmonics;
        const int there = static_cast<int>(std::lround(line * times));
        for (int k = there - 2; k <= there + 2; ++k)
            if (k > 4 && k < length / 2 && level(k) > here - over)
                return false;
    }
    return true;
}

HowlFinder::Howl HowlFinder::look(double sensitivityDb) {
    float* t = fft_.time();
    for (int i = 0; i < length; ++i)
        t[i] = past_[static_cast<std::size_t>((at_ + i) & (length - 1))] * window_[static_cast<std::size_t>(i)];
    fft_.forward();
    constexpr double scale = 16.0 / (static_cast<double>(length) * length);
    for (int k = 0; k <= length / 2; ++k)
        levels_[static_cast<std::size_t>(k)] = dbFromPower(static_cast<double>(std::norm(fft_.spectrum()[k])) * scale);
    const auto first = std::max(12, static_cast<int>(lowestHz * length / rate_)),
               last = std::min(length / 2 - 12, static_cast<int>(highestHz * length / rate_));
    std::array<Candidate, 8> now{};
    std::size_t count = 0;
    for (int k = first; k <= last && count < now.size(); ++k) {
        const bool peak = level(k) > quietDb && level(k) >= level(k - 1) && level(k) > level(k + 1);
        if (!peak || !standsOut(k, sensitivityDb))
            continue;
        Candidate c{k, 1, level(k), level(k), level(k), level(k)};
        for (const auto& before : candidates_)
            if (before.seen > 0 && std::abs(before.line - k) <= 1 && level(k) > before.last - 3) {
                c.seen = before.seen + 1;
                c.first = before.first;
                c.least = std::min(before.least, c.last);
                c.most = std::max(before.most, c.last);
            }
        now[count++] = c;
    }
    candidates_ = now;
    Howl loudest;
    for (const auto& c : candidates_) {
        const double lasted = c.seen * hop / rate_;
        const bool builds = lasted >= growing && c.last >= c.first + risesBy && c.last >= c.most - 0.5;
        const bool stands = lasted >= steady && c.most - c.least <= staysWithin && c.last > loudDb;
        if (!(builds || stands) || (loudest.hz > 0 && c.last <= loudest.levelDb))
            continue;
        const double a = level(c.line - 1), b = level(c.line), d = level(c.line + 1);
        const double curve = a - 2 * b + d,
                     shift = curve < 0 ? 0.5 * (a - d) / curve : 0; // a parabola through three lines
        loudest = {(c.line + shift) * rate_ / length, c.last};
    }
    return loudest;
}

} // namespace loom::dsp
