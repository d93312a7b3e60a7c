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
    bool crossing = false, decibels = false;
    std::size_t named = 0;
    for (const auto* one : clause) {
        crossing = crossing || one->has(Means::crossover);
        named += wayOf(*one) && !keyOf(*one);
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
            else if (where.way != *way) {
                flush();
                where.way = *way;
            }
            one.used = true;
        }
        if (one.has(Means::compression)) {
            flush();
            where.way = {40, "High"};
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
            !(one.has(Means::less) && hz))
            key = i;
    }
    where_.way = where.way;
    where_.key.reset();
    where_.list.clear();
    if (crossing && hz) {
        flush();
        auto lower = where.way, upper = other.value_or(WayRef{});
        if (upper.rank == 0) {
            const auto known = ways();
            const auto it = std::find(known.begin(), known.end(), lower);
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

void Facts::readSentences(const Run& run, Where& where) {
    where_ = where;
    depth_ = 0;
    prose_ = true;
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
        if (sentence)
            flush();
    };
    for (auto* one : run) {
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
    prose_ = less_ = false;
}

} // namespace loom::loudspeaker::sheet
