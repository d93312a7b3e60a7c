// Tables whose columns are ways.
#include "loudspeaker/sheet/reader.h"
#include <algorithm>
#include <utility>

namespace loom::loudspeaker::sheet {

bool Reader::waysHead() {
    Row& row = rows_[at_];
    std::vector<WayRef> ways;
    std::vector<std::size_t> starts, others;
    if (row.cells.size() == 1 && row.parted == Row::Parted::none) { // "Low frequency High frequency"
        for (const auto* one : row.cells[0].items) {
            if (const auto w = wayOf(*one))
                ways.push_back(*w);
            else if (!one->has(Means::filler) && one->is != Item::Is::sign && !one->has(Means::way))
                return false;
        }
        if (ways.size() < 2)
            return false;
    } else {
        for (std::size_t c = 0; c < row.cells.size(); ++c) {
            if (row.cells[c].items.empty())
                continue;
            if (const Item* last = row.cells[c].items.back();
                row.cells[c].items.size() > 1 && (last->is_("+") || last->is_("-")))
                return false; // "Polarity  low +  high -"
            if (const auto own = ownWay(row.cells[c].items)) {
                facts_.numbersHold = true;
                ways.push_back(*own);
                starts.push_back(row.parted == Row::Parted::sign ? c : row.cells[c].start);
            } else if (const auto w = wayCell(row.cells[c].items)) {
                ways.push_back(*w);
                starts.push_back(row.parted == Row::Parted::sign ? c : row.cells[c].start);
            } else if (c > 0) { // the first may be a label, the last for units or remarks
                if (hasNumbers(row.cells[c].items) || row.cells[c].letters.size() > 24 || ways.size() < 2)
                    return false;
                others.push_back(row.parted == Row::Parted::sign ? c : row.cells[c].start);
            }
        }
        if (others.size() > 2)
            return false;
        const auto numbered = std::count_if(ways.begin(), ways.end(), [](const WayRef& w) { return w.rank >= 100; });
        const bool own = ways.size() == 1 && row.cells.size() == 2 && ownWay(row.cells[1].items);
        if ((ways.size() < 2 && !own) || (numbered > 0 && numbered < static_cast<std::ptrdiff_t>(ways.size())))
            return false; // "[OUT A]  SUB" is one
    }
    std::size_t n = 0;
    for (auto& c : row.cells) { // "HF (1.4" CD)"
        for (auto* i : c.items)
            if (i->has(Means::compression) && n < ways.size() && wayCell(c.items))
                facts_.read({i}, {ways[n], {}, {}});
        n += wayCell(c.items).has_value();
        use(c.items);
    }
    columns_ = ways;
    columnStarts_ = starts;
    otherStarts_ = others;
    columnsBySign_ = row.parted == Row::Parted::sign;
    heads_.clear();
    where_ = {};
    rowsOfTable_ = 0;
    order_ = ways;
    std::stable_sort(order_.begin(), order_.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
    ++at_;
    return true;
}

// "Parameter | Main | Fill": columns that are called as no way is, above rows that begin with a word for a fact.
bool Reader::namedColumns() {
    Row& row = rows_[at_];
    if (row.cells.size() < 2 || row.parted == Row::Parted::none)
        return false;
    // The labels' column may have no head.
    std::size_t below = at_ + 1; // a line may be drawn between
    if (below < rows_.size() && rows_[below].empty())
        ++below;
    const bool bare = row.parted == Row::Parted::blanks && below < rows_.size() &&
                      rows_[below].cells.size() == row.cells.size() + 1 && row.indent() > rows_[below].indent() + 4;
    if (row.cells.size() < 3 && !bare)
        return false;
    const auto begins = [](const Row& r) {
        return !r.cells.empty() && std::any_of(r.cells[0].items.begin(), r.cells[0].items.end(),
                                               [](const Item* i) { return keyOf(*i).has_value(); });
    };
    const bool model = begins(row) && std::any_of(row.cells[0].items.begin(), row.cells[0].items.end(),
                                                  [](const Item* i) { return i->has(Means::name); });
    if (hasUnits(row.cells[0].items) || (begins(row) && !model) || (bare && model))
        return false;
    std::vector<WayRef> ways;
    std::vector<std::size_t> starts;
    for (std::size_t c = bare ? 0 : 1; c < row.cells.size(); ++c) {
        const auto& cell = row.cells[c];
        if (cell.items.empty() || cell.letters.size() > 24 || hasUnits(cell.items))
            return false;
        if (const auto way = wayCell(cell.items); way && !model)
            ways.push_back(*way);
        else if (!model && std::any_of(cell.items.begin(), cell.items.end(),
                                       [](const Item* i) { return keyOf(*i) || i->means.has(Means::frequency); }))
            return false; // heads of fields
        else {
            const auto& first = cell.letters.front();
            auto named = namedWay(sheet_.lines[first.line].substr(first.from, cell.letters.back().to - first.from));
            named.rank += model ? productRank - namedRank : 0;
            ways.push_back(named);
        }
        starts.push_back(row.parted == Row::Parted::sign ? c : cell.start);
    }
    // Rows of facts below, with as many values.
    std::size_t next = below, rows = 0;
    for (; next < rows_.size() && rows < 3; ++next) {
        const Row& r = rows_[next];
        if (r.merged || (r.empty() && next == below))
            continue;
        if (r.parted != row.parted || r.cells.size() < 2 || !begins(r))
            break;
        rows += r.cells.size() == row.cells.size() + (bare ? 1 : 0);
    }
    if (rows == 0)
        return false;
    use(row.cells);
    columns_ = order_ = ways;
    columnStarts_ = starts;
    otherStarts_.clear();
    columnsBySign_ = row.parted == Row::Parted::sign;
    heads_.clear();
    where_ = {};
    rowsOfTable_ = 0;
    std::stable_sort(order_.begin(), order_.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
    ++at_;
    return true;
}

std::size_t Reader::columnOf(const Row& row, std::size_t cell) const { // of the ways' table; its number, from 0
    if (columnsBySign_) {
        const auto it = std::find(columnStarts_.begin(), columnStarts_.end(), cell);
        return it == columnStarts_.end() ? columns_.size() : static_cast<std::size_t>(it - columnStarts_.begin());
    }
    const std::size_t b = row.cells[cell].start;
    std::size_t best = columns_.size(), nearest = 1000;
    const auto nearer = [&](std::size_t a) {
        return std::exchange(nearest, std::min(nearest, a > b ? a - b : b - a)) > nearest;
    };
    for (std::size_t k = 0; k < columnStarts_.size(); ++k)
        if (nearer(columnStarts_[k]))
            best = k;
    for (const auto other : otherStarts_)
        if (nearer(other))
            best = columns_.size();
    return best;
}

// More cells than columns: a value's parts stand apart, "88 Hz  +2.5  Q 1.4". Each goes to the last head that begins
// before it.
void Reader::joinCells(Row& row, std::size_t first) const {
    if (columnsBySign_ || !otherStarts_.empty() || row.cells.size() - first <= columns_.size())
        return;
    std::vector<Cell> joined(row.cells.begin(), row.cells.begin() + static_cast<std::ptrdiff_t>(first));
    std::size_t last = columns_.size();
    for (std::size_t c = first; c < row.cells.size(); ++c) {
        auto& cell = row.cells[c];
        std::size_t column = 0;
        while (column + 1 < columnStarts_.size() && columnStarts_[column + 1] <= cell.start + 2)
            ++column;
        if (c > first && column == last) {
            joined.back().items.insert(joined.back().items.end(), cell.items.begin(), cell.items.end());
        } else {
            joined.push_back(std::move(cell));
            joined.back().start = columnStarts_[column];
        }
        last = column;
    }
    row.cells = std::move(joined);
}

// Two lists beside each other: each column has labels of its own.
bool Reader::besideEachOther() {
    Row& row = rows_[at_];
    if (columnsBySign_)
        return false;
    std::vector<std::size_t> begins;
    for (const auto start : columnStarts_)
        for (std::size_t c = 0; c < row.cells.size(); ++c)
            if (row.cells[c].start + 1 >= start && row.cells[c].start <= start + 1 && !row.cells[c].items.empty() &&
                keyOf(*row.cells[c].items.front())) {
                begins.push_back(c);
                break;
            }
    if (begins.size() < columnStarts_.size() || begins.size() < 2 || begins.front() != 0)
        return false;
    closeSettings();
    for (std::size_t k = 0; k < begins.size(); ++k) {
        Run run;
        const std::size_t end = k + 1 < begins.size() ? begins[k + 1] : row.cells.size();
        for (std::size_t c = begins[k]; c < end; ++c)
            run.insert(run.end(), row.cells[c].items.begin(), row.cells[c].items.end());
        facts_.read(run, {columns_[k], {}, {}});
    }
    ++at_;
    return true;
}

bool Reader::rowOfColumns() {
    Row& row = rows_[at_];
    ++rowsOfTable_;
    if (columnStarts_.empty()) { // no cells: values stand in the order of the ways
        plain();
        return true;
    }
    if (besideEachOther())
        return true;
    if (row.cells.size() < 2) {
        closeSettings();
        if (row.cells.size() == 1 && hasNumbers(row.cells[0].items)) {
            plain();
            return true;
        }
        ++at_;
        return true;
    }
    const bool labelled = columnOf(row, 0) == columns_.size() ||
                          (!columnsBySign_ && row.cells[0].start + 2 < columnStarts_[0]) || row.cells[0].items.empty();
    // "Spitzenbelastbarkeit 4000 W    440 W": a long label grew together with the first value.
    if (labelled && !columnsBySign_ && row.cells.size() == columns_.size()) {
        auto& items = row.cells[0].items;
        const auto it = std::find_if(items.begin(), items.end(), [](const Item* i) {
            return i->is == Item::Is::number && i->unit != Unit::none && !i->glued;
        });
        if (it != items.end() && it != items.begin() && keyOf(*items.front()) &&
            row.cells[0].letters.size() > columnStarts_[0] - row.cells[0].start) {
            Cell value;
            value.start = columnStarts_[0];
            value.items.assign(it, items.end());
            items.erase(it, items.end());
            row.cells.insert(row.cells.begin() + 1, std::move(value));
        }
    }
    Unit unit = Unit::none;
    std::optional<Means> key;
    std::optional<Label> part;
    if (labelled) {
        part = settingLabel(row.cells[0].items, 0, row.cells[0].items.size());
        if (part && !(part->part && part->key && (isEdge(*part->key) || isEqualiser(*part->key))))
            part.reset();
        if (part) {
            use(row.cells[0].items);
            part->kilo = std::any_of(row.cells[0].items.begin(), row.cells[0].items.end(),
                                     [](const Item* i) { return i->is == Item::Is::word && i->text == "khz"; });
        } else {
            closeSettings();
            key = labelOf(row.cells[0].items, unit);
        }
    }
    const auto& label = row.cells[0].items;
    const bool less = labelled && key == Means::level &&
                      std::any_of(label.begin(), label.end(), [](const Item* i) { return i->has(Means::less); });
    joinCells(row, labelled ? 1 : 0);
    for (std::size_t c = labelled ? 1 : 0; c < row.cells.size(); ++c) // "Unit" may be a column
        if (auto& run = row.cells[c].items;
            columnOf(row, c) == columns_.size() && !run.empty() && unit == Unit::none &&
            std::all_of(run.begin(), run.end(),
                        [](const Item* i) { return i->unit != Unit::none || i->is == Item::Is::sign; }) &&
            !hasNumbers(run)) {
            for (const auto* i : run)
                unit = i->unit != Unit::none ? i->unit : unit;
            use(run);
        }
    for (std::size_t c = labelled ? 1 : 0; c < row.cells.size(); ++c) {
        auto& run = row.cells[c].items;
        // as many cells as columns: in their order, however they are shifted
        const bool counted = !columnsBySign_ && row.cells.size() - (labelled ? 1 : 0) == columns_.size();
        const std::size_t column = counted ? c - (labelled ? 1 : 0) : columnOf(row, c);
        if (column >= columns_.size())
            continue;
        if (part) {
            gather(*part, columns_[column], run);
            continue;
        }
        if (signOnly(run) && key != Means::polarity) {
            off(run, key);
            continue;
        }
        give(run, unit);
        cell(run, columns_[column], key, less);
    }
    ++at_;
    return true;
}

void Reader::off(Run& run, std::optional<Means> key) {
    if (run.empty())
        return;
    use(run);
    if (key && (isEdge(*key) || isEqualiser(*key)))
        sheet_.off.push_back({run.front()->line, run.front()->from, run.back()->to});
}

// A cell under a way: a crossing there is the upper edge of the lowest and the lower one of the highest.
void Reader::cell(const Run& run, const WayRef& way, std::optional<Means> key, bool less) {
    if (key == Means::crossover && order_.size() >= 2) {
        if (way == order_.front())
            key = Means::lowPass;
        else if (way == order_.back())
            key = Means::highPass;
    }
    facts_.read(run, {way, key, {}, less});
}

// "LF", "HF", then a label and as many lines: a table out of a PDF.
bool Reader::oneCellALine() {
    std::vector<WayRef> ways;
    std::size_t n = at_;
    const auto single = [&](std::size_t k) {
        return k < rows_.size() && !rows_[k].merged && rows_[k].cells.size() == 1;
    };
    while (single(n)) {
        const auto w = wayCell(rows_[n].cells[0].items);
        if (!w)
            break;
        ways.push_back(*w);
        ++n;
    }
    if (ways.size() < 2 || !single(n))
        return false;
    const auto label = [&](std::size_t k) {
        if (!single(k))
            return false;
        const auto& run = rows_[k].cells[0].items;
        const bool key = std::any_of(run.begin(), run.end(), [](const Item* i) { return keyOf(*i).has_value(); });
        const bool units = std::any_of(
            run.begin(), run.end(), [](const Item* i) { return i->is == Item::Is::number && i->unit != Unit::none; });
        return key && !units;
    };
    if (!label(n))
        return false;
    for (std::size_t k = at_; k < n; ++k)
        use(rows_[k].cells[0].items);
    order_ = ways;
    std::stable_sort(order_.begin(), order_.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
    while (label(n)) {
        bool there = true;
        for (std::size_t k = 1; k <= ways.size(); ++k)
            there = there && single(n + k);
        if (!there)
            break;
        Unit unit = Unit::none;
        const auto key = labelOf(rows_[n].cells[0].items, unit);
        for (std::size_t k = 0; k < ways.size(); ++k) {
            auto& run = rows_[n + 1 + k].cells[0].items;
            if (signOnly(run) && key != Means::polarity) {
                off(run, key);
                continue;
            }
            give(run, unit);
            cell(run, ways[k], key);
        }
        n += ways.size() + 1;
    }
    at_ = n;
    return true;
}

} // namespace loom::loudspeaker::sheet
