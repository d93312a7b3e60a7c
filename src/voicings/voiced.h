// Where voicings run: in the amplifier if it processes, else in the processor that feeds it. There they lie on the lane
// before the output, as blocks marked with the voicing and the part they are; changed together with it.
#pragma once
#include "catalogue/catalogue.h"
#include "model/project.h"

namespace loom::project {

// One output of an amplifier with all that stands before and behind it.
struct OutputPath {
    const Device* amplifier = nullptr;
    std::string port; // "out 1"
    const AmplifierOutput* output = nullptr;
    const AmplifierData* data = nullptr;
    const Voicing* voicing = nullptr; // of its first loudspeaker that has one
    int way = 0;
    const Device* runsIn = nullptr; // has the program with the lane; null: nothing there can process
    std::string destination;        // that lane's end
    std::string input;              // of the amplifier: the first whose sound is led there, "in 1"
    std::string from;               // what comes there, "device/port", by a cable or a stream; "": nothing that is told
    bool driven = false;            // sound comes to it
};
// Of every output that something hangs on or comes to, amplifier by amplifier.
std::vector<OutputPath> outputPaths(const Project& project);

// The limiter's thresholds for an output: what its drivers bear, seen from there. Nothing without a voicing whose way
// has its power, or if its loads do not go together.
std::optional<loudspeaker::Protection> protectionOf(const OutputPath& path);

// The blocks of a way, in the order of the sound, as they lie before an output: ids begin with `lane`. Where another
// way has a FIR filter or a limiter, which are late, this one waits as long; rate in Hz.
std::vector<engine::Block> blocksOf(const Voicing& voicing, int way, const std::string& lane,
                                    const std::optional<loudspeaker::Protection>& protection, double rate);

// Programs that have to change so that every output has its voicing, by device; empty if all is as it should be.
std::map<std::string, engine::Program> voicedPrograms(const Project& project);

inline constexpr const char* voicingMark = "voicing"; // Block::marks
inline constexpr const char* partMark = "part";

// Loudspeakers that have a voicing, by id.
std::vector<std::string> reachOf(const Project& project, const std::string& voicing);

} // namespace loom::project
