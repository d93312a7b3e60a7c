// What carries sound between the devices of a rig: cables, the audio network, and the air of rooms.
#pragma once
#include "dsp/matrix_convolver.h"
#include "engine/kernel.h"
#include "rig/far_side.h"
#include "rig/stream_net.h"
#include "voicings/room_sound.h"
#include <atomic>
#include <thread>

namespace loom::rig {

// Ends and devices are named by the project's ids. Functions belong to one thread but for the sides.
class Air {
  public:
    static constexpr int block = soundBlock;
    // adapter: see StreamNet.
    explicit Air(double rate = 48000, const std::string& adapter = {});
    ~Air();
    double rate() const { return rate_; }

    // Lays the leads of a project, and a cable at every end that matters to its rooms. First of all, once.
    void lay(const project::Project& project);
    bool empty() const { return ends_->leaving.empty() && ends_->arriving.empty() && net_.empty(); }
    // What lies at a port of a device; null: nothing. Any thread.
    std::shared_ptr<engine::Cable> leaving(const project::SoundEnd& end) const { return ends_->find(false, end); }
    std::shared_ptr<engine::Cable> arriving(const project::SoundEnd& end) const { return ends_->find(true, end); }
    std::shared_ptr<SoundSide> side(const std::string& device) const;
    // A device's resources with what comes and goes here; stand-in sound stays where nothing else comes.
    engine::Resources joined(engine::Resources own, const std::string& device) const;

    // The rooms of all buildings in every state of their walls: takes a while. `stop`: nothing is added any more.
    void furnish(const project::Project& project, std::stop_token stop = {});
    // A room that was worked out. `rooms`: those it is made of, while these walls between them are open.
    void add(project::RoomSound room, std::set<std::string> rooms = {}, std::set<std::string> open = {});
    // Movable walls that are open from now on, by id. Any thread.
    void setWalls(std::set<std::string> open);
    std::set<std::string> walls() const;
    std::shared_ptr<FarSide> farSide(const std::string& device) const; // null: nobody is far away there
    bool furnished() const { return furnished_; }
    const StreamNet& net() const { return net_; } // its states()
    StreamNet& net() { return net_; }             // its cut()

    // One block of sound of everything; for tests without a thread.
    void step();
    // Works out the rooms and carries sound at the pace of the clock, on a thread.
    void start(const project::Project& project);

  private:
    struct Way { // a lead
        project::Lead lead;
        SoundLane from;
        std::shared_ptr<engine::Cable> to;
        std::shared_ptr<SoundSide> side; // where it comes
    };
    struct Room {
        explicit Room(project::RoomSound s)
            : sound(std::move(s)), convolver(sound.sources.size(), sound.targets.size(), block) {}
        project::RoomSound sound;
        dsp::MatrixConvolver convolver;
        std::set<std::string> rooms{}, open{};
        float gain = 1;                        // of what its microphones hear: 0 while the walls make other rooms
        std::vector<SoundLane> loudspeakers{}; // by source; unused for voices
        std::vector<std::vector<float>> out{};
        std::vector<std::shared_ptr<engine::Cable>> ears{};
        std::vector<std::shared_ptr<SoundSide>> earSides{};
    };
    // Cables by where they end. Programs may use other ports of the network or the ring at any time: those are made
    // when they are asked for.
    struct Ends {
        using Cables = std::map<project::SoundEnd, std::shared_ptr<engine::Cable>>;
        Cables leaving{}, arriving{};
        std::set<project::SoundEnd> spoken{}; // inputs that have stand-in sound
        std::shared_ptr<engine::Cable> find(bool input, const project::SoundEnd& end) const;
        std::shared_ptr<engine::Cable> made(bool input, const project::SoundEnd& end);
        std::shared_ptr<engine::Cable> asked(bool input, const project::SoundEnd& end); // made if it is a stream's
        mutable std::mutex door{};
    };
    void carry(Way& way);
    void sound(Room& room, bool atWork);
    void soundRooms();
    bool isAtWork(const Room& room, const std::set<std::string>& open) const;
    void layFarEnds(const project::Project& project);

    double rate_;
    StreamNet net_; // of what it sends
    std::shared_ptr<Ends> ends_ = std::make_shared<Ends>();
    std::map<std::string, std::shared_ptr<SoundSide>> sides_{};
    std::vector<Way> ways_{};
    std::vector<std::unique_ptr<Room>> rooms_{};
    std::map<std::string, std::shared_ptr<FarSide>> farSides_{};
    mutable std::mutex wallDoor_;
    std::set<std::string> open_{};
    std::uint64_t steps_ = 0, began_ = 0;
    std::atomic<bool> furnished_{false};
    std::jthread thread_{};
};

} // namespace loom::rig
