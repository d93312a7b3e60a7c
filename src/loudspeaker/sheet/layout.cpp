#include "loudspeaker/sheet/layout.h"
#include <algorithm>
#include <array>
#include <map>
#include <memory>

namespace loom::loudspeaker::sheet {
namespace {

struct Cell {
    Letters letters{};
    std::size_t start = 0; // letters from the beginning of the line
    Run items{};
};

struct Row {
    enum class Parted { none, blanks, sign } parted = Parted::none;
    std::size_t line = 0;
    std::vector<Cell> cells{}; // empty ones of sign-parted rows included
    bool merged = false;       // it went into another row
    bool empty() const {
        return std::all_of(cells.begin(), cells.end(), [](const Cell& c) { return c.letters.empty(); });
    }
    std::size_t indent() const { return cells.empty() ? 0 : cells.front().start; }
};

void trim(Letters& l, std::size_t& start) {
    const auto blank = [](const Letter& one) { return one.c == ' ' || one.c == '\t'; };
    const auto first = std::find_if_not(l.begin(), l.end(), blank);
    start += static_cast<std::size_t>(first - l.begin());
    l.erase(l.begin(), first);
    while (!l.empty() && blank(l.back()))
        l.pop_back();
}

std::vector<Cell> split(const Letters& line, char sign) {
    std::vector<Cell> cells(1);
    bool quoted = false;
    for (std::size_t i = 0; i < line.size(); ++i) {
        if (line[i].c == '"' && sign == ',') {
            quoted = !quoted;
            continue;
        }
        if (line[i].c == sign && !quoted) {
            cells.emplace_back();
            cells.back().start = i + 1;
        } else {
            cells.back().letters.push_back(line[i]);
        }
    }
    for (auto& c : cells)
        trim(c.letters, c.start);
    return cells;
}

std::vector<Cell> splitAtBlanks(const Letters& line) {
    std::vector<Cell> cells;
    for (std::size_t i = 0; i < line.size();) {
        if (line[i].c == ' ') {
            ++i;
            continue;
        }
        Cell c;
        c.start = i;
        while (i < line.size() && !(line[i].c == ' ' && i + 1 < line.size() && line[i + 1].c == ' '))
            c.letters.push_back(line[i++]);
        std::size_t start = 0;
        trim(c.letters, start);
        cells.push_back(std::move(c));
    }
    return cells;
}

std::size_t countOf(const Letters& l, char c) {
    return static_cast<std::size_t>(std::count_if(l.begin(), l.end(), [c](const Letter& one) { return one.c == c; }));
}

// What a column is about, by its head.
struct Head {
    std::optional<Means> key{};
    std::optional<Means> role{}; // number, type, frequency, width, slope, state, way; of filters also level
    Unit unit = Unit::none;
    bool widthIsQ = false;
    std::size_t start = 0;
};

class Reader {
  public:
    Reader(Sheet& sheet, const Lexicon& lexicon) : sheet_(sheet), facts_(sheet) {
        std::vector<Letters> lines;
        for (std::size_t n = 0; n < sheet.lines.size(); ++n)
            lines.push_back(lettersOf(sheet.lines[n], n));
        lexer_ = std::make_unique<Lexer>(lexicon, writingOf(lines));
        part(lines);
        mend();
        for (auto& row : rows_)
            for (auto& cell : row.cells)
                cell.items = lexer_->itemsOf(cell.letters);
    }
    void read() {
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
                ++at_;
                continue;
            }
            if (paths() || oneCellALine() || waysHead() || fieldsHead() || section())
                continue;
            if (!columns_.empty() && rowOfColumns())
                continue;
            if (!heads_.empty() && rowOfHeads())
                continue;
            plain();
        }
        facts_.settle();
        unread();
    }

  private:
    // ---- parting ----

