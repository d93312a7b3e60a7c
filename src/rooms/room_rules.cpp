#include "rooms/room_rules.h"
#include <algorithm>
#include <set>

namespace loom::project {
namespace {

// Another one in the copy's project.
std::string freeNameOf(std::set<std::string>& taken, const std::string& name) {
    auto free = name;
    for (int n = 2; !taken.insert(free).second; ++n)
        free = name + " " + std::to_string(n);
    return free;
}

bool isPathSlot(const std::string& slot) {
    return slot == "signal" || slot == "line" || slot == "player" || slot == "scene" || slot == "surface" ||
           slot == "rule" || slot == "script";
}

} // namespace

RoomRules copyRules(const Project& from, const Project& to, const std::string& room, const std::string& as,
                    CopyNames& names, std::vector<Renewal>& told) {
    RoomRules c;
    std::set<std::string> ids, called;
    for (const auto& d : to.outside)
        ids.insert(d.id), called.insert(d.name);
    for (const auto& d : from.outside) {
        if (d.room != room)
            continue;
        OutsideDevice copy = d;
        copy.name = freeNameOf(called, d.name);
        copy.id = names.things[d.id] = freeId(ids, copy.name);
        copy.room = as;
        copy.address.clear(); // it is another one
        copy.processor = names.things.count(d.processor) ? names.things.at(d.processor) : d.processor;
        told.push_back({as, "outside device", d.name, copy.name + ", without an address yet"});
        c.outside.push_back(std::move(copy));
        if (const auto* kind = from.outsideKind(d.kind); kind && !to.outsideKind(d.kind))
            if (std::none_of(c.outsideKinds.begin(), c.outsideKinds.end(),
                             [&](const auto& k) { return k.id == d.kind; }))
                c.outsideKinds.push_back(*kind);
    }
    ids.clear(), called.clear();
    for (const auto& r : to.rules)
        ids.insert(r.id), called.insert(r.name);
    for (const auto& r : from.rules)
        if (r.room == room)
            names.rules[r.id] = freeId(ids, r.id);
    // Scripts that they run, where they speak of something that is copied; the others are those of before.
    ids.clear();
    for (const auto& s : to.scripts)
        ids.insert(s.id);
    const auto eachClause = [](auto& rule, auto what) {
        for (auto* list : {&rule.when, &rule.only, &rule.then, &rule.otherwise})
            for (auto& clause : *list)
                what(clause, list == &rule.then || list == &rule.otherwise);
    };
    for (const auto& r : from.rules)
        if (r.room == room)
            eachClause(r, [&](const Clause& clause, bool) {
                const auto* s = from.script(clause["script"]);
                if (!s || names.scripts.count(s->id))
                    return;
                Script copy = *s;
                copy.text = names.inScript(s->text);
                if (copy.text == s->text && &from == &to)
                    return;
                copy.id = names.scripts[s->id] = freeId(ids, s->id);
                copy.name = copy.id == s->id ? s->name : s->name.substr(0, 110) + " 2";
                c.scripts.push_back(std::move(copy));
            });
    for (const auto& r : from.rules) {
        if (r.room != room)
            continue;
        Rule copy = r;
        copy.id = names.rules.at(r.id);
        copy.name = freeNameOf(called, r.name);
        copy.room = as;
        std::size_t moved = 0, stay = 0;
        bool setsOthers = false;
        eachClause(copy, [&](Clause& clause, bool acts) {
            for (auto& [slot, text] : clause.gaps) {
                if (text.empty() || !isPathSlot(slot))
                    continue;
                const auto now = names.inGap(slot, text);
                now == text ? ++stay : ++moved;
                setsOthers = setsOthers || (acts && now == text && slot != "script");
                text = now;
            }
        });
        copy.on = r.on && !setsOthers;
        told.push_back({as, "rule", r.name,
                        copy.name + ": " + std::to_string(moved) + " of " + std::to_string(moved + stay) +
                            " places are those of the copies" +
                            (setsOthers ? "; switched off, for it would set what stays there" : "")});
        c.rules.push_back(std::move(copy));
    }
    ids.clear(), called.clear();
    for (const auto& t : to.ruleTests)
        ids.insert(t.id), called.insert(t.name);
    for (const auto& t : from.ruleTests) {
        RehearsalTest copy = t;
        bool all = !t.expect.empty();
        for (auto* list : {&copy.given, &copy.when, &copy.expect})
            for (auto& step : *list) {
                const auto now = names.anew(step.signal);
                all = all && (list != &copy.expect || now != step.signal);
                step.signal = now;
            }
        if (!all)
            continue;
        copy.name = freeNameOf(called, t.name);
        copy.id = freeId(ids, copy.name);
        told.push_back({as, "test of rules", t.name, copy.name});
        c.tests.push_back(std::move(copy));
    }
    return c;
}

} // namespace loom::project
