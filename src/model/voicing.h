// Voicings: what a loudspeaker is by its sheet, and how its sound is made right; one serves many loudspeakers.
#pragma once
#include "engine/program.h"
#include "loudspeaker/protection.h"
#include "schema/extra.h"
#include <map>
#include <string>
#include <vector>

namespace loom::project {

// One way of a loudspeaker: its driver, and the blocks that its sound goes through, in this order:
//   highpass, lowpass, eq, fir, delay, level, limiter
// They are blocks of the engine; where a voicing runs they lie on the lane before the output (voicings/voiced.h).
struct Way {
    std::string name{}; // "Low"
    loudspeaker::DriverKind driver = loudspeaker::DriverKind::cone;
    double nominalOhms = 8, minimumOhms = 0;      // 0: not known, 80 % of the nominal one is taken (IEC 60268-5, 16.1)
    double rmsWatts = 0, peakWatts = 0;           // 0: not known
    double sensitivity = 0;                       // dB SPL, 1 W at 1 m; 0: not known
    double coilMm = 0;                            // 0: not known
    std::string peakLimit{}, rmsLimit{};          // as the maker states them, "104 V" or "7.5 dBu"; the lower one holds
    double limitAttackMs = 0, limitReleaseMs = 0; // likewise, for people; 0: not said
    loudspeaker::Margins margins{};
    bool protect = true;     // the limiter works, with thresholds that follow from all this
    std::string response{};  // one of the project's files: frequency, dB, degrees
    std::string impedance{}; // another: frequency, ohms; its minimum is minimumOhms
    std::vector<engine::Block> chain{};
    schema::Extra unknownParts{}; // of `processing` in a later version
    schema::Extra extra{};
    bool operator==(const Way&) const = default;
};

struct Voicing {
    std::string id, name, maker{}, notes{};
    double across = 0, upDown = 0; // coverage, degrees; 0: not known
    std::vector<double> taps{};    // W, of its transformer at 100 V
    engine::Block whole{};         // an equaliser that all ways have before their own blocks
    std::string target{};          // one of the project's files: the curve it is to have; empty: even
    std::vector<Way> ways{};       // 1 to 4, lowest first
    schema::Extra extra{};
    bool operator==(const Voicing&) const = default;
};

std::vector<engine::Block> newChain(); // of a way, all of it resting
inline constexpr std::size_t mostWays = 4, mostBells = 8, longestNotes = 20000;

Voicing newVoicing(const std::string& id, const std::string& name, int ways);
// A block of it by its part: "whole", "1.highpass" ... Null: no such part.
engine::Block* partOf(Voicing& voicing, const std::string& part);
const engine::Block* partOf(const Voicing& voicing, const std::string& part);
// All parts in the order of the sound: "whole", "1.highpass", "1.lowpass" ...
std::vector<std::string> partsOf(const Voicing& voicing);
double minimumOhms(const Way& way);
bool hasDelays(const Voicing& voicing); // one way at least is held back: where it runs, all go in fine steps

} // namespace loom::project
