// A first pass at work on one space, step by step; private to it.
#pragma once
#include "model/block_names.h"
#include "talk/by_hand.h"
#include "talk/lane_way.h"
#include "talk/mixes.h"
#include "talk/proposal.h"

namespace loom::project::first {

inline constexpr double enough = 1;      // dB by which a level may differ
inline constexpr double nominalDb = -20; // of speech at a preamplifier's output, dBFS, A-weighted
using Listener = Conversation::Listener;

std::string figure(double v, int digits = 1); // as people read it
std::string count(std::size_t n, const char* what);

class Work {
  public:
    Work(const Project& p, const SpaceOf& of, std::stop_token stop)
        : p_(p), key_(of.key()), state_(of.state ? of.state->id : ""), model_(modelOf(p, of.space, of.state)),
          stop_(stop) {
        pass_.space = key_, pass_.state = state_, pass_.name = of.space.name;
    }
    FirstPass run();

  private:
    // What is there now, in the project with all that was proposed so far.
    Conversation talk() const { return conversationOf(p_, *spaceSaid(p_, key_, state_)); }
    // Proposes it if it changes anything. What cannot be done is told.
    void propose(Proposal one) {
        auto then = one.apply(p_);
        if (!then)
            return pass_.cannot.push_back(then.error().text());
        if (!one.byHand)
            p_ = std::move(*then);
        pass_.proposals.push_back(std::move(one));
    }
    using Change = std::function<Result<Program>(const Project&, const Device&)>;
    static std::function<Result<Project>(Project)> inProgram(const std::string& device, Change change) {
        return [device, change](Project p) -> Result<Project> {
            auto program = change(p, *std::as_const(p).device(device));
            if (!program)
                return program.error();
            p.device(device)->program = std::move(*program);
            return p;
        };
    }
    const Program& program() const { return *std::as_const(p_).device(device_)->program; }

    void lanes();
    void zones();
    void preamps();
    void highPasses();
    void mixes();
    void farEnds();
    void crossings();
    void echo();
    void shareEcho(const Conversation& c);
    void group();
    void mutes();
    double levelAtA(const Conversation::Microphone& m, double& distance) const;
    double zoneGain(const Conversation& c) const;
    std::string wallNames(const std::string& walls) const; // "Folding wall is"
    const Block* onLane(const std::string& source, const char* kind) const;

    Project p_;
    std::string key_, state_, device_; // the processor that hears the space
    const SpaceModel model_;           // nothing that is proposed moves what stands in the room
    std::stop_token stop_;
    FirstPass pass_{};
};

} // namespace loom::project::first
