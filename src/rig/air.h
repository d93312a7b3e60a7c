// What carries sound between the devices of a rig: cables, the audio network, and the air of rooms.
#pragma once
#include "dsp/matrix_convolver.h"
#include "engine/cable.h"
#include "engine/kernel.h"
#include "site/audio_key.h"
#include "voicings/room_sound.h"
#include <atomic>
#include <mutex>
#include <thread>

namespace loom::rig {

// What the air has to know of a device, and tells it: between the device's thread and the air's.
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

  private:
    mutable std::mutex door_;
    std::string address_;
    std::optional<site::Key> key_;
    std::map<std::string, std::string> heard_;
};

inline constexpr std::uint16_t soundPort = 4711; // UDP
class SoundSocket;

// Ends and devices are named by the project's ids. Functions belong to one thread but for the sides.
class Air {
  public:
    static constexpr int block = 512;
    explicit Air(double rate = 48000);
    ~Air();
    double rate() const { return rate_; }

    // Lays the leads of a project, and a cable at every end that matters to its rooms. First of all, once.
    void lay(const project::Project& project);
    bool empty() const { return leaving_.empty() && arriving_.empty(); }
    // What lies at a port of a device; null: nothing.
    std::shared_ptr<engine::Cable> leaving(const project::SoundEnd& end) const;
    std::shared_ptr<engine::Cable> arriving(const project::SoundEnd& end) const;
    std::shared_ptr<SoundSide> side(const std::string& device) const;
    // A device's resources with what comes and goes here; stand-in sound stays where nothing else comes.
    engine::Resources joined(engine::Resources own, const std::string& device) const;

    // The rooms of all buildings with their walls closed: takes a while. `stop`: nothing is added any more.
    void furnish(const project::Project& project, std::stop_token stop = {});
    void add(project::RoomSound room); // a room that was worked out
    bool furnished() const { return furnished_; }

    // One block of sound of everything; for tests without a thread.
    void step();
    // Works out the rooms and carries sound at the pace of the clock, on a thread.
    void start(const project::Project& project);

  private:
    struct Lane { // a reader of a cable, with the block it read
        std::shared_ptr<engine::Cable> cable{};
        engine::Cable::Reader reader{block};
        std::vector<float> samples = std::vector<float>(block);
        std::shared_ptr<SoundSide> side{};
        void read();
    };
    struct Way { // a lead
        project::Lead lead;
        Lane from;
        std::shared_ptr<engine::Cable> to;
        std::shared_ptr<SoundSide> fromSide, toSide;
        std::uint32_t sent = 0;
        site::PacketWindow heard{};
        int silentFor = 0; // blocks since sound came
    };
    struct Room {
        explicit Room(project::RoomSound s)
            : sound(std::move(s)), convolver(sound.sources.size(), sound.targets.size(), block) {}
        project::RoomSound sound;
        dsp::MatrixConvolver convolver;
        std::vector<Lane> loudspeakers{};  // by source; unused for voices
        std::vector<std::size_t> spoken{}; // by source: where its voice is
        std::vector<std::vector<float>> out{};
        std::vector<std::shared_ptr<engine::Cable>> ears{};
        std::vector<std::shared_ptr<SoundSide>> earSides{};
    };
    void carry(Way& way, std::size_t number);
    void takePackets();
    void sound(Room& room);
    SoundSocket* socketOf(const std::string& address);

    double rate_;
    std::uint64_t epoch_;                                                                // of what it sends
    std::map<project::SoundEnd, std::shared_ptr<engine::Cable>> leaving_{}, arriving_{}; // as lay() made them
    std::map<std::string, std::shared_ptr<SoundSide>> sides_{};
    std::vector<Way> ways_{};
    std::vector<std::unique_ptr<Room>> rooms_{};
    std::map<std::string, std::unique_ptr<SoundSocket>> sockets_; // by address
    std::atomic<bool> furnished_{false};
    std::jthread thread_{};
};

} // namespace loom::rig
