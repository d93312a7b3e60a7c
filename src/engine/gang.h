// Channels of several blocks of one family, run side by side.
#pragma once
#include "engine/kernel.h"

namespace loom::engine {

struct GangLane {
    Kernel* kernel = nullptr; // null: nothing runs there, its output is never read
    int channel = 0;
};

// Belongs to one plan. What sounds on belongs to the kernels, so that a block keeps its sound whatever gang it comes to
// lie in; a gang may hold it while it runs and gives it back at release(). Kernels were advanced before.
class Gang {
  public:
    virtual ~Gang() = default;
    virtual void assign(const std::array<GangLane, laneCount>& lanes) = 0;
    virtual void release() noexcept {} // another plan goes on with the kernels
    // Bundles; in and out differ. No allocation, no lock.
    virtual void process(const float* in, float* out, int frames) noexcept = 0;
};

} // namespace loom::engine
