// Memory images as text: Intel, "Hexadecimal Object File Format Specification", revision A, 1988 (records 00, 01, 04).
#pragma once
#include "engine/result.h"
#include <cstdint>
#include <string>
#include <vector>

namespace loom::site {

using Bytes = std::vector<std::uint8_t>;

// The bytes from address 0, sixteen a line.
std::string toIntelHex(const Bytes& bytes);
// Bytes that no line tells are 255, as an erased store has them. At most `most` bytes. Error: the line and what is
// wrong with it: a letter that is no digit, a length or checksum that does not fit, an address beyond `most`, no end.
Result<Bytes> fromIntelHex(const std::string& text, std::size_t most);

} // namespace loom::site
