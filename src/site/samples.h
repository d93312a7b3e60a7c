// Samples as a message carries them: 16 bits each, the most significant byte first, as base64.
#pragma once
#include "engine/result.h"
#include <span>
#include <string>
#include <vector>

namespace loom::site {

inline constexpr std::size_t mostSamples = 48000; // of one message

std::string samplesText(std::span<const float> samples); // full scale is 1; what is above is cut
Result<std::vector<float>> readSamples(const std::string& text);

} // namespace loom::site
