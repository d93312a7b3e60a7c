#include "loudspeaker/sheet.h"
#include "dsp/number.h"
#include "loudspeaker/sheet_keys.h"
#include "loudspeaker/sheet_words.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <optional>
#include <set>
#include <sstream>

namespace loom::loudspeaker {
namespace {

using Is = SheetWord::Is;

class Reader {
  public:
    explicit Reader(const std::string& text) {
        std::istringstream in(text.substr(0, maxSheetBytes));
        for (std::string line; std::getline(in, line) && sheet_.lines.size() < maxSheetLines;)
            sheet_.lines.push_back(line.substr(0, 1000));
        if (text.size() > maxSheetBytes || (in && sheet_.lines.size() == maxSheetLines))
            sheet_.lines.push_back("(the rest of the text is too long and was not read)");
    }
    Sheet read() {
        for (line_ = 0; line_ < sheet_.lines.size(); ++line_)
            readLine();
        settleEdges();
        return std::move(sheet_);
    }

  private:
    // ---- lines ----

    void readLine() {
        words_ = wordsOf(sheet_.lines[line_]);
        used_.assign(words_.size(), false);
        if (words_.empty()) {
            columns_.clear(); // a table ends at an empty line
            return;
        }
        if (!readHeading()) {
            std::optional<SheetKind> row; // what a table's row is about stands in its first cell
            const int before = way_;
            for (std::size_t i = 0; i < words_.size();) {
                const int cell = words_[i].cell;
                std::size_t end = i;
                while (end < words_.size() && words_[end].cell == cell)
                    ++end;
                if (!columns_.empty())
                    way_ = cell > 0 && cell <= static_cast<int>(columns_.size())
                               ? columns_[static_cast<std::size_t>(cell - 1)]
                               : 0;
                readCell(i, end, row);
                i = end;
            }
            way_ = lineWay_ ? before : (columns_.empty() ? way_ : 0);
            lineWay_ = false;
        }
        markUnread();
    }

    int wayNumber(const std::string& name) {
        const auto it = std::find(sheet_.ways.begin(), sheet_.ways.end(), name);
        if (it != sheet_.ways.end())
            return static_cast<int>(it - sheet_.ways.begin()) + 1;
        sheet_.ways.push_back(name);
        return static_cast<int>(sheet_.ways.size());
    }

    // A line of nothing but ways is a heading: one way, or the columns of a table.
    bool readHeading() {
        std::vector<std::string> ways;
        for (std::size_t i = 0; i < words_.size(); ++i) {
            const auto& w = words_[i];
            if (w.is == Is::number) {
                // "Way 1", "Band 2"
                if (i > 0 && (words_[i - 1].text == "way" || words_[i - 1].text == "band") && w.value >= 1 &&
                    w.value <= 4 && w.value == std::floor(w.value))
                    ways.push_back(print("Way %.0f", w.value));
                else
                    return false;
            } else if (w.is == Is::word) {
                if (const auto name = wayWord(w.text); !name.empty())
                    ways.push_back(name);
                else if (!sheetFiller().count(w.text) && w.text != "driver")
                    return false;
            }
        }
        if (ways.empty())
            return false;
        used_.assign(words_.size(), true);
        columns_.clear();
        way_ = ways.size() > 1 ? 0 : wayNumber(ways.front());
        for (const auto& name : ways)
            if (ways.size() > 1)
                columns_.push_back(wayNumber(name));
        return true;
    }

    // ---- cells ----

    std::optional<SheetKind> keyAt(std::size_t& i, std::size_t end) {
        for (const auto& k : sheetKeys()) {
            std::size_t at = i;
            bool fits = true;
            for (const char* word : k.words) {
                fits = fits && at < end && words_[at].is == Is::word && words_[at].text == word;
                ++at;
            }
            if (!fits)
                continue;
            for (std::size_t u = i; u < at; ++u)
                used_[u] = true;
            i = at;
            return k.kind;
        }
        return {};
    }

