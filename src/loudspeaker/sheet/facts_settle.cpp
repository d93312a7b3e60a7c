// Once all is read: ways in their order, what the facts leave open together, what cannot be, what contradicts.
#include "dsp/number.h"
#include "loudspeaker/sheet/asks.h"
#include "loudspeaker/sheet/facts.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <set>

namespace loom::loudspeaker::sheet {
namespace {

bool edgeKind(SheetKind kind) {
    return kind == SheetKind::highPass || kind == SheetKind::lowPass;
}

const char* nameOf(SheetKind kind) {
    switch (kind) {
    case SheetKind::impedance:
        return "impedances";
    case SheetKind::minimumImpedance:
        return "least impedances";
    case SheetKind::rmsPower:
        return "noise powers";
    case SheetKind::peakPower:
        return "peak powers";
    case SheetKind::sensitivity:
        return "sensitivities";
    case SheetKind::coil:
        return "voice coils";
    case SheetKind::highPass:
        return "high-passes";
    case SheetKind::lowPass:
        return "low-passes";
    case SheetKind::gain:
        return "levels";
    case SheetKind::delay:
        return "delays";
    case SheetKind::polarity:
        return "polarities";
    default:
        return "";
    }
}

// What values of a kind can be for a loudspeaker and its processing; wide, for what lies outside is asked.
bool plausible(const SheetField& f) {
    const auto within = [&](double low, double high) { return f.value >= low && f.value <= high; };
    switch (f.kind) {
    case SheetKind::impedance:
    case SheetKind::minimumImpedance:
        return within(0.5, 5000);
    case SheetKind::rmsPower:
        return within(2, 20000);
    case SheetKind::peakPower:
        return within(2, 80000);
    case SheetKind::sensitivity:
        return within(65, 125);
    case SheetKind::coil:
        return within(8, 250);
    case SheetKind::coverage:
        return within(3, 360) && f.second >= 3 && f.second <= 360;
    case SheetKind::highPass:
    case SheetKind::lowPass:
        return within(10, 24000);
    case SheetKind::bell:
    case SheetKind::lowShelf:
    case SheetKind::highShelf:
        return within(10, 24000) && std::abs(f.second) <= 30 && (f.q == 0 || (f.q >= 0.05 && f.q <= 60));
    case SheetKind::notch:
    case SheetKind::allPass:
        return within(10, 24000);
    case SheetKind::gain:
        return within(-80, 30);
    case SheetKind::delay:
        return within(0, 2000);
    default:
        return true;
    }
}

const char* shapeName(int shape) {
    return shape == 1 ? "Linkwitz\u2013Riley" : shape == 2 ? "Bessel" : "Butterworth";
}

} // namespace

// Unknown names of columns lie between the known ways by where their edges are.
void Facts::orderNamedWays() {
    std::map<int, std::pair<double, int>> middle; // of the edges of a way: sum of their octaves, how many
    for (const auto& f : sheet_.fields)
        if (edgeKind(f.kind) && f.way > 0 && f.value > 0) {
            auto& [sum, count] = middle[f.way];
            // an edge alone bounds the way at one side only
            sum += std::log2(f.value) + (f.kind == SheetKind::highPass ? 1 : -1);
            ++count;
        }
    std::vector<std::pair<double, std::size_t>> placed; // octaves, way in found_
    for (std::size_t w = 0; w < found_.size(); ++w)
        if (const auto it = middle.find(static_cast<int>(w) + 1); it != middle.end())
            placed.push_back({it->second.first / it->second.second, w});
    if (placed.size() != found_.size())
        return; // some have none: they stay in the order of the columns, and are asked
    std::sort(placed.begin(), placed.end());
    for (std::size_t k = 0; k < placed.size(); ++k) {
        place_[placed[k].second] = static_cast<int>(k) + 1;
    }
    namedPlaced_ = true;
}

void Facts::settle() {
    const auto any = [&](int from, int to) {
        return std::any_of(found_.begin(), found_.end(),
                           [&](const WayRef& w) { return w.rank >= from && w.rank < to; });
    };
    // a number says nothing beside a word; numbers alone follow the edges, if all have them
    const bool named = any(namedRank, std::numeric_limits<int>::max()) || (any(100, namedRank) && any(1, 100));
    place_.assign(found_.size(), 0);
    if (named || (any(100, namedRank) && !numbersHold))
        orderNamedWays();
    std::vector<std::size_t> order(found_.size());
    for (std::size_t w = 0; w < order.size(); ++w)
        order[w] = w;
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return namedPlaced_ ? place_[a] < place_[b] : found_[a].rank < found_[b].rank;
    });
    std::vector<int> number(found_.size() + 1, 0);
    for (std::size_t k = 0; k < order.size(); ++k)
        number[order[k] + 1] = static_cast<int>(k) + 1;
    for (auto& f : sheet_.fields)
        f.way = number[static_cast<std::size_t>(f.way)];
    for (auto& l : sheet_.limits)
        l.way = number[static_cast<std::size_t>(l.way)];
    sheet_.ways.clear();
    for (const auto w : order)
        sheet_.ways.push_back(found_[w].name);
    if (const int count = static_cast<int>(sheet_.ways.size()); count >= 2)
        for (auto& f : sheet_.fields)
            if (f.kind == SheetKind::driver && f.value > 0 && f.way == 0)
                f.way = count; // a compression driver is the highest way's
    askSides();
    askEdges();
    if (named)
        askNames();
    else
        askBlocks();
    askWays();
    askWhatCannotBe();
    askTwice();
    sayEdgesThatDoNotMeet();
}

