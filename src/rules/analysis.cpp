#include "rules/analysis.h"
#include "rules/rule_edit.h"
#include "rules/script.h"
#include "rules/sentence.h"
#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <set>

namespace loom::project {
namespace {

using Book = RuleBook;
using Kind = RuleTrouble::Kind;

std::string named(const Rule& r) {
    return r.name.empty() ? r.id : r.name;
}

class Looker {
  public:
    explicit Looker(const Book& book) : book_(book), p_(book.project()) {}
    std::vector<RuleTrouble> run() {
        for (const auto& w : book_.wrong()) {
            const Rule& r = *rule(w.rule);
            const auto& list = w.part == Part::trigger     ? r.when
                               : w.part == Part::condition ? r.only
                               : w.otherwise               ? r.otherwise
                                                           : r.then;
            RuleTrouble t{Kind::cannot, r.id};
            t.reason = "\u201c" + sentenceText(p_, w.part, list[static_cast<std::size_t>(w.clause)]) +
                       "\u201d: " + w.why.message + ".";
            t.remedy = w.why.remedy.empty() ? "Change the line, or take it out." : w.why.remedy;
            all_.push_back(std::move(t));
        }
        for (std::size_t i = 0; i < book_.rules().size(); ++i)
            if (rule(static_cast<int>(i))->on && book_.rules()[i].here)
                wakes(static_cast<int>(i));
        rounds();
        fights();
        scenes();
        for (const auto& s : p_.scripts)
            if (const auto error = scriptError(s.text); !error.empty()) {
                RuleTrouble t{Kind::script};
                t.what = s.id;
                t.reason = "The script " + (s.name.empty() ? s.id : s.name) + " cannot run: " + error + ".";
                t.remedy = "Correct it in Rules.";
                all_.push_back(std::move(t));
            }
        if (const auto z = Zone::named(p_.place.zone); !z) {
            RuleTrouble t{Kind::zone};
            t.reason = "The project lies in \u201c" + p_.place.zone.substr(0, 60) +
                       "\u201d, which is no time zone; its clocks count in UTC.";
            t.remedy = z.error().remedy;
            all_.push_back(std::move(t));
        }
        return std::move(all_);
    }

  private:
    const Rule* rule(int i) const { return book_.rules()[static_cast<std::size_t>(i)].rule; }
    void add(Kind kind, int r, std::string reason, std::string remedy, std::vector<std::string> way = {}) {
        all_.push_back({kind, rule(r)->id, "", std::move(reason), std::move(remedy), std::move(way)});
    }
    const Signal& signal(int i) const { return book_.known()[static_cast<std::size_t>(i)].signal; }

    // ---- never ----
    void wakes(int number) {
        const auto& one = book_.rules()[static_cast<std::size_t>(number)];
        std::vector<const Book::Watch*> mine;
        for (const auto& w : book_.watches())
            if (w.rule == number)
                mine.push_back(&w);
        const bool woken = std::any_of(book_.rules().begin(), book_.rules().end(), [&](const Book::One& other) {
            const auto wakes = [&](const Book::Act& a) { return a.op == Book::Act::Op::wake && a.rule == number; };
            return other.rule->on && (std::any_of(other.then.begin(), other.then.end(), wakes) ||
                                      std::any_of(other.otherwise.begin(), other.otherwise.end(), wakes));
        });
        if (mine.empty() && !woken && one.rule->when.empty())
            return add(Kind::neverWakes, number, "Nothing wakes it.",
                       "Say when it wakes, or let another rule wake it.");
        if (!mine.empty() && !woken && std::all_of(mine.begin(), mine.end(), [&](const auto* w) { return never(*w); }))
            return add(Kind::neverWakes, number, "What it waits for never comes: " + whyNever(*mine[0]) + ".",
                       "Change when it wakes.");
        if (one.then.empty() && one.otherwise.empty() && one.rule->then.empty() && one.rule->otherwise.empty())
            return add(Kind::neverWakes, number, "It wakes and does nothing.", "Say what it does.");
        if (!one.otherwise.empty() || one.rule->needs == Rule::Needs::none)
            return;
        // A condition that the only trigger rules out.
        if (mine.size() == 1 && mine[0]->op == Book::Watch::Op::becomes && one.rule->needs == Rule::Needs::all)
            for (const auto& k : one.checks)
                if (k.signal == mine[0]->signal &&
                    ((k.op == Book::Check::Op::is && std::abs(k.value - mine[0]->value) > 1e-9) ||
                     (k.op == Book::Check::Op::isNot && std::abs(k.value - mine[0]->value) < 1e-9)))
                    return add(Kind::neverWakes, number,
                               "It wakes when " + signal(k.signal).label + " becomes " +
                                   valueText(signal(k.signal), mine[0]->value) + ", and does something only if it is " +
                                   (k.op == Book::Check::Op::is ? "" : "not ") + valueText(signal(k.signal), k.value) +
                                   ".",
                               "Change the condition.");
        if (one.rule->needs == Rule::Needs::all)
            for (std::size_t i = 0; i < one.checks.size(); ++i)
                for (std::size_t k = i + 1; k < one.checks.size(); ++k)
                    if (const auto& a = one.checks[i], &b = one.checks[k];
                        a.signal >= 0 && a.signal == b.signal && apart(a, b))
                        return add(Kind::neverWakes, number,
                                   "Two of its conditions on " + signal(a.signal).label + " never hold together.",
                                   "Take one of them out, or let any of them do.");
    }
    static bool apart(const Book::Check& a, const Book::Check& b) {
        using Op = Book::Check::Op;
        if (a.op == Op::is && b.op == Op::is)
            return std::abs(a.value - b.value) > 1e-9;
        if ((a.op == Op::is && b.op == Op::isNot) || (a.op == Op::isNot && b.op == Op::is))
            return std::abs(a.value - b.value) <= 1e-9;
        if (a.op == Op::over && b.op == Op::under)
            return a.value >= b.value;
        if (a.op == Op::under && b.op == Op::over)
            return b.value >= a.value;
        return false;
    }
    bool never(const Book::Watch& w) const {
        if (w.op == Book::Watch::Op::clock)
            return !w.clock.next(0, book_.zone(), p_.place) && w.clock.kind != RuleClock::Kind::every;
        if (w.op == Book::Watch::Op::above)
            return w.value >= signal(w.signal).spec.max;
        if (w.op == Book::Watch::Op::below)
            return w.value <= signal(w.signal).spec.min;
        return false; // a cue may come from outside
    }
    std::string whyNever(const Book::Watch& w) const {
        if (w.op == Book::Watch::Op::clock)
            return "no such day comes";
        const auto& s = signal(w.signal);
        return s.label + " never gets " + (w.op == Book::Watch::Op::above ? "above " : "below ") +
               valueText(s, w.value);
    }

