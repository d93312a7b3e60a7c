// Eight cascades side by side in registers.
#pragma once
#include "dsp/cascade.h"
#include "dsp/lanes.h"

namespace loom::dsp {

// Runs up to eight Cascades at once. They stay the owners of their coefficients and states, which are brought together
// here: coefficients when they change, states every frame. Nothing here allocates.
class LaneCascade {
  public:
    void assign(int lane, Cascade* cascade) { lanes_[static_cast<std::size_t>(lane)] = cascade; }
    // in and out: sheets; they may be the same. Lanes without a cascade come out silent.
    void process(const float* in, float* out, int frames);

  private:
    struct alignas(64) Row { // one section of every lane
        double b0[laneCount], b1[laneCount], b2[laneCount], a1[laneCount], a2[laneCount];
    };
    struct alignas(64) RowState {
        double z1[laneCount], z2[laneCount];
    };
    friend struct LaneCascadeLoops;
    void pack(int lane);

    std::array<Cascade*, laneCount> lanes_{};
    std::array<unsigned, laneCount> seen_{};
    std::array<std::array<signed char, Cascade::maxSections>, laneCount> index_{}; // section in row r; -1: none
    std::array<int, laneCount> used_{};
    std::array<Row, Cascade::maxSections> rows_{}, steps_{};
    std::array<RowState, Cascade::maxSections> states_{};
    int count_ = 0;
    bool packed_ = false;
};

} // namespace loom::dsp
