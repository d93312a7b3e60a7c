// Control from outside at work: what others ask of a device by the names of what they are allowed, whatever language
// they ask in. Knows neither socket nor clock. One thread. Never throws, whatever is asked.
#pragma once
#include "rules/signal.h"
#include <map>
#include <set>

namespace loom::project {

// One that is allowed, and there.
struct AccessItem {
    AllowedSignal allowed{};
    Signal signal{};
    double low = 0, high = 0; // that it may be set to
};
std::string accessText(const AccessItem& item, std::optional<double> value); // "-6", "open", "unknown"

struct AccessAsk {
    enum class Verb { list, get, set, step, toggle, give, watch, ignore, pin, leave };
    Verb verb = Verb::list;
    std::string name{};  // of pin: the role
    std::string value{}; // as people type it; of pin: its digits
};

// The word for each in all languages that have words, and how many stand behind it.
struct AccessVerb {
    const char* word;
    AccessAsk::Verb verb;
    int takes;
};
const AccessVerb* accessVerb(const std::string& word); // null: there is none

struct AccessAnswer {
    enum class Is { value, done, list, refused };
    // Why it was refused: there is no such (or it is not for this caller), a PIN is asked for, it cannot be done with
    // it, the value is wrong, it asked too often, nobody takes it now.
    enum class Why { unknown, pin, denied, wrong, often, away };
    Is is = Is::done;
    const AccessItem* item = nullptr; // of a value
    std::optional<double> value{};
    std::vector<const AccessItem*> list{};
    Why why = Why::unknown;
    Error error{};
};

class AccessHost {
  public:
    // Whoever runs the program.
    struct Owner {
        std::function<std::optional<double>(const std::string& signal)> now{};
        // False: not now.
        std::function<bool(const std::string& signal, double value, const std::string& who)> set{};
        std::function<bool(const std::string& moment)> give{}; // a cue, a scene, what is said to an outside device
        // A telephone line: "dial" a number, "answer", "hang-up", "keys" that are pressed. Error: why it does not.
        std::function<Result<Done>(const std::string& line, const std::string& does, const std::string& number,
                                   const std::string& who)>
            call{};
        // Error: the PIN is wrong, too many were tried, or the role has none.
        std::function<Result<Done>(const std::string& role, const std::string& pin, const std::string& source)> admit{};
    };
    struct Caller {
        std::string source{}; // an address
        std::set<std::string> roles{};
        int since = 0; // of which PINs
    };
    explicit AccessHost(Owner owner) : owner_(std::move(owner)) {}

    // From now on. What is allowed and not there is not there for others either.
    void serve(const Project& project, const Access& access);
    void pinsChanged() { ++pins_; } // who gave one before has to give it again
    const std::vector<AccessItem>& items() const { return items_; }
    // Another number whenever what is allowed is another.
    int generation() const { return generation_; }
    const AccessItem* find(const std::string& name) const; // null: there is none
    bool isFor(const AccessItem& item, const Caller& caller) const;
    std::optional<double> now(const AccessItem& item) const;

    // All but watch and ignore, which are their line's (access/access_seat.h).
    AccessAnswer ask(const AccessAsk& ask, Caller& caller);

  private:
    AccessAnswer value(const AccessItem& item) const;
    AccessAnswer put(const AccessItem& item, double value, const Caller& caller);
    AccessAnswer call(const AccessItem& item, const AccessAsk& ask, const Caller& caller);
    Owner owner_;
    std::vector<AccessItem> items_{};
    std::map<std::string, std::size_t> byName_{};
    int generation_ = 0, pins_ = 0;
};

} // namespace loom::project