    void readCell(std::size_t i, std::size_t end, std::optional<SheetKind>& row) {
        std::optional<SheetKind> kind = words_[i].cell > 0 ? row : std::nullopt;
        bool begun = false;
        while (i < end) {
            std::size_t at = i;
            if (const auto key = keyAt(at, end)) {
                if (*key == SheetKind::driver && at - i == 2) { // "compression driver" says what it is
                    SheetField f = field(SheetKind::driver, i, at);
                    f.value = 1;
                    sheet_.fields.push_back(f);
                    i = at;
                    begun = true;
                    continue;
                }
                kind = *key;
                row = kind;
                i = at;
                const std::size_t from = i;
                i = readField(*kind, i, end);
                begun = true;
                if (i == from && at < end && words_[at].is == Is::sign)
                    ++i;
                continue;
            }
            // "HF: delay 0.26 ms" turns to that way for the rest of the line.
            const bool heads =
                i + 1 < end && (i == 0 || words_[i - 1].cell != words_[i].cell) && words_[i + 1].text == ":";
            if (const auto name = heads ? wayWord(words_[i].text) : ""; !name.empty() && columns_.empty()) {
                way_ = wayNumber(name);
                lineWay_ = true;
                used_[i] = true;
                ++i;
                continue;
            }
            const std::size_t next = kind && !begun ? readField(*kind, i, end) : readBare(i, end);
            begun = begun || next > i;
            i = next > i ? next : i + 1;
        }
        if (words_[end - 1].cell == 0 && !row && kind)
            row = kind;
    }

    // Things that tell what they are without a word before them.
    std::size_t readBare(std::size_t i, std::size_t end) {
        const auto& w = words_[i];
        if (w.is == Is::word && shapeWord(w.text)) { // "LR12 @ 0.43k"
            const std::size_t next = readField(SheetKind::highPass, i, end);
            if (next > i && !sheet_.fields.empty()) {
                auto& f = sheet_.fields.back();
                if (f.kind == SheetKind::highPass)
                    bare_.push_back(sheet_.fields.size() - 1);
            }
            return next;
        }
        if (w.is != Is::number)
            return i;
        const std::string unit = unitAt(i + 1, end);
        if (unit == "ms" || unit == "us")
            return readField(SheetKind::delay, i, end);
        if (unit == "ohm")
            return readField(SheetKind::impedance, i, end);
        if (unit == "db" && i + 2 < end &&
            (words_[i + 2].text == "sensitivity" || words_[i + 2].text == "efficiency")) {
            use(i + 2);
            const std::size_t next = readField(SheetKind::sensitivity, i, i + 2);
            return next > i ? i + 3 : i;
        }
        if (unit == "w") {
            const bool peak = i + 2 < end && words_[i + 2].text == "peak";
            return readField(peak ? SheetKind::peakPower : SheetKind::rmsPower, i, end);
        }
        if (unit == "hz" && i + 2 < end && words_[i + 2].is == Is::number && unitAt(i + 3, end) == "db")
            return readField(SheetKind::bell, i, end);
        return i;
    }

    std::string unitAt(std::size_t i, std::size_t end) const {
        if (i >= end)
            return {};
        const auto& t = words_[i].text;
        static const std::pair<const char*, const char*> units[] = {{"hz", "hz"},         {"khz", "khz"},
                                                                    {"db", "db"},         {"ms", "ms"},
                                                                    {"msec", "ms"},       {"us", "us"},
                                                                    {"w", "w"},           {"watt", "w"},
                                                                    {"watts", "w"},       {"ohm", "ohm"},
                                                                    {"ohms", "ohm"},      {"mm", "mm"},
                                                                    {"inch", "inch"},     {"inches", "inch"},
                                                                    {"in", "inch"},       {"deg", "deg"},
                                                                    {"degrees", "deg"},   {"oct", "oct"},
                                                                    {"octave", "oct"},    {"octaves", "oct"},
                                                                    {"db/oct", "db/oct"}, {"db/octave", "db/oct"},
                                                                    {"m", "m"},           {"kw", "kw"}};
        if (words_[i].is == Is::sign && t == "\"")
            return "inch";
        for (const auto& [word, unit] : units)
            if (words_[i].is == Is::word && t == word)
                return unit;
        return {};
    }

