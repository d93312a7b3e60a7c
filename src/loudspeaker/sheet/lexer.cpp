#include "dsp/number.h"
#include "dsp/units.h"
#include "loudspeaker/sheet/item.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace loom::loudspeaker::sheet {
namespace {

bool digit(char c) {
    return c >= '0' && c <= '9';
}
bool letter(char c) {
    return (c >= 'a' && c <= 'z') || c == '?';
}

struct UnitWord {
    Unit unit;
    double factor;
};
const std::map<std::string_view, UnitWord>& unitWords() {
    static const std::map<std::string_view, UnitWord> all{{"hz", {Unit::hz, 1}},
                                                          {"khz", {Unit::hz, 1000}},
                                                          {"kc", {Unit::hz, 1000}},
                                                          {"cps", {Unit::hz, 1}},
                                                          {"cycles", {Unit::hz, 1}},
                                                          {"hertz", {Unit::hz, 1}},
                                                          {"db", {Unit::db, 1}},
                                                          {"dbspl", {Unit::db, 1}},
                                                          {"oct", {Unit::octaves, 1}},
                                                          {"octave", {Unit::octaves, 1}},
                                                          {"octaves", {Unit::octaves, 1}},
                                                          {"okt", {Unit::octaves, 1}},
                                                          {"oktave", {Unit::octaves, 1}},
                                                          {"oktaven", {Unit::octaves, 1}},
                                                          {"ott", {Unit::octaves, 1}},
                                                          {"ottava", {Unit::octaves, 1}},
                                                          {"ottave", {Unit::octaves, 1}},
                                                          {"octava", {Unit::octaves, 1}},
                                                          {"octavas", {Unit::octaves, 1}},
                                                          {"octaaf", {Unit::octaves, 1}},
                                                          {"octaven", {Unit::octaves, 1}},
                                                          {"ms", {Unit::ms, 1}},
                                                          {"msec", {Unit::ms, 1}},
                                                          {"us", {Unit::ms, 0.001}},
                                                          {"usec", {Unit::ms, 0.001}},
                                                          {"s", {Unit::ms, 1000}},
                                                          {"sec", {Unit::ms, 1000}},
                                                          {"samples", {Unit::samples, 1}},
                                                          {"sample", {Unit::samples, 1}},
                                                          {"smp", {Unit::samples, 1}},
                                                          {"smpl", {Unit::samples, 1}},
                                                          {"m", {Unit::metres, 1}},
                                                          {"metre", {Unit::metres, 1}},
                                                          {"metres", {Unit::metres, 1}},
                                                          {"meter", {Unit::metres, 1}},
                                                          {"ft", {Unit::metres, dsp::metresPerFoot}},
                                                          {"feet", {Unit::metres, dsp::metresPerFoot}},
                                                          {"foot", {Unit::metres, dsp::metresPerFoot}},
                                                          {"cm", {Unit::mm, 10}},
                                                          {"mm", {Unit::mm, 1}},
                                                          {"in", {Unit::mm, 25.4}},
                                                          {"inch", {Unit::mm, 25.4}},
                                                          {"inches", {Unit::mm, 25.4}},
                                                          {"zoll", {Unit::mm, 25.4}},
                                                          {"ohm", {Unit::ohm, 1}},
                                                          {"ohms", {Unit::ohm, 1}},
                                                          {"ohmios", {Unit::ohm, 1}},
                                                          {"w", {Unit::watt, 1}},
                                                          {"watt", {Unit::watt, 1}},
                                                          {"watts", {Unit::watt, 1}},
                                                          {"kw", {Unit::watt, 1000}},
                                                          {"v", {Unit::volt, 1}},
                                                          {"vrms", {Unit::volt, 1}},
                                                          {"vpk", {Unit::volt, 1}},
                                                          {"vp", {Unit::volt, 1}},
                                                          {"volt", {Unit::volt, 1}},
                                                          {"deg", {Unit::degrees, 1}},
                                                          {"degree", {Unit::degrees, 1}},
                                                          {"degrees", {Unit::degrees, 1}},
                                                          {"grad", {Unit::degrees, 1}},
                                                          {"graden", {Unit::degrees, 1}},
                                                          {"grados", {Unit::degrees, 1}},
                                                          {"degres", {Unit::degrees, 1}},
                                                          {"gradi", {Unit::degrees, 1}},
                                                          {"dbu", {Unit::dbu, 1}},
                                                          {"kg", {Unit::other, 1}},
                                                          {"lb", {Unit::other, 1}},
                                                          {"hrs", {Unit::other, 1}}};
    return all;
}

} // namespace