    void part(const std::vector<Letters>& lines) {
        std::map<std::size_t, int> commas, semicolons; // how many lines have so many
        for (const auto& l : lines) {
            ++commas[countOf(l, ',')];
            ++semicolons[countOf(l, ';')];
        }
        bool framed = true; // every line with a bar begins with one
        for (const auto& l : lines) {
            const auto first = std::find_if_not(l.begin(), l.end(), [](const Letter& one) { return one.c == ' '; });
            framed = framed && (countOf(l, '|') == 0 || first->c == '|');
        }
        for (std::size_t n = 0; n < lines.size(); ++n) {
            const auto& l = lines[n];
            Row row;
            row.line = n;
            const auto neighbour = [&](char sign) { // another line of the same build stands beside it
                for (const std::size_t k : {n - 1, n + 1, n + 2})
                    if (k < lines.size() && k != n && countOf(lines[k], sign) == countOf(l, sign))
                        return true;
                return false;
            };
            const bool quotes = !l.empty() && l.front().c == '"' && countOf(l, '"') >= 4;
            if (countOf(l, '|') > 0)
                row.cells = split(l, '|');
            else if (countOf(l, '\t') > 0)
                row.cells = split(l, '\t');
            else if (quotes)
                row.cells = split(l, ',');
            else if (countOf(l, ';') >= 2 && neighbour(';') && l.back().c != ';' &&
                     headed(l, semicolons[countOf(l, ';')]))
                row.cells = split(l, ';');
            else if (const auto c = countOf(l, ','); c >= 3 && commas[c] >= 3 && splitAtBlanks(l).size() == 1 && csv(l))
                row.cells = split(l, ',');
            if (!row.cells.empty()) {
                row.parted = Row::Parted::sign;
                if (row.cells.size() > 1 && row.cells.front().letters.empty() && framed && countOf(l, '|') > 0)
                    row.cells.erase(row.cells.begin());
                if (row.cells.size() > 1 && row.cells.back().letters.empty() && framed && countOf(l, '|') > 0)
                    row.cells.pop_back();
                if (rule(row))
                    row.cells.clear();
            } else {
                row.cells = splitAtBlanks(l);
                row.parted = row.cells.size() > 1 ? Row::Parted::blanks : Row::Parted::none;
                if (rule(row))
                    row.cells.clear();
            }
            rows_.push_back(std::move(row));
        }
    }
    // A line of dashes between rows: no end of the table.
    static bool rule(const Row& row) {
        bool any = false;
        for (const auto& c : row.cells)
            for (const auto& l : c.letters) {
                if (l.c != '-' && l.c != '=' && l.c != '_' && l.c != '+' && l.c != ':' && l.c != '*' &&
                    l.c != rangeDash && l.c != ' ')
                    return false;
                any = true;
            }
        std::size_t letters = 0;
        for (const auto& c : row.cells)
            letters += c.letters.size();
        return any && letters >= 3 && (row.cells.size() == 1 || letters >= 3 * row.cells.size());
    }
    // "a;b;c" is a table where the number of its parts is that of three lines, and the first part is short.
    static bool headed(const Letters& line, int alike) {
        const auto first = std::find_if(line.begin(), line.end(), [](const Letter& l) { return l.c == ';'; });
        return alike >= 3 && first - line.begin() <= 40;
    }
    static bool csv(const Letters& l) { // no blank behind its commas
        for (std::size_t i = 0; i + 1 < l.size(); ++i)
            if (l[i].c == ',' && l[i + 1].c == ' ')
                return false;
        return true;
    }

    // Cells that go on in the next line: indented below, or parted by a hyphen.
    void mend() {
        for (std::size_t n = 1; n < rows_.size(); ++n) {
            Row& row = rows_[n];
            std::size_t up = n - 1;
            while (up > 0 && rows_[up].merged)
                --up;
            Row& above = rows_[up];
            if (row.empty() || above.cells.size() < 2 || above.parted != Row::Parted::blanks ||
                row.parted == Row::Parted::sign || n - up > 4)
                continue;
            const bool indented =
                row.indent() >= 8 && row.indent() + 3 >= above.cells[1].start && row.cells.size() == 1;
            Cell& first = above.cells.front();
            const bool hyphen = !first.letters.empty() && first.letters.back().c == '-' && row.cells.size() == 1 &&
                                row.indent() == first.start;
            if (!indented && !hyphen)
                continue;
            Cell* to = &first;
            if (indented)
                for (auto& c : above.cells)
                    if (c.start <= row.indent() + 2)
                        to = &c;
            Letters& l = to->letters;
            const char last = l.empty() ? ' ' : l.back().c;
            if (last == '-')
                l.pop_back();
            else if (last != '/')
                for (const auto& b : blanks(l, 1))
                    l.push_back(b);
            for (const auto& one : row.cells.front().letters)
                l.push_back(one);
            row.merged = true;
        }
    }

