#include "schema/schema_page.h"
#include "dsp/number.h"

namespace loom::schema {
namespace {

std::string numberText(const Json& j) {
    std::string text = shortText(j.get<double>());
    return text[0] == '-' ? "\u2212" + text.substr(1) : text;
}

// "number 0.2 … 20 m", "text", "list of seats".
std::string kindOf(const Json& s) {
    if (s.contains("$ref"))
        return s["$ref"].get<std::string>().substr(std::string("#/definitions/").size());
    if (s.contains("const"))
        return "`" + s["const"].dump() + "`";
    if (s.contains("enum")) {
        std::string all;
        for (const auto& word : s["enum"])
            all += (all.empty() ? "`" : ", `") + word.get<std::string>() + "`";
        return all;
    }
    const std::string type = s.value("type", "");
    if (type == "boolean")
        return "true or false";
    if (type == "string")
        return s.contains("minLength")         ? "id"
               : s["maxLength"] == longestText ? "text"
                                               : "text up to " + s["maxLength"].dump();
    if (type == "array" && s["items"].is_object()) {
        const std::string item = kindOf(s["items"]);
        return s.contains("minItems") && s["minItems"] == s["maxItems"] ? s["minItems"].dump() + " of " + item
               : s["maxItems"] == mostItems                             ? "list of " + item
                                            : "list of up to " + s["maxItems"].dump() + " " + item;
    }
    if (type == "array")
        return "list";
    if (type == "object")
        return s.contains("additionalProperties") ? "by name: " + kindOf(s["additionalProperties"]) : "object";
    std::string text = type == "integer" ? "whole number" : "number";
    const bool open = s.contains("exclusiveMinimum");
    if (s.contains("maximum"))
        text += (open ? " above " : " ") + numberText(open ? s["exclusiveMinimum"] : s["minimum"]) + " \u2026 " +
                numberText(s["maximum"]);
    return text + (s.contains("unit") ? " " + s["unit"].get<std::string>() : "");
}

} // namespace

std::string tableOf(const std::string& name, const Json& schema) {
    std::string page =
        "\n**" + name + "**: " + schema.value("description", "") + "\n\n| field | is | |\n|---|---|---|\n";
    for (const auto& [key, s] : schema["properties"].items()) {
        std::string says = s.value("description", "");
        bool needed = false;
        for (const auto& k : schema.value("required", Json::array()))
            needed = needed || k == key;
        const auto plain = s.find("default");
        if (needed)
            says += says.empty() ? "needed" : "; needed";
        else if (plain != s.end() && *plain != 0.0 && *plain != false && *plain != "")
            says += (says.empty() ? "without it " : "; without it ") +
                    (plain->is_number() ? numberText(*plain) : plain->dump());
        page += "| `" + key + "` | " + kindOf(s) + " | " + says + " |\n";
    }
    return page;
}

} // namespace loom::schema
