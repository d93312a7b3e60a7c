// The project as it is in memory: plain values, no behaviour. Copies share what is the same in them (engine/shared.h).
#pragma once
#include "catalogue/device_model.h"
#include "engine/program.h"
#include "model/access.h"
#include "model/amplifier.h"
#include "model/outside.h"
#include "model/rooms.h"
#include "model/rule.h"
#include "model/scene.h"
#include "model/streams.h"
#include "model/surface.h"
#include "model/talk.h"
#include "model/voicing.h"
#include "model/wires.h"
#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

// Sound that stands in for what a port will hear on site.
struct StandIn {
    std::string port;  // "in 4"
    std::string asset; // "chair.flac" in assets/
    double gainDb = 0;
    bool loop = true;
    Extra extra{};
    bool operator==(const StandIn&) const = default;
};

// What is known of the found device that a planned one is paired with: a record of what happened, which undo does not
// move.
struct Known {
    std::string identity{};                                    // its public key, base64: nobody else can pose as it
    std::optional<engine::Program> sent{};                     // what was last tried there
    std::optional<engine::Program> kept{};                     // what was last kept there
    std::optional<std::map<std::string, std::string>> setUp{}; // the whole set-up as last tried
    std::map<std::string, std::string> surfaces{};             // prints of the touch surfaces as last tried, by id
    std::string rules{};                                       // print of its rules as last tried
    int revision = 0;                                          // number under which it was; 0: never
    std::string boot{}; // what was changed live since holds until it boots anew; "": nothing was
    bool operator==(const Known&) const = default;
};

struct Device {
    std::string id, name, model, room; // room: an id, or empty (equipment rack)
    ModelSource models{};              // where `model` is looked up
    std::string address{};             // planned network address
    std::string serial{};              // of the found device it is paired with; empty: not paired
    Known known{};                     // of that one
    double rate = 48000;
    std::optional<engine::Program> program{};
    std::vector<StandIn> standIns{};
    Place place{};
    std::string use{}; // "ceiling": for names; empty: the model's
    std::string notes{}, assetNumber{};
    std::string lampLive{}, lampMuted{};         // colours of the indicator, "" as the device comes
    std::map<std::string, std::string> setUp{};  // by id (model/set_up.h): what differs from how the device comes
    std::map<std::string, std::string> owners{}; // ports that belong to another room than the device: port -> room
    double trimDb = 0, delayMs = 0;              // loudspeakers: against the others of their room
    std::string voicing{};                       // loudspeakers: the id of one of the project's
    AmplifierOutputs outputs{};                  // amplifiers: what hangs on each
    std::map<std::string, std::string> feeds{};  // input -> "device/port" whose sound comes there
    std::vector<Stream> streams{};               // that it offers over the packet network
    std::vector<Receiver> receivers{};           // and what it hears there
    std::string soundNetwork{};                  // devices with the same name see each other and share a clock
    int clockPriority = 0;                       // who leads it: the lower goes first; 0: as the model has it
    bool silentHere = false;                     // microphones: not heard over the loudspeakers of their own room
    std::string role{};                          // microphones: of who speaks there, "chair"; "": nobody said
    // What it does about its space's mute: itself ("self") and its ports ("usb 1") -> "sets", "shows", "off".
    std::map<std::string, std::string> mutes{};
    std::map<std::string, std::string> contacts{}; // what hangs on "contact 1" and "relay 1": model/contact.h
    Extra extra{};
    const DeviceModel* spec() const { return models.find(model); } // null: nothing is known of it
    bool operator==(const Device&) const = default;
};

// A finding that somebody decided to leave as it is.
struct DismissedFinding {
    std::string code, device, block, because;
    Extra extra{};
    bool operator==(const DismissedFinding&) const = default;
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

// Files by name below assets/. Copies share the list too.
class Assets {
    using Map = std::map<std::string, Asset>;

  public:
    std::size_t size() const { return all_->size(); }
    bool empty() const { return all_->empty(); }
    std::size_t count(const std::string& name) const { return all_->count(name); }
    Map::const_iterator find(const std::string& name) const { return all_->find(name); }
    const Asset& at(const std::string& name) const { return all_->at(name); }
    Map::const_iterator begin() const { return all_->begin(); }
    Map::const_iterator end() const { return all_->end(); }
    Asset& operator[](const std::string& name) { return all_.change()[name]; }
    void erase(const std::string& name) { all_.change().erase(name); }
    bool is(const Assets& o) const { return all_.is(o.all_); }
    bool operator==(const Assets&) const = default;

  private:
    Shared<Map> all_;
};

struct Project {
    std::string name = "New project";
    List<Building> buildings{};
    List<Device> devices{};
    List<Voicing> voicings{};
    List<Wire> wires{};
    Assets assets{};
    List<DismissedFinding> dismissed{};
    List<Proof> proofs{};
    List<Surface> surfaces{};
    List<Scene> scenes{};
    List<Rule> rules{};
    List<Script> scripts{};
    List<RehearsalTest> ruleTests{};
    RulePlace place{};
    List<OutsideKind> outsideKinds{};
    List<OutsideDevice> outside{};
    List<Access> access{};   // at most one of a device
    std::string soundSalt{}; // of phrases for keys of its sound, base64; made when the first one is typed
    Extra extra{};
    // Files of its archive or folder that lie outside assets/: kept and written back.
    Assets unknownFiles{};
    const Device* device(const std::string& id) const;
    const Voicing* voicing(const std::string& id) const;
    const Room* room(const std::string& id) const;
    const Surface* surface(const std::string& id) const;
    const Scene* scene(const std::string& id) const;
    const Rule* rule(const std::string& id) const;
    const Script* script(const std::string& id) const;
    const OutsideKind* outsideKind(const std::string& id) const;
    const OutsideDevice* outsideDevice(const std::string& id) const;
    const Access* accessOf(const std::string& device) const;
    // To change them; null: there is none.
    Device* device(const std::string& id);
    Voicing* voicing(const std::string& id);
    Room* room(const std::string& id);
    Surface* surface(const std::string& id);
    Scene* scene(const std::string& id);
    Rule* rule(const std::string& id);
    Script* script(const std::string& id);
    OutsideKind* outsideKind(const std::string& id);
    OutsideDevice* outsideDevice(const std::string& id);
    Access* accessOf(const std::string& device);
    const Building* buildingOf(const std::string& room) const;
    bool operator==(const Project&) const = default;
};

// A parameter's place in the project: "heddle/delegate-3.eq.2.gain".
struct ParamTarget {
    const Device* device = nullptr;
    const engine::Block* block = nullptr;
    std::string param;
};
std::optional<ParamTarget> findTarget(const Project& project, const std::string& path);

} // namespace loom::project
