#include "site/vitals.h"

namespace loom::site {

using nlohmann::json;

project::Vitals vitalsFromJson(const json& j) {
    project::Vitals v;
    if (!j.is_object())
        return v;
    const auto number = [&](const char* key) {
        const auto x = j.value(key, json());
        return x.is_number() ? x.get<double>() : 0.0;
    };
    const auto text = [&](const char* key) {
        const auto x = j.value(key, json());
        return x.is_string() ? x.get<std::string>().substr(0, 60) : std::string();
    };
    v.celsius = number("temperature"), v.uptime = number("uptime");
    v.clip = j.value("clip", json()) == true, v.muted = j.value("muted", json()) == true;
    v.clockLost = text("clock") == "lost", v.firmware = text("firmware"), v.firmwareBefore = text("firmwareBefore");
    const auto outputs = j.value("outputs", json());
    if (outputs.is_object())
        for (const auto& [port, how] : outputs.items())
            if (how.is_string() && v.outputs.size() < 64)
                v.outputs[port.substr(0, 40)] = how.get<std::string>().substr(0, 20);
    return v;
}

} // namespace loom::site
