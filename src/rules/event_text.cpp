// What happened and why, in words (rule_run.h).
#include "dsp/number.h"
#include "rules/rule_run.h"
#include "rules/sentence.h"

namespace loom::project {

std::string eventText(const Project& p, const RuleEvent& e) {
    using Kind = RuleEvent::Kind;
    const auto* r = p.rule(e.rule);
    const auto name = r ? "\u201c" + (r->name.empty() ? r->id : r->name) + "\u201d" : std::string();
    const auto clause = [&]() -> std::string {
        if (!r || e.clause < 0)
            return {};
        const auto& list = e.part == Part::trigger     ? r->when
                           : e.part == Part::condition ? r->only
                           : e.otherwise               ? r->otherwise
                                                       : r->then;
        return static_cast<std::size_t>(e.clause) < list.size()
                   ? sentenceText(p, e.part, list[static_cast<std::size_t>(e.clause)])
                   : std::string();
    }();
    const auto s = e.path.empty() ? std::nullopt : signalOf(p, e.path);
    const auto label = s ? s->label : e.path;
    const auto shown = [&](std::optional<double> v) {
        return !v ? std::string("not known") : s ? valueText(*s, *v) : plainText(*v);
    };
    switch (e.kind) {
    case Kind::happened:
        return s && s->pulse ? label : label + ": " + shown(e.to);
    case Kind::woke:
        return name + " woke" + (clause.empty() ? "" : ": " + clause);
    case Kind::made:
        return name + " woke late, for " + e.text.substr(0, 10) + " " +
               e.text.substr(std::min<std::size_t>(11, e.text.size()));
    case Kind::missed:
        return name + " missed " + e.text.substr(0, 10) + " " + e.text.substr(std::min<std::size_t>(11, e.text.size()));
    case Kind::held:
        return clause + (r && r->needs == Rule::Needs::none ? ": it holds" : s ? ": it is " + shown(e.to) : ": not so");
    case Kind::set:
        return label + " from " + shown(e.from) + " to " + shown(e.to) +
               (e.over > 0 ? " over " + secondsText(static_cast<double>(e.over) / 1000) : "");
    case Kind::did:
        return e.text.empty() ? clause : e.text;
    case Kind::ignored:
        return name + " is still at it and is not woken";
    case Kind::queued:
        return name + " is still at it and is done once more afterwards";
    case Kind::restarted:
        return name + " is still at it and begins anew";
    case Kind::stopped:
        return name + " was woken " + std::to_string(RuleRun::mostWakes) + " times in one moment and is stopped in it";
    case Kind::failed:
        return name + (clause.empty() ? "" : ", " + clause) + ": " + e.text;
    }
    return {};
}

} // namespace loom::project