    SheetField field(SheetKind kind, std::size_t i, std::size_t end) const {
        SheetField f;
        f.kind = kind;
        f.way = way_;
        f.line = line_;
        f.from = words_[i].from;
        f.to = words_[std::max(i, end - 1)].to;
        return f;
    }

    void use(std::size_t i) { used_[i] = true; }
    bool skip(std::size_t i, std::size_t end) const { // signs that stand between things
        return i < end && words_[i].is == Is::sign &&
               std::string("@:=(),;/[]").find(words_[i].text) != std::string::npos;
    }

    // Reads what a field of this kind has, from i on; gives where the next thing begins (i: there was nothing).
    std::size_t readField(SheetKind kind, std::size_t i, std::size_t end) {
        if (i >= end)
            return i; // a word with nothing behind it
        const std::size_t start = i;
        SheetField f = field(kind, i, i + 1);
        std::size_t last = i; // behind the last word taken
        bool any = false;
        const auto take = [&](std::size_t to) {
            for (std::size_t u = i; u < to; ++u)
                use(u);
            any = true;
            i = last = to;
        };
        if (kind == SheetKind::name || kind == SheetKind::maker) {
            while (skip(i, end)) {
                use(i);
                ++i;
            }
            if (i >= end)
                return start;
            f.from = words_[i].from;
            f.to = words_[end - 1].to;
            f.text = sheet_.lines[line_].substr(f.from, f.to - f.from);
            for (; i < end; ++i)
                use(i);
            sheet_.fields.push_back(f);
            return end;
        }
        bool haveFrequency = false, haveGain = false;
        for (; i < end;) {
            if (std::size_t probe = i; any && keyOnly(probe, end))
                break;
            const auto& w = words_[i];
            if (skip(i, end)) {
                if (w.text == ";" && any)
                    break;
                ++i;
                continue;
            }
            if (w.is == Is::word) {
                if (edge(kind)) {
                    if (const auto shape = shapeWord(w.text)) {
                        f.shape = *shape;
                        std::size_t to = i + 1;
                        if (w.text == "linkwitz" && to < end && words_[to].text == "riley")
                            ++to;
                        if (to < end && words_[to].is == Is::number && !isUnit(to + 1, end, "hz") && !words_[to].kilo &&
                            slope(words_[to].value)) {
                            f.slope = static_cast<int>(words_[to].value);
                            ++to;
                            if (isUnit(to, end, "db/oct") || isUnit(to, end, "db"))
                                ++to;
                        }
                        take(to);
                        continue;
                    }
                }
                if (equaliser(kind) &&
                    (w.text == "q" || w.text == "width" || w.text == "bw" || w.text == "bandwidth")) {
                    std::size_t to = i + 1;
                    while (skip(to, end))
                        ++to;
                    if (to < end && words_[to].is == Is::number && words_[to].value > 0) {
                        to = width(f, w.text, to, end);
                        take(to);
                        continue;
                    }
                }
                if (kind == SheetKind::polarity) {
                    static const std::set<std::string> turned{"inverted", "invert", "reversed", "reverse", "negative"},
                        straight{"normal", "positive", "straight"};
                    if (turned.count(w.text) || straight.count(w.text)) {
                        f.value = turned.count(w.text);
                        take(i + 1);
                        break;
                    }
                }
                if (kind == SheetKind::driver) {
                    if (w.text == "compression" || w.text == "cone" || w.text == "dome") {
                        f.value = w.text == "compression";
                        take(i + 1);
                        break;
                    }
                }
                if (kind == SheetKind::impedance && (w.text == "min" || w.text == "minimum")) {
                    if (any)
                        sheet_.fields.push_back(closed(f, start, last));
                    use(i);
                    return readField(SheetKind::minimumImpedance, i + 1, end);
                }
                if (power(kind) && w.text == "peak" && !any) {
                    f.kind = kind = SheetKind::peakPower;
                    take(i + 1);
                    any = false;
                    continue;
                }
                if (sheetFiller().count(w.text) || unitAt(i, end) == "m") {
                    ++i;
                    continue;
                }
                if (!any && kind == SheetKind::driver)
                    return start;
                break;
            }
            if (w.is == Is::sign) {
                if (kind == SheetKind::polarity && (w.text == "+" || w.text == "-")) {
                    f.value = w.text == "-";
                    take(i + 1);
                    break;
                }
                if (w.text == "~" || w.text == "-" || w.text == "+")
                    break;
                ++i;
                continue;
            }
            // -- a number --
            const std::size_t to = number(kind, f, i, end, haveFrequency, haveGain);
            if (to == i)
                break;
            take(to);
            if (!edge(kind) && !equaliser(kind)) {
                if (kind == SheetKind::sensitivity) // "1 W / 1 m", "2.83 V": how it was measured
                    for (std::size_t next = i; next < end; ++next) {
                        const bool how =
                            words_[next].is == Is::number && words_[next].value <= 4 && next + 1 < end &&
                            (isUnit(next + 1, end, "w") || isUnit(next + 1, end, "m") || words_[next + 1].text == "v");
                        if (how)
                            take(next + 2);
                        else if (words_[next].is == Is::number)
                            break;
                    }
                if (power(kind) && i < end && words_[i].text == "peak") { // "600 W peak"
                    f.kind = SheetKind::peakPower;
                    take(i + 1);
                }
                // "250 W / 1000 W peak", "8 ohms (min 6.2)"
                if ((power(kind) || kind == SheetKind::impedance) && i < end) {
                    std::size_t next = i;
                    while (next < end &&
                           (skip(next, end) || (words_[next].is == Is::word && sheetFiller().count(words_[next].text))))
                        ++next;
                    const bool more =
                        next < end && (words_[next].text == "min" || words_[next].text == "minimum" ||
                                       words_[next].text == "peak" || (power(kind) && words_[next].is == Is::number));
                    if (more) {
                        sheet_.fields.push_back(closed(f, start, last));
                        for (std::size_t u = i; u < next; ++u)
                            use(u);
                        if (words_[next].text.rfind("min", 0) == 0)
                            return use(next), readField(SheetKind::minimumImpedance, next + 1, end);
                        return readField(kind, next, end);
                    }
                }
                break;
            }
            if (equaliser(kind) && haveFrequency && haveGain && f.q > 0)
                break;
        }
        if (!any || ((edge(kind) || equaliser(kind)) && !haveFrequency)) {
            for (std::size_t u = start; u < last; ++u)
                used_[u] = false; // part of a field is nothing; it is marked
            return any ? last : start;
        }
        sheet_.fields.push_back(closed(f, start, last));
        return last;
    }

