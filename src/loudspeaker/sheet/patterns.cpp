#include "loudspeaker/sheet/patterns.h"
#include "loudspeaker/sheet/letters.h"
#include <algorithm>
#include <array>
#include <set>

namespace loom::loudspeaker {
namespace {

// Topics of questions about how a sheet is written; others are about one value.
constexpr std::array<std::string_view, 9> lasting{
    "Q or octaves", "Hz or kHz", "shape", "slope", "slope and shape", "side", "unit of delays", "rate", "which shelf"};

std::string keyOfTopic(const std::string& topic, std::size_t choices) {
    return topic + "/" + std::to_string(choices);
}

bool letter(char c) {
    return (c >= 'a' && c <= 'z') || c == '?';
}

// Words of folded text without numbers, the last six of them.
std::string wordsOf(const std::string& plain) {
    std::vector<std::string> words(1);
    for (const char c : plain)
        if (letter(c))
            words.back() += c;
        else if (!words.back().empty())
            words.emplace_back();
    if (words.back().empty())
        words.pop_back();
    if (words.size() > 6)
        words.erase(words.begin(), words.end() - 6);
    std::string all;
    for (const auto& w : words)
        all += (all.empty() ? "" : " ") + w;
    return all;
}

// What stands before the first value of a line.
std::string labelOf(const std::string& line) {
    const std::string plain = sheet::folded(line);
    std::size_t end = 0;
    while (end < plain.size() && plain[end] != ':' && plain[end] != '=' && plain[end] != '|' && plain[end] != ';' &&
           plain[end] != '\t' && !(plain[end] >= '0' && plain[end] <= '9'))
        ++end;
    return wordsOf(plain.substr(0, end));
}

} // namespace

namespace sheet {

const SheetPattern* fitting(const std::vector<SheetPattern>& patterns, const Sheet& plain) {
    const auto mine = patternOf(plain);
    const SheetPattern* best = nullptr;
    double most = 0.6;
    for (const auto& p : patterns) {
        if (p.empty())
            continue;
        const bool same = !p.maker.empty() && !mine.maker.empty() && folded(p.maker) == folded(mine.maker);
        const bool other = !p.maker.empty() && !mine.maker.empty() && !same;
        std::size_t alike = 0;
        for (const auto& l : p.labels)
            alike += std::find(mine.labels.begin(), mine.labels.end(), l) != mine.labels.end();
        const double share = p.labels.empty() ? 0 : static_cast<double>(alike) / static_cast<double>(p.labels.size());
        const double fits = other ? 0 : same ? 1 + share : share;
        if (fits >= most) {
            most = fits;
            best = &p;
        }
    }
    return best;
}

void teach(Lexicon& lexicon, const SheetPattern& pattern) {
    for (const auto& [meaning, words] : pattern.words)
        for (const auto& w : words) {
            lexicon.forget(w); // what was said counts more than what it means elsewhere
            (void)lexicon.add(meaning + " = " + w);
        }
}

void answerAs(Sheet& sheet, const SheetPattern& pattern) {
    for (auto& f : sheet.fields)
        if (const auto it = pattern.answers.find(keyOfTopic(f.topic, f.ask.size())); it != pattern.answers.end())
            answer(f, it->second);
}

} // namespace sheet

SheetPattern patternOf(const Sheet& sheet) {
    SheetPattern p;
    std::set<std::string> labels;
    std::set<std::size_t> lines;
    for (const auto& f : sheet.fields) {
        if (f.kind == SheetKind::maker)
            p.maker = f.text;
        lines.insert(f.line);
    }
    for (const auto& u : sheet.unread)
        lines.insert(u.line);
    for (const auto n : lines)
        if (n < sheet.lines.size())
            if (auto label = labelOf(sheet.lines[n]); label.size() > 1 && labels.size() < 60)
                labels.insert(std::move(label));
    p.labels.assign(labels.begin(), labels.end());
    p.name = p.maker.empty() ? "Sheets like this" : p.maker;
    return p;
}

void remember(SheetPattern& pattern, const SheetField& asked, std::size_t choice) {
    if (std::find(lasting.begin(), lasting.end(), asked.topic) != lasting.end() && choice < asked.ask.size())
        pattern.answers[keyOfTopic(asked.topic, asked.ask.size())] = choice;
}

const std::vector<std::pair<std::string, std::string>>& meaningsToSay() {
    static const std::vector<std::pair<std::string, std::string>> all{
        {"high-pass", "High-pass"},
        {"low-pass", "Low-pass"},
        {"crossover", "Crossover"},
        {"bell", "Bell"},
        {"low-shelf", "Low shelf"},
        {"high-shelf", "High shelf"},
        {"level", "Level"},
        {"delay", "Delay"},
        {"polarity", "Polarity"},
        {"impedance", "Impedance"},
        {"least-impedance", "Least impedance"},
        {"noise-power", "Noise power"},
        {"peak-power", "Peak power"},
        {"sensitivity", "Sensitivity"},
        {"coil", "Voice coil"},
        {"coverage", "Coverage"},
        {"taps", "Taps"},
        {"peak-limit", "Peak limit"},
        {"rms-limit", "Limit of the mean"},
        {"maker", "Maker"},
        {"name", "Name"},
        {"way-sub", "A way: sub"},
        {"way-low", "A way: low"},
        {"way-mid", "A way: mid"},
        {"way-high", "A way: high"},
        {"off", "Off"},
        {"ignored", "Nothing, with what follows it"},
    };
    return all;
}

std::string wordsAt(const Sheet& sheet, const SheetSpan& piece) {
    if (piece.line >= sheet.lines.size())
        return {};
    const auto& line = sheet.lines[piece.line];
    const std::size_t from = std::min(piece.from, line.size()), to = std::min(std::max(piece.to, from), line.size());
    const std::string own = sheet::folded(line.substr(from, to - from));
    std::size_t first = 0;
    while (first < own.size() && own[first] == ' ')
        ++first;
    if (first < own.size() && letter(own[first]))
        if (auto words = wordsOf(own); !words.empty())
            return words;
    // a value: the words before it, back to the value before
    std::string before = sheet::folded(line.substr(0, from));
    const auto digit = before.find_last_of("0123456789");
    return wordsOf(digit == std::string::npos ? before : before.substr(digit + 1));
}

} // namespace loom::loudspeaker
