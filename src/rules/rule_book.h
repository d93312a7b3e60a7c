// Rules compiled: names looked up once, so that thousands of them cost nothing while nothing concerns them. The same in
// rehearsal and on devices.
#pragma once
#include "rules/clause_kind.h"
#include "rules/rule_time.h"
#include "rules/signal.h"
#include <unordered_map>

namespace loom::project {

// When a clock wakes.
struct RuleClock {
    enum class Kind { time, sun, every } kind = Kind::time;
    Millis ofDay = 0;  // time: of day; sun: against it, negative before
    bool rise = false; // sun
    DaysOfWeek days{};
    DateList except{};
    Millis every = 0;
    Millis late = 0; // what was missed is made up for while it is not later than this
    // The first moment after `after`. None: there is none within 400 days.
    std::optional<Millis> next(Millis after, const Zone& zone, const RulePlace& place) const;
};

// What one processor runs of a project.
struct RuleShare {
    std::vector<std::string> rules{}, scenes{}; // ids; scenes: that it recalls when power comes
};

class RuleBook {
  public:
    struct Watch { // a trigger
        enum class Op { becomes, above, below, changes, moment, clock };
        Op op{};
        int rule = 0, clause = 0, signal = -1;
        double value = 0;
        Millis hold = 0;
        RuleClock clock{};
    };
    struct Check { // a condition
        enum class Op { is, isNot, over, under, between, days, last };
        Op op{};
        int clause = 0, signal = -1;
        double value = 0;
        Millis from = 0, to = 0;
        DaysOfWeek days{};
        DateList except{};
        std::string scene{};
    };
    struct Act { // an action; a clause may be several
        // rewind: what is on goes off for a moment
        enum class Op {
            set,
            step,
            toggle,
            rewind,
            recall,
            give,
            wait,
            page,
            open,
            close,
            say,
            call,
            wake,
            script,
            note
        };
        Op op{};
        int clause = 0, signal = -1;
        double value = 0;
        Millis over = -1;           // -1: as the scene says
        std::string what{}, text{}; // a scene, a surface, "dial" ...; a page, a number, words
        int rule = -1;
    };
    struct One {
        const Rule* rule = nullptr;
        bool here = false; // it is one of these
        std::vector<Check> checks{};
        std::vector<Act> then{}, otherwise{};
    };
    struct Known {
        Signal signal{};
        std::vector<int> watches{}; // that look at it
    };
    struct Wrong { // a clause that cannot be
        int rule = 0;
        Part part{};
        bool otherwise = false;
        int clause = 0;
        Error why{};
    };

    // share: only these rules; others are woken by none. The project is kept.
    explicit RuleBook(Project project, const std::optional<RuleShare>& share = {});
    bool has(int rule) const { return rules_[static_cast<std::size_t>(rule)].here; }
    const Project& project() const { return project_; }
    const std::vector<One>& rules() const { return rules_; }
    const std::vector<Watch>& watches() const { return watches_; }
    const std::vector<Known>& known() const { return known_; }
    const std::vector<Wrong>& wrong() const { return wrong_; }
    const Zone& zone() const { return zone_; }
    int find(const std::string& path) const; // -1: no rule knows it
    // As find; what is there but no rule knows is known from then on (scripts). -1: it is not there.
    int know(const std::string& path);
    int ruleOf(const std::string& id) const; // -1: none
    // What an action does. Error: what it lacks.
    Result<std::vector<Act>> compiled(const Clause& action);

  private:
    void compile(int rule);
    Result<int> signal(const Clause& c, const char* gap);
    Result<double> value(const Clause& c, const char* gap, int signal);
    std::optional<Error> trigger(int rule, int clause, const Clause& c);
    std::optional<Error> condition(One& one, int clause, const Clause& c);
    std::optional<Error> action(std::vector<Act>& to, int clause, const Clause& c);
    Project project_;
    Zone zone_{};
    std::vector<One> rules_{};
    std::vector<Watch> watches_{};
    std::vector<Known> known_{};
    std::unordered_map<std::string, int> byPath_{};
    std::vector<Wrong> wrong_{};
};

} // namespace loom::project
