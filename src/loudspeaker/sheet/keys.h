// What the words of sheets stand for: what a fact is of, and whose it is.
#pragma once
#include "loudspeaker/sheet.h"
#include "loudspeaker/sheet/item.h"
#include <optional>

namespace loom::loudspeaker::sheet {

struct WayRef { // rank 0: the whole loudspeaker; ways are in the order of their ranks, lowest frequencies first
    int rank = 0;
    std::string name{};
    bool operator==(const WayRef&) const = default;
};
// Ranks of ways with names that are no words for ways, and of loudspeakers that one sheet describes.
inline constexpr int namedRank = 200, productRank = 300;
std::optional<WayRef> wayOf(const Item& item);                     // a word for one
std::optional<WayRef> numberedWay(const Run& run, std::size_t& i); // "Way 2", "Out A"; i is moved behind it

// What begins a fact; for words that may mean several things the first in the order of Means.
std::optional<Means> keyOf(const Item& item);
std::optional<Means> powerOf(const Item& item); // the strongest of its words
std::optional<SheetKind> kindOf(Means key);     // none: it is no field by itself
bool isPower(Means key);
bool isEdge(Means key);
bool isEqualiser(Means key);
bool isLimit(Means key);
bool slopeValue(double v); // dB an octave that filters have: 6, 12 … 48

} // namespace loom::loudspeaker::sheet
