// From a program to a plan. Blocks run level by level; what can run side by side at a level is put into gangs of eight.
#include "dsp/number.h"
#include "engine/graph.h"
#include "engine/schedule.h"
#include <algorithm>

namespace loom::engine {
namespace {

// At a level, lanes that already lie on one bundle stay there if at least so many do: it saves collecting them.
constexpr std::size_t worthStaying = 4;

std::size_t at(int i) {
    return static_cast<std::size_t>(i);
}

} // namespace

class Compiler {
  public:
    Compiler(const Program& p, double rate, const Resources& r, const Schedule* previous)
        : program_(p), resources_(r), previous_(previous && previous->rate_ == rate ? previous : nullptr),
          schedule_(std::make_unique<Schedule>()) {
        schedule_->rate_ = rate;
        if (previous_) // a port keeps its slot for as long as plans follow each other
        {
            schedule_->inputs_ = previous_->inputs_;
            schedule_->outputs_ = previous_->outputs_;
        }
    }

    Result<std::unique_ptr<Schedule>> run() {
        auto graph = graphOf(program_);
        if (!graph)
            return graph.error();
        if (auto error = numberPorts(*graph))
            return *error;
        std::stable_sort(graph->order.begin(), graph->order.end(), [&](int a, int b) {
            return std::pair(graph->level[at(a)], a) < std::pair(graph->level[at(b)], b);
        });
        for (std::size_t i = 0; i < graph->order.size();) {
            const int level = graph->level[at(graph->order[i])];
            for (; i < graph->order.size() && graph->level[at(graph->order[i])] == level; ++i)
                layOutBlock(at(graph->order[i]));
            layOutGangs();
        }
        schedule_->byName_ = std::move(graph->byName);
        finish();
        return std::move(schedule_);
    }

  private:
    struct Lane { // of a ganged block
        GangLane lane;
        const BlockKind* kind;
        int in, out; // buffers; out -1: none
    };
    struct Bundle { // that a step makes
        float* at;
        std::array<int, laneCount> buffers{}; // 0: that lane is empty
    };
    struct Spot { // of a buffer
        int bundle = -1, lane = 0;
        float* flat = nullptr; // a copy off its bundle
    };
    using Slots = std::array<const Lane*, laneCount>;

    // Says for every block what it is, which block of the plan before it follows, and where its buffers begin.
    std::optional<Error> numberPorts(const Graph& g) {
        auto& entries = schedule_->entries_;
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
        schedule_->places_.resize(at(buffers));
        schedule_->meterOf_.assign(at(buffers), -1);
        spots_.resize(at(buffers));
        schedule_->arriving_.assign(at(ins), -1);
        for (std::size_t t = 0; t < program_.connections.size(); ++t) {
            const auto& connection = program_.connections[t];
            const auto& [from, to] = g.connections[t];
            const auto &a = entries[at(from)], &b = entries[at(to)];
            const auto error = [&connection](const char* what, const char* remedy) {
                return Error{what, "thread " + connection.from.block + " \u2192 " + connection.to.block, remedy};
            };
            if (connection.from.port < 0 || connection.to.port < 0 || (a.kind && connection.from.port >= a.outs) ||
                (b.kind && connection.to.port >= b.ins))
                return error("a thread ends at a port that the block does not have", "Remove the thread.");
            if (!b.kind)
                continue;
            int& arriving = schedule_->arriving_[at(b.firstIn + connection.to.port)];
            if (arriving >= 0)
                return error("two threads arrive at one port", "Remove one, or mix them in a matrix mixer.");
            // What a block of unknown kind would send is silence.
            arriving = a.kind ? a.firstOut + connection.from.port : 0;
        }
        for (int& buffer : schedule_->arriving_)
            buffer = std::max(buffer, 0);
        return {};
    }
    int arriving(const Schedule::Entry& e, int port) const { return schedule_->arriving_[at(e.firstIn + port)]; }

