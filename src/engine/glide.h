// Parameters on their way to a new value: no step reaches the sound.
#pragma once
#include "engine/parameter.h"
#include <vector>

namespace loom::engine {

// The values of one kernel. The audio thread alone touches it once it runs; nothing here allocates after the
// constructor. Values glide through two equal one-pole filters a frame at a time (time constant 20 ms each), so
// that the slope of a change starts and ends at zero.
class GlideBank {
  public:
    GlideBank(const ParamTable& table, const std::vector<double>& values, double frameSeconds);

    void set(int index, double value);  // glides, or jumps where the parameter does not glide
    void jump(int index, double value); // at once
    // One frame on; true while anything moves, and once more when before() has caught up.
    bool advance() { return (moving_ > 0 || settle_) && step(); }
    bool moving() const { return moving_ > 0; }
    bool stirring() const { return moving_ > 0 || settle_; }

    double now(int i) const { return now_[i]; }       // in the glide's domain: gain factor, ln Hz, or the value
    double before(int i) const { return before_[i]; } // the same one frame ago
    double target(int i) const { return target_[i]; } // the parameter's own unit
    bool movingAt(int i) const { return active_[i]; }
    int changes() const { return changes_; } // counts every set(), for kernels that cross-fade

  private:
    bool step();
    double domain(int i, double value) const;
    struct Rule {
        Glide glide;
        double min;
        bool minIsOff;
    };
    std::vector<Rule> rules_;
    std::vector<double> target_, goal_, mid_, now_, before_;
    std::vector<char> active_;
    double pull_;
    int moving_ = 0, changes_ = 0;
    bool settle_ = false;
};

} // namespace loom::engine
