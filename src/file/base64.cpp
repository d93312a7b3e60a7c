#include "file/base64.h"
#include <sodium.h>

namespace loom::project {

std::string base64Of(std::span<const char> bytes) {
    if (bytes.empty())
        return {};
    std::string text(sodium_base64_ENCODED_LEN(bytes.size(), sodium_base64_VARIANT_ORIGINAL), '\0');
    sodium_bin2base64(text.data(), text.size(), reinterpret_cast<const unsigned char*>(bytes.data()), bytes.size(),
                      sodium_base64_VARIANT_ORIGINAL);
    text.pop_back(); // its closing zero
    return text;
}

Result<std::vector<char>> bytesOfBase64(const std::string& text) {
    std::vector<char> raw(text.size() / 4 * 3 + 1);
    std::size_t size = 0;
    if (!text.empty() && sodium_base642bin(reinterpret_cast<unsigned char*>(raw.data()), raw.size(), text.data(),
                                           text.size(), nullptr, &size, nullptr, sodium_base64_VARIANT_ORIGINAL) != 0)
        return Error{"is no base64", "", ""};
    raw.resize(size);
    return raw;
}

} // namespace loom::project