    bool keyOnly(std::size_t i, std::size_t end) {
        const auto before = used_;
        const bool is = keyAt(i, end).has_value();
        used_ = before;
        return is;
    }

    SheetField closed(SheetField f, std::size_t from, std::size_t to) const {
        f.from = words_[from].from;
        f.to = words_[std::max(from, to - 1)].to;
        for (auto& choice : f.ask) // what was read behind the question
        {
            choice.q = choice.q > 0 ? choice.q : f.q;
            choice.slope = choice.slope ? choice.slope : f.slope;
        }
        return f;
    }

    static bool edge(SheetKind k) { return k == SheetKind::highPass || k == SheetKind::lowPass; }
    static bool equaliser(SheetKind k) {
        return k == SheetKind::bell || k == SheetKind::lowShelf || k == SheetKind::highShelf;
    }
    static bool power(SheetKind k) { return k == SheetKind::rmsPower || k == SheetKind::peakPower; }
    static bool slope(double v) { return v >= 6 && v <= 48 && std::fmod(v, 6) == 0; }
    bool isUnit(std::size_t i, std::size_t end, const char* unit) const { return unitAt(i, end) == unit; }

    void askUnit(SheetField& f, const SheetWord& w, const std::vector<std::pair<const char*, double>>& units) {
        f.question = w.text + " has no unit.";
        for (const auto& [unit, factor] : units)
            f.ask.push_back({w.text + " " + unit, f.kind, w.value * factor, f.q, f.slope});
    }

