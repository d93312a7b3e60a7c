#include "engine/plan.h"
#include "dsp/dispatch.h"
#include <algorithm>
#include <cstring>
#include <unordered_map>
#if defined(__SSE2__)
#include <xmmintrin.h>
#endif

namespace loom::engine {
namespace {

constexpr std::size_t maxBlocks = 20000;

// Peak and sum of squares, four samples side by side, twice (the compiler's portable vectors of the width that every
// 64-bit machine has; wider ones are taken apart badly where they are missing).
LOOM_HOT void levelOf(const float* x, int frames, float& peak, float& power) {
    typedef float Wide __attribute__((vector_size(16)));
    Wide peaks[2]{}, powers[2]{};
    int i = 0;
    for (; i + 8 <= frames; i += 8)
        for (int half = 0; half < 2; ++half) {
            Wide v;
            std::memcpy(&v, x + i + 4 * half, sizeof v);
            const Wide size = v > -v ? v : -v;
            peaks[half] = size > peaks[half] ? size : peaks[half];
            powers[half] += v * v;
        }
    for (; i < frames; ++i) {
        peak = std::max(peak, std::abs(x[i]));
        power += x[i] * x[i];
    }
    for (int k = 0; k < 4; ++k) {
        peak = std::max({peak, peaks[0][k], peaks[1][k]});
        power += powers[0][k] + powers[1][k];
    }
}

// Denormal numbers cost a hundredfold; a fading tail must not.
class FlushDenormals {
#if defined(__SSE2__)
  public:
    FlushDenormals() : before_(_mm_getcsr()) {
        _mm_setcsr(before_ | 0x8040);
    }
    ~FlushDenormals() {
        _mm_setcsr(before_);
    }

  private:
    unsigned before_;
#endif
};

struct Graph {
    std::vector<std::vector<int>> next;
    std::vector<int> waiting;
};

Result<std::unordered_map<std::string, int>> indexBlocks(const Program& p) {
    std::unordered_map<std::string, int> index;
    if (p.blocks.size() > maxBlocks)
        return Trouble{"the program has " + std::to_string(p.blocks.size()) + " blocks", "program",
                       "Up to " + std::to_string(maxBlocks) + " are possible."};
    for (std::size_t i = 0; i < p.blocks.size(); ++i)
        if (!index.emplace(p.blocks[i].id, static_cast<int>(i)).second)
            return Trouble{"two blocks have this id", p.blocks[i].id, "Give one of them another id."};
    return index;
}

Trouble loopTrouble(const Program& p, const Graph& g) {
    int at = 0;
    while (g.waiting[at] == 0)
        ++at;
    // Walk backwards along blocks that still wait: sooner or later one comes again.
    std::vector<std::vector<int>> back(p.blocks.size());
    for (std::size_t i = 0; i < g.next.size(); ++i)
        for (const int n : g.next[i])
            back[n].push_back(static_cast<int>(i));
    std::vector<int> path, seen(p.blocks.size(), -1);
    while (seen[at] < 0) {
        seen[at] = static_cast<int>(path.size());
        path.push_back(at);
        for (const int b : back[at])
            if (g.waiting[b] > 0) {
                at = b;
                break;
            }
    }
    std::string text = p.blocks[at].id;
    for (std::size_t i = path.size(); i-- > static_cast<std::size_t>(seen[at]);)
        text += " \u2192 " + p.blocks[path[i]].id;
    return {"the threads run in a loop: " + text, p.blocks[at].id, "Remove one of these threads."};
}

} // namespace

Result<std::vector<std::string>> runningOrder(const Program& p) {
    auto index = indexBlocks(p);
    if (!index)
        return index.trouble();
    Graph g{std::vector<std::vector<int>>(p.blocks.size()), std::vector<int>(p.blocks.size(), 0)};
    for (const auto& t : p.threads) {
        const auto a = index->find(t.from.block), b = index->find(t.to.block);
        if (a == index->end() || b == index->end())
            return Trouble{"a thread names the block \"" + (a == index->end() ? t.from.block : t.to.block) +
                               "\", which is not there",
                           "thread " + t.from.block + " \u2192 " + t.to.block, "Remove the thread or add the block."};
        g.next[a->second].push_back(b->second);
        ++g.waiting[b->second];
    }
    std::vector<int> ready;
    for (std::size_t i = p.blocks.size(); i-- > 0;)
        if (g.waiting[i] == 0)
            ready.push_back(static_cast<int>(i));
    std::vector<std::string> order;
    while (!ready.empty()) {
        const int i = ready.back();
        ready.pop_back();
        order.push_back(p.blocks[i].id);
        for (const int n : g.next[i])
            if (--g.waiting[n] == 0)
                ready.push_back(n);
    }
    if (order.size() < p.blocks.size())
        return loopTrouble(p, g);
    return order;
}

class Compiler {
  public:
    Compiler(const Program& p, double rate, const Resources& r, const Plan* previous)
        : program_(p), resources_(r), previous_(previous && previous->rate_ == rate ? previous : nullptr),
          plan_(std::make_unique<Plan>()) {
        plan_->rate_ = rate;
        if (previous_) // a port keeps its slot for as long as plans follow each other
            plan_->inputs_ = previous_->inputs_, plan_->outputs_ = previous_->outputs_;
        for (const auto& b : p.blocks)
            blocks_.emplace(b.id, &b);
    }

