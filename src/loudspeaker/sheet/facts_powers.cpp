// Powers and limits: values whose kind is said before or behind them.
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

bool colon(const Run& run, const Item& value) { // one stands right before it
    const auto it = std::find(run.begin(), run.end(), &value);
    return it != run.begin() && it != run.end() && ((*(it - 1))->is_(":") || (*(it - 1))->is_("="));
}

bool valueInBrackets(const Run& run, std::size_t open) {
    for (std::size_t k = open + 1; k < run.size() && !run[k]->is_(")"); ++k)
        if (run[k]->is == Item::Is::number && run[k]->unit == Unit::watt)
            return true;
    return false;
}

} // namespace

// From run[i] to the next word for something else: each value is of the kind that is said behind it, or before.
void Facts::powers(const Run& run, std::size_t& i) {
    struct Part {
        enum class Is { kind, value, border } is;
        Means means = Means::power;
        Item* item = nullptr;
    };
    std::vector<Part> parts;
    if (where_.key && isPower(*where_.key) && i == 0)
        parts.push_back({Part::Is::kind, *where_.key, nullptr});
    bool anyUnit = false;
    for (std::size_t k = i; k < run.size() && !(keyOf(*run[k]) && !powerOf(*run[k])); ++k)
        anyUnit = anyUnit || (run[k]->is == Item::Is::number && run[k]->unit == Unit::watt);
    std::size_t end = i;
    for (; end < run.size(); ++end) {
        Item& one = *run[end];
        if (one.gap && end > i)
            parts.push_back({Part::Is::border});
        if (const auto power = powerOf(one)) {
            one.used = true;
            parts.push_back({Part::Is::kind, *power, &one});
        } else if (keyOf(one)) {
            break;
        } else if (one.is == Item::Is::number && end > i && !one.sign &&
                   (one.unit == Unit::ohm || one.unit == Unit::degrees || (one.unit == Unit::db && one.value >= 65))) {
            break; // of something else, without a word for it
        } else if (one.is == Item::Is::number) {
            if (one.unit == Unit::watt || (one.unit == Unit::none && !anyUnit))
                parts.push_back({Part::Is::value, Means::power, &one});
        } else if (one.is_("(") && !parts.empty() && parts.back().is == Part::Is::value && !valueInBrackets(run, end)) {
            continue; // "400 W (AES)"
        } else if (one.is == Item::Is::sign || one.has(Means::conjunction)) {
            parts.push_back({Part::Is::border});
        } else if (one.unit != Unit::none || one.has(Means::off)) {
            one.used = true;
        }
    }
    Means before = Means::power; // what was said before the first of values that stand beside each other
    for (std::size_t k = 0; k < parts.size(); ++k) {
        if (parts[k].is != Part::Is::value || (anyUnit && parts[k].item->unit != Unit::watt) ||
            (prose_ && parts[k].item->unit == Unit::none))
            continue;
        Item& value = *parts[k].item;
        if (value.unit == Unit::none && (value.glued || value.value > 20000 || !(i == 0 && where_.key)) && !value.gap &&
            !(k > 0 && parts[k - 1].is == Part::Is::border && !value.glued && value.value <= 20000 &&
              colon(run, value)))
            continue; // a footnote's mark, the number of a standard
        // A word that says which is stronger than "power".
        Means kind = Means::power;
        const auto take = [&](Means m) { kind = kind == Means::power ? m : kind; };
        for (std::size_t r = k + 1; r < parts.size() && parts[r].is == Part::Is::kind; ++r)
            take(parts[r].means);
        if (kind == Means::power)
            for (std::size_t l = k; l-- > 0 && parts[l].is != Part::Is::value;)
                if (parts[l].is == Part::Is::kind)
                    take(parts[l].means);
        if (kind == Means::power)
            kind = before;
        else if (!(k + 1 < parts.size() && parts[k + 1].is == Part::Is::kind))
            before = kind;
        value.used = true;
        if (kind == Means::otherPower || value.value <= 0)
            continue;
        SheetField f;
        f.kind = *kindOf(kind);
        f.value = value.value;
        const Item* first = &value;
        for (std::size_t l = k; l-- > 0 && parts[l].is != Part::Is::value;)
            if (parts[l].is == Part::Is::kind && parts[l].item && parts[l].item->line == value.line)
                first = parts[l].item;
        const Item* last = k + 1 < parts.size() && parts[k + 1].is == Part::Is::kind ? parts[k + 1].item : &value;
        push(f, *first, *last);
    }
    // Behind the last of them something else may be said: "200 W, 93 dB sensitivity".
    for (std::size_t k = end; k-- > i;)
        if (run[k]->used &&
            (powerOf(*run[k]) || (run[k]->is == Item::Is::number && (run[k]->unit == Unit::watt || !anyUnit)))) {
            end = k + 1;
            break;
        }
    i = std::max(end, i + 1);
}

// ---- limits ----

void Facts::limits(const Run& run, std::size_t& i) {
    SheetLimit now;
    now.way = wayId(where_.way);
    const Item* first = run[i];
    std::optional<Means> key = where_.key && isLimit(*where_.key) && i == 0 ? where_.key : std::nullopt;
    bool rms = key == Means::rmsLimit;
    const auto end = [&](const Item& last) {
        if (now.value != 0 || now.attackMs > 0 || now.releaseMs > 0) {
            now.where = {first->line, first->from, last.line == first->line ? last.to : first->to};
            now.rms = rms;
            sheet_.limits.push_back(now);
        }
        const int way = now.way;
        now = {};
        now.way = way;
        first = &last;
    };
    for (; i < run.size(); ++i) {
        Item& one = *run[i];
        if (const auto k = keyOf(one)) {
            const bool rmsWord = one.has(Means::noisePower), peakWord = one.has(Means::peakPower);
            if (!isLimit(*k) && !rmsWord && !peakWord)
                break;
            one.used = true;
            if (rmsWord || peakWord || *k == Means::peakLimit || *k == Means::rmsLimit) {
                if (now.value != 0)
                    end(*run[i - 1]);
                rms = rmsWord || *k == Means::rmsLimit;
                key = Means::threshold;
            } else {
                key = *k == Means::limit ? Means::threshold : *k;
            }
            continue;
        }
        if (one.is != Item::Is::number)
            continue;
        if (one.unit == Unit::ms && (key == Means::attack || key == Means::release)) {
            (key == Means::attack ? now.attackMs : now.releaseMs) = one.value;
            one.used = true;
        } else if (one.unit == Unit::volt || one.unit == Unit::dbu || one.unit == Unit::db) {
            now.value = one.value;
            now.unit = one.unit == Unit::volt ? "V" : one.unit == Unit::dbu ? "dBu" : "dB";
            rms = rms && one.text.find("pk") == std::string::npos;
            one.used = true;
        }
    }
    if (i > 0)
        end(*run[i - 1]);
}

} // namespace loom::loudspeaker::sheet
