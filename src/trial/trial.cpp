#include "trial/trial.h"
#include "patch/delays.h"
#include "program/render.h"
#include <algorithm>
#include <set>

namespace loom::project {

namespace {

constexpr double networkMs = 2; // where the wiring does not say it

// Devices with a program that lie on a way from the room or the ends to the room or the ends.
std::set<std::string> takingPart(const Project& p, const std::vector<Lead>& leads, const std::set<std::string>& begin,
                                 const std::set<std::string>& end) {
    const auto reach = [&](std::set<std::string> all, bool forward) {
        for (bool grew = true; grew;) {
            grew = false;
            for (const auto& l : leads) {
                const auto& from = forward ? l.from.device : l.to.device;
                const auto& to = forward ? l.to.device : l.from.device;
                if (all.count(from) && all.insert(to).second)
                    grew = true;
            }
        }
        return all;
    };
    const auto after = reach(begin, true), before = reach(end, false);
    std::set<std::string> both;
    for (const auto& d : p.devices)
        if (d.program && after.count(d.id) && before.count(d.id))
            both.insert(d.id);
    return both;
}

} // namespace

// A device whose program runs.
struct Trial::Machine {
    std::string device;
    engine::Runner runner;
    std::vector<std::vector<float>> in, out; // by port of the schedule
    std::vector<const float*> ins;
    std::vector<float*> outs;
    Machine(const Project& p, const Device& d) : device(d.id), runner(d.rate, resourcesOf(p, d, false)) {}
    int at(const std::vector<std::string>& ports, const std::string& port) const {
        const auto it = std::find(ports.begin(), ports.end(), port);
        return it == ports.end() ? -1 : static_cast<int>(it - ports.begin());
    }
    std::vector<float>* input(const std::string& port) {
        const int i = at(runner.schedule()->inputs(), port);
        return i < 0 ? nullptr : &in[static_cast<std::size_t>(i)];
    }
    const std::vector<float>* output(const std::string& port) const {
        const int i = at(runner.schedule()->outputs(), port);
        return i < 0 ? nullptr : &out[static_cast<std::size_t>(i)];
    }
};

// A lead, or a microphone's cable: sound that comes to an input a while after it left.
struct Trial::Way {
    const float* from;
    std::vector<float>* to;
    float gain;
    std::vector<float> held; // a ring of what is on its way
    std::size_t place = 0;
};

Trial::Trial() = default;
Trial::~Trial() = default;

Result<std::unique_ptr<Trial>> Trial::make(const Project& p, std::shared_ptr<const RoomSound> room,
                                           const std::vector<SoundEnd>& ends) {
    std::unique_ptr<Trial> t(new Trial);
    t->room_ = std::move(room);
    const auto& r = *t->room_;
    const auto leads = leadsOf(p);
    std::set<std::string> here;
    for (const auto& e : ends)
        here.insert(e.device);
    auto begin = here, end = here;
    for (const auto& target : r.targets)
        begin.insert(target.end.device);
    for (const auto& s : r.sources)
        if (!s.from.device.empty())
            end.insert(s.from.device);
    const auto parts = takingPart(p, leads, begin, end);
    for (const auto& id : parts) {
        const auto& d = *p.device(id);
        if (d.rate != rate)
            return Error{"does not run at 48 kHz", d.name, "A room is run with devices of one rate."};
        auto m = std::make_unique<Machine>(p, d);
        if (auto loaded = m->runner.load(*d.program); !loaded)
            return Error{loaded.error().message, d.name + ": " + loaded.error().place, loaded.error().remedy};
        m->in.assign(m->runner.schedule()->inputs().size(), std::vector<float>(block, 0.0f));
        m->out.assign(m->runner.schedule()->outputs().size(), std::vector<float>(block, 0.0f));
        for (auto& v : m->in)
            m->ins.push_back(v.data());
        for (auto& v : m->out)
            m->outs.push_back(v.data());
        t->machines_.push_back(std::move(m));
    }

    const auto inputOf = [&](const SoundEnd& e) -> std::vector<float>* {
        auto* m = t->machine(e.device);
        return m ? m->input(e.port) : nullptr;
    };
    const auto patched = patchedOf(p);
    const auto wired = wiredOf(p, patched);
    const auto lateOf = [&](const Lead& l) { // samples
        double ms = networkMs;
        for (const auto& d : wired.deliveries) {
            const auto& offer = patched.offers[d.offer];
            const auto& hearing = patched.hearings[d.hearing];
            if (offer.device->id == l.from.device && hearing.device->id == l.to.device &&
                std::find(offer.stream->ports.begin(), offer.stream->ports.end(), l.from.port) !=
                    offer.stream->ports.end())
                ms = delayOf(p, patched, wired, d).total();
        }
        return static_cast<std::size_t>(std::clamp(ms, 0.0, 1000.0) * rate / 1000);
    };
    const auto addWay = [&](const float* from, std::vector<float>* to, double gain, std::size_t late) {
        if (!from || !to)
            return;
        Way w{from, to, static_cast<float>(gain), {}};
        w.held.assign(std::max<std::size_t>(late > block ? late - block : 0, 0) + block,
                      0.0f); // a block is late anyway
        t->ways_.push_back(std::move(w));
    };
    t->ears_.assign(r.targets.size(), std::vector<float>(block, 0.0f));
    t->given_.assign(r.targets.size(), nullptr);
    for (std::size_t i = 0; i < r.targets.size(); ++i)
        if (auto* to = inputOf(r.targets[i].end))
            addWay(t->ears_[i].data(), to, 1, 0); // at the end of a cable
    for (const auto& l : leads) {
        const float* from = t->left(l.from);
        for (std::size_t i = 0; i < r.targets.size() && !from; ++i) // an array's output
            if (r.targets[i].end == l.from)
                from = t->ears_[i].data();
        addWay(from, inputOf(l.to), l.gain, l.network ? lateOf(l) : 0);
    }
    t->alike_ = r.firstAlike();
    for (std::size_t e = 0; e < r.targets.size(); ++e)
        if (t->alike_[e] == e)
            t->heard_.push_back(e);
    t->air_ = std::make_unique<dsp::LongMatrix>(r.sources.size(), t->heard_.size(), block);
    t->driven_.assign(r.sources.size(), std::vector<float>(block, 0.0f));
    for (std::size_t s = 0; s < r.sources.size(); ++s) {
        t->fromSource_.push_back(r.sources[s].from.device.empty() ? nullptr : t->left(r.sources[s].from));
        for (std::size_t e = 0; e < t->heard_.size() && t->fromSource_.back(); ++e)
            t->air_->set(s, e, r.response(s, t->heard_[e]));
    }
    return t;
}

void Trial::feed(const SoundEnd& input, const float* samples) {
    if (auto* m = machine(input.device))
        if (auto* to = m->input(input.port))
            samples ? void(std::copy_n(samples, block, to->data())) : void(std::fill_n(to->data(), block, 0.0f));
}

// What left in the block before is brought to where it goes; microphones hear the loudspeakers.
void Trial::carry() {
    std::vector<const float*> played(driven_.size(), nullptr);
    for (std::size_t s = 0; s < driven_.size(); ++s)
        if (fromSource_[s]) {
            const auto most = static_cast<float>(room_->sources[s].most);
            for (int i = 0; i < block; ++i)
                driven_[s][static_cast<std::size_t>(i)] = std::clamp(fromSource_[s][i], -most, most);
            played[s] = driven_[s].data();
        }
    std::vector<float*> out;
    for (const auto e : heard_)
        out.push_back(ears_[e].data());
    air_->process(played.data(), out.data());
    for (std::size_t t = 0; t < ears_.size(); ++t)
        if (alike_[t] != t)
            std::copy(ears_[alike_[t]].begin(), ears_[alike_[t]].end(), ears_[t].begin());
    for (std::size_t t = 0; t < ears_.size(); ++t)
        if (given_[t])
            for (std::size_t i = 0; i < static_cast<std::size_t>(block); ++i)
                ears_[t][i] += given_[t][i];
    for (auto& w : ways_)
        for (std::size_t i = 0; i < static_cast<std::size_t>(block); ++i) {
            w.held[w.place] = w.from[i] * w.gain;
            w.place = w.place + 1 == w.held.size() ? 0 : w.place + 1;
        }
    // Several ways may lead to one input; what was fed from outside stays where none does.
    std::set<std::vector<float>*> cleared;
    for (auto& w : ways_) {
        if (cleared.insert(w.to).second)
            std::fill(w.to->begin(), w.to->end(), 0.0f);
        // The oldest block of the ring.
        std::size_t at = w.place;
        for (std::size_t i = 0; i < static_cast<std::size_t>(block); ++i) {
            (*w.to)[i] += w.held[at];
            at = at + 1 == w.held.size() ? 0 : at + 1;
        }
    }
}

void Trial::step() {
    carry();
    for (auto& m : machines_) {
        m->runner.tend();
        m->runner.process({m->ins.data(), m->outs.data()}, block);
    }
}

const float* Trial::left(const SoundEnd& output) const {
    const auto* m = machine(output.device);
    const auto* out = m ? m->output(output.port) : nullptr;
    return out ? out->data() : nullptr;
}

engine::Runner* Trial::runner(const std::string& device) const {
    auto* m = machine(device);
    return m ? &m->runner : nullptr;
}

Trial::Machine* Trial::machine(const std::string& device) const {
    for (const auto& m : machines_)
        if (m->device == device)
            return m.get();
    return nullptr;
}

} // namespace loom::project
