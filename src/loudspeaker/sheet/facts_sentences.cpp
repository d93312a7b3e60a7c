// Sentences: who is spoken about, and clauses that say one thing each.
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

void Facts::clause(Run clause, Where& where) {
    // Whom it is about, and of whom it is said besides.
    std::optional<WayRef> other;
    bool all = false;
    less_ = false;
    bool hz = false, watt = false, metre = false;
    std::size_t key = clause.size();
    bool crossing = false, decibels = false, watts = false;
    std::size_t named = 0;
    for (const auto* one : clause) {
        crossing = crossing || one->has(Means::crossover);
        named += wayOf(*one) && !keyOf(*one);
        watts = watts || (one->is == Item::Is::number && one->unit == Unit::watt);
        decibels = decibels || (one->is == Item::Is::number && one->unit == Unit::db);
    }
    for (std::size_t i = 0; i < clause.size(); ++i) {
        Item& one = *clause[i];
        // "is parted from the horn": in a clause about a crossing one that was not spoken of is the other
        const bool parted = crossing && where.way.rank > 0 && named == 1;
        const bool aside = (i > 0 && clause[i - 1]->any({Means::otherSide, Means::relative})) || parted;
        if (const auto way = wayOf(one); way && !keyOf(one)) {
            if (aside && where.way != *way)
                other = *way;
            else {
                if (where.way != *way || (!named_ && d_.hz && d_.gain))
                    flush();
                where.way = *way;
                named_ = true;
            }
            one.used = true;
        }
        if (one.has(Means::compression)) {
            flush();
            where.way = {40, "High"};
            named_ = true;
        }
        all = all || one.has(Means::both);
        less_ = less_ || one.has(Means::less);
        hz = hz || (one.is == Item::Is::number && one.unit == Unit::hz);
        watt = watt || (one.is == Item::Is::number && one.unit == Unit::watt);
        metre = metre || (one.is == Item::Is::number && one.unit == Unit::metres);
        if (const auto k = keyOf(one);
            k && key == clause.size() &&
            (isEdge(*k) || isEqualiser(*k) || *k == Means::level || *k == Means::sensitivity || *k == Means::delay ||
             *k == Means::impedance || *k == Means::coverage || *k == Means::taps) &&
            !(one.has(Means::less) && hz) && !(watts && powerOf(one))) // "1400 W peak"
            key = i;
    }
    where_.way = where.way;
    where_.key.reset();
    where_.list.clear();
    if (crossing && hz) {
        flush();
        auto lower = where.way.rank > 0 ? where.way : WayRef{20, "Low"}, upper = other.value_or(WayRef{});
        if (upper.rank == 0) {
            const auto known = ways();
            const auto it = std::find(known.begin(), known.end(), lower);
            if (lower.rank >= 40 && lower.rank < 100) { // the horn was spoken of: it is parted from what is below
                upper = lower;
                lower = it != known.end() && it != known.begin() ? *(it - 1) : WayRef{20, "Low"};
            } else
                upper = it != known.end() && it + 1 != known.end() ? *(it + 1) : WayRef{40, "High"};
        }
        if (upper.rank < lower.rank)
            std::swap(lower, upper);
        where_.list = {lower, upper};
        where_.way = {};
    } else if (hz && !(d_.key && (isEdge(*d_.key) || isEqualiser(*d_.key)) && !d_.hz && key == clause.size())) {
        flush(); // but "a Linkwitz-Riley high-pass, 24 dB an octave at 1.3 kHz" goes on
    }
    if (watt && metre && key == clause.size() && !hz) { // "109 dB with one watt at one metre"
        start(Means::sensitivity, nullptr);
    }
    if (less_ && decibels && !hz && !crossing && key == clause.size())
        start(Means::level, nullptr); // "the horn is lowered by 6 dB"
    if (key < clause.size()) {
        std::rotate(clause.begin(), clause.begin() + static_cast<std::ptrdiff_t>(key),
                    clause.begin() + static_cast<std::ptrdiff_t>(key) + 1);
    }
    const bool sensitivity = watt && metre;
    const std::size_t before = sheet_.fields.size();
    for (std::size_t i = 0; i < clause.size(); ++i) {
        if (sensitivity && clause[i]->is == Item::Is::number && clause[i]->unit == Unit::watt) {
            clause[i]->used = true;
            continue;
        }
        item(clause, i);
        endOfList(clause, i);
    }
    if ((crossing && hz) || (d_.key == Means::level && d_.done))
        flush();
    if (all && !hz) {
        const std::size_t end = sheet_.fields.size();
        for (std::size_t n = before; n < end; ++n) {
            const auto one = sheet_.fields[n];
            bool first = true;
            for (const auto& way : ways()) {
                auto copy = one;
                copy.way = wayId(way);
                if (first)
                    sheet_.fields[n] = copy;
                else
                    sheet_.fields.push_back(copy);
                first = false;
            }
        }
    }
}

