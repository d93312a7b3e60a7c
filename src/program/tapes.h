// What recorder blocks gather, written to WAV files.
#pragma once
#include "engine/result.h"
#include "engine/schedule.h"
#include <functional>

namespace loom::project {

// Belongs to the control thread. A recorder's tape grows while its "record" is on and becomes a file when it is
// switched off, or at finish(). At most maxTapeSeconds of each are kept; what comes after is left out and said.
class Tapes {
  public:
    inline static constexpr double maxTapeSeconds = 600;
    using FileFor = std::function<std::string(const engine::Block&)>; // path to write a recorder's tape to
    explicit Tapes(FileFor fileFor) : fileFor_(std::move(fileFor)) {}

    // Takes what the recorders of a running plan have gathered; call at least every 4 s. Gives a line for every file
    // that was written ("12.4 s in /home/…/hall.wav"), or why it could not be.
    std::vector<Result<std::string>> tend(const engine::Program& program, const engine::Schedule& plan);
    std::vector<Result<std::string>> finish(); // writes what is still open
    bool recording() const { return !tapes_.empty(); }

  private:
    struct Tape {
        engine::Block block;
        double rate = 48000;
        std::vector<std::vector<float>> channels{};
        bool full = false;
    };
    Result<std::string> write(Tape tape) const;
    FileFor fileFor_;
    std::map<std::string, Tape> tapes_;
};

} // namespace loom::project
