#include "site/samples.h"
#include "site/channel.h"
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <sodium.h>

namespace loom::site {

std::string samplesText(std::span<const float> samples) {
    std::vector<unsigned char> raw;
    raw.reserve(samples.size() * 2);
    for (const float v : samples.first(std::min(samples.size(), mostSamples))) {
        const double x = std::isfinite(v) ? std::clamp(static_cast<double>(v) * 32768, -32768.0, 32767.0) : 0;
        const auto n = static_cast<std::int16_t>(std::lrint(x));
        raw.push_back(static_cast<unsigned char>(n >> 8));
        raw.push_back(static_cast<unsigned char>(n));
    }
    return raw.empty() ? std::string() : base64(raw.data(), raw.size());
}

Result<std::vector<float>> readSamples(const std::string& text) {
    std::vector<unsigned char> raw(text.size() / 4 * 3 + 1);
    std::size_t size = 0;
    if (text.size() > mostSamples * 3 ||
        (!text.empty() && sodium_base642bin(raw.data(), raw.size(), text.data(), text.size(), nullptr, &size, nullptr,
                                            sodium_base64_VARIANT_ORIGINAL) != 0) ||
        size % 2 != 0)
        return Error{"are no samples", "", ""};
    std::vector<float> all;
    for (std::size_t n = 0; n < size; n += 2)
        all.push_back(static_cast<float>(static_cast<std::int16_t>(raw[n] << 8 | raw[n + 1])) / 32768.0f);
    return all;
}

} // namespace loom::site