    Result<std::unique_ptr<Plan>> run() {
        auto order = runningOrder(program_);
        if (!order)
            return order.trouble();
        plan_->order_ = *order;
        if (auto trouble = gatherThreads())
            return *trouble;
        for (const auto& id : *order)
            layOutBlock(*blocks_.at(id));
        finish();
        return std::move(plan_);
    }

  private:
    std::optional<Trouble> gatherThreads() {
        for (const auto& t : program_.threads) {
            const std::string place = "thread " + t.from.block + " \u2192 " + t.to.block;
            if (t.from.port < 0 || t.from.port >= outputsOf(program_, *blocks_.at(t.from.block)) || t.to.port < 0 ||
                t.to.port >= inputsOf(program_, *blocks_.at(t.to.block)))
                return Trouble{"a thread ends at a port that the block does not have", place, "Remove the thread."};
            if (!into_.emplace(t.to, t.from).second)
                return Trouble{"two threads arrive at one port", place, "Remove one, or mix them in a matrix mixer."};
        }
        return {};
    }

    void layOutBlock(const Block& b) {
        const int ins = inputsOf(program_, b), outs = outputsOf(program_, b);
        Plan::Step step{kernelFor(b),
                        inputs_.size(),
                        static_cast<std::size_t>(ins),
                        outs_.size(),
                        static_cast<std::size_t>(outs),
                        b.kind == "source" || b.kind == "destination"};
        for (int i = 0; i < ins; ++i) {
            const auto it = into_.find({b.id, i});
            const int buffer = it == into_.end() ? 0 : plan_->buffers_.at(it->second);
            plan_->arriving_[{b.id, i}] = buffer;
            inputs_.push_back(buffer);
        }
        for (int o = 0; o < outs; ++o) {
            const int buffer = step.kernel ? static_cast<int>(plan_->bufferCount_++) : 0;
            plan_->buffers_[{b.id, o}] = buffer;
            outs_.push_back(buffer);
        }
        if (step.kernel)
            plan_->steps_.push_back(step);
    }

    Kernel* kernelFor(const Block& b) {
        const BlockKind* kind = findKind(b.kind);
        if (!kind)
            return nullptr;
        const Shape shape = fullShape(*kind, b);
        Plan::Entry entry{b.kind, shape, b.texts, nullptr};
        if (previous_) {
            const auto it = previous_->entries_.find(b.id);
            if (it != previous_->entries_.end() && it->second.kind == b.kind && it->second.shape == shape &&
                it->second.texts == b.texts)
                entry.kernel = it->second.kernel;
        }
        if (!entry.kernel) {
            const ParamTable& table = paramTable(*kind, shape);
            entry.kernel = kind->kernel({plan_->rate_, shape, b.texts, &resources_}, table, fullValues(table, b));
            if (previous_)
                entry.kernel->fadeIn();
        }
        if (b.kind == "source" || b.kind == "destination") {
            auto& names = b.kind == "source" ? plan_->inputs_ : plan_->outputs_;
            const auto port = b.texts.find("port");
            const std::string name = port == b.texts.end() || port->second.empty() ? b.id : port->second;
            const auto at = std::find(names.begin(), names.end(), name);
            slots_.emplace_back(entry.kernel.get(), static_cast<int>(at - names.begin()));
            if (at == names.end())
                names.push_back(name);
        }
        return plan_->entries_.emplace(b.id, std::move(entry)).first->second.kernel.get();
    }

