#include "program/tools_at_work.h"
#include <algorithm>

namespace loom::project {

namespace {
constexpr int leaveTicks = 6; // of tend(): longer than any glide
}

Result<Done> ToolsAtWork::run(engine::Runner& runner, const engine::Program& design) const {
    std::vector<Tool> working;
    for (const auto& t : tools_)
        working.push_back(t.tool);
    auto all = withTools(design, working);
    if (!all)
        return all.error();
    for (const auto& t : tools_) // what acts already goes on acting
        for (const auto& s : switchesOf(t.tool))
            if (!t.leaving && runner.program().find(s.block))
                all->find(s.block)->values[s.param] = s.acts;
    return runner.load(*all);
}

Result<Done> ToolsAtWork::load(engine::Runner& runner, const engine::Program& design) {
    std::erase_if(tools_, [&](const AtWork& t) { return !fits(design, t.tool); });
    return run(runner, design);
}

Result<int> ToolsAtWork::put(engine::Runner& runner, const engine::Program& design, Tool tool) {
    if (tools_.size() >= most)
        return Error{"there are " + std::to_string(most) + " tools at work already", "", "Take some away first."};
    tool.number = ++made_;
    tools_.push_back({tool});
    if (auto done = run(runner, design); !done) {
        tools_.pop_back();
        return done.error();
    }
    for (const auto& s : switchesOf(tool))
        (void)bool(runner.set(s.block, s.param, s.acts));
    return tool.number;
}

void ToolsAtWork::take(engine::Runner& runner, int number) {
    for (auto& t : tools_)
        if (t.tool.number == number && !t.leaving) {
            for (const auto& s : switchesOf(t.tool))
                (void)bool(runner.set(s.block, s.param, s.rests));
            t.leaving = leaveTicks;
        }
}

void ToolsAtWork::takeAll(engine::Runner& runner) {
    for (const auto& t : list())
        take(runner, t.number);
}

void ToolsAtWork::tend(engine::Runner& runner, const engine::Program& design) {
    bool gone = false;
    for (auto& t : tools_)
        gone = (t.leaving > 0 && --t.leaving == 0 && (t.leaving = -1)) || gone;
    if (gone) {
        std::erase_if(tools_, [](const AtWork& t) { return t.leaving < 0; });
        (void)bool(run(runner, design));
    }
}

std::vector<Tool> ToolsAtWork::list() const {
    std::vector<Tool> all;
    for (const auto& t : tools_)
        if (!t.leaving)
            all.push_back(t.tool);
    return all;
}

} // namespace loom::project
