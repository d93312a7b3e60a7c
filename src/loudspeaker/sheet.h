// Reads what spec sheets say, however they are laid out (sheet/): lines, tables and sentences become fields, each with
// the place where it stands. What was not understood is marked; what may mean several things that are all plausible is
// asked about, never guessed; what is off, or left to whoever sets it up, is told and never applied.
#pragma once
#include <map>
#include <optional>
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

// One of the things that a field may mean: what of it would be otherwise.
struct SheetChoice {
    std::string label; // "47 Hz"
    std::optional<SheetKind> kind{};
    std::optional<double> value{}, q{};
    std::optional<int> slope{}, shape{}, way{};
    bool leave = false; // it is nothing
};

struct SheetField {
    SheetKind kind = SheetKind::name;
    int way = 0;                            // 0: the whole loudspeaker, else from 1, as Sheet::ways
    std::size_t line = 0, from = 0, to = 0; // bytes of that line
    double value = 0;  // Hz, dB, ms, W, ohm, mm, degrees across; polarity: 1 is inverted; driver: 1 is compression
    double second = 0; // dB of bells and shelves; degrees up and down
    double q = 0;      // of bells and shelves; 0: not said
    int shape = 0, slope = 0;       // of edges: 0 Butterworth, 1 Linkwitz-Riley, 2 Bessel; dB an octave, 0: not said
    bool shaped = false;            // of edges: their shape is said
    bool unitSaid = false;          // its value stood with a unit, or its head had one
    std::vector<double> list{};     // taps, W
    std::string text{};             // name, maker
    std::vector<SheetChoice> ask{}; // what it may mean; value is not sure until one is chosen
    std::string question{};         // "47 has no unit."
    std::string topic{};            // what is asked, alike for questions that one answer settles
    bool left = false;              // answered: it is nothing
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
    std::vector<std::string> notes;     // what contradicts, and what of a long text was read
    std::string pattern;                // that was applied
};

// One question that is open for several fields alike: "0.7 may be a Q or octaves", and four others.
struct SheetQuestion {
    std::string text;
    std::vector<std::string> choices;
    std::vector<std::size_t> fields;
};

inline constexpr std::size_t maxSheetBytes = 16u << 20, maxSheetLines = 200000;
// How one maker writes sheets, as somebody said it: words and what they mean (by the names of words.txt), and what was
// answered where a sheet left it open.
struct SheetPattern {
    std::string name, maker;
    std::vector<std::string> labels; // words before the values of the sheet it was made of, to know the next one by
    std::map<std::string, std::vector<std::string>> words;
    std::map<std::string, std::size_t> answers; // by SheetField::topic and the number of choices: "shape/3"
    bool empty() const { return words.empty() && answers.empty(); }
};

// UTF-8 with any line ends. Of a long text the part that matters is read, and a note says which; text beyond the limits
// is cut off, and a last line says so.
// The pattern that fits best, if one does, is applied and named in Sheet::pattern.
Sheet readSheet(const std::string& text, const std::vector<SheetPattern>& patterns = {});
const char* idOf(SheetKind kind);   // "highPass", as loomctl says it
const char* unitOf(SheetKind kind); // of its value: "Hz"; "": none
// "High-pass 47 Hz Butterworth 24 dB/oct"
std::string textOf(const SheetField& field);
// Chooses one of what a field may mean; of one that is left, nothing is taken.
void answer(SheetField& field, std::size_t choice);
// What is asked, several alike in one, in the order of the sheet.
std::vector<SheetQuestion> questionsOf(const Sheet& sheet);
// Answers one of these for all of its fields; those that are nothing then go, with ways that have none left.
void answer(Sheet& sheet, const SheetQuestion& question, std::size_t choice);
// What a piece of text can be said to be: the names of words.txt with words for people, "level" and "Level".
const std::vector<std::pair<std::string, std::string>>& meaningsToSay();
// The words that stand for a piece of a line, to be remembered: its own, or, of a bare value, those before it. "":
// none.
std::string wordsAt(const Sheet& sheet, const SheetSpan& piece);
// A pattern to begin with, known again by the maker and the labels of a sheet.
SheetPattern patternOf(const Sheet& sheet);
// What its first line calls it, where it has no field for that; "": nothing that could be a name.
std::string titleOf(const Sheet& sheet);
// Remembers an answer, where it is one about how the maker writes, and not about one value.
void remember(SheetPattern& pattern, const SheetField& asked, std::size_t choice);
// How sure a field is, from 0.2 to 1, by what it rests on: its unit was said, its shape, nothing is asked.
double certaintyOf(const SheetField& field);

// A width as people write it: "Q 1.41", "0.7 oct", or both edges 3 dB down, "330-515 Hz". 0: none of these.
double widthToQ(const std::string& text, double centreHz);

} // namespace loom::loudspeaker
