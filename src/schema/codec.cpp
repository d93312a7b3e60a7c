#include "schema/codec.h"
#include "dsp/number.h"
#include <cmath>

namespace loom::schema {

std::string At::text() const {
    if (!up_)
        return std::string(key_);
    return up_->text() + "/" + (key_.data() ? std::string(key_) : std::to_string(index_));
}

namespace {

// Letters of a text; none where it is not UTF-8 as RFC 3629 has it, which would be saved as something else.
std::optional<std::size_t> lettersOf(const std::string& s) {
    std::size_t letters = 0;
    for (std::size_t i = 0; i < s.size();) {
        const auto byte = [&](std::size_t k) { return static_cast<unsigned char>(k < s.size() ? s[k] : 0); };
        const unsigned char c = byte(i);
        const std::size_t more = c < 0x80 ? 0 : c >= 0xC2 && c < 0xE0 ? 1 : c >= 0xE0 && c < 0xF0 ? 2 : 3;
        if (c >= 0x80 && (c < 0xC2 || c > 0xF4))
            return {};
        for (std::size_t k = 1; k <= more; ++k)
            if ((byte(i + k) & 0xC0) != 0x80)
                return {};
        if ((c == 0xE0 && byte(i + 1) < 0xA0) || (c == 0xED && byte(i + 1) > 0x9F) ||
            (c == 0xF0 && byte(i + 1) < 0x90) || (c == 0xF4 && byte(i + 1) > 0x8F))
            return {};
        i += 1 + more;
        ++letters;
    }
    return letters;
}

std::string listed(const std::vector<std::string>& words) {
    std::string all;
    for (const auto& w : words)
        all += (all.empty() ? "" : ", ") + (w.empty() ? std::string("empty") : w);
    return all;
}

} // namespace

namespace detail {

std::string mustBe(bool whole, const Limits& l) {
    if (!l.must.empty())
        return l.must;
    if (!l.choices.empty())
        return "must be one of " + listed(l.choices);
    const char* kind = whole ? "must be a whole number" : "must be a number";
    const bool open = l.min == std::numeric_limits<double>::lowest();
    if (l.max == std::numeric_limits<double>::max())
        return open ? kind : print("%s from %g", kind, l.min + l.shift);
    return print(l.aboveMin ? "%s above %g, to %g" : "%s from %g to %g", kind, l.min + l.shift, l.max + l.shift);
}

bool checkNumber(double v, bool whole, const Limits& l, const At& at, Reading& r) {
    // What is not finite cannot be written, whatever the limits.
    if (std::isfinite(v) && (!r.limited() || (v >= l.min && v <= l.max && !(l.aboveMin && v == l.min))))
        return true;
    r.fail(at, mustBe(whole, l));
    return false;
}

std::string textMustBe(const Limits& l) {
    return !l.must.empty() ? l.must
           : l.id          ? "must have 1 to 200 letters and no \"/\""
                           : "must be a text of at most " + std::to_string(l.maxText) + " letters";
}

bool checkText(const std::string& v, const Limits& l, const At& at, Reading& r) {
    const auto letters = lettersOf(v);
    const bool fits =
        letters && (!r.limited() || (l.id ? *letters > 0 && *letters <= 200 && v.find('/') == std::string::npos
                                          : *letters <= l.maxText));
    if (!fits)
        r.fail(at, letters ? textMustBe(l) : "must be text in UTF-8");
    return fits;
}

bool checkCount(std::size_t n, const Limits& l, const At& at, Reading& r) {
    if (!r.limited() || (n >= l.minItems && n <= l.maxItems))
        return true;
    r.fail(at, !l.must.empty() ? l.must
               : l.minItems > 0
                   ? "must be " + std::to_string(l.minItems) + " to " + std::to_string(l.maxItems) + " items"
                   : "must be at most " + std::to_string(l.maxItems) + " items");
    return false;
}

Json numberSchema(bool whole, const Limits& l) {
    Json j{{"type", whole ? "integer" : "number"}};
    if (l.min != std::numeric_limits<double>::lowest())
        j[l.aboveMin ? "exclusiveMinimum" : "minimum"] = l.min + l.shift;
    if (l.max != std::numeric_limits<double>::max())
        j["maximum"] = l.max + l.shift;
    return j;
}

Json textSchema(const Limits& l) {
    if (l.id)
        return {{"type", "string"}, {"minLength", 1}, {"maxLength", 200}, {"pattern", "^[^/]+$"}};
    Json j{{"type", "string"}, {"maxLength", l.maxText}};
    if (!l.pattern.empty())
        j["pattern"] = l.pattern;
    return j;
}

std::size_t choiceOf(const Json& j, const Limits& l, const At& at, Reading& r) {
    if (j.is_string())
        for (std::size_t i = 0; i < l.choices.size(); ++i)
            if (l.choices[i] == j.get_ref<const std::string&>())
                return i;
    r.fail(at, mustBe(false, l));
    return std::string::npos;
}

} // namespace detail
} // namespace loom::schema
