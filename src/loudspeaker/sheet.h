// Reads what spec sheets say, however they are laid out (sheet/): lines, tables and sentences become fields, each with
// the place where it stands. What was not understood is marked; what may mean several things that are all plausible is
// asked about, never guessed; what is off, or left to whoever sets it up, is told and never applied.
#pragma once
#include <string>
#include <vector>

namespace loom::loudspeaker {

enum class SheetKind {
    name,
    maker,
    driver,
    impedance,
    minimumImpedance,
    rmsPower,
    peakPower,
    sensitivity,
    coil,
    coverage,
    taps,
    highPass,
    lowPass,
    bell,
    lowShelf,
    highShelf,
    notch,
    allPass,
    gain,
    polarity,
    delay
};

struct SheetSpan {
    std::size_t line = 0, from = 0, to = 0;
};

// One of the things that a field may mean: what it would be then.
struct SheetChoice {
    std::string label; // "47 Hz"
    SheetKind kind = SheetKind::name;
    double value = 0, q = 0;
    int slope = 0;
};

struct SheetField {
    SheetKind kind = SheetKind::name;
    int way = 0;                            // 0: the whole loudspeaker, else from 1, as Sheet::ways
    std::size_t line = 0, from = 0, to = 0; // bytes of that line
    double value = 0;  // Hz, dB, ms, W, ohm, mm, degrees across; polarity: 1 is inverted; driver: 1 is compression
    double second = 0; // dB of bells and shelves; degrees up and down
    double q = 0;      // of bells and shelves; 0: not said
    int shape = 0, slope = 0;       // of edges: 0 Butterworth, 1 Linkwitz-Riley, 2 Bessel; dB an octave, 0: not said
    std::vector<double> list{};     // taps, W
    std::string text{};             // name, maker
    std::vector<SheetChoice> ask{}; // what it may mean; value is not sure until one is chosen
    std::string question{};         // "47 has no unit."
    bool sure() const { return ask.empty(); }
};

// A limit that the maker states, as it stands there.
struct SheetLimit {
    int way = 0;
    bool rms = false;                   // of the mean; else of the peak
    double value = 0;                   // 0: not said
    std::string unit{};                 // "V", "dBu", "dB"
    double attackMs = 0, releaseMs = 0; // 0: not said
    SheetSpan where{};
};

struct Sheet {
    std::vector<std::string> lines;
    std::vector<std::string> ways; // "Low", "High"; empty: one way
    std::vector<SheetField> fields;
    std::vector<SheetLimit> limits;
    std::vector<SheetSpan> off, forYou; // what is said to be off; what is left to whoever sets it up
    std::vector<SheetSpan> unread;      // words and numbers that mean nothing to the reader
};

inline constexpr std::size_t maxSheetBytes = 64u << 10, maxSheetLines = 1000;
// Text beyond the limits is cut off and the rest marked as unread by a last line that says so.
Sheet readSheet(const std::string& text);
// "High-pass 47 Hz Butterworth 24 dB/oct"
std::string textOf(const SheetField& field);
// Chooses one of what a field may mean.
void answer(SheetField& field, std::size_t choice);

// A width as people write it: "Q 1.41", "0.7 oct", or both edges 3 dB down, "330-515 Hz". 0: none of these.
double widthToQ(const std::string& text, double centreHz);

} // namespace loom::loudspeaker
