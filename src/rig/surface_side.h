// The touch surfaces that a device shows: their values, its own and those of other devices, who may be whom, and what
// browsers are told. Knows neither socket nor clock.
#pragma once
#include "pages/page_host.h"
#include "rig/pin_gate.h"
#include "rig/value_side.h"
#include "site/config.h"
#include "surface/pack.h"

namespace loom::rig {

// One thread.
class SurfaceSide : public project::SurfaceValues {
  public:
    // Whoever runs the program.
    struct Owner {
        std::function<std::optional<double>(const project::Drive& drive)> now;
        std::function<bool(const std::string& param, double value, const std::string& who)> set; // "hall.level.gain"
        // What is no parameter of its program ("outside:display/power").
        std::function<std::optional<double>(const std::string& signal)> state;
        std::function<bool(const std::string& signal, double value, const std::string& who)> setState;
        std::function<std::string(const std::string& port)> line;
        std::function<void(const std::string& port, const std::string& does, const std::string& number)> call;
        std::function<void(const std::string& who, const std::string& what, bool bad)> note;
        std::function<std::string(const std::string& surface, const std::string& role)> pinPrint; // "": it has none
        // A cue or a scene ("cue:x"). False: nobody takes it.
        std::function<bool(const std::string& moment)> give;
    };
    SurfaceSide(project::ModelSource models, Owner owner, std::function<double()> clock, ValueSide& values);

    // What it is told to be. A surface that cannot be read was refused before (check).
    void told(const site::Config& config);
    void off(); // without power: everybody's line is lost
    // Error: one of them cannot be read, or a picture of one is not in `pictures` (prints).
    static Result<Done> check(const site::Config& config, const project::ModelSource& models,
                              const std::function<bool(const std::string& print)>& hasPicture);
    // Prints of the pictures that surfaces show.
    static std::set<std::string> picturesIn(const site::Config& config);

    project::PageHost& pages() { return pages_; }
    bool shows() const { return !pages_.served().empty(); }
    void tick(); // some thirty times a second

    // -- project::SurfaceValues --
    std::optional<double> now(const project::Drive& drive) override;
    void set(const project::Drive& drive, double value) override;
    bool give(const project::Drive& drive) override;
    std::string line(const project::Drive& drive) override;
    void call(const project::Drive& drive, const std::string& does, const std::string& number) override;

  private:
    std::string tellerOf(const project::Drive& drive) const;
    bool isOwn(const project::Drive& drive) const { return values_.is(tellerOf(drive)); }
    std::string farPath(const project::Drive& drive) const; // what others call it
    void ownSignal(ValueSide::Own& own, const std::string& path, bool moment, const project::PathUse& use);
    project::ModelSource models_;
    Owner owner_;
    std::function<double()> clock_;
    ValueSide& values_;
    project::PageHost pages_;
    PinGate gate_;
    std::map<std::string, std::string> prints_{};  // of each surface as it is shown
    std::map<std::string, std::string> tellers_{}; // of signals that are no parameters
};

} // namespace loom::rig
