// From a program to a plan. Blocks run level by level; what can run side by side at a level is put into gangs of eight.
#include "engine/graph.h"
#include "engine/plan.h"
#include <algorithm>
#include <string_view>

namespace loom::engine {
namespace {

// At a level, lanes that already lie on one sheet stay there if at least so many do: it saves collecting them.
constexpr std::size_t worthStaying = 4;

std::size_t at(int i) {
    return static_cast<std::size_t>(i);
}

} // namespace

class Compiler {
  public:
    Compiler(const Program& p, double rate, const Resources& r, const Plan* previous)
        : program_(p), resources_(r), previous_(previous && previous->rate_ == rate ? previous : nullptr),
          plan_(std::make_unique<Plan>()) {
        plan_->rate_ = rate;
        if (previous_) // a port keeps its slot for as long as plans follow each other
            plan_->inputs_ = previous_->inputs_, plan_->outputs_ = previous_->outputs_;
    }

    Result<std::unique_ptr<Plan>> run() {
        auto graph = graphOf(program_);
        if (!graph)
            return graph.trouble();
        if (auto trouble = numberPorts(*graph))
            return *trouble;
        std::stable_sort(graph->order.begin(), graph->order.end(), [&](int a, int b) {
            return std::pair(graph->level[at(a)], a) < std::pair(graph->level[at(b)], b);
        });
        plan_->entries_.reserve(program_.blocks.size());
        for (std::size_t i = 0; i < graph->order.size();) {
            const int level = graph->level[at(graph->order[i])];
            for (; i < graph->order.size() && graph->level[at(graph->order[i])] == level; ++i)
                layOutBlock(at(graph->order[i]));
            layOutGangs();
        }
        finish();
        return std::move(plan_);
    }

  private:
    struct Info {
        const BlockKind* kind = nullptr;
        Shape shape{};
        int ins = 0, outs = 0, firstOut = 0;
        std::vector<int> arriving{}; // buffers
    };
    struct Lane { // of a ganged block
        GangLane lane;
        int in, out; // buffers; out -1: none
    };

    std::optional<Trouble> numberPorts(const Graph& g) {
        infos_.resize(program_.blocks.size());
        int buffers = 1; // 0 is silence
        for (std::size_t i = 0; i < infos_.size(); ++i) {
            const Block& b = program_.blocks[i];
            Info& info = infos_[i];
            info.kind = findKind(b.kind);
            if (info.kind) {
                info.shape = fullShape(*info.kind, b);
                info.ins = info.kind->inputs(info.shape), info.outs = info.kind->outputs(info.shape);
            } else {
                info.ins = inputsOf(program_, b), info.outs = outputsOf(program_, b);
            }
            info.firstOut = buffers;
            buffers += info.outs;
            info.arriving.assign(at(info.ins), 0);
        }
        places_.resize(at(buffers));
        meterOf_.assign(at(buffers), -1);
        std::vector<std::vector<char>> taken(infos_.size());
        for (std::size_t t = 0; t < program_.threads.size(); ++t) {
            const auto& thread = program_.threads[t];
            const auto [from, to] = g.threads[t];
            const Info &a = infos_[at(from)], &b = infos_[at(to)];
            const std::string place = "thread " + thread.from.block + " \u2192 " + thread.to.block;
            if (thread.from.port < 0 || thread.from.port >= a.outs || thread.to.port < 0 || thread.to.port >= b.ins)
                return Trouble{"a thread ends at a port that the block does not have", place, "Remove the thread."};
            auto& seen = taken[at(to)];
            seen.resize(at(b.ins), 0);
            if (seen[at(thread.to.port)])
                return Trouble{"two threads arrive at one port", place, "Remove one, or mix them in a matrix mixer."};
            seen[at(thread.to.port)] = 1;
            // What a block of unknown kind would send is silence.
            infos_[at(to)].arriving[at(thread.to.port)] = a.kind ? a.firstOut + thread.from.port : 0;
        }
        return {};
    }

