// What a number is, by its unit and by what it stands in.
#include "dsp/number.h"
#include "dsp/units.h"
#include "loudspeaker/sheet/asks.h"
#include "loudspeaker/sheet/facts.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <utility>

namespace loom::loudspeaker::sheet {

namespace {

// Does a number of this unit follow before the next word for something else?
bool later(const Run& run, std::size_t i, Unit unit) {
    for (std::size_t k = i + 1; k < run.size() && !keyOf(*run[k]); ++k)
        if (run[k]->is == Item::Is::number && run[k]->unit == unit)
            return true;
    return false;
}

// A frequency, before the next word for something that is no filter?
bool laterFilter(const Run& run, std::size_t i) {
    for (std::size_t k = i + 1; k < run.size() && !(keyOf(*run[k]) && !isEqualiser(*keyOf(*run[k]))); ++k)
        if (run[k]->is == Item::Is::number && run[k]->unit == Unit::hz)
            return true;
    return false;
}

} // namespace

// A level, a sensitivity, the gain of a filter.
void Facts::decibels(const Run& run, std::size_t& i) {
    Item& n = *run[i];
    const auto key = d_.key;
    const bool edge = d_.bareEdge || (key && isEdge(*key)), equal = !key || isEqualiser(*key);
    if (equal && d_.hz && !d_.gain) {
        d_.gain = true;
        d_.field.second = less_ && !n.sign ? -n.value : n.value;
        return touch(n);
    }
    if (key == Means::sensitivity || key == Means::level)
        return single(key == Means::level ? SheetKind::gain : SheetKind::sensitivity, n,
                      key == Means::level && less_ && !n.sign ? -n.value : n.value);
    if (const Item* next = i + 1 < run.size() ? run[i + 1] : nullptr;
        next && next->has(Means::level) && next->text.size() > 1 && !next->gap && (edge || !key || d_.done) &&
        !(i + 2 < run.size() && (run[i + 2]->is == Item::Is::number || run[i + 2]->is_(":") || run[i + 2]->is_("=")))) {
        start(Means::level, &n); // "+3 dB trim"
        run[++i]->used = true;
        return single(SheetKind::gain, n, n.value);
    }
    if (!key && i + 1 < run.size() && run[i + 1]->has(Means::sensitivity)) {
        start(Means::sensitivity, &n);
        run[i + 1]->used = true;
        single(SheetKind::sensitivity, n, n.value);
        ++i;
        return;
    }
    if (const bool measured = !n.sign && n.value >= 65 && n.value <= 125 && !d_.hz && (!key || d_.done); measured) {
        std::size_t k = i + 1; // "88 dB, 1 W / 1 m"
        while (k < run.size() && (run[k]->is == Item::Is::sign || run[k]->has(Means::filler)))
            ++k;
        if (k < run.size() && run[k]->is == Item::Is::number && run[k]->unit == Unit::watt) {
            start(Means::sensitivity, &n);
            return single(SheetKind::sensitivity, n, n.value);
        }
    }
    if (equal && d_.hz && d_.gain && laterFilter(run, i)) { // the next of them, its gain first
        start(key && key != Means::bell ? std::nullopt : key, &n);
    }
    if (equal && !d_.hz && (later(run, i, Unit::hz) || prose_)) { // "3 dB at 290 Hz"
        d_.gain = true;
        d_.field.second = less_ && !n.sign ? -n.value : n.value;
        touch(n);
    }
}

void Facts::quantity(const Run& run, std::size_t& i) {
    Item& n = *run[i];
    const auto key = d_.key;
    const auto laterUnit = [&](Unit unit) { return later(run, i, unit); };
    if (key == Means::ignored)
        return;
    if (prose_ && n.unit == Unit::none && pendingWidth_ < 0 && !n.ordinal &&
        !(i > 0 && run[i - 1]->any({Means::linkwitz, Means::butterworth, Means::bessel, Means::bw})))
        return;
    const bool how =
        (key == Means::sensitivity &&
         (n.unit == Unit::watt || n.unit == Unit::metres || n.unit == Unit::volt || n.unit == Unit::hz)) ||
        ((key == Means::impedance || key == Means::leastImpedance || key == Means::coverage) && n.unit == Unit::hz);
    if (how) { // it was measured
        n.used = true;
        return;
    }
    const bool afterShape = i > 0 && run[i - 1]->any({Means::linkwitz, Means::butterworth, Means::bessel, Means::bw});
    const bool edge = d_.bareEdge || (key && isEdge(*key)), equal = !key || isEqualiser(*key);
    if (pendingWidth_ >= 0 && n.value > 0 && (n.unit == Unit::none || n.unit == Unit::octaves || n.unit == Unit::hz)) {
        const int as = std::exchange(pendingWidth_, -1);
        return width(n, as == 0 ? said.width : as);
    }
    // Slopes.
    if (const Item* next = i + 1 < run.size() ? run[i + 1] : nullptr;
        next && next->is == Item::Is::word && next->from == n.to && n.unit == Unit::none && slopeValue(n.value) &&
        (edge || !key) &&
        (next->text == "b" || next->any({Means::linkwitz, Means::butterworth, Means::bessel, Means::bw}))) { // "24LR"
        d_.bareEdge = d_.bareEdge || !edge;
        d_.field.slope = static_cast<int>(n.value);
        d_.field.shape = next->has(Means::linkwitz) ? 1 : next->has(Means::bessel) ? 2 : 0;
        d_.field.shaped = true;
        touch(n);
        touch(*run[++i]);
        return;
    }
    if (afterShape && n.glued && n.whole && n.unit == Unit::none && n.value >= 1 && n.value <= 8 && (edge || !key) &&
        !(n.value == 6 && !run[i - 1]->has(Means::linkwitz))) { // "LR4", "BW3"; BW6 may be either
        d_.bareEdge = d_.bareEdge || !edge;
        d_.field.slope = static_cast<int>(n.value * 6);
        return touch(n);
    }
    if (n.ordinal || n.unit == Unit::slope || (afterShape && n.unit != Unit::hz && !n.kilo && slopeValue(n.value)) ||
        (edge && n.unit == Unit::db && slopeValue(n.value))) {
        const double slope = n.ordinal ? n.value * 6 : n.value;
        if (slopeValue(slope) && (edge || !key || key == Means::bell)) {
            d_.field.slope = static_cast<int>(slope);
            if (!edge && (!key || key == Means::bell))
                d_.bareEdge = !d_.gain;
            touch(n);
        }
        return;
    }
    switch (n.unit) {
    case Unit::hz:
        if (edge) {
            if (d_.hz && d_.bareEdge == false && key) { // another one of the same kind
                const auto same = key;
                start(same, &n);
                d_.implied = true;
            }
            if (!d_.hz)
                frequency(n);
            return;
        }
        if (equal) {
            if (d_.hz && (d_.gain || !key)) {
                const auto same = key;
                start(same, &n);
            }
            if (!d_.hz)
                frequency(n);
        }
        return;
    case Unit::db:
        return decibels(run, i);
    case Unit::octaves:
    case Unit::quality: // a Q
        if (equal && d_.hz && !d_.width)
            width(n, n.unit == Unit::octaves ? 2 : 1);
        return;
    case Unit::ms:
        if (key == Means::delay && !(d_.done && depth_ > 0))
            single(SheetKind::delay, n, n.value);
        else if ((!key && !d_.hz) || (edge && d_.hz) || (key == Means::level && d_.done))
            start(Means::delay, &n), single(SheetKind::delay, n, n.value);
        return;
    case Unit::metres:
        if (key == Means::delay && !d_.done && !laterUnit(Unit::ms))
            single(SheetKind::delay, n, n.value / dsp::speedOfSound(20) * 1000);
        return;
    case Unit::samples:
        if (key == Means::delay && !d_.done) {
            if (said.rate > 0 || n.value == 0)
                return single(SheetKind::delay, n, n.value == 0 ? 0 : n.value / said.rate * 1000);
            std::vector<SheetChoice> rates;
            for (const double rate : {48000.0, 96000.0, 44100.0})
                rates.push_back(
                    SheetChoice{.label = print("at %.4g kHz", rate / 1000), .value = n.value / rate * 1000});
            alsoAsk(d_.field, "rate", "The rate of the samples is not said.", rates);
            single(SheetKind::delay, n, n.value / 48);
        }
        return;
    case Unit::ohm:
        if (n.value > 0 && (key == Means::impedance || key == Means::leastImpedance))
            single(*kindOf(*key), n, n.value);
        else if (n.value > 0 && (!key || d_.done || prose_)) {
            start(Means::impedance, &n);
            single(SheetKind::impedance, n, n.value);
        }
        return;
    case Unit::mm:
        if (key == Means::coil && !(d_.done && depth_ > 0))
            single(SheetKind::coil, n, n.value);
        return;
    case Unit::watt:
        if (key == Means::taps) {
            d_.field.list.push_back(n.value);
            return touch(n);
        }
        if (!key || (d_.done && depth_ == 0 && key != Means::sensitivity) || prose_) {
            std::size_t from = i;
            start({}, nullptr);
            powers(run, from);
            i = from - 1;
        }
        return;
    case Unit::volt:
        if (key == Means::taps && d_.field.list.empty())
            d_.field.value = n.value; // of the list that follows
        return;
    case Unit::degrees:
        if (key == Means::polarity && (n.value == 0 || n.value == 180))
            return single(SheetKind::polarity, n, n.value == 180);
        if (key == Means::coverage) {
            d_.field.list.push_back(n.value);
            touch(n);
        } else if (i > 1 && run[i - 1]->has(Means::times) && run[i - 2]->is == Item::Is::number &&
                   (run[i - 2]->unit == Unit::none || run[i - 2]->unit == Unit::degrees) && n.value <= 360) {
            start({}, nullptr); // "120 x 120 degrees"
            SheetField f;
            f.kind = SheetKind::coverage;
            f.value = run[i - 2]->value;
            f.second = n.value;
            f.unitSaid = true;
            run[i - 2]->used = n.used = true;
            push(f, *run[i - 2], n);
        }
        return;
    case Unit::none:
        break;
    default:
        return;
    }
    // ---- a number without a unit ----
    if (n.glued && !(i > 0 && run[i - 1]->any({Means::width, Means::bw})))
        return; // part of a name, a footnote's mark
    if (edge && !d_.hz && !laterUnit(Unit::hz) && n.value > 0 && !n.sign)
        return frequency(n);
    if (edge && d_.hz && !d_.field.slope && slopeValue(n.value) && !n.sign) {
        d_.field.slope = static_cast<int>(n.value);
        return touch(n);
    }
    if (key && isEqualiser(*key)) {
        if (!d_.hz && !laterUnit(Unit::hz) && n.value > 0 && !n.sign)
            return frequency(n);
        if (d_.hz && !d_.gain && *key != Means::notch && *key != Means::allPass) {
            d_.gain = true;
            d_.field.second = n.value;
            return touch(n);
        }
        if (d_.hz && !d_.width && n.value > 0 && !n.sign)
            return width(n, said.width);
        if (d_.hz && d_.gain && d_.width && n.value >= 15 && !n.sign) { // the next of a list
            const auto same = key;
            start(same, &n);
            frequency(n);
        }
        return;
    }
    if (!key) {
        if (d_.hz && !d_.gain && n.sign) {
            d_.gain = true;
            d_.field.second = n.value;
            touch(n);
        } else if (d_.hz && d_.gain && !d_.width && n.value > 0 && !n.sign) {
            width(n, said.width);
        }
        return;
    }
    const auto plain = [&](Unit unit) { return !d_.done && !laterUnit(unit); };
    switch (*key) {
    case Means::level:
        if (plain(Unit::db) && std::abs(n.value) <= 60)
            single(SheetKind::gain, n, less_ && !n.sign ? -n.value : n.value);
        break;
    case Means::sensitivity:
        if (plain(Unit::db) && n.value >= 60 && n.value <= 125)
            single(SheetKind::sensitivity, n, n.value);
        break;
    case Means::impedance:
    case Means::leastImpedance:
        if (plain(Unit::ohm) && n.value >= 1 && n.value <= 5000)
            single(*kindOf(*key), n, n.value);
        break;
    case Means::delay:
        if (plain(Unit::ms) && !laterUnit(Unit::metres) && !laterUnit(Unit::samples) && n.value >= 0) {
            if (n.value != 0 && said.delay > 0) {
                d_.field.unitSaid = true;
                single(SheetKind::delay, n, n.value * said.delay);
                break;
            }
            if (n.value != 0) {
                std::vector<SheetChoice> units{SheetChoice{.label = n.text + " ms", .value = n.value},
                                               SheetChoice{.label = n.text + " \u00b5s", .value = n.value / 1000}};
                if (n.whole)
                    units.push_back(SheetChoice{.label = n.text + " samples at 48 kHz", .value = n.value / 48});
                else
                    units.push_back(
                        SheetChoice{.label = n.text + " m", .value = n.value / dsp::speedOfSound(20) * 1000});
                alsoAsk(d_.field, "unit of delays", n.text + " has no unit.", units);
            }
            single(SheetKind::delay, n, n.value);
        }
        break;
    case Means::polarity:
        if (!d_.done && (n.value == 0 || n.value == 180))
            single(SheetKind::polarity, n, n.value == 180);
        break;
    case Means::coil:
        if (plain(Unit::mm) && n.value > 0) {
            const bool mm = n.value >= 10 && n.value <= 200, inch = n.value >= 0.5 && n.value <= 8;
            if (mm || inch)
                single(SheetKind::coil, n, mm ? n.value : n.value * 25.4);
        }
        break;
    case Means::coverage:
    case Means::taps:
        if (*key == Means::coverage && laterUnit(Unit::degrees) &&
            !(i + 1 < run.size() && run[i + 1]->has(Means::times)))
            break;
        if (n.value > 0) {
            d_.field.list.push_back(n.value);
            touch(n);
        }
        break;
    default:
        break;
    }
}

} // namespace loom::loudspeaker::sheet
