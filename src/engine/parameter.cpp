#include "engine/parameter.h"
#include "dsp/number.h"
#include "dsp/units.h"
#include <algorithm>
#include <cmath>

namespace loom::engine {
namespace {

std::string fixed(double v, int digits) {
    const std::string text = fixedText(std::abs(v), digits);
    return (v < 0 && text.find_first_not_of("0.") != std::string::npos ? "\u2212" : "") + text;
}

std::string withSign(double v, int digits) {
    std::string t = fixed(v, digits);
    return v > 0 && t.find_first_not_of("0.") != std::string::npos ? "+" + t : t;
}

int digitsFor(double v) {
    return std::abs(v) >= 100 ? 0 : std::abs(v) >= 10 ? 1 : 2;
}

std::string lowered(const std::string& text) {
    std::string t;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text.compare(i, 3, "\u2212") == 0) {
            t += '-';
            i += 2;
        } else if (text.compare(i, 3, "\u2013") == 0) {
            t += '-';
            i += 2;
        } else if (!std::isspace(static_cast<unsigned char>(text[i]))) {
            t += static_cast<char>(std::tolower(static_cast<unsigned char>(text[i])));
        }
    }
    return t;
}

// A number in front, the rest behind. "3k1" gives 3.1 and "k".
bool splitNumber(const std::string& t, double& number, std::string& rest, bool& unsure) {
    const auto typed = typedNumber(t);
    if (typed.length == 0 || typed.length > 24)
        return false;
    unsure = typed.unsure;
    number = typed.value;
    rest = t.substr(typed.length);
    if (rest.size() > 1 && rest[0] == 'k' && std::isdigit(static_cast<unsigned char>(rest[1])) &&
        t.find_first_of(".,") >= typed.length) {
        std::size_t j = 1;
        while (j < rest.size() && std::isdigit(static_cast<unsigned char>(rest[j])))
            ++j;
        if (j > 12)
            return false;
        number = typedNumber(t.substr(0, typed.length) + "." + rest.substr(1, j - 1)).value;
        rest = "k" + rest.substr(j);
    }
    return rest.empty() || rest[0] != '.';
}

Error notUnderstood(const ParamSpec& s, const std::string& text) {
    std::string remedy;
    if (s.unit == Unit::choice) {
        remedy = "Use one of:";
        for (std::size_t i = 0; i < s.choices.size(); ++i)
            remedy += " " + s.choices[i] + (i < s.shortForms.size() ? " (" + s.shortForms[i] + ")" : "") +
                      (i + 1 == s.choices.size() ? "." : ",");
    } else if (s.unit == Unit::onOff) {
        remedy = "Use on or off.";
    } else {
        remedy = "Use a number from " + formatValue(s, s.min) + " to " + formatValue(s, s.max) + ".";
    }
    return {"\"" + text.substr(0, 60) + "\" is not a value for " + s.label, "", remedy};
}

Result<double> parseChoice(const ParamSpec& s, const std::string& text, const std::string& t) {
    int found = -1, hits = 0;
    const auto shorts = std::min(s.shortForms.size(), s.choices.size());
    for (std::size_t i = 0; i < shorts; ++i)
        if (lowered(s.shortForms[i]) == t)
            return static_cast<double>(i);
    for (int i = 0; i < static_cast<int>(s.choices.size()); ++i) {
        const std::string name = lowered(s.choices[static_cast<std::size_t>(i)]);
        if (name == t)
            return static_cast<double>(i);
        if (!t.empty() && name.compare(0, t.size(), t) == 0) {
            found = i;
            ++hits;
        }
    }
    if (hits == 1)
        return static_cast<double>(found);
    return notUnderstood(s, text);
}

