// One block alone, outside any program: for loomctl, and for tests of every kind.
#pragma once
#include "engine/block_kind.h"

namespace loom::engine {

class Solo {
  public:
    // The block's kind must be known.
    Solo(const Block& block, double rate, const Resources& resources = {});
    // A frame of up to 64 samples; as many pointers as the block has inputs and outputs. Does not allocate.
    void run(Inputs in, Outputs out, int frames) noexcept;
    Kernel& kernel() { return *kernel_; }
    const BlockView& view() const { return view_; }

  private:
    void runWide(Inputs in, Outputs out, int frames) noexcept;
    Block block_;
    BlockView view_;
    std::unique_ptr<Kernel> kernel_;
    std::vector<std::unique_ptr<Gang>> gangs_;
    std::vector<std::array<float, dsp::bundleSize>> inBundles_, outBundles_;
    std::vector<const float*> inPointers_;
    std::vector<float*> outPointers_;
};

} // namespace loom::engine
