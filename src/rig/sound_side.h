// What the air and the network have to know of a device, and tell it: between the device's thread and theirs.
#pragma once
#include "engine/cable.h"
#include "model/set_up.h"
#include "site/audio_key.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace loom::rig {

// What ails a device on the sound network, beside its plug.
struct NetFaults {
    double loss = 0;                  // share of packets that do not come
    double jitterMs = 0;              // packets are up to so much later than they should be
    double reorder = 0;               // share of packets that come after the next one
    bool free = false;                // it follows no clock
    std::optional<double> driftPpm{}; // of its own clock; none: as its crystal is
    double aheadMs = 0;               // its clock was set wrong by this: once
    bool operator==(const NetFaults&) const = default;
};
// What a device knows of the clock of its sound network.
struct ClockState {
    enum class How { none, leads, follows, free } how = How::none;
    std::string leader{};    // by name
    double aheadSamples = 0; // of the leader
};

class SoundSide {
  public:
    std::atomic<bool> powered{true};
    std::atomic<bool> plugged{true}; // into the network, with power
    std::atomic<bool> quiet{false};  // muted: nothing leaves it
    void setAddress(const std::string& address);
    std::string address() const;
    void setKey(const std::optional<site::Key>& key);
    std::optional<site::Key> key() const;
    // Of each network input that is led to it: "encrypted", "open", "refused" (came, but not with its key), "none".
    void hear(const std::string& port, const std::string& how);
    std::map<std::string, std::string> heard() const;
    void forgetAllBut(const std::set<std::string>& ports); // inputs that hear something
    // What the device is told to offer and hear; before that it does as the project says that its rig was made from.
    void tell(project::DeviceSound sound);
    std::uint64_t version() const { return version_; } // another number after each time
    std::optional<project::DeviceSound> told() const;
    void setFaults(const NetFaults& faults);
    NetFaults faults() const;
    void setClock(ClockState clock);
    ClockState clock() const;
    // Peaks of a block that left, or came: held, and falling by 20 dB in 1.7 s (IEC 60268-10, type I).
    enum class Way { leaves, comes };
    void level(Way way, const std::string& port, float peak);
    std::map<std::string, double> levels(Way way) const; // dBFS by port, those above -120

  private:
    NetFaults faults_{};
    ClockState clock_{};
    std::map<std::string, float> levels_[2]; // factors
    std::optional<project::DeviceSound> told_;
    std::atomic<std::uint64_t> version_{0};
    mutable std::mutex door_;
    std::string address_;
    std::optional<site::Key> key_;
    std::map<std::string, std::string> heard_;
};

inline constexpr int soundBlock = 512; // samples that are carried at once

// A reader of a cable, with the block it read. False: nothing is on it.
struct SoundLane {
    std::shared_ptr<engine::Cable> cable{};
    engine::Cable::Reader reader{soundBlock};
    std::vector<float> samples = std::vector<float>(soundBlock);
    std::shared_ptr<SoundSide> side{};
    bool read() {
        if (cable && reader.read(*cable, samples.data(), soundBlock) && !(side && side->quiet))
            return true;
        std::fill(samples.begin(), samples.end(), 0.0f);
        return false;
    }
};

inline float peakOf(const std::vector<float>& samples) {
    float most = 0;
    for (const float v : samples)
        most = std::max(most, std::abs(v));
    return most;
}

} // namespace loom::rig
