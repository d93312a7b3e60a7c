// Fields of sheets in words, answers to what they ask, and widths.
#include "dsp/number.h"
#include "dsp/units.h"
#include "loudspeaker/sheet.h"
#include "loudspeaker/sheet/item.h"
#include <algorithm>
#include <cmath>
#include <cstdio>

namespace loom::loudspeaker {
namespace {

const char* const shapeNames[] = {"Butterworth", "Linkwitz\u2013Riley", "Bessel"};

} // namespace

const char* idOf(SheetKind kind) {
    static const char* const ids[] = {"name",       "maker",     "driver",      "impedance", "minimumImpedance",
                                      "noisePower", "peakPower", "sensitivity", "coil",      "coverage",
                                      "taps",       "highPass",  "lowPass",     "bell",      "lowShelf",
                                      "highShelf",  "notch",     "allPass",     "level",     "polarity",
                                      "delay"};
    return ids[static_cast<std::size_t>(kind)];
}

const char* unitOf(SheetKind kind) {
    switch (kind) {
    case SheetKind::impedance:
    case SheetKind::minimumImpedance:
        return "ohm";
    case SheetKind::rmsPower:
    case SheetKind::peakPower:
    case SheetKind::taps:
        return "W";
    case SheetKind::sensitivity:
    case SheetKind::gain:
        return "dB";
    case SheetKind::coil:
        return "mm";
    case SheetKind::coverage:
        return "deg";
    case SheetKind::delay:
        return "ms";
    case SheetKind::name:
    case SheetKind::maker:
    case SheetKind::driver:
    case SheetKind::polarity:
        return "";
    default:
        return "Hz";
    }
}

std::string textOf(const SheetField& f) {
    const auto hz = [](double v) { return v >= 1000 ? print("%.4g kHz", v / 1000) : print("%.4g Hz", v); };
    const auto edge = [&](const char* name) {
        return std::string(name) + " " + hz(f.value) + " " + shapeNames[std::clamp(f.shape, 0, 2)] +
               (f.slope ? print(" %d dB/oct", f.slope) : "");
    };
    const auto decibels = [](double v) { // tenths, or hundredths where there are any
        const bool tenths = std::abs(v * 10 - std::round(v * 10)) < 1e-6;
        return tenths ? print("%+.1f dB", v) : print("%+.2f dB", v);
    };
    const auto bell = [&](const char* name) {
        return std::string(name) + " " + hz(f.value) + " " + decibels(f.second) +
               (f.q > 0 ? print(" Q %.2f", f.q) : "");
    };
    switch (f.kind) {
    case SheetKind::name:
        return "Name " + f.text;
    case SheetKind::maker:
        return "Maker " + f.text;
    case SheetKind::driver:
        return f.value > 0 ? "Compression driver" : "Cone";
    case SheetKind::impedance:
        return print("Impedance %.3g ohms", f.value);
    case SheetKind::minimumImpedance:
        return print("Least impedance %.3g ohms", f.value);
    case SheetKind::rmsPower:
        return print("Noise power %.4g W", f.value);
    case SheetKind::peakPower:
        return print("Peak power %.4g W", f.value);
    case SheetKind::sensitivity:
        return print("Sensitivity %.1f dB", f.value);
    case SheetKind::coil:
        return print("Voice coil %.3g mm", f.value);
    case SheetKind::coverage:
        return print("Coverage %.3g x %.3g degrees", f.value, f.second);
    case SheetKind::taps: {
        std::string all = "Taps";
        for (const double w : f.list)
            all += print(" %.3g", w);
        return all + " W";
    }
    case SheetKind::highPass:
        return edge("High-pass");
    case SheetKind::lowPass:
        return edge("Low-pass");
    case SheetKind::bell:
        return bell("Bell");
    case SheetKind::lowShelf:
        return bell("Low shelf");
    case SheetKind::highShelf:
        return bell("High shelf");
    case SheetKind::notch:
        return "Notch " + hz(f.value) + (f.q > 0 ? print(" Q %.2f", f.q) : "");
    case SheetKind::allPass:
        return "All-pass " + hz(f.value) + (f.q > 0 ? print(" Q %.2f", f.q) : "");
    case SheetKind::gain:
        return "Level " + decibels(f.value);
    case SheetKind::polarity:
        return f.value > 0 ? "Polarity inverted" : "Polarity normal";
    case SheetKind::delay:
        return print("Delay %.3g ms", f.value);
    }
    return {};
}

std::string titleOf(const Sheet& sheet) {
    for (std::size_t n = 0; n < std::min<std::size_t>(sheet.lines.size(), 20); ++n) {
        std::string line = sheet.lines[n];
        line.erase(0, std::min(line.find_first_not_of(" \t\r#*/=-\""), line.size()));
        line = line.substr(0, std::min({line.find("  "), line.find('\t'), line.find_first_of(";|\""), line.size()}));
        while (!line.empty() && static_cast<unsigned char>(line.back()) <= ' ')
            line.pop_back();
        if (line.empty())
            continue;
        const bool fact =
            std::any_of(sheet.fields.begin(), sheet.fields.end(), [&](const SheetField& f) { return f.line == n; });
        return fact || line.size() > 60 || line.find(':') != std::string::npos ? std::string() : line;
    }
    return {};
}

double widthToQ(const std::string& text, double centreHz) {
    using namespace sheet;
    Lexer lexer(Lexicon::standard(), {});
    std::vector<const Item*> numbers;
    bool octaves = false, quality = false, hertz = false;
    for (const auto* i : lexer.itemsOf(lettersOf(text.substr(0, 200), 0))) {
        if (i->is == Item::Is::number)
            numbers.push_back(i);
        octaves = octaves || i->unit == Unit::octaves;
        quality = quality || (i->has(Means::width) && i->text == "q");
        hertz = hertz || i->unit == Unit::hz;
    }
    if (numbers.size() == 1 && numbers[0]->value > 0 && quality != octaves)
        return quality ? numbers[0]->value : dsp::qFromOctaves(numbers[0]->value);
    if (numbers.size() == 2 && hertz && centreHz > 0 && std::abs(numbers[1]->value) > numbers[0]->value)
        return centreHz / (std::abs(numbers[1]->value) - numbers[0]->value);
    return 0;
}

} // namespace loom::loudspeaker
