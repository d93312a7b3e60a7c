// What the air and the network have to know of a device, and tell it: between the device's thread and theirs.
#pragma once
#include "engine/cable.h"
#include "model/set_up.h"
#include "site/audio_key.h"
#include <algorithm>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace loom::rig {

class SoundSide {
  public:
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

  private:
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

} // namespace loom::rig