// An edge without a word for its side: of the lowest way it is a low-pass, of the highest a high-pass; else it is
// asked.
void Facts::askSides() {
    const int count = static_cast<int>(sheet_.ways.size());
    for (const auto n : bare_) {
        auto& f = sheet_.fields[n];
        if (count > 1 && f.way == 1)
            f.kind = SheetKind::lowPass;
        else if (count <= 1 || f.way != count)
            alsoAsk(f, "side", "It is not said on which side of it sound passes.",
                    {SheetChoice{.label = "high-pass", .kind = SheetKind::highPass},
                     SheetChoice{.label = "low-pass", .kind = SheetKind::lowPass}});
    }
}

void Facts::askEdges() {
    for (auto& f : sheet_.fields) {
        if (!edgeKind(f.kind) || (f.slope != 0 && f.shaped))
            continue;
        std::vector<SheetChoice> all;
        for (const int slope : {24, 12, 18, 6, 36, 48})
            for (const int shape : {0, 1, 2}) {
                const bool exists = shape != 1 || slope % 12 == 0;
                if (exists && (f.slope == 0 || f.slope == slope) && (!f.shaped || f.shape == shape))
                    all.push_back(SheetChoice{.label = f.slope == 0 ? print("%s %d dB/oct", shapeName(shape), slope)
                                                                    : std::string(shapeName(shape)),
                                              .slope = slope,
                                              .shape = shape});
            }
        if (all.size() > 1)
            alsoAsk(f, f.slope == 0 ? f.shaped ? "slope" : "slope and shape" : "shape",
                    f.slope == 0 ? "Its slope is not said." : "Its shape is not said.", all);
        else if (all.size() == 1)
            f.shape = *all[0].shape;
    }
}

