// What a run of letters of a sheet is made of: words with what they mean, numbers with their units, signs.
#pragma once
#include "loudspeaker/sheet/letters.h"
#include "loudspeaker/sheet/lexicon.h"
#include <deque>

namespace loom::loudspeaker::sheet {

enum class Unit {
    none,
    hz,
    db,
    slope,
    octaves,
    quality,
    ms,
    samples,
    metres,
    mm,
    ohm,
    watt,
    degrees,
    volt,
    dbu,
    other
};

struct Item {
    enum class Is { word, number, sign } is = Is::word;
    Meanings means{};       // of a word
    Unit unit = Unit::none; // of a number, or a word that is nothing but a unit
    double value = 0;       // in Hz, dB, dB an octave, octaves, ms, samples, m, mm, ohm, W, degrees, V
    bool kilo = false;      // a k stood in or behind it: it is no gain and no width
    bool sign = false;      // "+3", "-3"
    bool ordinal = false;   // "4th"
    bool whole = false;     // no fraction was written
    bool glued = false;     // to the letters before it: "EQ1", "lr24"
    bool gap = false;       // two blanks or more, or the border of a cell, stand before it
    bool used = false;      // something was read of it, or it says nothing
    std::string text{};     // plain letters
    std::size_t line = 0, from = 0, to = 0;
    bool has(Means m) const { return is == Is::word && means.has(m); }
    bool any(std::initializer_list<Means> all) const { return is == Is::word && means.any(all); }
    bool is_(const char* signText) const { return is == Is::sign && text == signText; }
};
using Run = std::vector<Item*>;

// How a whole sheet writes its numbers.
struct Writing {
    bool torn = false;         // blanks inside numbers: "1 . 4", "2 200"
    bool decimalComma = false; // "0,42" stands somewhere
    bool decimalPoint = false;
};
Writing writingOf(const std::vector<Letters>& lines);

// Makes items, which stay where they are for as long as this does.
class Lexer {
  public:
    Lexer(const Lexicon& lexicon, Writing writing) : lexicon_(lexicon), writing_(writing) {}
    Run itemsOf(const Letters& letters);
    std::deque<Item>& all() { return all_; }

  private:
    struct Scan;
    const Lexicon& lexicon_;
    Writing writing_;
    std::deque<Item> all_;
};

} // namespace loom::loudspeaker::sheet