// "AES power: 500 W and 80 W.": one a way, lowest first; of no way in particular.
bool Facts::valuesOfWays(const Run& sentence) {
    const bool taps = std::any_of(sentence.begin(), sentence.end(), [](const Item* i) { return i->has(Means::taps); });
    const bool others =
        std::any_of(sentence.begin(), sentence.end(), [](const Item* i) { return keyOf(*i) && !i->has(Means::taps); });
    if (taps && !others) { // "taps at 100 V: 30, 15 and 7.5 W"
        where_ = {};
        prose_ = false; // its numbers have one unit for all
        for (std::size_t i = 0; i < sentence.size(); ++i) {
            item(sentence, i);
            endOfList(sentence, i);
        }
        flush();
        prose_ = true;
        return true;
    }
    const auto all = ways();
    std::size_t values = 0;
    std::optional<Unit> unit;
    bool keyed = false;
    for (const auto* one : sentence) {
        keyed = keyed || (keyOf(*one) && *keyOf(*one) != Means::ignored);
        if (wayOf(*one) && !keyOf(*one))
            return false;
        if (one->is != Item::Is::number)
            continue;
        const bool takes =
            one->unit == Unit::watt || one->unit == Unit::ohm || one->unit == Unit::db || one->unit == Unit::ms;
        if (!takes || (unit && *unit != one->unit))
            return false;
        unit = one->unit;
        ++values;
    }
    if (!keyed || all.size() < 2 || values != all.size())
        return false;
    where_ = {{}, {}, all};
    run_.clear();
    for (std::size_t i = 0; i < sentence.size(); ++i)
        item(sentence, i);
    flush();
    spread();
    return true;
}

void Facts::readSentences(const Run& run, Where& where) {
    where_ = where;
    depth_ = 0;
    prose_ = true;
    named_ = false;
    run_.clear();
    d_ = {};
    pendingWidth_ = -1;
    Run part;
    int depth = 0;
    const auto end = [&](bool sentence) {
        if (!part.empty())
            clause(part, where);
        part.clear();
        depth_ = 0;
        if (sentence) {
            flush();
            named_ = false;
        }
    };
    // Does what follows a comma say nothing but how steep the edge before it is?
    const auto onlyShape = [&](std::size_t from) {
        bool any = false;
        for (std::size_t k = from; k < run.size(); ++k) {
            const Item& one = *run[k];
            if (one.is_(",") || one.is_(".") || one.is_(";") || one.has(Means::conjunction))
                break;
            if (one.any({Means::linkwitz, Means::butterworth, Means::bessel, Means::order, Means::slope}) ||
                (one.is == Item::Is::number && (one.unit == Unit::slope || one.ordinal)))
                any = true;
            else if (!one.has(Means::filler) && one.is != Item::Is::sign)
                return false;
        }
        return any;
    };
    bool begins = true; // a sentence
    for (std::size_t n = 0; n < run.size(); ++n) {
        auto* one = run[n];
        if (std::exchange(begins, false)) {
            const auto stop = std::find_if(run.begin() + static_cast<std::ptrdiff_t>(n), run.end(),
                                           [](const Item* i) { return i->is_(".") || i->is_(";"); });
            if (valuesOfWays({run.begin() + static_cast<std::ptrdiff_t>(n), stop})) {
                n = static_cast<std::size_t>(stop - run.begin());
                begins = true;
                continue;
            }
        }
        begins = (one->is_(".") || one->is_(";")) && depth == 0;
        if (one->is_(",") && depth == 0 && onlyShape(n + 1)) {
            one->used = true;
            continue;
        }
        if (one->is == Item::Is::sign) {
            depth += one->text == "(" ? 1 : one->text == ")" ? -1 : 0;
            depth = std::max(depth, 0);
            const bool stop = one->text == "." || one->text == ";" || (one->text == ":" && depth == 0);
            if (depth == 0 && (stop || one->text == ",")) {
                one->used = true;
                end(stop);
                continue;
            }
        } else if (depth == 0 && one->has(Means::conjunction)) {
            one->used = true;
            end(false);
            continue;
        }
        part.push_back(one);
    }
    end(true);
    for (auto* one : run) // what sentences are made of besides is not marked
        if (one->is != Item::Is::number || one->unit == Unit::none)
            one->used = true;
    prose_ = less_ = named_ = false;
}

} // namespace loom::loudspeaker::sheet
