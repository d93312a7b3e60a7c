#include "schema/field.h"
#include "dsp/number.h"
#include <algorithm>

namespace loom::project {
namespace {

// What people put behind a number: the field's unit or another of its kind. 0: none of these.
double factorOf(std::string_view typed, const std::string& unit) {
    std::string u;
    for (const char c : typed)
        if (c != ' ' && c != '\t')
            u += static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
    std::string mine = unit;
    for (char& c : mine)
        c = static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
    if (u.empty() || u == mine || (mine.rfind("db", 0) == 0 && (u == "db" || u == "db(a)")))
        return 1;
    static const struct {
        const char *unit, *typed;
        double factor;
    } all[] = {{"m", "cm", 0.01},     {"m", "mm", 0.001}, {"m", "ft", 0.3048},      {"ms", "s", 1000},
               {"\u00b0", "deg", 1},  {"W", "kw", 1000},  {"\u00b0C", "c", 1},      {"\u03a9", "ohm", 1},
               {"\u03a9", "ohms", 1}, {"mm", "cm", 10},   {"\u00b0C", "\u00b0", 1}, {"mm\u00b2", "mm2", 1}};
    for (const auto& a : all)
        if (unit == a.unit && u == a.typed)
            return a.factor;
    return 0;
}

} // namespace

Result<double> readNumber(const Field& f, const std::string& value) {
    const auto typed = typedNumber(value);
    if (typed.unsure)
        return Error{"\"" + value.substr(0, 40) + "\" can be read in two ways", f.label,
                     "Type decimals with a point, and thousands without a mark."};
    const double factor = typed.length > 0 ? factorOf(std::string_view(value).substr(typed.length), f.unit) : 0;
    if (const double v = typed.value * factor; factor != 0 && v >= f.min && v <= f.max)
        return v;
    return Error{"\"" + value.substr(0, 40) + "\" does not fit", f.label,
                 print("%s goes from %g to %g %s.", f.label, f.min, f.max, f.unit)};
}

std::optional<Error> errorInText(const Field& f, const std::string& value) {
    if (!f.choices.empty()) {
        if (std::find(f.choices.begin(), f.choices.end(), value) == f.choices.end())
            return Error{"\"" + value.substr(0, 40) + "\" is none of the choices", f.label, "Choose one of the list."};
    } else if (const auto letters =
                   std::count_if(value.begin(), value.end(), [](char c) { return (c & 0xC0) != 0x80; });
               letters > static_cast<std::ptrdiff_t>(f.letters)) {
        return Error{"this text has " + std::to_string(letters) + " letters", f.label,
                     std::to_string(f.letters) + " at most."};
    }
    return {};
}

} // namespace loom::project