    // -- memory --
    float* take(std::size_t floats) { // zeroed, on a 64-byte border
        if (left_ < floats) {
            const std::size_t size = std::max<std::size_t>(floats, 1 << 15);
            plan_->memory_.push_back(std::make_unique<float[]>(size + 16));
            auto address = reinterpret_cast<std::uintptr_t>(plan_->memory_.back().get());
            next_ = plan_->memory_.back().get() + (64 - address % 64) % 64 / sizeof(float);
            left_ = size;
        }
        float* p = next_;
        next_ += floats, left_ -= floats;
        return p;
    }
    int takeMeters(int n) { return std::exchange(meters_, meters_ + n); }
    void lie(int buffer, float* p, int stride, int meter) {
        places_[at(buffer)] = {p, stride};
        meterOf_[at(buffer)] = meter;
    }

    // -- bringing sound to where a step needs it --
    float* flat(int buffer) {
        const dsp::Place p = places_[at(buffer)];
        if (!p.at)
            return silence();
        if (p.stride == 1)
            return p.at;
        auto& copy = loose_[buffer];
        if (!copy) {
            copy = take(maxFrame);
            Plan::Step s{Plan::Step::Kind::loosen};
            s.index = plan_->copies_.size();
            plan_->copies_.push_back({p, copy});
            plan_->steps_.push_back(s);
        }
        return copy;
    }
    float* silence() { return silence_ ? silence_ : silence_ = take(dsp::sheetSize); }

    // A sheet with these buffers as its lanes; the one they lie on already, if there is one.
    float* sheet(const int* buffers, int count) {
        dsp::Place want[laneCount];
        for (int l = 0; l < count; ++l)
            want[l] = places_[at(buffers[l])];
        float* there = nullptr;
        bool lies = true, silent = true;
        for (int l = 0; l < count; ++l) {
            if (!want[l].at)
                continue; // silence: the lane must be empty
            silent = false;
            float* base = want[l].stride == laneCount ? want[l].at - l : nullptr;
            lies = lies && base && (!there || there == base) && lanesOf_.count(base);
            there = base;
        }
        if (silent)
            return silence();
        if (lies && there) {
            const auto& lanes = lanesOf_.at(there);
            for (int l = 0; l < count; ++l)
                lies = lies && (want[l].at ? lanes[at(l)] == buffers[l] : lanes[at(l)] == 0);
            if (lies)
                return there;
        }
        Plan::Collect c{{}, take(dsp::sheetSize)};
        std::copy_n(want, laneCount, c.from);
        Plan::Step s{Plan::Step::Kind::collect};
        s.index = plan_->collects_.size();
        plan_->collects_.push_back(c);
        plan_->steps_.push_back(s);
        return c.sheet;
    }

    // -- steps --
    void layOutBlock(std::size_t i) {
        const Block& b = program_.blocks[i];
        Info& info = infos_[i];
        auto& entry = plan_->entries_[b.id];
        entry.kind = info.kind, entry.shape = info.shape, entry.texts = b.texts;
        entry.firstOut = info.firstOut, entry.outs = info.outs;
        if (info.kind) {
            Kernel* kernel = kernelFor(b, info, entry);
            switch (info.kind->flow) {
            case Flow::flat:
                flatStep(info, kernel);
                break;
            case Flow::wide:
                wideStep(info, kernel);
                break;
            case Flow::ganged:
                for (int c = 0; c < std::max(info.ins, info.outs); ++c)
                    waiting_[info.kind->family].push_back(
                        {{kernel, c}, c < info.ins ? info.arriving[at(c)] : 0, c < info.outs ? info.firstOut + c : -1});
                break;
            }
        }
        entry.arriving = std::move(info.arriving);
    }

    void flatStep(const Info& info, Kernel* kernel) {
        std::vector<float*> ins;
        for (const int buffer : info.arriving)
            ins.push_back(flat(buffer));
        Plan::Step s{Plan::Step::Kind::flat, kernel};
        s.in = plan_->pointers_.size(), s.inCount = ins.size();
        plan_->pointers_.insert(plan_->pointers_.end(), ins.begin(), ins.end());
        s.out = plan_->pointers_.size(), s.outCount = at(info.outs);
        s.meter = at(takeMeters(info.outs));
        for (int o = 0; o < info.outs; ++o) {
            float* p = take(maxFrame);
            plan_->pointers_.push_back(p);
            lie(info.firstOut + o, p, 1, static_cast<int>(s.meter) + o);
        }
        plan_->steps_.push_back(s);
    }

