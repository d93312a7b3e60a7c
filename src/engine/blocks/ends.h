// Ports of the device as blocks: where sound enters and leaves a program.
#pragma once
#include "dsp/lane_level.h"
#include "engine/blocks/common.h"
#include "engine/cable.h"
#include <utility>

namespace loom::engine {

class SourceKernel final : public Kernel {
  public:
    SourceKernel(const ParamTable& t, const std::vector<double>& v, const KernelSetup& s) : Kernel(t, v, s.rate) {
        const auto port = s.texts.find("port");
        if (s.resources && s.resources->feed && port != s.texts.end())
            feed_ = s.resources->feed(port->second, s.rate);
        if (s.resources && s.resources->arriving && port != s.texts.end())
            cable_ = s.resources->arriving(port->second);
    }
    void attachPort(int slot) override { slot_ = slot; }
    void exchange(const PortIo& io, int frames) noexcept override {
        live_ = slot_ >= 0 && io.in ? io.in[slot_] : nullptr;
        if (cable_ && reader_.read(*cable_, frame_, frames))
            live_ = frame_;
    }
    const float* live() const { return live_; }
    void addFed(dsp::Strided out, int frames) noexcept {
        const std::size_t length = feed_.clip ? feed_.clip->frames() : 0;
        for (int i = 0; i < frames && at_ < length; ++i, out.at += out.stride) {
            *out.at += feed_.clip->channels[0][at_] * static_cast<float>(feed_.gain);
            if (++at_ == length && feed_.loop)
                at_ = 0;
        }
    }

  private:
    Feed feed_;
    std::shared_ptr<Cable> cable_;
    Cable::Reader reader_;
    float frame_[maxFrame] = {};
    std::size_t at_ = 0;
    int slot_ = -1;
    const float* live_ = nullptr;
};

class SourceGang final : public Gang {
  public:
    void assign(const std::array<GangLane, laneCount>& lanes) override {
        for (std::size_t l = 0; l < laneCount; ++l)
            sources_[l] = static_cast<SourceKernel*>(lanes[l].kernel);
    }
    void process(const float*, float* out, int frames) noexcept override {
        dsp::Strided from[laneCount];
        for (std::size_t l = 0; l < laneCount; ++l)
            from[l].at = sources_[l] ? const_cast<float*>(sources_[l]->live()) : nullptr;
        dsp::gather(from, out, frames);
        dsp::cleanLanes(out, frames);
        for (std::size_t l = 0; l < laneCount; ++l)
            if (sources_[l])
                sources_[l]->addFed({out + l, laneCount}, frames);
    }

  private:
    std::array<SourceKernel*, laneCount> sources_{};
};

class DestinationKernel final : public Kernel {
  public:
    DestinationKernel(const ParamTable& t, const std::vector<double>& v, const KernelSetup& s) : Kernel(t, v, s.rate) {
        const auto port = s.texts.find("port");
        if (s.resources && s.resources->leaving && port != s.texts.end())
            cable_ = s.resources->leaving(port->second);
    }
    void attachPort(int slot) override { slot_ = slot; }
    // The frame before goes onto the cable: this one is not made yet.
    void exchange(const PortIo& io, int frames) noexcept override {
        if (cable_)
            cable_->write(frame_, std::exchange(made_, frames));
        out_ = slot_ >= 0 && io.out ? io.out[slot_] : cable_ ? frame_ : nullptr;
    }
    float* out() const { return out_; }

  private:
    std::shared_ptr<Cable> cable_;
    float frame_[maxFrame] = {};
    int made_ = 0;
    int slot_ = -1;
    float* out_ = nullptr;
};

class DestinationGang final : public Gang {
  public:
    void assign(const std::array<GangLane, laneCount>& lanes) override {
        for (std::size_t l = 0; l < laneCount; ++l)
            destinations_[l] = static_cast<DestinationKernel*>(lanes[l].kernel);
    }
    void process(const float* in, float*, int frames) noexcept override {
        float* to[laneCount];
        bool any = false;
        for (std::size_t l = 0; l < laneCount; ++l) {
            to[l] = destinations_[l] ? destinations_[l]->out() : nullptr;
            any = any || to[l];
        }
        if (any)
            dsp::scatter(in, to, frames);
    }

  private:
    std::array<DestinationKernel*, laneCount> destinations_{};
};

inline void declareEnd(BlockKind& k, bool source) {
    k.group = Group::ends;
    k.end = source ? End::arrives : End::leaves;
    k.inputs = [source](const Shape&) { return source ? 0 : 1; };
    k.outputs = [source](const Shape&) { return source ? 1 : 0; };
    k.cost = [](const Shape&, double) { return Cost{0.6, 16}; };
    k.kernel = [source](const KernelSetup& s, const ParamTable& t,
                        const std::vector<double>& v) -> std::unique_ptr<Kernel> {
        if (source)
            return std::make_unique<SourceKernel>(t, v, s);
        return std::make_unique<DestinationKernel>(t, v, s);
    };
    k.flow = Flow::ganged;
    k.family = source ? "source" : "destination";
    k.gang = [source]() -> std::unique_ptr<Gang> {
        if (source)
            return std::make_unique<SourceGang>();
        return std::make_unique<DestinationGang>();
    };
    k.glyph = Glyph::port;
}

} // namespace loom::engine
