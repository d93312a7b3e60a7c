#include "engine/glide.h"
#include "dsp/units.h"
#include <algorithm>
#include <cmath>

namespace loom::engine {

GlideBank::GlideBank(const ParamTable& table, const std::vector<double>& values, double frameSeconds)
    : target_(values), goal_(values.size()), mid_(values.size()), now_(values.size()), before_(values.size()),
      active_(values.size(), 0), pull_(1.0 - std::exp(-frameSeconds / 0.020)) {
    rules_.reserve(values.size());
    for (const auto& spec : table.specs())
        rules_.push_back({spec.glide, spec.min, spec.minIsOff});
    for (std::size_t i = 0; i < values.size(); ++i)
        jump(static_cast<int>(i), values[i]);
}

double GlideBank::domain(int i, double value) const {
    const Rule& r = rules_[i];
    switch (r.glide) {
    case Glide::gain:
        return r.minIsOff && value <= r.min ? 0.0 : dsp::gainFromDb(value);
    case Glide::logarithmic:
        return std::log(std::max(value, 1e-6));
    default:
        return value;
    }
}

void GlideBank::jump(int i, double value) {
    target_[i] = value;
    goal_[i] = mid_[i] = now_[i] = before_[i] = domain(i, value);
}

void GlideBank::set(int i, double value) {
    ++changes_;
    if (rules_[i].glide == Glide::none)
        return jump(i, value);
    target_[i] = value;
    goal_[i] = domain(i, value);
    if (!active_[i])
        ++moving_;
    active_[i] = 1;
}

bool GlideBank::step() {
    settle_ = moving_ > 0; // one more frame after the last, so that before() catches up
    for (std::size_t i = 0; i < now_.size(); ++i) {
        before_[i] = now_[i];
        if (!active_[i])
            continue;
        mid_[i] += pull_ * (goal_[i] - mid_[i]);
        now_[i] += pull_ * (mid_[i] - now_[i]);
        const double close = 1e-5 * std::max(1.0, std::abs(goal_[i]));
        if (std::abs(goal_[i] - now_[i]) < close && std::abs(goal_[i] - mid_[i]) < close) {
            mid_[i] = now_[i] = goal_[i];
            active_[i] = 0;
            --moving_;
        }
    }
    return true;
}

} // namespace loom::engine
