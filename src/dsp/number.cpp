#include "dsp/number.h"
#include <array>
#include <charconv>
#include <cmath>

namespace loom {
namespace {

constexpr std::string_view minus = "\u2212";

bool digit(std::string_view t, std::size_t i) {
    return i < t.size() && t[i] >= '0' && t[i] <= '9';
}

std::size_t blanks(std::string_view t) {
    const auto at = t.find_first_not_of(" \t\r\n");
    return at == std::string_view::npos ? t.size() : at;
}

// Bytes of a sign at `at`; `negative` says which.
std::size_t sign(std::string_view t, std::size_t at, bool& negative) {
    negative = false;
    if (t.substr(at, minus.size()) == minus)
        return negative = true, minus.size();
    if (at < t.size() && (t[at] == '+' || t[at] == '-'))
        return negative = t[at] == '-', 1;
    return 0;
}

// The number that begins at `at` with a digit or a point. Out of range: none.
Leading unsignedNumber(std::string_view t, std::size_t at, std::chars_format format) {
    if (!digit(t, at) && !(at < t.size() && t[at] == '.' && digit(t, at + 1)))
        return {}; // from_chars would take "inf" and "nan"
    double v = 0;
    const auto [end, wrong] = std::from_chars(t.data() + at, t.data() + t.size(), v, format);
    if (wrong != std::errc() || !std::isfinite(v))
        return {};
    return {v, static_cast<std::size_t>(end - t.data())};
}

std::string written(double v, std::chars_format format, int digits) {
    char text[400]; // 1e308 with digits behind it
    const auto [end, wrong] = std::to_chars(text, text + sizeof text, v, format, digits);
    return wrong == std::errc() ? std::string(text, end) : std::string("?");
}

} // namespace

Leading leadingNumber(std::string_view t) {
    std::size_t at = blanks(t);
    bool negative = false;
    at += sign(t, at, negative);
    Leading n = unsignedNumber(t, at, std::chars_format::general);
    n.value = negative ? -n.value : n.value;
    return n;
}

Leading typedNumber(std::string_view t) {
    std::size_t at = blanks(t);
    bool negative = false;
    at += sign(t, at, negative);
    Leading n = unsignedNumber(t, at, std::chars_format::fixed);
    if (n.length > 0 && n.length < t.size() && t[n.length] == ',' && digit(t, n.length + 1)) {
        const std::string_view whole = t.substr(at, n.length - at);
        std::size_t end = n.length + 1;
        while (digit(t, end))
            ++end;
        const std::size_t behind = end - n.length - 1;
        // "1.234,5" and "1,234,567" part thousands in one way or another; which, is not for us to say.
        const bool again = (end < t.size() && (t[end] == ',' || t[end] == '.') && digit(t, end + 1));
        const bool point = whole.find('.') != std::string_view::npos;
        n.unsure = again || point || (behind == 3 && whole != "0");
        std::string plain(whole);
        if (!point)
            plain += "." + std::string(t.substr(n.length + 1, behind));
        n.value = unsignedNumber(plain, 0, std::chars_format::fixed).value;
        n.length = end;
    }
    n.value = negative ? -n.value : n.value;
    return n;
}

std::optional<std::vector<double>> typedNumbers(std::string_view t) {
    const bool points = t.find('.') != std::string_view::npos,
               parted = t.find_first_of(" ;/") != std::string_view::npos;
    std::vector<double> all;
    while (true) {
        const auto at = t.find_first_not_of(" ,;/");
        if (at == std::string_view::npos)
            return all;
        t.remove_prefix(at);
        const auto n = points ? leadingNumber(t) : typedNumber(t);
        if (n.length == 0 || n.unsure ||
            (!parted && !points && t.substr(0, n.length).find(',') != std::string_view::npos))
            return {};
        all.push_back(n.value);
        t.remove_prefix(n.length);
        if (!t.empty() && std::string_view(" ,;/").find(t[0]) == std::string_view::npos)
            return {};
    }
}

std::optional<double> wholeNumber(std::string_view t) {
    const auto n = leadingNumber(t);
    if (n.length == 0 || n.length + blanks(t.substr(n.length)) != t.size())
        return {};
    return n.value;
}

std::optional<int> wholeInteger(std::string_view t, int min, int max) {
    const auto n = wholeNumber(t);
    if (!n || *n != std::floor(*n) || *n < min || *n > max)
        return {};
    return static_cast<int>(*n);
}

std::string fixedText(double v, int digits) {
    return written(v, std::chars_format::fixed, digits);
}

std::string shortText(double v, int figures) {
    return written(v, std::chars_format::general, figures);
}

std::string plainText(double v) {
    std::array<char, 400> text{}; // the longest finite double has 309 digits before its point, or 1074 behind it
    const auto end = std::to_chars(text.data(), text.data() + text.size(), v, std::chars_format::fixed);
    return end.ec == std::errc() ? std::string(text.data(), end.ptr) : fixedText(v, 12);
}

std::string exactText(double v) {
    char text[64];
    return std::string(text, std::to_chars(text, text + sizeof text, v).ptr);
}

std::string printPieces(std::string_view format, std::initializer_list<PrintPiece> pieces) {
    std::string out;
    auto next = pieces.begin();
    for (std::size_t i = 0; i < format.size(); ++i) {
        if (format[i] != '%' || i + 1 == format.size()) {
            out += format[i];
            continue;
        }
        if (format[++i] == '%') {
            out += '%';
            continue;
        }
        const bool plus = format[i] == '+';
        i += plus;
        int digits = 6;
        if (i < format.size() && format[i] == '.')
            for (digits = 0, ++i; digit(format, i); ++i)
                digits = digits * 10 + (format[i] - '0');
        if (next == pieces.end() || i >= format.size())
            return out;
        const PrintPiece& piece = *next++;
        if (const auto* text = std::get_if<std::string_view>(&piece)) {
            out += *text;
            continue;
        }
        const auto* whole = std::get_if<std::int64_t>(&piece);
        const double v = whole ? static_cast<double>(*whole) : std::get<double>(piece);
        out += plus && !std::signbit(v) ? "+" : "";
        out += whole && format[i] != 'f' ? std::to_string(*whole)
               : format[i] == 'f'        ? fixedText(v, digits)
                                         : shortText(v, digits);
    }
    return out;
}

} // namespace loom
