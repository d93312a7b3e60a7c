// Rules in simulated time, before the room exists: a day of things that happen, what the rules did then and why.
#pragma once
#include "rules/rule_run.h"
#include <memory>
#include <stop_token>

namespace loom::project {

// Something that happens; `at` from the beginning.
struct Happening {
    Millis at = 0;
    std::string signal{};
    double value = 1; // of a moment without meaning
    bool operator==(const Happening&) const = default;
};

class Rehearsal {
  public:
    // begins: a moment at the place of the project.
    Rehearsal(Project project, Millis beginsUtc);
    const Project& project() const { return run_->project(); }
    const RuleBook& book() const { return run_->book(); }
    Millis begins() const { return begins_; }
    Millis now() const { return now_; } // ms since it began

    void given(const std::string& signal, double value); // before anything happens
    // Something happens now, or at a moment that lies ahead.
    void happen(const std::string& signal, double value);
    void plan(Happening one);
    void go(Millis until); // everything that is due until then
    void clockJumps(Millis by);

    // As it is now; none: not known. What no rule knows is as it rests, or as it was given or happened.
    std::optional<double> value(const std::string& signal) const;
    const std::vector<RuleEvent>& events() const { return events_; }
    const std::vector<RuleOutput>& outputs() const { return outputs_; } // of the last step
    const std::vector<Happening>& happened() const { return happened_; }
    std::optional<Millis> due() const; // when something happens by itself
    // How a signal went: from when on it had which value.
    std::vector<std::pair<Millis, double>> course(const std::string& signal) const;

  private:
    void take();
    void note(const std::string& signal, double value);
    std::unique_ptr<RuleRun> run_;
    Millis begins_ = 0, now_ = 0;
    bool started_ = false;
    std::multimap<Millis, Happening> ahead_{};
    std::vector<RuleEvent> events_{};
    std::vector<RuleOutput> outputs_{};
    std::vector<Happening> happened_{};
    std::map<std::string, std::vector<std::pair<Millis, double>>> courses_{};
};

// A day as text, one thing a line: "08:30 wall:fold open", "09:00:05 button:tern-tap pressed", names too. Error: the
// line and what is wrong with it. Times count from midnight of the day that it begins in.
Result<std::vector<Happening>> readDay(const Project& project, const std::string& text, Millis beginsUtc);

// ---- tests ----
struct TestResult {
    bool passed = false;
    std::string failure{}; // "at 12 s Tern · Speech level is −6.0 dB instead of −8.0 dB"
    std::size_t events = 0;
};
TestResult runTest(const Project& project, const RehearsalTest& test);
// What a rehearsal came to, as a test: what was given and happened, and what it expects of what rules set.
RehearsalTest testOf(const Rehearsal& rehearsal, const std::string& id, const std::string& name);

} // namespace loom::project
