#include "loudspeaker/sheet/facts.h"
#include "dsp/number.h"
#include "dsp/units.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <utility>

namespace loom::loudspeaker::sheet {
namespace {

bool slopeValue(double v) {
    return v >= 6 && v <= 48 && std::fmod(v, 6) == 0;
}

// Each answer to what is asked already with each of these, so that one answer leaves nothing else open.
template <class Take>
void alsoAsk(SheetField& f, const std::string& question, const std::vector<SheetChoice>& more, const Take& take) {
    f.question += (f.question.empty() ? "" : " ") + question;
    if (f.ask.empty()) {
        f.ask = more;
        return;
    }
    std::vector<SheetChoice> all;
    for (const auto& one : f.ask)
        for (const auto& other : more) {
            auto both = one;
            both.label += ", " + other.label;
            take(both, other);
            all.push_back(std::move(both));
        }
    f.ask = std::move(all);
}
void takeKind(SheetChoice& c, const SheetChoice& from) {
    c.kind = from.kind;
}
void takeQ(SheetChoice& c, const SheetChoice& from) {
    c.q = from.q;
}
void takeSlope(SheetChoice& c, const SheetChoice& from) {
    c.slope = from.slope;
}

std::optional<SheetKind> kindOf(Means key) {
    switch (key) {
    case Means::highPass:
        return SheetKind::highPass;
    case Means::lowPass:
        return SheetKind::lowPass;
    case Means::bell:
        return SheetKind::bell;
    case Means::lowShelf:
        return SheetKind::lowShelf;
    case Means::highShelf:
        return SheetKind::highShelf;
    case Means::notch:
        return SheetKind::notch;
    case Means::allPass:
        return SheetKind::allPass;
    case Means::level:
        return SheetKind::gain;
    case Means::delay:
        return SheetKind::delay;
    case Means::polarity:
        return SheetKind::polarity;
    case Means::impedance:
        return SheetKind::impedance;
    case Means::leastImpedance:
        return SheetKind::minimumImpedance;
    case Means::power:
    case Means::noisePower:
        return SheetKind::rmsPower;
    case Means::peakPower:
        return SheetKind::peakPower;
    case Means::sensitivity:
        return SheetKind::sensitivity;
    case Means::coil:
        return SheetKind::coil;
    case Means::coverage:
        return SheetKind::coverage;
    case Means::taps:
        return SheetKind::taps;
    case Means::driver:
    case Means::compression:
    case Means::cone:
        return SheetKind::driver;
    case Means::name:
        return SheetKind::name;
    case Means::maker:
        return SheetKind::maker;
    default:
        return {};
    }
}

bool isLimit(Means key) {
    return key == Means::peakLimit || key == Means::rmsLimit || key == Means::limit || key == Means::attack ||
           key == Means::release || key == Means::threshold;
}

std::optional<Means> powerOf(const Item& item) {
    for (const Means m : {Means::noisePower, Means::peakPower, Means::otherPower, Means::power})
        if (item.has(m))
            return m;
    return {};
}

bool colon(const Run& run, const Item& value) { // one stands right before it
    const auto it = std::find(run.begin(), run.end(), &value);
    return it != run.begin() && it != run.end() && ((*(it - 1))->is_(":") || (*(it - 1))->is_("="));
}

// Several of these in one line are several of one way.
bool filters(SheetKind kind) {
    return kind == SheetKind::bell || kind == SheetKind::lowShelf || kind == SheetKind::highShelf ||
           kind == SheetKind::notch || kind == SheetKind::allPass || kind == SheetKind::driver;
}

bool whole(SheetKind kind) { // of the whole loudspeaker, wherever it stands
    return kind == SheetKind::name || kind == SheetKind::maker || kind == SheetKind::coverage ||
           kind == SheetKind::taps;
}

} // namespace

bool isPower(Means key) {
    return key == Means::power || key == Means::noisePower || key == Means::peakPower || key == Means::otherPower;
}
bool isEdge(Means key) {
    return key == Means::highPass || key == Means::lowPass || key == Means::crossover;
}
bool isEqualiser(Means key) {
    return key == Means::bell || key == Means::lowShelf || key == Means::highShelf || key == Means::shelf ||
           key == Means::notch || key == Means::allPass;
}

std::optional<WayRef> wayOf(const Item& item) {
    static const std::array<std::pair<Means, WayRef>, 6> all{{{Means::waySub, {10, "Sub"}},
                                                              {Means::wayLow, {20, "Low"}},
                                                              {Means::wayLowMid, {25, "Low mid"}},
                                                              {Means::wayMid, {30, "Mid"}},
                                                              {Means::wayHighMid, {35, "High mid"}},
                                                              {Means::wayHigh, {40, "High"}}}};
    for (const auto& [means, way] : all)
        if (item.has(means))
            return way;
    return {};
}

std::optional<WayRef> numberedWay(const Run& run, std::size_t& i) {
    if (i + 1 >= run.size() || !run[i]->has(Means::way))
        return {};
    const Item& n = *run[i + 1];
    int number = 0;
    if (n.is == Item::Is::number && n.whole && n.unit == Unit::none && !n.sign && n.value >= 1 && n.value <= 16)
        number = static_cast<int>(n.value);
    else if (n.is == Item::Is::word && n.text.size() == 1 && n.text[0] >= 'a' && n.text[0] <= 'h')
        number = n.text[0] - 'a' + 1;
    if (number == 0)
        return {};
    i += 2;
    return WayRef{100 + number, print("Way %d", number)};
}

std::optional<Means> keyOf(const Item& item) {
    if (item.is != Item::Is::word)
        return {};
    for (int m = static_cast<int>(Means::highPass); m <= static_cast<int>(Means::ignored); ++m)
        if (item.means.has(static_cast<Means>(m)))
            return static_cast<Means>(m);
    return {};
}

std::vector<WayRef> Facts::ways() const {
    auto all = found_;
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
    return all;
}

int Facts::wayId(const WayRef& way) {
    if (way.rank == 0)
        return 0;
    const auto it = std::find(found_.begin(), found_.end(), way);
    if (it != found_.end())
        return static_cast<int>(it - found_.begin()) + 1;
    found_.push_back(way);
    return static_cast<int>(found_.size());
}

void Facts::push(SheetField f, const Item& first, const Item& last) {
    f.way = whole(f.kind) ? 0 : wayId(where_.way);
    f.line = first.line;
    f.from = first.from;
    f.to = first.to;
    if (last.line == first.line)
        f.to = std::max(f.to, last.to);
    for (auto& choice : f.ask) { // what was read behind the question
        choice.q = choice.q > 0 ? choice.q : f.q;
        choice.slope = choice.slope ? choice.slope : f.slope;
    }
    run_.push_back(sheet_.fields.size());
    sheet_.fields.push_back(std::move(f));
}

// ---- one draft ----

void Facts::start(std::optional<Means> key, const Item* at) {
    flush();
    d_.key = key;
    d_.first = d_.last = at;
}

void Facts::touch(Item& item) {
    item.used = true;
    d_.touched.push_back(&item);
    if (!d_.first)
        d_.first = &item;
    d_.last = &item;
}

void Facts::flush() {
    Draft d = std::exchange(d_, {});
    pendingWidth_ = -1;
    if (!d.first)
        return;
    const bool equal = !d.key || isEqualiser(*d.key), edge = d.bareEdge || (d.key && isEdge(*d.key));
    if (d.off || d.forYou) {
        if (d.key || d.hz)
            (d.off ? sheet_.off : sheet_.forYou)
                .push_back({d.first->line, d.first->from,
                            std::max(d.first->to, d.last->line == d.first->line ? d.last->to : d.first->to)});
        return;
    }
    if (edge && d.hz) {
        edgesOf(std::move(d));
        return;
    }
    const bool needsNoGain = d.key == Means::notch || d.key == Means::allPass;
    if (!equal || !d.hz || (!d.gain && !needsNoGain)) {
        for (auto* one : d.touched) // part of a fact is none; it is marked
            one->used = false;
        return;
    }
    Means key = d.key.value_or(Means::bell);
    if (key == Means::shelf)
        key = d.field.value < 1000 ? Means::lowShelf : Means::highShelf; // asked below
    d.field.kind = *kindOf(key);
    for (auto& choice : d.field.ask)
        choice.kind = d.field.kind;
    if (d.key == Means::shelf)
        alsoAsk(d.field, "It is not said which shelf it is.",
                {{"high shelf", SheetKind::highShelf, d.field.value, d.field.q, 0},
                 {"low shelf", SheetKind::lowShelf, d.field.value, d.field.q, 0}},
                takeKind);
    if (key == Means::bell && !d.width) {
        std::vector<SheetChoice> widths;
        for (const double q : {0.7, 1.0, 1.41, 2.0, 3.0})
            widths.push_back({print("Q %.3g", q), SheetKind::bell, d.field.value, q, 0});
        alsoAsk(d.field, "Its width is not said.", widths, takeQ);
    }
    push(d.field, *d.first, *d.last);
}

// High-passes and low-passes as they are; a crossing is the one of the lower way and the other of the upper.
void Facts::edgesOf(Draft d) {
    const auto put = [&](SheetKind kind) {
        auto f = d.field;
        f.kind = kind;
        for (auto& choice : f.ask)
            choice.kind = kind;
        push(f, *d.first, *d.last);
    };
    if (d.key == Means::highPass)
        return put(SheetKind::highPass);
    if (d.key == Means::lowPass)
        return put(SheetKind::lowPass);
    if (d.key == Means::crossover && where_.list.size() == 2 && where_.way.rank == 0) {
        const auto here = where_.way;
        where_.way = where_.list[0];
        put(SheetKind::lowPass);
        where_.way = where_.list[1];
        put(SheetKind::highPass);
        where_.way = here;
        return;
    }
    bare_.push_back(sheet_.fields.size());
    put(SheetKind::highPass);
}

void Facts::frequency(Item& item) {
    d_.hz = true;
    d_.field.value = item.value;
    touch(item);
    if (item.unit != Unit::none)
        return;
    if (said.hertz > 0) {
        d_.field.value *= said.hertz;
        return;
    }
    const bool hertz = item.value >= 15 && item.value <= 22000, kilohertz = item.value >= 0.015 && item.value <= 22;
    if (kilohertz && !hertz)
        d_.field.value *= 1000;
    if (hertz == kilohertz) {
        d_.field.question = item.text + " has no unit.";
        d_.field.ask = {{item.text + " Hz", SheetKind::bell, item.value, 0, 0},
                        {item.text + " kHz", SheetKind::bell, item.value * 1000, 0, 0}};
    }
}

void Facts::width(Item& item, int as) {
    touch(item);
    d_.width = true;
    if (item.unit == Unit::octaves || (item.unit == Unit::none && as == 2)) {
        d_.field.q = dsp::qFromOctaves(item.value);
    } else if (item.unit == Unit::hz && item.value > 0) {
        d_.field.q = d_.field.value / item.value;
    } else if (as == 1) {
        d_.field.q = item.value;
    } else {
        const double v = item.value;
        alsoAsk(d_.field, item.text + " may be a Q or octaves.",
                {{"Q " + item.text, SheetKind::bell, d_.field.value, v, 0},
                 {item.text + " oct", SheetKind::bell, d_.field.value, dsp::qFromOctaves(v), 0}},
                takeQ);
    }
}

void Facts::single(SheetKind kind, Item& item, double value) {
    touch(item);
    SheetField f = d_.field;
    f.kind = kind;
    f.value = value;
    for (auto& choice : f.ask)
        choice.kind = kind;
    d_.field = {};
    d_.done = true;
    push(std::move(f), d_.first ? *d_.first : item, item);
    d_.first = nullptr;
    d_.last = nullptr;
}

// "EQ1", "Filter 2", "Bell A": whose number it is.
bool Facts::index(const Run& run, std::size_t& i) {
    if (i >= run.size())
        return false;
    Item& n = *run[i];
    if (n.gap && !n.glued)
        return false;
    const bool letter =
        n.is == Item::Is::word && n.text.size() == 1 && n.text[0] >= 'a' && n.text[0] <= 'h' && n.text != "g";
    bool number = n.is == Item::Is::number && n.whole && n.unit == Unit::none && !n.sign && !n.kilo && n.value <= 24;
    if (number && !n.glued &&
        i + 1 < run.size()) { // "eq 4 -3 2"? Only a number with its unit, or a sign, leaves it one
        const Item& next = *run[i + 1];
        number = next.gap || next.is_(":") || next.is_("=") ||
                 (next.is == Item::Is::number && next.unit != Unit::none && !next.sign) || next.is_(".") ||
                 next.is == Item::Is::word;
    }
    if (!letter && !number)
        return false;
    n.used = true;
    ++i;
    return true;
}

// ---- powers ----

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
        } else if (one.is == Item::Is::number) {
            if (one.unit == Unit::watt || (one.unit == Unit::none && !anyUnit))
                parts.push_back({Part::Is::value, Means::power, &one});
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

// ---- items ----

void Facts::quantity(const Run& run, std::size_t& i) {
    Item& n = *run[i];
    const auto key = d_.key;
    const auto laterUnit = [&](Unit unit) { // before the next word for something else
        for (std::size_t k = i + 1; k < run.size() && !keyOf(*run[k]); ++k)
            if (run[k]->is == Item::Is::number && run[k]->unit == unit)
                return true;
        return false;
    };
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
        if (equal && d_.hz && !d_.gain) {
            d_.gain = true;
            d_.field.second = less_ && !n.sign ? -n.value : n.value;
            return touch(n);
        }
        if (key == Means::sensitivity || key == Means::level)
            return single(key == Means::level ? SheetKind::gain : SheetKind::sensitivity, n,
                          key == Means::level && less_ && !n.sign ? -n.value : n.value);
        if (!key && i + 1 < run.size() && run[i + 1]->has(Means::sensitivity)) {
            start(Means::sensitivity, &n);
            run[i + 1]->used = true;
            single(SheetKind::sensitivity, n, n.value);
            ++i;
            return;
        }
        if (equal && !d_.hz && (laterUnit(Unit::hz) || prose_)) { // "3 dB at 290 Hz"
            d_.gain = true;
            d_.field.second = less_ && !n.sign ? -n.value : n.value;
            touch(n);
        }
        return;
    case Unit::octaves:
    case Unit::quality: // a Q
        if (equal && d_.hz && !d_.width)
            width(n, n.unit == Unit::octaves ? 2 : 1);
        return;
    case Unit::ms:
        if (key == Means::delay && !(d_.done && depth_ > 0))
            single(SheetKind::delay, n, n.value);
        else if (!key && !d_.hz)
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
            d_.field.question = "The rate of the samples is not said.";
            for (const double rate : {48000.0, 96000.0, 44100.0})
                d_.field.ask.push_back(
                    {print("at %.4g kHz", rate / 1000), SheetKind::delay, n.value / rate * 1000, 0, 0});
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
            single(SheetKind::gain, n, n.value);
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
            if (n.value != 0) {
                d_.field.question = n.text + " has no unit.";
                d_.field.ask = {{n.text + " ms", SheetKind::delay, n.value, 0, 0},
                                {n.text + " \u00b5s", SheetKind::delay, n.value / 1000, 0, 0}};
                if (n.whole)
                    d_.field.ask.push_back({n.text + " samples at 48 kHz", SheetKind::delay, n.value / 48, 0, 0});
                else
                    d_.field.ask.push_back(
                        {n.text + " m", SheetKind::delay, n.value / dsp::speedOfSound(20) * 1000, 0, 0});
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
    if (w.text == "be" && !(after && after->glued)) { // "BE24", but not "should be"
        w.used = true;
        return;
    }
    if (w.any({Means::linkwitz, Means::butterworth, Means::bessel}) || (w.has(Means::bw) && (edge || slopeNext))) {
        d_.field.shape = w.has(Means::linkwitz) ? 1 : w.has(Means::bessel) ? 2 : 0;
        if (!edge) {
            if (d_.key && !(isEqualiser(*d_.key) && !d_.gain))
                start({}, &w), d_.field.shape = w.has(Means::linkwitz) ? 1 : w.has(Means::bessel) ? 2 : 0;
            d_.bareEdge = true;
        }
        return touch(w);
    }
    if (w.has(Means::width) || w.has(Means::bw)) {
        pendingWidth_ = w.has(Means::bw)                                                                ? 2
                        : w.text == "q" || w.text == "gute" || w.text == "guete" || w.text == "quality" ? 1
                                                                                                        : 0;
        return touch(w);
    }
    if (w.has(Means::order) || w.has(Means::slope)) {
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
        if (!behind || (next(1) && next(1)->is == Item::Is::word))
            start(Means::leastImpedance, &w);
        w.used = true;
        return;
    }
    if (w.any({Means::inverted, Means::normal})) {
        const bool ahead = next(1) && next(1)->has(Means::polarity);
        if (d_.key == Means::polarity || ahead) {
            if (ahead && d_.key != Means::polarity)
                start(Means::polarity, &w);
            if (!d_.done || !ahead)
                single(SheetKind::polarity, w, w.has(Means::inverted));
            if (ahead)
                next(1)->used = true, ++i;
            return;
        }
    }
    if (w.has(Means::forYou) && d_.key) {
        d_.forYou = true;
        return touch(w);
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
        } else if (d_.key || d_.hz) {
            d_.off = d_.off || !d_.done;
            touch(w);
        }
        return;
    }
    if (d_.key == Means::polarity && !d_.done && w.text.size() == 1 &&
        (w.text == "n" || w.text == "r" || w.text == "i"))
        return single(SheetKind::polarity, w, w.text != "n");
    const auto key = keyOf(w);
    if (!key) {
        if (w.any({Means::filler, Means::times, Means::conjunction, Means::per, Means::frequency, Means::filter,
                   Means::type, Means::state, Means::yes, Means::less, Means::both, Means::minimum}) ||
            w.unit != Unit::none)
            w.used = true;
        return;
    }
    // Single letters are words for something only before a value of theirs.
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
    w.used = true;
    // "12k hi-shelf", "70 Hz high-pass": what it is comes after its frequency.
    const bool open = d_.hz && !d_.gain && !d_.bareEdge && (!d_.key || (isEqualiser(*d_.key) && isEqualiser(*key)));
    if (open && (isEqualiser(*key) || isEdge(*key))) {
        d_.key = key;
        return touch(w);
    }
    if (*key == Means::shelf && d_.key && isEqualiser(*d_.key) && !d_.gain)
        return touch(w);
    // The same thing in other words.
    if (d_.key == key && !d_.done && !d_.hz && d_.field.list.empty())
        return;
    if (d_.bareEdge && !d_.key && isEdge(*key)) { // "24 dB BW high-pass 80 Hz"
        d_.key = key;
        d_.bareEdge = false;
        return touch(w);
    }
    start(key, &w);
    if (isEqualiser(*key)) {
        std::size_t behind = i + 1;
        while (behind < run.size() && run[behind]->has(Means::filter))
            run[behind++]->used = true;
        const std::size_t was = behind;
        if (index(run, behind) || behind > i + 1)
            i = std::max(was, behind) - 1;
    }
}

void Facts::item(const Run& run, std::size_t& i) {
    Item& one = *run[i];
    switch (one.is) {
    case Item::Is::number:
        quantity(run, i);
        break;
    case Item::Is::word:
        term(run, i);
        break;
    case Item::Is::sign:
        one.used = true;
        if (one.text == "(" || one.text == "[")
            ++depth_;
        else if (one.text == ")" || one.text == "]")
            depth_ = std::max(0, depth_ - 1);
        else if ((one.text == "+" || one.text == "-") && d_.key == Means::polarity && !d_.done)
            single(SheetKind::polarity, one, one.text == "-");
        break;
    }
}

// Values of one kind that stand in one run beside each other belong to the ways, one each.
void Facts::spread() {
    if (where_.list.size() < 2 || where_.way.rank != 0)
        return;
    std::map<SheetKind, std::vector<std::size_t>> kinds;
    for (const auto n : run_)
        if (const auto kind = sheet_.fields[n].kind; sheet_.fields[n].way == 0 && !whole(kind) && !filters(kind))
            kinds[kind].push_back(n);
    for (const auto& [kind, all] : kinds) {
        if (all.size() == where_.list.size()) {
            for (std::size_t k = 0; k < all.size(); ++k)
                sheet_.fields[all[k]].way = wayId(where_.list[k]);
        } else if (all.size() == 1 && kind == SheetKind::highPass) {
            sheet_.fields[all[0]].way = wayId(where_.list.front()); // what protects the lowest
        }
    }
}

// Angles and taps end with the next word for something else, taps also with the next voltage; what they hold is one
// fact. Taps that are said to be at 70 V are no taps at 100 V: they are left unread.
void Facts::endOfList(const Run& run, std::size_t i) {
    auto& list = d_.field.list;
    if (list.empty())
        return;
    const bool more = i + 1 < run.size() && !keyOf(*run[i + 1]);
    const auto volts = [&](std::size_t k) {
        return k < run.size() && run[k]->is == Item::Is::number && run[k]->unit == Unit::volt;
    };
    SheetField f;
    if (d_.key == Means::coverage && (!more || list.size() == 2)) {
        f.kind = SheetKind::coverage;
        f.value = list[0];
        f.second = list.size() > 1 ? list[1] : f.value;
        push(f, *d_.first, *d_.last);
        d_ = {};
    } else if (d_.key == Means::taps) {
        const bool at = more && (run[i + 1]->text == "at" || run[i + 1]->text == "@") && volts(i + 2);
        if (more && !at && !volts(i + 1) && !run[i + 1]->is_(";"))
            return;
        const double tapVolts = at ? run[i + 2]->value : d_.field.value;
        if (tapVolts > 0 && std::abs(tapVolts - 100) > 1) {
            for (auto* one : d_.touched)
                one->used = false;
        } else if (!tapsRead_) {
            f.kind = SheetKind::taps;
            f.list = list;
            push(f, *d_.first, *d_.last);
            tapsRead_ = true;
        }
        d_ = {};
        d_.key = Means::taps;
    }
}

void Facts::read(const Run& run, Where where) {
    where_ = std::move(where);
    depth_ = 0;
    prose_ = less_ = false;
    run_.clear();
    d_ = {};
    pendingWidth_ = -1;
    std::size_t i = 0;
    if (where_.key && !run.empty()) {
        if (isPower(*where_.key)) {
            powers(run, i);
        } else if (isLimit(*where_.key)) {
            limits(run, i);
        } else {
            d_.key = where_.key;
        }
    }
    for (; i < run.size(); ++i) {
        item(run, i);
        endOfList(run, i);
    }
    flush();
    spread();
}

// ---- sentences ----

void Facts::clause(Run clause, Where& where) {
    // Whom it is about, and of whom it is said besides.
    std::optional<WayRef> other;
    bool all = false;
    less_ = false;
    bool hz = false, watt = false, metre = false;
    std::size_t key = clause.size();
    bool crossing = false;
    for (std::size_t i = 0; i < clause.size(); ++i) {
        Item& one = *clause[i];
        const bool aside = i > 0 && clause[i - 1]->any({Means::otherSide, Means::relative});
        if (const auto way = wayOf(one); way && !keyOf(one)) {
            if (aside)
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
        crossing = crossing || one.has(Means::crossover);
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
    } else if (hz) {
        flush();
    }
    if (watt && metre && key == clause.size() && !hz) { // "109 dB with one watt at one metre"
        start(Means::sensitivity, nullptr);
    }
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
    if (crossing && hz) {
        flush();
    }
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

// ---- at the end ----

void Facts::settle() {
    const auto order = ways();
    std::vector<int> number(found_.size() + 1, 0);
    for (std::size_t k = 0; k < found_.size(); ++k)
        number[k + 1] = static_cast<int>(std::find(order.begin(), order.end(), found_[k]) - order.begin()) + 1;
    for (auto& f : sheet_.fields)
        f.way = number[static_cast<std::size_t>(f.way)];
    for (auto& l : sheet_.limits)
        l.way = number[static_cast<std::size_t>(l.way)];
    sheet_.ways.clear();
    for (const auto& way : order)
        sheet_.ways.push_back(way.name);
    const int count = static_cast<int>(order.size());
    // An edge without a word for its side: of the lowest way it is a low-pass, of the highest a high-pass; else it is
    // asked.
    for (const auto n : bare_) {
        auto& f = sheet_.fields[n];
        if (count > 1 && f.way == 1) {
            f.kind = SheetKind::lowPass;
            for (auto& choice : f.ask)
                choice.kind = f.kind;
        } else if (count <= 1 || f.way != count) {
            alsoAsk(f, "It is not said on which side of it sound passes.",
                    {{"high-pass", SheetKind::highPass, f.value, f.q, f.slope},
                     {"low-pass", SheetKind::lowPass, f.value, f.q, f.slope}},
                    takeKind);
        }
    }
    for (auto& f : sheet_.fields) {
        if ((f.kind != SheetKind::highPass && f.kind != SheetKind::lowPass) || f.slope != 0)
            continue;
        std::vector<SheetChoice> slopes;
        for (const int slope : {6, 12, 18, 24, 36, 48})
            slopes.push_back({print("%d dB/oct", slope), f.kind, f.value, f.q, slope});
        alsoAsk(f, "Its slope is not said.", slopes, takeSlope);
    }
}

} // namespace loom::loudspeaker::sheet
