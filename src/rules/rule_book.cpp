#include "rules/rule_book.h"
#include "dsp/number.h"
#include "rules/script.h"
#include "rules/sentence.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

constexpr int mostDaysAhead = 400;

Error missing(const char* what) {
    return {std::string("it does not say ") + what, "", "Fill the gap."};
}

Result<Millis> spanOf(const Clause& c, const char* gap, double factor, Millis without) {
    const auto& text = c[gap];
    if (text.empty())
        return without;
    const auto n = wholeNumber(text);
    if (!n || !(*n >= 0 && *n * factor <= static_cast<double>(dayLong)))
        return Error{"\"" + text.substr(0, 40) + "\" is no span of time", gap, "As in 2 s."};
    return static_cast<Millis>(std::llround(*n * factor));
}

std::optional<Error> readWhen(const Clause& c, DaysOfWeek& days, DateList& except) {
    const auto d = readDays(c["days"]);
    if (!d)
        return d.error();
    const auto dates = DateList::read(c["dates"]);
    if (!dates)
        return dates.error();
    days = *d, except = *dates;
    return {};
}

} // namespace

std::optional<Millis> RuleClock::next(Millis after, const Zone& zone, const RulePlace& place) const {
    if (kind == Kind::every)
        return every > 0 ? std::optional((after >= 0 ? after / every : -((every - 1 - after) / every)) * every + every)
                         : std::nullopt;
    const int today = zone.local(after).day;
    for (int day = today - 1; day <= today + mostDaysAhead; ++day) { // what is before sunrise may be the day before
        if (!days.has(day) || except.has(day))
            continue;
        std::optional<Millis> at;
        if (kind == Kind::time)
            at = zone.utc(day, ofDay);
        else if (const auto sun = sunAt(day, rise, place.latitude, place.longitude))
            at = *sun + ofDay;
        if (at && *at > after)
            return at;
    }
    return {};
}

RuleBook::RuleBook(Project project, const std::optional<RuleShare>& share) : project_(std::move(project)) {
    if (const auto z = Zone::named(project_.place.zone))
        zone_ = *z;
    for (const auto& s : project_.scripts) // what scripts speak of is known from the start
        for (const auto& path : quotedIn(s.text))
            if (path.find_first_of("/:") != std::string::npos)
                (void)know(path);
    rules_.resize(project_.rules.size());
    for (std::size_t i = 0; i < rules_.size(); ++i)
        rules_[i].rule = &project_.rules[i];
    std::unordered_map<std::string, int> here;
    if (share)
        for (const auto& id : share->rules)
            here[id] = 1;
    for (std::size_t i = 0; i < rules_.size(); ++i)
        if (!share || here.count(rules_[i].rule->id)) {
            rules_[i].here = true;
            compile(static_cast<int>(i));
        }
}

int RuleBook::find(const std::string& path) const {
    const auto it = byPath_.find(path);
    return it == byPath_.end() ? -1 : it->second;
}

int RuleBook::know(const std::string& path) {
    if (const int i = find(path); i >= 0)
        return i;
    const auto s = signalOf(project_, path);
    if (!s)
        return -1;
    byPath_[path] = static_cast<int>(known_.size());
    known_.push_back({*s});
    return static_cast<int>(known_.size()) - 1;
}

int RuleBook::ruleOf(const std::string& id) const {
    for (std::size_t i = 0; i < rules_.size(); ++i)
        if (rules_[i].rule->id == id)
            return static_cast<int>(i);
    return -1;
}

Result<int> RuleBook::signal(const Clause& c, const char* gap) {
    const auto& path = c[gap];
    if (path.empty())
        return missing("of what");
    const int i = know(path);
    if (i < 0)
        return Error{"there is no " + path.substr(0, 80), gap, "Choose what is there."};
    return i;
}

Result<double> RuleBook::value(const Clause& c, const char* gap, int at) {
    const auto& text = c[gap];
    if (text.empty())
        return missing("which value");
    return readSignalValue(known_[static_cast<std::size_t>(at)].signal, text);
}

