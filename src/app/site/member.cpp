#include "app/site/member.h"

namespace loom::app {

using nlohmann::json;

namespace {

// Without a copy: hundreds are asked in one turn of the event loop.
const json& partOf(const json& j, const char* key) {
    static const json none;
    const auto it = j.is_object() ? j.find(key) : j.end();
    return it == j.end() ? none : *it;
}

int revisionOf(const json& state, const char* which) {
    const auto& r = partOf(partOf(state, which), "revision");
    return r.is_number_integer() ? r.get<int>() : -1;
}

} // namespace

std::string textOf(const json& j, const char* key) {
    const auto& v = partOf(j, key);
    return v.is_string() ? v.get_ref<const std::string&>().substr(0, 120) : std::string();
}

int Member::runningRevision() const {
    return revisionOf(state, "running");
}
int Member::keptRevision() const {
    return revisionOf(state, "kept");
}
site::Standing Member::standing() const {
    const int revision = runningRevision();
    if (revision < 0)
        return site::Standing::nothing;
    // What was changed live since it was told is gone: by power-off, or by going back to what it was told.
    const bool fellBack = revision <= agreedRevision &&
                          (wentBack || (!agreedBoot.empty() && (textOf(state, "boot") != agreedBoot || !turned())));
    if (revision >= agreedRevision && !fellBack)
        return site::Standing::current;
    return turned() ? site::Standing::mixed : site::Standing::older;
}
bool turnedIn(const json& state) {
    return partOf(partOf(state, "running"), "turned") == true;
}
bool Member::kept() const {
    static const std::string none;
    const auto print = [this](const char* which) -> const std::string& {
        const auto& f = partOf(partOf(state, which), "fingerprint");
        return f.is_string() ? f.get_ref<const std::string&>() : none;
    };
    return print("running") == print("kept");
}

} // namespace loom::app
