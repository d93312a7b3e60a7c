#include "rig/store.h"
#include "disk/safe_file.h"
#include "file/project_json.h"
#include "program/file_prints.h"
#include "schema/json_text.h"
#include "site/audio_key.h"
#include "site/protocol.h"
#include "surface/pack.h"
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
    (void)project::makePrivateFolder(std::filesystem::path(path_).parent_path().string());
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
    if (const auto done = project::writePrivate(
            path_ + ".key", site::keyText(identity_.open) + " " + site::keyText(identity_.secret), false);
        !done)
        error_ = Error{"its identity cannot be kept: it would be another device at its next start",
                       std::filesystem::path(path_).stem().string(),
                       "Make room for its store, or give it another "
                       "folder."};
}

bool Store::read(const std::string& path) {
    auto raw = project::readWhole(path, 3 * mostBytes);
    auto outer = raw ? project::parseJson(*raw, path) : Result<json>(Error{});
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
        auto config = schema::fromJson<site::Config>(r.value("config", json()));
        if (!config)
            return false;
        b.revisions.push_back({number(r, "number"), text(r, "time"), text(r, "author"), *config});
    }
    b.kept = number(*j, "kept");
    b.lock = text(*j, "lock");
    b.audioKey = text(*j, "audioKey");
    b.lineSecret = text(*j, "lineSecret");
    b.firmware = text(*j, "firmware");
    b.firmwareBefore = text(*j, "firmwareBefore");
    b.address = text(*j, "address");
    for (const auto& e : j->value("log", json::array()))
        if (e.is_object())
            b.log.push_back({text(e, "time"), text(e, "device"), text(e, "who"), text(e, "what"),
                             e.value("bad", json()) == true, std::max(1, number(e, "times"))});
    for (const auto& t : j->value("tickets", json::array()))
        if (t.is_string())
            b.tickets.push_back(t.get<std::string>());
    const json pins = j->value("pins", json::object()); // items() looks into it, so it stays while they are read
    for (const auto& [who, print] : pins.items())
        if (print.is_string())
            b.pins[who] = print.get<std::string>();
    body_ = std::move(b);
    return true;
}

