// Rules at work: what happens goes in, what is done comes out, and why. Knows no clock, no socket and no device; the
// same inputs give the same outputs, in rehearsal and on devices. `now` is milliseconds of a clock that never jumps.
#pragma once
#include "rules/rule_book.h"
#include "rules/script.h"
#include <deque>
#include <map>
#include <memory>
#include <set>

namespace loom::project {

// given: a scene was recalled here (also by order from outside: without a rule), a cue or another's rule ("rule:ID") is
// given, an outside device is told a command.
struct RuleOutput {
    enum class Kind { set, given, call, page, open, close, say, note };
    Kind kind{};
    std::string path{}; // of set, given and call: the signal; of surfaces: its id
    double value = 0;   // of set; of say: seconds
    std::string text{}; // call: what is done; page: its id; open, close: "PAGE/PLY"; say, note: words
    std::string number{};
    std::string rule{}; // who does it
    bool operator==(const RuleOutput&) const = default;
};

// What happened, and why.
struct RuleEvent {
    enum class Kind {
        happened, // from outside: a signal
        woke,     // a rule, by its trigger `clause`
        held,     // a condition did not hold: `clause`
        set,      // a signal, from what to what
        did,      // an action that sets no signal: `clause`
        ignored,  // woken while at it
        queued,
        restarted,
        stopped, // woken too often in one moment
        missed,  // a clock's moment while there was no power
        made,    // up for what was missed
        failed   // a script, or a gap that cannot be
    };
    Kind kind{};
    Millis utc = 0;
    std::string rule{}; // "": from outside
    Part part{};
    bool otherwise = false;
    int clause = -1;
    std::string path{}, text{};
    std::optional<double> from{}, to{};
    Millis over = 0;
    bool operator==(const RuleEvent&) const = default;
};
// "✗ Plover call is in a call"; in words of the project that it was of.
std::string eventText(const Project& project, const RuleEvent& event);

class RuleRun : private ScriptDesk {
  public:
    static constexpr Millis fadeStep = 20;           // ms between two values of a fade
    static constexpr int mostWakes = 50;             // of one rule in one moment; then it is stopped in it
    static constexpr int mostQueued = 100;           // of one rule
    static constexpr Millis smallJump = 90 * second; // of the clock: what lies in it is done

    // share: a device's own; none: all.
    explicit RuleRun(Project project, const std::optional<RuleShare>& share = {});
    ~RuleRun() override;
    const RuleBook& book() const { return book_; }
    const Project& project() const { return book_.project(); }

    // What is to be remembered without power, as JSON text; a text that cannot be read is none.
    std::string kept() const;
    void restore(const std::string& kept);

    // -- what happens --
    void know(const std::string& path, double value); // how something is; wakes nobody
    void expect(const std::string& path);             // what no rule speaks of, but somebody may set
    // It begins. power: it came just now; else what runs was told anew, and nothing of that is done.
    void start(Millis now, Millis utc, bool power = true);
    void clock(Millis now, Millis utc); // the time is told
    // What becomes of a signal. A moment is given: a scene is recalled, and who waits for it is woken.
    void input(Millis now, const std::string& path, double value);
    void recalled(Millis now, const std::string& scene); // by somebody else, who has set its values
    void advance(Millis now);                            // whatever is due until then
    void wake(Millis now, const std::string& rule);      // by hand

    // When it has to be advanced again; none: not by itself.
    std::optional<Millis> due() const;
    std::vector<RuleOutput> takeOutputs() { return std::exchange(outputs_, {}); }
    std::vector<RuleEvent> takeEvents() { return std::exchange(events_, {}); }
    std::optional<double> value(const std::string& path) const;
    Millis utc(Millis now) const { return now + ahead_; }
    bool busy() const; // some rule waits, or something fades

  private:
    using Watch = RuleBook::Watch;
    using Act = RuleBook::Act;
    struct Running {
        bool at = false, otherwise = false;
        std::size_t next = 0;
        int queued = 0;
        std::uint64_t turn = 0;      // of what is due for it; another one is out of date
        std::optional<int> script{}; // that waits
        Millis wokenAt = -1;         // and how often in that moment
        int wakes = 0;
    };
    struct Due {
        enum class Kind { hold, resume } kind{};
        int which = 0; // a watch, or a rule
        std::uint64_t turn = 0;
    };
    struct Fade {
        int signal = 0;
        double from = 0, to = 0;
        Millis begin = 0, length = 0;
        Scene::Switches switches{};
        std::string rule{};
    };
    struct Ticking { // a clock
        int watch = 0;
        Millis next = 0, last = 0; // UTC; last: that was done
    };
    struct Waking {
        int rule = 0, clause = 0;
        bool made = false; // up for a moment that was missed
        Millis missed = 0;
    };

    RuleEvent event(RuleEvent::Kind kind, int rule = -1) const;
    void tell(RuleEvent e);
    void step(Millis to);
    void drain();
    void tick(std::size_t clock);
    void aim(std::size_t clock, Millis after);
    void changed(int signal, std::optional<double> before, double now);
    bool met(const Watch& w, double v) const;
    void begin(const Waking& w);
    bool holds(int rule);
    void run(int rule);
    bool act(int rule, const Act& a); // false: it waits
    void acted(int rule, const Act& a, const std::string& text = {});
    void stop(int rule);
    void set(int signal, double value, Millis over, Scene::Switches switches, int rule, int clause);
    void put(int signal, double value, const std::string& rule);
    void give(int signal, int rule);
    void recall(const Scene& scene, Millis over, int rule, int clause);
    bool after(int rule, const ScriptOutcome& outcome, const Act& a);
    void fadeAll();
    std::string keyOf(const Watch& w) const; // by which its clock is remembered
    void grow();                             // scripts may have found signals that no rule knows
    void lookForMissed(Millis since, Millis until, Millis tolerated);

    // -- what scripts ask for --
    std::optional<double> scriptGet(const std::string& path) override;
    std::string scriptGetText(const std::string& path) override;
    std::optional<Error> scriptSet(const std::string& path, const std::variant<double, std::string>& value,
                                   double seconds) override;
    std::optional<Error> scriptDo(const std::string& sentence) override;
    ScriptMoment scriptNow() override;

    RuleBook book_;
    std::map<std::string, std::unique_ptr<ScriptBox>> scripts_{};
    std::vector<std::optional<double>> values_{};
    std::vector<Running> running_{};
    struct Seen { // of a watch
        bool met = false;
        std::uint64_t turn = 0;
    };
    std::vector<Seen> seen_{};
    std::vector<Ticking> ticking_{};
    std::set<std::pair<Millis, int>> clocks_{}; // by when they wake, UTC
    std::optional<std::vector<std::string>> startScenes_{};
    std::map<std::string, std::string> lastScene_{}; // by room
    std::multimap<Millis, Due> due_{};
    std::vector<Fade> fades_{};
    Millis fadeDue_ = 0;
    std::deque<Waking> waking_{};
    std::vector<RuleOutput> outputs_{};
    std::vector<RuleEvent> events_{};
    std::map<std::string, Millis> lastDone_{};    // of clocks, as remembered
    std::map<std::string, std::string> keptOf_{}; // scripts, as remembered
    Millis now_ = 0, ahead_ = 0, rememberedUtc_ = 0;
    bool started_ = false;
    int scriptRule_ = -1, scriptClause_ = -1; // who runs one now
};

} // namespace loom::project
