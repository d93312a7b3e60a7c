// Device models as data: what a maker's sheet says of one.
#pragma once
#include "acoustics/bands.h"
#include "engine/result.h"
#include "schema/extra.h"
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

using schema::Extra;

inline constexpr const char* networkPort = "net "; // what the names of network ports begin with

// What an amplifier's sheet says.
struct PowerRating {
    double ohms = 8, watts = 100;
    schema::Extra extra{};
    bool operator==(const PowerRating&) const = default;
};
struct AmplifierData {
    double gainDb = 32;       // voltage gain
    double fullScaleDbu = 18; // of a full-scale sine in its own processing, at its input
    double leastOhms = 4;
    double sourceOhms = 0.03;         // output resistance
    double totalWatts = 0;            // of all outputs together; 0: their sum
    double lineWatts = 0;             // of one output on a 70 or 100 V line; 0: it drives none
    std::vector<PowerRating> power{}; // for long, one output
    // The power it gives into a load, r.m.s. volts of it at least: between its ratings straight over the impedance;
    // above the highest by the same voltage, below the lowest by the same current.
    double wattsInto(double ohms) const;
    double maxVolts() const; // r.m.s., the highest of its ratings
    schema::Extra extra{};
    bool operator==(const AmplifierData&) const = default;
};

struct PortGroup {
    std::string name, label; // "in", "Microphone or line"
    int count = 1;
    Extra extra{};
    bool operator==(const PortGroup&) const = default;
};

// What calculations need of a loudspeaker. Sensitivity: dB SPL at 1 m for 1 W (or 2.83 V), bands against it.
struct LoudspeakerData {
    double sensitivity = 88, maxLevel = 100; // dB SPL at 1 m; the most it bears for long
    acoustics::Bands bands{};                // dB against the sensitivity, per octave
    acoustics::Bands horizontal = acoustics::filled(360), vertical = acoustics::filled(360); // coverage angles, -6 dB
    Extra extra{};
    bool operator==(const LoudspeakerData&) const = default;
};

// Of a microphone: first-order pattern (1 all round, 0.5 cardioid), or the beam of an array per octave in degrees.
struct MicrophoneData {
    double pattern = 1;
    double sensitivity = -30;                       // dBV for 1 Pa; on the network: dBFS (r.m.s. of a sine: 0)
    int lobes = 0;                                  // beams that find talkers by themselves; 0: one fixed pattern
    acoustics::Bands beam = acoustics::filled(360); // coverage angle of one beam
    Extra extra{};
    bool operator==(const MicrophoneData&) const = default;
    bool reinforced = true;          // heard over the loudspeakers of its own room
    acoustics::Bands factor() const; // directivity factor per octave
};

// Sockets of one kind for network cables: "lan 1", "lan 2" ...
struct SocketGroup {
    std::string name = "lan";
    int count = 1;
    double megabits = 1000; // each way
    bool feeds = false;     // gives power to what hangs on it (PoE)
    Extra extra{};
    bool operator==(const SocketGroup&) const = default;
};
// How many devices of one use ("canopy") it can hear at most.
struct PeerLimit {
    std::string use;
    int devices = 0;
    Extra extra{};
    bool operator==(const PeerLimit&) const = default;
};
// What it can do on the packet network. 0: without a limit but that of its ports.
struct SoundNetworkData {
    int flowsOut = 0, flowsIn = 0;             // streams it sends and hears
    int streamChannels = 0;                    // in one stream
    std::vector<std::string> samples{};        // "L24", "L16"; none: both
    std::vector<double> packetMs{};            // packet times it knows; none: all
    std::vector<PeerLimit> peers{};            //
    double bufferMs = 1;                       // it holds packets back at least so long, whatever their length
    int clockPriority = 128, clockClass = 248; // IEEE 1588-2019 7.6.2; 255: never leads
    Extra extra{};
    bool operator==(const SoundNetworkData&) const = default;
};
// The audio ring: two sockets, "ring a" and "ring b"; sound goes both ways round.
struct RingData {
    int channels = 64;  // channels of the whole ring
    int hopSamples = 1; // what one device adds on the way
    Extra extra{};
    bool operator==(const RingData&) const = default;
};

class Catalogue;
struct DeviceModel;

// Which catalogue a thing looks its model up in; keeps it alive. Not part of what the thing is: all are equal, and none
// is saved.
class ModelSource {
  public:
    ModelSource() = default; // of none
    ModelSource(const Catalogue& of);
    explicit ModelSource(const DeviceModel& model);       // the one that it is in
    const DeviceModel* find(const std::string& id) const; // null: there is none, or it has it not
    bool operator==(const ModelSource&) const { return true; }

  private:
    std::shared_ptr<const Catalogue> of_{};
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
    double fullScaleDbu = 18; // of its line outputs: level of a full-scale sine
    double inputDbu = 4;      // of its microphone inputs, with the preamplifier at 0 dB
    std::string mute{};       // what it can do about a mute: "shows", by a lamp; "sets" and shows; "": nothing
    bool network = false;     // has an address
    bool usb = false;         // a small board: a computer reaches it over USB, its store takes an image
    double storeBytes = 0;    // of that store
    int screenWidth = 0, screenHeight = 0; // pixels of a touch surface; 0: it has none
    double screenMm = 0;                   // how wide it is
    double pictureMegabytes = 0;           // of decoded pictures that it can show; 0: not known
    int knobs = 0, buttons = 0;            // of a small board, to be given to parameters
    int contacts = 0, relays = 0;          // "contact 1" that it looks at, "relay 1" that it closes (model/contact.h)
    bool onSite() const { return network || usb; } // can be found, paired and told what to be
    std::string firmware{};                        // the newest known, "1.3"
    double watts = 0, heat = 0;                    // mains power, and what of it becomes heat, W
    double poeWatts = 0, poeBudget = 0;            // taken, or offered by a switch
    int poeClass = 0, poePorts = 0, rackUnits = 0;
    std::vector<SocketGroup> sockets{}; // for network cables; none: one "lan 1" where it is on the network
    bool bridges = false;               // what comes in at one goes on to the others, as in a switch
    std::optional<SoundNetworkData> soundNetwork{};
    std::optional<RingData> ring{};
    double converterIn = 0, converterOut = 0; // samples from a line or microphone to its sound, and back
    bool own = false;                         // the user's, not shipped
    double workBudget = 0;                    // ns per sample; 0: does not process
    double memoryBudget = 0;                  // bytes
    Extra extra{};
    std::weak_ptr<const Catalogue> in{};              // the catalogue that holds it
    std::vector<std::string> ports(bool input) const; // "in 1", "in 2" ... "usb 1"
};

} // namespace loom::project
