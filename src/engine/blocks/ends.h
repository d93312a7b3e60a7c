// Ports of the device as blocks: where sound enters and leaves a program.
#pragma once
#include "engine/blocks/common.h"
#include <algorithm>

namespace loom::engine {

class SourceKernel final : public Kernel {
  public:
    SourceKernel(const ParamTable& t, const std::vector<double>& v, const KernelSetup& s) : Kernel(t, v, s.rate) {
        const auto port = s.texts.find("port");
        if (s.resources && s.resources->feed && port != s.texts.end())
            feed_ = s.resources->feed(port->second, s.rate);
    }
    void attachPort(int slot) override { slot_ = slot; }
    void exchange(const PortIo& io, int) noexcept override { io_ = io; }

  private:
    void process(Inputs, Outputs out, int frames) noexcept override {
        const float* from = slot_ >= 0 && io_.in ? io_.in[slot_] : nullptr;
        for (int i = 0; i < frames; ++i) { // a broken converter must not poison every filter behind it
            const float live = from && std::isfinite(from[i]) ? std::clamp(from[i], -1e3f, 1e3f) : 0.0f;
            out[0][i] = live + fed();
        }
    }
    float fed() {
        if (!feed_.clip || at_ >= feed_.clip->frames())
            return 0;
        const float x = feed_.clip->channels[0][at_] * static_cast<float>(feed_.gain);
        if (++at_ == feed_.clip->frames() && feed_.loop)
            at_ = 0;
        return x;
    }
    Feed feed_;
    std::size_t at_ = 0;
    int slot_ = -1;
    PortIo io_{};
};

class DestinationKernel final : public Kernel {
  public:
    using Kernel::Kernel;
    void attachPort(int slot) override { slot_ = slot; }
    void exchange(const PortIo& io, int) noexcept override { io_ = io; }

  private:
    void process(Inputs in, Outputs, int frames) noexcept override {
        if (slot_ >= 0 && io_.out && io_.out[slot_])
            std::copy_n(in[0], frames, io_.out[slot_]);
    }
    int slot_ = -1;
    PortIo io_{};
};

inline void declareEnd(BlockKind& k, bool source) {
    k.group = Group::ends;
    k.params = [](const Shape&) { return std::vector<ParamSpec>{}; };
    k.inputs = [source](const Shape&) { return source ? 0 : 1; };
    k.outputs = [source](const Shape&) { return source ? 1 : 0; };
    k.cost = [](const Shape&, double) { return Cost{0.6, 16}; };
    k.kernel = [source](const KernelSetup& s, const ParamTable& t,
                        const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        if (source)
            return std::make_unique<SourceKernel>(t, v, s);
        return std::make_unique<DestinationKernel>(t, v, s.rate);
    };
    k.glyph = Glyph::port;
    k.flat = [](const Values&) { return false; };
}

} // namespace loom::engine
