#include "loudspeaker/curve/number_table.h"
#include "dsp/number.h"
#include "loudspeaker/sheet/letters.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace loom::loudspeaker::curve {
namespace {

using Lines = std::vector<std::string_view>;

bool digit(char c) {
    return c >= '0' && c <= '9';
}
bool blank(char c) {
    return c == ' ' || c == '\t';
}

std::string_view trimmed(std::string_view t) {
    while (!t.empty() && (blank(t.front()) || t.front() == '\r'))
        t.remove_prefix(1);
    while (!t.empty() && (blank(t.back()) || t.back() == '\r'))
        t.remove_suffix(1);
    return t;
}

// Units that stand beside values; nothing else may.
bool unitWord(std::string_view word) {
    static constexpr std::array<std::string_view, 15> all{
        "hz", "khz", "db", "dbspl", "deg", "\2", "degrees", "rad", "ohm", "\1", "kohm", "ohms", "dbfs", "grad", "v"};
    return std::find(all.begin(), all.end(), word) != all.end();
}

// Does a line hold numbers and nothing else but signs and units of them?
bool isData(std::string_view line) {
    const std::string plain = sheet::folded(line);
    bool any = false;
    std::size_t i = 0;
    while (i < plain.size() && (blank(plain[i]) || plain[i] == '"' || plain[i] == '|' || plain[i] == '\''))
        ++i;
    const auto begins = [&](std::size_t k) {
        const std::size_t n = k < plain.size() && (plain[k] == '-' || plain[k] == '+' || plain[k] == '~') ? k + 1 : k;
        return n < plain.size() && (digit(plain[n]) || ((plain[n] == '.' || plain[n] == ',') && n + 1 < plain.size() &&
                                                        digit(plain[n + 1])));
    };
    if (!begins(i) && !(i < plain.size() && plain[i] == '(' && begins(i + 1)))
        return false;
    while (i < plain.size()) {
        const char c = plain[i];
        if (digit(c)) {
            any = true;
            ++i;
            if (i < plain.size() && plain[i] == 'e' && i + 1 < plain.size() &&
                (digit(plain[i + 1]) ||
                 ((plain[i + 1] == '-' || plain[i + 1] == '+') && i + 2 < plain.size() && digit(plain[i + 2]))))
                i += 2; // an exponent
            continue;
        }
        if ((c >= 'a' && c <= 'z') || c == '\1' || c == '\2') {
            std::size_t end = i;
            while (end < plain.size() &&
                   ((plain[end] >= 'a' && plain[end] <= 'z') || plain[end] == '\1' || plain[end] == '\2'))
                ++end;
            const auto word = std::string_view(plain).substr(i, end - i);
            const bool imaginary = word == "i" || word == "j";
            const bool none = word == "nan" || word == "inf" || word == "na";
            if (!imaginary && !none && !unitWord(word))
                return false;
            i = end;
            continue;
        }
        if (std::string_view(" \t.,;|+-~\"'()*").find(c) == std::string_view::npos)
            return false;
        ++i;
    }
    return any;
}

std::string_view withoutMark(std::string_view line) {
    line = trimmed(line);
    while (!line.empty() && std::string_view("*#;!%/\"' \t").find(line.front()) != std::string_view::npos)
        line.remove_prefix(1);
    return line;
}

std::vector<std::string_view> splitAt(std::string_view line, char sign) {
    std::vector<std::string_view> parts;
    bool quoted = false;
    std::size_t from = 0;
    for (std::size_t i = 0; i <= line.size(); ++i) {
        if (i < line.size() && line[i] == '"')
            quoted = !quoted;
        if (i == line.size() || (line[i] == sign && !quoted)) {
            parts.push_back(trimmed(line.substr(from, i - from)));
            from = i + 1;
        }
    }
    return parts;
}

std::vector<std::string_view> splitAtBlanks(std::string_view line) {
    std::vector<std::string_view> parts;
    for (std::size_t i = 0; i < line.size();) {
        while (i < line.size() && blank(line[i]))
            ++i;
        std::size_t end = i;
        while (end < line.size() && !blank(line[end]))
            ++end;
        if (end > i)
            parts.push_back(line.substr(i, end - i));
        i = end;
    }
    return parts;
}

std::vector<std::string_view> cellsOf(std::string_view line, char separator) {
    line = trimmed(line);
    if (separator == ' ')
        return splitAtBlanks(line);
    auto parts = splitAt(line, separator);
    if (separator == '|' && parts.size() > 2 && parts.front().empty())
        parts.erase(parts.begin());
    while (!parts.empty() && parts.back().empty())
        parts.pop_back();
    return parts;
}

char separatorOf(const Lines& data) {
    std::size_t tabs = 0, semicolons = 0, bars = 0, commas = 0, blanks = 0, spaced = 0;
    for (const auto line : data) {
        const auto t = trimmed(line);
        const auto has = [&](char c) { return t.find(c) != std::string_view::npos; };
        tabs += has('\t');
        semicolons += has(';');
        bars += has('|');
        commas += has(',');
        blanks += splitAtBlanks(t).size() > 1;
        bool behind = has(',');
        for (std::size_t i = 0; i + 1 < t.size(); ++i)
            if (t[i] == ',' && !blank(t[i + 1]))
                behind = false;
        spaced += behind;
    }
    const std::size_t most = data.size() - data.size() / 20;
    if (semicolons >= most)
        return ';';
    if (bars >= most)
        return '|';
    if (tabs >= most)
        return '\t';
    if (spaced >= most && commas >= most)
        return ',';
    if (blanks >= most)
        return ' ';
    return commas >= most ? ',' : ' ';
}

struct Commas {
    bool decimal = false, open = false, thousands = false, thousandsOpen = false;
};

// What commas inside cells are, and, where they part the cells, whether they could be decimal instead.
Commas commasOf(const Lines& data, char separator) {
    Commas c;
    bool point = false, comma = false, threes = true, small = false, zero = false, longPlain = false, twoCommas = false;
    std::size_t odd = 0;
    for (const auto line : data) {
        if (separator == ',') {
            point = point || line.find('.') != std::string_view::npos;
            odd += splitAt(trimmed(line), ',').size() % 2;
            continue;
        }
        for (auto cell : cellsOf(line, separator)) {
            while (!cell.empty() && !digit(cell.front()) && cell.front() != ',' && cell.front() != '.')
                cell.remove_prefix(1);
            const auto at = cell.find(','), dot = cell.find('.');
            if (dot != std::string_view::npos)
                point = true;
            if (at == std::string_view::npos) {
                std::size_t digits = 0;
                while (digits < cell.size() && digit(cell[digits]))
                    ++digits;
                longPlain = longPlain || digits >= 4;
                continue;
            }
            comma = true;
            if (dot != std::string_view::npos)
                c.thousands = c.thousands || dot > at;
            const auto last = cell.rfind(',');
            twoCommas = twoCommas || last != at;
            std::size_t behind = 0;
            while (last + 1 + behind < cell.size() && digit(cell[last + 1 + behind]))
                ++behind;
            threes = threes && behind == 3 && at <= 3 && at > 0;
            zero = zero || (at == 1 && cell[0] == '0');
            small = small || at < 3;
        }
    }
    if (separator == ',') {
        c.open = !point && odd == 0;
        return c;
    }
    if (!comma)
        return c;
    if (point && c.thousands)
        return c;
    if (point && threes && !zero) {
        c.thousands = true;
        return c;
    }
    if (threes && !zero && !longPlain && (twoCommas || !point)) {
        c.thousands = twoCommas;
        c.thousandsOpen = !twoCommas;
        c.decimal = !twoCommas;
        return c;
    }
    c.decimal = true;
    return c;
}

// The numbers of a cell, with the unit behind them; two for a complex one.
bool numbersOf(std::string_view cell, const Commas& commas, std::vector<double>& values, std::string& unit,
               bool& complex) {
    std::string t;
    const std::string plain = sheet::folded(cell);
    for (const char c : plain) {
        if (c == '"' || c == '\'' || c == '(' || c == ')' || c == '*')
            continue;
        if (c == ',' && commas.thousands)
            continue;
        if (c == '.' && commas.decimal && plain.find(',') != std::string::npos)
            continue; // "1.000,5"
        t += c == ',' ? '.' : c == '~' ? '-' : c;
    }
    std::string_view rest = trimmed(t);
    const auto none = rest.substr(rest.empty() || (rest[0] != '-' && rest[0] != '+') ? 0 : 1);
    if (none.empty() || none == "nan" || none == "inf" || none == "na" || none == "-") {
        values.push_back(std::nan(""));
        return true;
    }
    const auto first = leadingNumber(rest);
    if (first.length == 0)
        return false;
    values.push_back(first.value);
    rest.remove_prefix(first.length);
    rest = trimmed(rest);
    if (!rest.empty() && (rest[0] == '+' || rest[0] == '-')) { // a+bi, a+jb
        const bool minus = rest[0] == '-';
        rest = trimmed(rest.substr(1));
        const bool before = !rest.empty() && (rest[0] == 'i' || rest[0] == 'j');
        if (before)
            rest.remove_prefix(1);
        const auto second = leadingNumber(rest);
        if (second.length == 0)
            return false;
        rest.remove_prefix(second.length);
        const bool after = !rest.empty() && (rest[0] == 'i' || rest[0] == 'j');
        if (!before && !after)
            return false;
        values.push_back(minus ? -second.value : second.value);
        complex = true;
        return true;
    }
    if (!rest.empty())
        unit = std::string(rest);
    return rest.empty() || unitWord(rest);
}

// Words of a head beside columns: parted as the rows are, by another sign, or by words alone.
std::vector<std::string> headCells(std::string_view line, char separator, std::size_t columns) {
    line = withoutMark(line);
    for (const char sign : {separator, '\t', ';', '|', ','}) {
        if (sign == ' ')
            continue;
        const auto cells = cellsOf(line, sign);
        if (cells.size() == columns) {
            std::vector<std::string> all;
            for (const auto c : cells)
                all.push_back(sheet::folded(c));
            return all;
        }
    }
    // Two blanks or more part them; else each word is one if their number fits.
    std::vector<std::string> wide(1);
    const std::string plain = sheet::folded(line);
    for (std::size_t i = 0; i < plain.size(); ++i) {
        if (plain[i] == ' ' && i + 1 < plain.size() && plain[i + 1] == ' ') {
            if (!wide.back().empty())
                wide.emplace_back();
        } else if (!(plain[i] == ' ' && wide.back().empty())) {
            wide.back() += plain[i];
        }
    }
    if (wide.size() == columns && columns > 1)
        return wide;
    std::vector<std::string> words;
    for (const auto w : splitAtBlanks(plain))
        words.emplace_back(w);
    return words.size() == columns && columns > 1 ? words : std::vector<std::string>{};
}

} // namespace

