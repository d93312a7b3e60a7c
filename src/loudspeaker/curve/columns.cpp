#include "loudspeaker/curve/columns.h"
#include <algorithm>
#include <array>

namespace loom::loudspeaker::curve {
namespace {

// Words of heads and remarks, folded (sheet/letters), in six languages.
constexpr std::array<Word, 95> words{{
    {"frequency", Role::frequency, In::unsaid},
    {"frequencies", Role::frequency, In::unsaid},
    {"freq", Role::frequency, In::unsaid},
    {"frequenz", Role::frequency, In::unsaid},
    {"frequence", Role::frequency, In::unsaid},
    {"frecuencia", Role::frequency, In::unsaid},
    {"frequenza", Role::frequency, In::unsaid},
    {"frequentie", Role::frequency, In::unsaid},
    {"f", Role::frequency, In::unsaid},
    {"hz", Role::frequency, In::hz},
    {"hertz", Role::frequency, In::hz},
    {"khz", Role::frequency, In::khz},
    {"spl", Role::level, In::db},
    {"level", Role::level, In::unsaid},
    {"magnitude", Role::level, In::unsaid},
    {"mag", Role::level, In::unsaid},
    {"amplitude", Role::level, In::unsaid},
    {"ampl", Role::level, In::unsaid},
    {"gain", Role::level, In::unsaid},
    {"response", Role::level, In::unsaid},
    {"sensitivity", Role::level, In::unsaid},
    {"pegel", Role::level, In::unsaid},
    {"betrag", Role::level, In::unsaid},
    {"niveau", Role::level, In::unsaid},
    {"module", Role::level, In::unsaid},
    {"nivel", Role::level, In::unsaid},
    {"modulo", Role::level, In::unsaid},
    {"livello", Role::level, In::unsaid},
    {"ampiezza", Role::level, In::unsaid},
    {"amplitud", Role::level, In::unsaid},
    {"db", Role::level, In::db},
    {"dbspl", Role::level, In::db},
    {"dbv", Role::level, In::db},
    {"dbu", Role::level, In::db},
    {"dbfs", Role::level, In::db},
    {"dbr", Role::level, In::db},
    {"decibel", Role::level, In::db},
    {"decibels", Role::level, In::db},
    {"linear", Role::level, In::linear},
    {"lin", Role::level, In::linear},
    {"pa", Role::level, In::linear},
    {"pascal", Role::level, In::linear},
    {"v", Role::level, In::linear},
    {"volt", Role::level, In::linear},
    {"volts", Role::level, In::linear},
    {"phase", Role::phase, In::unsaid},
    {"phi", Role::phase, In::unsaid},
    {"fase", Role::phase, In::unsaid},
    {"angle", Role::phase, In::unsaid},
    {"winkel", Role::phase, In::unsaid},
    {"deg", Role::phase, In::degrees},
    {"degree", Role::phase, In::degrees},
    {"degrees", Role::phase, In::degrees},
    {"grad", Role::phase, In::degrees},
    {"degres", Role::phase, In::degrees},
    {"grados", Role::phase, In::degrees},
    {"gradi", Role::phase, In::degrees},
    {"graden", Role::phase, In::degrees},
    {"\2", Role::phase, In::degrees},
    {"rad", Role::phase, In::radians},
    {"radian", Role::phase, In::radians},
    {"radians", Role::phase, In::radians},
    {"radiant", Role::phase, In::radians},
    {"real", Role::real, In::unsaid},
    {"re", Role::real, In::unsaid},
    {"realteil", Role::real, In::unsaid},
    {"reel", Role::real, In::unsaid},
    {"reale", Role::real, In::unsaid},
    {"r", Role::real, In::unsaid},
    {"imag", Role::imaginary, In::unsaid},
    {"imaginary", Role::imaginary, In::unsaid},
    {"im", Role::imaginary, In::unsaid},
    {"imaginar", Role::imaginary, In::unsaid},
    {"imaginaire", Role::imaginary, In::unsaid},
    {"immaginario", Role::imaginary, In::unsaid},
    {"x", Role::imaginary, In::unsaid},
    {"coherence", Role::coherence, In::unsaid},
    {"coh", Role::coherence, In::unsaid},
    {"koharenz", Role::coherence, In::unsaid},
    {"coherencia", Role::coherence, In::unsaid},
    {"coerenza", Role::coherence, In::unsaid},
    {"impedance", Role::level, In::unsaid},
    {"impedanz", Role::level, In::unsaid},
    {"z", Role::level, In::unsaid},
    {"ohm", Role::level, In::ohm},
    {"ohms", Role::level, In::ohm},
    {"\1", Role::level, In::ohm},
    {"kohm", Role::level, In::kilohm},
    {"time", Role::time, In::unsaid},
    {"zeit", Role::time, In::unsaid},
    {"temps", Role::time, In::unsaid},
    {"s", Role::time, In::seconds},
    {"sec", Role::time, In::seconds},
    {"ms", Role::time, In::ms},
    {"no", Role::index, In::unsaid},
}};

} // namespace

std::vector<std::string> wordsOf(const std::string& text) {
    std::vector<std::string> all;
    std::string word;
    for (const char c : text + " ") {
        if ((c >= 'a' && c <= 'z') || c == '\1' || c == '\2') {
            word += c;
            if (c == '\2' && word.size() > 1) { // "20\2": a sign by itself
                word.pop_back();
                all.push_back(word);
                word = c;
            }
            continue;
        }
        if (!word.empty())
            all.push_back(word);
        word.clear();
    }
    return all;
}

const Word* known(const std::string& word) {
    const auto it = std::find_if(words.begin(), words.end(), [&](const Word& w) { return w.text == word; });
    return it == words.end() ? nullptr : it;
}

Column columnOf(const std::string& text) {
    Column c{Role::unknown, In::unsaid, text};
    Role weak = Role::unknown, byUnit = Role::unknown; // of letters that may be anything; of units
    bool decibels = false;
    for (const auto& word : wordsOf(text)) {
        if (word == "thd" || word == "distortion" || word == "group" || word == "klirr" || word == "excess") {
            c.role = Role::other;
            return c;
        }
        const auto* w = known(word);
        if (!w)
            continue;
        decibels = decibels || w->in == In::db;
        if (word.size() <= 2 && word != "hz" && word != "db" && word != "ms" && word != "\1" && word != "\2") {
            weak = weak == Role::unknown ? w->role : weak;
        } else if (w->in != In::unsaid && word != "spl") {
            if (c.in == In::unsaid)
                c.in = w->in;
            if (byUnit == Role::unknown)
                byUnit = w->role;
        } else if (c.role == Role::unknown || (c.role == Role::level && w->role != Role::level)) {
            c.role = w->role;
        }
    }
    if (decibels) { // "0\2 (dB)": degrees off the axis, a level
        c.in = In::db;
        byUnit = Role::level;
    }
    const bool part = (weak == Role::real || weak == Role::imaginary) && (c.in == In::ohm || c.in == In::kilohm);
    if (part) // "R (ohm)", "X (ohm)"
        byUnit = weak;
    c.role = c.role != Role::unknown ? c.role : byUnit != Role::unknown ? byUnit : weak;
    if (c.in == In::unsaid && c.role == Role::time && weak == Role::time && text.find("ms") == std::string::npos)
        c.in = In::seconds;
    if (c.in == In::unsaid && c.role == Role::level && (text == "v" || text == "pa"))
        c.in = In::linear;
    return c;
}

} // namespace loom::loudspeaker::curve
