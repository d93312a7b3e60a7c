#include "project/json.h"
#include "dsp/number.h"
#include "project/describe.h"
#include "project/migrate.h"

namespace loom::project {

using nlohmann::json;

Result<Project> projectFromJson(json j) {
    if (!j.is_object() || j.value("format", json()) != "nimble-loom-project")
        return Trouble{"this is not a Nimble Loom project", "/format", "Open a .loom file or a folder made from one."};
    const json version = j.value("version", json());
    if (!version.is_number_integer() || version.get<double>() < 1)
        return Trouble{"the version is missing or not a whole number", "/version", "Use the file as it was saved."};
    if (version.get<double>() > formatVersion)
        return Trouble{"the project was made by a later version of Nimble Loom (format " + version.dump() +
                           "; this one reads up to " + std::to_string(formatVersion) + ")",
                       "/version", "Open it with a newer Nimble Loom."};
    try {
        if (version == 1)
            j = migrateFrom1(std::move(j));
    } catch (const json::exception&) {
        return Trouble{"the project does not hold what its version says", "/", "Open an earlier copy of it."};
    }
    return schema::fromJson<Project>(j);
}

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

std::optional<Trouble> troubleWithSize(const std::string& text, const std::string& name) {
    if (text.size() > maxJsonBytes)
        return Trouble{"is larger than 64 MiB", name, "Keep sound and pictures in assets/."};
    const Weight weight = weigh(text);
    if (weight.depth > 64)
        return Trouble{"is nested more than 64 deep", name, "Use the file as it was saved."};
    if (weight.bytes > maxJsonMemory)
        return Trouble{print("would take %.0f MiB of memory", static_cast<double>(weight.bytes) / 1048576), name,
                       print("Up to %d MiB are taken. Divide it into two.", maxJsonMemory >> 20)};
    return {};
}

Result<json> parseJson(const std::string& text, const std::string& name) {
    if (auto wrong = troubleWithSize(text, name))
        return *wrong;
    try {
        return json::parse(text);
    } catch (const json::parse_error& e) {
        return Trouble{"is not JSON (at byte " + std::to_string(e.byte) + ")", name, "Open an earlier copy of it."};
    } catch (const json::exception&) {
        return Trouble{"is not JSON that can be read", name, "Open an earlier copy of it."};
    }
}

} // namespace loom::project