NumberTable numberTableOf(std::string_view text, int commasAre, int thousandsAre) {
    NumberTable t;
    std::vector<std::pair<std::size_t, std::string_view>> lines;
    Lines data, sample;
    std::size_t number = 0, firstData = 0;
    for (std::size_t at = 0; at < text.size();) {
        const auto end = std::min(text.find('\n', at), text.size());
        const auto line = text.substr(at, end - at);
        at = end + 1;
        ++number;
        if (trimmed(line).empty())
            continue;
        if (isData(line)) {
            if (data.empty())
                firstData = lines.size();
            data.push_back(line);
        }
        lines.emplace_back(number, line);
    }
    if (data.empty())
        return t;
    sample.assign(data.begin(), data.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(data.size(), 2000)));
    t.separator = separatorOf(sample);
    Commas commas = commasOf(sample, t.separator);
    t.commasOpen = commas.open;
    t.thousandsOpen = commas.thousandsOpen;
    if (commas.open && commasAre == 2) {
        commas.decimal = true;
    }
    if (commas.thousandsOpen && thousandsAre == 1) {
        commas.decimal = false;
        commas.thousands = true;
    }
    t.decimalComma = commas.decimal;
    std::map<std::size_t, std::size_t> lengths;
    std::vector<NumberTable::Row> all;
    std::vector<std::string> units;
    for (const auto& [n, line] : lines) {
        if (!isData(line)) {
            if (const auto remark = withoutMark(line); !remark.empty() && t.remarks.size() < 200)
                t.remarks.emplace_back(remark.substr(0, 300));
            continue;
        }
        NumberTable::Row row{n, {}};
        auto cells = cellsOf(line, t.separator);
        if (t.separator == ' ') { // units beside values are cells of their own there
            std::vector<std::string_view> joined;
            for (const auto c : cells) {
                const std::string word = sheet::folded(c);
                if (!joined.empty() && unitWord(word))
                    joined.back() = std::string_view(
                        joined.back().data(), static_cast<std::size_t>(c.data() + c.size() - joined.back().data()));
                else
                    joined.push_back(c);
            }
            cells = joined;
        }
        std::vector<std::string> paired;
        if (t.separator == ',' && commas.decimal) { // "20,5,80,2": two of them are one
            for (std::size_t k = 0; k + 1 < cells.size(); k += 2)
                paired.push_back(std::string(cells[k]) + "." + std::string(cells[k + 1]));
            cells.assign(paired.begin(), paired.end());
        }
        bool good = true;
        std::vector<std::string> own;
        for (const auto c : cells) {
            std::string unit;
            good = good && numbersOf(c, commas, row.values, unit, t.complex);
            own.push_back(unit);
        }
        if (units.empty())
            units = own;
        if (!good)
            row.values.clear();
        ++lengths[row.values.size()];
        all.push_back(std::move(row));
    }
    t.columns = std::max_element(lengths.begin(), lengths.end(), [](const auto& a, const auto& b) {
                    return a.second < b.second;
                })->first;
    for (auto& row : all)
        if (row.values.size() == t.columns && t.columns > 0)
            t.rows.push_back(std::move(row));
        else
            ++t.left;
    t.units = units;
    t.units.resize(t.columns);
    // The line that names the columns, and one of units below it.
    const std::size_t named = t.complex && t.columns > 2 ? t.columns - 1 : t.columns;
    for (std::size_t back = 1; back <= 3 && back <= firstData; ++back) {
        auto cells = headCells(lines[firstData - back].second, t.separator, named);
        if (!cells.empty())
            t.heads.push_back(std::move(cells));
    }
    return t;
}

} // namespace loom::loudspeaker::curve
