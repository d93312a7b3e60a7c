// Somebody who speaks the protocol by hand, without sockets, so that he can say what a client never would.
#pragma once
#ifndef Q_MOC_RUN
#include "rig/front.h"
#endif

namespace loom::test {

struct Stranger {
    rig::Front& front;
    std::vector<std::pair<std::string, bool>> heard{}; // bytes, whether it was a box
    bool dropped = false;
    std::size_t allowed = 0;
    int line = -1;
    std::optional<site::Channel> channel{};

    explicit Stranger(rig::Front& f, const std::string& source = "somewhere") : front(f) {
        line = front.opened(source, {[this](const std::string& b, bool box) { heard.emplace_back(b, box); },
                                     [this] { dropped = true; }, [this](std::size_t n) { allowed = n; }});
    }
    ~Stranger() { front.closed(line); }
    Stranger(const Stranger&) = delete;
    Stranger& operator=(const Stranger&) = delete;
    // What is answered to this text, by whatever id; null: nothing.
    nlohmann::json say(const std::string& text) {
        heard.clear();
        channel ? front.received(line, channel->seal(text), true) : front.received(line, text, false);
        for (const auto& [bytes, box] : heard) {
            const auto opened = box && channel ? channel->open(bytes) : Result<std::string>(bytes);
            auto j = opened ? nlohmann::json::parse(*opened, nullptr, false) : nlohmann::json();
            if (j.is_object() && j.contains("id")) // others are notices
                return j;
        }
        return {};
    }
    nlohmann::json ask(const std::string& method, const nlohmann::json& params = nlohmann::json::object()) {
        return say(nlohmann::json{{"jsonrpc", "2.0"}, {"id", 7}, {"method", method}, {"params", params}}.dump(
            -1, ' ', false, nlohmann::json::error_handler_t::replace));
    }
    void secure() {
        const auto own = site::newKeys();
        const auto back = ask("secure", {{"key", site::keyText(own.open)}})["result"];
        channel = site::Channel::desk(own, *site::readKey(back["key"]), *site::readKey(back["identity"]));
    }
    // The two steps of a password; secret: what was made of it with the device's salt.
    nlohmann::json unlock(const site::Secret& secret, bool unseal = false) {
        const auto about = ask("describe")["result"];
        const site::PasswordAsker asker(secret, channel->binding(), *site::readKey(about["identity"]));
        const auto share = ask("unlock", {{"share", asker.share()}});
        if (share.contains("error"))
            return share;
        const auto proof = asker.answered(share["result"]["share"], share["result"]["confirm"]);
        return ask("prove", {{"confirm", proof ? *proof : site::keyText({})}, {"unseal", unseal}});
    }
};

} // namespace loom::test
