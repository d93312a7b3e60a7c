// The rules that a device runs: what happens here and at other devices goes into them, what they do comes out, and its
// log says which rule did what. Knows neither socket nor clock.
#pragma once
#include "pages/page_host.h"
#include "rig/value_side.h"
#include "rules/rule_pack.h"
#include "rules/rule_run.h"
#include "site/config.h"
#include <unordered_map>

namespace loom::rig {

// One thread.
class RuleSide {
  public:
    static constexpr project::Millis slowEvery = 100;  // ms between two looks at what does not move by itself
    static constexpr project::Millis lostAfter = 5000; // that another device was not heard of
    static constexpr project::Millis clockOff = 500;   // that the clock may be wrong until it is told anew
    static constexpr project::Millis rememberEvery = 60000;
    static constexpr int mostNotes = 20; // of a second; the others are counted

    // Whoever runs the program.
    struct Owner {
        std::function<std::optional<double>(const project::Drive& drive)> now;
        std::function<bool(const std::string& param, double value, const std::string& who)> set; // "hall.level.gain"
        // The rest of what rules know of a device: "contact:heddle/contact 3", "wall:fold", "mute:council" ...
        std::function<std::optional<double>(const std::string& signal)> state;
        std::function<bool(const std::string& signal, double value, const std::string& who)> setState;
        std::function<std::string(const std::string& port)> line;
        std::function<void(const std::string& port, const std::string& does, const std::string& number)> call;
        std::function<void(const std::string& surface, const project::SurfaceOrder& order)> show;
        std::function<void(const std::string& who, const std::string& what, bool bad)> note;
        std::function<std::string()> memory;
        std::function<void(const std::string& text)> remember;
        std::function<project::Millis()> utc;
        // Does what is given to it; what is set meanwhile is heard in one frame. May be empty.
        std::function<void(const std::function<void()>& what)> together{};
    };
    RuleSide(project::ModelSource models, Owner owner, std::function<double()> clock, ValueSide& values);

    // Error: they cannot be read.
    static Result<Done> check(const site::Config& config, const project::ModelSource& models);
    // What it is told to be. Rules that are the same go on as they are.
    void told(const site::Config& config);
    void off(); // without power: all is forgotten but what is remembered
    bool runs() const { return run_ != nullptr; }
    // Something here has changed just now: a signal ("wall:fold"), something that hangs on the device (contactPrefix,
    // "contact 3"), one of its parameters ("hall.level.gain"), its push-button.
    void happened(const std::string& signal, double value);
    void happenedHere(const char* prefix, const std::string& what, double value);
    void parameterSet(const std::string& param, double value);
    void button(bool down);
    // A cue or a scene, by a surface here or from outside. False: nobody takes it.
    bool give(const std::string& moment);
    // What the device knows and sets by itself, whoever asks; `drive` is driveOf() of the signal in the pack.
    std::optional<double> valueHere(const std::string& signal, const std::optional<project::Drive>& drive) const;
    bool setHere(const std::string& signal, const std::optional<project::Drive>& drive, double value,
                 const std::string& who);
    void hear();                                                              // values of others have come just now
    void tick();                                                              // some fifty times a second
    std::function<void(const std::vector<project::RuleEvent>& events)> heard; // all that happened; may be empty
    const project::RulePack& pack() const { return pack_; }
    const project::RuleRun* run() const { return run_.get(); }

  private:
    struct Local { // a signal that the device itself tells
        std::string path;
        std::optional<project::Drive> drive{};
        bool fast = false;
        std::optional<double> last{};
    };
    struct Far { // one that another tells
        std::string path, link;
        bool line = false, counts = false, there = false; // counts: a button, by how often it went down and up
        std::optional<double> last{};
    };
    project::Millis now() const;
    std::optional<double> readFar(const Far& one) const;
    void learn(); // signals that the rules know since
    void look(bool slow);
    void lookThere(); // at others
    void handle();
    void act(const project::RuleOutput& output);
    void give(const std::string& moment, const std::string& does);
    void show(const std::string& surface, const std::string& does, const std::string& what);
    void tell(const std::vector<project::RuleEvent>& events);
    void note(const std::string& rule, const std::string& what, bool bad);
    void remember(bool anyway);
    std::string nameOf(const std::string& rule) const;

    project::ModelSource models_;
    Owner owner_;
    std::function<double()> clock_;
    ValueSide& values_;
    std::string print_{};
    project::RulePack pack_{};
    std::unique_ptr<project::RuleRun> run_{};
    std::vector<Local> locals_{};
    std::vector<Far> fars_{};
    std::unordered_map<std::string, std::size_t> local_{}, far_{}; // by path
    std::map<std::string, double> presses_{}; // how often a button here went down and up: odd while it is down
    std::size_t learnt_ = 0;
    std::string setting_{};                               // by a rule, just now: that it changes is no news
    bool fresh_ = true, busy_ = false, eventful_ = false; // something happened since it remembered
    project::Millis lookedAt_ = -1000000, begun_ = 0, rememberedAt_ = 0, noteSecond_ = 0;
    int notes_ = 0, unsaid_ = 0;
    std::string remembered_{};
};

} // namespace loom::rig
