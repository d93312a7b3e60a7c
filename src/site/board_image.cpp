#include "site/board_image.h"
#include "file/project_json.h"
#include "schema/json_text.h"
#include "site/protocol.h"

namespace loom::site {

using nlohmann::json;

namespace {

constexpr std::size_t headSize = 13;

std::uint32_t crc32(const std::uint8_t* data, std::size_t count) {
    std::uint32_t crc = 0xFFFFFFFFu;
    for (std::size_t i = 0; i < count; ++i) {
        crc ^= data[i];
        for (int bit = 0; bit < 8; ++bit)
            crc = (crc >> 1) ^ (0xEDB88320u & (0u - (crc & 1u)));
    }
    return ~crc;
}

void put32(Bytes& to, std::uint32_t v) {
    for (int i = 0; i < 4; ++i)
        to.push_back(static_cast<std::uint8_t>(v >> (8 * i)));
}

std::uint32_t get32(const Bytes& from, std::size_t at) {
    std::uint32_t v = 0;
    for (std::size_t i = 0; i < 4; ++i)
        v |= static_cast<std::uint32_t>(from[at + i]) << (8 * i);
    return v;
}

} // namespace

Bytes imageOf(const Config& config) {
    const std::string text = schema::toJson(config).dump(-1, ' ', false, json::error_handler_t::replace);
    const Bytes body(text.begin(), text.end());
    Bytes image{'L', 'O', 'O', 'M', 1};
    put32(image, static_cast<std::uint32_t>(body.size()));
    put32(image, crc32(body.data(), body.size()));
    image.insert(image.end(), body.begin(), body.end());
    return image;
}

Result<Config> configOfImage(const Bytes& image) {
    if (image.size() < headSize || !std::equal(image.begin(), image.begin() + 4, "LOOM") || image[4] != 1)
        return Error{"is no image of a small board", "image", "Make it anew."};
    const std::size_t length = get32(image, 5);
    if (length > image.size() - headSize || crc32(image.data() + headSize, length) != get32(image, 9))
        return Error{"is damaged: length or checksum do not fit", "image", "Make it anew."};
    const auto j = project::parseJson(
        std::string(image.begin() + headSize, image.begin() + headSize + static_cast<std::ptrdiff_t>(length)), "image");
    if (!j)
        return j.error();
    return schema::fromJson<Config>(*j, "image");
}

Result<std::string> hexImageOf(const Config& config, const project::DeviceModel& model) {
    const auto image = imageOf(config);
    if (const auto most = static_cast<std::size_t>(model.storeBytes); image.size() > most)
        return Error{"the program is " + std::to_string(image.size() - most) + " bytes too long for the store of a " +
                         model.name + " (" + std::to_string(most) + " bytes)",
                     model.name, "Remove blocks."};
    return toIntelHex(image);
}

Result<Config> configOfHexImage(const std::string& text, const project::DeviceModel& model) {
    const auto bytes = fromIntelHex(text, static_cast<std::size_t>(model.storeBytes));
    if (!bytes)
        return bytes.error();
    return configOfImage(*bytes);
}

} // namespace loom::site
