#include "loudspeaker/sheet/rows.h"
#include <algorithm>
#include <map>
#include <set>

namespace loom::loudspeaker::sheet {
namespace {

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
        const bool twice = quoted && line[i].c == '"' && i + 1 < line.size() && line[i + 1].c == '"';
        if (twice) // a quote inside of quotes
            ++i;
        else if (line[i].c == '"' && sign == ',') {
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

// A line of dashes between rows: no end of the table.
bool rule(const Row& row) {
    bool any = false;
    for (const auto& c : row.cells)
        for (const auto& l : c.letters) {
            if (l.c != '-' && l.c != '=' && l.c != '_' && l.c != '+' && l.c != ':' && l.c != '*' && l.c != rangeDash &&
                l.c != ' ')
                return false;
            any = true;
        }
    std::size_t letters = 0;
    for (const auto& c : row.cells)
        letters += c.letters.size();
    return any && letters >= 3 && (row.cells.size() == 1 || letters >= 3 * row.cells.size());
}

// "a;b;c" is a table where the number of its parts is that of three lines, and the first part is short.
bool headed(const Letters& line, int alike) {
    const auto first = std::find_if(line.begin(), line.end(), [](const Letter& l) { return l.c == ';'; });
    return alike >= 3 && first - line.begin() <= 40;
}

bool csv(const Letters& l) { // no blank behind its commas
    for (std::size_t i = 0; i + 1 < l.size(); ++i)
        if (l[i].c == ',' && l[i + 1].c == ' ')
            return false;
    return true;
}

std::vector<Row> partedOf(const std::vector<Letters>& lines) {
    std::vector<Row> rows;
    std::map<std::size_t, int> commas, semicolons; // how many lines have so many
    std::set<std::size_t>
        whole; // numbers of semicolons of lines that do not end with one: others have empty cells there
    for (const auto& l : lines) {
        if (!l.empty() && l.back().c != ';')
            whole.insert(countOf(l, ';'));
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
        else if (countOf(l, ';') >= 2 && neighbour(';') && (l.back().c != ';' || whole.count(countOf(l, ';'))) &&
                 headed(l, semicolons[countOf(l, ';')]))
            row.cells = split(l, ';');
        else if (const auto c = countOf(l, ',');
                 (c >= 3 ? commas[c] >= 3
                         : c == 2 && commas[c] >= 4 && 2 * commas[c] > static_cast<int>(lines.size())) &&
                 splitAtBlanks(l).size() == 1 && csv(l))
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
        rows.push_back(std::move(row));
    }
    return rows;
}

// Cells that go on in the next line: indented below, or parted by a hyphen.
void mend(std::vector<Row>& rows) {
    for (std::size_t n = 1; n < rows.size(); ++n) {
        Row& row = rows[n];
        std::size_t up = n - 1;
        while (up > 0 && rows[up].merged)
            --up;
        Row& above = rows[up];
        if (row.empty() || above.cells.size() < 2 || above.parted != Row::Parted::blanks ||
            row.parted == Row::Parted::sign || n - up > 4)
            continue;
        const bool indented = row.indent() >= 8 && row.indent() + 3 >= above.cells[1].start && row.cells.size() == 1;
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

} // namespace

std::vector<Row> rowsOf(const std::vector<Letters>& lines) {
    auto rows = partedOf(lines);
    mend(rows);
    return rows;
}

Run joined(const Row& row) {
    Run run;
    for (const auto& c : row.cells)
        for (std::size_t k = 0; k < c.items.size(); ++k) {
            run.push_back(c.items[k]);
            if (k == 0 && &c != &row.cells.front())
                run.back()->gap = true;
        }
    return run;
}

} // namespace loom::loudspeaker::sheet
