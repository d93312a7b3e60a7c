#include "acoustics/field.h"
#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace loom::acoustics {
namespace {

constexpr double early = 0.05;                     // s
constexpr double decayToTime = 13.815510557964274; // ln 10^6: T over the time constant of energy
constexpr Bands clarityWeight{0, 0, 0, 0.15, 0.25, 0.35, 0.25, 0};

} // namespace

Prediction::Prediction(Field field)
    : field_(std::move(field)), airLoss_(airAttenuation(field_.air)), speed_(speedOfSound(field_.air)) {
    for (std::size_t b = 0; b < bandCount; ++b) {
        double power = 0;
        for (const auto& e : field_.emitters)
            power += energyOf(e.level[b]) / e.pattern->factor()[b] * 4 * std::numbers::pi;
        reverberant_[b] = decibels(power * 4 / std::max(field_.room.constant[b], 1e-9));
        for (std::size_t f = 0; f < modulations; ++f) {
            const auto turn =
                1.0 / std::complex(1.0, 2 * std::numbers::pi * modulationHz[f] * field_.decay[b] / decayToTime);
            decayTurn_[b][f] = {turn.real(), turn.imag()};
        }
    }
}

Bands Prediction::direct(std::size_t emitter, const Point& at) const {
    const auto& e = field_.emitters[emitter];
    const Point way = at - e.at;
    const double r = std::max(lengthOf(way), 0.1), spreading = 20 * std::log10(r);
    Bands level = e.pattern->towards(e.aim, way);
    for (std::size_t b = 0; b < bandCount; ++b)
        level[b] += e.level[b] - spreading - airLoss_[b] * r;
    return level;
}

Prediction::Value Prediction::at(const Point& place) const {
    Value v;
    std::vector<Arrival> arrivals(field_.emitters.size());
    Bands sum{};
    double best = -1e9, first = 1e9;
    std::vector<double> weighted(arrivals.size());
    for (std::size_t i = 0; i < arrivals.size(); ++i) {
        const Bands level = direct(i, place);
        for (std::size_t b = 0; b < bandCount; ++b)
            sum[b] += arrivals[i].energy[b] = energyOf(level[b]);
        arrivals[i].time = lengthOf(place - field_.emitters[i].at) / speed_ + field_.emitters[i].delay;
        weighted[i] = aWeighted(level);
        if (weighted[i] > best) {
            best = weighted[i];
            v.loudest = static_cast<int>(i);
        }
        first = std::min(first, arrivals[i].time);
    }
    double last = -1e9, begin = 1e9;
    for (std::size_t i = 0; i < arrivals.size(); ++i)
        if (weighted[i] > best - 10) {
            last = std::max(last, arrivals[i].time);
            begin = std::min(begin, arrivals[i].time);
        }
    v.spread = arrivals.empty() ? 0 : last - begin;
    for (std::size_t b = 0; b < bandCount; ++b) {
        v.direct[b] = decibels(sum[b]);
        v.total[b] = decibels(sum[b] + energyOf(reverberant_[b]));
    }
    v.directA = aWeighted(v.direct);
    v.totalA = aWeighted(v.total);
    clarityOf(v, arrivals, first);
    indexOf(v, arrivals, first);
    return v;
}

void Prediction::clarityOf(Value& v, const std::vector<Arrival>& arrivals, double first) const {
    if (arrivals.empty())
        return;
    double held = 1e9; // what delays all emitters alike weakens nothing
    for (const auto& e : field_.emitters)
        held = std::min(held, e.delay);
    const double travel = first - held;
    for (std::size_t b = 0; b < bandCount; ++b) {
        if (clarityWeight[b] <= 0)
            continue;
        double soon = 0, late = 0;
        for (const auto& a : arrivals)
            (a.time <= first + early ? soon : late) += a.energy[b];
        const double rest = energyOf(reverberant_[b]);
        const double rate = decayToTime / std::max(field_.decay[b], 1e-3);
        const double begun = std::exp(-rate * travel), later = std::exp(-rate * (travel + early));
        soon += rest * (begun - later);
        late += rest * later;
        v.clarity += clarityWeight[b] * 10 * std::log10(std::max(soon, 1e-30) / std::max(late, 1e-30));
    }
}

void Prediction::indexOf(Value& v, const std::vector<Arrival>& arrivals, double first) const {
    if (arrivals.empty())
        return;
    Modulation m{};
    for (std::size_t f = 0; f < modulations; ++f) {
        std::array<double, bandCount> re{}, im{};
        for (const auto& a : arrivals) {
            const double w = -2 * std::numbers::pi * modulationHz[f] * (a.time - first);
            const double c = std::cos(w), s = std::sin(w);
            for (std::size_t b = 1; b < bandCount; ++b) {
                re[b] += a.energy[b] * c;
                im[b] += a.energy[b] * s;
            }
        }
        for (std::size_t b = 1; b < bandCount; ++b) {
            const double rest = energyOf(reverberant_[b]);
            m[b][f] = std::hypot(re[b] + rest * decayTurn_[b][f][0], im[b] + rest * decayTurn_[b][f][1]) /
                      energyOf(v.total[b]);
        }
    }
    v.sti = speechIndex(m, v.total, field_.noise);
}

} // namespace loom::acoustics
