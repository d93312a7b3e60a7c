#include "program/trace.h"
#include "engine/origin.h"
#include "model/block_names.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

using engine::Block;
using engine::BlockView;
using engine::PortRef;
using engine::Program;

constexpr double silentDb = -60; // below: nothing to speak of
constexpr double muchDb = 20;    // lost in one block: a reason to look at it

std::string decibels(double db) {
    return engine::formatValue(engine::levelParam("", "", -200, 60, 0), db);
}

class Tracer {
  public:
    Tracer(const Program& p, const LevelAt& level, const std::vector<Tool>& tools)
        : p_(p), level_(level), tools_(tools) {
        for (const auto& t : p.connections)
            into_[t.to] = t.from;
    }

    Trace run(const std::string& destination) {
        Trace t;
        const Block* b = p_.find(destination);
        if (!b)
            return t;
        PortRef at{destination, 0};
        std::set<PortRef> seen;
        while (seen.insert(at).second) {
            TraceStep step{at, levelAt(at), blockName(p_, *p_.find(at.block)), {}};
            const auto next = before(at, step.lost);
            for (const auto& tool : tools_)
                if (tool.kind == Tool::Kind::mute && tool.at == at)
                    step.lost = "A tool mutes it here.";
            t.steps.push_back(step);
            if (!next)
                break;
            at = *next;
        }
        // A microphone is quiet until its preamp has lifted it.
        if (const auto n = t.steps.size(); n > 1 && t.steps[n - 2].db.value_or(-999) > silentDb)
            if (auto& first = t.steps.back(); first.db && first.lost.rfind("Nothing comes in", 0) == 0)
                first.lost.clear();
        for (std::size_t i = 0; i < t.steps.size(); ++i)
            if (!t.steps[i].lost.empty() && (t.lostAt < 0 || arrivesAt(t, i)))
                t.lostAt = static_cast<int>(i);
        return t;
    }

  private:
    // Whether there is sound to lose before step i: levels say so, or the settings further back let it come.
    static bool arrivesAt(const Trace& t, std::size_t i) {
        return i + 2 < t.steps.size() ? t.steps[i + 1].db.value_or(0) > silentDb : true;
    }
    std::optional<double> levelAt(const PortRef& port) const { return level_ ? level_(port) : std::nullopt; }
    const PortRef* feeding(const Block& b, int in) const {
        const auto it = into_.find({b.id, in});
        return it == into_.end() ? nullptr : &it->second;
    }

    // Where the sound at a port comes from; empty at the beginning of the way. `lost` says what stands in it.
    std::optional<PortRef> before(const PortRef& at, std::string& lost) {
        const Block& b = *p_.find(at.block);
        const auto* kind = engine::findKind(b.kind);
        if (!kind) {
            lost = "This block is of a kind that is not known here; it stays silent.";
            return {};
        }
        const BlockView view(b);
        if (view.inputs() == 0) {
            beginning(b, at, lost);
            return {};
        }
        const bool end = view.outputs() == 0;
        std::vector<int> open, shut;
        std::string why;
        for (int i = 0; i < view.inputs(); ++i) {
            std::string reason;
            const bool leads = end ? i == at.port : passes(view, i, at.port, reason);
            (leads ? open : shut).push_back(i);
            if (!leads && !reason.empty() && feeding(b, i))
                why = reason;
        }
        if (const int mute = view.table->indexOf("mute");
            mute >= 0 && view.values[static_cast<std::size_t>(mute)] >= 0.5)
            lost = "It is muted.";
        std::erase_if(open, [&](int i) { return !feeding(b, i); });
        if (open.empty()) {
            if (lost.empty())
                lost = !why.empty()          ? why
                       : view.inputs() == 1  ? "Nothing arrives here: no thread leads to it."
                       : engine::isMatrix(b) ? "No crossing to this output is open."
                                             : "No thread leads to what could pass here.";
            std::erase_if(shut, [&](int i) { return !feeding(b, i); });
            open = std::move(shut); // where it would come from
        }
        if (open.empty())
            return {};
        const PortRef next = *feeding(b, best(b, open));
        if (lost.empty() && !end)
            lost = lostHere(view, at, next);
        return next;
    }

