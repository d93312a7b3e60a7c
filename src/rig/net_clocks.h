// The clocks of devices on the sound network: in each one leads, others follow it, and who cannot goes its own way. No
// IEEE 1588 is spoken: who leads follows from patch/clock.
#pragma once
#include "patch/clock.h"
#include "rig/sound_side.h"

namespace loom::rig {

class NetClocks {
  public:
    using Sides = std::map<std::string, std::shared_ptr<SoundSide>>; // by device
    // Who would lead, and who follows whom; clocks that are known go on as they are.
    void set(const project::Project& project, const project::Wired& wired, const Sides& sides);
    void step(int samples); // so much time of the one that leads; tells the sides
    // Whole samples that a device's clock is ahead of the time that the rig keeps; 0: not known.
    int ahead(const std::string& device) const;

  private:
    static constexpr double settles = 1; // s: a follower is nearer by a factor of e after that
    struct Clock {
        std::string name;
        std::shared_ptr<SoundSide> side;
        double crystalPpm = 0; // of its own oscillator
        double ahead = 0;      // samples
        double setAheadMs = 0; // what of a fault was done
        double rate = 48000;
        bool mayLead = false;
    };
    std::map<std::string, Clock> clocks_;
    std::vector<std::vector<std::string>> groups_; // ids, in the order in which they lead
};

} // namespace loom::rig
