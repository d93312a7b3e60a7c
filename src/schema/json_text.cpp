#include "schema/json_text.h"
#include "dsp/number.h"

namespace loom::schema {

using nlohmann::json;

namespace {

// What the parsed form of a text will need, found by going over it once: how deep it is nested, and memory.
struct Weight {
    int depth = 0;
    std::size_t bytes = 0;
};
Weight weigh(const std::string& text) {
    // Of nlohmann::json on 64 bit with glibc's malloc: a value (in lists that grow), the storage of a list, of an
    // object, of a text, and what a member's node takes beyond its key's text and value.
    constexpr std::size_t value = 24, list = 48, object = 64, letters = 48, member = 32;
    Weight w{0, value};
    int depth = 0;
    for (std::size_t i = 0; i < text.size(); ++i)
        switch (text[i]) {
        case '"': {
            const std::size_t from = i;
            for (++i; i < text.size() && text[i] != '"'; ++i)
                i += text[i] == '\\';
            w.bytes += letters + (i - from > 16 ? i - from : 0);
            break;
        }
        case '{':
        case '[':
            w.depth = std::max(w.depth, ++depth);
            w.bytes += (text[i] == '{' ? object : list) + value;
            break;
        case '}':
        case ']':
            --depth;
            break;
        case ':':
            w.bytes += member;
            break;
        case ',':
            w.bytes += value;
            break;
        default:
            break;
        }
    return w;
}

} // namespace

std::optional<Error> errorInSize(const std::string& text, const std::string& name) {
    if (text.size() > maxJsonBytes)
        return Error{"is larger than 64 MiB", name, "Keep sound and pictures in assets/."};
    const Weight weight = weigh(text);
    if (weight.depth > 64)
        return Error{"is nested more than 64 deep", name, "Use the file as it was saved."};
    if (weight.bytes > maxJsonMemory)
        return Error{print("would take %.0f MiB of memory", static_cast<double>(weight.bytes) / 1048576), name,
                     print("Up to %d MiB are taken. Divide it into two.", maxJsonMemory >> 20)};
    return {};
}

Result<json> parseJson(const std::string& text, const std::string& name) {
    if (auto wrong = errorInSize(text, name))
        return *wrong;
    try {
        return json::parse(text);
    } catch (const json::parse_error& e) {
        return Error{"is not JSON (at byte " + std::to_string(e.byte) + ")", name, "Open an earlier copy of it."};
    } catch (const json::exception&) {
        return Error{"is not JSON that can be read", name, "Open an earlier copy of it."};
    }
}

} // namespace loom::schema
