// What is said to outside devices and heard of them, as their descriptions write it (model/outside.h):
//
//   POWER {value}          the value; {value:03}: a number of at least three digits; {value:x2}: two hexadecimal digits
//   02 50 {value:b1} 03    in hex: a byte; {value:b2}: two, the higher first; {sum}, {xor}: of all bytes before it
//   {any}                  whatever is heard there, up to what follows; not in what is said
//   {{ and }}              braces
#pragma once
#include "engine/result.h"
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace loom::project {

class Template {
  public:
    static constexpr std::size_t longest = 1000, mostPieces = 100; // bytes

    // hex: pairs of hexadecimal digits, blanks between them. Error: where it is none.
    static Result<Template> read(const std::string& text, bool hex);
    bool hasValue() const;
    bool hasAny() const;
    // The bytes of a message. value: as the device writes it, "1", "0x11", "12.5". Error: it does not fit there.
    Result<std::string> compose(const std::string& value) const;
    // The value in what was heard; "" where it has none. None: it is something else. Work: at most longest times the
    // length of what was heard.
    std::optional<std::string> match(std::string_view heard) const;

  private:
    struct Piece {
        enum class Kind { literal, value, any, sum, xored } kind = Kind::literal;
        std::string bytes{};
        enum class As { text, digits, hex, byte } as = As::text;
        int width = 0; // digits, or bytes
    };
    std::vector<Piece> pieces_{};
};

// A whole number as devices write it: "17", "0x11". None: it is none.
std::optional<long long> codeNumber(const std::string& text);
// Bytes for people: "POWER=1\r" as it is, what has no letter as \x0d.
std::string shownBytes(std::string_view bytes);

} // namespace loom::project