// Columns with names that are no words for ways: ways, or loudspeakers beside each other?
void Facts::askNames() {
    const int count = static_cast<int>(sheet_.ways.size());
    bool products = std::any_of(found_.begin(), found_.end(), [](const WayRef& w) { return w.rank >= productRank; });
    if (count < 2 || (namedPlaced_ && !products && edgesMeet()))
        return;
    std::vector<std::string> labels;
    if (!products) {
        std::string up, down;
        for (int w = 0; w < count; ++w) {
            up += (w ? ", " : "") + sheet_.ways[static_cast<std::size_t>(w)];
            down += (w ? ", " : "") + sheet_.ways[static_cast<std::size_t>(count - 1 - w)];
        }
        labels.push_back("Ways, lowest first: " + up);
        labels.push_back("Ways, lowest first: " + down);
    }
    const std::size_t waysIn = labels.size();
    for (int w = 0; w < count; ++w)
        labels.push_back("The loudspeaker " + sheet_.ways[static_cast<std::size_t>(w)]);
    const std::string question =
        products ? "Several loudspeakers are described. Which one is it?"
                 : "What are the columns " + sheet_.ways.front() + " to " + sheet_.ways.back() + "?";
    for (auto& f : sheet_.fields) {
        if (f.way == 0)
            continue;
        std::vector<SheetChoice> all;
        for (std::size_t k = 0; k < labels.size(); ++k) {
            if (k == 0 && waysIn > 0)
                all.push_back(SheetChoice{.label = labels[k], .way = f.way});
            else if (k < waysIn)
                all.push_back(SheetChoice{.label = labels[k], .way = count + 1 - f.way});
            else if (static_cast<int>(k - waysIn) + 1 == f.way)
                all.push_back(SheetChoice{.label = labels[k], .way = 0});
            else
                all.push_back(SheetChoice{.label = labels[k], .leave = true});
        }
        alsoAsk(f, products ? "which loudspeaker" : "columns", question, all);
    }
}

void Facts::askBlocks() {
    if (blocks.size() < 2 || block_.size() < sheet_.fields.size())
        return;
    // A block is a loudspeaker if it says two things or more that another says as well.
    std::map<std::pair<int, SheetKind>, std::set<std::size_t>> kinds;
    for (std::size_t i = 0; i < sheet_.fields.size(); ++i)
        if (const auto& f = sheet_.fields[i]; nameOf(f.kind)[0] && block_[i] > 0)
            kinds[{f.way, f.kind}].insert(block_[i]);
    std::map<std::size_t, int> shared;
    for (const auto& [what, in] : kinds)
        if (in.size() > 1)
            for (const auto b : in)
                ++shared[b];
    std::vector<std::size_t> products;
    for (const auto& [b, count] : shared)
        if (count >= 2)
            products.push_back(b);
    if (products.size() < 2 || products.size() > 60)
        return;
    for (std::size_t i = 0; i < sheet_.fields.size(); ++i) {
        auto& f = sheet_.fields[i];
        if (std::find(products.begin(), products.end(), block_[i]) == products.end())
            continue;
        std::vector<SheetChoice> all;
        for (const auto b : products) {
            SheetChoice c{"The loudspeaker " + blocks[b - 1]};
            c.leave = b != block_[i];
            all.push_back(std::move(c));
        }
        alsoAsk(f, "which loudspeaker", "Several loudspeakers are described. Which one is it?", all);
    }
}

bool Facts::edgesMeet() const { // each way's upper edge lies near the next one's lower edge
    for (int w = 1; w < static_cast<int>(sheet_.ways.size()); ++w) {
        double upper = 0, lower = 0;
        for (const auto& f : sheet_.fields) {
            if (f.way == w && f.kind == SheetKind::lowPass)
                upper = f.value;
            if (f.way == w + 1 && f.kind == SheetKind::highPass)
                lower = f.value;
        }
        if (!(upper > 0 && lower > 0) || std::abs(std::log2(upper / lower)) > 1)
            return false;
    }
    return true;
}

void Facts::askWays() {
    const auto band = [&](int way) {
        std::pair<double, double> b{0, 1e6};
        for (const auto& f : sheet_.fields)
            if (f.way == way && f.kind == SheetKind::highPass)
                b.first = f.value;
            else if (f.way == way && f.kind == SheetKind::lowPass)
                b.second = f.value;
        return b;
    };
    const int count = static_cast<int>(sheet_.ways.size());
    const auto processing = [](SheetKind kind) {
        return edgeKind(kind) || kind == SheetKind::bell || kind == SheetKind::lowShelf ||
               kind == SheetKind::highShelf || kind == SheetKind::notch || kind == SheetKind::allPass ||
               kind == SheetKind::gain || kind == SheetKind::delay || kind == SheetKind::polarity;
    };
    for (std::size_t n = 0; n < sheet_.fields.size() && count >= 2; ++n) {
        auto& f = sheet_.fields[n];
        const bool carried = f.way > 0 && std::find(carried_.begin(), carried_.end(), n) != carried_.end();
        const bool open =
            f.way == 0 && processing(f.kind) && std::find(whole_.begin(), whole_.end(), n) == whole_.end();
        const auto [low, high] = band(f.way);
        if (!open && !(carried && (f.value < low / 1.4 || f.value > high * 1.4)))
            continue;
        std::vector<SheetChoice> all;
        for (int w = 1; w <= count; ++w)
            all.push_back(SheetChoice{.label = sheet_.ways[static_cast<std::size_t>(w - 1)], .way = w});
        if (f.way == 0)
            all.push_back(SheetChoice{.label = "the whole loudspeaker", .way = 0});
        alsoAsk(f, "way", "It is not said which way it is of.", all);
    }
}

