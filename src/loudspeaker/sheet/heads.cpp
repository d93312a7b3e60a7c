#include "loudspeaker/sheet/heads.h"
#include <algorithm>

namespace loom::loudspeaker::sheet {

bool signOnly(const Run& run) {
    return std::all_of(run.begin(), run.end(), [](const Item* i) { return i->is == Item::Is::sign; });
}

// A cell that names a way and nothing else but what is in brackets: "LF (2 x 12")".
std::optional<WayRef> wayCell(const Run& run) {
    std::optional<WayRef> way, inside;
    int depth = 0;
    for (std::size_t i = 0; i < run.size(); ++i) {
        const Item& one = *run[i];
        depth += one.is_("(") ? 1 : one.is_(")") ? -1 : 0;
        if (depth > 0 && !inside)
            inside = wayOf(one);
        if (depth > 0 || one.is == Item::Is::sign)
            continue;
        if (i == 0 && run.size() > 2 && one.is == Item::Is::number && one.whole && one.unit == Unit::none &&
            run[1]->is_("(")) // "1 (Bass)"
            continue;
        if (std::size_t k = i; !way)
            if (const auto numbered = numberedWay(run, k)) {
                way = numbered;
                i = k - 1;
                continue;
            }
        if (const auto w = wayOf(one); w && (!way || way->rank >= 100)) {
            way = w;
            continue;
        }
        const bool side =
            i > 0 && way && (one.text == "l" || one.text == "r" || one.text == "left" || one.text == "right");
        if (side || one.has(Means::filler) || one.has(Means::driver) || one.has(Means::filter) ||
            (one.has(Means::way) && i > 0))
            continue;
        return {};
    }
    return way && way->rank < 100 ? way : inside ? inside : way;
}

bool hasNumbers(const Run& run) {
    return std::any_of(run.begin(), run.end(), [](const Item* i) { return i->is == Item::Is::number; });
}

bool hasUnits(const Run& run) {
    return std::any_of(run.begin(), run.end(),
                       [](const Item* i) { return i->is == Item::Is::number && i->unit != Unit::none; });
}

// A head: words for what a column holds, with its unit; nothing else.
std::optional<Head> headCell(const Run& run) {
    Head h;
    for (std::size_t i = 0; i < run.size(); ++i) {
        Item& one = *run[i];
        if (one.is == Item::Is::sign)
            continue;
        if (one.is == Item::Is::number) {
            const bool index = one.whole && one.unit == Unit::none && !one.sign && h.key;
            if (!index && !(one.glued && one.whole && h.key)) // "EQ1 dB" has its unit at the number
                return {};
            h.index += one.text.substr(0, one.text.find_first_not_of("0123456789"));
            if (one.unit != Unit::none)
                h.unit = one.unit;
            continue;
        }
        const auto key = keyOf(one);
        if (one.any({Means::compression, Means::cone}))
            return {}; // a value
        if (one.unit != Unit::none && (h.key || h.role) &&
            !(key && !one.has(Means::filler) && one.unit == Unit::none)) {
            h.unit = one.unit;
        } else if (one.any({Means::number, Means::type, Means::frequency, Means::width, Means::slope, Means::state,
                            Means::way, Means::filter}) &&
                   !key) {
            for (const Means role : {Means::type, Means::frequency, Means::slope, Means::width, Means::number,
                                     Means::filter, Means::state, Means::way})
                if (one.has(role) && !h.role) {
                    h.role = role;
                    h.widthIsQ = role == Means::width && (one.text == "q" || one.text == "gute" || one.text == "guete");
                }
        } else if (key == Means::level && h.key && isEqualiser(*h.key)) {
            h.role = Means::level; // "EQ1 gain"
        } else if (key && *key != Means::ignored && *key != Means::name && *key != Means::maker) {
            const bool qualifies = h.key && (isPower(*key) || *key == Means::leastImpedance || *key == Means::polarity);
            if (!h.key || qualifies || *h.key == Means::crossover)
                h.key = isPower(*key) && h.key && isPower(*h.key) && *key == Means::power ? h.key : key;
            h.less = h.less || one.has(Means::less);
        } else if (one.has(Means::minimum) && h.key == Means::impedance) {
            h.key = Means::leastImpedance;
        } else if (!one.any({Means::filler, Means::name}) && !wayOf(one) &&
                   !one.any({Means::bw, Means::order, Means::per, Means::normal}) && one.unit == Unit::none) {
            return {};
        }
    }
    if (h.key && isEqualiser(*h.key) && !h.role && !h.index.empty())
        h.role = h.unit == Unit::hz                                   ? std::optional(Means::frequency)
                 : h.unit == Unit::db                                 ? std::optional(Means::level)
                 : h.unit == Unit::octaves || h.unit == Unit::quality ? std::optional(Means::width)
                                                                      : std::nullopt;
    if (!h.key && !h.role && !run.empty() && run.front()->has(Means::name))
        h.role = Means::name;
    if (!h.key && !h.role)
        return {};
    return h;
}

void use(Run& run) {
    for (auto* i : run)
        i->used = true;
}

void use(std::vector<Cell>& cells) {
    for (auto& c : cells)
        use(c.items);
}

// What a row is about, by its first cell.
std::optional<Means> labelOf(Run& run, Unit& unit) {
    std::optional<Means> key;
    bool watt = false;
    for (std::size_t i = 0; i < run.size(); ++i) {
        Item& one = *run[i];
        if (one.is == Item::Is::number) {
            watt = watt || one.unit == Unit::watt || one.unit == Unit::volt;
            continue;
        }
        if (one.is == Item::Is::sign)
            continue;
        const auto k = keyOf(one);
        if (one.unit != Unit::none && key && one.text.size() <= 8 && !(k && one.unit == Unit::none))
            unit = one.unit;
        if (!k)
            continue;
        if (one.text.size() == 1 && key)
            continue;
        const bool power = key && isPower(*key) && isPower(*k);
        if (!key || (power && (*key == Means::power || *key == Means::otherPower)) || *key == Means::crossover)
            key = k;
        if (one.has(Means::peakPower) && key && (isPower(*key) || *key == Means::bell) && one.text != "peak")
            key = Means::peakPower;
    }
    if (!key)
        for (const auto* one : run) {
            if (one->has(Means::inverted))
                key = Means::polarity; // "Invert: no"
            else if (one->has(Means::filter))
                key = Means::bell;
        }
    if (key == Means::level && watt)
        key = Means::sensitivity;
    if (key)
        for (auto* one : run)
            one->used = true;
    return key;
}

// Bare numbers of a cell whose head or label has the unit.
void give(Run& run, Unit unit) {
    if (unit == Unit::none)
        return;
    for (std::size_t i = 0; i < run.size(); ++i)
        if (Item& n = *run[i]; n.is == Item::Is::number && n.unit == Unit::none && !n.ordinal && !n.glued) {
            const bool afterShape =
                i > 0 && run[i - 1]->any({Means::butterworth, Means::linkwitz, Means::bessel, Means::bw});
            if (afterShape)
                continue;
            n.unit = unit;
        }
}

bool sentence(const Run& run) {
    std::size_t words = 0, other = 0;
    bool pairs = false;
    for (const auto* i : run) {
        pairs = pairs || i->is_(":") || i->is_("=");
        if (i->is == Item::Is::word && i->unit == Unit::none) {
            ++words;
            other += i->means.none() || i->any({Means::filler, Means::conjunction, Means::per});
        }
    }
    const bool ends = !run.empty() && run.back()->is_(".");
    return (words >= 9 && other >= 7 && other * 2 >= words) || (ends && !pairs && words >= 5 && other >= 3);
}

} // namespace loom::loudspeaker::sheet