    void beginning(const Block& b, const PortRef& at, std::string& lost) const {
        const auto port = b.texts.find("port");
        const auto level = levelAt(at);
        if (engine::endOf(b) == engine::End::arrives && (port == b.texts.end() || port->second.empty()))
            lost = "No port of the device is chosen.";
        else if (level && *level < silentDb)
            lost = "Nothing comes in here (" + (*level < -119 ? "silence" : decibels(*level) + "FS") + ").";
    }

    bool passes(const BlockView& view, int in, int out, std::string& reason) const {
        const auto& kind = *view.kind;
        const auto value = [&](const std::string& id) {
            const int i = view.table->indexOf(id);
            return i < 0 ? 0.0 : view.values[static_cast<std::size_t>(i)];
        };
        const std::string i = std::to_string(in + 1), o = std::to_string(out + 1);
        if (kind.crosses) {
            if (value(i + "." + o) <= -80)
                return false;
            for (const auto& [id, what] : {std::pair{i + "." + o + ".mute", "The crossing of input " + i},
                                           {"in." + i + ".mute", "Input " + i},
                                           {"out." + o + ".mute", "Output " + o}})
                if (value(id) >= 0.5) {
                    reason = what + " is muted.";
                    return false;
                }
            return true;
        }
        if (kind.id == "selector") {
            if (std::lround(value(o)) == in + 1)
                return true;
            reason = "The selector takes another input, or none.";
            return false;
        }
        return engine::goesOn(view, in, out);
    }

    // Much less comes out than went in.
    std::string lostHere(const BlockView& view, const PortRef& at, const PortRef& from) const {
        const auto out = levelAt(at), in = levelAt(from);
        if (!out || !in || *in < silentDb || *in - *out < muchDb)
            return "";
        const std::string by = decibels(*in - *out) + " are lost here";
        if (view.kind->group == engine::Group::dynamics && view.kind->id == "gate")
            return by + ": the gate is closed.";
        if (view.kind->group == engine::Group::dynamics || view.kind->group == engine::Group::speech)
            return by + ": it turns this sound down.";
        return by + ".";
    }

    // The loudest of several ways, or the first that leads to a source.
    int best(const Block& b, const std::vector<int>& open) {
        int chosen = open.front();
        std::optional<double> loudest;
        for (const int i : open)
            if (const auto db = levelAt(*feeding(b, i)); db && (!loudest || *db > *loudest)) {
                loudest = db;
                chosen = i;
            }
        if (loudest && *loudest > silentDb)
            return chosen;
        for (const int i : open)
            if (reachesSource(*feeding(b, i)))
                return i;
        return chosen;
    }

    bool reachesSource(const PortRef& output) {
        if (const auto known = reaches_.find(output); known != reaches_.end())
            return known->second;
        std::set<PortRef> seen;
        std::vector<PortRef> todo{output};
        while (!todo.empty()) {
            const PortRef at = todo.back();
            todo.pop_back();
            const Block* b = p_.find(at.block);
            if (!b || !engine::findKind(b->kind) || !seen.insert(at).second)
                continue;
            const BlockView view(*b);
            if (view.inputs() == 0)
                return reaches_[output] = true;
            std::string reason;
            for (int i = 0; i < view.inputs(); ++i)
                if (const auto* from = feeding(*b, i); from && passes(view, i, at.port, reason))
                    todo.push_back(*from);
        }
        return reaches_[output] = false;
    }

    const Program& p_;
    const LevelAt& level_;
    const std::vector<Tool>& tools_;
    std::map<PortRef, PortRef> into_;
    std::map<PortRef, bool> reaches_;
};

} // namespace

std::string Trace::text() const {
    if (steps.empty())
        return "There is nothing to trace.";
    if (lostAt < 0) {
        const auto& first = steps.back();
        return "The sound of " + first.name + " arrives" +
               (steps.front().db ? ", at " + decibels(*steps.front().db) + "FS." : " as it is set.");
    }
    const auto& at = steps[static_cast<std::size_t>(lostAt)];
    return "Lost at " + at.name + ": " + at.lost;
}

Trace trace(const Program& p, const std::string& destination, const LevelAt& level, const std::vector<Tool>& tools) {
    return Tracer(p, level, tools).run(destination);
}

} // namespace loom::project
