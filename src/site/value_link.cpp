#include "site/value_link.h"
#include "schema/json_text.h"
#include "site/bytes.h"
#include <algorithm>
#include <cmath>
#include <sodium.h>

namespace loom::site {

using nlohmann::json;

namespace {

constexpr std::size_t longestText = 500; // of a path or a name
constexpr std::size_t longestCall = 320; // bytes of a number, or of words

std::string dumped(const json& j) {
    return j.dump(-1, ' ', false, json::error_handler_t::replace);
}

std::string text(const json& j, const char* key) {
    const auto it = j.find(key);
    return it != j.end() && it->is_string() && it->get_ref<const std::string&>().size() <= longestText
               ? it->get<std::string>()
               : std::string();
}

} // namespace

ValueLink::ValueLink(std::string serial) : serial_(std::move(serial)) {
    unsigned char random[9];
    randombytes_buf(random, sizeof random);
    boot_ = base64(random, sizeof random);
}

void ValueLink::be(std::set<std::string> ids) {
    ids_ = std::move(ids);
    std::erase_if(watched_, [&](const auto& one) { return !ids_.count(ownerOf(one.first)); });
}

std::string ValueLink::ownerOf(const std::string& path) const {
    return path.substr(0, path.find('/'));
}

void ValueLink::want(std::set<std::string> paths) {
    std::erase_if(paths, [&](const auto& path) { return ids_.count(ownerOf(path)) > 0; });
    while (paths.size() > mostPaths)
        paths.erase(std::prev(paths.end()));
    if (paths == wanted_)
        return;
    wanted_ = std::move(paths);
    wantedAt_ = -1e9;
    std::erase_if(known_, [&](const auto& one) { return !wanted_.count(one.first); });
}

std::optional<double> ValueLink::now(const std::string& path) const {
    const auto it = known_.find(path);
    return it == known_.end() ? std::nullopt : it->second.value;
}

std::string ValueLink::lineNow(const std::string& path) const {
    const auto it = known_.find(path);
    return it == known_.end() ? std::string() : it->second.line;
}

void ValueLink::set(const std::string& path, double value, const std::string& who, double now) {
    if (!std::isfinite(value) || !wanted_.count(path))
        return;
    settings_[path] = {path, who, "", "", value, -1e9, ++n_, tries};
    known_[path].value = value; // as it will be; what is told otherwise comes back once this is done
    known_[path].at = now;
    soon_ = true;
}

void ValueLink::call(const std::string& path, const std::string& does, const std::string& number, double) {
    if (!wanted_.count(path))
        return;
    ++n_;
    settings_[path + "#" + std::to_string(n_)] = {path, "", does, number, 0, -1e9, n_, tries};
    soon_ = true;
}

void ValueLink::tellSoon(const std::string& path) {
    const auto it = watched_.find(path);
    if (it == watched_.end())
        return;
    it->second.told.clear();
    toldAt_ = -1e9;
    soon_ = true;
}

// What is signed is the whole of it but the seal, as its keys are in order.
std::string ValueLink::signedText(json j) const {
    if (!key_)
        return dumped(j);
    j.erase("seal");
    const auto plain = "loom values|" + dumped(j);
    unsigned char out[32];
    crypto_generichash(out, sizeof out, bytes(plain), plain.size(), key_->data(), key_->size());
    j["seal"] = base64(out, sizeof out);
    return dumped(j);
}

bool ValueLink::isSigned(const json& j) const {
    return !key_ || signedText(j) == dumped(j);
}

bool ValueLink::heard(const std::string& datagram, double now) {
    if (datagram.size() > 2048)
        return false;
    const auto read_ = schema::parseJson(datagram, "datagram");
    if (!read_ || !read_->is_object() || text(*read_, "loom") != "values")
        return false;
    const auto& j = *read_;
    const auto from = text(j, "from"), to = text(j, "to"), what = text(j, "do"), boot = text(j, "boot");
    if (from.empty() || from == serial_ || !isSigned(j))
        return false;
    const auto number = [&](const char* key) {
        const auto it = j.find(key);
        return it != j.end() && it->is_number_unsigned() ? it->get<std::uint64_t>() : 0;
    };
    if (what == "want") {
        const auto paths = j.find("paths");
        if (!ids_.count(to) || paths == j.end() || !paths->is_array())
            return false;
        for (const auto& p : *paths) {
            if (!p.is_string() || p.get_ref<const std::string&>().size() > longestText)
                continue;
            const auto path = p.get<std::string>();
            if (ownerOf(path) != to || (watched_.size() >= mostPaths && !watched_.count(path)))
                continue;
            auto& w = watched_[path];
            if (w.until < now) // somebody new
                w.told.clear();
            w.until = now + lostAfter;
        }
        soon_ = true;
        return true;
    }
    if (what == "told") {
        const auto values = j.find("values"), lines = j.find("lines");
        bool any = false;
        const auto mine = [&](const std::string& path) {
            return wanted_.count(path) && ownerOf(path) == text(j, "of") && !settings_.count(path);
        };
        if (values != j.end() && values->is_object())
            for (const auto& [path, v] : values->items())
                if (mine(path) && (v.is_null() || (v.is_number() && std::isfinite(v.get<double>())))) {
                    known_[path].value = v.is_null() ? std::nullopt : std::optional(v.get<double>());
                    known_[path].at = now;
                    any = true;
                }
        if (lines != j.end() && lines->is_object())
            for (const auto& [path, v] : lines->items())
                if (mine(path) && v.is_string() && v.get_ref<const std::string&>().size() <= longestText) {
                    known_[path].line = v.get<std::string>();
                    known_[path].at = now;
                    any = true;
                }
        // Nothing new, but it is still there.
        if (const auto of = text(j, "of"); !of.empty() && !boot.empty() && boots_.size() < mostPaths) {
            if (boots_[of] != boot) {
                boots_[of] = boot;
                for (auto& [_, s] : settings_)
                    if (ownerOf(s.path) == of)
                        s.sentAt = -1e9, soon_ = true;
            }
            for (auto& [path, k] : known_)
                if (ownerOf(path) == of)
                    k.at = now;
        }
        return any;
    }
    if (what == "set" || what == "call") {
        const auto path = text(j, "path");
        const auto n = number("n");
        if (!ids_.count(to) || ownerOf(path) != to || n == 0)
            return false;
        if (text(j, "for") != boot_) { // of an earlier life of this device: maybe repeated by somebody
            toldAt_ = -1e9;
            for (auto& [_, w] : watched_)
                w.told.clear();
            soon_ = true;
            return false;
        }
        const auto whose = from + "/" + boot;
        if (lastFrom_.size() >= mostWatchers && !lastFrom_.count(whose))
            lastFrom_.clear();
        auto& last = lastFrom_[whose];
        const auto value = j.find("value");
        if (n > last) {
            last = n;
            if (what == "call") {
                if (called)
                    called(path, text(j, "does"), text(j, "number"));
            } else if (value != j.end() && value->is_number() && std::isfinite(value->get<double>()) && taken) {
                (void)taken(path, value->get<double>(), text(j, "who"));
            }
        }
        if (acknowledge_.size() < mostWatchers)
            acknowledge_.emplace_back(from, n);
        if (const auto it = watched_.find(path); it != watched_.end())
            it->second.told.clear(); // whatever holds now, others shall know
        soon_ = true;
        return true;
    }
    if (what == "done" && to == serial_) {
        const auto n = number("n");
        return std::erase_if(settings_, [&](const auto& one) { return one.second.n == n; }) > 0;
    }
    return false;
}

std::vector<std::string> ValueLink::take(double now) {
    std::vector<std::string> all;
    soon_ = false;
    std::erase_if(known_,
                  [&](const auto& one) { return now - one.second.at > lostAfter && !settings_.count(one.first); });
    for (const auto& [to, n] : std::exchange(acknowledge_, {}))
        all.push_back(signedText({{"loom", "values"}, {"do", "done"}, {"from", serial_}, {"to", to}, {"n", n}}));

    // -- what is wanted of others --
    if (!wanted_.empty() && now - wantedAt_ >= wantEvery) {
        wantedAt_ = now;
        std::map<std::string, json> asks;
        const auto flush = [&](const std::string& to) {
            if (auto it = asks.find(to); it != asks.end() && !it->second["paths"].empty()) {
                all.push_back(signedText(it->second));
                asks.erase(it);
            }
        };
        for (const auto& path : wanted_) {
            const auto to = ownerOf(path);
            auto& ask = asks[to];
            if (ask.is_null())
                ask = {{"loom", "values"}, {"do", "want"}, {"from", serial_}, {"to", to}, {"paths", json::array()}};
            ask["paths"].push_back(path);
            if (dumped(ask).size() > longestDatagram - 200)
                flush(to);
        }
        for (const auto& path : wanted_)
            flush(ownerOf(path));
    }

    // -- settings --
    for (auto it = settings_.begin(); it != settings_.end();) {
        auto& s = it->second;
        const auto to = ownerOf(s.path);
        if (now - s.sentAt < repeatEvery) {
            ++it;
            continue;
        }
        if (s.left-- <= 0) {
            if (gaveUp)
                gaveUp(s.path);
            it = settings_.erase(it);
            continue;
        }
        s.sentAt = now;
        const auto boot = boots_.find(to);
        if (boot != boots_.end()) {
            json j{{"loom", "values"}, {"do", s.does.empty() ? "set" : "call"},
                   {"from", serial_},  {"boot", boot_},
                   {"to", to},         {"for", boot->second},
                   {"path", s.path},   {"n", s.n}};
            if (s.does.empty())
                j["value"] = s.value, j["who"] = s.who.substr(0, 100);
            else
                j["does"] = s.does, j["number"] = s.number.substr(0, longestCall);
            all.push_back(signedText(j));
        }
        ++it;
    }

    // -- its own, for those who watch --
    std::erase_if(watched_, [&](const auto& one) { return one.second.until < now; });
    if (now - toldAt_ >= tellEvery && !watched_.empty()) {
        toldAt_ = now;
        std::map<std::string, json> tells;
        const auto fresh = [&](const std::string& of) {
            return json{
                {"loom", "values"},         {"do", "told"},           {"from", serial_}, {"of", of}, {"boot", boot_},
                {"values", json::object()}, {"lines", json::object()}};
        };
        for (auto& [path, w] : watched_) {
            json value;
            const bool isLine = path.size() > 5 && path.compare(path.size() - 5, 5, "@line") == 0;
            if (isLine)
                value = line ? line(path) : "";
            else if (const auto v = read ? read(path) : std::nullopt) // levels by a tenth of a decibel
                value = path.find('@') != std::string::npos ? std::round(*v * 10) / 10 : *v;
            const auto said = dumped(value);
            if (said == w.told && now - w.at < wantEvery)
                continue;
            w.told = said, w.at = now;
            const auto of = ownerOf(path);
            auto& tell = tells[of];
            if (tell.is_null())
                tell = fresh(of);
            tell[isLine ? "lines" : "values"][path] = value;
            if (dumped(tell).size() > longestDatagram - 200) {
                all.push_back(signedText(tell));
                tells.erase(of);
            }
        }
        for (const auto& [of, tell] : tells)
            if (!tell.is_null())
                all.push_back(signedText(tell));
    }
    return all;
}

} // namespace loom::site
