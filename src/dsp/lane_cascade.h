// Eight cascades side by side in registers.
#pragma once
#include "dsp/cascade.h"
#include "dsp/lanes.h"

namespace loom::dsp {

// Runs up to eight Cascades at once. While it runs them it holds the state of their sound; release() gives it back, so
// that another can go on with them. Nothing here allocates.
class LaneCascade {
  public:
    void assign(int lane, Cascade* cascade) { lanes_[static_cast<std::size_t>(lane)] = cascade; }
    // in and out: bundles; they may be the same. Lanes without a cascade come out silent.
    void process(const float* in, float* out, int frames);
    void release();

  private:
    struct alignas(64) Row { // one section of every lane
        double b0[laneCount], b1[laneCount], b2[laneCount], a1[laneCount], a2[laneCount];
    };
    struct alignas(64) RowState {
        double z1[laneCount], z2[laneCount];
    };
    friend struct LaneCascadeLoops;
    void take(int lane);     // coefficients and state into the rows
    void giveBack(int lane); // state out of them
    bool changed() const;
    void renew();
    void endGlide(int lane);

    std::array<Cascade*, laneCount> lanes_{};
    std::array<unsigned, laneCount> seen_{};
    std::array<std::array<signed char, Cascade::maxSections>, laneCount> index_{}; // section in a row
    std::array<int, laneCount> used_{};
    std::array<Row, Cascade::maxSections> rows_{}, steps_{};
    std::array<RowState, Cascade::maxSections> states_{};
    int count_ = 0, only_ = -1; // rows in use; the lane in use if there is one only
    bool held_ = false, glides_ = false, fades_ = false, drains_ = false;
};

} // namespace loom::dsp
