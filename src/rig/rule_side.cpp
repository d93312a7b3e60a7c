#include "rig/rule_side.h"
#include "dsp/number.h"
#include "rules/rule_home.h"
#include "surface/pack.h"
#include <algorithm>
#include <cmath>

namespace loom::rig {

using namespace project;

namespace {

constexpr double mostPresses = 20;   // that are made up for at once when the line was lost meanwhile
constexpr std::size_t mostWords = 4; // values that a note names

bool isButton(const std::string& signal) {
    return signal.rfind(buttonPrefix, 0) == 0;
}

double lineIndex(const std::string& how) {
    const auto& all = lineStates();
    const auto it = std::find(all.begin(), all.end(), how);
    return it == all.end() ? -1 : static_cast<double>(it - all.begin());
}

// "PAGE/PLY" with what is done with it, as one text for the line between devices.
std::optional<SurfaceOrder> readOrder(const std::string& does, const std::string& text) {
    SurfaceOrder o;
    o.what = text;
    if (does == "page")
        o.does = SurfaceOrder::Does::page;
    else if (does == "open")
        o.does = SurfaceOrder::Does::open;
    else if (does == "close")
        o.does = SurfaceOrder::Does::close;
    else if (does.rfind("say ", 0) == 0) {
        o.does = SurfaceOrder::Does::say;
        o.seconds = std::clamp(wholeNumber(does.substr(4)).value_or(10), 0.0, 86400.0);
    } else {
        return {};
    }
    return o;
}

} // namespace

RuleSide::RuleSide(ModelSource models, Owner owner, std::function<double()> clock, ValueSide& values)
    : models_(std::move(models)), owner_(std::move(owner)), clock_(std::move(clock)), values_(values) {}

Result<Done> RuleSide::check(const site::Config& config, const ModelSource& models) {
    if (config.rules.empty())
        return Done{};
    if (const auto packed = unpackRules(config.rules, models); !packed)
        return packed.error();
    return Done{};
}

Millis RuleSide::now() const {
    return static_cast<Millis>(std::llround(clock_() * 1000));
}

// ---- what it is told ----

void RuleSide::told(const site::Config& config) {
    const auto print = config.rules.empty() ? std::string() : packPrint(config.rules);
    if (print == print_ && !fresh_)
        return;
    const bool power = fresh_;
    fresh_ = false;
    if (run_)
        remember(true);
    print_ = print;
    run_.reset();
    locals_.clear(), fars_.clear(), local_.clear(), far_.clear();
    learnt_ = 0;
    pack_ = RulePack{};
    ValueSide::Needs needs;
    auto packed = config.rules.empty() ? Result<RulePack>(Error{}) : unpackRules(config.rules, models_);
    if (!packed) {
        values_.told(ValueSide::Whose::rules, {});
        return;
    }
    pack_ = std::move(*packed);
    needs.ids.insert(pack_.as);
    for (const auto& [path, use] : pack_.uses) {
        auto& own = needs.own[linkPath(pack_.as, path)];
        const auto signal = signalOf(pack_.project, path);
        if (const auto surface = behind(path, surfacePrefix)) {
            own.call = [this, id = *surface](const std::string& does, const std::string& text) {
                if (const auto order = readOrder(does, text))
                    owner_.show(id, *order);
            };
            own.read = [] { return 0.0; };
            continue;
        }
        const bool moment = path.rfind(rulePrefix, 0) == 0 || (signal && signal->pulse);
        if (moment) {
            own.read = [] { return 0.0; };
            own.call = [this, path = path, leads = use.sets](const std::string& does, const std::string&) {
                if (path.rfind(outsidePrefix, 0) == 0)
                    return (void)owner_.setState(path, 1, "A rule");
                if (!run_)
                    return;
                if (const auto rule = behind(path, rulePrefix))
                    run_->wake(now(), *rule);
                else if (does == "was")
                    run_->recalled(now(), path);
                else if (leads || path.rfind(scenePrefix, 0) != 0) // who only waits for a scene hears of it then
                    run_->input(now(), path, 1);
                handle();
            };
            continue;
        }
        if (!signal)
            continue;
        if (isButton(path)) {
            own.read = [this, path = path] { return presses_[path]; };
            continue;
        }
        const auto drive = driveOf(pack_.project, path);
        if (drive && drive->kind == Drive::Kind::line) {
            own.line = [this, port = drive->block] { return owner_.line(port); };
            own.call = [this, port = drive->block](const std::string& does, const std::string& number) {
                owner_.call(port, does, number);
            };
            continue;
        }
        own.low = use.low, own.high = use.high;
        if (drive) {
            own.read = [this, d = *drive] { return owner_.now(d); };
            if (use.sets)
                own.set = [this, param = drive->block + "." + drive->param](double value, const std::string& who) {
                    return owner_.set(param, value, who.empty() ? "A rule" : who);
                };
        } else {
            own.read = [this, path = path] { return owner_.state(path); };
            if (use.sets)
                own.set = [this, path = path](double value, const std::string& who) {
                    return owner_.setState(path, value, who.empty() ? "A rule" : who);
                };
        }
    }
    for (const auto& [path, teller] : pack_.tells)
        needs.wanted.insert(linkPath(teller, path));
    for (const auto& [moment, takers] : pack_.takes)
        for (const auto& device : takers)
            if (device != pack_.as)
                needs.wanted.insert(linkPath(device, moment));
    for (const auto& [surface, devices] : pack_.shows)
        for (const auto& device : devices)
            if (device != pack_.as)
                needs.wanted.insert(linkPath(device, surfacePrefix + surface));
    values_.told(ValueSide::Whose::rules, std::move(needs));

    if (!pack_.runs() && pack_.project.scenes.empty())
        return;
    run_ = std::make_unique<RuleRun>(pack_.project, pack_.share);
    run_->restore(owner_.memory());
    for (const auto& s : pack_.project.scenes)
        for (const auto& [path, _] : s.values)
            run_->expect(path);
    begun_ = now();
    learn();
    for (auto& one : locals_)
        if ((one.last = valueHere(one.path, one.drive)))
            run_->know(one.path, *one.last);
    run_->start(now(), owner_.utc(), power);
    handle();
}

void RuleSide::off() {
    run_.reset();
    pack_ = RulePack{};
    locals_.clear(), fars_.clear(), local_.clear(), far_.clear();
    learnt_ = 0;
    presses_.clear();
    print_.clear();
    fresh_ = true;
    remembered_.clear();
    values_.told(ValueSide::Whose::rules, {});
}

void RuleSide::learn() {
    const auto& known = run_->book().known();
    for (; learnt_ < known.size(); ++learnt_) {
        const auto& s = known[learnt_].signal;
        if (s.pulse)
            continue;
        const auto drive = driveOf(pack_.project, s.path);
        if (const auto it = pack_.tells.find(s.path); it != pack_.tells.end()) {
            Far far{s.path, linkPath(it->second, s.path)};
            far.line = drive && drive->kind == Drive::Kind::line;
            far.counts = isButton(s.path);
            far.there = s.path.rfind(devicePrefix, 0) == 0;
            far_[s.path] = fars_.size();
            fars_.push_back(std::move(far));
        } else {
            local_[s.path] = locals_.size();
            locals_.push_back({s.path, drive, s.fast, {}});
        }
    }
}

// ---- what happens ----

std::optional<double> RuleSide::valueHere(const std::string& signal, const std::optional<Drive>& drive) const {
    if (!drive) {
        if (isButton(signal)) {
            const auto it = presses_.find(signal);
            return it == presses_.end() ? 0 : std::fmod(it->second, 2);
        }
        if (signal == devicePrefix + pack_.as)
            return 1;
        return owner_.state(signal);
    }
    if (drive->kind == Drive::Kind::line) {
        const double v = lineIndex(owner_.line(drive->block));
        return v < 0 ? std::nullopt : std::optional(v);
    }
    return owner_.now(*drive);
}

bool RuleSide::setHere(const std::string& signal, const std::optional<Drive>& drive, double value,
                       const std::string& who) {
    return drive ? owner_.set(drive->block + "." + drive->param, value, who) : owner_.setState(signal, value, who);
}

std::optional<double> RuleSide::readFar(const Far& one) const {
    if (one.line) {
        const double v = lineIndex(values_.lineNow(one.link));
        return v < 0 ? std::nullopt : std::optional(v);
    }
    const auto v = values_.now(one.link);
    if (one.there && !v && now() - begun_ > lostAfter)
        return 0;
    return v;
}

void RuleSide::look(bool slow) {
    const Millis t = now();
    for (std::size_t i = 0; i < locals_.size(); ++i) {
        if (!slow && !locals_[i].fast)
            continue;
        const auto v = valueHere(locals_[i].path, locals_[i].drive);
        if (v && v != locals_[i].last) {
            locals_[i].last = v;
            run_->input(t, locals_[i].path, *v);
        }
    }
    lookThere();
}

void RuleSide::lookThere() {
    const Millis t = now();
    for (std::size_t i = 0; i < fars_.size(); ++i) {
        auto& one = fars_[i];
        const auto v = readFar(one);
        if (!v || v == one.last)
            continue;
        const auto before = std::exchange(one.last, v);
        if (!one.counts) {
            run_->input(t, one.path, *v);
        } else if (!before || *v < *before) { // it began anew
            run_->know(one.path, std::fmod(*v, 2));
        } else {
            const double times = std::min(*v - *before, mostPresses);
            for (double n = *v - times + 1; n <= *v; ++n)
                run_->input(t, one.path, std::fmod(n, 2));
        }
    }
}

void RuleSide::happened(const std::string& path, double v) {
    values_.changed(linkPath(pack_.as, path));
    if (!run_ || path == setting_)
        return;
    if (const auto it = local_.find(path); it != local_.end())
        locals_[it->second].last = v;
    run_->input(now(), path, v);
    handle();
}

void RuleSide::happenedHere(const char* prefix, const std::string& what, double v) {
    if (!pack_.as.empty())
        happened(prefix + pack_.as + "/" + what, v);
}

void RuleSide::parameterSet(const std::string& param, double v) {
    if (!pack_.as.empty())
        happened(pack_.as + "/" + param, v);
}

void RuleSide::button(bool down) {
    const auto path = buttonPrefix + pack_.as;
    auto& changes = presses_[path];
    if ((std::fmod(changes, 2) == 1) == down)
        return;
    changes += 1;
    happened(path, down ? 1 : 0);
}

bool RuleSide::give(const std::string& moment) {
    const auto takes = pack_.takes.find(moment);
    const auto use = pack_.uses.find(moment);
    const bool scene = moment.rfind(scenePrefix, 0) == 0;
    // A scene is recalled by the one that leads it, which tells the others; of a cue all are told.
    const bool here = run_ && use != pack_.uses.end() && (!scene || use->second.sets);
    if (!here && takes == pack_.takes.end())
        return false;
    if (!scene || !here)
        give(moment, "give");
    if (here) {
        run_->input(now(), moment, 1);
        handle();
    }
    return true;
}

void RuleSide::hear() {
    if (!run_ || fars_.empty())
        return;
    lookThere();
    handle();
}

void RuleSide::tick() {
    if (!run_)
        return;
    const Millis t = now();
    if (const Millis utc = owner_.utc(); std::abs(utc - run_->utc(t)) >= clockOff)
        run_->clock(t, utc);
    const bool slow = t - lookedAt_ >= slowEvery;
    if (slow)
        lookedAt_ = t;
    learn();
    look(slow);
    run_->advance(t);
    handle();
    remember(false);
}

// ---- what is done ----

void RuleSide::handle() {
    if (busy_ || !run_) // what it sets may tell of itself at once
        return;
    busy_ = true;
    for (int turn = 0; turn < 100; ++turn) {
        learn(); // what scripts have found meanwhile
        auto outputs = run_->takeOutputs();
        const auto events = run_->takeEvents();
        if (outputs.empty() && events.empty())
            break;
        const auto actAll = [&] {
            for (const auto& o : outputs)
                act(o);
        };
        owner_.together&& outputs.size() > 1 ? owner_.together(actAll) : actAll();
        eventful_ = eventful_ || !events.empty();
        tell(events);
        if (heard)
            heard(events);
    }
    busy_ = false;
}

void RuleSide::act(const RuleOutput& o) {
    using Kind = RuleOutput::Kind;
    const auto who = o.rule.empty() ? std::string("A scene") : "Rule " + nameOf(o.rule);
    switch (o.kind) {
    case Kind::set: {
        if (const auto it = pack_.tells.find(o.path); it != pack_.tells.end()) {
            if (const auto far = far_.find(o.path); far != far_.end())
                fars_[far->second].last = o.value;
            return values_.set(linkPath(it->second, o.path), o.value, who);
        }
        const auto at = local_.find(o.path);
        if (at == local_.end())
            return;
        setting_ = o.path;
        const bool done = setHere(o.path, locals_[at->second].drive, o.value, who);
        setting_.clear();
        // What was not done is seen with the next look.
        locals_[at->second].last = done ? std::optional(o.value) : std::nullopt;
        return;
    }
    case Kind::given:
        if (o.path.rfind(outsidePrefix, 0) == 0) {
            if (const auto it = pack_.tells.find(o.path); it != pack_.tells.end())
                values_.call(linkPath(it->second, o.path), "give", "");
            else
                (void)owner_.setState(o.path, 1, who);
        } else if (o.path.rfind(scenePrefix, 0) == 0) {
            give(o.path, "was");
        } else if (!o.rule.empty()) { // else whoever gave it told all
            give(o.path, "give");
        }
        return;
    case Kind::call: {
        const auto drive = driveOf(pack_.project, o.path);
        if (const auto it = pack_.tells.find(o.path); it != pack_.tells.end())
            values_.call(linkPath(it->second, o.path), o.text, o.number);
        else if (drive)
            owner_.call(drive->block, o.text, o.number);
        return;
    }
    case Kind::page:
        return show(o.path, "page", o.text);
    case Kind::open:
        return show(o.path, "open", o.text);
    case Kind::close:
        return show(o.path, "close", o.text);
    case Kind::say:
        return show(o.path, "say " + plainText(o.value), o.text);
    case Kind::note:
        return note(o.rule, o.text, false);
    }
}

void RuleSide::give(const std::string& moment, const std::string& does) {
    if (const auto it = pack_.takes.find(moment); it != pack_.takes.end())
        for (const auto& device : it->second)
            if (device != pack_.as)
                values_.call(linkPath(device, moment), does, "");
}

void RuleSide::show(const std::string& surface, const std::string& does, const std::string& what) {
    const auto it = pack_.shows.find(surface);
    if (it == pack_.shows.end())
        return;
    for (const auto& device : it->second)
        if (device != pack_.as)
            values_.call(linkPath(device, surfacePrefix + surface), does, what);
        else if (const auto order = readOrder(does, what))
            owner_.show(surface, *order);
}

// ---- what it says, and remembers ----

std::string RuleSide::nameOf(const std::string& rule) const {
    const auto* r = pack_.project.rule(rule);
    return "\u201c" + (r && !r->name.empty() ? r->name : rule) + "\u201d";
}

void RuleSide::note(const std::string& rule, const std::string& what, bool bad) {
    const Millis nowSecond = now() / 1000;
    if (nowSecond != noteSecond_) {
        noteSecond_ = nowSecond;
        notes_ = 0;
        if (unsaid_ > 0)
            owner_.note("Rules", std::to_string(std::exchange(unsaid_, 0)) + " more of that moment are not listed.",
                        false);
    }
    if (++notes_ > mostNotes && !bad) {
        ++unsaid_;
        return;
    }
    owner_.note(rule.empty() ? "Rules" : "Rule " + nameOf(rule), what, bad);
}

// One line for what a rule did at once.
void RuleSide::tell(const std::vector<RuleEvent>& events) {
    using Kind = RuleEvent::Kind;
    for (std::size_t i = 0; i < events.size();) {
        const auto& first = events[i];
        if (first.kind == Kind::happened) {
            ++i;
            continue;
        }
        std::vector<std::string> words;
        std::size_t more = 0;
        bool bad = false;
        const bool begins = first.kind == Kind::woke || first.kind == Kind::made;
        for (; i < events.size() && events[i].kind != Kind::happened && events[i].rule == first.rule; ++i) {
            const auto& e = events[i];
            if (&e != &first && (e.kind == Kind::woke || e.kind == Kind::made))
                break;
            bad = bad || e.kind == Kind::failed || e.kind == Kind::stopped;
            if (words.size() >= mostWords && !bad) {
                ++more;
                continue;
            }
            auto text = eventText(pack_.project, e);
            // Its name stands before the line.
            for (const auto& name : {nameOf(e.rule) + " ", nameOf(e.rule) + ", "})
                if (text.rfind(name, 0) == 0)
                    text = text.substr(name.size());
            if (e.kind == Kind::held)
                text = "but not: " + text;
            words.push_back(std::move(text));
        }
        std::string line;
        for (std::size_t k = 0; k < words.size(); ++k)
            line += (k == 0 ? "" : begins && k == 1 ? ". " : "; ") + words[k];
        if (more > 0)
            line += "; and " + std::to_string(more) + " more";
        if (!line.empty())
            note(first.rule, line + ".", bad);
    }
}

void RuleSide::remember(bool anyway) {
    const Millis t = now();
    if (!anyway && (t - rememberedAt_ < 1000 || (!eventful_ && t - rememberedAt_ < rememberEvery)))
        return;
    eventful_ = false;
    const auto text = run_->kept();
    const auto body = text.substr(0, text.rfind("\"utc\":")); // the time alone is written now and then
    if (!anyway && body == remembered_ && t - rememberedAt_ < rememberEvery)
        return;
    remembered_ = body;
    rememberedAt_ = t;
    owner_.remember(text);
}

} // namespace loom::rig