    // ---- for ever ----
    // What a rule sets at once, without waiting or fading: signal -> value.
    static void eachSet(const Book::One& one, const Book& book,
                        const std::function<void(int, std::optional<double>)>& f,
                        const std::function<void(int)>& wake) {
        for (const auto* list : {&one.then, &one.otherwise})
            for (const auto& a : *list) {
                if (a.op == Book::Act::Op::wait && a.over > 0)
                    break;
                if (a.op == Book::Act::Op::wake)
                    wake(a.rule);
                if (a.over > 0)
                    continue;
                if (a.op == Book::Act::Op::set)
                    f(a.signal, a.value);
                else if (a.op == Book::Act::Op::step || a.op == Book::Act::Op::toggle)
                    f(a.signal, {});
                else if (a.op == Book::Act::Op::give)
                    f(a.signal, 1);
                else if (a.op == Book::Act::Op::recall) {
                    const auto* s = book.project().scene(a.what);
                    f(a.signal, 1);
                    if (a.over < 0 && s->fade > 0)
                        continue;
                    for (const auto& [path, v] : s->values)
                        if (const int i = book.find(path); i >= 0)
                            f(i, v);
                }
            }
    }
    bool answers(const Book::Watch& w, std::optional<double> v) const {
        if (w.hold > 0)
            return false;
        switch (w.op) {
        case Book::Watch::Op::moment:
        case Book::Watch::Op::changes:
            return true;
        case Book::Watch::Op::becomes:
            return !v || std::abs(*v - w.value) < 1e-6;
        case Book::Watch::Op::above:
            return !v || *v > w.value;
        case Book::Watch::Op::below:
            return !v || *v < w.value;
        default:
            return false;
        }
    }
    // Whether a rule sets a signal to one value only, so that a second time changes nothing.
    void rounds() {
        const auto n = book_.rules().size();
        std::vector<std::set<int>> wakes(n);
        // Of a "becomes" it takes two values to go on for ever: who sets what, over all rules.
        std::map<int, std::set<double>> values;
        std::set<int> moves;
        for (const auto& one : book_.rules())
            if (one.rule->on)
                eachSet(
                    one, book_,
                    [&](int s, std::optional<double> v) {
                        if (v)
                            values[s].insert(*v);
                        else
                            moves.insert(s);
                    },
                    [](int) {});
        for (std::size_t i = 0; i < n; ++i)
            if (book_.rules()[i].rule->on)
                eachSet(
                    book_.rules()[i], book_,
                    [&](int s, std::optional<double> v) {
                        for (const int w : book_.known()[static_cast<std::size_t>(s)].watches) {
                            const auto& watch = book_.watches()[static_cast<std::size_t>(w)];
                            const bool again =
                                watch.op == Book::Watch::Op::moment || moves.count(s) || values[s].size() > 1;
                            if (again && answers(watch, v))
                                wakes[i].insert(watch.rule);
                        }
                    },
                    [&](int rule) { wakes[i].insert(rule); });
        // Each round once, at its first rule.
        std::vector<int> state(n, 0);
        std::vector<int> way;
        std::set<int> told;
        const std::function<void(int)> go = [&](int i) {
            state[static_cast<std::size_t>(i)] = 1;
            way.push_back(i);
            for (const int next : wakes[static_cast<std::size_t>(i)]) {
                if (state[static_cast<std::size_t>(next)] == 1 && told.insert(next).second) {
                    const auto begin = std::find(way.begin(), way.end(), next);
                    std::vector<std::string> ids;
                    std::string text;
                    for (auto it = begin; it != way.end(); ++it) {
                        ids.push_back(rule(*it)->id);
                        text += (text.empty() ? "\u201c" : " wakes \u201c") + named(*rule(*it)) + "\u201d";
                    }
                    add(Kind::forEver, next,
                        text + " wakes \u201c" + named(*rule(next)) + "\u201d, and so on without a pause.",
                        "Let one of them wait, or wake for something else.", ids);
                } else if (state[static_cast<std::size_t>(next)] == 0 && way.size() < 5000) {
                    go(next);
                }
            }
            way.pop_back();
            state[static_cast<std::size_t>(i)] = 2;
        };
        for (std::size_t i = 0; i < n; ++i)
            if (state[i] == 0)
                go(static_cast<int>(i));
    }