    void wideStep(const Info& info, Kernel* kernel) {
        std::vector<float*> ins;
        for (int c = 0; c < info.ins; c += laneCount)
            ins.push_back(sheet(info.arriving.data() + c, std::min(laneCount, info.ins - c)));
        Plan::Step s{Plan::Step::Kind::wide, kernel};
        s.in = plan_->pointers_.size(), s.inCount = ins.size();
        plan_->pointers_.insert(plan_->pointers_.end(), ins.begin(), ins.end());
        s.out = plan_->pointers_.size(), s.outCount = at((info.outs + laneCount - 1) / laneCount);
        s.meter = at(takeMeters(static_cast<int>(s.outCount) * laneCount));
        for (std::size_t k = 0; k < s.outCount; ++k) {
            float* p = take(dsp::sheetSize);
            plan_->pointers_.push_back(p);
            auto& lanes = lanesOf_[p];
            for (int l = 0; l < laneCount && static_cast<int>(k) * laneCount + l < info.outs; ++l) {
                const int o = static_cast<int>(k) * laneCount + l;
                lanes[at(l)] = info.firstOut + o;
                lie(info.firstOut + o, p + l, laneCount, static_cast<int>(s.meter) + o);
            }
        }
        plan_->steps_.push_back(s);
    }

    void layOutGangs() {
        for (auto& [family, lanes] : waiting_) {
            // Lanes that come from one sheet keep their places on it, if enough of them do; the others are collected.
            std::map<float*, std::array<const Lane*, laneCount>> staying;
            std::vector<const Lane*> moving;
            for (const auto& lane : lanes) {
                const dsp::Place p = places_[at(lane.in)];
                const bool sheet = p.at && p.stride == laneCount;
                int slot = 0;
                float* base = sheet ? baseOf(lane.in, slot) : nullptr;
                auto* there = base ? &staying[base][at(slot)] : nullptr;
                there && !*there ? void(*there = &lane) : moving.push_back(&lane);
            }
            for (auto& [base, slots] : staying) {
                const auto used = std::count_if(slots.begin(), slots.end(), [](const Lane* l) { return l; });
                if (static_cast<std::size_t>(used) >= std::min(worthStaying, lanes.size()))
                    makeGang(*gangKind(slots), base, slots);
                else
                    for (const Lane* l : slots)
                        if (l)
                            moving.push_back(l);
            }
            std::sort(moving.begin(), moving.end(), [](const Lane* a, const Lane* b) { return a->out < b->out; });
            for (std::size_t i = 0; i < moving.size(); i += laneCount) {
                std::array<const Lane*, laneCount> slots{};
                int buffers[laneCount]{};
                for (std::size_t l = 0; l < laneCount && i + l < moving.size(); ++l)
                    slots[l] = moving[i + l], buffers[l] = moving[i + l]->in;
                makeGang(*gangKind(slots), sheet(buffers, laneCount), slots);
            }
        }
        waiting_.clear();
    }

    float* baseOf(int buffer, int& slot) const {
        const dsp::Place p = places_[at(buffer)];
        for (slot = 0; slot < laneCount; ++slot) {
            const auto it = lanesOf_.find(p.at - slot);
            if (it != lanesOf_.end() && it->second[at(slot)] == buffer)
                return p.at - slot;
        }
        return nullptr;
    }
    const BlockKind* gangKind(const std::array<const Lane*, laneCount>& slots) const {
        for (const Lane* l : slots)
            if (l)
                return kindOf_.at(l->lane.kernel);
        return nullptr;
    }

    void makeGang(const BlockKind& kind, float* in, const std::array<const Lane*, laneCount>& slots) {
        Plan::Run run{kind.gang(), in, take(dsp::sheetSize), {}};
        Plan::Step s{Plan::Step::Kind::gang};
        s.index = plan_->gangs_.size();
        s.meter = at(takeMeters(laneCount));
        std::array<GangLane, laneCount> lanes{};
        auto& there = lanesOf_[run.out];
        for (int l = 0; l < laneCount; ++l)
            if (const Lane* lane = slots[at(l)]) {
                lanes[at(l)] = lane->lane;
                run.kernels[at(l)] = lane->lane.kernel;
                if (lane->out < 0)
                    continue; // an end: nothing leaves it
                there[at(l)] = lane->out;
                lie(lane->out, run.out + l, laneCount, static_cast<int>(s.meter) + l);
            }
        run.gang->assign(lanes);
        plan_->gangs_.push_back(std::move(run));
        plan_->steps_.push_back(s);
    }

