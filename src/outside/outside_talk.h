// Talk with one outside device: what is to be set, asked and said, one thing after the other with the pauses that it
// needs; what it answers, and whether it does. Knows neither socket nor clock.
#pragma once
#include "model/outside.h"
#include "outside/template.h"
#include <deque>
#include <map>

namespace loom::project {

struct OutsideChange {
    std::string state; // or outsideThere
    double value = 0;
    bool operator==(const OutsideChange&) const = default;
};

// Times are seconds of one clock.
class OutsideTalk {
  public:
    static constexpr std::size_t longestAnswer = 4096; // bytes; what is longer is dropped
    static constexpr std::size_t mostWaiting = 200;    // messages
    static constexpr double rubbishEvery = 60;         // s between two notes about what nobody understands
    static constexpr double askAgain = 5;              // s after which one that was lost is asked again

    // A description that findings complain of is taken as far as it can be read.
    explicit OutsideTalk(OutsideKind kind);
    const OutsideKind& kind() const { return kind_; }

    // -- the line --
    void connected(bool is, double now);
    void heard(std::string_view bytes, double now);         // of a line that has no packets
    void heardWhole(const std::string& answer, double now); // a packet, or the answer to a request

    // -- what is wanted --
    // Error: it has no such state or command, or the value is none of it.
    Result<Done> set(const std::string& state, double value, double now);
    Result<Done> say(const std::string& command, double now);
    Result<Done> ask(const std::string& state, double now);

    void step(double now);
    std::vector<std::string> take() { return std::exchange(out_, {}); } // to be sent, in this order
    std::vector<OutsideChange> takeChanges() { return std::exchange(changes_, {}); }
    std::vector<std::string> takeNotes() { return std::exchange(notes_, {}); }
    bool idle() const { return jobs_.empty() && !waits_; } // nothing is to be said, no answer is waited for
    bool there() const { return there_; }
    std::optional<double> value(const std::string& state) const; // none: not known

    // What a state's value is called on the line, and the way back. None: it is none.
    static std::optional<std::string> codeOf(const OutsideState& state, double value);
    static std::optional<double> valueOf(const OutsideState& state, const std::string& code);

  private:
    struct Job {
        std::string bytes{};
        int asks = -1; // the state whose answer is waited for; -1: none
        int sets = -1; // the state that it sets
        int left = 1;  // tries
    };
    struct Line { // of a state
        std::optional<Template> set{}, ask{}, answer{};
        double askedAt = -1e9;
    };
    void put(Job job);
    void be(bool there);
    void know(int state, double value);
    void line(const std::string& answer, double now);
    void askAll(double now);
    int indexOf(const std::string& state) const;
    OutsideKind kind_;
    std::vector<Line> lines_{};
    std::map<std::string, Template> commands_{};
    std::map<int, double> values_{}, wanted_{}; // wanted: set, and not answered since
    std::deque<Job> jobs_{};
    std::optional<Job> waits_{}; // sent, and not answered yet
    double nextAt_ = -1e9, until_ = 0, heardAt_ = 0, rubbishAt_ = -1e9, lostAt_ = -1e9;
    std::string buffer_{};
    bool open_ = false, there_ = false, told_ = false, tooLong_ = false;
    std::vector<std::string> out_{}, notes_{};
    std::vector<OutsideChange> changes_{};
};

} // namespace loom::project
