#include "loudspeaker/fit.h"
#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::loudspeaker {
namespace {

struct Curve {
    std::vector<double> hz, wanted; // what bells have to add, dB, at even steps of the octave
};

double valueAt(std::span<const double> hz, std::span<const double> db, double f) {
    const auto i = static_cast<std::size_t>(std::upper_bound(hz.begin(), hz.end(), f) - hz.begin());
    if (i == 0)
        return db.front();
    if (i == hz.size())
        return db.back();
    return db[i - 1] + (db[i] - db[i - 1]) * std::log(f / hz[i - 1]) / std::log(hz[i] / hz[i - 1]);
}

// What is left of the wanted curve after the bells and the level.
Eigen::VectorXd left(const Curve& c, std::span<const Bell> bells, double level, double rate) {
    Eigen::VectorXd r(static_cast<Eigen::Index>(c.hz.size()));
    for (std::size_t i = 0; i < c.hz.size(); ++i)
        r[static_cast<Eigen::Index>(i)] = c.wanted[i] - level - bellsDb(bells, c.hz[i], rate);
    return r;
}

// What is minimised: the deviation, and a little of the bells' own gains, so that two large ones that nearly cancel are
// not preferred to a small one.
Eigen::VectorXd cost(const Curve& c, std::span<const Bell> bells, double level, double rate) {
    const auto r = left(c, bells, level, rate);
    Eigen::VectorXd all(r.size() + static_cast<Eigen::Index>(bells.size()));
    all.head(r.size()) = r;
    const double weight = 0.03 * std::sqrt(static_cast<double>(r.size()));
    for (std::size_t i = 0; i < bells.size(); ++i)
        all[r.size() + static_cast<Eigen::Index>(i)] = weight * bells[i].gainDb;
    return all;
}

double rms(const Eigen::VectorXd& r) {
    return std::sqrt(r.squaredNorm() / static_cast<double>(r.size()));
}

// The parameters of all bells and the level as one vector, and back within their bounds.
Eigen::VectorXd packed(std::span<const Bell> bells, double level) {
    Eigen::VectorXd x(static_cast<Eigen::Index>(3 * bells.size() + 1));
    Eigen::Index i = 0;
    for (const auto& b : bells) {
        x[i] = std::log(b.hz);
        x[i + 1] = b.gainDb;
        x[i + 2] = std::log(b.q);
        i += 3;
    }
    x[i] = level;
    return x;
}

void unpack(const Eigen::VectorXd& x, const FitRange& range, std::vector<Bell>& bells, double& level) {
    Eigen::Index i = 0;
    for (auto& b : bells) {
        b.hz = std::clamp(std::exp(x[i]), range.fromHz, range.toHz);
        b.gainDb = std::clamp(x[i + 1], -range.mostDown, range.mostUp);
        b.q = std::clamp(std::exp(x[i + 2]), range.leastQ, range.mostQ);
        i += 3;
    }
    level = x[i];
}

void refine(const Curve& c, const FitRange& range, std::vector<Bell>& bells, double& level,
            const std::stop_token& stop) {
    double damping = 1e-2;
    auto r = cost(c, bells, level, range.rate);
    for (int step = 0; step < 40 && !stop.stop_requested(); ++step) {
        const auto x = packed(bells, level);
        Eigen::MatrixXd j(r.size(), x.size());
        for (Eigen::Index k = 0; k < x.size(); ++k) {
            auto moved = x;
            moved[k] += 1e-4;
            auto other = bells;
            double otherLevel = level;
            unpack(moved, range, other, otherLevel);
            j.col(k) = (cost(c, other, otherLevel, range.rate) - r) / 1e-4;
        }
        const Eigen::MatrixXd square = j.transpose() * j;
        bool better = false;
        for (int k = 0; k < 6 && !better; ++k) {
            Eigen::MatrixXd damped = square;
            damped.diagonal() += damping * square.diagonal();
            damped.diagonal().array() += 1e-9;
            const Eigen::VectorXd next = x - damped.ldlt().solve(j.transpose() * r);
            auto other = bells;
            double otherLevel = level;
            unpack(next, range, other, otherLevel);
            const auto after = cost(c, other, otherLevel, range.rate);
            better = after.allFinite() && after.squaredNorm() < r.squaredNorm();
            if (better) {
                const bool little = after.squaredNorm() > 0.9999 * r.squaredNorm();
                bells = std::move(other);
                level = otherLevel;
                r = after;
                damping *= 0.3;
                if (little)
                    return;
            } else
                damping *= 4;
        }
        if (!better)
            return;
    }
}

} // namespace

