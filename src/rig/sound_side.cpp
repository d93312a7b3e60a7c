#include "rig/sound_side.h"

namespace loom::rig {

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
}
std::map<std::string, std::string> SoundSide::heard() const {
    const std::lock_guard inside(door_);
    return heard_;
}

void SoundSide::forgetAllBut(const std::set<std::string>& ports) {
    const std::lock_guard inside(door_);
    std::erase_if(heard_, [&](const auto& one) { return !ports.count(one.first); });
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

} // namespace loom::rig