    // ---- what the sheet says of all its numbers ----

    void sheetSays() {
        for (const auto& row : rows_)
            for (const auto& cell : row.cells) {
                const auto& run = cell.items;
                for (std::size_t i = 0; i < run.size(); ++i) {
                    const Item& one = *run[i];
                    std::size_t k = i + 1;
                    while (k < run.size() && (run[k]->is_("(") || run[k]->is_("/") || run[k]->is_("[") ||
                                              run[k]->text == "in" || run[k]->text == "are" || run[k]->is_(":")))
                        ++k;
                    const Item* next = k < run.size() ? run[k] : nullptr;
                    if (next && next->is == Item::Is::word && next->unit == Unit::hz && one.has(Means::frequency))
                        facts_.said.hertz = next->text == "khz" ? 1000 : 1;
                    if (next && one.has(Means::width) && one.text != "q") {
                        if (next->unit == Unit::octaves)
                            facts_.said.width = 2;
                        else if (next->text == "q")
                            facts_.said.width = 1;
                    }
                    // "(48 kHz)", "processor at 96 kHz"
                    if (one.is == Item::Is::number && one.unit == Unit::hz)
                        for (const double rate : {44100.0, 48000.0, 88200.0, 96000.0, 192000.0})
                            if (one.value == rate && facts_.said.rate == 0)
                                facts_.said.rate = rate;
                }
            }
    }

    // ---- heads ----

    static bool signOnly(const Run& run) {
        return std::all_of(run.begin(), run.end(), [](const Item* i) { return i->is == Item::Is::sign; });
    }
    // A cell that names a way and nothing else but what is in brackets: "LF (2 x 12")".
    static std::optional<WayRef> wayCell(const Run& run) {
        std::optional<WayRef> way;
        int depth = 0;
        for (std::size_t i = 0; i < run.size(); ++i) {
            const Item& one = *run[i];
            depth += one.is_("(") ? 1 : one.is_(")") ? -1 : 0;
            if (depth > 0 || one.is == Item::Is::sign)
                continue;
            if (std::size_t k = i; !way)
                if (const auto numbered = numberedWay(run, k)) {
                    way = numbered;
                    i = k - 1;
                    continue;
                }
            if (const auto w = wayOf(one); w && (!way || way->rank >= 100)) {
                way = w;
                continue;
            }
            if (one.has(Means::filler) || one.has(Means::driver) || one.has(Means::filter) ||
                (one.has(Means::way) && i > 0))
                continue;
            return {};
        }
        return way;
    }
    static bool hasNumbers(const Run& run) {
        return std::any_of(run.begin(), run.end(), [](const Item* i) { return i->is == Item::Is::number; });
    }
    // A head: words for what a column holds, with its unit; nothing else.
    static std::optional<Head> headCell(const Run& run) {
        Head h;
        for (std::size_t i = 0; i < run.size(); ++i) {
            Item& one = *run[i];
            if (one.is == Item::Is::sign)
                continue;
            if (one.is == Item::Is::number) {
                const bool index = one.whole && one.unit == Unit::none && !one.sign && h.key;
                if (!index)
                    return {};
                continue;
            }
            const auto key = keyOf(one);
            if (one.any({Means::compression, Means::cone}))
                return {}; // a value
            if (one.unit != Unit::none && (h.key || h.role) &&
                !(key && !one.has(Means::filler) && one.unit == Unit::none)) {
                h.unit = one.unit;
            } else if (one.any({Means::number, Means::type, Means::frequency, Means::width, Means::slope, Means::state,
                                Means::way, Means::filter}) &&
                       !key) {
                for (const Means role : {Means::type, Means::frequency, Means::slope, Means::width, Means::number,
                                         Means::filter, Means::state, Means::way})
                    if (one.has(role) && !h.role) {
                        h.role = role;
                        h.widthIsQ =
                            role == Means::width && (one.text == "q" || one.text == "gute" || one.text == "guete");
                    }
            } else if (key && *key != Means::ignored && *key != Means::name && *key != Means::maker) {
                const bool qualifies =
                    h.key && (isPower(*key) || *key == Means::leastImpedance || *key == Means::polarity);
                if (!h.key || qualifies || *h.key == Means::crossover)
                    h.key = isPower(*key) && h.key && isPower(*h.key) && *key == Means::power ? h.key : key;
            } else if (one.has(Means::minimum) && h.key == Means::impedance) {
                h.key = Means::leastImpedance;
            } else if (!one.has(Means::filler) && !wayOf(one) &&
                       !one.any({Means::bw, Means::order, Means::per, Means::normal}) && one.unit == Unit::none) {
                return {};
            }
        }
        if (!h.key && !h.role)
            return {};
        return h;
    }
    static void use(Run& run) {
        for (auto* i : run)
            i->used = true;
    }