    void finish() {
        plan_->samples_.assign(plan_->bufferCount_ * maxFrame, 0.0f);
        plan_->meters_ = std::make_unique<Plan::Meter[]>(plan_->bufferCount_);
        // Meters of buffers that go on start where they were, so that a swap does not make them flicker.
        if (previous_)
            for (const auto& [port, buffer] : plan_->buffers_) {
                const int old = previous_->bufferOf(port);
                if (old > 0) {
                    plan_->meters_[buffer].peak = previous_->meters_[old].peak.load(std::memory_order_relaxed);
                    plan_->meters_[buffer].power = previous_->meters_[old].power.load(std::memory_order_relaxed);
                }
            }
        const std::size_t shift = inputs_.size();
        for (const int b : inputs_)
            plan_->pointers_.push_back(plan_->samples_.data() + static_cast<std::size_t>(b) * maxFrame);
        for (const int b : outs_)
            plan_->pointers_.push_back(plan_->samples_.data() + static_cast<std::size_t>(b) * maxFrame);
        for (auto& s : plan_->steps_)
            s.out += shift;
        const double frame = maxFrame / plan_->rate_;
        plan_->peakDecay_ = static_cast<float>(dsp::gainFromDb(-20.0 / 1.7 * frame));
        plan_->powerPull_ = static_cast<float>(1.0 - std::exp(-frame / 0.125));
        plan_->slots_ = std::move(slots_);
    }

    const Program& program_;
    const Resources& resources_;
    const Plan* previous_;
    std::unique_ptr<Plan> plan_;
    std::unordered_map<std::string, const Block*> blocks_;
    std::map<PortRef, PortRef> into_;
    std::vector<int> inputs_, outs_;
    std::vector<std::pair<Kernel*, int>> slots_;
};

Result<std::unique_ptr<Plan>> compile(const Program& program, double rate, const Resources& resources,
                                      const Plan* previous) {
    if (!(rate >= 8000 && rate <= 192000))
        return Trouble{"a sample rate of " + std::to_string(rate) + " Hz cannot run", "", "Use 44100, 48000 or 96000."};
    return Compiler(program, rate, resources, previous).run();
}

int Plan::bufferOf(const PortRef& port) const {
    if (const auto it = buffers_.find(port); it != buffers_.end())
        return it->second;
    const auto entry = entries_.find(port.block);
    if (entry == entries_.end())
        return -1;
    const auto it = arriving_.find(port); // a block without outputs is listened to at what arrives
    return it == arriving_.end() ? -1 : it->second;
}

MeterReading Plan::meter(int buffer) const {
    if (buffer <= 0 || buffer >= static_cast<int>(bufferCount_))
        return {};
    return {dsp::dbFromGain(meters_[buffer].peak.load(std::memory_order_relaxed)),
            dsp::dbFromPower(meters_[buffer].power.load(std::memory_order_relaxed))};
}

std::shared_ptr<Kernel> Plan::kernel(const std::string& block) const {
    const auto it = entries_.find(block);
    return it == entries_.end() ? nullptr : it->second.kernel;
}

void Plan::process(const PortIo& io, int frames) noexcept {
    const FlushDenormals flush;
    if (freshSlots_)
        for (const auto& [kernel, slot] : slots_)
            kernel->attachPort(slot);
    freshSlots_ = false;
    for (const Step& s : steps_) {
        if (s.port)
            s.kernel->exchange(io, frames);
        s.kernel->run({pointers_.data() + s.in, s.inCount}, {pointers_.data() + s.out, s.outCount}, frames);
    }
    measure(frames);
}

void Plan::measure(int frames) noexcept {
    for (std::size_t b = 1; b < bufferCount_; ++b) {
        const float* x = samples_.data() + b * maxFrame;
        float peak = 0, power = 0;
        levelOf(x, frames, peak, power);
        Meter& m = meters_[b];
        const float held = m.peak.load(std::memory_order_relaxed) * peakDecay_;
        m.peak.store(std::max(peak, held), std::memory_order_relaxed);
        const float was = m.power.load(std::memory_order_relaxed);
        m.power.store(was + powerPull_ * (power / static_cast<float>(frames) - was), std::memory_order_relaxed);
    }
}

} // namespace loom::engine
