// A first pass of all rooms: those that have nothing to do with each other are worked out beside each other, each in a
// project of only the devices whose sound can meet there, so that a large design costs no more a room than a small one.
#include "dsp/dispatch.h"
#include "patch/streams.h"
#include "talk/first_pass.h"
#include <algorithm>
#include <atomic>
#include <mutex>
#include <set>
#include <thread>

namespace loom::project {

namespace {

// Which devices lead where, by their place in the list.
class Ways {
  public:
    explicit Ways(const Project& p) : p_(p), into_(p.devices.size()), takers_(p.devices.size()) {
        std::map<std::string, std::size_t> devices;
        for (std::size_t i = 0; i < p.devices.size(); ++i)
            devices.emplace(p.devices[i].id, i);
        const auto meet = [&](const std::string& from, const std::string& to) {
            const auto a = devices.find(from), b = devices.find(to);
            if (a == devices.end() || b == devices.end())
                return;
            into_[b->second].push_back(a->second);
            takers_[a->second].push_back(b->second);
        };
        for (const auto& d : p.devices) {
            for (const auto& [port, from] : d.feeds)
                if (const auto end = readSoundEnd(from))
                    meet(end->device, d.id);
            for (const auto& [port, output] : d.outputs)
                for (const auto& load : output.loads)
                    meet(d.id, load.device);
        }
        for (const auto& t : streamThreads(p))
            meet(t.fromDevice, t.toDevice);
    }
    // What a first pass of a space looks at: what stands there or has ports that belong to it, who hears its
    // microphones, what drives its loudspeakers, and all microphones that those hear.
    std::set<std::size_t> around(const SpaceOf& of) const {
        std::set<std::size_t> all;
        for (std::size_t i = 0; i < into_.size(); ++i) {
            const auto& d = p_.devices[i];
            if (of.space.has(d.room) ||
                std::any_of(d.owners.begin(), d.owners.end(), [&](const auto& o) { return of.owns(o.second); }))
                all.insert(i);
        }
        std::vector<std::size_t> drive;
        for (const auto i : std::set(all)) {
            if (isMicrophone(i))
                all.insert(takers_[i].begin(), takers_[i].end());
            drive.push_back(i);
        }
        for (std::size_t k = 0; k < drive.size(); ++k) // back from loudspeakers over amplifiers
            if (const auto* m = p_.devices[drive[k]].spec(); m && (m->loudspeaker || m->amplifier))
                for (const auto from : into_[drive[k]])
                    if (all.insert(from).second)
                        drive.push_back(from);
        for (const auto i : std::set(all))
            for (const auto from : into_[i])
                if (isMicrophone(from))
                    all.insert(from);
        return all;
    }

  private:
    bool isMicrophone(std::size_t i) const {
        const auto* m = p_.devices[i].spec();
        return m && m->microphone;
    }
    const Project& p_;
    std::vector<std::vector<std::size_t>> into_, takers_;
};

struct Place {
    std::string key, state; // what they point to goes with each step
    std::size_t at;         // among all
};
struct Job {
    std::set<std::size_t> devices{};
    Project project{}; // of those alone
    std::vector<Place> places{};
};
struct Outcome {
    std::size_t proposals = 0, byHand = 0;
    std::vector<std::string> cannot{};
};

Outcome doFirstPass(Project& p, const Place& place, std::stop_token stop) {
    Outcome o;
    const auto space = spaceSaid(p, place.key, place.state);
    if (!space)
        return o;
    const auto pass = firstPassOf(p, *space, stop);
    std::vector<std::string> ids;
    for (const auto& one : pass.proposals)
        one.byHand ? void(++o.byHand) : ids.push_back(one.id);
    o.cannot = pass.cannot;
    if (const auto edit = takeFirstPass(pass, ids)) {
        if (auto then = edit.make(p))
            p = std::move(*then), o.proposals = ids.size();
        else
            o.cannot.push_back(then.error().text());
    }
    return o;
}

} // namespace

Result<FirstPasses> firstPassOfAll(const Project& project,
                                   const std::function<void(std::size_t, std::size_t)>& progress,
                                   std::stop_token stop) {
    const auto spaces = spacesThatTalk(project);
    // Spaces that share a device make one job.
    const Ways ways(project);
    std::vector<std::set<std::size_t>> devices;
    std::vector<std::size_t> jobOf; // of a space
    std::map<std::size_t, std::size_t> jobOfDevice;
    for (const auto& s : spaces) {
        devices.push_back(ways.around(s));
        const auto mine = jobOf.size();
        jobOf.push_back(mine);
        for (const auto i : devices.back()) {
            const auto [it, fresh] = jobOfDevice.emplace(i, mine);
            if (const auto other = jobOf[it->second]; !fresh && other != jobOf[mine])
                std::replace(jobOf.begin(), jobOf.end(), jobOf[mine], other);
        }
    }
    std::map<std::size_t, Job> jobs;
    for (std::size_t i = 0; i < spaces.size(); ++i) {
        auto& job = jobs[jobOf[i]];
        job.places.push_back({spaces[i].key(), spaces[i].state ? spaces[i].state->id : "", i});
        job.devices.insert(devices[i].begin(), devices[i].end());
    }
    std::vector<Job*> open;
    for (auto& [id, job] : jobs) {
        job.project = project;
        job.project.devices = {};
        for (const auto i : job.devices)
            job.project.devices.push_back(project.devices[i]);
        open.push_back(&job);
    }
    std::vector<Outcome> outcomes(spaces.size());
    std::mutex telling;
    std::size_t begun = 0;
    std::atomic<std::size_t> next{0};
    const auto work = [&] {
        dsp::freshRegisters();
        for (auto j = next++; j < open.size(); j = next++)
            for (const auto& place : open[j]->places) {
                if (progress) {
                    const std::lock_guard hold(telling);
                    progress(begun++, spaces.size());
                }
                if (stop.stop_requested())
                    return;
                outcomes[place.at] = doFirstPass(open[j]->project, place, stop);
            }
    };
    {
        std::vector<std::jthread> others;
        for (unsigned i = 1; i < std::clamp(std::thread::hardware_concurrency(), 1u, 16u); ++i)
            others.emplace_back(work);
        work();
    }
    if (stop.stop_requested())
        return Error{"was stopped", project.name, ""};
    FirstPasses all;
    all.after = project;
    for (const auto* job : open) {
        std::size_t at = 0;
        for (const auto i : job->devices)
            if (const auto& d = std::as_const(job->project.devices)[at++]; !(d == project.devices[i]))
                all.after.devices.change(i) = d;
    }
    for (auto& o : outcomes) {
        all.spaces += o.proposals > 0;
        all.proposals += o.proposals, all.byHand += o.byHand;
        all.cannot.insert(all.cannot.end(), o.cannot.begin(), o.cannot.end());
    }
    return all;
}

} // namespace loom::project
