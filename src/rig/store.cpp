#include "rig/store.h"
#include "project/json.h"
#include "project/safe_file.h"
#include <algorithm>
#include <filesystem>

namespace loom::rig {

using nlohmann::json;

namespace {

std::string text(const json& j, const char* key) {
    const auto v = j.value(key, json());
    return v.is_string() ? v.get<std::string>() : std::string();
}

int number(const json& j, const char* key) {
    const auto v = j.value(key, json());
    return v.is_number_integer() ? v.get<int>() : 0;
}

} // namespace

Store::Store(std::string path) : path_(std::move(path)) {
    std::error_code none;
    std::filesystem::create_directories(std::filesystem::path(path_).parent_path(), none);
    (void)(read(path_) || read(path_ + ".previous"));
    // The identity has a file of its own: it is made once and outlives everything else.
    const auto keys = project::readWhole(path_ + ".key", 200);
    const auto space = keys ? keys->find(' ') : std::string::npos;
    if (space != std::string::npos) {
        const auto open = site::readKey(keys->substr(0, space)), secret = site::readKey(keys->substr(space + 1));
        if (open && secret) {
            identity_ = {*open, *secret};
            return;
        }
    }
    identity_ = site::newKeys();
    (void)bool(project::writeWhole(path_ + ".key",
                                   site::keyText(identity_.open) + " " + site::keyText(identity_.secret), false));
}

bool Store::read(const std::string& path) {
    auto raw = project::readWhole(path, 3 * mostBytes);
    auto outer = raw ? project::parseJson(*raw, path) : Result<json>(Trouble{});
    if (!outer || !outer->is_object())
        return false;
    const std::string inner = text(*outer, "body");
    if (inner.empty() || text(*outer, "sum") != site::checksum(inner))
        return false;
    auto j = project::parseJson(inner, path);
    if (!j || !j->is_object())
        return false;
    Body b;
    for (const auto& r : j->value("revisions", json::array())) {
        if (!r.is_object())
            return false;
        auto config = site::configFromJson(r.value("config", json()));
        if (!config)
            return false;
        b.revisions.push_back({number(r, "number"), text(r, "time"), text(r, "author"), *config});
    }
    b.kept = number(*j, "kept"), b.lock = text(*j, "lock"), b.audioKey = text(*j, "audioKey");
    b.firmware = text(*j, "firmware");
    b.firmwareBefore = text(*j, "firmwareBefore"), b.address = text(*j, "address");
    for (const auto& e : j->value("log", json::array()))
        if (e.is_object())
            b.log.push_back(
                {text(e, "time"), text(e, "device"), text(e, "who"), text(e, "what"), e.value("bad", json()) == true});
    body_ = std::move(b);
    return true;
}

Result<Done> Store::put(Body body) {
    if (fault == Fault::failing)
        return Trouble{"the store does not take what is written", "store", "Replace the device; what runs goes on."};
    while (body.log.size() > mostLog)
        body.log.pop_front();
    while (body.revisions.size() > mostRevisions) // never the one it boots with
        body.revisions.erase(body.revisions.begin() + (body.revisions.front().number == body.kept ? 1 : 0));
    for (;;) {
        json j = {{"kept", body.kept},
                  {"lock", body.lock},
                  {"audioKey", body.audioKey},
                  {"firmware", body.firmware},
                  {"firmwareBefore", body.firmwareBefore},
                  {"address", body.address},
                  {"revisions", json::array()},
                  {"log", json::array()}};
        for (const auto& r : body.revisions)
            j["revisions"].push_back(
                {{"number", r.number}, {"time", r.time}, {"author", r.author}, {"config", site::toJson(r.config)}});
        for (const auto& e : body.log)
            j["log"].push_back(
                {{"time", e.time}, {"device", e.device}, {"who", e.who}, {"what", e.what}, {"bad", e.bad}});
        const std::string inner = j.dump(-1, ' ', false, json::error_handler_t::replace);
        if (inner.size() > mostBytes && body.revisions.size() > 1) { // the oldest makes room
            body.revisions.erase(body.revisions.begin() + (body.revisions.front().number == body.kept ? 1 : 0));
            continue;
        }
        if (inner.size() > mostBytes || fault == Fault::full)
            return Trouble{"the store is full", "store", "Remove blocks, or replace the device; what runs goes on."};
        const json outer = {{"sum", site::checksum(inner)}, {"body", inner}};
        if (auto done = project::writeWhole(path_, outer.dump(), true); !done)
            return done;
        body_ = std::move(body);
        return Done{};
    }
}

const Revision* Store::find(int n) const {
    for (const auto& r : body_.revisions)
        if (r.number == n)
            return &r;
    return nullptr;
}

Result<Done> Store::add(Revision revision) {
    Body b = body_;
    std::erase_if(b.revisions, [&](const Revision& r) { return r.number == revision.number; });
    b.kept = revision.number;
    b.revisions.push_back(std::move(revision));
    return put(std::move(b));
}

Result<Done> Store::choose(int n) {
    if (n != 0 && !find(n))
        return Trouble{"there is no revision " + std::to_string(n), "store", ""};
    Body b = body_;
    b.kept = n;
    return put(std::move(b));
}

Result<Done> Store::setLock(const std::string& hash) {
    Body b = body_;
    b.lock = hash;
    return put(std::move(b));
}

Result<Done> Store::setAudioKey(const std::string& key) {
    Body b = body_;
    b.audioKey = key;
    return put(std::move(b));
}

Result<Done> Store::setFirmware(const std::string& version, const std::string& before) {
    Body b = body_;
    b.firmware = version, b.firmwareBefore = before;
    return put(std::move(b));
}

Result<Done> Store::setAddress(const std::string& address) {
    Body b = body_;
    b.address = address;
    return put(std::move(b));
}

void Store::note(site::Event event) {
    body_.log.push_back(std::move(event));
    if (body_.log.size() > mostLog)
        body_.log.pop_front();
}

void Store::erase() {
    body_ = {};
    std::error_code none;
    std::filesystem::remove(path_, none);
    std::filesystem::remove(path_ + ".previous", none);
}

} // namespace loom::rig