    // ---- fights ----
    static bool sameMoment(const Book::Watch& a, const Book::Watch& b) {
        if (a.op != b.op || a.hold != b.hold)
            return false;
        if (a.op != Book::Watch::Op::clock)
            return a.signal == b.signal && std::abs(a.value - b.value) < 1e-9;
        return a.clock.kind == b.clock.kind && a.clock.ofDay == b.clock.ofDay && a.clock.rise == b.clock.rise &&
               a.clock.every == b.clock.every && (a.clock.days.set & b.clock.days.set) != 0;
    }
    // What a rule sets in its own moment, where no condition keeps two apart.
    std::map<int, double> setsOf(int number) const {
        std::map<int, double> all;
        for (const auto& a : book_.rules()[static_cast<std::size_t>(number)].then) {
            if (a.op == Book::Act::Op::wait)
                break;
            if (a.op == Book::Act::Op::set)
                all[a.signal] = a.value;
            else if (a.op == Book::Act::Op::recall)
                for (const auto& [path, v] : p_.scene(a.what)->values)
                    if (const int i = book_.find(path); i >= 0)
                        all[i] = v;
        }
        return all;
    }
    void fights() {
        std::map<std::pair<int, int>, std::vector<const Book::Watch*>> groups; // by operation and signal
        for (const auto& w : book_.watches())
            groups[{static_cast<int>(w.op), w.signal}].push_back(&w);
        std::set<std::pair<int, int>> told;
        for (const auto& [_, list] : groups)
            for (std::size_t i = 0; i < list.size(); ++i)
                for (std::size_t k = i + 1; k < list.size() && k < i + 200; ++k) {
                    const int a = list[i]->rule, b = list[k]->rule;
                    if (a == b || !sameMoment(*list[i], *list[k]) || told.count({a, b}) || keptApart(a, b))
                        continue;
                    const auto mine = setsOf(a), others = setsOf(b);
                    for (const auto& [s, v] : mine)
                        if (const auto it = others.find(s); it != others.end() && std::abs(it->second - v) > 1e-9) {
                            told.insert({a, b});
                            add(Kind::fight, b,
                                "At the same moment \u201c" + named(*rule(a)) + "\u201d sets " + signal(s).label +
                                    " to " + valueText(signal(s), v) + " and this one to " +
                                    valueText(signal(s), it->second) + "; the lower in the list wins.",
                                "Give them conditions that keep them apart, or take one of them out.");
                            break;
                        }
                }
    }
    bool keptApart(int a, int b) const {
        const auto& one = book_.rules()[static_cast<std::size_t>(a)];
        const auto& other = book_.rules()[static_cast<std::size_t>(b)];
        if (one.rule->needs != Rule::Needs::all || other.rule->needs != Rule::Needs::all)
            return false;
        for (const auto& x : one.checks)
            for (const auto& y : other.checks) {
                if (x.signal >= 0 && x.signal == y.signal && apart(x, y))
                    return true;
                if (x.op == Book::Check::Op::days && y.op == Book::Check::Op::days && (x.days.set & y.days.set) == 0)
                    return true;
            }
        return false;
    }

    // ---- scenes ----
    void scenes() {
        for (const auto& s : p_.scenes) {
            std::size_t lost = 0;
            std::string first;
            for (const auto& [path, _] : s.values)
                if (!signalOf(p_, path) && lost++ == 0)
                    first = path;
            if (lost == 0 && !s.values.empty())
                continue;
            RuleTrouble t{Kind::emptyScene};
            t.what = s.id;
            t.reason = s.values.empty()
                           ? "It sets nothing."
                           : std::to_string(lost) + " of its " + std::to_string(s.values.size()) +
                                 " values are of what is not there any more, such as " + first.substr(0, 80) + ".";
            t.remedy = "Keep it anew, or take them out in Rules.";
            all_.push_back(std::move(t));
        }
    }

    const Book& book_;
    const Project& p_;
    std::vector<RuleTrouble> all_{};
};

} // namespace

std::vector<RuleTrouble> lookOver(const RuleBook& book) {
    return Looker(book).run();
}

} // namespace loom::project
