// What a sheet says of all its words and numbers, before its rows are read.
#include "loudspeaker/sheet/reader.h"
#include <algorithm>
#include <array>

namespace loom::loudspeaker::sheet {

namespace {
bool bareDriver(const Item& i) {
    return i.has(Means::driver) && (i.text == "driver" || i.text == "treiber");
}
} // namespace

void Reader::driverSays() {
    bool table = false, low = false;
    for (const auto& row : rows_) {
        std::size_t lows = 0, drivers = 0, others = 0;
        bool apart = row.cells.size() > 1;
        for (const auto* i : joined(row))
            if (i->has(Means::wayLow)) {
                ++lows;
                apart = apart || i->text == "woofer"; // "low frequency driver" is one
            } else if (bareDriver(*i))
                ++drivers;
            else
                others += i->is != Item::Is::sign && !i->has(Means::filler);
        table = table || (apart && lows == 1 && drivers == 1 && others == 0);
        low = low || lows > 0;
    }
    driverBeside_ = table;
    driverSpoken_ = low;
}

// What these have found, on items.
void Reader::asSheetSays(const Run& run) const {
    static const std::array<const char*, 14> articles{"the", "der", "den", "dem", "il", "sul", "al",
                                                      "dal", "nel", "el",  "le",  "de", "del", "du"};
    for (std::size_t k = 0; k < run.size(); ++k) {
        Item& one = *run[k];
        const bool spoken = k > 0 && (run[k - 1]->has(Means::filler) ||
                                      std::count(articles.begin(), articles.end(), run[k - 1]->text) > 0);
        if (bareDriver(one) && driverSpoken_ && (driverBeside_ || spoken)) {
            one.means.drop(Means::driver);
            one.means.add(Means::wayHigh);
        }
        if (one.text == "en" && enIsNoAnd_)
            one.means.drop(Means::conjunction);
        if (twoWays_)
            for (const Means mid : {Means::wayLowMid, Means::wayMid, Means::wayHighMid})
                one.means.drop(mid);
    }
}

// "en" is "and" in Dutch, "in" in French and Spanish.
void Reader::languageSays() {
    static const std::array<const char*, 8> dutch{"het", "een", "van", "op", "bij", "met", "voor", "wordt"};
    static const std::array<const char*, 12> other{"el",  "la",  "le",   "los",  "un", "une",
                                                   "una", "con", "avec", "para", "du", "des"};
    std::ptrdiff_t balance = 0;
    for (const auto& i : lexer_->all()) {
        balance += std::count(dutch.begin(), dutch.end(), i.text);
        balance -= std::count(other.begin(), other.end(), i.text);
    }
    enIsNoAnd_ = balance < 0;
}

// "A two-way loudspeaker": its low midrange is no way.
void Reader::twoWaysSay() {
    static const std::array<const char*, 7> two{"two", "zwei", "zweiweg", "deux", "dos", "due", "twee"};
    static const std::array<const char*, 8> ways{"way", "ways", "weg", "wege", "voies", "vias", "vie", "wegs"};
    const auto one = [](const auto& list, const Item& i) { return std::count(list.begin(), list.end(), i.text) > 0; };
    bool said = false, low = false, high = false;
    const Item* before = nullptr;
    for (const auto& i : lexer_->all()) {
        low = low || i.any({Means::wayLow, Means::waySub});
        high = high || (i.has(Means::wayHigh) && !keyOf(i));
        if (i.is_("-"))
            continue;
        const bool number =
            before &&
            ((before->is == Item::Is::number && before->value == 2 && before->unit == Unit::none) || one(two, *before));
        said = said || (number && one(ways, i)) || i.text == "zweiweg" || i.text == "tweeweg" ||
               i.text == "biamplificazione";
        before = &i;
    }
    twoWays_ = said && low && high;
}

void Reader::sheetSays() {
    for (const auto& row : rows_)
        for (const auto& cell : row.cells) {
            const auto& run = cell.items;
            for (std::size_t i = 0; i < run.size(); ++i) {
                const Item& one = *run[i];
                std::size_t k = i + 1;
                while (k < run.size() &&
                       (run[k]->is_("(") || run[k]->is_("/") || run[k]->is_("[") || run[k]->text == "in" ||
                        run[k]->text == "as" || run[k]->text == "are" || run[k]->is_(":")))
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
                if (next && one.has(Means::delay) && next->is == Item::Is::word && k > i + 1 && next->unit == Unit::ms)
                    facts_.said.delay = next->text == "us" || next->text == "usec" ? 0.001
                                        : next->text == "s"                        ? 1000
                                                                                   : 1;
                // "(48 kHz)", "processor at 96 kHz"
                if (one.is == Item::Is::number && one.unit == Unit::hz)
                    for (const double rate : {44100.0, 48000.0, 88200.0, 96000.0, 192000.0})
                        if (one.value == rate && facts_.said.rate == 0)
                            facts_.said.rate = rate;
            }
        }
}

} // namespace loom::loudspeaker::sheet