Writing writingOf(const std::vector<Letters>& lines) {
    Writing w;
    int torn = 0, tornCommas = 0;
    for (const auto& l : lines)
        for (std::size_t i = 1; i + 1 < l.size(); ++i) {
            const char c = l[i].c;
            if (c != '.' && c != ',')
                continue;
            if (i >= 2 && i + 2 < l.size() && l[i - 1].c == ' ' && digit(l[i - 2].c) && l[i + 1].c == ' ' &&
                digit(l[i + 2].c))
                ++(c == '.' ? torn : tornCommas);
            if (!digit(l[i - 1].c) || !digit(l[i + 1].c))
                continue;
            std::size_t behind = i + 1;
            while (behind < l.size() && digit(l[behind].c))
                ++behind;
            const bool zero = l[i - 1].c == '0' && (i < 2 || !digit(l[i - 2].c)); // "0,420" is no thousand
            if (behind - i - 1 != 3 || zero)
                (c == ',' ? w.decimalComma : w.decimalPoint) = true;
        }
    w.torn = torn >= 2;
    if (torn == 0 && tornCommas >= 2 && !w.decimalPoint) // "95 , 5 dB"
        w.torn = w.decimalComma = true;
    return w;
}

// One way through the letters.
struct Lexer::Scan {
    const Letters& s;
    Lexer& lexer;
    Run out{};
    std::size_t i = 0;

    char at(std::size_t k) const { return k < s.size() ? s[k].c : '\0'; }
    Item& put(Item::Is is, std::size_t from, std::size_t to) {
        auto& item = lexer.all_.emplace_back();
        item.is = is;
        item.line = s[from].line;
        item.from = s[from].from;
        item.to = s[from].to;
        for (std::size_t k = from; k < to; ++k) {
            item.text += s[k].c;
            if (s[k].line == item.line)
                item.to = std::max(item.to, s[k].to);
        }
        out.push_back(&item);
        return item;
    }
    bool lastMeans(std::initializer_list<Means> all) const { return !out.empty() && out.back()->any(all); }

