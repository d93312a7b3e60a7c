// Responses, impedances and calibrations as other programs write them: which column is what, in which unit, is read
// from heads and remarks, judged by what is plausible where they do not say, and asked where both leave it open.
// Impulse responses become responses by a window that is told.
#pragma once
#include "loudspeaker/response_file.h"
#include <map>

namespace loom::loudspeaker {

enum class CurveUse {
    response,   // of a loudspeaker, dB
    impedance,  // ohms in place of dB
    calibration // of a microphone, dB around 0
};

struct CurveQuestion {
    std::string topic, text; // "frequency"; "Its frequencies go from 0.02 to 20."
    std::vector<std::string> choices;
    std::size_t likely = 0; // what the curve shows until it is answered
};
using CurveAnswers = std::map<std::string, std::size_t>; // topic to choice

struct CurveWindow { // of an impulse response, ms from its peak; Tukey's, falling over a quarter at the end
    double beforeMs = 2, afterMs = 0; // 0: all there is, up to 500 ms
};

struct CurveReading {
    ResponseFile curve{};               // dB or ohms; shown with what is likely for what is still open
    std::vector<CurveQuestion> open{};  // to be answered before it is taken
    std::vector<std::string> columns{}; // "frequency, kHz"
    std::vector<std::string> notes{};   // what was put right, left out, and what window an impulse response got
    bool impulse = false;
    CurveWindow window{}; // that was used
};

// A text of lines of numbers, or a sound file with an impulse response. `bytes` may be in any encoding that utf8Of
// knows. Error: no two points, more than maxResponsePoints, values that cannot be (with their line), no sound file.
Result<CurveReading> readCurve(const std::string& bytes, const std::string& name, CurveUse use,
                               const CurveAnswers& answers = {}, CurveWindow window = {});

// As readResponse reads it back: a head, then Hz, dB or ohms, and degrees where it has any.
std::string curveText(const ResponseFile& curve, CurveUse use);

} // namespace loom::loudspeaker