void Facts::askWhatCannotBe() {
    for (auto& f : sheet_.fields)
        if (f.sure() && !plausible(f))
            alsoAsk(f, "cannot be", "\"" + textOf(f) + "\" is not what such a value usually is.",
                    {SheetChoice{"It is so"}, SheetChoice{.label = "It is nothing", .leave = true}});
}

// Two values of what a way has only one of.
void Facts::askTwice() {
    std::map<std::pair<int, SheetKind>, std::vector<std::size_t>> all;
    for (std::size_t i = 0; i < sheet_.fields.size(); ++i)
        if (nameOf(sheet_.fields[i].kind)[0] && sheet_.fields[i].sure())
            all[{sheet_.fields[i].way, sheet_.fields[i].kind}].push_back(i);
    std::set<std::size_t> again; // said twice alike
    for (const auto& [what, which] : all) {
        std::vector<std::size_t> differ;
        for (const auto i : which) {
            const auto& f = sheet_.fields[i];
            const bool known = std::any_of(differ.begin(), differ.end(), [&](std::size_t k) {
                const auto& g = sheet_.fields[k];
                return std::abs(g.value - f.value) <= 0.005 * std::abs(f.value) && g.slope == f.slope &&
                       g.shape == f.shape;
            });
            if (known)
                again.insert(i);
            else
                differ.push_back(i);
        }
        if (differ.size() < 2 || differ.size() > 12)
            continue;
        const std::string of = what.first > 0 ? " of " + sheet_.ways[static_cast<std::size_t>(what.first - 1)] : "";
        const std::string several =
            print("There are %d ", static_cast<int>(differ.size())) + nameOf(what.second) + of + ".";
        sheet_.notes.push_back(several);
        for (const auto i : differ) {
            std::vector<SheetChoice> choices;
            for (const auto k : differ) {
                SheetChoice c{print("line %d: ", static_cast<int>(sheet_.fields[k].line + 1)) +
                              textOf(sheet_.fields[k])};
                c.leave = k != i;
                choices.push_back(std::move(c));
            }
            alsoAsk(sheet_.fields[i], print("twice %d %d", what.first, static_cast<int>(what.second)),
                    several + " Which one holds?", choices);
        }
    }
    std::vector<SheetField> kept;
    for (std::size_t i = 0; i < sheet_.fields.size(); ++i)
        if (!again.count(i))
            kept.push_back(std::move(sheet_.fields[i]));
    sheet_.fields = std::move(kept);
}

void Facts::sayEdgesThatDoNotMeet() {
    for (int w = 1; w < static_cast<int>(sheet_.ways.size()); ++w) {
        double upper = 0, lower = 0;
        for (const auto& f : sheet_.fields) {
            if (f.way == w && f.kind == SheetKind::lowPass && f.sure())
                upper = f.value;
            if (f.way == w + 1 && f.kind == SheetKind::highPass && f.sure())
                lower = f.value;
        }
        if (upper > 0 && lower > 0 && std::abs(std::log2(upper / lower)) > 1)
            sheet_.notes.push_back(sheet_.ways[static_cast<std::size_t>(w - 1)] + print(" ends at %.4g Hz, ", upper) +
                                   sheet_.ways[static_cast<std::size_t>(w)] + print(" begins at %.4g Hz.", lower));
    }
}

} // namespace loom::loudspeaker::sheet