    // Takes one number with its unit into the field; gives where the next thing begins (i: it does not belong here).
    std::size_t number(SheetKind kind, SheetField& f, std::size_t i, std::size_t end, bool& haveFrequency,
                       bool& haveGain) {
        const auto& w = words_[i];
        const std::string unit = unitAt(i + 1, end);
        const std::size_t behind = unit.empty() ? i + 1 : i + 2;
        if (edge(kind) || equaliser(kind)) {
            if (unit == "db/oct" || (edge(kind) && unit == "db")) {
                if (!edge(kind) || !slope(w.value))
                    return i;
                f.slope = static_cast<int>(w.value);
                return behind;
            }
            if (unit == "db" && equaliser(kind) && !haveGain) {
                f.second = w.value;
                haveGain = true;
                return behind;
            }
            if (unit == "oct" && equaliser(kind) && w.value > 0) {
                f.q = qOfOctaves(w.value);
                return behind;
            }
            if (haveFrequency && equaliser(kind) && !haveGain && unit.empty()) {
                f.second = w.value;
                haveGain = true; // the only unit it can have is asked about all the same
                if (f.ask.empty()) {
                    f.question = w.text + " has no unit.";
                    f.ask.push_back({w.text + " dB", f.kind, f.value, f.q, f.slope});
                }
                return behind;
            }
            if (haveGain && equaliser(kind) && unit.empty() && f.q == 0 && f.ask.empty() && w.value > 0)
                return width(f, "", i, end);
            if (haveFrequency || !(unit.empty() || unit == "hz" || unit == "khz") || w.value <= 0)
                return i;
            haveFrequency = true;
            f.value = w.value * (unit == "khz" ? 1000 : 1);
            if (unit.empty() && !w.kilo)
                askUnit(f, w, {{"Hz", 1}, {"kHz", 1000}});
            return behind;
        }
        const auto plain = [&](const char* wanted, const char* shown) {
            f.value = w.value;
            if (unit.empty())
                askUnit(f, w, {{shown, 1}});
            return unit.empty() || unit == wanted;
        };
        switch (kind) {
        case SheetKind::gain:
        case SheetKind::sensitivity:
            return plain("db", "dB") ? behind : i;
        case SheetKind::impedance:
        case SheetKind::minimumImpedance:
            return plain("ohm", "ohms") ? behind : i;
        case SheetKind::rmsPower:
        case SheetKind::peakPower:
            if (unit == "kw")
                f.value = w.value * 1000;
            else if (w.kilo && unit == "w")
                f.value = w.value;
            else if (!plain("w", "W"))
                return i;
            return behind;
        case SheetKind::delay:
            f.value = unit == "us" ? w.value / 1000 : unit == "m" ? w.value / 0.3432 : w.value;
            if (unit.empty())
                askUnit(f, w, {{"ms", 1}, {"\u00b5s", 0.001}});
            return unit.empty() || unit == "ms" || unit == "us" || unit == "m" ? behind : i;
        case SheetKind::coil:
            f.value = unit == "inch" ? w.value * 25.4 : w.value;
            if (unit.empty())
                askUnit(f, w, {{"mm", 1}, {"inch", 25.4}});
            return unit.empty() || unit == "mm" || unit == "inch" ? behind : i;
        case SheetKind::coverage: {
            f.value = f.second = w.value;
            std::size_t at = i + 1;
            while (isUnit(at, end, "deg") || (at < end && sheetFiller().count(words_[at].text)))
                ++at;
            if (at + 1 < end && words_[at].text == "x" && words_[at + 1].is == Is::number) {
                f.second = words_[at + 1].value;
                at += 2;
                while (isUnit(at, end, "deg") ||
                       (at < end && words_[at].is == Is::word && sheetFiller().count(words_[at].text)))
                    ++at;
            }
            return at;
        }
        case SheetKind::taps: {
            std::size_t at = i;
            for (; at < end; ++at) {
                if (words_[at].is == Is::number && unitAt(at + 1, end) != "ohm" &&
                    !(at + 1 < end && words_[at + 1].text == "v"))
                    f.list.push_back(words_[at].value);
                else if (words_[at].is == Is::number || words_[at].text == "at" || words_[at].text == "@")
                    break;
            }
            const std::size_t volts = at + (at < end && words_[at].is != Is::number); // "at 100 V"
            if (volts + 1 < end && words_[volts].is == Is::number && words_[volts + 1].text == "v")
                at = volts + 2;
            if (std::none_of(words_.begin() + static_cast<std::ptrdiff_t>(i),
                             words_.begin() + static_cast<std::ptrdiff_t>(at),
                             [](const SheetWord& one) { return one.text == "w" || one.text == "watts"; })) {
                f.question = "The taps have no unit.";
                f.ask.push_back({"watts", f.kind, 0, 0, 0});
            }
            return at;
        }
        default:
            return i;
        }
    }