Result<std::vector<RuleBook::Act>> RuleBook::compiled(const Clause& c) {
    std::vector<Act> all;
    if (const auto e = action(all, 0, c))
        return *e;
    return all;
}

void RuleBook::compile(int number) {
    auto& one = rules_[static_cast<std::size_t>(number)];
    const Rule& r = *one.rule;
    const auto told = [&](Part part, bool otherwise, int clause, std::optional<Error> e) {
        if (e)
            wrong_.push_back({number, part, otherwise, clause, *e});
    };
    for (std::size_t i = 0; i < r.when.size(); ++i)
        told(Part::trigger, false, static_cast<int>(i), trigger(number, static_cast<int>(i), r.when[i]));
    for (std::size_t i = 0; i < r.only.size(); ++i)
        told(Part::condition, false, static_cast<int>(i), condition(one, static_cast<int>(i), r.only[i]));
    for (std::size_t i = 0; i < r.then.size(); ++i)
        told(Part::action, false, static_cast<int>(i), action(one.then, static_cast<int>(i), r.then[i]));
    for (std::size_t i = 0; i < r.otherwise.size(); ++i)
        told(Part::action, true, static_cast<int>(i), action(one.otherwise, static_cast<int>(i), r.otherwise[i]));
}

std::optional<Error> RuleBook::trigger(int rule, int clause, const Clause& c) {
    const auto* kind = findClauseKind(Part::trigger, c.kind);
    if (!kind)
        return Error{"no trigger is called \"" + c.kind.substr(0, 40) + "\"", "", "A later version may know it."};
    Watch w;
    w.rule = rule, w.clause = clause;
    const auto& id = kind->id;
    if (id == "time" || id == "sun" || id == "every") {
        w.op = Watch::Op::clock;
        auto& k = w.clock;
        k.kind = id == "time" ? RuleClock::Kind::time : id == "sun" ? RuleClock::Kind::sun : RuleClock::Kind::every;
        if (id == "every") {
            const auto span = spanOf(c, "minutes", minute, 0);
            if (!span)
                return span.error();
            if (*span < second)
                return missing("how often");
            k.every = *span;
        } else {
            if (const auto e = readWhen(c, k.days, k.except))
                return e;
            const auto late = spanOf(c, "late", minute, 0);
            if (!late)
                return late.error();
            k.late = *late;
        }
        if (id == "time") {
            const auto t = readTimeOfDay(c["time"]);
            if (!t)
                return t.error();
            k.ofDay = *t;
        } else if (id == "sun") {
            if (c["sun"] != "sunrise" && c["sun"] != "sunset")
                return missing("whether sunrise or sunset");
            k.rise = c["sun"] == "sunrise";
            const auto off = spanOf(c, "offset", minute, 0);
            if (!off)
                return off.error();
            k.ofDay = c["side"] == "before" ? -*off : *off;
        }
    } else if (id == "start") {
        w.op = Watch::Op::moment;
        w.signal = know(startPath);
    } else if (id == "cue" || id == "scene") {
        w.op = Watch::Op::moment;
        const auto path = id == "cue" ? c["cue"] : scenePrefix + c["scene"];
        w.signal = c[id].empty() ? -1 : know(path);
        if (w.signal < 0)
            return Error{"there is no " + id + " \"" + c[id].substr(0, 60) + "\"", id, "Choose one that is there."};
    } else {
        const auto at = signal(c, "signal");
        if (!at)
            return at.error();
        w.signal = *at;
        const auto& s = known_[static_cast<std::size_t>(*at)].signal;
        if (s.pulse)
            return Error{s.label + " is a moment and has no state", "signal", ""};
        w.op = id == "becomes" ? Watch::Op::becomes
               : id == "above" ? Watch::Op::above
               : id == "below" ? Watch::Op::below
                               : Watch::Op::changes;
        if (w.op != Watch::Op::changes) {
            const auto v = value(c, "state", *at);
            if (!v)
                return v.error();
            const auto hold = spanOf(c, "for", second, 0);
            if (!hold)
                return hold.error();
            w.value = *v, w.hold = *hold;
        }
    }
    if (!rules_[static_cast<std::size_t>(rule)].rule->on)
        return {};
    if (w.signal >= 0)
        known_[static_cast<std::size_t>(w.signal)].watches.push_back(static_cast<int>(watches_.size()));
    watches_.push_back(std::move(w));
    return {};
}

