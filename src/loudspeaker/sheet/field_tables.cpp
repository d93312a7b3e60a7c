// Tables whose columns are what is said: a row is a way, or a filter.
#include "loudspeaker/sheet/reader.h"
#include <algorithm>

namespace loom::loudspeaker::sheet {

bool Reader::fieldsHead() {
    Row& row = rows_[at_];
    std::vector<Head> heads;
    if (row.cells.size() == 1 && row.parted == Row::Parted::none) { // "f / Hz gain / dB Q section"
        Head one;
        for (auto* item : row.cells[0].items) {
            if (item->is == Item::Is::sign)
                continue;
            Run alone{item};
            const auto h = headCell(alone);
            if (item->is == Item::Is::word && item->unit != Unit::none && (one.key || one.role)) {
                one.unit = item->unit;
                continue;
            }
            if (!h)
                return false;
            if (one.key || one.role)
                heads.push_back(one);
            one = *h;
        }
        if (one.key || one.role)
            heads.push_back(one);
        const auto roles = std::count_if(heads.begin(), heads.end(), [](const Head& h) {
            return h.role == Means::frequency || h.role == Means::width || h.key == Means::level;
        });
        if (heads.size() < 3 || roles < 2)
            return false;
    } else {
        std::size_t named = 0, strange = 0;
        for (auto& c : row.cells) {
            Head h;
            if (!c.items.empty()) {
                if (const auto found = headCell(c.items)) {
                    h = *found;
                    ++named;
                } else if (hasUnits(c.items) || c.letters.size() > 24) {
                    return false;
                } else if (&c != &row.cells.front() && !signOnly(c.items)) {
                    ++strange; // what it holds is not known, and stays unread
                }
            }
            h.start = c.start;
            h.from = c.items.empty() ? c.start : c.items.front()->from;
            heads.push_back(h);
        }
        const bool says =
            std::any_of(heads.begin(), heads.end(), [](const Head& h) { return h.key || h.role == Means::frequency; });
        if (named < 2 || (strange > 0 && (strange * 2 > named || !says || !columns_.empty())) ||
            (named < 3 && row.cells.size() > 2 && named * 2 < row.cells.size()))
            return false;
        // "Impedance | Sensitivity" alone is no head; a line of words with values below is
        if (at_ + 1 >= rows_.size())
            return false;
    }
    for (auto& c : row.cells)
        use(c.items);
    heads_ = heads;
    headsBySign_ = row.parted == Row::Parted::sign;
    headsBySequence_ = row.parted == Row::Parted::none;
    headIsFilters_ =
        std::any_of(heads.begin(), heads.end(), [](const Head& h) { return h.role == Means::frequency && !h.key; });
    columns_.clear();
    rowsOfTable_ = 0;
    ++at_;
    return true;
}

// Does an item within a cell stand below another head than the cell, one that no cell of its own stands below?
bool Reader::beginsCell(const Row& row, std::size_t cell, std::size_t item) const {
    const auto& items = row.cells[cell].items;
    const Item &one = *items[item], &before = *items[item - 1];
    if (one.glued || one.from <= before.to || one.is == Item::Is::sign)
        return false;
    if (std::any_of(heads_.begin(), heads_.end(), [&](const Head& h) { return h.from == one.from; }))
        return true;
    if (one.is != Item::Is::number || one.unit != Unit::none ||
        before.any({Means::butterworth, Means::linkwitz, Means::bessel, Means::bw, Means::width}))
        return false;
    const std::size_t mine = nearestHead(row.cells[cell].start),
                      head = nearestHead(row.cells[cell].start + (one.from - items.front()->from));
    for (std::size_t c = 0; c < row.cells.size(); ++c)
        if (c != cell && nearestHead(row.cells[c].start) == head)
            return false;
    return head > mine;
}

bool Reader::rowOfHeads() {
    Row& row = rows_[at_];
    // A row of nothing but units.
    const Run all = joined(row);
    const bool units = !all.empty() && std::all_of(all.begin(), all.end(), [](const Item* i) {
        return i->is == Item::Is::sign || i->unit != Unit::none;
    }) && !hasNumbers(all);
    if (units && rowsOfTable_ == 0 && !headsBySequence_) {
        for (std::size_t c = 0; c < row.cells.size(); ++c)
            for (const auto* one : row.cells[c].items)
                if (one->unit != Unit::none)
                    if (const auto h = headOf(row, c); h < heads_.size())
                        heads_[h].unit = one->unit;
        for (auto& c : row.cells)
            use(c.items);
        ++at_;
        return true;
    }
    // "Gain 0 dB   Delay 0.5 ms" below a table of filters.
    if (const auto key = all.empty() ? std::nullopt : keyOf(*all.front());
        key && headIsFilters_ && !isEdge(*key) && !isEqualiser(*key) && heads_.front().key != key) {
        plain();
        return true;
    }
    if (headsBySequence_)
        return rowOfSequence();
    if (row.cells.size() < 2 && heads_.size() > 2)
        return false;
    // Cells that grew together: what begins below a head is a cell of its own.
    if (!headsBySign_ && row.cells.size() < heads_.size())
        for (std::size_t c = 0; c < row.cells.size(); ++c) {
            auto& items = row.cells[c].items;
            for (std::size_t i = 1; i < items.size(); ++i)
                if (beginsCell(row, c, i)) {
                    Cell rest;
                    rest.start = row.cells[c].start + (items[i]->from - items.front()->from);
                    rest.items.assign(items.begin() + static_cast<std::ptrdiff_t>(i), items.end());
                    rest.letters = row.cells[c].letters;
                    items.resize(i);
                    row.cells.insert(row.cells.begin() + static_cast<std::ptrdiff_t>(c) + 1, std::move(rest));
                    break;
                }
        }
    // What each column says.
    std::vector<Run> said(heads_.size());
    Run rest;
    for (std::size_t c = 0; c < row.cells.size(); ++c) {
        const std::size_t h = headOf(row, c);
        auto& to = h < heads_.size() ? said[h] : rest;
        for (auto* i : row.cells[c].items)
            to.push_back(i);
    }
    if (headsBySign_ && row.cells.size() > heads_.size() + 1)
        return false;
    WayRef way = where_;
    std::size_t wayColumn = heads_.size();
    for (std::size_t h = 0; h < heads_.size(); ++h)
        if ((h == 0 || !heads_[h].role || heads_[h].role == Means::way || heads_[h].role == Means::filter ||
             heads_[h].role == Means::name) &&
            !heads_[h].key)
            if (const auto w = wayCell(said[h])) {
                way = *w;
                wayColumn = h;
                use(said[h]);
                break;
            }
    // "Sedge 8 | 8 ohms | ...": a loudspeaker a row, each by its name
    if (wayColumn == heads_.size() && !headIsFilters_ && !said.empty() && !said[0].empty() &&
        heads_[0].role == Means::name) {
        auto named = namedWay(sheet_.lines[said[0].front()->line].substr(said[0].front()->from,
                                                                         said[0].back()->to - said[0].front()->from));
        named.rank += productRank - namedRank;
        way = named;
        wayColumn = 0;
        use(said[0]);
    }
    if (!hasNumbers(all) && wayColumn == heads_.size())
        return false;
    ++rowsOfTable_;
    if (headIsFilters_)
        filterRow(said, rest, way, wayColumn);
    else
        wayRow(said, way, wayColumn);
    ++at_;
    return true;
}

std::size_t Reader::nearestHead(std::size_t start) const {
    std::size_t best = heads_.size(), nearest = 1000;
    for (std::size_t k = 0; k < heads_.size(); ++k) {
        const std::size_t a = heads_[k].start, far = a > start ? a - start : start - a;
        if (far < nearest) {
            nearest = far;
            best = k;
        }
    }
    return best;
}

std::size_t Reader::headOf(const Row& row, std::size_t cell) const {
    if (headsBySign_ || row.cells.size() == heads_.size())
        return cell;
    const std::size_t best = nearestHead(row.cells[cell].start);
    // further right than any head: what stands beside the table
    return !heads_.empty() && row.cells[cell].start > heads_.back().start + 8 ? heads_.size() : best;
}

// One filter: its type, frequency, gain and width in columns of their own.
void Reader::filterRow(std::vector<Run>& said, const Run& rest, const WayRef& way, std::size_t wayColumn) {
    Run run;
    std::optional<Means> key = Means::bell;
    const auto add = [&](std::size_t h, Unit unit) {
        if (signOnly(said[h])) {
            use(said[h]);
            return;
        }
        give(said[h], unit);
        for (auto* i : said[h])
            run.push_back(i);
    };
    for (std::size_t h = 0; h < heads_.size(); ++h)
        if (heads_[h].role == Means::number || (heads_[h].role == Means::filter && h != wayColumn && !heads_[h].key))
            use(said[h]);
    const auto isKey = [](const Item* i) { return keyOf(*i).has_value(); };
    bool typed = false;
    for (std::size_t h = 0; h < heads_.size(); ++h)
        if (heads_[h].role == Means::type ||
            (heads_[h].role == Means::filter && h != wayColumn && std::any_of(said[h].begin(), said[h].end(), isKey))) {
            typed = std::any_of(said[h].begin(), said[h].end(), isKey);
            add(h, Unit::none);
        }
    if (typed)
        key.reset();
    for (std::size_t h = 0; h < heads_.size(); ++h)
        if (heads_[h].role == Means::frequency)
            add(h, heads_[h].unit);
    for (std::size_t h = 0; h < heads_.size(); ++h)
        if (heads_[h].key == Means::level)
            add(h, Unit::db);
    for (std::size_t h = 0; h < heads_.size(); ++h)
        if (heads_[h].role == Means::width && !heads_[h].key) {
            const bool octaves = heads_[h].unit == Unit::octaves;
            add(h, octaves ? Unit::octaves : heads_[h].widthIsQ ? Unit::quality : Unit::none);
        }
    for (std::size_t h = 0; h < heads_.size(); ++h)
        if (heads_[h].role == Means::slope || heads_[h].role == Means::state)
            add(h, heads_[h].role == Means::slope ? Unit::slope : Unit::none);
    for (auto* i : rest)
        run.push_back(i);
    facts_.read(run, {way, key, {}});
}

// One way: columns of one key together are one fact.
void Reader::wayRow(std::vector<Run>& said, const WayRef& way, std::size_t wayColumn) {
    for (std::size_t h = 0; h < heads_.size(); ++h) {
        if (h == wayColumn || !heads_[h].key || said[h].empty())
            continue;
        const Means key = *heads_[h].key;
        Run run;
        bool rested = false;
        for (std::size_t k = h; k < heads_.size(); ++k) {
            if (heads_[k].key != key || heads_[k].index != heads_[h].index || (k > h && !heads_[k].role))
                continue;
            Unit unit = heads_[k].unit;
            if (heads_[k].role == Means::slope && unit == Unit::none)
                unit = Unit::slope;
            if (unit == Unit::db && heads_[k].role == Means::slope)
                unit = Unit::slope;
            if (heads_[k].role == Means::level)
                unit = Unit::db;
            if (heads_[k].role == Means::width && unit == Unit::none && heads_[k].widthIsQ)
                unit = Unit::quality;
            if (signOnly(said[k]) && key != Means::polarity) {
                rested = rested || k == h;
                if (k == h)
                    off(said[k], key);
                use(said[k]);
            } else {
                give(said[k], unit);
                for (auto* i : said[k])
                    run.push_back(i);
            }
            if (k > h)
                said[k].clear();
        }
        if (!rested && !run.empty())
            facts_.read(run, {way, key, {}, heads_[h].less});
    }
}

// Without cells: numbers in the order of the heads, words for ways and types wherever they stand.
bool Reader::rowOfSequence() {
    Row& row = rows_[at_];
    Run all = joined(row);
    const auto numbers = std::count_if(all.begin(), all.end(), [](const Item* i) { return i->is == Item::Is::number; });
    std::vector<std::size_t> order;
    for (std::size_t h = 0; h < heads_.size(); ++h)
        if (heads_[h].role == Means::frequency || heads_[h].role == Means::width || heads_[h].key == Means::level ||
            heads_[h].role == Means::number)
            order.push_back(h);
    if (numbers == 0 || static_cast<std::size_t>(numbers) > order.size() ||
        numbers + 1 < static_cast<std::ptrdiff_t>(order.size()))
        return false;
    if (std::any_of(all.begin(), all.end(), [](const Item* i) { return i->is == Item::Is::word && i->means.none(); }))
        return false;
    ++rowsOfTable_;
    WayRef way = where_;
    std::optional<Means> key = Means::bell;
    Run run;
    std::size_t next = 0;
    for (auto* i : all) {
        if (const auto w = wayOf(*i); w && !keyOf(*i)) {
            way = *w;
            i->used = true;
            continue;
        }
        if (i->is == Item::Is::number && next < order.size()) {
            const Head& h = heads_[order[next++]];
            if (h.role == Means::number) {
                i->used = true;
                continue;
            }
            if (i->unit == Unit::none && h.role == Means::frequency)
                i->unit = h.unit == Unit::none ? Unit::none : Unit::hz;
            if (i->unit == Unit::none && h.key == Means::level)
                i->unit = Unit::db;
            if (i->unit == Unit::none && h.role == Means::width)
                i->unit = h.unit == Unit::octaves ? Unit::octaves : h.widthIsQ ? Unit::quality : Unit::none;
        }
        if (keyOf(*i))
            key.reset();
        run.push_back(i);
    }
    facts_.read(run, {way, key, {}});
    ++at_;
    return true;
}

} // namespace loom::loudspeaker::sheet
