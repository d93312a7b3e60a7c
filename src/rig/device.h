// One simulated device: what it is told to be, what it keeps, its sound, its faults. Knows no network.
#pragma once
#include "engine/realtime.h"
#include "program/tools_at_work.h"
#include "rig/access_side.h"
#include "rig/air.h"
#include "rig/conversing.h"
#include "rig/outside_side.h"
#include "rig/port_taps.h"
#include "rig/rule_side.h"
#include "rig/store.h"
#include "rig/surface_side.h"
#include "site/protocol.h"
#include <functional>

namespace loom::rig {

struct DeviceSetup {
    project::ModelSource models{};                              // where `model` is looked up
    std::string model = "heddle-16", serial = "00A3F1", name{}; // name: as set up; empty: the model's
    std::string folder{};                                       // where its store lies
    std::string firmware{};                                     // as delivered; empty: the newest
    std::string address{};                                      // as delivered
    engine::Resources resources{};                              // what its inputs hear
    double rate = 48000;
    std::shared_ptr<SoundSide> sound{}; // where others hear it; null: nowhere
    std::shared_ptr<FarSide> far{};     // who is on its USB and lines; null: nobody
};

// What ails it besides its store; by command (setFault).
struct Faults {
    double celsius = 0; // 0: as its work warms it
    bool clip = false, clockLost = false;
    std::int64_t ahead = 0;                       // ms by which its time of day is wrong
    std::map<std::string, std::string> outputs{}; // "out 1" -> "open" or "short"
};

// All functions belong to one thread; the sound has its own.
class Device {
  public:
    explicit Device(DeviceSetup setup); // boots from its store
    ~Device();

    // -- what it is told to be; a error leaves what ran as it was --
    // Runs it from the next frame on. Set-up values that are missing stay as they are. revision 0: the next free one.
    Result<Done> tryConfig(const site::Config& config, const std::string& author, int revision = 0);
    // Several devices as one step: each checks and holds (stage), then all run it (commit); what ran before comes back
    // with revert. A staged one is dropped by discard, and by power-off.
    Result<Done> stage(const site::Config& config, const std::string& author, int revision);
    Result<Done> commit();
    Result<Done> revert();
    void discard() { staged_.reset(); }
    Result<Done> keep();             // writes what runs into the store, and boots with it from now on
    Result<Done> goBack(int number); // runs a stored revision
    Result<Done> bootWith(int number) { return store_.choose(number); }

    void powerOff(); // the sound stops, what was not kept is gone
    void powerOn();  // runs what is kept
    bool powered() const { return powered_; }

    Result<double> get(const std::string& path) const;                                 // "delegate-3.eq.2.gain"
    Result<double> set(const std::string& path, double value, const std::string& who); // gives what holds now
    Result<Done> setUp(const std::string& id, const std::string& value, const std::string& who);
    const site::Config& running() const { return running_; }

    // Tools act on what runs and are never kept.
    Result<int> putTool(const project::Tool& tool);
    void takeTool(int number);
    void takeTools();
    std::vector<project::Tool> tools() const { return tools_.list(); }

    site::DiscoveredDevice describe() const; // without its address
    site::DeviceState state() const;
    std::vector<site::RevisionInfo> revisions() const; // those it holds, oldest first
    std::map<std::string, double> meters() const;      // peak per block in dBFS, blocks that sound only
    std::map<std::string, double> portLevels(SoundSide::Way way) const; // of sound between devices
    // What passes a port; see PortTaps.
    Result<PortTaps::Heard> sound(const std::string& port, bool input, std::uint64_t after);
    site::Vitals health() const;

    // -- small boards: the store as an image, Intel HEX --
    Result<Done> stageImage(const std::string& hex, const std::string& author, int revision);
    Result<std::string> image() const; // read back from the store

    // -- sound between devices --
    // A key that is to replace the one it has ("": none), and the two steps as for a configuration.
    Result<Done> stageAudioKey(const std::string& key);
    Result<Done> commitAudioKey();
    Result<Done> revertAudioKey();
    Result<Done> unseal(); // neither password nor key any more

    // -- touch surfaces --
    SurfaceSide& surfaces() { return surfaces_; }
    Result<Done> setPin(const site::PinAsk& ask);
    std::vector<std::string> pins() const; // "SURFACE/ROLE"
    std::function<void()> showsOthers;     // it shows or allows others than before, or none any more

    // -- rules, and values between devices --
    RuleSide& rules() { return rules_; }
    ValueSide& values() { return values_; }
    OutsideSide& outside() { return outside_; }
    AccessSide& access() { return access_; }
    void heardValues(); // of others, just now
    void beatValues();  // some fifty times a second