    // -- memory --
    float* take(std::size_t floats) { // zeroed, on a 64-byte border
        if (left_ < floats) {
            const std::size_t size = std::max<std::size_t>(floats, 1 << 15);
            schedule_->memory_.push_back(std::make_unique<float[]>(size + 16));
            auto address = reinterpret_cast<std::uintptr_t>(schedule_->memory_.back().get());
            next_ = schedule_->memory_.back().get() + (64 - address % 64) % 64 / sizeof(float);
            left_ = size;
        }
        float* p = next_;
        next_ += floats;
        left_ -= floats;
        return p;
    }
    int takeMeters(int n) { return std::exchange(meters_, meters_ + n); }
    void lie(int buffer, float* p, int stride, int meter) {
        schedule_->places_[at(buffer)] = {p, stride};
        schedule_->meterOf_[at(buffer)] = meter;
    }
    int newBundle() {
        bundles_.push_back({take(dsp::bundleSize)});
        return static_cast<int>(bundles_.size()) - 1;
    }
    void lieOnBundle(int buffer, int bundle, int lane, int meter) {
        bundles_[at(bundle)].buffers[at(lane)] = buffer;
        spots_[at(buffer)].bundle = bundle;
        spots_[at(buffer)].lane = lane;
        lie(buffer, bundles_[at(bundle)].at + lane, laneCount, meter);
    }

    // -- bringing sound to where a step needs it --
    float* flat(int buffer) {
        const dsp::Strided p = schedule_->places_[at(buffer)];
        if (!p.at)
            return silence();
        if (p.stride == 1)
            return p.at;
        float*& copy = spots_[at(buffer)].flat;
        if (!copy) {
            copy = take(maxFrame);
            Schedule::Step s{Schedule::Step::Kind::loosen};
            s.index = schedule_->copies_.size();
            schedule_->copies_.push_back({p, copy});
            schedule_->steps_.push_back(s);
        }
        return copy;
    }
    float* silence() { return silence_ ? silence_ : silence_ = take(dsp::bundleSize); }

    // A bundle with these buffers as its lanes; the one they lie on already, if there is one.
    float* bundle(const int* buffers, int count) {
        int there = -1;
        bool lies = true;
        for (int l = 0; l < count; ++l) {
            const Spot& spot = spots_[at(buffers[l])];
            if (!schedule_->places_[at(buffers[l])].at)
                continue; // silence
            lies = lies && spot.bundle >= 0 && spot.lane == l && (there < 0 || there == spot.bundle);
            there = std::max(spot.bundle, 0);
        }
        if (there < 0)
            return silence();
        for (int l = 0; lies && l < count; ++l) // where there is silence the lane must be empty
            lies = schedule_->places_[at(buffers[l])].at || bundles_[at(there)].buffers[at(l)] == 0;
        if (lies)
            return bundles_[at(there)].at;
        Schedule::Collect c{{}, take(dsp::bundleSize)};
        for (int l = 0; l < count; ++l)
            c.from[l] = schedule_->places_[at(buffers[l])];
        Schedule::Step s{Schedule::Step::Kind::collect};
        s.index = schedule_->collects_.size();
        schedule_->collects_.push_back(c);
        schedule_->steps_.push_back(s);
        return c.bundle;
    }

