#include "loudspeaker/sheet/layout.h"
#include "loudspeaker/sheet/reader.h"
#include <algorithm>
#include <map>

namespace loom::loudspeaker::sheet {

Reader::Reader(Sheet& sheet, const Lexicon& lexicon, std::size_t from, std::size_t to) : sheet_(sheet), facts_(sheet) {
    std::vector<Letters> lines;
    for (std::size_t n = from; n < std::min(to, sheet.lines.size()); ++n)
        lines.push_back(lettersOf(sheet.lines[n], n));
    lexer_ = std::make_unique<Lexer>(lexicon, writingOf(lines));
    rows_ = rowsOf(lines);
    for (auto& row : rows_)
        row.line += from;
    for (auto& row : rows_)
        for (auto& cell : row.cells)
            cell.items = lexer_->itemsOf(cell.letters);
}

void Reader::read() {
    driverSays();
    languageSays();
    twoWaysSay();
    for (const auto& row : rows_)
        asSheetSays(joined(row));
    sheetSays();
    for (at_ = 0; at_ < rows_.size();) {
        if (rows_[at_].merged) {
            ++at_;
            continue;
        }
        if (rows_[at_].empty()) {
            if (rowsOfTable_ > 0) {
                columns_.clear();
                heads_.clear();
            }
            rowsOfTable_ = 0;
            carried_.reset();
            hung_ = {};
            closeSettings();
            ++at_;
            continue;
        }
        if (footnote() || (ownWay(joined(rows_[at_])) && rows_[at_].cells.size() == 1 && section()) || settings())
            continue;
        if (columns_.empty() || columnStarts_.empty())
            closeSettings();
        if (oneCellALine() || waysHead() || namedColumns() || fieldsHead() || section())
            continue;
        if (!columns_.empty() && rowOfColumns())
            continue;
        if (!heads_.empty() && rowOfHeads())
            continue;
        closeSettings();
        plain();
    }
    closeSettings();
    if (facts_.factsBeforeWays())
        waysToExpect = facts_.ways();
    facts_.settle();
    unread();
}

// A line that begins with a raised figure says how something was measured.
bool Reader::footnote() {
    const std::string& line = sheet_.lines[rows_[at_].line];
    const auto at = line.find_first_not_of(" \t");
    const auto begins = [&](const char* mark) { return at != std::string::npos && line.compare(at, 2, mark) == 0; };
    if (!begins("\u00b9") && !begins("\u00b2") && !begins("\u00b3") &&
        !(at != std::string::npos && (line.compare(at, 2, "\xe2\x81") == 0 || line.compare(at, 3, "\u2020") == 0)))
        return false;
    use(rows_[at_].cells);
    ++at_;
    return true;
}

WayRef Reader::namedWay(const std::string& name) {
    auto it = std::find(names_.begin(), names_.end(), name);
    if (it == names_.end())
        it = names_.insert(names_.end(), name);
    return {namedRank + static_cast<int>(it - names_.begin()), name};
}

std::optional<WayRef> Reader::ownWay(const Run& run) const {
    std::size_t i = 0;
    auto way = numberedWay(run, i);
    if (!way || i + 2 >= run.size() || run[i]->text != "of" || run[i + 1]->is != Item::Is::number ||
        !run[i + 2]->is_(":"))
        return {};
    const std::size_t first = i + 3;
    if (first >= run.size())
        return way;
    const auto& line = sheet_.lines[run[first]->line];
    std::string name = line.substr(run[first]->from, run.back()->to - run[first]->from);
    if (line.front() == '"') // a quoted cell has its quotes twice
        for (std::size_t at = 0; (at = name.find("\"\"", at)) != std::string::npos; ++at)
            name.erase(at, 1);
    return WayRef{way->rank, name};
}

// A line that names a way and nothing else.
bool Reader::section() {
    Row& row = rows_[at_];
    Run run = joined(row);
    if (const auto own = ownWay(run)) {
        use(run);
        facts_.numbersHold = true;
        where_ = *own;
        columns_.clear();
        heads_.clear();
        ++at_;
        return true;
    }
    std::optional<WayRef> way;
    bool whole = false;
    int brackets = 0, names = 0;
    for (std::size_t i = 0; i < run.size(); ++i) {
        Item& one = *run[i];
        if (one.is == Item::Is::sign) {
            brackets += one.is_("(") ? 1 : one.is_(")") ? -1 : 0;
            if (one.is_(":") && i + 1 < run.size())
                return false;
            continue;
        }
        if (brackets > 0 && way && !keyOf(one) && one.unit == Unit::none && !wayOf(one))
            continue; // "Output A - SUB (Kelp 18)"
        if (one.has(Means::whole) && !way) {
            way = WayRef{};
            whole = true;
            continue;
        }
        if (std::size_t k = i; true)
            if (const auto n = numberedWay(run, k)) {
                if (!way)
                    way = n;
                i = k - 1;
                continue;
            }
        if (const auto w = wayOf(one); w && (!way || way->rank >= 100)) {
            way = w;
            continue;
        }
        if (one.has(Means::filler) || one.any({Means::driver, Means::way, Means::filter}))
            continue;
        if (way && way->rank >= 100 && i >= 2 && one.is == Item::Is::word && one.means.none() && ++names <= 2)
            continue; // "Output B - FULLRANGE"
        // <output id="1" name="Woofer">
        if (run.front()->is_("<") && (one.has(Means::name) || one.text == "id" ||
                                      (one.is == Item::Is::number && one.whole && one.unit == Unit::none)))
            continue;
        return false;
    }
    if (!way)
        return false;
    use(run);
    where_ = *way;
    facts_.ofTheWhole = whole;
    columns_.clear();
    heads_.clear();
    ++at_;
    return true;
}

// The ways that a line names before its first value; none if their number is not that of the values.
std::vector<WayRef> Reader::waysBeforeValues(const Run& run) {
    std::vector<WayRef> told;
    std::vector<Item*> words;
    std::size_t i = 0;
    for (; i < run.size() && !(run[i]->is == Item::Is::number && !run[i]->glued); ++i)
        if (const auto way = wayOf(*run[i]); way && !keyOf(*run[i])) {
            told.push_back(*way);
            words.push_back(run[i]);
        }
    const auto values =
        static_cast<std::size_t>(std::count_if(run.begin() + static_cast<std::ptrdiff_t>(i), run.end(),
                                               [](const Item* v) { return v->is == Item::Is::number; }));
    if (told.size() != values)
        return {};
    for (auto* word : words)
        word->used = true;
    return told;
}

// Two columns of a page in one line, "label  value     label  value": the second becomes a row of its own.
void Reader::partColumns() {
    const auto label = [](const Run& run) {
        return !hasUnits(run) &&
               std::any_of(run.begin(), run.end(), [](const Item* i) { return keyOf(*i).has_value(); });
    };
    const auto way = [](const Run& run) {
        return std::any_of(run.begin(), run.end(), [](const Item* i) { return wayOf(*i) && !keyOf(*i); });
    };
    auto& cells = rows_[at_].cells;
    if (rows_[at_].parted != Row::Parted::blanks || (cells.size() != 4 && cells.size() != 3))
        return;
    const std::size_t from = cells.size() - 2;
    const bool other =
        std::any_of(cells[0].items.begin(), cells[0].items.end(), [](const Item* i) { return i->has(Means::ignored); });
    // "ELECTRICAL     HF delay   0.09 ms": a heading beside it
    const bool heading = from == 1 && !hasNumbers(cells[0].items) && !label(cells[0].items) && !way(cells[0].items);
    const bool list = from == 2 && (label(cells[0].items) || other) && hasNumbers(cells[1].items) &&
                      (!way(cells[0].items) || way(cells[2].items));
    if (!label(cells[from].items) || label(cells[from + 1].items) || !(list || (heading && way(cells[1].items))))
        return;
    Row right;
    right.line = rows_[at_].line;
    right.parted = Row::Parted::blanks;
    right.cells.assign(cells.begin() + static_cast<std::ptrdiff_t>(from), cells.end());
    cells.resize(from);
    rows_.insert(rows_.begin() + static_cast<std::ptrdiff_t>(at_) + 1, std::move(right));
}

// Behind the last row of a paragraph that begins at `from`: long lines, none of which a full stop or colon ends, and
// what is left over at its end; together they are sentences. `from`: there is none.
std::size_t Reader::paragraphEnds(std::size_t from) const {
    constexpr std::size_t full = 45, most = 40; // letters, rows
    Run all;
    std::size_t n = from;
    for (bool goesOn = true; goesOn && n < std::min(rows_.size(), from + most); ++n) {
        const Row& row = rows_[n];
        if (row.empty() || row.merged || row.parted != Row::Parted::none)
            break;
        const Run run = joined(row);
        const std::string& line = sheet_.lines[row.line];
        const auto first = line.find_first_not_of(" \t");
        const bool item = first != std::string::npos && std::string_view("-*#").find(line[first]) != std::string::npos;
        if (run.empty() || (item && n > from))
            break;
        std::size_t words = 0;
        while (words < run.size() && run[words]->is == Item::Is::word && words < 4)
            ++words;
        if (n > from && words < run.size() && words > 0 && (run[words]->is_(":") || run[words]->is_("=")))
            break; // a label
        if (line.find("...") != std::string::npos || line.find(". . .") != std::string::npos)
            break; // leaders
        if (n == from + 1 && !hasNumbers(all) && (keyOf(*run.front()) || wayOf(*run.front())))
            break; // a title, and a list below it
        all.insert(all.end(), run.begin(), run.end());
        goesOn = line.size() >= full && (n > from || !run.back()->is_(":"));
    }
    return n > from + 1 && sentence(all) ? n : from;
}

// "Peak power LF 200 W HF 35 W", "EQ sub 40 Hz +3 dB": a way's word stands before what is of it, and what is said of
// all before the first.
bool Reader::wayBeforeValues(const Run& run) {
    std::vector<std::size_t> at;
    bool key = false;
    const auto value = [](const Item& one) {
        return (one.is == Item::Is::number && !one.glued) || one.is_("+") || one.is_("-") ||
               one.any({Means::inverted, Means::normal, Means::off});
    };
    for (std::size_t i = 0; i < run.size(); ++i) {
        const Item& one = *run[i];
        if (one.has(Means::crossover) || one.is_(":") || one.is_("="))
            return false;
        if (wayOf(one) && !keyOf(one))
            at.push_back(i);
        else if (at.empty() && keyOf(one) && !one.any({Means::name, Means::maker, Means::driver, Means::compression}))
            key = true;
        else if (at.empty() && value(one) && one.unit != Unit::none)
            return false;
    }
    if (!key || at.empty())
        return false;
    for (std::size_t k = 0; k < at.size(); ++k) {
        const std::size_t end = k + 1 < at.size() ? at[k + 1] : run.size();
        if (std::none_of(run.begin() + static_cast<std::ptrdiff_t>(at[k]),
                         run.begin() + static_cast<std::ptrdiff_t>(end), [&](const Item* i) { return value(*i); }))
            return false;
    }
    for (std::size_t k = 0; k < at.size(); ++k) {
        const std::size_t end = k + 1 < at.size() ? at[k + 1] : run.size();
        Run part(run.begin(), run.begin() + static_cast<std::ptrdiff_t>(at[0]));
        part.insert(part.end(), run.begin() + static_cast<std::ptrdiff_t>(at[k]) + 1,
                    run.begin() + static_cast<std::ptrdiff_t>(end));
        run[at[k]]->used = true;
        facts_.read(part, {*wayOf(*run[at[k]]), {}, {}});
    }
    return true;
}

void Reader::plain() {
    partColumns();
    Row& row = rows_[at_];
    Run run = joined(row);
    ++at_;
    const std::size_t ends = paragraphEnds(at_ - 1);
    if (ends > at_ || (sentence(run) && !(row.parted == Row::Parted::blanks && row.cells.size() > 2))) {
        if (ends > at_) { // read anew as one line: a number's unit may stand in the next
            Letters all;
            for (std::size_t n = at_ - 1; n < ends; ++n)
                for (const auto& cell : rows_[n].cells) {
                    all.insert(all.end(), cell.letters.begin(), cell.letters.end());
                    if (!cell.letters.empty()) {
                        all.push_back(cell.letters.back());
                        all.back().c = ' ';
                    }
                }
            at_ = ends;
            run = lexer_->itemsOf(all);
            asSheetSays(run);
        }
        // The sentences of the lines that follow belong to it.
        while (at_ < rows_.size() && !rows_[at_].empty() && !rows_[at_].merged) {
            const Run more = joined(rows_[at_]);
            if (at_ >= ends && !sentence(more))
                break;
            run.insert(run.end(), more.begin(), more.end());
            ++at_;
        }
        Facts::Where w{where_, {}, {}};
        facts_.readSentences(run, w);
        return;
    }
    // "CH1 KELP-12 LF | HP BW24 50": the first cell says whose the others are.
    if (row.parted == Row::Parted::sign && row.cells.size() >= 3 && !hasUnits(row.cells[0].items) &&
        std::none_of(row.cells[0].items.begin(), row.cells[0].items.end(), [](const Item* i) { return keyOf(*i); })) {
        const auto& first = row.cells[0].items;
        std::size_t k = 0;
        std::optional<WayRef> whose = numberedWay(first, k);
        for (const auto* i : first)
            if (const auto w = wayOf(*i); w && (!whose || whose->rank >= 100))
                whose = w;
        if (whose) {
            use(row.cells[0].items);
            run.erase(run.begin(), run.begin() + static_cast<std::ptrdiff_t>(first.size()));
            facts_.read(run, {*whose, {}, {}});
            return;
        }
    }
    // "HF: delay 0.26 ms", "SUB  HP 30", "[Bass] Low cut": of that way.
    WayRef way = where_;
    std::size_t from = 0;
    while (from < run.size() && run[from]->is == Item::Is::sign && (run[from]->is_("[") || run[from]->is_("*")))
        ++from;
    bool begins = false, bracket = from > 0;
    // "Output 2 (Low/Mid): Level -1.5 dB, ...": of that way, and so are the lines below.
    if (std::size_t k = from; const auto numbered = numberedWay(run, k)) {
        WayRef named = *numbered;
        std::size_t end = k;
        while (end < run.size() && !run[end]->is_(":") && run[end]->is != Item::Is::number && end < k + 8) {
            if (const auto w = wayOf(*run[end]); w && !keyOf(*run[end]) && named.rank >= 100)
                named = *w;
            ++end;
        }
        const bool parted = end < run.size() && run[end]->is_(":") && end + 1 < run.size();
        const bool words = std::all_of(
            run.begin() + static_cast<std::ptrdiff_t>(k), run.begin() + static_cast<std::ptrdiff_t>(end),
            [](const Item* i) {
                return i->is == Item::Is::sign || (wayOf(*i) && !keyOf(*i)) || i->any({Means::filler, Means::driver});
            });
        if (parted && words) {
            where_ = way = named;
            begins = true;
            for (std::size_t n = from; n <= end; ++n)
                run[n]->used = true;
            from = end + 1;
        }
    }
    // "Main output: ...", and later "Main EQ: ...": a way that the sheet calls so
    if (!begins && from + 2 < run.size() && run[from]->is == Item::Is::word && run[from]->means.none()) {
        const auto& name = run[from]->text;
        const bool known = std::find(names_.begin(), names_.end(), name) != names_.end();
        const bool output = run[from + 1]->has(Means::way) && run[from + 2]->is_(":");
        if (output || (known && keyOf(*run[from + 1]))) {
            way = namedWay(name);
            begins = run[from]->used = true;
            ++from;
        }
    }
    if (!begins && from < run.size())
        if (const auto w = wayOf(*run[from]); w && !keyOf(*run[from]) && from + 1 < run.size()) {
            const Item& next = *run[from + 1];
            begins = next.is_(":") || next.is_("]") || keyOf(next) || next.gap ||
                     (next.is == Item::Is::number && next.unit != Unit::none);
            if (begins) {
                way = *w;
                run[from]->used = true;
                hung_ = way;
                hungFrom_ = row.indent();
                if (bracket || next.is_("]") || (next.gap && run.size() > from + 6))
                    where_ = way;
                ++from;
            }
        }
    if (!begins) {
        from = 0;
        if (hung_.rank > 0 && row.indent() > hungFrom_)
            way = hung_;
        else
            hung_ = {};
    }
    run.erase(run.begin(), run.begin() + static_cast<std::ptrdiff_t>(from));
    // "Level, horn: -9 dB": the label names it.
    if (!begins) {
        std::optional<WayRef> named;
        std::size_t ends = 0, ways = 0, keys = 0;
        while (ends < run.size() && !run[ends]->is_(":") && !run[ends]->is_("=") && run[ends]->is != Item::Is::number) {
            if (const auto w = wayOf(*run[ends]); w && !keyOf(*run[ends])) {
                named = w;
                ++ways;
            }
            keys += keyOf(*run[ends]).has_value();
            ++ends;
        }
        if (ways == 1 && keys > 0 && ends < run.size() && (run[ends]->is_(":") || run[ends]->is_("="))) {
            way = *named;
            begins = true;
            for (std::size_t i = 0; i < ends; ++i)
                run[i]->used = run[i]->used || wayOf(*run[i]).has_value();
        }
    }
    if (!begins && wayBeforeValues(run))
        return;
    std::optional<Means> key;
    std::size_t first = 0;
    while (first < run.size() && run[first]->is == Item::Is::sign)
        ++first;
    const bool bare = first < run.size() && (run[first]->is == Item::Is::number ||
                                             (run[first]->has(Means::frequency) && !keyOf(*run[first])));
    if (bare && carried_) {
        key = carried_;
        if (carriedWay_.rank > 0 && !begins)
            way = carriedWay_;
        if (!isEqualiser(*carried_))
            carried_.reset();
    }
    std::vector<WayRef> list = !begins ? order_ : std::vector<WayRef>{};
    if (columns_.empty() && list.size() < 2 && facts_.ways().size() >= 2 && way.rank == 0)
        list = facts_.ways();
    if (!columns_.empty())
        list = columns_;
    // What parts two ways is of both, in whatever section it stands.
    const bool crossing = key == Means::crossover ||
                          std::any_of(run.begin(), run.end(), [](const Item* i) { return i->has(Means::crossover); });
    if (crossing && !begins && facts_.ways().size() == 2) {
        list = facts_.ways();
        way = {};
    }
    // What protects is of the lowest way, in whatever section it stands.
    bool protects = false;
    for (const auto* i : run)
        for (const char* word : {"protective", "subsonic", "rumble", "trittschall"})
            protects = protects || (i->has(Means::highPass) && i->text.starts_with(word));
    if (protects && !begins && facts_.ways().size() >= 2)
        way = facts_.ways().front();
    // "Impedance: 8 ohms / 4 ohms" below the last way's section: one a way.
    if (!begins && where_.rank > 0 && way == where_ && facts_.ways().size() >= 2) {
        std::size_t values = 0;
        bool alike = true, parted = true;
        Unit unit = Unit::none;
        for (std::size_t i = 0; i < run.size(); ++i)
            if (run[i]->is == Item::Is::number) {
                alike = alike && (unit == Unit::none || unit == run[i]->unit);
                parted = parted && (values == 0 || run[i - 1]->is_("/"));
                unit = run[i]->unit;
                ++values;
            } else if (values > 0 && !run[i]->is_("/")) {
                alike = false; // "280 W AES / 1120 W peak"
            }
        const bool electric = unit == Unit::ohm || unit == Unit::watt;
        if (values == facts_.ways().size() && alike && parted && electric) {
            list = facts_.ways();
            way = {};
        }
    }
    // "Impedance (bass / mid / treble): 4 / 8 / 8 ohms"
    if (const auto told = waysBeforeValues(run); told.size() >= 2) {
        list = told;
        way = {};
    }
    const std::size_t before = sheet_.fields.size();
    facts_.read(run, {way, key, way.rank == 0 ? list : std::vector<WayRef>{}});
    const bool heading = sheet_.fields.size() == before && !begins && run.size() <= 8 && row.cells.size() <= 2 &&
                         !hasUnits(run) && !run.empty() && run.front()->is == Item::Is::word &&
                         std::none_of(run.begin(), run.end(), [](const Item* i) { return keyOf(*i) || i->is_(":"); });
    if (heading && facts_.blocks.size() < 10000)
        facts_.blocks.push_back(
            sheet_.lines[run.front()->line].substr(run.front()->from, run.back()->to - run.front()->from));
    // A label with nothing behind it is that of the lines below.
    if (!run.empty() && !hasUnits(run) && run.size() <= 10) {
        carried_.reset();
        carriedWay_ = begins || protects ? way : WayRef{};
        for (const auto* i : run)
            if (const auto k = keyOf(*i); k && !carried_ && *k != Means::ignored && *k != Means::name &&
                                          *k != Means::maker && !isLimit(*k) && i->text.size() > 1)
                carried_ = k;
    }
}

void Reader::unread() {
    std::vector<const Item*> all;
    for (const auto& i : lexer_->all())
        all.push_back(&i);
    std::stable_sort(all.begin(), all.end(), [](const Item* a, const Item* b) {
        return std::pair(a->line, a->from) < std::pair(b->line, b->from);
    });
    std::map<std::pair<std::size_t, std::size_t>, bool> used; // the same place may have been looked at twice
    for (const auto* i : all) {
        auto& u = used[{i->line, i->from}];
        u = u || i->used || i->is == Item::Is::sign || i->has(Means::filler);
    }
    SheetSpan open;
    bool any = false;
    const auto close = [&] {
        if (any && open.to > open.from)
            sheet_.unread.push_back(open);
        any = false;
    };
    for (const auto* i : all) {
        if (used[{i->line, i->from}] || i->to <= i->from) {
            if (any && i->line == open.line && (i->is == Item::Is::sign || i->has(Means::filler)))
                continue;
            close();
            continue;
        }
        if (any && (open.line != i->line || i->gap))
            close();
        if (!any) {
            open = {i->line, i->from, i->to};
            any = true;
        }
        open.to = std::max(open.to, i->to);
    }
    close();
}

void readLayout(Sheet& sheet, const Lexicon& lexicon, std::size_t from, std::size_t to) {
    const Sheet untouched = sheet;
    Reader first(sheet, lexicon, from, to);
    first.read();
    // A crossing that stands before its ways is read once more, now that they are known.
    constexpr std::size_t manyLines = 2000;
    if (first.waysToExpect.empty() || to - from > manyLines)
        return;
    sheet = untouched;
    Reader again(sheet, lexicon, from, to);
    again.expect(first.waysToExpect);
    again.read();
}

} // namespace loom::loudspeaker::sheet