Result<Done> Store::put(Body body) {
    if (fault == Fault::failing)
        return Error{"the store does not take what is written", "store", "Replace the device; what runs goes on."};
    while (body.log.size() > mostLog)
        body.log.pop_front();
    while (body.revisions.size() > mostRevisions) // never the one it boots with
        body.revisions.erase(body.revisions.begin() + (body.revisions.front().number == body.kept ? 1 : 0));
    for (;;) {
        json j = {{"kept", body.kept},         {"lock", body.lock},
                  {"audioKey", body.audioKey}, {"lineSecret", body.lineSecret},
                  {"firmware", body.firmware}, {"firmwareBefore", body.firmwareBefore},
                  {"address", body.address},   {"tickets", body.tickets},
                  {"pins", body.pins},         {"revisions", json::array()},
                  {"log", json::array()}};
        for (const auto& r : body.revisions)
            j["revisions"].push_back(
                {{"number", r.number}, {"time", r.time}, {"author", r.author}, {"config", schema::toJson(r.config)}});
        for (const auto& e : body.log)
            j["log"].push_back(schema::toJson(e));
        const std::string inner = j.dump(-1, ' ', false, json::error_handler_t::replace);
        if (inner.size() > mostBytes && body.revisions.size() > 1) { // the oldest makes room
            body.revisions.erase(body.revisions.begin() + (body.revisions.front().number == body.kept ? 1 : 0));
            continue;
        }
        if (inner.size() > mostBytes || fault == Fault::full)
            return Error{"the store is full", "store", "Remove blocks, or replace the device; what runs goes on."};
        const json outer = {{"sum", site::checksum(inner)}, {"body", inner}};
        if (!project::writePrivate(path_, outer.dump(), true)) // where it lies on this computer is nobody's business
            return Error{"the store could not be written", "store", "Make room for it; what runs goes on."};
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
        return Error{"there is no revision " + std::to_string(n), "store", ""};
    Body b = body_;
    b.kept = n;
    return put(std::move(b));
}

Result<Done> Store::setLock(const std::string& text) {
    Body b = body_;
    b.lock = text;
    b.tickets.clear();
    return put(std::move(b));
}

Result<std::string> Store::newTicket() {
    const std::string ticket = site::keyText(site::newAudioKey());
    Body b = body_;
    b.tickets.push_back(site::secretPrint(ticket));
    if (b.tickets.size() > mostTickets)
        b.tickets.erase(b.tickets.begin());
    if (auto done = put(std::move(b)); !done)
        return done.error();
    return ticket;
}

bool Store::knows(const std::string& ticket) const {
    const auto print = site::secretPrint(ticket);
    return std::find(body_.tickets.begin(), body_.tickets.end(), print) != body_.tickets.end();
}

Result<Done> Store::setAudioKey(const std::string& key) {
    Body b = body_;
    b.audioKey = key;
    return put(std::move(b));
}

Result<Done> Store::setLineSecret(const std::string& secret) {
    Body b = body_;
    b.lineSecret = secret;
    return put(std::move(b));
}

Result<Done> Store::setPin(const std::string& who, const std::string& print) {
    Body b = body_;
    if (b.pins.size() >= 200 && !b.pins.count(who))
        return Error{"it holds 200 PINs already", who, ""};
    print.empty() ? void(b.pins.erase(who)) : void(b.pins[who] = print);
    return put(std::move(b));
}

namespace {

bool isPrint(const std::string& print) { // and so a file's name that leads nowhere else
    return print.size() == 16 && print.find_first_not_of("0123456789abcdef") == std::string::npos;
}

} // namespace

bool Store::hasPicture(const std::string& print) const {
    std::error_code none;
    return isPrint(print) && std::filesystem::is_regular_file(pictureFolder() + "/" + print, none);
}

Result<Done> Store::addPicture(const std::string& print, const std::vector<char>& bytes) {
    if (!isPrint(print) || project::picturePrint(bytes) != print)
        return Error{"the file is not what its print says", print.substr(0, 40), "Send it again."};
    if (bytes.empty() || bytes.size() > project::largestDeviceFile)
        return Error{"a file has 1 byte to 5 MB", print, "Scale a picture down; keep a sound as FLAC, or shorter."};
    if (fault == Fault::full || fault == Fault::failing)
        return Error{"the store is full", "store", "Take files out; what is shown and played goes on."};
    std::size_t count = 0, all = bytes.size();
    std::error_code none;
    for (std::filesystem::directory_iterator it(pictureFolder(), none), end; !none && it != end; it.increment(none)) {
        ++count;
        all += static_cast<std::size_t>(it->file_size(none));
    }
    if (count >= mostPictures || all > project::mostDeviceFiles)
        return Error{"there is no room for more files", "store", "Take pictures or sounds out, and keep what is left."};
    (void)project::makePrivateFolder(pictureFolder());
    if (!project::writePrivate(pictureFolder() + "/" + print, std::string(bytes.begin(), bytes.end()), false))
        return Error{"the file could not be written", "store", "Make room for it."};
    return Done{};
}

std::string Store::certificate() const {
    const auto text = project::readWhole(path_ + ".tls", 16384);
    return text ? *text : "";
}

Result<Done> Store::keepCertificate(const std::string& text) {
    return project::writePrivate(path_ + ".tls", text, false);
}

std::string Store::memory() const {
    const auto text = project::readWhole(path_ + ".memory", 1u << 20);
    return text ? *text : "";
}

void Store::remember(const std::string& text) {
    if (fault == Fault::none)
        (void)bool(project::writePrivate(path_ + ".memory", text, false));
}

std::vector<char> Store::picture(const std::string& print) const {
    const auto read = isPrint(print) ? project::readWhole(pictureFolder() + "/" + print, project::largestDeviceFile)
                                     : Result<std::string>(Error{});
    return read ? std::vector<char>(read->begin(), read->end()) : std::vector<char>{};
}

void Store::keepPictures(const std::set<std::string>& prints) {
    std::error_code none;
    std::vector<std::filesystem::path> gone;
    for (std::filesystem::directory_iterator it(pictureFolder(), none), end; !none && it != end; it.increment(none))
        if (!prints.count(it->path().filename().string()))
            gone.push_back(it->path());
    for (const auto& path : gone)
        std::filesystem::remove(path, none);
}

Result<Done> Store::setFirmware(const std::string& version, const std::string& before) {
    Body b = body_;
    b.firmware = version;
    b.firmwareBefore = before;
    return put(std::move(b));
}

Result<Done> Store::setAddress(const std::string& address) {
    Body b = body_;
    b.address = address;
    return put(std::move(b));
}

void Store::note(site::Event event) {
    const auto same = std::find_if(body_.log.begin(), body_.log.end(), [&](const site::Event& e) {
        return event.bad && e.bad && e.who == event.who && e.what == event.what;
    });
    if (same != body_.log.end()) {
        event.times = same->times + 1;
        body_.log.erase(same);
    }
    body_.log.push_back(std::move(event));
    if (body_.log.size() > mostLog)
        body_.log.pop_front();
}

void Store::erase() {
    body_ = {};
    std::error_code none;
    std::filesystem::remove(path_, none);
    std::filesystem::remove(path_ + ".previous", none);
    std::filesystem::remove(path_ + ".memory", none);
    keepPictures({});
}

} // namespace loom::rig