// Factor from the typed unit to the parameter's own; 0: not a unit of this parameter.
double unitFactor(const ParamSpec& s, const std::string& u) {
    if (u.empty())
        return 1;
    switch (s.unit) {
    case Unit::decibel:
        return u == "db" ? 1 : 0;
    case Unit::hertz:
        return u == "hz" ? 1 : u == "k" || u == "khz" ? 1000 : 0;
    case Unit::milliseconds: {
        const double perMetre = 1000.0 / dsp::speedOfSound(20.0);
        if (u == "ms")
            return 1;
        if (u == "s")
            return 1000;
        if (u == "\u00b5s" || u == "us")
            return 0.001;
        return u == "m" ? perMetre : u == "ft" ? perMetre * dsp::metresPerFoot : 0;
    }
    case Unit::celsius:
        return u == "c" || u == "\u00b0c" ? 1 : 0;
    case Unit::seconds:
        return u == "s" ? 1 : u == "ms" ? 0.001 : u == "min" ? 60 : 0;
    case Unit::ratio:
        return u == ":1" ? 1 : 0;
    default:
        return 0;
    }
}

} // namespace

ParamSpec onOffParam(std::string id, std::string label, bool def) {
    return {std::move(id), std::move(label), Unit::onOff, 0, 1, def ? 1.0 : 0.0, 1, Taper::linear, Glide::none};
}

ParamSpec choiceParam(std::string id, std::string label, std::vector<std::string> choices, int def) {
    const double last = static_cast<double>(choices.size()) - 1;
    return {std::move(id), std::move(label), Unit::choice,      0, last, static_cast<double>(def), 1,
            Taper::linear, Glide::none,      std::move(choices)};
}

ParamSpec edgeShapeParam(std::string id, std::string label, std::string slope, int def) {
    auto s = choiceParam(std::move(id), std::move(label), {"Butterworth", "Linkwitz\u2013Riley", "Bessel"}, def);
    s.shortForms = {"BW", "LR", "BE"};
    s.with = std::move(slope);
    return s;
}

ParamSpec levelParam(std::string id, std::string label, double min, double max, double def, bool minIsOff) {
    return {std::move(id), std::move(label), Unit::decibel, min, max,     def,
            0.5,           Taper::linear,    Glide::gain,   {},  minIsOff};
}

ParamSpec frequencyParam(std::string id, std::string label, double def, double min, double max) {
    return {std::move(id), std::move(label),   Unit::hertz,       min, max, def,
            1.0 / 12,      Taper::logarithmic, Glide::logarithmic};
}

ParamSpec slopeParam(std::string id, std::string label, int def) {
    return choiceParam(
        std::move(id), std::move(label),
        {"6 dB/oct", "12 dB/oct", "18 dB/oct", "24 dB/oct", "30 dB/oct", "36 dB/oct", "42 dB/oct", "48 dB/oct"}, def);
}

ParamSpec gliding(ParamSpec spec) {
    spec.glide = Glide::linear;
    return spec;
}

ParamSpec polarityParam(std::string id, std::string label) {
    return gliding(choiceParam(std::move(id), std::move(label), {"normal", "inverted"}));
}

ParamSpec glidingLevel(std::string id, std::string label, double min, double max, double def) {
    return {std::move(id), std::move(label), Unit::decibel, min, max, def, 0.5, Taper::linear, Glide::linear};
}

ParamSpec timeParam(std::string id, std::string label, double min, double max, double def) {
    return {std::move(id), std::move(label), Unit::milliseconds, min, max, def, 1, Taper::linear, Glide::none};
}

ParamSpec secondsParam(std::string id, std::string label, double min, double max, double def) {
    return {std::move(id), std::move(label), Unit::seconds, min, max, def, 0.1, Taper::linear, Glide::none};
}

ParamSpec ratioParam(std::string id, std::string label, double min, double max, double def) {
    return {std::move(id), std::move(label), Unit::ratio, min, max, def, 0.1, Taper::linear, Glide::linear};
}

std::string formatValue(const ParamSpec& s, double v) {
    switch (s.unit) {
    case Unit::decibel:
        // An amount (a depth, a knee) has no sign; a gain or a level has.
        return s.minIsOff && v <= s.min ? "off" : (s.min < 0 ? withSign(v, 1) : fixed(v, 1)) + " dB";
    case Unit::hertz:
        return v >= 1000 ? fixed(v / 1000, v >= 10000 ? 1 : 2) + " kHz" : fixed(v, v >= 100 ? 0 : 1) + " Hz";
    case Unit::milliseconds:
        return fixed(v, 2) + " ms";
    case Unit::quality:
        return "Q " + fixed(v, 2) + " = " + fixed(dsp::octavesFromQ(v), 2) + " oct";
    case Unit::celsius:
        return fixed(v, 1) + " \u00b0C";
    case Unit::choice: {
        const auto i = static_cast<std::size_t>(std::clamp(v, 0.0, s.max));
        return i < s.choices.size() ? s.choices[i] : "?";
    }
    case Unit::onOff:
        return v >= 0.5 ? "on" : "off";
    case Unit::seconds:
        return fixed(v, v < 10 ? 2 : 1) + " s";
    case Unit::ratio:
        return fixed(v, 1) + ":1";
    case Unit::none:
        break;
    }
    return fixed(v, s.step >= 1 ? 0 : digitsFor(v));
}

