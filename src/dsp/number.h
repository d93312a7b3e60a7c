// Numbers as text, read and written the same in any locale (std::from_chars, std::to_chars): nothing else in the core
// reads or writes one. Source of what people type: docs/guide.md, "Numbers".
#pragma once
#include <cstdint>
#include <initializer_list>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace loom {

// The number that a text begins with, blanks before it left out. A sign may be "+", "-" or U+2212.
struct Leading {
    double value = 0;
    std::size_t length = 0; // bytes taken; 0: no number stands there
    bool unsure = false;    // "1,000": a thousand, or one? The value is that of a decimal comma
};
// As files have it: a decimal point, an exponent; no commas.
Leading leadingNumber(std::string_view text);
// As people type it: a decimal point, or one decimal comma ("4,75", "0,125"); digits in threes behind a comma are
// unsure; no exponents.
Leading typedNumber(std::string_view text);
// Several of them, parted by blanks, ";", "/" or commas: a comma between digits parts if a decimal point stands
// anywhere, and is a decimal comma if something else parts the numbers. None: something else stands there, or "30,15",
// which could be one number or two.
std::optional<std::vector<double>> typedNumbers(std::string_view text);
// A whole text as files have it, blanks around it allowed. None: it is no number, or not finite.
std::optional<double> wholeNumber(std::string_view text);
// The same of whole numbers within a range.
std::optional<int> wholeInteger(std::string_view text, int min, int max);

std::string fixedText(double v, int digits);      // "-0.50"
std::string shortText(double v, int figures = 6); // up to so many figures that count: "0.5", "1e+06"
std::string exactText(double v);                  // the shortest text that reads as the same number
std::string plainText(double v);                  // the same without an exponent, as people write it

// A sentence with numbers in it. In `format`, "%" [+] [.digits] f, g, d or s stands for the next piece (as in C, but
// with no locale, no width and no pointers); "%%" is a percent sign. A piece that does not fit its letter is put as
// text.
using PrintPiece = std::variant<double, std::int64_t, std::string_view>;
std::string printPieces(std::string_view format, std::initializer_list<PrintPiece> pieces);

namespace detail {
inline PrintPiece pieceOf(double v) {
    return v;
}
inline PrintPiece pieceOf(std::string_view v) {
    return v;
}
inline PrintPiece pieceOf(const char* v) {
    return std::string_view(v);
}
template <class T>
requires std::is_integral_v<T> PrintPiece pieceOf(T v) {
    return static_cast<std::int64_t>(v);
}
} // namespace detail

template <class... T> std::string print(std::string_view format, const T&... values) {
    return printPieces(format, {detail::pieceOf(values)...});
}

} // namespace loom