    static double qOfOctaves(double octaves) { // R. Bristow-Johnson: 1/Q = 2 sinh(ln 2 / 2 BW)
        return 1 / (2 * std::sinh(std::log(2.0) / 2 * octaves));
    }

    // "Q 1.8", "BW 0.7 oct", "width 185 Hz": the number stands at i.
    std::size_t width(SheetField& f, const std::string& word, std::size_t i, std::size_t end) {
        const double v = words_[i].value;
        if (word == "q") {
            f.q = v;
            return i + 1;
        }
        if (isUnit(i + 1, end, "oct"))
            f.q = qOfOctaves(v);
        else if (isUnit(i + 1, end, "hz") && f.value > 0)
            f.q = f.value / v;
        else {
            f.question = words_[i].text + " may be a Q or octaves.";
            f.ask = {{"Q " + words_[i].text, f.kind, f.value, v, 0},
                     {words_[i].text + " oct", f.kind, f.value, qOfOctaves(v), 0}};
            return i + 1;
        }
        return i + 2;
    }

    // ---- afterwards ----

    // An edge without a word that says which side it is: below the lowest way's crossing it is a low-pass, above the
    // highest's a high-pass; elsewhere it is asked.
    void settleEdges() {
        const int ways = static_cast<int>(sheet_.ways.size());
        for (const auto index : bare_) {
            auto& f = sheet_.fields[index];
            if (f.way == 1 && ways > 1)
                f.kind = SheetKind::lowPass;
            else if (f.sure() && !(f.way == ways && ways > 1)) {
                f.question = "It is not said on which side of it sound passes.";
                for (const auto& [name, kind] :
                     {std::pair("high-pass", SheetKind::highPass), {"low-pass", SheetKind::lowPass}})
                    f.ask.push_back({name, kind, f.value, f.q, f.slope});
            }
            for (auto& choice : f.ask)
                choice.kind = choice.kind == SheetKind::lowPass ? choice.kind : f.kind;
        }
        for (auto& f : sheet_.fields)
            if (edge(f.kind) && f.slope == 0 && f.sure()) {
                f.question = "Its slope is not said.";
                for (const int slope : {6, 12, 18, 24, 36, 48})
                    f.ask.push_back({print("%d dB/oct", slope), f.kind, f.value, f.q, slope});
            }
    }

    void markUnread() {
        for (std::size_t i = 0; i < words_.size();) {
            const auto idle = [&](std::size_t k) {
                return used_[k] || words_[k].is == Is::sign ||
                       (words_[k].is == Is::word && (sheetFiller().count(words_[k].text)));
            };
            if (idle(i)) {
                ++i;
                continue;
            }
            std::size_t end = i + 1;
            while (end < words_.size() && !used_[end] && words_[end].cell == words_[i].cell)
                ++end;
            while (end > i + 1 && idle(end - 1))
                --end;
            sheet_.unread.push_back({line_, words_[i].from, words_[end - 1].to});
            i = end;
        }
    }

    Sheet sheet_;
    std::size_t line_ = 0;
    std::vector<SheetWord> words_;
    std::vector<bool> used_;
    std::vector<int> columns_; // ways of a table's columns
    std::vector<std::size_t> bare_;
    int way_ = 0;
    bool lineWay_ = false;
};

} // namespace

Sheet readSheet(const std::string& text) {
    return Reader(text).read();
}

} // namespace loom::loudspeaker