    // Digits with what belongs to them, from k on, into `number`; where they end.
    std::size_t digitsFrom(std::size_t k, std::string& number) const {
        std::size_t whole = 0;
        bool fraction = false;
        const std::size_t first = k;
        while (digit(at(k)) || ((at(k) == '.' || at(k) == ',') && digit(at(k + 1)))) {
            if (digit(at(k))) {
                number += at(k++);
                whole += !fraction;
                continue;
            }
            std::size_t behind = k + 1;
            while (digit(at(behind)))
                ++behind;
            const bool threes = behind - k - 1 == 3 && whole <= 3 && number != "0";
            const auto& w = lexer.writing_;
            const bool thousands =
                at(k) == ',' ? threes && !w.decimalComma : threes && w.decimalComma && !w.decimalPoint;
            if (fraction)
                return k; // "1.2.3": a version, a date
            if (!thousands) {
                number += '.';
                fraction = true;
            }
            ++k;
        }
        if (fraction)
            return k;
        // "1 200 W", "1 . 4": what a blank tore apart.
        if (at(k) == ' ' && digit(at(k + 1)) && digit(at(k + 2)) && digit(at(k + 3)) && !digit(at(k + 4)) &&
            whole <= 3 && at(first) != '0' && !(first > 0 && letter(at(first - 1))) &&
            !lastMeans({Means::linkwitz, Means::butterworth, Means::bessel, Means::bw})) {
            const std::size_t end = k + 4;
            std::size_t unit = end;
            while (at(unit) == ' ')
                ++unit;
            const bool stated = at(unit) == 'w' || at(unit) == 'k' || at(unit) == 'h';
            if (s[k].narrow || lexer.writing_.torn || (stated && end + 1 >= unit)) {
                number += {at(k + 1), at(k + 2), at(k + 3)};
                k = end;
            }
        }
        if (lexer.writing_.torn && at(k) == ' ' && (at(k + 1) == '.' || at(k + 1) == ',') && at(k + 2) == ' ' &&
            digit(at(k + 3)) && (at(k + 1) == '.' || lexer.writing_.decimalComma)) {
            number += '.';
            for (k += 3; digit(at(k)); ++k)
                number += at(k);
        }
        return k;
    }
    // The letters of a word from k on.
    std::size_t wordEnd(std::size_t k) const {
        while (letter(at(k)))
            ++k;
        return k;
    }
    std::string letters(std::size_t from, std::size_t to) const {
        std::string all;
        for (std::size_t k = from; k < to; ++k)
            all += s[k].c;
        return all;
    }
    bool quoted(std::size_t k) const { // a quote that closes one: "frequency": "45"
        for (std::size_t n = k; n-- > 0;)
            if (s[n].c == '"')
                return n == 0 || s[n - 1].c == ' ' || s[n - 1].c == '=' || s[n - 1].c == ':' || s[n - 1].c == ',' ||
                       s[n - 1].c == '[' || s[n - 1].c == '{';
        return false;
    }
    // A unit that begins at k, blanks before it allowed; where it ends (k: none).
    std::size_t unitAt(std::size_t k, UnitWord& unit) const {
        std::size_t from = k;
        while (at(from) == ' ' && from < k + 2)
            ++from;
        if (at(from) == ohmSign || at(from) == degreeSign) {
            unit = {at(from) == ohmSign ? Unit::ohm : Unit::degrees, 1};
            return from + 1;
        }
        if (at(from) == 'k' && at(from + 1) == ohmSign) {
            unit = {Unit::ohm, 1000};
            return from + 2;
        }
        if ((at(from) == '"' && !quoted(from)) || (at(from) == '\'' && at(from + 1) == '\'')) {
            unit = {Unit::mm, 25.4};
            return from + (at(from) == '"' ? 1 : 2);
        }
        const std::size_t end = wordEnd(from);
        if (end == from + 1 && end == k + 1 && at(from) == 'r' && !digit(at(end))) { // "8R"
            unit = {Unit::ohm, 1};
            return end;
        }
        if (end == from + 1 && at(from) == 'q') { // "1.8 Q", but not "+2 Q 1.4"
            std::size_t next = end;
            while (at(next) == ' ' || at(next) == '=' || at(next) == ':')
                ++next;
            if (digit(at(next)) || at(next) == '.')
                return k;
            unit = {Unit::quality, 1};
            return end;
        }
        const auto it = unitWords().find(letters(from, end));
        if (end == from || it == unitWords().end() || (end == from + 1 && at(end) == '\'' && letter(at(end + 1))))
            return k; // "Wren 15 s'utilise"
        // "24 dB / octave", "18 dB per octave": a slope. One that is "in" something is none.
        unit = it->second;
        if (unit.unit == Unit::db) {
            std::size_t next = end;
            const auto blanks = [&] {
                while (at(next) == ' ')
                    ++next;
            };
            blanks();
            bool per = at(next) == '/';
            if (per) {
                ++next;
                blanks();
            } else if (const std::size_t word = wordEnd(next); word > next) {
                Meanings m;
                const std::string w = letters(next, word);
                if (lexer.lexicon_.longest({w}, m) && m.has(Means::per)) {
                    per = true;
                    next = word;
                    blanks();
                }
            }
            const std::size_t last = wordEnd(next);
            const auto octave = unitWords().find(letters(next, last));
            if (per && octave != unitWords().end() && octave->second.unit == Unit::octaves) {
                unit = {Unit::slope, 1};
                return last;
            }
            if (per && next < s.size() && letters(next, last).empty() && digit(at(next)))
                return end;
        }
        return end;
    }
    bool number() {
        const char c = at(i);
        std::size_t first = i;
        const bool dash = c == '-' || c == rangeDash;
        bool sign = false;
        if (dash || c == '+') {
            std::size_t before = i;
            bool blank = false;
            while (before > 0 && at(before - 1) == ' ') {
                --before;
                blank = true;
            }
            const char last = before > 0 ? at(before - 1) : '\0';
            const bool beside = i > 0 && !blank && (digit(last) || letter(last) || last == ')');
            std::size_t next = i + 1;
            while (at(next) == ' ' && next < i + 3)
                ++next;
            const bool apart = next > i + 1;
            // "5 - 45": a range, but where numbers are torn, or a sign is all that can be meant
            const bool range = dash && apart && (digit(last) || last == 'z') && !lexer.writing_.torn;
            if (!beside && !range && (digit(at(next)) || (at(next) == '.' && digit(at(next + 1))))) {
                first = next;
                sign = true;
            }
        }
        if (!digit(at(first)) && !(at(first) == '.' && digit(at(first + 1)) &&
                                   !(first > 0 && (digit(at(first - 1)) || letter(at(first - 1))))))
            return false;
        std::string text;
        std::size_t end = digitsFrom(first, text);
        if (text.empty())
            return false;
        if (text.front() == '.')
            text.insert(text.begin(), '0');
        const auto read = leadingNumber(text.substr(0, 40));
        double value = read.value;
        bool kilo = false, ordinal = false;
        // "1k1", "2K5", "8k"
        if (at(end) == 'k' &&
            (digit(at(end + 1)) || !letter(at(end + 1)) || (at(end + 1) == 'h' && at(end + 2) == 'z'))) {
            kilo = true;
            std::string more;
            std::size_t k = end + 1;
            while (digit(at(k)))
                more += at(k++);
            if (!more.empty())
                value = leadingNumber(text + "." + more).value;
            value *= 1000;
            const bool hertz = at(k) == 'h' && at(k + 1) == 'z';
            end = hertz ? k + 2 : k;
        }
        for (const char* th : {"st", "nd", "rd", "th"})
            if (at(end) == th[0] && at(end + 1) == th[1] && !letter(at(end + 2))) {
                ordinal = true;
                end += 2;
                break;
            }
        // "2/3 oct", "1 1/2 octaves"
        UnitWord unit{Unit::none, 1};
        std::size_t behind = end;
        const bool integer = text.find('.') == std::string::npos && !kilo;
        if (integer && at(end) == '/' && digit(at(end + 1)) && !digit(at(end + 2)) && at(end + 1) != '0') {
            UnitWord octaves{Unit::none, 1};
            const std::size_t after = unitAt(end + 2, octaves);
            if (after > end + 2 && octaves.unit == Unit::octaves) {
                value /= at(end + 1) - '0';
                end = end + 2;
            }
        } else if (integer && at(end) == ' ' && digit(at(end + 1)) && at(end + 2) == '/' && digit(at(end + 3)) &&
                   !digit(at(end + 4)) && at(end + 1) < at(end + 3)) {
            UnitWord any{Unit::none, 1};
            if (unitAt(end + 4, any) > end + 4) {
                value += static_cast<double>(at(end + 1) - '0') / (at(end + 3) - '0');
                end = end + 4;
            }
        }
        behind = end;
        if (!kilo || at(end - 1) != 'z')
            behind = ordinal ? end : unitAt(end, unit);
        if (kilo && unit.unit == Unit::none)
            unit = {Unit::hz, 1};
        auto& item = put(Item::Is::number, i, behind);
        item.value = (c == '-' || c == rangeDash) && sign ? -value : value;
        item.value *= unit.factor;
        item.unit = unit.unit;
        item.kilo = kilo;
        item.sign = sign;
        item.ordinal = ordinal;
        item.whole = integer;
        const bool timesBefore = i > 1 && at(i - 1) == 'x' && digit(at(i - 2)); // "100x100"
        item.glued = i > 0 && first == i && letter(at(i - 1)) && !timesBefore;
        i = std::max(behind, i + 1);
        return true;
    }
    // The longest term that begins here, or one word.
    void word() {
        std::vector<std::string> words;
        std::vector<std::size_t> ends;
        for (std::size_t k = i; words.size() < 6;) {
            const std::size_t end = wordEnd(k);
            if (end == k)
                break;
            std::size_t stop = end;
            std::string w = letters(k, end);
            if (w == "aes" && at(stop) == '2')
                w += at(stop++);
            else if (digit(at(stop)) && w == "f")
                w = at(stop) == '0' ? w += at(stop++) : w;
            words.push_back(w);
            ends.push_back(stop);
            k = stop;
            if ((at(k) == '-' || at(k) == rangeDash || at(k) == '_' || at(k) == '/' || at(k) == '.') &&
                letter(at(k + 1)))
                ++k;
            else if (at(k) == ' ' && letter(at(k + 1)))
                ++k;
            else if (at(k) == ' ' && (at(k + 1) == '-' || at(k + 1) == rangeDash) && at(k + 2) == ' ' &&
                     letter(at(k + 3)))
                k += 3; // "Linkwitz - Riley"
            else if (at(k) == '.' && at(k + 1) == ' ' && w.size() <= 5 && letter(at(k + 2)))
                k += 2; // "nom. impedance"
            else if (at(k) == ' ' && at(k + 1) == '(' && letter(at(k + 2)))
                k += 2; // "Belastbarkeit (AES)"
            else if (at(k) == ',' && at(k + 1) == ' ' && letter(at(k + 2)))
                k += 2; // "Power, noise"
            else
                break;
        }
        std::vector<std::string_view> views(words.begin(), words.end());
        Meanings means;
        std::size_t taken = lexer.lexicon_.longest(views, means);
        // "LO/MID" are two ways, no low mid.
        if (taken > 1 && at(ends[0]) == '/' && means.any({Means::wayLowMid, Means::wayHighMid})) {
            views.resize(1);
            means = {};
            taken = lexer.lexicon_.longest(views, means);
        }
        if (taken == 0 && words[0].size() >= (at(ends[0]) == '.' ? 3U : 4U) && words[0].size() <= 5)
            means = lexer.lexicon_.abbreviated(words[0]);
        const std::size_t end = ends[taken > 0 ? taken - 1 : 0];
        auto& item = put(Item::Is::word, i, end);
        item.means = means;
        item.text = words[0];
        for (std::size_t n = 1; n < taken; ++n)
            item.text += " " + words[n];
        if (const auto it = unitWords().find(item.text); it != unitWords().end())
            item.unit = it->second.unit;
        if (means.none() || item.unit != Unit::none) { // "one octave", "dB/oct"
            UnitWord unit{Unit::none, 1};
            if (item.text == "one" || item.text == "ein" || item.text == "eine" || item.text == "un" ||
                item.text == "une" || item.text == "een" || item.text == "una")
                if (const std::size_t behind = unitAt(end, unit);
                    behind > end && unit.unit != Unit::none && unit.unit != Unit::quality) {
                    item.is = Item::Is::number;
                    item.value = unit.factor;
                    item.unit = unit.unit;
                    i = behind;
                    return;
                }
            if (item.unit == Unit::db) {
                std::size_t next = end;
                if (at(next) == '/' && unitAt(next + 1, unit) > next + 1 && unit.unit == Unit::octaves) {
                    item.unit = Unit::slope;
                    i = unitAt(next + 1, unit);
                    return;
                }
            }
        }
        i = end;
    }
    void run() {
        bool gap = false;
        while (i < s.size()) {
            const std::size_t before = out.size();
            const char c = at(i);
            if (c == ' ' || c == '\t' || c == '_') {
                std::size_t end = i;
                bool tab = false;
                while (at(end) == ' ' || at(end) == '\t' || at(end) == '_')
                    tab = at(end++) == '\t' || tab;
                gap = gap || end - i >= 2 || tab;
                i = end;
                continue;
            }
            if (!number()) {
                if (letter(c)) {
                    word();
                } else {
                    auto& item = put(Item::Is::sign, i, i + 1);
                    if (c == rangeDash)
                        item.text = "-";
                    if (c == ohmSign || c == degreeSign) {
                        item.is = Item::Is::word;
                        item.unit = c == ohmSign ? Unit::ohm : Unit::degrees;
                    }
                    ++i;
                }
            }
            if (out.size() > before)
                out[before]->gap = std::exchange(gap, false);
        }
    }
};

