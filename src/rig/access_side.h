// What programs and controllers of others may know and set of a device, and the PINs that they give. Knows neither
// socket nor clock.
#pragma once
#include "access/access_host.h"
#include "rig/pin_gate.h"
#include "rules/rule_pack.h"

namespace loom::rig {

// One thread.
class AccessSide {
  public:
    // Whoever runs the program; `drive` is driveOf() of the signal.
    struct Owner {
        std::function<std::optional<double>(const std::string& signal, const std::optional<project::Drive>& drive)> now;
        std::function<bool(const std::string& signal, const std::optional<project::Drive>& drive, double value,
                           const std::string& who)>
            set;
        std::function<bool(const std::string& moment)> give;
        std::function<Result<Done>(const std::string& port, const std::string& does, const std::string& number,
                                   const std::string& who)>
            call;
        std::function<std::string(const std::string& role)> pinPrint; // "": it has none
        std::function<void(const std::string& what, bool bad)> note;
    };
    AccessSide(Owner owner, std::function<double()> clock);
    void told(const project::RulePack& pack); // what is the same goes on
    void off();
    void pinsChanged() { host_.pinsChanged(); }
    project::AccessHost& host() { return host_; }
    const project::Access& access() const { return access_; } // which ways are open
    void note(const std::string& what, bool bad) { owner_.note(what, bad); }

  private:
    const std::optional<project::Drive>& driveOf(const std::string& signal) const;
    Result<Done> admit(const std::string& role, const std::string& pin, const std::string& source);
    Owner owner_;
    project::AccessHost host_;
    project::Access access_{};
    std::map<std::string, std::optional<project::Drive>> drives_{};
    std::string told_{}; // what it was made from
    PinGate gate_;
};

} // namespace loom::rig
