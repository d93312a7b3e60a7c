#include "rules/rehearsal.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>
#include <set>
#include <sstream>

namespace loom::project {
namespace {

constexpr std::size_t mostLines = 20000;

// "12 s", "2 h 05 min"
std::string sinceText(double seconds) {
    return print("%g s", seconds);
}

} // namespace

Rehearsal::Rehearsal(Project project, Millis beginsUtc)
    : run_(std::make_unique<RuleRun>(std::move(project))), begins_(beginsUtc) {
    for (const auto& known : book().known())
        if (const auto v = restingValue(this->project(), known.signal))
            run_->know(known.signal.path, *v);
}

void Rehearsal::given(const std::string& signal, double v) {
    run_->know(signal, v);
    courses_[signal] = {{0, v}};
}

void Rehearsal::note(const std::string& signal, double v) {
    auto& course = courses_[signal];
    if (!course.empty() && course.back().first == now_)
        course.back().second = v;
    else
        course.emplace_back(now_, v);
}

void Rehearsal::take() {
    for (auto& e : run_->takeEvents())
        events_.push_back(std::move(e));
    outputs_ = run_->takeOutputs();
    for (const auto& o : outputs_)
        if (o.kind == RuleOutput::Kind::set)
            note(o.path, o.value);
}

void Rehearsal::plan(Happening one) {
    ahead_.emplace(one.at, std::move(one));
}

void Rehearsal::happen(const std::string& signal, double v) {
    go(now_);
    run_->input(now_, signal, v);
    happened_.push_back({now_, signal, v});
    note(signal, v);
    take();
}

std::optional<Millis> Rehearsal::due() const {
    auto t = run_->due();
    if (!ahead_.empty())
        t = t ? std::min(*t, ahead_.begin()->first) : ahead_.begin()->first;
    return started_ ? t : std::optional<Millis>(0);
}

void Rehearsal::go(Millis until) {
    if (!started_) {
        started_ = true;
        run_->start(0, begins_);
        take();
    }
    while (!ahead_.empty() && ahead_.begin()->first <= until) {
        const auto one = ahead_.begin()->second;
        ahead_.erase(ahead_.begin());
        // What fades on the way is noted at its own moments.
        for (auto t = run_->due(); t && *t < one.at; t = run_->due()) {
            now_ = std::max(now_, *t);
            run_->advance(*t);
            take();
        }
        now_ = std::max(now_, one.at);
        run_->input(now_, one.signal, one.value);
        happened_.push_back({now_, one.signal, one.value});
        note(one.signal, one.value);
        take();
    }
    for (auto t = run_->due(); t && *t <= until; t = run_->due()) {
        now_ = std::max(now_, *t);
        run_->advance(*t);
        take();
    }
    now_ = std::max(now_, until);
    run_->advance(now_);
    take();
}

void Rehearsal::clockJumps(Millis by) {
    go(now_);
    run_->clock(now_, run_->utc(now_) + by);
    take();
}

std::optional<double> Rehearsal::value(const std::string& signal) const {
    if (const auto v = run_->value(signal))
        return v;
    if (const auto it = courses_.find(signal); it != courses_.end() && !it->second.empty())
        return it->second.back().second;
    const auto s = signalOf(project(), signal);
    return s ? restingValue(project(), *s) : std::nullopt;
}

std::vector<std::pair<Millis, double>> Rehearsal::course(const std::string& signal) const {
    const auto it = courses_.find(signal);
    return it == courses_.end() ? std::vector<std::pair<Millis, double>>{} : it->second;
}

Result<std::vector<Happening>> readDay(const Project& p, const std::string& text, Millis beginsUtc) {
    const auto zone = Zone::named(p.place.zone);
    const Zone here = zone ? *zone : Zone();
    const int day = here.local(beginsUtc).day;
    std::vector<Happening> all;
    // The same names come again and again in a day, and are looked for once.
    std::map<std::string, Result<std::string>> names;
    const auto called = [&](const std::string& said) -> Result<std::string> {
        auto it = names.find(said);
        if (it == names.end())
            it = names.emplace(said, signalSaid(p, said)).first;
        return it->second;
    };
    std::istringstream lines(text);
    std::string line;
    for (int number = 1; std::getline(lines, line); ++number) {
        const auto at = "line " + std::to_string(number);
        while (!line.empty() && (line.back() == '\r' || line.back() == ' '))
            line.pop_back();
        const auto begin = line.find_first_not_of(' ');
        if (begin == std::string::npos || line[begin] == '#')
            continue;
        if (all.size() >= mostLines)
            return Error{"a day has at most 20,000 lines", at, "Split it."};
        line = line.substr(begin, 1000);
        const auto blank = line.find(' ');
        const auto time = readTimeOfDay(line.substr(0, blank));
        if (!time || blank == std::string::npos)
            return Error{"it does not begin with a time of day and something that happens", at,
                         "As in 08:30 wall:fold open."};
        const auto rest = line.substr(blank + 1);
        Happening one;
        one.at = here.utc(day, *time) - beginsUtc;
        if (one.at < 0)
            return Error{"it lies before the rehearsal begins", at, "Begin earlier."};
        // The value is the last word or words; what stands before it says what.
        Error why{"it does not say what becomes what", "", "As in 08:30 wall:fold open."};
        bool found = false;
        for (auto cut = rest.size(); cut != std::string::npos && cut > 0 && !found; cut = rest.rfind(' ', cut - 1)) {
            const auto name = called(rest.substr(0, cut));
            const auto signal = name ? signalOf(p, *name) : std::nullopt;
            if (!signal) {
                if (cut == rest.size())
                    why = name.error();
                continue;
            }
            if (signal->pulse == (cut == rest.size())) { // a moment is said by its name alone
                const auto v = signal->pulse ? Result<double>(1.0) : readSignalValue(*signal, rest.substr(cut + 1));
                found = bool(v);
                if (v)
                    one.signal = *name, one.value = *v;
                else
                    why = v.error();
            } else {
                why = {"it does not say what " + signal->label + " becomes", "", ""};
            }
        }
        if (!found)
            return Error{why.message, at, why.remedy};
        all.push_back(std::move(one));
    }
    return all;
}

// ---- tests ----

TestResult runTest(const Project& p, const RehearsalTest& test) {
    TestResult r;
    const auto zone = Zone::named(p.place.zone);
    const auto begins = readMoment(test.begins, zone ? *zone : Zone());
    if (!begins) {
        r.failure = begins.error().text();
        return r;
    }
    Rehearsal rehearsal(p, *begins);
    const auto valueOf = [&](const RehearsalStep& s) -> Result<double> {
        const auto signal = signalOf(p, s.signal);
        if (!signal)
            return Error{"there is no " + s.signal.substr(0, 80), "", ""};
        return signal->pulse ? Result<double>(1.0) : readSignalValue(*signal, s.to);
    };
    for (const auto& s : test.given) {
        const auto v = valueOf(s);
        if (!v) {
            r.failure = "given: " + v.error().message;
            return r;
        }
        rehearsal.given(s.signal, *v);
    }
    for (const auto& s : test.when) {
        const auto v = valueOf(s);
        if (!v) {
            r.failure = "when: " + v.error().message;
            return r;
        }
        rehearsal.plan({static_cast<Millis>(std::llround(s.at * 1000)), s.signal, *v});
    }
    auto looks = test.expect;
    std::stable_sort(looks.begin(), looks.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
    for (const auto& s : looks) {
        const auto at = static_cast<Millis>(std::llround(s.at * 1000));
        rehearsal.go(at);
        const auto signal = signalOf(p, s.signal);
        if (!signal) {
            r.failure = "there is no " + s.signal.substr(0, 80) + " any more";
            return r;
        }
        if (signal->pulse) { // given at any time until then
            const bool given = std::any_of(rehearsal.events().begin(), rehearsal.events().end(),
                                           [&](const RuleEvent& e) {
                                               return e.kind == RuleEvent::Kind::happened && e.path == s.signal;
                                           }) ||
                               !rehearsal.course(s.signal).empty();
            if (!given) {
                r.failure = "until " + sinceText(s.at) + " " + signal->label + " was not given";
                return r;
            }
            continue;
        }
        const auto want = readSignalValue(*signal, s.to);
        const auto is = rehearsal.value(s.signal);
        if (!want) {
            r.failure = want.error().text();
            return r;
        }
        const double slack = signal->isNumber() ? std::max(1e-6, 1e-6 * std::abs(*want)) : 0.25;
        if (!is || std::abs(*is - *want) > slack) {
            r.failure = "at " + sinceText(s.at) + " " + signal->label + " is " +
                        (is ? valueText(*signal, *is) : "not known") + " instead of " + valueText(*signal, *want);
            return r;
        }
    }
    r.events = rehearsal.events().size();
    r.passed = true;
    return r;
}

RehearsalTest testOf(const Rehearsal& rehearsal, const std::string& id, const std::string& name) {
    const auto& p = rehearsal.project();
    RehearsalTest t;
    t.id = id, t.name = name;
    t.begins = momentText(rehearsal.begins(), rehearsal.book().zone());
    const auto step = [&](Millis at, const std::string& path, double v) {
        RehearsalStep s;
        s.at = static_cast<double>(at) / 1000;
        s.signal = path;
        const auto signal = signalOf(p, path);
        s.to = !signal || signal->pulse ? "" : plainValue(*signal, v);
        return s;
    };
    for (const auto& h : rehearsal.happened())
        if (t.when.size() < mostTestSteps)
            t.when.push_back(step(h.at, h.signal, h.value));
    std::set<std::string> set;
    for (const auto& e : rehearsal.events())
        if (e.kind == RuleEvent::Kind::set)
            set.insert(e.path);
    for (const auto& path : set)
        if (const auto v = rehearsal.value(path); v && t.expect.size() < mostTestSteps)
            t.expect.push_back(step(rehearsal.now(), path, *v));
    return t;
}

} // namespace loom::project