std::optional<Error> RuleBook::condition(One& one, int clause, const Clause& c) {
    Check k;
    k.clause = clause;
    if (c.kind == "between") {
        k.op = Check::Op::between;
        const auto from = readTimeOfDay(c["from"]), to = readTimeOfDay(c["to"]);
        if (!from || !to)
            return (!from ? from : to).error();
        k.from = *from, k.to = *to;
    } else if (c.kind == "days") {
        k.op = Check::Op::days;
        if (const auto e = readWhen(c, k.days, k.except))
            return e;
    } else if (c.kind == "last") {
        k.op = Check::Op::last;
        k.scene = c["scene"];
        if (!project_.scene(k.scene))
            return Error{"there is no scene \"" + k.scene.substr(0, 60) + "\"", "scene", "Choose one that is there."};
    } else if (findClauseKind(Part::condition, c.kind)) {
        const auto at = signal(c, "signal");
        if (!at)
            return at.error();
        const auto v = value(c, "state", *at);
        if (!v)
            return v.error();
        k.op = c.kind == "is"     ? Check::Op::is
               : c.kind == "not"  ? Check::Op::isNot
               : c.kind == "over" ? Check::Op::over
                                  : Check::Op::under;
        k.signal = *at, k.value = *v;
    } else {
        return Error{"no condition is called \"" + c.kind.substr(0, 40) + "\"", "", "A later version may know it."};
    }
    one.checks.push_back(std::move(k));
    return {};
}

