#include "findings/rule_findings.h"
#include "access/access_edit.h"
#include "dsp/number.h"
#include "model/set_up.h"
#include "outside/outside_address.h"
#include "outside/outside_edit.h"
#include "rules/analysis.h"
#include "rules/rehearsal.h"
#include "rules/rule_edit.h"
#include "rules/rule_home.h"
#include "rules/scene_figures.h"
#include "rules/sentence.h"
#include "surface/harm.h"
#include <algorithm>

namespace loom::project {
namespace {

using Code = FindingCode;

std::string spaceName(const Project& p, const std::string& space) {
    std::string all;
    std::size_t at = 0;
    while (!space.empty() && at <= space.size()) {
        const auto end = std::min(space.find('+', at), space.size());
        const auto* r = p.room(space.substr(at, end - at));
        all += (all.empty() ? "" : " + ") + (r ? r->name : space.substr(at, end - at));
        at = end + 1;
    }
    return all.empty() ? "Equipment rack" : all;
}

class RuleChecker {
  public:
    RuleChecker(const Project& p, std::stop_token stop) : p_(p), stop_(stop), book_(p) {}
    std::vector<Finding> run() {
        for (const auto& t : lookOver(book_))
            told(t);
        places();
        outside();
        access();
        for (const auto& s : p_.scenes)
            asks(s);
        for (const auto& t : p_.ruleTests) {
            if (stop_.stop_requested())
                break;
            if (const auto r = runTest(p_, t); !r.passed)
                found_.push_back({Code::testFails, t.id, "test", "Test \u00b7 " + t.name, sentence(r.failure),
                                  "Change the rule, or what the test expects.", "Equipment rack"});
        }
        return std::move(found_);
    }

  private:
    static std::string sentence(std::string text) {
        if (!text.empty() && text[0] >= 'a' && text[0] <= 'z')
            text[0] = static_cast<char>(text[0] - 'a' + 'A');
        return text.empty() || text.back() == '.' ? text : text + ".";
    }
    void add(Code code, const std::string& id, const std::string& room, const std::string& place, std::string reason,
             std::string remedy) {
        found_.push_back({code, id, "", place, std::move(reason), std::move(remedy), spaceName(p_, room)});
    }
    void told(const RuleTrouble& t) {
        using Kind = RuleTrouble::Kind;
        const auto code = t.kind == Kind::cannot       ? Code::ruleCannot
                          : t.kind == Kind::neverWakes ? Code::neverWakes
                          : t.kind == Kind::forEver    ? Code::wakeForEver
                          : t.kind == Kind::fight      ? Code::rulesFight
                          : t.kind == Kind::emptyScene ? Code::sceneLost
                          : t.kind == Kind::script     ? Code::scriptWrong
                                                       : Code::noZone;
        const auto* r = p_.rule(t.rule);
        const auto* s = p_.scene(t.what);
        const auto* script = p_.script(t.what);
        const auto place = r        ? "Rule \u00b7 " + (r->name.empty() ? r->id : r->name)
                           : s      ? "Scene \u00b7 " + s->name
                           : script ? "Script \u00b7 " + script->name
                                    : std::string("Clock");
        add(code, r ? r->id : t.what, r ? r->room : s ? s->room : "", place, t.reason, sentence(t.remedy));
    }
    // Where they are at work.
    void places() {
        std::map<std::string, std::string> clocks; // time server of each processor that has clock rules
        for (const auto& r : p_.rules) {
            if (!r.on)
                continue;
            const auto home = homeOf(p_, r);
            const auto* d = p_.device(home.device);
            if (!d)
                continue;
            if (!home.others.empty()) {
                const auto* o = p_.device(*home.others.begin());
                add(Code::twoProcessors, r.id, r.room, "Rule \u00b7 " + r.name,
                    "It needs two processors: " + d->name + " leads, and " + o->name +
                        " is asked and told over the network; while that is gone it does its part alone.",
                    "Keep it if that is good enough, or split it.");
            }
            const bool timed = std::any_of(r.when.begin(), r.when.end(), [](const Clause& c) {
                return c.kind == "time" || c.kind == "sun" || c.kind == "every";
            });
            if (timed) {
                const auto it = d->setUp.find("timeServer");
                clocks[d->id] = it == d->setUp.end() ? "" : it->second;
            }
        }
        if (clocks.size() < 2)
            return;
        const auto& first = *clocks.begin();
        for (const auto& [id, server] : clocks)
            if (server != first.second) {
                add(Code::clocksApart, id, p_.device(id)->room, p_.device(id)->name,
                    "Its clock and that of " + p_.device(first.first)->name +
                        " follow different time servers, and rules on both go by them.",
                    "Give both the same time server in Survey.");
            }
    }
    void outside() {
        for (const auto& d : p_.outside) {
            const auto place = "Outside \u00b7 " + d.name;
            const auto wrong = [&](const Error& e) {
                add(Code::outsideWrong, d.id, d.room, place, sentence(e.place + ": " + e.message), e.remedy);
            };
            const auto* kind = p_.outsideKind(d.kind);
            if (!kind) {
                add(Code::outsideWrong, d.id, d.room, place, "There is no description of \"" + d.kind + "\".",
                    "Read its description in Rules again.");
                continue;
            }
            for (const auto& e : errorsOf(*kind))
                wrong(e);
            if (const auto a = readOutsideAddress(*kind, d.address); !a)
                wrong(a.error());
            if (processorOf(p_, d).empty())
                add(Code::outsideAlone, d.id, d.room, place, "No processor talks to it.",
                    "Choose one in Rules, or put one into its room.");
        }
    }
    void access() {
        for (const auto& a : p_.access) {
            const auto* d = p_.device(a.id);
            const auto place = "From outside \u00b7 " + (d ? d->name : a.id);
            const auto room = d ? d->room : std::string();
            for (const auto& e : accessErrors(p_, a))
                add(Code::accessWrong, a.id, room, place,
                    sentence(e.place.empty() ? e.message : e.place + ": " + e.message), e.remedy);
            for (const auto& one : a.allowed) {
                const auto drive = one.sets && one.role.empty() && a.any() ? driveOf(p_, one.signal) : std::nullopt;
                if (const auto harm = drive ? harmOf(p_, *drive) : std::nullopt)
                    add(Code::accessFree, a.id, room, place, one.name + ": " + *harm + ".",
                        "Let it ask for a PIN in Rules, or leave it.");
            }
        }
    }
    void asks(const Scene& s) {
        const auto f = figuresOf(p_, s, stop_);
        if (f.spareThen && f.spare && *f.spareThen < 0 && *f.spareThen < *f.spare - 0.05)
            add(Code::sceneTooMuch, s.id, s.room, "Scene \u00b7 " + s.name,
                print("With it %s is %.1f dB beyond what the room bears.", f.microphone.c_str(), -*f.spareThen),
                "Turn it down in Rules.");
    }
    const Project& p_;
    std::stop_token stop_;
    RuleBook book_;
    std::vector<Finding> found_{};
};

} // namespace

std::vector<Finding> checkRules(const Project& p, std::stop_token stop) {
    if (p.rules.empty() && p.scenes.empty() && p.scripts.empty() && p.ruleTests.empty() && p.outside.empty() &&
        p.access.empty())
        return {};
    return RuleChecker(p, stop).run();
}

} // namespace loom::project
