// What a word does to the fact that is being read.
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

// Is run[i] a word for "off" that stands before all but a filter's number?
bool offFirst(const Run& run, std::size_t i) {
    static const char* const words[] = {"off", "byp", "bypass", "bypassed", "disabled", "inactive", "aus", "uit"};
    if (std::none_of(std::begin(words), std::end(words), [&](const char* w) { return run[i]->text == w; }))
        return false;
    for (std::size_t k = 0; k < i; ++k)
        if (run[k]->is == Item::Is::word && !run[k]->any({Means::filter, Means::filler, Means::number, Means::bell}))
            return false;
    return true;
}

} // namespace

void Facts::term(const Run& run, std::size_t& i) {
    Item& w = *run[i];
    const auto next = [&](std::size_t k) -> Item* { return i + k < run.size() ? run[i + k] : nullptr; };
    if (w.has(Means::relative)) {
        w.used = true;
        if (next(1) && wayOf(*next(1)))
            next(1)->used = true, ++i;
        return;
    }
    if (w.any({Means::compression, Means::cone}) && d_.key != Means::ignored &&
        !(prose_ && !w.has(Means::compression))) {
        SheetField f;
        f.kind = SheetKind::driver;
        f.value = w.has(Means::compression);
        w.used = true;
        const auto here = where_.way;
        if (here.rank == 0 && where_.list.size() > 1 && f.value > 0)
            where_.way = where_.list.back(); // it is the upper one
        push(f, w, w);
        where_.way = here;
        return;
    }
    // Shapes.
    const bool edge = d_.bareEdge || (d_.key && isEdge(*d_.key));
    const Item* after = next(1);
    const bool slopeNext = after && after->is == Item::Is::number && !after->kilo && slopeValue(after->value) &&
                           (after->unit == Unit::none || after->unit == Unit::db || after->unit == Unit::slope);
    if ((w.text == "be" || w.text == "but") && !(after && after->glued)) { // "BE24", but not "should be"
        w.used = true;
        return;
    }
    if (w.any({Means::linkwitz, Means::butterworth, Means::bessel}) || (w.has(Means::bw) && (edge || slopeNext))) {
        if (!edge) {
            if (d_.key && !(isEqualiser(*d_.key) && !d_.gain))
                start({}, &w);
            d_.bareEdge = true;
        }
        d_.field.shape = w.has(Means::linkwitz) ? 1 : w.has(Means::bessel) ? 2 : 0;
        d_.field.shaped = true;
        return touch(w);
    }
    if (w.has(Means::width) || w.has(Means::bw)) {
        pendingWidth_ = w.has(Means::bw)                                                                ? 2
                        : w.text == "q" || w.text == "gute" || w.text == "guete" || w.text == "quality" ? 1
                                                                                                        : 0;
        return touch(w);
    }
    if (w.has(Means::order) || w.has(Means::slope)) {
        std::size_t behind = i + 1; // "order = 4"
        while (behind < run.size() && (run[behind]->is_("=") || run[behind]->is_(":") || run[behind]->is_("\"")))
            ++behind;
        if (w.has(Means::slope) && behind > i + 1 && behind < run.size() && run[behind]->is == Item::Is::number &&
            run[behind]->unit == Unit::none && slopeValue(run[behind]->value))
            run[behind]->unit = Unit::slope; // "slope": 24
        if (w.has(Means::order) && behind < run.size() && run[behind]->is == Item::Is::number &&
            run[behind]->unit == Unit::none && slopeValue(run[behind]->value * 6))
            run[behind]->ordinal = true;
        if (w.has(Means::order) && i > 0)
            for (std::size_t k = i; k-- > 0 && i - k <= 2;)
                if (run[k]->is == Item::Is::number && run[k]->unit == Unit::none && slopeValue(run[k]->value * 6)) {
                    d_.field.slope = static_cast<int>(run[k]->value * 6);
                    if (d_.field.value == run[k]->value)
                        d_.hz = false;
                    break;
                }
        return touch(w);
    }
    if (w.has(Means::minimum) && (d_.key == Means::impedance || d_.key == Means::leastImpedance)) {
        const bool behind = d_.done && !(next(1) && next(1)->is == Item::Is::number) &&
                            !(next(1) && next(1)->is == Item::Is::sign && !next(1)->is_(")"));
        const bool of = i > 0 && run[i - 1]->is == Item::Is::number && run[i - 1]->unit == Unit::ohm && !run_.empty() &&
                        run_.back() + 1 == sheet_.fields.size() && sheet_.fields.back().kind == SheetKind::impedance &&
                        !(next(1) && next(1)->is == Item::Is::number);
        if (of) // "6.3 ohms minimum"
            sheet_.fields.back().kind = SheetKind::minimumImpedance;
        else if (!behind || (next(1) && next(1)->is == Item::Is::word))
            start(Means::leastImpedance, &w);
        w.used = true;
        return;
    }
    if (w.any({Means::inverted, Means::normal})) {
        std::size_t behind = 1; // "reverse its polarity"
        while (prose_ && next(behind) && next(behind)->has(Means::filler) && behind < 3)
            ++behind;
        const bool ahead = next(behind) && next(behind)->has(Means::polarity);
        if (d_.key == Means::polarity || ahead) {
            if (ahead && d_.key != Means::polarity)
                start(Means::polarity, &w);
            if (!d_.done || !ahead)
                single(SheetKind::polarity, w, w.has(Means::inverted));
            if (ahead)
                next(behind)->used = true, i += behind;
            return;
        }
    }
    if (w.has(Means::inverted) && next(1) && (next(1)->is_(":") || next(1)->is_("=") || next(1)->gap)) {
        std::size_t k = i + 1; // "Invert: no"
        while (k < run.size() && run[k]->is == Item::Is::sign)
            ++k;
        if (k < run.size() && run[k]->any({Means::yes, Means::off})) {
            start(Means::polarity, &w);
            w.used = true;
            return;
        }
    }
    if (d_.key == Means::polarity && !d_.done && w.any({Means::yes, Means::off}) && w.text != "n a" && w.text != "none")
        return single(SheetKind::polarity, w, w.has(Means::yes));
    if (w.has(Means::forYou) && d_.key) {
        d_.forYou = true;
        return touch(w);
    }
    if (prose_ && w.text == "off" && std::any_of(run.begin(), run.end(), [](const Item* n) {
            return n->is == Item::Is::number && n->unit == Unit::hz;
        }))
        return; // "roll it off at 1.3 kHz"
    static const std::array<const char*, 9> without{"no",    "kein", "keine",   "sans", "sin",
                                                    "senza", "geen", "without", "ohne"};
    if (std::find(without.begin(), without.end(), w.text) != without.end() && next(1) && !next(1)->gap &&
        keyOf(*next(1))) {
        start({}, nullptr); // "no delay": of what follows, not of what stands before
        w.used = next(1)->used = true;
        ++i;
        return;
    }
    if (w.has(Means::off) && !w.has(Means::filler)) {
        w.used = true;
        const bool taken = d_.done && (d_.key == Means::delay || d_.key == Means::level) && !run_.empty() &&
                           run_.back() + 1 == sheet_.fields.size();
        if (taken) { // "Delay 2 ms (bypassed)"
            const auto& f = sheet_.fields.back();
            sheet_.off.push_back({f.line, f.from, f.to});
            sheet_.fields.pop_back();
            run_.pop_back();
        } else if (!d_.key && !d_.hz && offFirst(run, i)) {
            offAhead_ = true; // "Filter 4: OFF PK 250 Hz"
        } else if (d_.key || d_.hz) {
            d_.off = d_.off || !d_.done;
            touch(w);
        }
        return;
    }
    if (d_.key == Means::polarity && !d_.done && w.text.size() == 1 &&
        (w.text == "n" || w.text == "r" || w.text == "i"))
        return single(SheetKind::polarity, w, w.text != "n");
    const bool measured = w.text == "spl" && after && after->is == Item::Is::number && after->unit == Unit::watt;
    const auto key = measured ? std::optional(Means::sensitivity) : keyOf(w); // "SPL 1W/1m 90 dB"
    if (!key) {
        if (w.any({Means::filler, Means::times, Means::conjunction, Means::per, Means::frequency, Means::filter,
                   Means::type, Means::state, Means::yes, Means::less, Means::both, Means::minimum}) ||
            w.unit != Unit::none)
            w.used = true;
        return;
    }
    // Single letters are words for something only before a value of theirs.
    if (w.text == "ph") { // "PH-3" is a name
        const bool sign = after && (after->is_("+") || after->is_("-")) && after->from > w.to &&
                          !(next(2) && next(2)->is == Item::Is::number && !next(2)->gap);
        if (!sign && !(after && after->any({Means::inverted, Means::normal})))
            return;
    }
    if (w.text == "p" && after && after->glued && after->whole && after->value <= 24) { // "p1 48/+2/1.7"
        w.used = next(1)->used = true;
        start(Means::bell, &w);
        ++i;
        return;
    }
    if (w.text.size() == 1 && !(after && (after->is == Item::Is::number || after->is == Item::Is::sign)))
        return;
    if (*key == Means::name || *key == Means::maker) {
        if (i > 0 || prose_)
            return;
        w.used = true;
        std::size_t from = i + 1;
        while (from < run.size() && run[from]->is == Item::Is::sign)
            run[from++]->used = true;
        if (from >= run.size())
            return;
        std::size_t to = from + 1;
        while (to < run.size() && !run[to]->gap && run[to]->line == run[from]->line)
            ++to;
        SheetField f;
        f.kind = *kindOf(*key);
        const auto& line = sheet_.lines[run[from]->line];
        f.text = line.substr(run[from]->from, run[to - 1]->to - run[from]->from);
        for (std::size_t k = from; k < to; ++k)
            run[k]->used = true;
        push(f, *run[from], *run[to - 1]);
        i = to - 1;
        return;
    }
    if (isLimit(*key)) {
        start({}, nullptr);
        limits(run, i);
        --i;
        return;
    }
    if (isPower(*key)) {
        // a word beside a value of something else ("6 dB, pink noise") is none
        start({}, nullptr);
        std::size_t from = i;
        powers(run, from);
        i = from - 1;
        return;
    }
    // "fc=95 Hz, gain=+2 dB": of the filter that is being read.
    if (*key == Means::level && after && !d_.gain && d_.key != Means::notch && d_.key != Means::allPass &&
        (d_.key ? isEqualiser(*d_.key) : d_.hz && !d_.bareEdge)) {
        bool hertz = d_.hz;
        for (std::size_t k = i + 1; k < run.size() && !keyOf(*run[k]); ++k)
            hertz = hertz || (run[k]->is == Item::Is::number && run[k]->unit == Unit::hz);
        if (hertz)
            return touch(w);
    }
    w.used = true;
    // "12k hi-shelf", "70 Hz high-pass": what it is comes after its frequency.
    if (d_.implied && d_.hz && !d_.gain && isEdge(*key)) { // "80 Hz BW24 high-pass, 1 kHz LR24 low-pass"
        d_.key = key;
        d_.implied = false;
        return touch(w);
    }
    if ((!d_.key || d_.key == Means::bell) && d_.gain && !d_.hz && isEqualiser(*key)) { // "+3 dB shelf at 10k"
        d_.key = key;
        return touch(w);
    }
    const bool open = d_.hz && !d_.gain && !d_.bareEdge && (!d_.key || (isEqualiser(*d_.key) && isEqualiser(*key)));
    if (open && (isEqualiser(*key) || isEdge(*key))) {
        d_.key = key;
        return touch(w);
    }
    if (*key == Means::shelf && d_.key && isEqualiser(*d_.key) && !d_.gain) {
        if (d_.key == Means::bell) // "Filter 2: shelf"
            d_.key = key;
        return touch(w);
    }
    // The same thing in other words.
    if (d_.key == key && !d_.done && !d_.hz && d_.field.list.empty())
        return;
    if (d_.bareEdge && !d_.key && isEdge(*key)) { // "24 dB BW high-pass 80 Hz"
        d_.key = key;
        d_.bareEdge = false;
        return touch(w);
    }
    Item* before = nullptr; // "76 mm (3") voice coil": its value stands before it
    if (*key == Means::coil)
        for (std::size_t k = i, depth = 0; k-- > 0 && i - k < 8;) {
            depth += run[k]->is_(")") ? 1 : run[k]->is_("(") ? std::size_t(-1) : 0;
            if (depth > 0 || run[k]->is_("("))
                continue;
            if (run[k]->is == Item::Is::number && run[k]->unit == Unit::mm && !run[k]->used)
                before = run[k];
            break;
        }
    start(key, &w);
    if (before)
        return single(SheetKind::coil, *before, before->value);
    if (isEqualiser(*key)) {
        std::size_t behind = i + 1;
        while (behind < run.size() && run[behind]->has(Means::filter))
            run[behind++]->used = true;
        const std::size_t was = behind;
        if (index(run, behind) || behind > i + 1)
            i = std::max(was, behind) - 1;
    }
}

} // namespace loom::loudspeaker::sheet
