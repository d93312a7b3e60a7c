// Whoever is far away, beside one device of the rig: the computer on its USB and the telephones on its lines. Each has
// somebody who talks and a record of what is heard there.
#pragma once
#include "engine/cable.h"
#include "farend/computer.h"
#include "farend/telephone.h"
#include "rig/sound_side.h"
#include <nlohmann/json.hpp>

namespace loom::rig {

// Any thread; the sound goes by the air's (step).
class FarSide {
  public:
    using Voice = std::shared_ptr<const std::vector<float>>;
    struct Port { // one of the device's, by its cables; voice: who talks there
        std::string port{};
        Voice voice{};
        std::shared_ptr<engine::Cable> leaves{}, comes{};
    };
    FarSide(std::vector<Port> ports, std::shared_ptr<SoundSide> side);

    // -- what the device tells it --
    void setAccount(const farend::Account& account, int answersAfter);
    void setMuted(const std::string& port, bool muted); // the computer shows it
    Result<Done> call(const std::string& port, const std::string& does, const std::string& number);
    // Where the user pressed the computer's own mute since last asked, and how it is now.
    std::optional<bool> pressed(const std::string& port);

    // -- by command: what people at the computer and the exchange do --
    // computer: {"here": true, "call": true, "channel": 2, "rate": 16000, "mute": true}; line: {"rings": "2041"} from
    // there, {"codec": "g722", "loss": 0.02, "delay": 40}; exchange: {"here": true, "server": "", "accounts": {},
    // "busy": [], "nobody": []}. Error: it says none of these.
    Result<Done> setComputer(const nlohmann::json& how);
    Result<Done> setLine(const nlohmann::json& how);
    Result<Done> setExchange(const nlohmann::json& how);

    // -- what is seen of it --
    struct Line {
        std::string port, how, number, codec;
        bool registered = false;
        double seconds = 0;
    };
    std::vector<Line> lines() const;
    std::map<std::string, std::string> words() const; // by port
    bool computerMuted() const;
    std::vector<float> heard(const std::string& port) const; // there, the last half minute at 48 kHz

    void step(); // a block of sound

  private:
    struct Way {
        Port port;
        SoundLane from;
        std::vector<float> says = std::vector<float>(soundBlock);
        std::unique_ptr<farend::Telephone> line{}; // null: of the computer
    };
    mutable std::mutex door_;
    std::vector<std::unique_ptr<Way>> ways_;
    std::unique_ptr<farend::Computer> computer_{};
    Way* channels_[2]{};
    farend::Exchange exchange_{};
    bool pressed_ = false;
};

} // namespace loom::rig
