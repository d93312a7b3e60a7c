// What a simulated device shows to its network: its lines, who may ask what, and what is answered. Knows no socket and
// no clock; whoever carries the bytes tells both. Never throws, whatever comes in.
#pragma once
#include "rig/device.h"
#include "rig/guesses.h"
#include "site/password.h"
#include "site/protocol.h"

namespace loom::rig {

class Front {
  public:
    // -- limits; docs/protocol.md tells their reasons --
    static constexpr std::size_t mostLines = 32;
    static constexpr double encryptWithin = 10; // s after it was opened
    static constexpr double silentFor = 60;     // s, until it may ask everything
    static constexpr double unlockWithin = 900; // s after it was opened

    // Whoever carries one line.
    struct Carrier {
        std::function<void(const std::string& bytes, bool box)> send; // box: encrypted, a binary message
        std::function<void()> drop;                                   // ends the line; closed() need not follow
        std::function<void(std::size_t bytes)> allow;                 // messages may be that long from here on
    };
    // What follows once the answer is on its way.
    std::function<void(const std::string& address)> moveTo;
    std::function<void(int ms)> restart;
    // Where it is, and where it answers on this link whatever its address is.
    std::function<std::string()> where, reachedAt;

    // now: seconds on a clock that does not go back.
    Front(Device& device, std::function<double()> now);
    ~Front();

    // A new line. Where there are too many, one makes room: none of a known computer, and first those of whom most
    // come from one place, are not encrypted, not unlocked, silent for longest. -1: none makes room, it was dropped.
    int opened(const std::string& source, Carrier carrier);
    void received(int line, const std::string& bytes, bool box);
    void closed(int line);
    void closeAll(); // and takes tools away
    void tick();     // ends lines that have been silent too long; about once a second
    site::DiscoveredDevice about() const;
    std::size_t lines() const { return lines_.size(); }

    // People at the device: a password, or none with an empty text.
    Result<Done> setPassword(const std::string& password);
    Result<Done> setLock(const std::string& text); // what is left of one: site::lockText()

  private:
    struct Line {
        int number = 0;
        std::string source{};
        Carrier carrier{};
        std::optional<site::Channel> channel{};
        std::optional<site::PasswordCheck> check{};
        bool unlocked = false, known = false;
        std::string ticket{};
        double openedAt = 0, heardAt = 0;
    };
    using Handler = std::function<nlohmann::json(const nlohmann::json& params, Line& line)>;
    struct Entry {
        site::Caller caller;
        Handler handler;
    };

    bool may(const Line& line, site::Caller caller) const;
    bool makeRoom(const std::string& source);
    void end(int line); // drops it
    void allowAll();
    void send(Line& line, const std::string& text);
    void tellAll(const std::string& text);
    std::string reply(const std::string& message, Line& line);

    // One function a message; a missing one does not compile.
#define LOOM_ONE(id, wire, Ask, Answer, who, says) site::Answer id(const site::Ask& ask, Line& line);
    LOOM_MESSAGES(LOOM_ONE)
#undef LOOM_ONE

    Device& device_;
    std::function<double()> now_;
    std::map<std::string, Entry> handlers_;
    std::map<int, Line> lines_;
    std::map<int, int> toolOwners_; // by tool: a tool ends with the line that put it there
    Guesses guesses_;
    int nextLine_ = 1;
    std::optional<site::Channel> next_{}; // the line's, once its answer has left in the open
    std::function<void()> after_{};       // once the answer has left
};

} // namespace loom::rig
