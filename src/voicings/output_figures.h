// The figures of loudspeakers: curves of voicings, and what every output of an amplifier has to bear.
#pragma once
#include "loudspeaker/fit.h"
#include "loudspeaker/response_file.h"
#include "voicings/voiced.h"

namespace loom::project {

// A response file of the project. Error: there is none of that name, or it is none.
Result<loudspeaker::ResponseFile> responseOf(const Project& project, const std::string& asset);

// What the blocks of one way do (with what lies before all ways), at each frequency. Taps of filters come from the
// project's files.
std::vector<dsp::Complex> voicingResponse(const Project& project, const Voicing& voicing, int way,
                                          const std::vector<double>& hz, double rate = 48000);
struct VoicingCurves {
    std::vector<double> hz;
    std::vector<std::vector<dsp::Complex>> driver; // by way: as measured, or even at its sensitivity
    std::vector<std::vector<dsp::Complex>> ways;   // with the blocks: what each way gives
    std::vector<dsp::Complex> sum, without;        // of all ways as complex numbers; without any blocks
    std::vector<double> target;                    // dB; empty: none
    std::vector<std::string> notes;                // what is not known, gaps of files
};
// 1 is 1 Pa of nothing in particular: levels are dB SPL at 1 m for 1 W where sensitivities are known, else dB against
// the first way.
VoicingCurves curvesOf(const Project& project, const Voicing& voicing, const std::vector<double>& hz);
std::vector<double> curveFrequencies(); // 24 an octave, 20 Hz to 20 kHz

// With delays (and polarity) that bring each way together with the one below it; the least delay is 0.
struct Aligned {
    Voicing voicing;
    std::vector<loudspeaker::Alignment> found; // between each way and the one below
};
Result<Aligned> withAlignment(const Project& project, const Voicing& voicing);
// With bells in `whole` (at most 8) that bring the sum to its target (or to even) between two frequencies.
struct Fitted {
    Voicing voicing;
    loudspeaker::Fit fit;
};
Result<Fitted> withFit(const Project& project, const Voicing& voicing, double fromHz, double toHz, int bells,
                       std::stop_token stop = {});

struct OutputFigures {
    std::string amplifier, port;       // ids
    std::string input;                 // of the amplifier: whose sound comes there
    std::string from;                  // "device/port"; "": nobody's that is told
    std::string loudspeakers;          // for people: "Column L, Column R"
    std::string voicing, way;          // names
    loudspeaker::Impedance load{0, 0}; // at the far end of the cable, ohms; 0: nothing hangs there
    double cableOhms = 0, lossDb = 0, damping = 0, amperes = 0; // amperes at the most it gives
    double ampWatts = 0;                                        // into this load, for long; on lines its rating
    double tapWatts = 0;                                        // sum of the taps
    double driverWatts = 0;                                     // that all of its drivers bear together
    std::optional<loudspeaker::Protection> protection;
    bool limited = false;  // the limiter works
    double most = 0;       // W into each driver: what the amplifier, cable and limiter leave
    double needed = 0;     // W into each, for the room's target; 0: not known
    double headroomDb = 0; // most over needed
    double seatDb = 0;     // level at the seats with `most`: the room's target and the headroom; 0: not known
    std::string runsIn;    // name of the device that processes
};
// `drives`: for each room, dB above the sensitivity that the loudspeakers need for its target (SpaceFigures::drive).
using RoomDrives = std::map<std::string, double>;
std::vector<OutputFigures> outputFigures(const Project& project, const RoomDrives& drives);
RoomDrives drivesOf(const Project& project, std::stop_token stop = {});

} // namespace loom::project