std::optional<Error> RuleBook::action(std::vector<Act>& to, int clause, const Clause& c) {
    const auto& id = c.kind;
    if (!findClauseKind(Part::action, id))
        return Error{"no action is called \"" + id.substr(0, 40) + "\"", "", "A later version may know it."};
    Act a;
    a.clause = clause;
    const auto over = spanOf(c, "over", second, -1);
    if (!over)
        return over.error();
    a.over = *over;
    const auto surfaced = [&]() -> std::optional<Error> {
        const auto* s = project_.surface(c["surface"]);
        if (!s)
            return Error{"there is no touch surface \"" + c["surface"].substr(0, 60) + "\"", "surface",
                         "Choose one that is there."};
        a.what = s->id;
        return {};
    };
    if (id == "set" || id == "step" || id == "toggle") {
        const auto at = signal(c, "signal");
        if (!at)
            return at.error();
        a.signal = *at;
        const auto& s = known_[static_cast<std::size_t>(*at)].signal;
        if (!s.settable || s.pulse)
            return Error{s.label + " is not set by rules", "signal", "Choose a parameter, a relay or a mute."};
        a.op = id == "set" ? Act::Op::set : id == "step" ? Act::Op::step : Act::Op::toggle;
        if (id == "set") {
            const auto v = value(c, "state", *at);
            if (!v)
                return v.error();
            a.value = *v;
        } else if (id == "step") {
            const auto n = wholeNumber(c["by"]);
            if (!n)
                return missing("by how much");
            a.value = *n;
        }
    } else if (id == "scene") {
        a.op = Act::Op::recall;
        a.what = c["scene"];
        if (!project_.scene(a.what))
            return Error{"there is no scene \"" + a.what.substr(0, 60) + "\"", "scene", "Choose one that is there."};
        a.signal = know(scenePrefix + a.what);
        for (const auto& [path, _] : project_.scene(a.what)->values)
            know(path);
    } else if (id == "cue") {
        a.op = Act::Op::give;
        a.signal = c["cue"].empty() ? -1 : know(c["cue"]);
        if (a.signal < 0)
            return missing("which cue");
    } else if (id == "wait") {
        const auto span = spanOf(c, "for", second, -1);
        if (!span || *span < 0)
            return span ? missing("how long") : span.error();
        a.op = Act::Op::wait;
        a.over = *span;
    } else if (id == "play" || id == "stop") {
        const auto& player = c["player"];
        const auto set = [&](const char* param, double v, Act::Op op = Act::Op::set) -> std::optional<Error> {
            Act one = a;
            one.op = op;
            one.signal = know(player + "." + param);
            if (player.empty() || one.signal < 0)
                return Error{"there is no player \"" + player.substr(0, 60) + "\"", "player",
                             "Choose one that is there."};
            one.value = v;
            to.push_back(std::move(one));
            return {};
        };
        if (id == "stop")
            return set("play", 0);
        const auto files = filesOf(project_, player);
        const auto file = std::find(files.begin(), files.end(), c["file"]);
        if (!playersOf(project_).empty() && know(player + ".play") >= 0 && file == files.end())
            return Error{"the player has no file \"" + c["file"].substr(0, 60) + "\"", "file",
                         "Put it on the player's list in Weave."};
        if (!c["level"].empty()) {
            const auto s = signalOf(project_, player + ".level");
            const auto v = s ? readSignalValue(*s, c["level"]) : Result<double>(missing("on which player"));
            if (!v)
                return v.error();
            if (const auto e = set("level", *v))
                return e;
        }
        if (const auto e = set("item", static_cast<double>(file - files.begin()) + 1))
            return e;
        if (const auto e = set("play", 0, Act::Op::rewind)) // a file that plays, or is over, begins anew
            return e;
        return set("play", 1);
    } else if (id == "page" || id == "open" || id == "close" || id == "say") {
        if (const auto e = surfaced())
            return e;
        const auto* s = project_.surface(a.what);
        a.op = id == "page"    ? Act::Op::page
               : id == "open"  ? Act::Op::open
               : id == "close" ? Act::Op::close
                               : Act::Op::say;
        a.text = id == "page" ? c["page"] : id == "say" ? c["text"] : c["ply"];
        if (a.text.empty())
            return missing("what");
        if (id == "page" && !s->page(a.text))
            return Error{"the surface has no such page", "page", "Choose one that is there."};
        if (id == "open" || id == "close") {
            const auto slash = a.text.find('/');
            const auto* page = s->page(a.text.substr(0, slash));
            if (slash == std::string::npos || !page ||
                std::none_of(page->plies.begin(), page->plies.end(),
                             [&](const auto& ply) { return ply.id == a.text.substr(slash + 1); }))
                return Error{"the surface has no such ply", "ply", "Choose one that is there."};
        }
        if (id == "say") {
            const auto span = spanOf(c, "for", second, 10 * second);
            if (!span)
                return span.error();
            a.over = *span;
        }
    } else if (id == "dial" || id == "answer" || id == "hangup") {
        const auto at = signal(c, "line");
        if (!at)
            return at.error();
        a.op = Act::Op::call;
        a.signal = *at;
        a.what = id == "hangup" ? "hang-up" : id;
        a.text = c["number"];
        if (id == "dial" && a.text.empty())
            return missing("which number");
    } else if (id == "rule") {
        a.op = Act::Op::wake;
        a.rule = ruleOf(c["rule"]);
        if (a.rule < 0)
            return Error{"there is no rule \"" + c["rule"].substr(0, 60) + "\"", "rule", "Choose one that is there."};
    } else if (id == "script") {
        a.op = Act::Op::script;
        a.what = c["script"];
        if (!project_.script(a.what))
            return Error{"there is no script \"" + a.what.substr(0, 60) + "\"", "script", "Choose one that is there."};
    } else {
        a.op = Act::Op::note;
        a.text = c["text"];
        if (a.text.empty())
            return missing("what");
    }
    to.push_back(std::move(a));
    return {};
}

} // namespace loom::project
