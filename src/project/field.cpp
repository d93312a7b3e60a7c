#include "project/field.h"
#include <algorithm>
#include <cstdio>
#include <cstdlib>

namespace loom::project {
namespace {
constexpr std::size_t longestText = 200, longestNotes = 20000;
}

Result<double> readNumber(const Field& f, const std::string& value) {
    std::string plain = value;
    for (auto at = plain.find("\u2212"); at != std::string::npos; at = plain.find("\u2212"))
        plain.replace(at, 3, "-");
    char* end = nullptr;
    const double v = std::strtod(plain.c_str(), &end);
    if (end != plain.c_str() && v >= f.min && v <= f.max)
        return v;
    char text[200];
    std::snprintf(text, sizeof text, "%s goes from %g to %g %s", f.label.c_str(), f.min, f.max, f.unit.c_str());
    return Trouble{"\"" + value.substr(0, 40) + "\" does not fit", f.label, std::string(text) + "."};
}

std::optional<Trouble> troubleWithText(const Field& f, const std::string& value) {
    if (!f.choices.empty()) {
        if (std::find(f.choices.begin(), f.choices.end(), value) == f.choices.end())
            return Trouble{"\"" + value.substr(0, 40) + "\" is none of the choices", f.label,
                           "Choose one of the list."};
    } else if (const auto most = f.id == "notes" ? longestNotes : longestText; value.size() > most)
        return Trouble{"this text has " + std::to_string(value.size()) + " letters", f.label,
                       std::to_string(most) + " at most."};
    return {};
}

} // namespace loom::project
