#include "rules/rule_run.h"
#include "dsp/number.h"
#include "rules/fade.h"
#include "rules/sentence.h"
#include "schema/json_text.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

constexpr Millis longestMemory = 9 * dayLong;  // what lies longer back is not looked for
constexpr Millis largeJump = 25 * 60 * minute; // of the clock backwards: it was quite wrong
constexpr Millis rewindFor = 60;               // ms that a player is off before it begins anew
constexpr std::size_t longestKept = 1u << 20;  // bytes of what is remembered

bool same(const engine::ParamSpec& spec, double a, double b) {
    const bool number = spec.unit != engine::Unit::choice && spec.unit != engine::Unit::onOff;
    return std::abs(a - b) <= (number ? 1e-6 * std::max(1.0, std::abs(b)) : 0.25);
}

} // namespace

RuleRun::RuleRun(Project project, const std::optional<RuleShare>& share) : book_(std::move(project), share) {
    running_.resize(book_.rules().size());
    seen_.resize(book_.watches().size());
    for (std::size_t i = 0; i < book_.watches().size(); ++i)
        if (book_.watches()[i].op == Watch::Op::clock)
            ticking_.push_back({static_cast<int>(i)});
    if (share)
        startScenes_ = share->scenes;
    grow();
    for (const auto& w : book_.wrong()) {
        auto e = event(RuleEvent::Kind::failed, w.rule);
        e.part = w.part, e.otherwise = w.otherwise, e.clause = w.clause;
        e.text = w.why.message;
        tell(e);
    }
}

RuleRun::~RuleRun() = default;

void RuleRun::grow() {
    values_.resize(book_.known().size());
}

RuleEvent RuleRun::event(RuleEvent::Kind kind, int rule) const {
    RuleEvent e;
    e.kind = kind;
    e.utc = utc(now_);
    if (rule >= 0)
        e.rule = book_.rules()[static_cast<std::size_t>(rule)].rule->id;
    return e;
}

void RuleRun::tell(RuleEvent e) {
    events_.push_back(std::move(e));
}

std::string RuleRun::keyOf(const Watch& w) const {
    const Rule& r = *book_.rules()[static_cast<std::size_t>(w.rule)].rule;
    std::string key = r.id;
    for (const auto& [slot, text] : r.when[static_cast<std::size_t>(w.clause)].gaps)
        key += "|" + slot + "=" + text;
    return key;
}

// ---- memory ----