    // -- steps --
    void layOutBlock(std::size_t i) {
        auto& entry = schedule_->entries_[i];
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
    Schedule::Step stepFrom(Schedule::Step::Kind kind, Kernel* kernel) {
        Schedule::Step s{kind, kernel};
        s.in = schedule_->pointers_.size();
        s.inCount = taken_.size();
        schedule_->pointers_.insert(schedule_->pointers_.end(), taken_.begin(), taken_.end());
        s.out = schedule_->pointers_.size();
        taken_.clear();
        return s;
    }

    void flatStep(const Schedule::Entry& entry, Kernel* kernel) {
        for (int c = 0; c < entry.ins; ++c)
            taken_.push_back(flat(arriving(entry, c)));
        auto s = stepFrom(Schedule::Step::Kind::flat, kernel);
        s.outCount = at(entry.outs);
        s.meter = at(takeMeters(entry.outs));
        for (int o = 0; o < entry.outs; ++o) {
            float* p = take(maxFrame);
            schedule_->pointers_.push_back(p);
            lie(entry.firstOut + o, p, 1, static_cast<int>(s.meter) + o);
        }
        schedule_->steps_.push_back(s);
    }

    void wideStep(const Schedule::Entry& entry, Kernel* kernel) {
        for (int c = 0; c < entry.ins; c += laneCount)
            taken_.push_back(bundle(&schedule_->arriving_[at(entry.firstIn + c)], std::min(laneCount, entry.ins - c)));
        auto s = stepFrom(Schedule::Step::Kind::wide, kernel);
        s.outCount = at((entry.outs + laneCount - 1) / laneCount);
        s.meter = at(takeMeters(static_cast<int>(s.outCount) * laneCount));
        for (int o = 0, out = -1; o < entry.outs; ++o) {
            if (o % laneCount == 0) {
                out = newBundle();
                schedule_->pointers_.push_back(bundles_[at(out)].at);
            }
            lieOnBundle(entry.firstOut + o, out, o % laneCount, static_cast<int>(s.meter) + o);
        }
        schedule_->steps_.push_back(s);
    }

    void layOutGangs() {
        std::vector<Slots> staying;
        std::vector<int> stayingOn; // their bundles
        std::vector<const Lane*> moving;
        for (auto& [family, lanes] : waiting_) {
            // Lanes that come from one bundle keep their places on it, if enough of them do; the others are collected.
            staying.clear();
            stayingOn.clear();
            moving.clear();
            staysAt_.resize(bundles_.size(), -1);
            for (const auto& lane : lanes) {
                const Spot& spot = spots_[at(lane.in)];
                if (spot.bundle < 0) {
                    moving.push_back(&lane);
                    continue;
                }
                int& where = staysAt_[at(spot.bundle)];
                if (where < 0) {
                    where = static_cast<int>(staying.size());
                    staying.push_back({});
                    stayingOn.push_back(spot.bundle);
                }
                auto& there = staying[at(where)][at(spot.lane)];
                there ? moving.push_back(&lane) : void(there = &lane);
            }
            for (std::size_t i = 0; i < staying.size(); ++i) {
                staysAt_[at(stayingOn[i])] = -1;
                const auto used = std::count_if(staying[i].begin(), staying[i].end(), [](const Lane* l) { return l; });
                if (static_cast<std::size_t>(used) >= std::min(worthStaying, lanes.size()))
                    makeGang(bundles_[at(stayingOn[i])].at, staying[i]);
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
                makeGang(bundle(buffers, laneCount), slots);
            }
            lanes.clear();
        }
    }

    void makeGang(float* in, const Slots& slots) {
        const Lane* any = *std::find_if(slots.begin(), slots.end(), [](const Lane* l) { return l; });
        const int out = newBundle();
        Schedule::Run run{any->kind->gang(), in, bundles_[at(out)].at, {}};
        Schedule::Step s{Schedule::Step::Kind::gang};
        s.index = schedule_->gangs_.size();
        s.meter = at(takeMeters(laneCount));
        std::array<GangLane, laneCount> lanes{};
        for (int l = 0; l < laneCount; ++l)
            if (const Lane* lane = slots[at(l)]) {
                lanes[at(l)] = lane->lane;
                run.kernels[at(l)] = lane->lane.kernel;
                if (lane->out >= 0) // else an end: nothing leaves it
                    lieOnBundle(lane->out, out, l, static_cast<int>(s.meter) + l);
            }
        run.gang->assign(lanes);
        schedule_->gangs_.push_back(std::move(run));
        schedule_->steps_.push_back(s);
    }

    Kernel* kernelFor(std::size_t i) {
        const Block& b = program_.blocks[i];
        auto& entry = schedule_->entries_[i];
        const auto* old = follows_[i];
        if (old && old->kind == entry.kind && old->form == entry.form && old->texts == entry.texts) {
            entry.kernel = old->kernel;
        } else {
            const auto& [shape, table, ins, outs] = *entry.form;
            entry.kernel =
                entry.kind->kernel({schedule_->rate_, shape, b.texts, &resources_}, table, fullValues(table, b));
            if (previous_)
                entry.kernel->fadeIn();
        }
        if (entry.kind->end != End::none) {
            auto& names = entry.kind->end == End::arrives ? schedule_->inputs_ : schedule_->outputs_;
            const auto port = b.texts.find("port");
            const std::string name = port == b.texts.end() || port->second.empty() ? b.id : port->second;
            const auto there = std::find(names.begin(), names.end(), name);
            schedule_->ports_.push_back(entry.kernel.get());
            schedule_->slots_.emplace_back(entry.kernel.get(), static_cast<int>(there - names.begin()));
            if (there == names.end())
                names.push_back(name);
        }
        schedule_->kernels_.push_back(entry.kernel.get());
        return entry.kernel.get();
    }

    void finish() {
        for (auto& p : schedule_->places_)
            if (!p.at)
                p = {silence(), 1};
        const auto slots = at(meters_);
        schedule_->peaks_ = std::make_unique<std::atomic<float>[]>(slots);
        schedule_->powers_ = std::make_unique<std::atomic<float>[]>(slots);
        if (previous_)
            keepMeters();
        schedule_->newPeaks_.assign(slots, 0);
        schedule_->newPowers_.assign(slots, 0);
        schedule_->awake_ = schedule_->kernels_; // room for all of them
        schedule_->awakeCount_ = schedule_->awake_.size();
    }

    // Meters of ports that go on start where they were, so that a swap does not make them flicker.
    void keepMeters() {
        for (std::size_t i = 0; i < follows_.size(); ++i) {
            const auto& entry = schedule_->entries_[i];
            for (int o = 0; follows_[i] && o < std::min(entry.outs, follows_[i]->outs); ++o) {
                const int now = schedule_->meterOf_[at(entry.firstOut + o)],
                          was = previous_->meterOf_[at(follows_[i]->firstOut + o)];
                if (now < 0 || was < 0)
                    continue;
                schedule_->peaks_[at(now)] = previous_->peaks_[at(was)].load(std::memory_order_relaxed);
                schedule_->powers_[at(now)] = previous_->powers_[at(was)].load(std::memory_order_relaxed);
            }
        }
    }

    const Program& program_;
    const Resources& resources_;
    const Schedule* previous_;
    std::unique_ptr<Schedule> schedule_;
    std::vector<const Schedule::Entry*> follows_; // by block: the same in the plan before
    std::vector<Spot> spots_;                     // by buffer
    std::vector<Bundle> bundles_;
    std::vector<float*> taken_;
    std::vector<int> staysAt_; // by bundle, for one family at a time: among those that stay; -1: none
    int meters_ = 0;
    float *next_ = nullptr, *silence_ = nullptr;
    std::size_t left_ = 0;
    std::map<std::string, std::vector<Lane>> waiting_; // for gangs of this level, by family
};

Result<std::unique_ptr<Schedule>> compile(const Program& program, double rate, const Resources& resources,
                                          const Schedule* previous) {
    if (!(rate >= 8000 && rate <= 192000))
        return Error{print("a sample rate of %g Hz cannot run", rate), "", "Use 44100, 48000 or 96000."};
    return Compiler(program, rate, resources, previous).run();
}

Result<std::vector<std::string>> runningOrder(const Program& p) {
    auto g = graphOf(p);
    if (!g)
        return g.error();
    std::vector<std::string> order;
    for (const int i : g->order)
        order.push_back(p.blocks[at(i)].id);
    return order;
}

} // namespace loom::engine