double bellsDb(std::span<const Bell> bells, double hz, double rate) {
    double db = 0;
    for (const auto& b : bells)
        db += 20 * std::log10(std::abs(dsp::response(dsp::designBand(b.kind, b.hz, b.gainDb, b.q, rate), hz, rate)));
    return db;
}

Fit fitBells(std::span<const double> hz, std::span<const double> responseDb, std::span<const double> targetDb,
             const FitRange& range, const std::stop_token& stop) {
    Fit fit;
    Curve c;
    const double from = std::max(range.fromHz, hz.front()), to = std::min({range.toHz, hz.back(), 0.45 * range.rate});
    for (double f = from; f <= to; f *= std::exp2(1.0 / 24)) {
        c.hz.push_back(f);
        c.wanted.push_back(valueAt(hz, targetDb, f) - valueAt(hz, responseDb, f));
    }
    if (c.hz.size() < 3)
        return fit;
    double level = 0;
    for (const double w : c.wanted)
        level += w / static_cast<double>(c.wanted.size());
    double now = rms(left(c, {}, level, range.rate));
    fit.before = fit.after = now;
    fit.levelDb = level;
    std::vector<Bell> bells;
    while (static_cast<int>(bells.size()) < std::clamp(range.bells, 1, 16) && !stop.stop_requested()) {
        // Where a third of an octave deviates most.
        const auto r = left(c, bells, level, range.rate);
        Eigen::Index most = 0;
        double mostAway = -1;
        for (Eigen::Index i = 0; i < r.size(); ++i) {
            const Eigen::Index begin = std::max<Eigen::Index>(0, i - 4), end = std::min<Eigen::Index>(r.size(), i + 5);
            const double mean = r.segment(begin, end - begin).mean();
            if (std::abs(mean) > mostAway) {
                mostAway = std::abs(mean);
                most = i;
            }
        }
        auto more = bells;
        double moreLevel = level;
        more.push_back({dsp::BellKind::bell, c.hz[static_cast<std::size_t>(most)],
                        std::clamp(r[most], -range.mostDown, range.mostUp), 2});
        refine(c, range, more, moreLevel, stop);
        const double next = rms(left(c, more, moreLevel, range.rate));
        if (next > now - 0.02)
            break;
        bells = std::move(more);
        level = moreLevel;
        now = next;
    }
    std::sort(bells.begin(), bells.end(), [](const Bell& a, const Bell& b) { return a.hz < b.hz; });
    fit.bells = std::move(bells);
    fit.levelDb = level;
    fit.after = now;
    return fit;
}

Alignment alignWays(std::span<const double> hz, std::span<const dsp::Complex> first,
                    std::span<const dsp::Complex> second, double mostMs) {
    std::vector<std::size_t> both;
    for (std::size_t i = 0; i < hz.size(); ++i) {
        const double a = std::abs(first[i]), b = std::abs(second[i]);
        if (a > 0 && b > 0 && std::abs(20 * std::log10(a / b)) <= 12)
            both.push_back(i);
    }
    Alignment best;
    if (both.empty())
        return best;
    const auto level = [&](double seconds, double sign) { // mean of the sum's level, dB
        double sum = 0;
        for (const auto i : both) {
            const auto turned = second[i] * sign * std::polar(1.0, -2 * std::numbers::pi * hz[i] * seconds);
            sum += 20 * std::log10(std::max(std::abs(first[i] + turned), 1e-9));
        }
        return sum / static_cast<double>(both.size());
    };
    const double now = level(0, 1), step = 1 / (24 * hz[both.back()]), most = mostMs / 1000;
    double found[2] = {-1e9, -1e9}, at[2] = {0, 0};
    for (const int turned : {0, 1}) {
        const double sign = turned ? -1 : 1;
        for (double s = -most; s <= most; s += step)
            if (const double l = level(s, sign); l > found[turned] + 1e-9) {
                found[turned] = l;
                at[turned] = s;
            }
        double low = std::max(at[turned] - step, -most), high = std::min(at[turned] + step, most);
        for (int k = 0; k < 40; ++k) { // golden section
            const double g = (high - low) * 0.381966, a = low + g, b = high - g;
            level(a, sign) > level(b, sign) ? high = b : low = a;
        }
        at[turned] = (low + high) / 2;
        found[turned] = std::max(found[turned], level(at[turned], sign));
    }
    best.inverted = found[1] > found[0] + 0.2;
    best.delayMs = at[best.inverted] * 1000;
    best.gainedDb = found[best.inverted] - now;
    return best;
}

} // namespace loom::loudspeaker