std::string RuleRun::kept() const {
    nlohmann::json j;
    j["utc"] = utc(now_);
    auto& done = j["done"] = nlohmann::json::object();
    for (const auto& t : ticking_)
        if (t.last > 0)
            done[keyOf(book_.watches()[static_cast<std::size_t>(t.watch)])] = t.last;
    j["scenes"] = lastScene_;
    auto kept = keptOf_;
    for (const auto& [id, box] : scripts_)
        kept[id] = box->kept();
    j["scripts"] = kept;
    return j.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

void RuleRun::restore(const std::string& text) {
    if (text.empty() || text.size() > longestKept)
        return;
    const auto j = schema::parseJson(text, "");
    if (!j || !j->is_object())
        return;
    const auto utcThen = j->value("utc", nlohmann::json());
    if (utcThen.is_number_integer())
        rememberedUtc_ = utcThen.get<Millis>();
    const auto done = j->value("done", nlohmann::json());
    const auto scenes = j->value("scenes", nlohmann::json()), scripts = j->value("scripts", nlohmann::json());
    if (done.is_object())
        for (const auto& [key, at] : done.items())
            if (at.is_number_integer())
                lastDone_[key] = at.get<Millis>();
    if (scenes.is_object())
        for (const auto& [room, id] : scenes.items())
            if (id.is_string())
                lastScene_[room] = id.get<std::string>();
    if (scripts.is_object())
        for (const auto& [id, what] : scripts.items())
            if (what.is_string())
                keptOf_[id] = what.get<std::string>();
    for (auto& t : ticking_)
        if (const auto it = lastDone_.find(keyOf(book_.watches()[static_cast<std::size_t>(t.watch)]));
            it != lastDone_.end())
            t.last = it->second;
}

// ---- what happens ----

bool RuleRun::met(const Watch& w, double v) const {
    switch (w.op) {
    case Watch::Op::becomes:
        return same(book_.known()[static_cast<std::size_t>(w.signal)].signal.spec, v, w.value);
    case Watch::Op::above:
        return v > w.value;
    case Watch::Op::below:
        return v < w.value;
    default:
        return false;
    }
}

void RuleRun::know(const std::string& path, double v) {
    const int i = book_.find(path);
    if (i < 0 || !std::isfinite(v))
        return;
    const auto& known = book_.known()[static_cast<std::size_t>(i)];
    if (known.signal.pulse)
        return;
    values_[static_cast<std::size_t>(i)] = v;
    for (const int w : known.watches) {
        auto& seen = seen_[static_cast<std::size_t>(w)];
        seen.met = met(book_.watches()[static_cast<std::size_t>(w)], v);
        ++seen.turn;
    }
}

void RuleRun::expect(const std::string& path) {
    (void)book_.know(path);
    grow();
}

void RuleRun::aim(std::size_t number, Millis after) {
    auto& t = ticking_[number];
    clocks_.erase({t.next, static_cast<int>(number)});
    const auto& w = book_.watches()[static_cast<std::size_t>(t.watch)];
    if (const auto next = w.clock.next(after, book_.zone(), project().place)) {
        t.next = *next;
        clocks_.insert({t.next, static_cast<int>(number)});
    }
}

void RuleRun::start(Millis now, Millis utcNow, bool power) {
    now_ = now;
    ahead_ = utcNow - now;
    started_ = true;
    if (rememberedUtc_ > 0 && rememberedUtc_ < utcNow)
        lookForMissed(rememberedUtc_, utcNow, 0);
    for (std::size_t i = 0; i < ticking_.size(); ++i)
        aim(i, utcNow);
    if (!power)
        return drain();
    for (const auto& s : project().scenes)
        if (s.atStart &&
            (!startScenes_ || std::find(startScenes_->begin(), startScenes_->end(), s.id) != startScenes_->end())) {
            for (const auto& [path, _] : s.values)
                book_.know(path);
            grow();
            recall(s, -1, -1, -1);
        }
    if (const int i = book_.find(startPath); i >= 0)
        changed(i, {}, 1);
    drain();
}

// The last moment of each clock that lies in between and was not done.
void RuleRun::lookForMissed(Millis since, Millis until, Millis tolerated) {
    for (auto& t : ticking_) {
        const auto& w = book_.watches()[static_cast<std::size_t>(t.watch)];
        if (w.clock.kind == RuleClock::Kind::every)
            continue;
        auto at = std::max({since, t.last, until - longestMemory});
        std::optional<Millis> last;
        while (const auto next = w.clock.next(at, book_.zone(), project().place)) {
            if (*next > until)
                break;
            last = at = *next;
        }
        if (!last)
            continue;
        t.last = *last;
        if (until - *last <= std::max(tolerated, w.clock.late)) {
            waking_.push_back({w.rule, w.clause, until - *last > tolerated, *last});
        } else {
            auto e = event(RuleEvent::Kind::missed, w.rule);
            e.clause = w.clause;
            e.text = momentText(*last, book_.zone());
            tell(e);
        }
    }
}

void RuleRun::clock(Millis now, Millis utcNow) {
    advance(now);
    const Millis before = utc(now_), by = utcNow - before;
    if (by == 0 || !started_)
        return;
    ahead_ += by;
    if (by > 0)
        lookForMissed(before, utcNow, by <= smallJump ? by : 0);
    for (std::size_t i = 0; i < ticking_.size(); ++i) {
        auto& t = ticking_[i];
        const bool every = book_.watches()[static_cast<std::size_t>(t.watch)].clock.kind == RuleClock::Kind::every;
        if (by < -largeJump) // what was done lies in a future that is none
            t.last = std::min(t.last, utcNow);
        aim(i, every ? utcNow : std::max(utcNow, t.last));
    }
    drain();
}

void RuleRun::input(Millis now, const std::string& path, double v) {
    step(now);
    const int i = path.rfind(scenePrefix, 0) == 0 ? book_.know(path) : book_.find(path);
    grow();
    if (i < 0 || !std::isfinite(v))
        return drain();
    const auto& s = book_.known()[static_cast<std::size_t>(i)].signal;
    if (s.pulse) {
        auto e = event(RuleEvent::Kind::happened);
        e.path = path;
        tell(e);
        give(i, -1);
        return drain();
    }
    const auto before = values_[static_cast<std::size_t>(i)];
    if (before == v)
        return drain();
    erase_if(fades_, [&](const Fade& f) { return f.signal == i; }); // somebody else moves it
    if (!s.fast) {
        auto e = event(RuleEvent::Kind::happened);
        e.path = path;
        e.from = before, e.to = v;
        tell(e);
    }
    changed(i, before, v);
    drain();
}

void RuleRun::recalled(Millis now, const std::string& path) {
    step(now);
    const auto id = behind(path, scenePrefix);
    const auto* scene = id ? project().scene(*id) : nullptr;
    if (scene) {
        lastScene_[scene->room] = scene->id;
        if (const int i = book_.find(path); i >= 0) {
            auto e = event(RuleEvent::Kind::happened);
            e.path = path;
            tell(e);
            changed(i, {}, 1);
        }
    }
    drain();
}

void RuleRun::changed(int i, std::optional<double> before, double v) {
    const auto& known = book_.known()[static_cast<std::size_t>(i)];
    if (!known.signal.pulse)
        values_[static_cast<std::size_t>(i)] = v;
    for (const int n : known.watches) {
        const auto& w = book_.watches()[static_cast<std::size_t>(n)];
        auto& seen = seen_[static_cast<std::size_t>(n)];
        if (w.op == Watch::Op::moment || w.op == Watch::Op::changes) {
            if (w.op == Watch::Op::moment || (before && *before != v))
                waking_.push_back({w.rule, w.clause});
            continue;
        }
        const bool was = seen.met, is = met(w, v);
        seen.met = is;
        if (was == is)
            continue;
        ++seen.turn;
        if (!is || (!before && !known.signal.fast)) // how it is when it becomes known is no change
            continue;
        if (w.hold > 0)
            due_.emplace(now_ + w.hold, Due{Due::Kind::hold, n, seen.turn});
        else
            waking_.push_back({w.rule, w.clause});
    }
}

void RuleRun::wake(Millis now, const std::string& rule) {
    step(now);
    if (const int i = book_.ruleOf(rule); i >= 0)
        waking_.push_back({i, -1});
    drain();
}

void RuleRun::advance(Millis now) {
    step(now);
}

std::optional<Millis> RuleRun::due() const {
    std::optional<Millis> t;
    const auto take = [&](Millis at) { t = t ? std::min(*t, at) : at; };
    if (!due_.empty())
        take(due_.begin()->first);
    if (!fades_.empty())
        take(fadeDue_);
    if (!clocks_.empty())
        take(clocks_.begin()->first - ahead_);
    return t;
}

void RuleRun::tick(std::size_t number) {
    auto& t = ticking_[number];
    const auto& w = book_.watches()[static_cast<std::size_t>(t.watch)];
    t.last = t.next;
    waking_.push_back({w.rule, w.clause});
    aim(number, t.last);
}

void RuleRun::step(Millis to) {
    drain();
    while (const auto t = due()) {
        if (*t > to)
            break;
        now_ = std::max(now_, *t);
        if (!clocks_.empty() && clocks_.begin()->first - ahead_ <= now_) {
            tick(static_cast<std::size_t>(clocks_.begin()->second));
        } else if (!due_.empty() && due_.begin()->first <= now_) {
            const Due d = due_.begin()->second;
            due_.erase(due_.begin());
            if (d.kind == Due::Kind::hold) {
                const auto& w = book_.watches()[static_cast<std::size_t>(d.which)];
                const auto& seen = seen_[static_cast<std::size_t>(d.which)];
                if (seen.met && seen.turn == d.turn)
                    waking_.push_back({w.rule, w.clause});
            } else if (auto& r = running_[static_cast<std::size_t>(d.which)]; r.at && r.turn == d.turn) {
                if (r.script) {
                    const auto& one = book_.rules()[static_cast<std::size_t>(d.which)];
                    const auto& a = (r.otherwise ? one.otherwise : one.then)[r.next - 1];
                    scriptRule_ = d.which, scriptClause_ = a.clause;
                    const auto outcome = scripts_.at(a.what)->resume(*r.script);
                    scriptRule_ = -1;
                    if (after(d.which, outcome, a))
                        run(d.which);
                } else {
                    run(d.which);
                }
            }
        } else {
            fadeAll();
        }
        drain();
    }
    now_ = std::max(now_, to);
}

void RuleRun::drain() {
    while (!waking_.empty()) {
        const auto w = waking_.front();
        waking_.pop_front();
        begin(w);
    }
}

// ---- a rule ----

void RuleRun::begin(const Waking& w) {
    auto& r = running_[static_cast<std::size_t>(w.rule)];
    const auto& one = book_.rules()[static_cast<std::size_t>(w.rule)];
    const auto say = [&](RuleEvent::Kind kind) {
        auto e = event(kind, w.rule);
        e.part = Part::trigger, e.clause = w.clause;
        if (w.made)
            e.text = momentText(w.missed, book_.zone());
        tell(e);
    };
    if (!one.rule->on)
        return;
    if (!one.here) {
        auto e = event(RuleEvent::Kind::failed, w.rule);
        e.text = "it is at work on another processor";
        return tell(e);
    }
    if (r.wokenAt != now_)
        r.wokenAt = now_, r.wakes = 0;
    if (++r.wakes > mostWakes) {
        if (r.wakes == mostWakes + 1)
            say(RuleEvent::Kind::stopped);
        return;
    }
    if (r.at) {
        if (one.rule->again == Rule::Again::ignore)
            return say(RuleEvent::Kind::ignored);
        if (one.rule->again == Rule::Again::queue) {
            r.queued = std::min(r.queued + 1, mostQueued);
            return say(RuleEvent::Kind::queued);
        }
        say(RuleEvent::Kind::restarted);
        stop(w.rule);
    }
    say(w.made ? RuleEvent::Kind::made : RuleEvent::Kind::woke);
    ++r.turn;
    r.at = true;
    r.next = 0;
    r.script.reset();
    r.otherwise = !holds(w.rule);
    run(w.rule);
}

void RuleRun::stop(int rule) {
    auto& r = running_[static_cast<std::size_t>(rule)];
    if (r.script) {
        const auto& one = book_.rules()[static_cast<std::size_t>(rule)];
        const auto& a = (r.otherwise ? one.otherwise : one.then)[r.next - 1];
        scripts_.at(a.what)->drop(*r.script);
    }
    r.script.reset();
    r.at = false;
    ++r.turn;
}

bool RuleRun::holds(int rule) {
    const auto& one = book_.rules()[static_cast<std::size_t>(rule)];
    if (one.rule->only.empty())
        return true;
    const auto here = book_.zone().local(utc(now_));
    std::size_t good = 0;
    std::vector<RuleEvent> told;
    for (const auto& k : one.checks) {
        std::optional<double> v;
        if (k.signal >= 0)
            v = values_[static_cast<std::size_t>(k.signal)];
        bool is = false;
        using Op = RuleBook::Check::Op;
        switch (k.op) {
        case Op::is:
        case Op::isNot:
            is = v &&
                 same(book_.known()[static_cast<std::size_t>(k.signal)].signal.spec, *v, k.value) == (k.op == Op::is);
            break;
        case Op::over:
            is = v && *v > k.value;
            break;
        case Op::under:
            is = v && *v < k.value;
            break;
        case Op::between:
            is = k.from <= k.to ? here.ofDay >= k.from && here.ofDay < k.to : here.ofDay >= k.from || here.ofDay < k.to;
            break;
        case Op::days:
            is = k.days.has(here.day) && !k.except.has(here.day);
            break;
        case Op::last: {
            const auto it = lastScene_.find(project().scene(k.scene)->room);
            is = it != lastScene_.end() && it->second == k.scene;
            break;
        }
        }
        good += is;
        if (is == (one.rule->needs != Rule::Needs::none))
            continue;
        auto e = event(RuleEvent::Kind::held, rule);
        e.part = Part::condition, e.clause = k.clause;
        if (k.signal >= 0)
            e.path = book_.known()[static_cast<std::size_t>(k.signal)].signal.path;
        e.to = v;
        told.push_back(std::move(e));
    }
    // One that cannot be read does not hold.
    const bool all = one.rule->needs == Rule::Needs::all   ? good == one.rule->only.size()
                     : one.rule->needs == Rule::Needs::any ? good > 0
                                                           : good == 0;
    if (!all)
        for (auto& e : told)
            tell(std::move(e));
    return all;
}

void RuleRun::run(int rule) {
    auto& r = running_[static_cast<std::size_t>(rule)];
    const auto& one = book_.rules()[static_cast<std::size_t>(rule)];
    const auto& list = r.otherwise ? one.otherwise : one.then;
    while (r.next < list.size()) {
        const auto& a = list[r.next++];
        if (!act(rule, a))
            return;
    }
    r.at = false;
    if (r.queued > 0) {
        --r.queued;
        waking_.push_back({rule, -1});
    }
}

void RuleRun::acted(int rule, const Act& a, const std::string& text) {
    auto e = event(RuleEvent::Kind::did, rule);
    e.part = Part::action, e.clause = a.clause;
    e.otherwise = running_[static_cast<std::size_t>(rule)].otherwise;
    e.text = text;
    tell(e);
}

bool RuleRun::act(int rule, const Act& a) {
    auto& r = running_[static_cast<std::size_t>(rule)];
    const auto later = [&](Millis after) {
        due_.emplace(now_ + after, Due{Due::Kind::resume, rule, r.turn});
        return false;
    };
    const auto known = a.signal >= 0 ? values_[static_cast<std::size_t>(a.signal)] : std::nullopt;
    const auto surface = [&](RuleOutput::Kind kind) {
        RuleOutput o;
        o.kind = kind, o.path = a.what, o.text = a.text,
        o.rule = book_.rules()[static_cast<std::size_t>(rule)].rule->id;
        if (kind == RuleOutput::Kind::say)
            o.value = static_cast<double>(a.over) / 1000;
        outputs_.push_back(std::move(o));
        acted(rule, a);
    };
    switch (a.op) {
    case Act::Op::set:
        set(a.signal, a.value, a.over, Scene::Switches::start, rule, a.clause);
        return true;
    case Act::Op::step:
        if (known)
            set(a.signal, *known + a.value, a.over, Scene::Switches::start, rule, a.clause);
        return true;
    case Act::Op::toggle:
        set(a.signal, known.value_or(0) >= 0.5 ? 0 : 1, -1, Scene::Switches::start, rule, a.clause);
        return true;
    case Act::Op::rewind:
        if (known.value_or(0) < 0.5)
            return true;
        put(a.signal, 0, book_.rules()[static_cast<std::size_t>(rule)].rule->id);
        return later(rewindFor);
    case Act::Op::recall:
        acted(rule, a);
        recall(*project().scene(a.what), a.over, rule, a.clause);
        return true;
    case Act::Op::give:
        acted(rule, a);
        give(a.signal, rule);
        return true;
    case Act::Op::wait:
        return later(a.over);
    case Act::Op::page:
        surface(RuleOutput::Kind::page);
        return true;
    case Act::Op::open:
        surface(RuleOutput::Kind::open);
        return true;
    case Act::Op::close:
        surface(RuleOutput::Kind::close);
        return true;
    case Act::Op::say:
        surface(RuleOutput::Kind::say);
        return true;
    case Act::Op::call: {
        RuleOutput o;
        o.kind = RuleOutput::Kind::call;
        o.path = book_.known()[static_cast<std::size_t>(a.signal)].signal.path;
        o.text = a.what, o.number = a.text, o.rule = book_.rules()[static_cast<std::size_t>(rule)].rule->id;
        outputs_.push_back(std::move(o));
        acted(rule, a);
        return true;
    }
    case Act::Op::wake:
        acted(rule, a);
        if (!book_.has(a.rule)) { // whoever runs it hears of it
            RuleOutput o;
            o.kind = RuleOutput::Kind::given;
            o.path = "rule:" + book_.rules()[static_cast<std::size_t>(a.rule)].rule->id;
            o.rule = book_.rules()[static_cast<std::size_t>(rule)].rule->id;
            outputs_.push_back(std::move(o));
            return true;
        }
        waking_.push_back({a.rule, -1});
        return true;
    case Act::Op::note: {
        RuleOutput o;
        o.kind = RuleOutput::Kind::note;
        o.text = a.text, o.rule = book_.rules()[static_cast<std::size_t>(rule)].rule->id;
        outputs_.push_back(std::move(o));
        acted(rule, a);
        return true;
    }
    case Act::Op::script: {
        auto& box = scripts_[a.what];
        if (!box) {
            const auto* s = project().script(a.what);
            box = std::make_unique<ScriptBox>(s->text, static_cast<ScriptDesk&>(*this));
            if (const auto it = keptOf_.find(a.what); it != keptOf_.end())
                box->restore(it->second);
        }
        acted(rule, a);
        scriptRule_ = rule, scriptClause_ = a.clause;
        int number = 0;
        const auto outcome = box->run(number);
        scriptRule_ = -1;
        r.script = number;
        return after(rule, outcome, a);
    }
    }
    return true;
}

// What a script came to. False: it waits.
bool RuleRun::after(int rule, const ScriptOutcome& outcome, const Act& a) {
    auto& r = running_[static_cast<std::size_t>(rule)];
    if (outcome.kind == ScriptOutcome::Kind::waits) {
        due_.emplace(now_ + std::max<Millis>(1, std::llround(outcome.seconds * 1000)),
                     Due{Due::Kind::resume, rule, r.turn});
        return false;
    }
    r.script.reset();
    if (outcome.kind == ScriptOutcome::Kind::failed) {
        auto e = event(RuleEvent::Kind::failed, rule);
        e.part = Part::action, e.clause = a.clause, e.otherwise = r.otherwise;
        const auto* s = project().script(a.what);
        e.text = (s->name.empty() ? s->id : s->name) + ", " + outcome.error;
        tell(e);
    }
    return true;
}

// ---- what is set ----

void RuleRun::put(int i, double v, const std::string& rule) {
    const auto& s = book_.known()[static_cast<std::size_t>(i)].signal;
    const auto before = values_[static_cast<std::size_t>(i)];
    RuleOutput o;
    o.kind = RuleOutput::Kind::set;
    o.path = s.path, o.value = v, o.rule = rule;
    outputs_.push_back(std::move(o));
    if (before != v)
        changed(i, before ? before : std::optional(v), v);
}

void RuleRun::set(int i, double v, Millis over, Scene::Switches switches, int rule, int clause) {
    const auto& s = book_.known()[static_cast<std::size_t>(i)].signal;
    v = std::clamp(v, s.spec.min, s.spec.max);
    const auto before = values_[static_cast<std::size_t>(i)];
    erase_if(fades_, [&](const Fade& f) { return f.signal == i; });
    const auto id = rule < 0 ? std::string() : book_.rules()[static_cast<std::size_t>(rule)].rule->id;
    const bool fades = over > 0 && before && *before != v;
    if (before != v) {
        auto e = event(RuleEvent::Kind::set, rule);
        e.part = Part::action, e.clause = clause;
        e.otherwise = rule >= 0 && running_[static_cast<std::size_t>(rule)].otherwise;
        e.path = s.path;
        e.from = before, e.to = v;
        e.over = fades ? over : 0;
        tell(e);
    }
    if (!fades)
        return put(i, v, id);
    if (fades_.empty())
        fadeDue_ = (now_ / fadeStep + 1) * fadeStep;
    fades_.push_back({i, *before, v, now_, over, switches, id});
    put(i, fadeValue(s.spec, *before, v, 0, switches), id);
}

void RuleRun::fadeAll() {
    const auto moving = fades_; // what is set may begin others
    fadeDue_ = (now_ / fadeStep + 1) * fadeStep;
    erase_if(fades_, [&](const Fade& f) { return now_ - f.begin >= f.length; });
    for (const auto& f : moving) {
        const auto& spec = book_.known()[static_cast<std::size_t>(f.signal)].signal.spec;
        const double x = static_cast<double>(now_ - f.begin) / static_cast<double>(f.length);
        put(f.signal, fadeValue(spec, f.from, f.to, x, f.switches), f.rule);
    }
}

void RuleRun::give(int i, int rule) {
    const auto path = book_.known()[static_cast<std::size_t>(i)].signal.path;
    if (const auto id = behind(path, scenePrefix)) {
        if (const auto* s = project().scene(*id)) {
            for (const auto& [one, _] : s->values)
                book_.know(one);
            grow();
            recall(*s, -1, rule, -1);
        }
        return;
    }
    RuleOutput o;
    o.kind = RuleOutput::Kind::given;
    o.path = path;
    o.rule = rule < 0 ? "" : book_.rules()[static_cast<std::size_t>(rule)].rule->id;
    outputs_.push_back(std::move(o));
    changed(i, {}, 1);
}

void RuleRun::recall(const Scene& scene, Millis over, int rule, int clause) {
    const Millis length = over >= 0 ? over : static_cast<Millis>(std::llround(scene.fade * 1000));
    for (const auto& [path, v] : scene.values)
        if (const int i = book_.find(path); i >= 0 && book_.known()[static_cast<std::size_t>(i)].signal.settable)
            set(i, v, length, scene.switches, rule, clause);
    lastScene_[scene.room] = scene.id;
    RuleOutput o;
    o.kind = RuleOutput::Kind::given;
    o.path = scenePrefix + scene.id;
    o.rule = rule < 0 ? "" : book_.rules()[static_cast<std::size_t>(rule)].rule->id;
    outputs_.push_back(std::move(o));
    if (const int i = book_.find(scenePrefix + scene.id); i >= 0)
        changed(i, {}, 1);
}

std::optional<double> RuleRun::value(const std::string& path) const {
    const int i = book_.find(path);
    return i < 0 ? std::nullopt : values_[static_cast<std::size_t>(i)];
}

bool RuleRun::busy() const {
    return !fades_.empty() || !due_.empty();
}

// ---- what scripts ask for ----

std::optional<double> RuleRun::scriptGet(const std::string& path) {
    return value(path);
}

std::string RuleRun::scriptGetText(const std::string& path) {
    const int i = book_.find(path);
    const auto v = value(path);
    return v ? valueText(book_.known()[static_cast<std::size_t>(i)].signal, *v) : std::string();
}

std::optional<Error> RuleRun::scriptSet(const std::string& path, const std::variant<double, std::string>& what,
                                        double seconds) {
    const int i = book_.know(path);
    grow();
    if (i < 0)
        return Error{"there is no " + path.substr(0, 80), "", ""};
    const auto s = book_.known()[static_cast<std::size_t>(i)].signal;
    if (!s.settable)
        return Error{s.label + " is not set by rules", "", ""};
    if (s.pulse) {
        give(i, scriptRule_);
        return {};
    }
    double v = 0;
    if (const auto* text = std::get_if<std::string>(&what)) {
        const auto read = readSignalValue(s, *text);
        if (!read)
            return read.error();
        v = *read;
    } else {
        v = std::get<double>(what);
        if (!(v >= s.spec.min && v <= s.spec.max))
            return Error{"the value is outside the range of " + s.label, "", ""};
    }
    set(i, v, static_cast<Millis>(std::llround(std::clamp(seconds, 0.0, longestFade) * 1000)), Scene::Switches::start,
        scriptRule_, scriptClause_);
    return {};
}

// As an action is typed.
std::optional<Error> RuleRun::scriptDo(const std::string& sentence) {
    const auto clause = readClause(project(), Part::action, sentence);
    if (!clause)
        return clause.error();
    if (clause->kind == "wait" || clause->kind == "script" || clause->kind == "play")
        return Error{"scripts do not do this by a sentence", "", ""};
    const auto acts = book_.compiled(*clause);
    if (!acts)
        return acts.error();
    grow();
    for (auto a : *acts) {
        a.clause = scriptClause_;
        (void)act(scriptRule_, a);
    }
    return {};
}

ScriptMoment RuleRun::scriptNow() {
    const auto here = book_.zone().local(utc(now_));
    const auto date = dateText(here.day);
    ScriptMoment m;
    m.year = wholeInteger(date.substr(0, 4), 0, 9999).value_or(1970);
    m.month = wholeInteger(date.substr(5, 2), 1, 12).value_or(1);
    m.day = wholeInteger(date.substr(8, 2), 1, 31).value_or(1);
    m.hour = static_cast<int>(here.ofDay / (60 * minute));
    m.minute = static_cast<int>(here.ofDay / minute % 60);
    m.second = static_cast<int>(here.ofDay / second % 60);
    m.weekday = weekday(here.day) + 1;
    m.seconds = static_cast<double>(now_) / 1000;
    return m;
}

} // namespace loom::project
