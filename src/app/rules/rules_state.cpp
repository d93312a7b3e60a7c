#include "app/rules/rules_state.h"
#include "app/bench/bench_engine.h"
#include "app/text.h"
#include "rules/scenes.h"
#include "rules/sentence.h"
#include <algorithm>

namespace loom::app {

using namespace project;

namespace {

constexpr int tickMs = 40;

bool touches(const std::string& space, const std::string& room) {
    return room.empty() || space.empty() || ("+" + space + "+").find("+" + room + "+") != std::string::npos;
}

} // namespace

RulesState::RulesState(Session& session, QObject* parent)
    : QObject(parent), session_(session), figurer_([this](std::optional<SceneFigures> f) {
          figures_ = std::move(f);
          emit chosenChanged();
      }),
      replayer_([this](std::unique_ptr<Rehearsal> r) {
          rehearsal_ = std::move(r);
          emit rehearsed();
      }),
      tester_([this](Tests t) {
          tests_ = std::move(t);
          emit testsDone();
      }) {
    timer_.setInterval(tickMs);
    connect(&timer_, &QTimer::timeout, this, [this] {
        if (!rehearsal_)
            return pause();
        owed_ += tickMs * times_;
        const auto by = static_cast<Millis>(owed_);
        owed_ -= static_cast<double>(by);
        goTo(rehearsal_->now() + by);
        if (rehearsal_->now() >= end())
            pause();
    });
    connect(&session, &Session::changed, this, &RulesState::refresh);
    connect(&session, &Session::surfacesChanged, this, &RulesState::refresh);
    connect(&session, &Session::opened, this, [this] {
        drop();
        room_.clear(), rule_.clear(), scene_.clear();
        occasion_.reset();
        tests_.reset();
        refresh();
    });
}

void RulesState::setSeen(bool seen) {
    seen_ = seen;
    if (seen && stale_)
        refresh();
}

void RulesState::refresh() {
    stale_ = !seen_;
    if (stale_)
        return;
    if (occasion_) { // it is listed anew: rules come and go
        const auto was = occasion_->trigger;
        occasion_.reset();
        for (auto& o : occasionsOf(project()))
            if (sameOccasion(o.trigger, was))
                occasion_ = std::move(o);
    }
    if (!rule()) {
        const auto all = rules();
        rule_ = all.empty() ? "" : all.front()->id;
        line_ = {}, gap_.clear();
    }
    if (line_.at >= 0 && !clause())
        line_ = {}, gap_.clear();
    if (!scene()) {
        const auto all = scenes();
        scene_ = all.empty() ? "" : all.front()->id;
    }
    chooseScene(scene_);
    rehearseAgain();
    tests_.reset();
    runTests();
    emit changed();
}

bool RulesState::edit(const Edit& edit) {
    return session_.edit(edit);
}

bool RulesState::edit(const Result<Edit>& edit) {
    if (!edit) {
        session_.report(edit.error());
        return false;
    }
    return session_.edit(*edit);
}

// ---- what is looked at ----

void RulesState::chooseRoom(const std::string& room) {
    if (room_ == room)
        return;
    room_ = room;
    const auto all = rules();
    if (std::none_of(all.begin(), all.end(), [&](const Rule* r) { return r->id == rule_; })) {
        rule_ = all.empty() ? "" : all.front()->id;
        line_ = {}, gap_.clear();
    }
    const auto list = scenes();
    if (std::none_of(list.begin(), list.end(), [&](const Scene* s) { return s->id == scene_; }))
        scene_ = list.empty() ? "" : list.front()->id;
    chooseScene(scene_);
    emit changed();
}

void RulesState::chooseOccasion(const std::optional<Occasion>& occasion) {
    occasion_ = occasion;
    const auto all = rules();
    if (std::none_of(all.begin(), all.end(), [&](const Rule* r) { return r->id == rule_; }))
        choose(all.empty() ? "" : all.front()->id);
    emit changed();
}

std::vector<const Rule*> RulesState::rules() const {
    std::vector<const Rule*> all;
    for (const auto& r : project().rules) {
        const bool woken = !occasion_ || std::any_of(r.when.begin(), r.when.end(), [&](const Clause& c) {
            return sameOccasion(c, occasion_->trigger);
        });
        if (woken && touches(r.room, room_))
            all.push_back(&r);
    }
    return all;
}

int RulesState::rulesHere() const {
    return static_cast<int>(std::count_if(project().rules.begin(), project().rules.end(),
                                          [this](const Rule& r) { return touches(r.room, room_); }));
}

const Rule* RulesState::rule() const {
    return project().rule(rule_);
}

void RulesState::choose(const std::string& rule, Line line, const std::string& gap) {
    rule_ = rule, line_ = line, gap_ = gap;
    emit chosenChanged();
}

const Clause* RulesState::clause() const {
    const auto* r = rule();
    if (!r || line_.at < 0)
        return nullptr;
    const auto& list = clausesOf(*r, line_.part);
    return static_cast<std::size_t>(line_.at) < list.size() ? &list[static_cast<std::size_t>(line_.at)] : nullptr;
}

std::vector<const Scene*> RulesState::scenes() const {
    std::vector<const Scene*> all;
    for (const auto& s : project().scenes)
        if (touches(s.room, room_))
            all.push_back(&s);
    return all;
}

const Scene* RulesState::scene() const {
    return project().scene(scene_);
}

void RulesState::chooseScene(const std::string& id) {
    scene_ = id;
    figures_.reset();
    if (const auto* s = scene())
        figurer_.start([p = project(), one = *s](std::stop_token stop) {
            return std::optional(project::figuresOf(p, one, stop));
        });
    emit chosenChanged();
}

// ---- edits ----

bool RulesState::addRule(const QString& name) {
    std::vector<Clause> when;
    if (occasion_)
        when.push_back(occasion_->trigger);
    const auto made = project::addRule(project(), name.toStdString(), room_, when);
    if (!edit(made))
        return false;
    const auto& last = project().rules[project().rules.size() - 1];
    choose(last.id);
    return true;
}

bool RulesState::addLine(const QString& typed) {
    const auto said = readRuleLine(project(), typed.toStdString());
    if (!said) {
        session_.report(said.error());
        return false;
    }
    const auto* r = rule();
    const auto shown = rules();
    if (!r || std::find(shown.begin(), shown.end(), r) == shown.end()) {
        const auto name = sentenceText(project(), partOf(said->part), said->clause).substr(0, 60);
        if (!addRule(q(name)))
            return false;
        r = rule();
    }
    const auto at = line_.part == said->part && line_.at >= 0 ? static_cast<std::size_t>(line_.at) + 1 : mostClauses;
    const auto where = std::min(at, clausesOf(*r, said->part).size());
    const auto id = r->id;
    if (!edit(addClause(id, said->part, said->clause, where)))
        return false;
    choose(id, {said->part, static_cast<int>(where)});
    return true;
}

bool RulesState::fill(const std::string& gap, const QString& typed) {
    const auto* r = rule();
    if (!r)
        return false;
    const auto* c = clause();
    if (!c)
        return edit(setRuleField(r->id, gap, typed.toStdString()));
    const auto then = withGap(project(), partOf(line_.part), *c, gap, typed.toStdString());
    if (!then) {
        session_.report(then.error());
        return false;
    }
    return edit(setClause(r->id, line_.part, static_cast<std::size_t>(line_.at), *then));
}

void RulesState::moveLine(int by) {
    const auto* r = rule();
    if (!r)
        return;
    if (line_.at < 0) {
        edit(moveRule(r->id, by));
        return;
    }
    const int n = static_cast<int>(clausesOf(*r, line_.part).size()), to = line_.at + by;
    if (to < 0 || to >= n)
        return;
    const auto line = Line{line_.part, to};
    if (edit(moveClause(r->id, line_.part, static_cast<std::size_t>(line_.at), by)))
        choose(rule_, line, gap_);
}

void RulesState::removeLine() {
    const auto* r = rule();
    if (!r)
        return;
    if (line_.at < 0)
        edit(removeRule(project(), r->id));
    else
        edit(removeClause(r->id, line_.part, static_cast<std::size_t>(line_.at)));
}

void RulesState::keepScene(const QString& name, const std::vector<std::string>& paths) {
    // What the rehearsal has set counts as now while one is watched.
    auto values = sceneValuesOf(project(), paths);
    if (rehearsal_)
        for (auto& [path, v] : values)
            if (const auto now = rehearsal_->value(path))
                v = *now;
    if (!edit(project::keepScene(project(), name.toStdString(), room_, values)))
        return;
    for (const auto& s : project().scenes)
        if (s.name == name.toStdString() && s.room == room_)
            chooseScene(s.id);
    emit changed();
}

// ---- rehearsal ----

void RulesState::begin(const QString& moment) {
    const auto zone = Zone::named(project().place.zone);
    const auto at = readMoment(moment.toStdString(), zone ? *zone : Zone());
    if (!at)
        return session_.report(at.error());
    pause();
    owed_ = 0;
    rehearsal_ = std::make_unique<Rehearsal>(project(), *at);
    rehearsal_->go(0);
    emit rehearsed();
}

void RulesState::drop() {
    pause();
    replayer_.stop();
    rehearsal_.reset();
    emit rehearsed();
}

// The same day with the rules as they are now.
void RulesState::rehearseAgain() {
    if (!rehearsal_)
        return;
    replayer_.start([p = project(), begins = rehearsal_->begins(), now = rehearsal_->now(),
                     day = rehearsal_->happened()](std::stop_token stop) {
        auto r = std::make_unique<Rehearsal>(p, begins);
        for (const auto& one : day)
            r->plan(one);
        for (Millis at = 0; at <= now && !stop.stop_requested(); at += 60 * minute)
            r->go(std::min(at, now));
        r->go(now);
        return r;
    });
}

void RulesState::play(double times) {
    if (!rehearsal_)
        return;
    times_ = times;
    timer_.start();
    emit rehearsed();
}

void RulesState::pause() {
    timer_.stop();
    emit rehearsed();
}

void RulesState::toEnd() {
    pause();
    goTo(end());
}

void RulesState::goTo(Millis at) {
    if (!rehearsal_ || at <= rehearsal_->now())
        return;
    rehearsal_->go(std::min(at, std::max(end(), rehearsal_->now())));
    heard();
    emit rehearsed();
}

// At the speed of life the bench plays what the rules set.
void RulesState::heard() {
    const auto* d = session_.device();
    if (times_ != 1 || !d || !session_.bench().running())
        return;
    for (const auto& o : rehearsal_->outputs())
        if (o.kind == RuleOutput::Kind::set)
            if (const auto at = findTarget(project(), o.path); at && at->device->id == d->id)
                session_.bench().tryValue(at->block->id, at->param, o.value);
}

bool RulesState::happen(const QString& typed) {
    if (!rehearsal_) {
        session_.report("Begin a rehearsal first.");
        return false;
    }
    const auto day = readDay(project(), "23:59 " + typed.toStdString(), 0);
    if (!day || day->empty()) {
        session_.report(day ? Error{"nothing was typed", "", ""} : Error{day.error().message, "", day.error().remedy});
        return false;
    }
    rehearsal_->happen(day->front().signal, day->front().value);
    heard();
    emit rehearsed();
    return true;
}

void RulesState::keepTest(const QString& name) {
    if (rehearsal_)
        edit(addTest(project(), testOf(*rehearsal_, "", name.toStdString())));
}

Millis RulesState::end() const {
    if (!rehearsal_)
        return 0;
    const auto& zone = rehearsal_->book().zone();
    return zone.utc(zone.local(rehearsal_->begins()).day + 1, 0) - rehearsal_->begins();
}

QString RulesState::timeText(Millis at) const {
    if (!rehearsal_)
        return {};
    return q(momentText(rehearsal_->begins() + at, rehearsal_->book().zone())).mid(11);
}

QString RulesState::nowText() const {
    return rehearsal_ ? timeText(rehearsal_->now()).left(5) : QString();
}

void RulesState::runTests() {
    if (project().ruleTests.empty()) {
        tests_ = Tests{};
        return;
    }
    tester_.start([p = project()](std::stop_token stop) {
        Tests t;
        for (const auto& one : p.ruleTests) {
            if (stop.stop_requested())
                break;
            const auto r = runTest(p, one);
            ++(r.passed ? t.hold : t.fail);
            if (!r.passed && t.first.isEmpty())
                t.first = q(one.name + ": " + r.failure);
        }
        return t;
    });
}

} // namespace loom::app