    // -- conversations --
    // A datagram of another device about mutes, and those it has to tell; some fifty times a second, seconds of one
    // clock.
    void heardOfMute(const std::string& datagram);
    std::vector<std::string> beat();
    void plugged(); // its line is back
    bool takesPart() const { return conversing_.takesPart(); }
    Result<bool> mute(const std::string& space, bool muted, const std::string& who);
    std::vector<site::LineState> lines() const;
    Result<Done> call(const std::string& port, const std::string& does, const std::string& number);
    Result<Done> setLineSecret(const std::string& secret);
    std::vector<float> heardFarAway(const std::string& port) const; // the last half minute, at 48 kHz

    // -- people at the device --
    void identify(bool on, bool tone = false); // its lamp blinks and its lane is mute while on, or sounds a tone
    bool identifying() const { return identifying_; }
    void pressButton(); // and lets it go
    void holdButton(bool down);
    void factoryReset(); // everything but its identity: also the way back from a lost password
    Result<Done> update(const std::string& firmware);
    Result<Done> rollBack();
    // A knob or switch of a small board, 0 (left) to 1 (right): tells, and changes what it is assigned to.
    Result<Done> turnKnob(const std::string& id, double at);
    Result<Done> setContact(const std::string& id, bool closed); // what hangs on its contact inputs
    // By name: temperature, clip, clock, time, jitter, reorder, drift, ahead, output, store, turn, knob, contact,
    // setUp, press. Error: no such fault or value.
    Result<Done> setFault(const std::string& name, const nlohmann::json& value);
    void setNetFault(const std::function<void(NetFaults&)>& how); // of its line to the sound network, and its clock
    void note(const std::string& who, const std::string& what, bool bad = false);

    Store& store() { return store_; }
    const Store& store() const { return store_; }
    const DeviceSetup& made() const { return setup_; }
    const project::DeviceModel* model() const { return model_; }
    // What happens at the device, told to whoever is connected: the text of a notice.
    std::function<void(const std::string&)> tell;
    void tend();

  private:
    struct Staged {
        site::Config config;
        std::string author;
        int revision;
    };
    struct Running {
        site::Config config;
        std::string author, time;
        int revision;
    };
    template <class T> void tellOf(const site::Notice<T>& notice, const T& what) {
        if (tell)
            tell(site::noticeText(notice, what));
    }
    Result<Done> check(const site::Config& config) const;
    Result<Done> run(const site::Config& config);
    Result<Done> load(const site::Config& config); // its program
    site::Config whole(site::Config config) const;
    int nextRevision() const;
    void soundChanged(); // muted or not, key
    void soundTold();    // what it offers and hears
    project::DeviceSound soundNow() const { return project::soundOf(running_.setUp); }
    bool factory() const { return revision_ == 0; }

    DeviceSetup setup_;
    const project::DeviceModel* model_ = nullptr;
    Store store_;
    Faults faults_{};
    bool powered_ = false, identifying_ = false, muted_ = false;
    double bootedAt_ = 0;
    std::string author_, time_;
    int revision_ = 0;
    std::string boot_{};     // another text after every start
    std::string told_{};     // fingerprint of what runs as it was told: whether it was turned since
    site::Config running_{}; // without the tools
    std::optional<Staged> staged_{};
    std::optional<Running> before_{};
    std::vector<int> tones_{}; // tools that identify
    Conversing conversing_;
    ValueSide values_;
    RuleSide rules_;
    OutsideSide outside_;
    AccessSide access_;
    SurfaceSide surfaces_;
    SurfaceSide::Owner surfaceOwner();
    RuleSide::Owner ruleOwner();
    AccessSide::Owner accessOwner();
    std::optional<double> stateNow(const std::string& signal) const;
    bool setState(const std::string& signal, double value, const std::string& who);
    void rulesTold();
    std::map<std::string, double> knobs_{}; // where each was last turned to
    std::optional<double> valueNow(const project::Drive& drive) const;
    void surfacesTold();
    void conversationTold();                     // what of its set-up and program is about conversations
    engine::Resources resources();               // with the files of its store
    std::map<std::string, std::string> files_{}; // of the program: print by name
    std::map<std::pair<std::string, double>, std::shared_ptr<const dsp::AudioClip>> clips_{}; // by print and rate
    std::optional<std::string> stagedKey_{}, keyBefore_{};
    project::ToolsAtWork tools_;
    PortTaps taps_;
    std::unique_ptr<engine::Runner> runner_;
    std::unique_ptr<engine::RealtimeThread> thread_;
};

} // namespace loom::rig
