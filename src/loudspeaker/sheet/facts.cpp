#include "loudspeaker/sheet/facts.h"
#include "dsp/number.h"
#include "dsp/units.h"
#include "loudspeaker/sheet/asks.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <utility>

namespace loom::loudspeaker::sheet {
namespace {

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

std::vector<WayRef> Facts::ways() const {
    auto all = found_;
    for (const auto& way : expected)
        if (std::find(all.begin(), all.end(), way) == all.end())
            all.push_back(way);
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
    return all;
}

bool Facts::factsBeforeWays() const {
    return found_.size() >= 2 && std::any_of(sheet_.fields.begin(), sheet_.fields.end(), [](const SheetField& f) {
               return f.way == 0 && !whole(f.kind) && !filters(f.kind);
           });
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
    f.way = whole(f.kind) && where_.way.rank < productRank ? 0 : wayId(where_.way);
    block_.push_back(blocks.size());
    f.line = first.line;
    f.from = first.from;
    f.to = first.to;
    if (last.line == first.line)
        f.to = std::max(f.to, last.to);
    run_.push_back(sheet_.fields.size());
    if (f.way == 0 && ofTheWhole)
        whole_.push_back(sheet_.fields.size());
    if (prose_ && !named_ && f.way > 0 && filters(f.kind))
        carried_.push_back(sheet_.fields.size());
    sheet_.fields.push_back(std::move(f));
}

// ---- one draft ----

void Facts::start(std::optional<Means> key, const Item* at) {
    flush();
    if (!prose_ && at && key == Means::level)
        less_ = at->has(Means::less); // "attenuation 6 dB"
    d_.key = key;
    d_.first = d_.last = at;
    d_.off = std::exchange(offAhead_, false) && key && (isEdge(*key) || isEqualiser(*key));
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
    if (d.key == Means::shelf)
        alsoAsk(d.field, "which shelf", "It is not said which shelf it is.",
                {SheetChoice{.label = "high shelf", .kind = SheetKind::highShelf},
                 SheetChoice{.label = "low shelf", .kind = SheetKind::lowShelf}});
    if (key == Means::bell && !d.width) {
        std::vector<SheetChoice> widths;
        for (const double q : {0.7, 1.0, 1.41, 2.0, 3.0})
            widths.push_back(SheetChoice{.label = print("Q %.3g", q), .q = q});
        alsoAsk(d.field, "width", "Its width is not said.", widths);
    }
    push(d.field, *d.first, *d.last);
}

// High-passes and low-passes as they are; a crossing is the one of the lower way and the other of the upper.
void Facts::edgesOf(Draft d) {
    const auto put = [&](SheetKind kind) {
        auto f = d.field;
        f.kind = kind;
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
    d_.off = d_.off || std::exchange(offAhead_, false);
    d_.field.value = item.value;
    touch(item);
    d_.field.unitSaid = item.unit != Unit::none || said.hertz > 0;
    if (item.unit != Unit::none)
        return;
    if (said.hertz > 0) {
        d_.field.value *= said.hertz;
        return;
    }
    const bool hertz = item.value >= 15 && item.value <= 22000, kilohertz = item.value >= 0.015 && item.value <= 22;
    if (kilohertz && !hertz)
        d_.field.value *= 1000;
    if (hertz == kilohertz)
        alsoAsk(d_.field, "Hz or kHz", item.text + " has no unit.",
                {SheetChoice{.label = item.text + " Hz", .value = item.value},
                 SheetChoice{.label = item.text + " kHz", .value = item.value * 1000}});
}

void Facts::width(Item& item, int as) {
    touch(item);
    d_.width = true;
    if (item.unit == Unit::octaves || (item.unit == Unit::none && as == 2)) {
        d_.field.q = dsp::qFromOctaves(item.value);
    } else if (item.unit == Unit::hz && item.value > 0) {
        d_.field.q = d_.field.value / item.value;
        for (auto& choice : d_.field.ask)
            if (choice.value)
                choice.q = *choice.value / item.value;
    } else if (as == 1) {
        d_.field.q = item.value;
    } else {
        const double v = item.value;
        alsoAsk(d_.field, "Q or octaves", item.text + " may be a Q or octaves.",
                {SheetChoice{.label = "Q " + item.text, .q = v},
                 SheetChoice{.label = item.text + " oct", .q = dsp::qFromOctaves(v)}});
    }
}

void Facts::single(SheetKind kind, Item& item, double value) {
    touch(item);
    SheetField f = d_.field;
    f.kind = kind;
    f.value = value;
    f.unitSaid = item.unit != Unit::none;
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
    prose_ = offAhead_ = false;
    less_ = where_.less;
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
    waysInBrackets(run);
    spread();
}

// "8 ohms (woofer), 16 ohms (horn)": whose a value is stands right behind it.
void Facts::waysInBrackets(const Run& run) {
    if (where_.way.rank != 0)
        return;
    for (const auto n : run_) {
        auto& f = sheet_.fields[n];
        if (f.way != 0 || whole(f.kind))
            continue;
        const auto it =
            std::find_if(run.begin(), run.end(), [&](const Item* i) { return i->line == f.line && i->from >= f.to; });
        const auto at = static_cast<std::size_t>(it - run.begin());
        if (at + 2 < run.size() && run[at]->is_("(") && run[at + 2]->is_(")"))
            if (const auto way = wayOf(*run[at + 1])) {
                f.way = wayId(*way);
                run[at + 1]->used = true;
            }
    }
}

// ---- at the end ----

} // namespace loom::loudspeaker::sheet
