// The project as it is in memory: plain values, no behaviour.
#pragma once
#include "engine/program.h"
#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

using Extra = std::map<std::string, std::string>; // fields of a later version, as JSON text; they survive a round trip

struct Room {
    std::string id, name;
    std::string colour{}; // a thread's name: madder, weld, lichen, teal, woad, plum, rose, walnut
    Extra extra{};
    bool operator==(const Room&) const = default;
};

struct Building {
    std::string id, name;
    std::vector<Room> rooms{};
    Extra extra{};
    bool operator==(const Building&) const = default;
};

// Sound that stands in for what a port will hear on site.
struct Stand {
    std::string port;  // "in 4"
    std::string asset; // "chair.flac" in assets/
    double gainDb = 0;
    bool loop = true;
    bool operator==(const Stand&) const = default;
};

struct Device {
    std::string id, name, model, room; // room: an id, or empty (equipment rack)
    std::string address{};             // planned network address
    std::string serial{};              // of the found device it is paired with; empty: not paired
    double rate = 48000;
    std::optional<engine::Program> program{};
    std::optional<engine::Program> lastSent{}; // what was last tried on the paired device
    std::optional<engine::Program> lastKept{}; // what was last kept there
    std::vector<Stand> stands{};
    Extra extra{};
    bool operator==(const Device&) const = default;
};

// A finding that somebody decided to leave as it is.
struct Left {
    std::string code, device, block, because;
    bool operator==(const Left&) const = default;
};

// The bytes of a file inside the project. They never change, so that copies of a project share them.
class Asset {
  public:
    Asset() : Asset(std::vector<char>{}) {}
    Asset(std::vector<char> bytes) : bytes_(std::make_shared<const std::vector<char>>(std::move(bytes))) {}
    operator const std::vector<char>&() const { return *bytes_; }
    const char* data() const { return bytes_->data(); }
    std::size_t size() const { return bytes_->size(); }
    auto begin() const { return bytes_->begin(); }
    auto end() const { return bytes_->end(); }
    bool operator==(const Asset& other) const { return bytes_ == other.bytes_ || *bytes_ == *other.bytes_; }

  private:
    std::shared_ptr<const std::vector<char>> bytes_;
};
using Assets = std::map<std::string, Asset>; // by name below assets/

struct Project {
    std::string name = "New project";
    std::vector<Building> buildings{};
    std::vector<Device> devices{};
    Assets assets{};
    std::vector<Left> left{};
    Extra extra{};
    const Device* device(const std::string& id) const;
    Device* device(const std::string& id);
    const Room* room(const std::string& id) const;
};

// A place in the project: "heddle/delegate-3.eq.2.gain".
struct Place {
    const Device* device = nullptr;
    const engine::Block* block = nullptr;
    std::string param;
};
std::optional<Place> findPlace(const Project& project, const std::string& path);

} // namespace loom::project
