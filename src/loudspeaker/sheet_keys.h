// The trade's words on spec sheets: what begins a field, what names a way or a shape, what means nothing by itself.
#pragma once
#include <optional>
#include <set>
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
    gain,
    polarity,
    delay
};

// Words that begin a field. Longer ones first, so that "high shelf" is not taken for "high".
struct SheetKey {
    SheetKind kind;
    std::vector<const char*> words;
};
const std::vector<SheetKey>& sheetKeys();
const std::set<std::string>& sheetFiller();            // words that carry no meaning of their own
std::string wayWord(const std::string& word);          // "lf" -> "Low"; empty: no way
std::optional<int> shapeWord(const std::string& word); // "lr" -> 1, as SheetField::shape

} // namespace loom::loudspeaker
