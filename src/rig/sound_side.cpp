#include "rig/sound_side.h"
#include "catalogue/transport.h"

namespace loom::rig {
namespace {

constexpr float leastLevel = 1e-6f; // -120 dBFS

} // namespace

void SoundSide::setAddress(const std::string& address) {
    const std::lock_guard inside(door_);
    address_ = address;
}
std::string SoundSide::address() const {
    const std::lock_guard inside(door_);
    return address_;
}
void SoundSide::setKey(const std::optional<site::Key>& key) {
    const std::lock_guard inside(door_);
    key_ = key;
}
std::optional<site::Key> SoundSide::key() const {
    const std::lock_guard inside(door_);
    return key_;
}
void SoundSide::hear(const std::string& port, const std::string& how) {
    const std::lock_guard inside(door_);
    heard_[port] = how;
    if (how == "none")
        levels_[static_cast<std::size_t>(Way::comes)].erase(port);
}
std::map<std::string, std::string> SoundSide::heard() const {
    const std::lock_guard inside(door_);
    return heard_;
}

void SoundSide::forgetAllBut(const std::set<std::string>& ports) {
    const std::lock_guard inside(door_);
    std::erase_if(heard_, [&](const auto& one) { return !ports.count(one.first); });
    std::erase_if(levels_[static_cast<std::size_t>(Way::comes)], [&](const auto& one) {
        return project::specOf(project::transportOf(one.first)).streams && !ports.count(one.first);
    });
}
void SoundSide::tell(project::DeviceSound sound) {
    const std::lock_guard inside(door_);
    if (told_ == sound)
        return;
    told_ = std::move(sound);
    ++version_;
}
std::optional<project::DeviceSound> SoundSide::told() const {
    const std::lock_guard inside(door_);
    return told_;
}
void SoundSide::setFaults(const NetFaults& faults) {
    const std::lock_guard inside(door_);
    faults_ = faults;
}
NetFaults SoundSide::faults() const {
    const std::lock_guard inside(door_);
    return faults_;
}
void SoundSide::setClock(ClockState clock) {
    const std::lock_guard inside(door_);
    clock_ = std::move(clock);
}
ClockState SoundSide::clock() const {
    const std::lock_guard inside(door_);
    return clock_;
}

void SoundSide::level(Way way, const std::string& port, float peak) {
    static const float fall = std::pow(10.0f, -20.0f / 20 * static_cast<float>(soundBlock) / 48000 / 1.7f);
    const std::lock_guard inside(door_);
    auto& levels = levels_[static_cast<std::size_t>(way)];
    const auto at = levels.find(port);
    const float held = std::max(peak, at == levels.end() ? 0 : at->second * fall);
    if (held > leastLevel)
        levels[port] = held;
    else if (at != levels.end())
        levels.erase(at);
}
std::map<std::string, double> SoundSide::levels(Way way) const {
    const std::lock_guard inside(door_);
    std::map<std::string, double> all;
    for (const auto& [port, held] : levels_[static_cast<std::size_t>(way)])
        all[port] = std::round(200 * std::log10(static_cast<double>(held))) / 10;
    return all;
}

} // namespace loom::rig
