// What a device does of conversations by itself, without any computer: it takes part in mutes, follows the walls that
// its contacts tell of, and lights lamps. What it moves so in its program stands beside the design and never in it.
#pragma once
#include "model/set_up.h"
#include "rig/far_side.h"
#include "site/mute_link.h"

namespace loom::rig {

// One thread. Knows no clock: whoever calls tells seconds.
class Conversing {
  public:
    static constexpr double asksFor = 0.5; // s after it was switched on that it cuts until it knows
    explicit Conversing(const std::string& serial);
    // Whoever runs the program: sets a parameter of a block; how the device's own mute is.
    std::function<void(const std::string& block, const std::string& param, double value)> set;
    std::function<void(bool muted)> own;
    std::function<void(const std::string& what)> note; // for its log

    void powered(bool on, double now);
    // What it is told to be. Called again whenever a program is loaded: values that it moves are set anew.
    void told(const project::SetUp& setUp, const std::optional<engine::Program>& program,
              const std::shared_ptr<FarSide>& far, double now);
    void setKey(const std::optional<site::Key>& key) { link_.setKey(key); }
    void plugged(double now) { link_.plugged(now); }
    void beat(double now); // some fifty times a second

    void setContact(const std::string& id, bool closed, double now);
    const std::map<std::string, bool>& contacts() const { return contacts_; }
    void press(double now);                                    // its own button
    bool relay(const std::string& id) const;                   // closed
    void setRelay(const std::string& id, bool closed);         // a lamp's comes back with the next mute
    std::optional<bool> muted(const std::string& space) const; // none: it takes no part
    bool takesPart() const { return !spaces_.empty(); }
    bool ownAgreed(double now) const; // and a device that cuts the sound is there
    Result<bool> mute(const std::string& space, bool muted, const std::string& who, double now);
    // A parameter that it moves: what holds now; none: as the program says.
    std::optional<double> moved(const std::string& path) const;
    // Somebody sets one of these. Nothing: it is none. Error: a switch that follows a wall.
    std::optional<Result<Done>> setMoved(const std::string& path, double value, double now);

    bool heard(const std::string& datagram, double now) { return link_.heard(datagram, now); }
    std::vector<std::string> take(double now) { return link_.take(now); }
    std::map<std::string, bool> mutes() const; // site::Vitals::mutes
    std::set<std::string> openWalls() const;

  private:
    void apply(const std::string& space, bool muted);
    void followWalls(double now);
    void move(const std::string& block, const std::string& param, double value);
    site::MuteLink link_;
    std::map<std::string, project::MuteUse> places_{};       // by key: "self", "usb 1"
    std::map<std::string, project::ContactUse> uses_{};      // by contact or relay
    std::map<std::string, bool> contacts_{}, relays_{};      // closed
    std::map<std::string, std::vector<std::string>> cuts_{}; // mute blocks by space
    std::set<std::string> spaces_{};
    std::vector<engine::Block> switches_{}; // that follow walls
    std::shared_ptr<FarSide> far_{};
    std::map<std::string, double> moved_{}; // by "block.param"
    double onSince_ = 0;
    std::set<std::string> waits_{}; // spaces that it cuts until it knows
};

} // namespace loom::rig
