// Facts that several lines or rows say together, a part in each: "HPF freq", "HPF slope"; "out1.peq2.q: 1.4";
// "Filter 3", and below it "Type", "Frequency", "Gain".
#include "loudspeaker/sheet/reader.h"
#include <algorithm>
#include <array>

namespace loom::loudspeaker::sheet {
namespace {

bool separates(const Item& item) {
    return item.is_(":") || item.is_("=");
}

bool filterKey(const std::optional<Means>& key) {
    return key && (isEdge(*key) || isEqualiser(*key));
}

bool isNo(const Run& run) {
    return std::any_of(run.begin(), run.end(), [](const Item* i) {
        return i->has(Means::off) || (i->is == Item::Is::number && i->value == 0);
    });
}

} // namespace

std::optional<Reader::Label> Reader::settingLabel(const Run& run, std::size_t from, std::size_t to) {
    Label l;
    const Run label(run.begin() + static_cast<std::ptrdiff_t>(from), run.begin() + static_cast<std::ptrdiff_t>(to));
    for (std::size_t i = 0; i < label.size(); ++i) {
        const Item& one = *label[i];
        if (one.is == Item::Is::sign)
            continue;
        if (std::size_t k = i; !l.way)
            if (const auto numbered = numberedWay(label, k)) {
                l.way = numbered;
                i = k - 1;
                continue;
            }
        if (one.is == Item::Is::number) {
            if (one.glued && one.whole && one.unit != Unit::none && filterKey(l.key)) { // "EQ1 dB"
                l.index += one.text.substr(0, one.text.find_first_not_of("0123456789")) + ".";
                l.unit = one.unit;
                continue;
            }
            if (!one.whole || one.unit != Unit::none || one.sign || one.value > 64)
                return {};
            l.index += one.text + ".";
            continue;
        }
        const auto key = keyOf(one);
        if (!key && !l.way)
            if (const auto way = wayOf(one)) {
                l.way = way;
                continue;
            }
        const bool role =
            one.any({Means::frequency, Means::type, Means::slope, Means::width, Means::state, Means::order}) && !key;
        if (role) {
            for (const Means part :
                 {Means::frequency, Means::type, Means::slope, Means::order, Means::width, Means::state})
                if (one.has(part) && (!l.part || l.part == Means::type)) {
                    l.part = part;
                    if (part == Means::width && (one.text == "q" || one.text == "gute" || one.text == "guete"))
                        l.unit = Unit::quality;
                    break;
                }
        } else if (key && (isEdge(*key) || isEqualiser(*key))) {
            if (l.key && *l.key != *key)
                return {};
            l.key = key;
        } else if (key == Means::level) {
            if (filterKey(l.key))
                l.part = l.part.value_or(Means::level);
            else
                l.key = key;
        } else if (key) {
            if (l.key)
                return {};
            l.key = key;
        } else if (one.unit != Unit::none) {
            l.unit = one.unit;
        } else if (one.has(Means::off)) {
            l.part = Means::off; // "Bypass: no"
        } else if (one.has(Means::filter)) {
            l.filter = true;
        } else if (one.text.size() == 1 && filterKey(l.key)) {
            l.index += one.text + ".";
        } else if (one.has(Means::way)) {
            l.output = true;
        } else if (!one.has(Means::filler)) {
            return {};
        }
    }
    // "HPF Hz", "EQ1 dB": the unit says which part it is.
    if (!l.part && filterKey(l.key)) {
        if (l.unit == Unit::hz)
            l.part = Means::frequency;
        else if (l.unit == Unit::db && isEqualiser(*l.key))
            l.part = Means::level;
        else if (l.unit == Unit::slope)
            l.part = Means::slope;
        else if (l.unit == Unit::octaves || l.unit == Unit::quality)
            l.part = Means::width;
    }
    return l;
}

// Where the value of a line begins: behind what parts it from its label. 0: nowhere.
std::size_t Reader::valueBegins(const Row& row, const Run& run, std::size_t& labelEnds) {
    for (std::size_t i = 1; i < run.size(); ++i)
        if (separates(*run[i])) {
            labelEnds = i;
            return i + 1;
        }
    for (std::size_t i = 1; i + 2 < run.size(); ++i)
        if (run[i]->is_(".") && run[i + 1]->is_(".") && run[i + 2]->is_(".")) { // leaders
            labelEnds = i;
            while (i < run.size() && run[i]->is_("."))
                ++i;
            return i;
        }
    if (row.cells.size() == 2 && row.parted != Row::Parted::none && !row.cells[0].items.empty()) {
        labelEnds = row.cells[0].items.size();
        return labelEnds;
    }
    for (std::size_t i = 1; i < run.size(); ++i) {
        const Item& one = *run[i];
        const bool value = one.is == Item::Is::number && (one.unit != Unit::none || one.sign || !one.whole);
        if (value || one.any({Means::butterworth, Means::linkwitz, Means::bessel})) {
            labelEnds = i;
            return i;
        }
    }
    return 0;
}

bool Reader::settings() {
    Row& row = rows_[at_];
    if (!columns_.empty() || !heads_.empty() || paragraphEnds(at_) > at_)
        return false;
    const Run run = joined(row);
    std::size_t ends = 0;
    const std::size_t begins = valueBegins(row, run, ends);
    if (begins == 0 || begins >= run.size())
        return heading(run);
    auto label = settingLabel(run, 0, ends);
    // "woofer_a.hpf.freq": whose name it is stands before the first point.
    std::size_t point = 0;
    while (point < ends && !run[point]->is_("."))
        ++point;
    const bool path = point > 0 && point + 1 < ends;
    if (path && (!label || !label->way)) {
        const bool own = settingLabel(run, 0, point) && settingLabel(run, 0, point)->key;
        if (!own)
            label = settingLabel(run, point + 1, ends);
        if (label && !own && !label->way && !settingLabel(run, 0, point)) {
            std::string name;
            for (std::size_t i = 0; i < point; ++i)
                name += run[i]->text;
            label->way = namedWay(name);
        }
    }
    if (!label)
        return false;
    if (label->way)
        if (const auto renamed = groupWays_.find(label->way->name); renamed != groupWays_.end())
            label->way = renamed->second;
    Run value(run.begin() + static_cast<std::ptrdiff_t>(begins), run.end());
    if (std::any_of(value.begin(), value.end(), [](const Item* i) { return separates(*i) || i->is_(";"); }))
        return false; // several things in one line
    // "out1.name: Low"
    if (label->key == Means::name && label->way && label->way->rank >= 100) {
        if (const auto way = wayCell(value)) {
            groupWays_[label->way->name] = *way;
            use(rows_[at_].cells);
            ++at_;
            return true;
        }
    }
    if (label->key == Means::name && !label->way)
        if (const auto way = wayCell(value)) { // "[Output 1]", "Name = Sub"; "name": "low",
            closeSettings();
            use(rows_[at_].cells);
            where_ = *way;
            ++at_;
            return true;
        }
    const bool headed = gathering_.open && gathering_.headed;
    if (headed && label->key == Means::level && !label->part && !(gathering_.key && isEdge(*gathering_.key)) &&
        !label->output && !label->way && row.indent() >= gathering_.indent &&
        std::none_of(gathering_.said.begin(), gathering_.said.end(),
                     [](const auto& one) { return one.second.count(Means::level) > 0; })) {
        label->key.reset();
        label->part = Means::level;
    }
    if (!label->part) {
        if (!path || !label->key)
            return false;
        closeSettings(); // "out1.gain: -1.5 dB"
        for (std::size_t i = 0; i < begins; ++i)
            run[i]->used = true;
        give(value, label->unit);
        facts_.read(value, {label->way.value_or(where_), label->key, {}});
        ++at_;
        return true;
    }
    if (label->key && !filterKey(label->key))
        return false;
    if (!label->key && !label->filter) {
        const bool begin =
            !headed && label->part == Means::type &&
            std::any_of(value.begin(), value.end(), [](const Item* i) { return filterKey(keyOf(*i)); }) &&
            attributeFollows(at_ + 1);
        if (!headed && !begin)
            return false;
        if (begin) {
            closeSettings();
            gathering_.open = gathering_.headed = true;
        } else {
            label->key = gathering_.key;
            label->index = gathering_.index;
        }
    }
    for (std::size_t i = 0; i < begins; ++i)
        run[i]->used = true;
    gather(*label, label->way.value_or(headed ? gathering_.way : where_), std::move(value));
    gathering_.indent = row.indent();
    ++at_;
    return true;
}

// Is the row a part of something that is said above: "Frequency: 63 Hz"?
bool Reader::attributeFollows(std::size_t n) const {
    while (n < rows_.size() && rows_[n].merged)
        ++n;
    if (n >= rows_.size() || rows_[n].empty())
        return false;
    const Run run = joined(rows_[n]);
    std::size_t ends = 0;
    const std::size_t begins = valueBegins(rows_[n], run, ends);
    if (begins == 0 || begins >= run.size())
        return false;
    const auto label = settingLabel(run, 0, ends);
    return label && !label->key && label->part;
}

// "PEQ 2", "High-pass", "Filter 3": its parts stand below.
bool Reader::heading(const Run& run) {
    const auto label = settingLabel(run, 0, run.size());
    if (!label || label->part || !(filterKey(label->key) || (label->filter && !label->key)) || hasUnits(run) ||
        !attributeFollows(at_ + 1))
        return false;
    closeSettings();
    for (auto* i : run)
        i->used = true;
    gathering_.open = gathering_.headed = true;
    gathering_.key = label->key;
    gathering_.index = label->index;
    gathering_.way = label->way.value_or(where_);
    ++at_;
    return true;
}

void Reader::gather(const Label& label, const WayRef& way, Run value) {
    const auto of = [&] {
        return std::find_if(gathering_.said.begin(), gathering_.said.end(),
                            [&](const auto& one) { return one.first == way; });
    };
    const bool same = gathering_.open && gathering_.key == label.key && gathering_.index == label.index;
    if (!same || (of() != gathering_.said.end() && of()->second.count(*label.part))) {
        const bool headed = gathering_.headed && same;
        const WayRef was = gathering_.way;
        if (gathering_.open && !(gathering_.headed && gathering_.said.empty() && !gathering_.key))
            closeSettings();
        gathering_.open = true;
        gathering_.headed = gathering_.headed || headed;
        gathering_.way = headed ? was : way;
        gathering_.key = label.key;
        gathering_.index = label.index;
    }
    if (of() == gathering_.said.end())
        gathering_.said.push_back({way, {}});
    switch (*label.part) {
    case Means::frequency:
        give(value, label.unit == Unit::none ? Unit::none : Unit::hz);
        if (label.kilo)
            for (auto* i : value)
                i->value *= i->is == Item::Is::number && !i->kilo ? 1000 : 1;
        break;
    case Means::level:
        give(value, Unit::db);
        break;
    case Means::slope:
        for (auto* i : value)
            if (i->is == Item::Is::number && i->unit == Unit::db)
                i->unit = Unit::slope;
        give(value, Unit::slope);
        break;
    case Means::order:
        for (auto* i : value)
            if (i->is == Item::Is::number && i->unit == Unit::none && i->whole)
                i->ordinal = true;
        break;
    case Means::width:
        give(value, label.unit == Unit::octaves || label.unit == Unit::quality || label.unit == Unit::hz ? label.unit
                                                                                                         : Unit::none);
        break;
    default:
        break;
    }
    of()->second[*label.part] = std::move(value);
}

void Reader::closeSettings() {
    auto said = std::move(gathering_.said);
    const auto key = gathering_.key;
    gathering_ = {};
    for (auto& one : said) {
        const WayRef way = one.first;
        auto& parts = one.second;
        Run run;
        bool off = false, typed = false;
        const auto begins = [&](Means part) { return parts.find(part) != parts.end(); };
        if (begins(Means::state))
            off = isNo(parts[Means::state]);
        if (begins(Means::off))
            off = !isNo(parts[Means::off]);
        if (begins(Means::type))
            typed = std::any_of(parts[Means::type].begin(), parts[Means::type].end(),
                                [](const Item* i) { return filterKey(keyOf(*i)); });
        for (const Means part : {Means::state, Means::off})
            if (begins(part))
                use(parts[part]);
        const auto add = [&](Means part) {
            if (!begins(part))
                return;
            Run& value = parts[part];
            if (signOnly(value)) {
                off = off || part == Means::frequency || part == Means::type;
                use(value);
                return;
            }
            run.insert(run.end(), value.begin(), value.end());
        };
        if (typed)
            add(Means::type);
        add(Means::frequency);
        add(Means::level);
        if (!typed)
            add(Means::type);
        for (const Means part : {Means::slope, Means::order, Means::width})
            add(part);
        if (run.empty())
            continue;
        if (off) {
            use(run);
            const auto [first, last] = std::minmax_element(run.begin(), run.end(), [](const Item* a, const Item* b) {
                return std::pair(a->line, a->from) < std::pair(b->line, b->from);
            });
            sheet_.off.push_back(
                {(*first)->line, (*first)->from, (*last)->line == (*first)->line ? (*last)->to : (*first)->to});
            continue;
        }
        cell(run, way, typed ? std::nullopt : key);
    }
}

} // namespace loom::loudspeaker::sheet
