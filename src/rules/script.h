// One script of a project in Lua 5.4, shut in: no files, no network, no modules, bounded memory and bounded work. What
// it may say is what rules may. Source of the language: Ierusalimschy et al., Lua 5.4 Reference Manual.
#pragma once
#include "engine/result.h"
#include <memory>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace loom::project {

struct ScriptMoment {
    int year = 1970, month = 1, day = 1, hour = 0, minute = 0, second = 0, weekday = 1; // 1: Monday
    double seconds = 0;                                                                 // of a clock that never jumps
};

// What scripts speak with.
class ScriptDesk {
  public:
    virtual ~ScriptDesk() = default;
    virtual std::optional<double> scriptGet(const std::string& path) = 0; // none: it is not there, or not known
    virtual std::string scriptGetText(const std::string& path) = 0;       // "open", "on hook"; "": as above
    virtual std::optional<Error> scriptSet(const std::string& path, const std::variant<double, std::string>& value,
                                           double seconds) = 0;
    virtual std::optional<Error> scriptDo(const std::string& sentence) = 0; // an action, as it is typed
    virtual ScriptMoment scriptNow() = 0;
};

struct ScriptOutcome {
    enum class Kind { done, waits, failed } kind = Kind::done;
    double seconds = 0;  // that it waits
    std::string error{}; // "line 3: attempt to ..."
};

class ScriptBox {
  public:
    static constexpr std::size_t mostMemory = 2u << 20; // bytes
    static constexpr int mostWork = 1000000;            // instructions of one go, until it waits
    static constexpr double mostSeconds = 0.03;         // of its thread's own time for them
    static constexpr int mostRunning = 32;              // that wait at the same time
    static constexpr std::size_t mostKept = 16384;      // bytes of what it keeps without power

    ScriptBox(const std::string& text, ScriptDesk& desk);
    ~ScriptBox();
    // Why it cannot run at all: "line 3: '=' expected". "": it can.
    const std::string& wrong() const;
    // Runs it from its beginning; a number by which it is resumed where it waits.
    ScriptOutcome run(int& number);
    ScriptOutcome resume(int number);
    void drop(int number); // what waits is not resumed
    // Its table "keep": numbers, words, truths, and tables of these, as JSON text.
    std::string kept();
    void restore(const std::string& json);

  private:
    struct State;
    std::unique_ptr<State> state_;
};

// "": the text is one. Else "line 3: ...".
std::string scriptError(const std::string& text);
// Words between quotation marks, each once: what a script may speak of.
std::vector<std::string> quotedIn(const std::string& text);

} // namespace loom::project