    bool waysHead() {
        Row& row = rows_[at_];
        std::vector<WayRef> ways;
        std::vector<std::size_t> starts;
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
                if (const auto w = wayCell(row.cells[c].items)) {
                    ways.push_back(*w);
                    starts.push_back(row.parted == Row::Parted::sign ? c : row.cells[c].start);
                } else if (c > 0) {
                    return false; // the first may be a label
                }
            }
            const auto numbered =
                std::count_if(ways.begin(), ways.end(), [](const WayRef& w) { return w.rank >= 100; });
            if (ways.size() < 2 || (numbered > 0 && numbered < static_cast<std::ptrdiff_t>(ways.size())))
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
        columnsBySign_ = row.parted == Row::Parted::sign;
        heads_.clear();
        where_ = {};
        rowsOfTable_ = 0;
        order_ = ways;
        std::stable_sort(order_.begin(), order_.end(), [](const auto& a, const auto& b) { return a.rank < b.rank; });
        ++at_;
        return true;
    }

    bool fieldsHead() {
        Row& row = rows_[at_];
        std::vector<Head> heads;
        if (row.cells.size() == 1 && row.parted == Row::Parted::none) { // "f / Hz gain / dB Q section"
            Head one;
            for (auto* item : row.cells[0].items) {
                if (item->is == Item::Is::sign)
                    continue;
                Run alone{item};
                const auto h = headCell(alone);
                if (item->unit != Unit::none && (one.key || one.role)) {
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
            std::size_t named = 0;
            for (auto& c : row.cells) {
                Head h;
                if (!c.items.empty()) {
                    if (const auto found = headCell(c.items)) {
                        h = *found;
                        ++named;
                    } else if (hasNumbers(c.items) || (&c != &row.cells.front() && !signOnly(c.items))) {
                        return false;
                    }
                }
                h.start = c.start;
                heads.push_back(h);
            }
            if (named < 2 || (named < 3 && row.cells.size() > 2 && named * 2 < row.cells.size()))
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

    // ---- sections ----

    // A line that names a way and nothing else.
    bool section() {
        Row& row = rows_[at_];
        Run run = joined(row);
        std::optional<WayRef> way;
        for (std::size_t i = 0; i < run.size(); ++i) {
            Item& one = *run[i];
            if (one.is == Item::Is::sign)
                continue;
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
            return false;
        }
        if (!way)
            return false;
        use(run);
        where_ = *way;
        columns_.clear();
        heads_.clear();
        ++at_;
        return true;
    }

    // ---- rows ----

    static Run joined(const Row& row) {
        Run run;
        for (const auto& c : row.cells)
            for (std::size_t k = 0; k < c.items.size(); ++k) {
                run.push_back(c.items[k]);
                if (k == 0 && &c != &row.cells.front())
                    run.back()->gap = true;
            }
        return run;
    }

    // What a row is about, by its first cell.
    static std::optional<Means> labelOf(Run& run, Unit& unit) {
        std::optional<Means> key;
        bool watt = false;
        for (std::size_t i = 0; i < run.size(); ++i) {
            Item& one = *run[i];
            if (one.is == Item::Is::number) {
                watt = watt || one.unit == Unit::watt || one.unit == Unit::volt;
                continue;
            }
            if (one.is == Item::Is::sign)
                continue;
            const auto k = keyOf(one);
            if (one.unit != Unit::none && key && one.text.size() <= 8 && !(k && one.unit == Unit::none))
                unit = one.unit;
            if (!k)
                continue;
            if (one.text.size() == 1 && key)
                continue;
            const bool power = key && isPower(*key) && isPower(*k);
            if (!key || (power && (*key == Means::power || *key == Means::otherPower)) || *key == Means::crossover)
                key = k;
            if (one.has(Means::peakPower) && key && (isPower(*key) || *key == Means::bell) && one.text != "peak")
                key = Means::peakPower;
        }
        if (!key)
            for (const auto* one : run)
                if (one->has(Means::filter))
                    key = Means::bell;
        if (key == Means::level && watt)
            key = Means::sensitivity;
        if (key)
            for (auto* one : run)
                one->used = true;
        return key;
    }
    // Bare numbers of a cell whose head or label has the unit.
    static void give(Run& run, Unit unit) {
        if (unit == Unit::none)
            return;
        for (std::size_t i = 0; i < run.size(); ++i)
            if (Item& n = *run[i]; n.is == Item::Is::number && n.unit == Unit::none && !n.ordinal && !n.glued) {
                const bool afterShape =
                    i > 0 && run[i - 1]->any({Means::butterworth, Means::linkwitz, Means::bessel, Means::bw});
                if (afterShape)
                    continue;
                n.unit = unit;
            }
    }

    std::size_t columnOf(const Row& row, std::size_t cell) const { // of the ways' table; its number, from 0
        if (columnsBySign_) {
            const auto it = std::find(columnStarts_.begin(), columnStarts_.end(), cell);
            return it == columnStarts_.end() ? columns_.size() : static_cast<std::size_t>(it - columnStarts_.begin());
        }
        std::size_t best = columns_.size(), nearest = 1000;
        for (std::size_t k = 0; k < columnStarts_.size(); ++k) {
            const std::size_t a = columnStarts_[k], b = row.cells[cell].start, far = a > b ? a - b : b - a;
            if (far < nearest) {
                nearest = far;
                best = k;
            }
        }
        return best;
    }

    bool rowOfColumns() {
        Row& row = rows_[at_];
        ++rowsOfTable_;
        if (columnStarts_.empty()) { // no cells: values stand in the order of the ways
            plain();
            return true;
        }
        if (row.cells.size() < 2) {
            if (row.cells.size() == 1 && hasNumbers(row.cells[0].items)) {
                plain();
                return true;
            }
            ++at_;
            return true;
        }
        const bool labelled = columnOf(row, 0) == columns_.size() ||
                              (!columnsBySign_ && row.cells[0].start + 2 < columnStarts_[0]) ||
                              row.cells[0].items.empty();
        Unit unit = Unit::none;
        std::optional<Means> key;
        if (labelled)
            key = labelOf(row.cells[0].items, unit);
        for (std::size_t c = labelled ? 1 : 0; c < row.cells.size(); ++c) {
            auto& run = row.cells[c].items;
            // as many cells as columns: in their order, however they are shifted
            const bool counted = !columnsBySign_ && row.cells.size() - (labelled ? 1 : 0) == columns_.size();
            const std::size_t column = counted ? c - (labelled ? 1 : 0) : columnOf(row, c);
            if (column >= columns_.size())
                continue;
            if (signOnly(run) && key != Means::polarity) {
                off(run, key);
                continue;
            }
            give(run, unit);
            cell(run, columns_[column], key);
        }
        ++at_;
        return true;
    }
    void off(Run& run, std::optional<Means> key) {
        if (run.empty())
            return;
        use(run);
        if (key && (isEdge(*key) || isEqualiser(*key)))
            sheet_.off.push_back({run.front()->line, run.front()->from, run.back()->to});
    }
    // A cell under a way: a crossing there is the upper edge of the lowest and the lower one of the highest.
    void cell(const Run& run, const WayRef& way, std::optional<Means> key) {
        if (key == Means::crossover && order_.size() >= 2) {
            if (way == order_.front())
                key = Means::lowPass;
            else if (way == order_.back())
                key = Means::highPass;
        }
        facts_.read(run, {way, key, {}});
    }

    bool rowOfHeads() {
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
        if (headsBySequence_)
            return rowOfSequence();
        if (row.cells.size() < 2 && heads_.size() > 2)
            return false;
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
            if ((h == 0 || heads_[h].role == Means::way || heads_[h].role == Means::filter) && !heads_[h].key)
                if (const auto w = wayCell(said[h])) {
                    way = *w;
                    wayColumn = h;
                    use(said[h]);
                    break;
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
    std::size_t headOf(const Row& row, std::size_t cell) const {
        if (headsBySign_ || row.cells.size() == heads_.size())
            return cell;
        std::size_t best = heads_.size(), nearest = 1000;
        for (std::size_t k = 0; k < heads_.size(); ++k) {
            const std::size_t a = heads_[k].start, b = row.cells[cell].start, far = a > b ? a - b : b - a;
            if (far < nearest) {
                nearest = far;
                best = k;
            }
        }
        // further right than any head: what stands beside the table
        return !heads_.empty() && row.cells[cell].start > heads_.back().start + 8 ? heads_.size() : best;
    }
    // One filter: its type, frequency, gain and width in columns of their own.
    void filterRow(std::vector<Run>& said, const Run& rest, const WayRef& way, std::size_t wayColumn) {
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
            if (heads_[h].role == Means::number ||
                (heads_[h].role == Means::filter && h != wayColumn && !heads_[h].key))
                use(said[h]);
        bool typed = false;
        for (std::size_t h = 0; h < heads_.size(); ++h)
            if (heads_[h].role == Means::type) {
                typed =
                    std::any_of(said[h].begin(), said[h].end(), [](const Item* i) { return keyOf(*i).has_value(); });
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
    void wayRow(std::vector<Run>& said, const WayRef& way, std::size_t wayColumn) {
        for (std::size_t h = 0; h < heads_.size(); ++h) {
            if (h == wayColumn || !heads_[h].key || said[h].empty())
                continue;
            const Means key = *heads_[h].key;
            Run run;
            bool rested = false;
            for (std::size_t k = h; k < heads_.size(); ++k) {
                if (heads_[k].key != key || (k > h && !heads_[k].role))
                    continue;
                Unit unit = heads_[k].unit;
                if (heads_[k].role == Means::slope && unit == Unit::none)
                    unit = Unit::slope;
                if (unit == Unit::db && heads_[k].role == Means::slope)
                    unit = Unit::slope;
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
                facts_.read(run, {way, key, {}});
        }
    }

    // Without cells: numbers in the order of the heads, words for ways and types wherever they stand.
    bool rowOfSequence() {
        Row& row = rows_[at_];
        Run all = joined(row);
        const auto numbers =
            std::count_if(all.begin(), all.end(), [](const Item* i) { return i->is == Item::Is::number; });
        std::vector<std::size_t> order;
        for (std::size_t h = 0; h < heads_.size(); ++h)
            if (heads_[h].role == Means::frequency || heads_[h].role == Means::width || heads_[h].key == Means::level ||
                heads_[h].role == Means::number)
                order.push_back(h);
        if (numbers == 0 || static_cast<std::size_t>(numbers) > order.size() ||
            numbers + 1 < static_cast<std::ptrdiff_t>(order.size()))
            return false;
        if (std::any_of(all.begin(), all.end(),
                        [](const Item* i) { return i->is == Item::Is::word && i->means.none(); }))
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

    // ---- one cell a line ----

    // "LF", "HF", then a label and as many lines: a table out of a PDF.
    bool oneCellALine() {
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
            const bool units = std::any_of(run.begin(), run.end(), [](const Item* i) {
                return i->is == Item::Is::number && i->unit != Unit::none;
            });
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

    // ---- settings with paths ----

    static bool pathLine(const Letters& l, std::size_t& ends) {
        std::size_t dots = 0, i = 0;
        for (; i < l.size(); ++i) {
            const char c = l[i].c;
            if (c == '.' && i > 0 && i + 1 < l.size() && l[i + 1].c != ' ' && l[i - 1].c != '.')
                ++dots;
            else if (c == ':' || c == '=')
                break;
            else if (c == ' ') {
                std::size_t k = i;
                while (k < l.size() && l[k].c == ' ')
                    ++k;
                if (k >= l.size() || (l[k].c != ':' && l[k].c != '='))
                    return false;
            } else if (!((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '_' || c == '-'))
                return false;
        }
        ends = i;
        return dots >= 1 && i < l.size() && l[0].c >= 'a';
    }
    // Lines that begin with the same path but for its last part are one fact.
    bool paths() {
        Row& row = rows_[at_];
        std::size_t ends = 0;
        if (row.cells.empty() || !pathLine(row.cells[0].letters, ends))
            return false;
        struct Line {
            std::string group, key;
            Letters attribute, value, keyLetters;
        };
        const auto parsed = [&](Row& r, Line& out) {
            std::size_t colon = 0;
            if (r.merged || r.cells.empty() || !pathLine(r.cells[0].letters, colon))
                return false;
            Letters l;
            for (auto& c : r.cells) {
                if (!l.empty())
                    for (const auto& b : blanks(l, 1))
                        l.push_back(b);
                l.insert(l.end(), c.letters.begin(), c.letters.end());
            }
            std::vector<Letters> parts(1);
            for (std::size_t i = 0; i < colon; ++i)
                if (l[i].c == '.')
                    parts.emplace_back();
                else if (l[i].c != ' ')
                    parts.back().push_back(l[i]);
            const auto text = [](const Letters& p) {
                std::string t;
                for (const auto& one : p)
                    t += one.c;
                return t;
            };
            out.group = text(parts[0]);
            out.attribute = parts.back();
            for (std::size_t p = 1; p + 1 < parts.size(); ++p) {
                out.key += text(parts[p]) + ".";
                out.keyLetters.insert(out.keyLetters.end(), parts[p].begin(), parts[p].end());
                for (const auto& b : blanks(out.keyLetters, 1))
                    out.keyLetters.push_back(b);
            }
            out.value.assign(l.begin() + static_cast<std::ptrdiff_t>(colon) + 1, l.end());
            return true;
        };
        Line first;
        if (!parsed(row, first))
            return false;
        for (auto& c : row.cells)
            use(c.items);
        // Whom the group is: "out1", or its name.
        if (groupWays_.find(first.group) == groupWays_.end()) {
            WayRef way{};
            const auto items = lexer_->itemsOf(lettersOf(first.group, row.line));
            for (auto* i : items)
                i->used = true;
            std::size_t k = 0;
            if (!items.empty()) {
                if (const auto w = wayOf(*items[0]))
                    way = *w;
                else if (const auto n = numberedWay(items, k))
                    way = *n;
            }
            groupWays_[first.group] = way;
        }
        const auto attributeItems = lexer_->itemsOf(first.attribute);
        for (auto* i : attributeItems)
            i->used = true;
        if (first.key.empty() && !attributeItems.empty() &&
            (attributeItems[0]->has(Means::name) || attributeItems[0]->text == "name" ||
             attributeItems[0]->text == "label")) {
            const auto items = lexer_->itemsOf(first.value);
            if (const auto w = wayCell(items)) {
                groupWays_[first.group] = *w;
                for (auto* i : items)
                    i->used = true;
                ++at_;
                return true;
            }
        }
        Run run;
        const auto take = [&](const Line& one) {
            auto attribute = lexer_->itemsOf(one.attribute);
            for (auto* i : attribute)
                i->used = true;
            auto value = lexer_->itemsOf(one.value);
            const bool has = !attribute.empty();
            if (has && attribute[0]->has(Means::frequency))
                give(value, Unit::hz);
            if (has && attribute[0]->has(Means::slope))
                give(value, Unit::slope);
            if (has && attribute[0]->has(Means::level))
                give(value, Unit::db);
            if (has && attribute[0]->has(Means::width) && attribute[0]->text == "q")
                give(value, Unit::quality);
            for (auto* i : value) {
                if (i->is == Item::Is::word && i->text == "true")
                    i->used = true;
                else
                    run.push_back(i);
            }
        };
        std::optional<Means> key;
        if (first.key.empty()) { // "out1.gain: -1.5 dB"
            auto attribute = lexer_->itemsOf(first.attribute);
            Unit unit = Unit::none;
            key = labelOf(attribute, unit);
            for (auto* i : lexer_->itemsOf(first.value))
                run.push_back(i);
            ++at_;
        } else {
            auto keyItems = lexer_->itemsOf(first.keyLetters);
            Unit unit = Unit::none;
            key = labelOf(keyItems, unit);
            std::vector<Line> lines{first};
            std::size_t n = at_ + 1;
            for (; n < rows_.size(); ++n) {
                Line next;
                if (!parsed(rows_[n], next) || next.group != first.group || next.key != first.key)
                    break;
                for (auto& c : rows_[n].cells)
                    use(c.items);
                lines.push_back(next);
            }
            // In the order in which a fact is said: frequency, gain, then the rest.
            const auto rank = [&](const Line& l) {
                const auto items = lexer_->itemsOf(l.attribute);
                for (auto* i : items)
                    i->used = true;
                return items.empty() ? 2 : items[0]->has(Means::frequency) ? 0 : items[0]->has(Means::level) ? 1 : 2;
            };
            std::stable_sort(lines.begin(), lines.end(),
                             [&](const Line& a, const Line& b) { return rank(a) < rank(b); });
            for (const auto& one : lines)
                take(one);
            at_ = n;
        }
        if (key)
            facts_.read(run, {groupWays_[first.group], key, {}});
        return true;
    }

    // ---- lines by themselves ----

    static bool sentence(const Run& run) {
        std::size_t words = 0, other = 0;
        for (const auto* i : run)
            if (i->is == Item::Is::word) {
                ++words;
                other += i->means.none() || i->any({Means::filler, Means::conjunction, Means::per});
            }
        return words >= 9 && other >= 7 && other * 2 >= words;
    }

    void plain() {
        Row& row = rows_[at_];
        Run run = joined(row);
        ++at_;
        if (sentence(run) && !(row.parted == Row::Parted::blanks && row.cells.size() > 2)) {
            // The sentences of the lines that follow belong to it.
            while (at_ < rows_.size() && !rows_[at_].empty() && !rows_[at_].merged) {
                const Run more = joined(rows_[at_]);
                if (!sentence(more))
                    break;
                run.insert(run.end(), more.begin(), more.end());
                ++at_;
            }
            Facts::Where w{where_, {}, {}};
            facts_.readSentences(run, w);
            return;
        }
        // "HF: delay 0.26 ms", "SUB  HP 30", "[Bass] Low cut": of that way.
        WayRef way = where_;
        std::size_t from = 0;
        while (from < run.size() && run[from]->is == Item::Is::sign && (run[from]->is_("[") || run[from]->is_("*")))
            ++from;
        bool begins = false, bracket = from > 0;
        if (from < run.size())
            if (const auto w = wayOf(*run[from]); w && !keyOf(*run[from]) && from + 1 < run.size()) {
                const Item& next = *run[from + 1];
                begins = next.is_(":") || next.is_("]") || keyOf(next) || next.gap ||
                         (next.is == Item::Is::number && next.unit == Unit::hz);
                if (begins) {
                    way = *w;
                    run[from]->used = true;
                    if (bracket || next.is_("]") || (next.gap && run.size() > from + 6))
                        where_ = way;
                    ++from;
                }
            }
        if (!begins)
            from = 0;
        run.erase(run.begin(), run.begin() + static_cast<std::ptrdiff_t>(from));
        std::optional<Means> key;
        const bool bare = !run.empty() && run.front()->is == Item::Is::number;
        if (bare && carried_)
            key = carried_;
        std::vector<WayRef> list = !begins ? order_ : std::vector<WayRef>{};
        if (columns_.empty() && list.size() < 2 && facts_.ways().size() >= 2 && way.rank == 0)
            list = facts_.ways();
        if (!columns_.empty())
            list = columns_;
        facts_.read(run, {way, key, way.rank == 0 ? list : std::vector<WayRef>{}});
        // A label with nothing behind it is that of the lines below.
        if (!run.empty() && !hasNumbers(run)) {
            carried_.reset();
            for (const auto* i : run)
                if (const auto k = keyOf(*i); k && isEqualiser(*k))
                    carried_ = k;
        }
    }

    // ---- at the end ----

    void unread() {
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

    Sheet& sheet_;
    Facts facts_;
    std::unique_ptr<Lexer> lexer_;
    std::vector<Row> rows_;
    std::size_t at_ = 0;
    WayRef where_{};              // of the section
    std::vector<WayRef> columns_; // of a table whose columns are ways
    std::vector<std::size_t> columnStarts_;
    bool columnsBySign_ = false;
    std::vector<WayRef> order_; // ways of the last table, lowest first
    std::vector<Head> heads_;   // of a table whose columns are what is said
    bool headsBySign_ = false, headsBySequence_ = false, headIsFilters_ = false;
    int rowsOfTable_ = 0;
    std::optional<Means> carried_{};          // what a label said of the lines below
    std::map<std::string, WayRef> groupWays_; // of paths
};

} // namespace

void readLayout(Sheet& sheet, const Lexicon& lexicon) {
    Reader(sheet, lexicon).read();
}

} // namespace loom::loudspeaker::sheet
