#include "loudspeaker/sheet/lexicon.h"
#include "loudspeaker/sheet/letters.h"

namespace loom::loudspeaker::sheet {

extern const char* const sheetWordsText; // words.txt, made by CMake

namespace {

constexpr std::size_t longestTerm = 6;

const std::map<std::string_view, Means>& names() {
    static const std::map<std::string_view, Means> all{
        {"high-pass", Means::highPass},
        {"low-pass", Means::lowPass},
        {"crossover", Means::crossover},
        {"bell", Means::bell},
        {"low-shelf", Means::lowShelf},
        {"high-shelf", Means::highShelf},
        {"shelf", Means::shelf},
        {"notch", Means::notch},
        {"all-pass", Means::allPass},
        {"level", Means::level},
        {"delay", Means::delay},
        {"polarity", Means::polarity},
        {"impedance", Means::impedance},
        {"least-impedance", Means::leastImpedance},
        {"power", Means::power},
        {"noise-power", Means::noisePower},
        {"peak-power", Means::peakPower},
        {"other-power", Means::otherPower},
        {"sensitivity", Means::sensitivity},
        {"coil", Means::coil},
        {"coverage", Means::coverage},
        {"taps", Means::taps},
        {"driver", Means::driver},
        {"compression", Means::compression},
        {"cone", Means::cone},
        {"name", Means::name},
        {"maker", Means::maker},
        {"peak-limit", Means::peakLimit},
        {"rms-limit", Means::rmsLimit},
        {"limit", Means::limit},
        {"attack", Means::attack},
        {"release", Means::release},
        {"threshold", Means::threshold},
        {"ignored", Means::ignored},
        {"number", Means::number},
        {"type", Means::type},
        {"frequency", Means::frequency},
        {"width", Means::width},
        {"slope", Means::slope},
        {"state", Means::state},
        {"filter", Means::filter},
        {"way-sub", Means::waySub},
        {"way-low", Means::wayLow},
        {"way-low-mid", Means::wayLowMid},
        {"way-mid", Means::wayMid},
        {"way-high-mid", Means::wayHighMid},
        {"way-high", Means::wayHigh},
        {"way", Means::way},
        {"butterworth", Means::butterworth},
        {"linkwitz", Means::linkwitz},
        {"bessel", Means::bessel},
        {"octave-or-butterworth", Means::bw},
        {"order", Means::order},
        {"inverted", Means::inverted},
        {"normal", Means::normal},
        {"off", Means::off},
        {"for-you", Means::forYou},
        {"yes", Means::yes},
        {"minimum", Means::minimum},
        {"less", Means::less},
        {"relative", Means::relative},
        {"both", Means::both},
        {"other-side", Means::otherSide},
        {"times", Means::times},
        {"and", Means::conjunction},
        {"per", Means::per},
        {"whole", Means::whole},
        {"filler", Means::filler},
    };
    return all;
}

// Its words, parted by one blank; "": none, or too many.
std::string termOf(std::string_view text) {
    std::string term;
    std::size_t words = 0;
    bool inside = false;
    for (const char c : folded(text)) {
        const bool part = (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '?';
        if (part && !inside) {
            if (!term.empty())
                term += ' ';
            ++words;
        }
        if (part)
            term += c;
        inside = part;
    }
    return words <= longestTerm ? term : std::string();
}

} // namespace

std::vector<std::string> Lexicon::add(std::string_view text) {
    std::vector<std::string> wrong;
    while (!text.empty()) {
        const auto end = std::min(text.find('\n'), text.size());
        std::string_view line = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
        line = line.substr(0, std::min(line.find('#'), line.size()));
        if (line.find_first_not_of(" \t\r") == std::string_view::npos)
            continue;
        const auto equals = line.find('=');
        std::string_view name = line.substr(0, std::min(equals, line.size()));
        while (!name.empty() && (name.back() == ' ' || name.back() == '\t'))
            name.remove_suffix(1);
        const auto known = names().find(name);
        if (equals == std::string_view::npos || known == names().end()) {
            wrong.emplace_back(line.substr(0, 200));
            continue;
        }
        for (std::string_view rest = line.substr(equals + 1); !rest.empty();) {
            const auto bar = std::min(rest.find('|'), rest.size());
            const auto part = rest.substr(0, bar);
            const bool begin = part.find('*') != std::string_view::npos;
            if (const auto term = termOf(part); !term.empty())
                (begin ? begins_ : terms_)[term].add(known->second);
            rest.remove_prefix(std::min(bar + 1, rest.size()));
        }
    }
    return wrong;
}

void Lexicon::forget(std::string_view words) {
    terms_.erase(termOf(words));
}

std::size_t Lexicon::longest(const std::vector<std::string_view>& words, Meanings& meanings) const {
    std::string term;
    std::size_t found = 0;
    for (std::size_t n = 0; n < words.size() && n < longestTerm; ++n) {
        if (n > 0)
            term += ' ';
        term += words[n];
        if (const auto it = terms_.find(term); it != terms_.end()) {
            found = n + 1;
            meanings = it->second;
        }
    }
    if (found == 0 && !words.empty())
        if (auto it = begins_.upper_bound(words[0]); it != begins_.begin() && words[0].starts_with((--it)->first)) {
            found = 1;
            meanings = it->second;
        }
    return found;
}

Meanings Lexicon::abbreviated(std::string_view word) const {
    Meanings common;
    bool any = false;
    for (auto it = terms_.lower_bound(word); it != terms_.end() && it->first.starts_with(word); ++it) {
        if (it->first.find(' ') != std::string::npos)
            continue;
        if (any)
            common.keep(it->second);
        else
            common = it->second;
        any = true;
    }
    return common;
}

const Lexicon& Lexicon::standard() {
    static const Lexicon one = [] {
        Lexicon l;
        (void)l.add(sheetWordsText);
        return l;
    }();
    return one;
}

} // namespace loom::loudspeaker::sheet
