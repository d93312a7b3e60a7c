// Device models: data files in catalogue/, made-up makers.
#pragma once
#include "engine/block_kind.h"
#include "project/model.h"
#include "room/bands.h"
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

struct PortGroup {
    std::string name, label; // "in", "Microphone or line"
    int count = 1;
    Extra extra{};
    bool operator==(const PortGroup&) const = default;
};

// What calculations need of a loudspeaker. Sensitivity: dB SPL at 1 m for 1 W (or 2.83 V), bands against it.
struct LoudspeakerData {
    double sensitivity = 88, maxLevel = 100; // dB SPL at 1 m; the most it bears for long
    room::Bands bands{};                     // dB against the sensitivity, per octave
    room::Bands horizontal = room::filled(360), vertical = room::filled(360); // coverage angles, -6 dB
    Extra extra{};
    bool operator==(const LoudspeakerData&) const = default;
};

// Of a microphone: first-order pattern (1 all round, 0.5 cardioid), or the beam of an array per octave in degrees.
struct MicrophoneData {
    double pattern = 1;
    int lobes = 0;                        // beams that find talkers by themselves; 0: one fixed pattern
    room::Bands beam = room::filled(360); // coverage angle of one beam
    Extra extra{};
    bool operator==(const MicrophoneData&) const = default;
    bool reinforced = true;     // heard over the loudspeakers of its own room
    room::Bands factor() const; // directivity factor per octave
};

struct DeviceModel {
    std::string id, name, maker, purpose;
    std::string
        group{}; // of the shelf: "Pick up", "Reproduce", "Drive and process", "Touch and press", "Network and rack"
    std::string use{};   // one word for names: "ceiling", "gooseneck"
    std::string mount{}; // ceiling, wall, table, floor, hand, rack
    std::vector<PortGroup> inputs, outputs;
    std::optional<LoudspeakerData> loudspeaker{};
    std::optional<MicrophoneData> microphone{};
    std::optional<AmplifierData> amplifier{};
    double fullScaleDbu = 18;   // of its line outputs: level of a full-scale sine
    bool network = false;       // has an address
    bool usb = false;           // a small board: a computer reaches it over USB, its store takes an image
    double storeBytes = 0;      // of that store
    int knobs = 0, buttons = 0; // of a small board, to be given to parameters
    bool onSite() const { return network || usb; } // can be found, paired and told what to be
    std::string firmware{};                        // the newest known, "1.3"
    double watts = 0, heat = 0;                    // mains power, and what of it becomes heat, W
    double poeWatts = 0, poeBudget = 0;            // taken, or offered by a switch
    int poeClass = 0, poePorts = 0, rackUnits = 0;
    bool own = false;        // the user's, not shipped
    double workBudget = 0;   // ns per sample; 0: does not process
    double memoryBudget = 0; // bytes
    Extra extra{};
    std::vector<std::string> ports(bool input) const; // "in 1", "in 2" ... "usb 1"
};

// One model from JSON text. Trouble: names the file and the field.
Result<DeviceModel> readModel(const std::string& text, const std::string& name);
// Reads every .json of a folder. Files that are no models are told in `troubles`, or else are the trouble.
Result<std::vector<DeviceModel>> readCatalogue(const std::string& folder, std::vector<Trouble>* troubles = nullptr);
std::string modelFolder(); // the user's own models: $XDG_DATA_HOME/nimble-loom/models
// Takes a model file into the user's own and the catalogue of this run. Trouble: it is none, or its id is taken.
Result<std::string> addModel(const std::string& text, const std::string& name);
// The catalogue that belongs to this build: $NIMBLE_LOOM_DATA, else the installed one, else the source tree's.
const std::vector<DeviceModel>& catalogue();
const DeviceModel* findModel(const std::string& id);
// A project with one processor and nothing in its program yet.
Result<Project> newProject(const std::string& model);
// Ports of a device's model that its program does not use yet; the first of them, or "" if there is none.
// A kind of block that is no end has none.
std::vector<std::string> freePorts(const Device& device, const engine::BlockKind& kind);
std::string freePort(const Device& device, const engine::BlockKind& kind);
inline constexpr const char* networkPort = "net "; // what the names of network ports begin with
std::string dataFolder();                          // where catalogue/ and demo/ lie

} // namespace loom::project