std::string formatShort(const ParamSpec& s, double v) {
    switch (s.unit) {
    case Unit::decibel:
        return s.minIsOff && v <= s.min ? "off" : withSign(v, std::abs(v) < 10 && v != std::round(v) ? 1 : 0);
    case Unit::hertz:
        return v >= 1000 ? fixed(v / 1000, 1) + "k" : fixed(v, 0);
    case Unit::milliseconds:
        return fixed(v, v >= 10 || v == std::round(v) ? (v == std::round(v) ? 0 : 1) : 1) + "ms";
    case Unit::quality:
        return fixed(v, 1);
    default:
        return formatValue(s, v);
    }
}

Result<double> parseValue(const ParamSpec& s, const std::string& text) {
    if (text.size() > 200)
        return notUnderstood(s, text);
    std::string t = lowered(text);
    if (s.unit == Unit::choice)
        return parseChoice(s, text, t);
    if (s.unit == Unit::onOff) {
        if (t == "on" || t == "1" || t == "true" || t == "yes")
            return 1.0;
        if (t == "off" || t == "0" || t == "false" || t == "no")
            return 0.0;
        return notUnderstood(s, text);
    }
    if (s.minIsOff && t == "off")
        return s.min;
    if (s.unit == Unit::quality) {
        const auto equals = t.find('=');
        t = t.substr(0, equals);
        if (!t.empty() && t[0] == 'q')
            t = t.substr(1);
    }
    double number = 0;
    std::string rest;
    bool unsure = false;
    if (!splitNumber(t, number, rest, unsure))
        return notUnderstood(s, text);
    if (unsure)
        return Error{"\"" + text + "\" can be read in two ways", "",
                     "Type decimals with a point, and thousands without a mark."};
    double value = number;
    if (s.unit == Unit::quality && (rest == "oct" || rest == "o")) {
        if (number < 0.01 || number > 20)
            return notUnderstood(s, text);
        value = dsp::qFromOctaves(number);
    } else {
        const double factor = unitFactor(s, rest);
        if (factor == 0)
            return notUnderstood(s, text);
        value = number * factor;
    }
    const double slack = 1e-9 * (std::abs(s.min) + std::abs(s.max));
    if (value < s.min - slack || value > s.max + slack)
        return Error{"\"" + text + "\" is outside the range of " + s.label, "",
                     "Use a value from " + formatValue(s, s.min) + " to " + formatValue(s, s.max) + "."};
    return std::clamp(value, s.min, s.max);
}

ParamTable::ParamTable(std::vector<ParamSpec> specs) : specs_(std::move(specs)) {
    for (int i = 0; i < static_cast<int>(specs_.size()); ++i)
        index_.emplace(specs_[i].id, i);
}

Result<std::vector<std::pair<std::string, double>>> ParamTable::parse(int index, const std::string& text) const {
    using Values = std::vector<std::pair<std::string, double>>;
    const auto& s = specs_[static_cast<std::size_t>(index)];
    const auto value = parseValue(s, text);
    if (value)
        return Values{{s.id, *value}};
    const auto number = text.find_first_of("0123456789");
    const int other = s.with.empty() ? -1 : indexOf(s.with);
    if (other >= 0 && number != std::string::npos && number > 0) {
        const auto first = parseValue(s, text.substr(0, number));
        const auto second = parseValue(specs_[static_cast<std::size_t>(other)], text.substr(number));
        if (first && second)
            return Values{{s.id, *first}, {s.with, *second}};
    }
    return value.error();
}

int ParamTable::indexOf(const std::string& id) const {
    const auto it = index_.find(id);
    return it == index_.end() ? -1 : it->second;
}

} // namespace loom::engine
