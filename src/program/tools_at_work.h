// The tools at work in one running program: put in, act in a glide, leave in a glide.
#pragma once
#include "engine/runner.h"
#include "program/tools.h"

namespace loom::project {

// All functions belong to the runner's control thread. The design handed in is never changed.
class ToolsAtWork {
  public:
    static constexpr int most = 64; // at the same time
    // Runs the design with the tools worked in; those that no longer find their place are dropped.
    Result<Done> load(engine::Runner& runner, const engine::Program& design);
    // Puts one to work and gives its number. Error: no such place, a loop, more than `most`; nothing has changed
    // then.
    Result<int> put(engine::Runner& runner, const engine::Program& design, Tool tool);
    void take(engine::Runner& runner, int number);
    void takeAll(engine::Runner& runner);
    // Call at least ten times a second: takes out what has faded away.
    void tend(engine::Runner& runner, const engine::Program& design);
    std::vector<Tool> list() const; // without those that are leaving
    void forget() { tools_.clear(); }

  private:
    struct AtWork {
        Tool tool;
        int leaving = 0; // counts down to when it may be taken out; 0: it stays
    };
    Result<Done> run(engine::Runner& runner, const engine::Program& design) const;
    std::vector<AtWork> tools_;
    int made_ = 0;
};

} // namespace loom::project
