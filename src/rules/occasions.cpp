#include "rules/occasions.h"
#include "rules/search_words.h"
#include "rules/sentence.h"
#include <algorithm>

namespace loom::project {
namespace {

constexpr const char* groups[] = {
    "Walls",   "Pressed and turned", "Heard",   "Clock", "Conversations", "Outside", "Scenes", "Cues",
    "Devices", "Parameters",         "Switched"};

Clause becomes(const std::string& path, const std::string& state) {
    Clause c;
    c.kind = "becomes";
    c.gaps = {{"signal", path}, {"state", state}};
    return c;
}

Clause single(const char* kind, const char* slot, const std::string& what) {
    Clause c;
    c.kind = kind;
    if (*slot)
        c.gaps = {{slot, what}};
    return c;
}

// The triggers that a signal is good for; `usual`: listed although no rule waits for it.
std::vector<std::pair<Clause, bool>> triggersOf(const Signal& s) {
    std::vector<std::pair<Clause, bool>> all;
    if (s.path == startPath)
        return {{single("start", "", ""), true}};
    if (const auto id = behind(s.path, scenePrefix))
        return {{single("scene", "scene", *id), false}};
    if (behind(s.path, cuePrefix))
        return {{single("cue", "cue", s.path), true}};
    if (behind(s.path, knobPrefix))
        return {{single("changes", "signal", s.path), true}};
    if (s.pulse) // what is only said to an outside device
        return all;
    const bool rare =
        s.path.rfind(contactPrefix, 0) == 0 || s.group == "Devices" || s.path.rfind(outsidePrefix, 0) == 0;
    for (const auto& state : s.spec.choices) {
        const bool usual =
            !rare && (s.spec.choices.size() == 2 ? s.path.rfind(buttonPrefix, 0) != 0 || state == "pressed"
                                                 : state == "rings here" || state == "on hook");
        all.emplace_back(becomes(s.path, state), usual);
    }
    return all;
}

std::string groupOf(const Project& p, const Clause& c) {
    if (c.kind == "time" || c.kind == "sun" || c.kind == "every")
        return "Clock";
    const auto path = c.kind == "start"   ? std::string(startPath)
                      : c.kind == "scene" ? scenePrefix + c["scene"]
                      : c.kind == "cue"   ? c["cue"]
                                          : c["signal"];
    const auto s = signalOf(p, path);
    return !s ? "Devices" : c.kind == "above" || c.kind == "below" ? "Heard" : s->group;
}

} // namespace

bool sameOccasion(const Clause& a, const Clause& b) {
    if (a.kind != b.kind)
        return false;
    for (const auto* c : {&a, &b})
        for (const auto& [slot, text] : c->gaps)
            if (slot != "for" && slot != "late" && a[slot] != b[slot])
                return false;
    return true;
}

std::vector<Occasion> occasionsOf(const Project& p, const std::string& typed) {
    const auto words = searchWords(typed);
    std::vector<Occasion> all;
    for (const auto& r : p.rules)
        for (const auto& t : r.when) {
            auto it =
                std::find_if(all.begin(), all.end(), [&](const Occasion& o) { return sameOccasion(o.trigger, t); });
            if (it == all.end()) {
                Occasion o;
                o.trigger = t;
                o.trigger.gaps.erase("for"), o.trigger.gaps.erase("late");
                o.group = groupOf(p, t);
                o.label = sentenceText(p, Part::trigger, o.trigger);
                it = all.insert(all.end(), o);
            }
            if (it->rules.empty() || it->rules.back() != r.id)
                it->rules.push_back(r.id);
        }
    for (const auto& s : happenings(p))
        for (const auto& [trigger, usual] : triggersOf(s)) {
            if (!usual && words.empty())
                continue;
            if (std::any_of(all.begin(), all.end(),
                            [&, &t = trigger](const Occasion& o) { return sameOccasion(o.trigger, t); }))
                continue;
            Occasion o;
            o.trigger = trigger;
            o.group = groupOf(p, trigger);
            o.label = sentenceText(p, Part::trigger, trigger);
            all.push_back(o);
        }
    erase_if(all, [&](const Occasion& o) { return !hasWords(o.group + " " + o.label, words); });
    const auto rank = [](const Occasion& o) {
        return std::find(std::begin(groups), std::end(groups), o.group) - std::begin(groups);
    };
    std::stable_sort(all.begin(), all.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
    return all;
}

} // namespace loom::project
