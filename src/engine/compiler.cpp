// From a program to a plan. Blocks run level by level; what can run side by side at a level is put into gangs of eight.
#include "dsp/number.h"
#include "engine/graph.h"
#include "engine/plan.h"
#include <algorithm>

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
        {
            plan_->inputs_ = previous_->inputs_;
            plan_->outputs_ = previous_->outputs_;
        }
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
        for (std::size_t i = 0; i < graph->order.size();) {
            const int level = graph->level[at(graph->order[i])];
            for (; i < graph->order.size() && graph->level[at(graph->order[i])] == level; ++i)
                layOutBlock(at(graph->order[i]));
            layOutGangs();
        }
        plan_->byName_ = std::move(graph->byName);
        finish();
        return std::move(plan_);
    }

  private:
    struct Lane { // of a ganged block
        GangLane lane;
        const BlockKind* kind;
        int in, out; // buffers; out -1: none
    };
    struct Sheet { // that a step makes
        float* at;
        std::array<int, laneCount> buffers{}; // 0: that lane is empty
    };
    struct Spot { // of a buffer
        int sheet = -1, lane = 0;
        float* flat = nullptr; // a copy off its sheet
    };
    using Slots = std::array<const Lane*, laneCount>;

    // Says for every block what it is, which block of the plan before it follows, and where its buffers begin.
    std::optional<Trouble> numberPorts(const Graph& g) {
        auto& entries = plan_->entries_;
        entries.resize(program_.blocks.size());
        follows_.assign(entries.size(), nullptr);
        int buffers = 1, ins = 0; // buffer 0 is silence
        std::size_t walk = 0;
        for (std::size_t i = 0; i < entries.size(); ++i) {
            const Block& b = program_.blocks[i];
            auto& e = entries[i];
            e.id = b.id;
            e.kind = findKind(b.kind);
            e.texts = b.texts;
            if (!e.kind)
                continue; // silent, whatever its ports
            e.asked = b.shape;
            const int number = previous_ ? previous_->numberOf(b.id, walk) : -1;
            const auto* old = number < 0 ? nullptr : &previous_->entries_[at(number)];
            follows_[i] = old;
            e.form = old && old->kind == e.kind && old->asked == e.asked ? old->form
                                                                         : &formOf(*e.kind, fullShape(*e.kind, b));
            e.ins = e.form->ins;
            e.outs = e.form->outs;
            e.firstIn = std::exchange(ins, ins + e.ins);
            e.firstOut = std::exchange(buffers, buffers + e.outs);
        }
        plan_->places_.resize(at(buffers));
        plan_->meterOf_.assign(at(buffers), -1);
        spots_.resize(at(buffers));
        plan_->arriving_.assign(at(ins), -1);
        for (std::size_t t = 0; t < program_.threads.size(); ++t) {
            const auto& thread = program_.threads[t];
            const auto& [from, to] = g.threads[t];
            const auto &a = entries[at(from)], &b = entries[at(to)];
            const auto trouble = [&thread](const char* what, const char* remedy) {
                return Trouble{what, "thread " + thread.from.block + " \u2192 " + thread.to.block, remedy};
            };
            if (thread.from.port < 0 || thread.to.port < 0 || (a.kind && thread.from.port >= a.outs) ||
                (b.kind && thread.to.port >= b.ins))
                return trouble("a thread ends at a port that the block does not have", "Remove the thread.");
            if (!b.kind)
                continue;
            int& arriving = plan_->arriving_[at(b.firstIn + thread.to.port)];
            if (arriving >= 0)
                return trouble("two threads arrive at one port", "Remove one, or mix them in a matrix mixer.");
            // What a block of unknown kind would send is silence.
            arriving = a.kind ? a.firstOut + thread.from.port : 0;
        }
        for (int& buffer : plan_->arriving_)
            buffer = std::max(buffer, 0);
        return {};
    }
    int arriving(const Plan::Entry& e, int port) const { return plan_->arriving_[at(e.firstIn + port)]; }

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
        next_ += floats;
        left_ -= floats;
        return p;
    }
    int takeMeters(int n) { return std::exchange(meters_, meters_ + n); }
    void lie(int buffer, float* p, int stride, int meter) {
        plan_->places_[at(buffer)] = {p, stride};
        plan_->meterOf_[at(buffer)] = meter;
    }
    int newSheet() {
        sheets_.push_back({take(dsp::sheetSize)});
        return static_cast<int>(sheets_.size()) - 1;
    }
    void lieOnSheet(int buffer, int sheet, int lane, int meter) {
        sheets_[at(sheet)].buffers[at(lane)] = buffer;
        spots_[at(buffer)].sheet = sheet;
        spots_[at(buffer)].lane = lane;
        lie(buffer, sheets_[at(sheet)].at + lane, laneCount, meter);
    }

    // -- bringing sound to where a step needs it --
    float* flat(int buffer) {
        const dsp::Place p = plan_->places_[at(buffer)];
        if (!p.at)
            return silence();
        if (p.stride == 1)
            return p.at;
        float*& copy = spots_[at(buffer)].flat;
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
        int there = -1;
        bool lies = true;
        for (int l = 0; l < count; ++l) {
            const Spot& spot = spots_[at(buffers[l])];
            if (!plan_->places_[at(buffers[l])].at)
                continue; // silence
            lies = lies && spot.sheet >= 0 && spot.lane == l && (there < 0 || there == spot.sheet);
            there = std::max(spot.sheet, 0);
        }
        if (there < 0)
            return silence();
        for (int l = 0; lies && l < count; ++l) // where there is silence the lane must be empty
            lies = plan_->places_[at(buffers[l])].at || sheets_[at(there)].buffers[at(l)] == 0;
        if (lies)
            return sheets_[at(there)].at;
        Plan::Collect c{{}, take(dsp::sheetSize)};
        for (int l = 0; l < count; ++l)
            c.from[l] = plan_->places_[at(buffers[l])];
        Plan::Step s{Plan::Step::Kind::collect};
        s.index = plan_->collects_.size();
        plan_->collects_.push_back(c);
        plan_->steps_.push_back(s);
        return c.sheet;
    }

    // -- steps --
    void layOutBlock(std::size_t i) {
        auto& entry = plan_->entries_[i];
        if (!entry.kind)
            return;
        Kernel* kernel = kernelFor(i);
        switch (entry.kind->flow) {
        case Flow::flat:
            return flatStep(entry, kernel);
        case Flow::wide:
            return wideStep(entry, kernel);
        case Flow::ganged:
            break;
        }
        auto& family = waiting_[entry.kind->family];
        for (int c = 0; c < std::max(entry.ins, entry.outs); ++c)
            family.push_back({{kernel, c},
                              entry.kind,
                              c < entry.ins ? arriving(entry, c) : 0,
                              c < entry.outs ? entry.firstOut + c : -1});
    }

    // A step's pointers lie side by side: first what it takes, then what it makes.
    Plan::Step stepFrom(Plan::Step::Kind kind, Kernel* kernel) {
        Plan::Step s{kind, kernel};
        s.in = plan_->pointers_.size();
        s.inCount = taken_.size();
        plan_->pointers_.insert(plan_->pointers_.end(), taken_.begin(), taken_.end());
        s.out = plan_->pointers_.size();
        taken_.clear();
        return s;
    }

    void flatStep(const Plan::Entry& entry, Kernel* kernel) {
        for (int c = 0; c < entry.ins; ++c)
            taken_.push_back(flat(arriving(entry, c)));
        auto s = stepFrom(Plan::Step::Kind::flat, kernel);
        s.outCount = at(entry.outs);
        s.meter = at(takeMeters(entry.outs));
        for (int o = 0; o < entry.outs; ++o) {
            float* p = take(maxFrame);
            plan_->pointers_.push_back(p);
            lie(entry.firstOut + o, p, 1, static_cast<int>(s.meter) + o);
        }
        plan_->steps_.push_back(s);
    }

    void wideStep(const Plan::Entry& entry, Kernel* kernel) {
        for (int c = 0; c < entry.ins; c += laneCount)
            taken_.push_back(sheet(&plan_->arriving_[at(entry.firstIn + c)], std::min(laneCount, entry.ins - c)));
        auto s = stepFrom(Plan::Step::Kind::wide, kernel);
        s.outCount = at((entry.outs + laneCount - 1) / laneCount);
        s.meter = at(takeMeters(static_cast<int>(s.outCount) * laneCount));
        for (int o = 0, out = -1; o < entry.outs; ++o) {
            if (o % laneCount == 0) {
                out = newSheet();
                plan_->pointers_.push_back(sheets_[at(out)].at);
            }
            lieOnSheet(entry.firstOut + o, out, o % laneCount, static_cast<int>(s.meter) + o);
        }
        plan_->steps_.push_back(s);
    }

    void layOutGangs() {
        std::vector<Slots> staying;
        std::vector<int> stayingOn; // their sheets
        std::vector<const Lane*> moving;
        for (auto& [family, lanes] : waiting_) {
            // Lanes that come from one sheet keep their places on it, if enough of them do; the others are collected.
            staying.clear();
            stayingOn.clear();
            moving.clear();
            staysAt_.resize(sheets_.size(), -1);
            for (const auto& lane : lanes) {
                const Spot& spot = spots_[at(lane.in)];
                if (spot.sheet < 0) {
                    moving.push_back(&lane);
                    continue;
                }
                int& where = staysAt_[at(spot.sheet)];
                if (where < 0) {
                    where = static_cast<int>(staying.size());
                    staying.push_back({});
                    stayingOn.push_back(spot.sheet);
                }
                auto& there = staying[at(where)][at(spot.lane)];
                there ? moving.push_back(&lane) : void(there = &lane);
            }
            for (std::size_t i = 0; i < staying.size(); ++i) {
                staysAt_[at(stayingOn[i])] = -1;
                const auto used = std::count_if(staying[i].begin(), staying[i].end(), [](const Lane* l) { return l; });
                if (static_cast<std::size_t>(used) >= std::min(worthStaying, lanes.size()))
                    makeGang(sheets_[at(stayingOn[i])].at, staying[i]);
                else
                    std::copy_if(staying[i].begin(), staying[i].end(), std::back_inserter(moving),
                                 [](const Lane* l) { return l; });
            }
            std::sort(moving.begin(), moving.end(), [](const Lane* a, const Lane* b) { return a->out < b->out; });
            for (std::size_t i = 0; i < moving.size(); i += laneCount) {
                Slots slots{};
                int buffers[laneCount]{};
                for (std::size_t l = 0; l < laneCount && i + l < moving.size(); ++l) {
                    slots[l] = moving[i + l];
                    buffers[l] = moving[i + l]->in;
                }
                makeGang(sheet(buffers, laneCount), slots);
            }
            lanes.clear();
        }
    }

    void makeGang(float* in, const Slots& slots) {
        const Lane* any = *std::find_if(slots.begin(), slots.end(), [](const Lane* l) { return l; });
        const int out = newSheet();
        Plan::Run run{any->kind->gang(), in, sheets_[at(out)].at, {}};
        Plan::Step s{Plan::Step::Kind::gang};
        s.index = plan_->gangs_.size();
        s.meter = at(takeMeters(laneCount));
        std::array<GangLane, laneCount> lanes{};
        for (int l = 0; l < laneCount; ++l)
            if (const Lane* lane = slots[at(l)]) {
                lanes[at(l)] = lane->lane;
                run.kernels[at(l)] = lane->lane.kernel;
                if (lane->out >= 0) // else an end: nothing leaves it
                    lieOnSheet(lane->out, out, l, static_cast<int>(s.meter) + l);
            }
        run.gang->assign(lanes);
        plan_->gangs_.push_back(std::move(run));
        plan_->steps_.push_back(s);
    }

    Kernel* kernelFor(std::size_t i) {
        const Block& b = program_.blocks[i];
        auto& entry = plan_->entries_[i];
        const auto* old = follows_[i];
        if (old && old->kind == entry.kind && old->form == entry.form && old->texts == entry.texts) {
            entry.kernel = old->kernel;
        } else {
            const auto& [shape, table, ins, outs] = *entry.form;
            entry.kernel = entry.kind->kernel({plan_->rate_, shape, b.texts, &resources_}, table, fullValues(table, b));
            if (previous_)
                entry.kernel->fadeIn();
        }
        if (entry.kind->end != End::none) {
            auto& names = entry.kind->end == End::arrives ? plan_->inputs_ : plan_->outputs_;
            const auto port = b.texts.find("port");
            const std::string name = port == b.texts.end() || port->second.empty() ? b.id : port->second;
            const auto there = std::find(names.begin(), names.end(), name);
            plan_->ports_.push_back(entry.kernel.get());
            plan_->slots_.emplace_back(entry.kernel.get(), static_cast<int>(there - names.begin()));
            if (there == names.end())
                names.push_back(name);
        }
        plan_->kernels_.push_back(entry.kernel.get());
        return entry.kernel.get();
    }

    void finish() {
        for (auto& p : plan_->places_)
            if (!p.at)
                p = {silence(), 1};
        const auto slots = at(meters_);
        plan_->peaks_ = std::make_unique<std::atomic<float>[]>(slots);
        plan_->powers_ = std::make_unique<std::atomic<float>[]>(slots);
        if (previous_)
            keepMeters();
        plan_->newPeaks_.assign(slots, 0);
        plan_->newPowers_.assign(slots, 0);
        plan_->awake_ = plan_->kernels_; // room for all of them
        plan_->awakeCount_ = plan_->awake_.size();
    }

    // Meters of ports that go on start where they were, so that a swap does not make them flicker.
    void keepMeters() {
        for (std::size_t i = 0; i < follows_.size(); ++i) {
            const auto& entry = plan_->entries_[i];
            for (int o = 0; follows_[i] && o < std::min(entry.outs, follows_[i]->outs); ++o) {
                const int now = plan_->meterOf_[at(entry.firstOut + o)],
                          was = previous_->meterOf_[at(follows_[i]->firstOut + o)];
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
    std::vector<const Plan::Entry*> follows_; // by block: the same in the plan before
    std::vector<Spot> spots_;                 // by buffer
    std::vector<Sheet> sheets_;
    std::vector<float*> taken_;
    std::vector<int> staysAt_; // by sheet, for one family at a time: among those that stay; -1: none
    int meters_ = 0;
    float *next_ = nullptr, *silence_ = nullptr;
    std::size_t left_ = 0;
    std::map<std::string, std::vector<Lane>> waiting_; // for gangs of this level, by family
};

Result<std::unique_ptr<Plan>> compile(const Program& program, double rate, const Resources& resources,
                                      const Plan* previous) {
    if (!(rate >= 8000 && rate <= 192000))
        return Trouble{print("a sample rate of %g Hz cannot run", rate), "", "Use 44100, 48000 or 96000."};
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
