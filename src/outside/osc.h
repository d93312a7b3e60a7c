// Open Sound Control 1.0 (Wright, The Open Sound Control 1.0 Specification, 2002), with liblo: messages as one line of
// text and as bytes. "/display/power i:1 f:0.5 s:words".
#pragma once
#include "engine/result.h"
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace loom::project {

struct OscMessage {
    std::string path;
    std::vector<std::variant<int, double, std::string>> arguments{};
    bool operator==(const OscMessage&) const = default;
};

inline constexpr std::size_t longestOsc = 8192, mostOscMessages = 64, mostOscArguments = 64; // bytes of a packet

// A packet: a message, or a bundle of them, whose times are not waited for. Error: it is none. patterns: addresses may
// be patterns ("/hall/*", "/{hall,foyer}/level").
Result<std::vector<OscMessage>> readOsc(std::string_view bytes, bool patterns = false);
bool oscMatches(const std::string& pattern, const std::string& path);
Result<std::string> oscBytes(const OscMessage& message);
// As text; words with blanks stand in quotation marks.
std::string oscText(const OscMessage& message);
Result<OscMessage> readOscText(const std::string& text);

} // namespace loom::project