Run Lexer::itemsOf(const Letters& letters) {
    Scan scan{letters, *this};
    scan.run();
    // "8 / 8 / 6 ohms": the unit is that of all.
    auto& run = scan.out;
    for (std::size_t k = run.size(); k-- > 2;)
        if (run[k]->is == Item::Is::number && run[k]->unit != Unit::none && run[k - 1]->is == Item::Is::sign &&
            (run[k - 1]->text == "/") && run[k - 2]->is == Item::Is::number && run[k - 2]->unit == Unit::none &&
            !run[k - 2]->sign && !(k > 2 && run[k - 3]->has(Means::width)))
            run[k - 2]->unit = run[k]->unit;
    // "Delay [ms]: 0.22", "gain_db": -3": the label's unit is that of the bare number behind it.
    for (std::size_t k = 1; k < run.size(); ++k) {
        const bool unit =
            run[k]->is == Item::Is::word && run[k]->unit != Unit::none && run[k - 1]->is != Item::Is::number;
        if (!unit)
            continue;
        std::size_t n = k + 1;
        bool parted = false;
        while (n < run.size() && run[n]->is == Item::Is::sign && run[n]->text != "-" && run[n]->text != "+") {
            parted = parted || run[n]->is_(":") || run[n]->is_("=");
            ++n;
        }
        if (parted && n < run.size() && run[n]->is == Item::Is::number && run[n]->unit == Unit::none &&
            !run[n]->ordinal) {
            run[n]->unit = run[k]->unit;
            run[n]->value *= unitWords().count(run[k]->text) ? unitWords().at(run[k]->text).factor : 1;
        }
    }
    return std::move(scan.out);
}

} // namespace loom::loudspeaker::sheet
