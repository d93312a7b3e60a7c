// Something of a device's program by its path: a parameter, or something that a program tells; and moments that are
// given by their names. What controls are driven from besides is in rules/control_drive.h.
//
//   heddle/chair.level.gain      a parameter, as everywhere
//   heddle/chair@level           the level where the block's sound leaves it
//   heddle/echo@erle             a figure that the block shows (BlockKind::readouts)
//   heddle/auto@lane 3           what its picture shows of one lane
//   heddle/auto@lanes            who is open: all of them
//   heddle/chair-eq@response     its response at the settings it has now
//   heddle/tel 1@line            a telephone line of the device
//   scene:meeting                a scene of the project
//   cue:closing-call             a moment that rules wait for (rules/signal.h)
#pragma once
#include "engine/block_kind.h"
#include "model/project.h"

namespace loom::project {

struct Drive {
    enum class Kind { range, onOff, choice, reading, lanes, response, line, scene, cue };
    Kind kind = Kind::range;
    std::string path, device, block, param; // param: of a reading what stands behind "@"
    std::string label;                      // "Chair · Level · gain"
    engine::ParamSpec spec{};               // of a reading: its range and unit
    int readout = -1;                       // of a reading: its number; -1: the level; of lanes: that of the first
    std::vector<std::string> lanes{};       // who is heard on them
    bool settable = true;                   // of a signal: some are only told
};
// None: there is no such.
std::optional<Drive> driveOf(const Project& project, const std::string& path);
// Those whose names, or whose path, have all words that are typed, rows (bands, crossings) last; at most so many.
// device: only of this one
// ("": of any).
std::vector<Drive> findDrives(const Project& project, const std::string& words, std::size_t most,
                              const std::string& device = "");
// "dB, −60…+12", "on / off", "choice of 3", "reading".
std::string detailOf(const Drive& drive);

// How a control narrows it.
struct DriveRange {
    double low = 0, high = 1;
    int digits = -1; // -1: as the parameter writes itself
};
DriveRange rangeOf(const Drive& drive, const Control& control);
// Where a value stands from the least (0) to the most (1), evenly or by its logarithm as the parameter says.
double positionOf(const Drive& drive, const DriveRange& range, double value);
double valueAt(const Drive& drive, const DriveRange& range, double position);  // in whole steps of the parameter
std::string textOf(const Drive& drive, const DriveRange& range, double value); // "−6 dB"
// Where a level is read: where the block's sound leaves it, or comes to it if it ends there. None: nothing comes.
std::optional<engine::PortRef> levelAt(const engine::Program& program, const engine::Block& block);
// Whether it is set by anybody: parameters, lines, scenes, cues, and signals that can be.
bool isSet(const Drive& drive);
// Whether it is a value that is set: parameters, and signals that can be.
bool isValue(const Drive& drive);
// What it is by itself while nothing runs: as the design has it; readings are unknown.
std::optional<double> designValue(const Project& project, const Drive& drive);

inline constexpr const char* cuePrefix = "cue:";
inline constexpr std::size_t longestCue = 60; // bytes of a name
// What stands behind a prefix; none: the path does not begin with it.
std::optional<std::string> behind(const std::string& path, const char* prefix);
// Cues that anything in the project gives or waits for.
std::vector<std::string> cuesOf(const Project& project);

} // namespace loom::project