    Kernel* kernelFor(const Block& b, const Info& info, Plan::Entry& entry) {
        if (previous_) {
            const auto it = previous_->entries_.find(b.id);
            if (it != previous_->entries_.end() && it->second.kind == info.kind && it->second.shape == info.shape &&
                it->second.texts == b.texts)
                entry.kernel = it->second.kernel;
        }
        if (!entry.kernel) {
            const ParamTable& table = paramTable(*info.kind, info.shape);
            entry.kernel =
                info.kind->kernel({plan_->rate_, info.shape, b.texts, &resources_}, table, fullValues(table, b));
            if (previous_)
                entry.kernel->fadeIn();
        }
        if (info.kind->end != End::none) {
            auto& names = info.kind->end == End::arrives ? plan_->inputs_ : plan_->outputs_;
            const auto port = b.texts.find("port");
            const std::string name = port == b.texts.end() || port->second.empty() ? b.id : port->second;
            const auto there = std::find(names.begin(), names.end(), name);
            plan_->ports_.push_back(entry.kernel.get());
            plan_->slots_.emplace_back(entry.kernel.get(), static_cast<int>(there - names.begin()));
            if (there == names.end())
                names.push_back(name);
        }
        plan_->kernels_.push_back(entry.kernel.get());
        kindOf_[entry.kernel.get()] = info.kind;
        return entry.kernel.get();
    }

    void finish() {
        places_[0] = {silence(), 1};
        for (auto& p : places_)
            if (!p.at)
                p = places_[0];
        plan_->places_ = std::move(places_);
        plan_->meterOf_ = std::move(meterOf_);
        const auto slots = at(meters_);
        plan_->peaks_ = std::make_unique<std::atomic<float>[]>(slots);
        plan_->powers_ = std::make_unique<std::atomic<float>[]>(slots);
        if (previous_)
            keepMeters();
        plan_->newPeaks_.assign(slots, 0), plan_->newPowers_.assign(slots, 0);
        plan_->awake_ = plan_->kernels_; // room for all of them
        plan_->awakeCount_ = plan_->awake_.size();
    }

    // Meters of ports that go on start where they were, so that a swap does not make them flicker.
    void keepMeters() {
        for (const auto& [id, entry] : plan_->entries_) {
            const auto old = previous_->entries_.find(id);
            if (old == previous_->entries_.end())
                continue;
            for (int o = 0; o < std::min(entry.outs, old->second.outs); ++o) {
                const int now = plan_->meterOf_[at(entry.firstOut + o)],
                          was = previous_->meterOf_[at(old->second.firstOut + o)];
                if (now < 0 || was < 0)
                    continue;
                plan_->peaks_[at(now)] = previous_->peaks_[at(was)].load(std::memory_order_relaxed);
                plan_->powers_[at(now)] = previous_->powers_[at(was)].load(std::memory_order_relaxed);
            }
        }
    }

    const Program& program_;
    const Resources& resources_;
    const Plan* previous_;
    std::unique_ptr<Plan> plan_;
    std::vector<Info> infos_;
    std::vector<dsp::Place> places_;
    std::vector<int> meterOf_;
    int meters_ = 0;
    float *next_ = nullptr, *silence_ = nullptr;
    std::size_t left_ = 0;
    std::unordered_map<int, float*> loose_;                          // flat copies of buffers on sheets
    std::unordered_map<float*, std::array<int, laneCount>> lanesOf_; // what lies on a sheet that a step makes
    std::map<std::string, std::vector<Lane>> waiting_;               // for gangs of this level, by family
    std::unordered_map<const Kernel*, const BlockKind*> kindOf_;
};

Result<std::unique_ptr<Plan>> compile(const Program& program, double rate, const Resources& resources,
                                      const Plan* previous) {
    if (!(rate >= 8000 && rate <= 192000))
        return Trouble{"a sample rate of " + std::to_string(rate) + " Hz cannot run", "", "Use 44100, 48000 or 96000."};
    return Compiler(program, rate, resources, previous).run();
}

Result<std::vector<std::string>> runningOrder(const Program& p) {
    auto g = graphOf(p);
    if (!g)
        return g.trouble();
    std::vector<std::string> order;
    for (const int i : g->order)
        order.push_back(p.blocks[at(i)].id);
    return order;
}

} // namespace loom::engine
