#include "loudspeaker/sheet_keys.h"

namespace loom::loudspeaker {

const std::vector<SheetKey>& sheetKeys() {
    static const std::vector<SheetKey> all{
        {SheetKind::lowShelf, {"low", "shelf"}},
        {SheetKind::highShelf, {"high", "shelf"}},
        {SheetKind::lowShelf, {"low-shelf"}},
        {SheetKind::highShelf, {"high-shelf"}},
        {SheetKind::lowShelf, {"lowshelf"}},
        {SheetKind::highShelf, {"highshelf"}},
        {SheetKind::highPass, {"high", "pass"}},
        {SheetKind::lowPass, {"low", "pass"}},
        {SheetKind::highPass, {"high-pass"}},
        {SheetKind::lowPass, {"low-pass"}},
        {SheetKind::highPass, {"highpass"}},
        {SheetKind::lowPass, {"lowpass"}},
        {SheetKind::highPass, {"low", "cut"}},
        {SheetKind::lowPass, {"high", "cut"}},
        {SheetKind::highPass, {"hpf"}},
        {SheetKind::lowPass, {"lpf"}},
        {SheetKind::highPass, {"hp"}},
        {SheetKind::lowPass, {"lp"}},
        {SheetKind::bell, {"parametric", "eq"}},
        {SheetKind::bell, {"peq"}},
        {SheetKind::bell, {"parametric"}},
        {SheetKind::bell, {"eq"}},
        {SheetKind::bell, {"bell"}},
        {SheetKind::minimumImpedance, {"minimum", "impedance"}},
        {SheetKind::minimumImpedance, {"min", "impedance"}},
        {SheetKind::minimumImpedance, {"impedance", "minimum"}},
        {SheetKind::minimumImpedance, {"impedance", "min"}},
        {SheetKind::impedance, {"nominal", "impedance"}},
        {SheetKind::impedance, {"rated", "impedance"}},
        {SheetKind::impedance, {"impedance"}},
        {SheetKind::peakPower, {"peak", "power"}},
        {SheetKind::peakPower, {"power", "peak"}},
        {SheetKind::rmsPower, {"noise", "power"}},
        {SheetKind::rmsPower, {"rms", "power"}},
        {SheetKind::rmsPower, {"continuous", "power"}},
        {SheetKind::rmsPower, {"power", "handling"}},
        {SheetKind::rmsPower, {"power", "rms"}},
        {SheetKind::rmsPower, {"power", "aes"}},
        {SheetKind::rmsPower, {"power"}},
        {SheetKind::sensitivity, {"sensitivity"}},
        {SheetKind::sensitivity, {"efficiency"}},
        {SheetKind::coil, {"voice", "coil", "diameter"}},
        {SheetKind::coil, {"voice", "coil"}},
        {SheetKind::coil, {"coil"}},
        {SheetKind::coverage, {"nominal", "coverage"}},
        {SheetKind::coverage, {"coverage"}},
        {SheetKind::coverage, {"dispersion"}},
        {SheetKind::taps, {"transformer", "taps"}},
        {SheetKind::taps, {"taps"}},
        {SheetKind::taps, {"tappings"}},
        {SheetKind::driver, {"compression", "driver"}},
        {SheetKind::driver, {"driver"}},
        {SheetKind::driver, {"transducer"}},
        {SheetKind::polarity, {"polarity"}},
        {SheetKind::polarity, {"phase"}},
        {SheetKind::delay, {"delay"}},
        {SheetKind::gain, {"gain"}},
        {SheetKind::gain, {"level"}},
        {SheetKind::gain, {"trim"}},
        {SheetKind::maker, {"maker"}},
        {SheetKind::maker, {"manufacturer"}},
        {SheetKind::name, {"model"}},
        {SheetKind::name, {"product"}},
    };
    return all;
}

const std::set<std::string>& sheetFiller() {
    static const std::set<std::string> all{"of",
                                           "at",
                                           "the",
                                           "a",
                                           "and",
                                           "with",
                                           "in",
                                           "into",
                                           "per",
                                           "for",
                                           "is",
                                           "to",
                                           "by",
                                           "section",
                                           "sections",
                                           "filter",
                                           "filters",
                                           "settings",
                                           "setting",
                                           "processing",
                                           "nominal",
                                           "rated",
                                           "recommended",
                                           "type",
                                           "each",
                                           "value",
                                           "parameter",
                                           "m",
                                           "no",
                                           "band",
                                           "way",
                                           "rms",
                                           "aes",
                                           "noise",
                                           "program",
                                           "frequency",
                                           "f",
                                           "freq",
                                           "output",
                                           "channel",
                                           "line",
                                           "v",
                                           "unit",
                                           "loudspeaker",
                                           "speaker",
                                           "data",
                                           "sheet",
                                           "specification",
                                           "specifications",
                                           "horizontal",
                                           "vertical",
                                           "h",
                                           "crossover",
                                           "x-over",
                                           "xover"};
    return all;
}

std::string wayWord(const std::string& w) {
    static const std::pair<const char*, const char*> all[] = {
        {"lf", "Low"},  {"low", "Low"},   {"woofer", "Low"},   {"lows", "Low"},   {"bass", "Low"},
        {"sub", "Sub"}, {"mf", "Mid"},    {"mid", "Mid"},      {"middle", "Mid"}, {"midrange", "Mid"},
        {"hf", "High"}, {"high", "High"}, {"tweeter", "High"}, {"highs", "High"}, {"horn", "High"}};
    for (const auto& [word, name] : all)
        if (w == word)
            return name;
    return {};
}

std::optional<int> shapeWord(const std::string& w) {
    static const std::pair<const char*, int> all[] = {
        {"bw", 0},  {"butterworth", 0}, {"butter", 0}, {"lr", 1},  {"linkwitz-riley", 1}, {"linkwitz", 1},
        {"l-r", 1}, {"riley", 1},       {"be", 2},     {"bes", 2}, {"bessel", 2}};
    for (const auto& [word, shape] : all)
        if (w == word)
            return shape;
    return {};
}

} // namespace loom::loudspeaker
