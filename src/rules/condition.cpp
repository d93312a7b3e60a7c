#include "rules/condition.h"
#include "dsp/number.h"
#include "model/scene.h"
#include <cmath>

namespace loom::project {
namespace {

std::string trimmed(const std::string& t) {
    const auto begin = t.find_first_not_of(' ');
    return begin == std::string::npos ? "" : t.substr(begin, t.find_last_not_of(' ') - begin + 1);
}

} // namespace

Result<std::optional<Condition>> readCondition(const std::string& said) {
    auto text = trimmed(said);
    if (text.empty())
        return std::optional<Condition>();
    Condition c;
    if (text.rfind("not ", 0) == 0)
        c.negated = true, text = trimmed(text.substr(4));
    if (const auto at = text.find_first_of("<>="); at != std::string::npos) {
        c.sign = text[at];
        const auto v = wholeNumber(trimmed(text.substr(at + 1)));
        if (!v)
            return Error{"no number stands behind " + std::string(1, c.sign), said, "As in heddle/hall.gain > -20."};
        c.value = *v;
        text = trimmed(text.substr(0, at));
    }
    const auto slash = text.find('/'), colon = text.find(':');
    if (colon != std::string::npos && colon > 0 && colon + 1 < text.size() && colon < slash &&
        text.find(' ') > colon) { // of a signal
        c.path = text;
        return std::optional(c);
    }
    if (slash == std::string::npos || slash == 0 || slash + 1 == text.size() ||
        (text.find('@') == std::string::npos && text.find(' ', slash) != std::string::npos))
        return Error{"\"" + text.substr(0, 60) + "\" is no parameter", said,
                     "Type its path, as in heddle/hall.mute.muted; \"not\" before it, or > -20 behind it."};
    c.path = text;
    return std::optional(c);
}

bool isMet(const Condition& c, const std::function<std::optional<double>(const std::string&)>& now) {
    const auto v = now(c.path);
    if (!v)
        return false;
    const bool holds = c.sign == '>'   ? *v > c.value
                       : c.sign == '<' ? *v < c.value
                       : c.sign == '=' ? std::abs(*v - c.value) < 1e-6
                                       : *v >= 0.5;
    return holds != c.negated;
}

} // namespace loom::project
