#include "app/site/member.h"

namespace loom::app {

using nlohmann::json;

namespace {

int revisionOf(const json& state, const char* which) {
    const auto part = state.is_object() ? state.value(which, json()) : json();
    const auto r = part.is_object() ? part.value("revision", json()) : json();
    return r.is_number_integer() ? r.get<int>() : -1;
}

std::string printOf(const json& state, const char* which) {
    const auto part = state.is_object() ? state.value(which, json()) : json();
    const auto r = part.is_object() ? part.value("fingerprint", json()) : json();
    return r.is_string() ? r.get<std::string>() : std::string();
}

} // namespace

std::string textOf(const json& j, const char* key) {
    const auto v = j.is_object() ? j.value(key, json()) : json();
    return v.is_string() ? v.get<std::string>().substr(0, 120) : std::string();
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
    const bool fellBack =
        !agreedBoot.empty() && revision <= agreedRevision && (textOf(state, "boot") != agreedBoot || !turned());
    if (revision >= agreedRevision && !fellBack)
        return site::Standing::current;
    return turned() ? site::Standing::mixed : site::Standing::older;
}
bool Member::turned() const {
    const auto running = state.is_object() ? state.value("running", json()) : json();
    return running.is_object() && running.value("turned", json()) == true;
}
bool Member::kept() const {
    return printOf(state, "running") == printOf(state, "kept");
}

} // namespace loom::app
