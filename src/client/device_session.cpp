#include "client/device_session.h"
#include "file/project_json.h"
#include "schema/json_text.h"

namespace loom::client {

using nlohmann::json;
using site::Code;

namespace {

constexpr int secureId = 0, knownId = -1, describeId = -2; // of the session's own

std::string textOf(const json& j, const char* key) {
    const auto it = j.is_object() ? j.find(key) : j.end();
    return it != j.end() && it->is_string() ? it->get<std::string>() : std::string();
}

const char* const wentAway = "The device went away before it answered. The design is as it was; try again when it is "
                             "back.";

} // namespace

// The part that lives there: line, keys, what was asked.
struct DeviceSession::Core : std::enable_shared_from_this<Core> {
    Network& network;
    std::weak_ptr<DeviceSession*> owner;
    int opened; // which opening it belongs to: of another one nobody wants to hear
    std::string address;
    std::uint16_t port;
    Expected expected;
    std::unique_ptr<Line> line{};
    site::KeyPair own{};
    std::optional<site::Channel> channel{};
    Timer again, patience;
    qint64 dialled = 0;
    bool wanted = true, dialling = false;
    struct Asked {
        Read read;
        qint64 since;
    };
    std::map<int, Asked> asked{};

    Core(Network& n, std::weak_ptr<DeviceSession*> o, int which, std::string at, std::uint16_t p, Expected e)
        : network(n), owner(std::move(o)), opened(which), address(std::move(at)), port(p), expected(std::move(e)),
          again(n.there(), Timer::Mode::once, [this] { dial(); }),
          patience(n.there(), Timer::Mode::again, [this] { look(); }) {}

    void tell(std::function<void(DeviceSession&)> what) {
        network.here().post([o = owner, which = opened, what = std::move(what)] {
            if (const auto there = o.lock(); there && *there && (*there)->opened_ == which)
                what(**there);
        });
    }
    void begin(int afterMs) {
        patience.start(1000);
        again.start(afterMs);
    }
    void end() {
        wanted = false;
        again.stop();
        patience.stop();
        line.reset();
        asked.clear(); // whoever asked has been told already
    }
    void dial() {
        if (!wanted || dialling || channel)
            return;
        if (!line) {
            line = network.newLine();
            const auto weak = weak_from_this();
            const auto mine = [weak](auto what) {
                return [weak, what](auto&&... args) {
                    if (const auto core = weak.lock())
                        what(*core, args...);
                };
            };
            line->opened = mine([](Core& c) { c.connected(); });
            line->closed = mine([](Core& c) { c.lost(); });
            line->received = mine([](Core& c, const std::string& bytes, bool box) { c.received(bytes, box); });
        }
        dialled = network.there().now();
        dialling = true;
        line->allow(site::mostBeforeUnlocked);
        line->open(address, port);
    }
    void hangUp() {
        line->close();
        lost();
    }
    void look() {
        const auto now = network.there().now();
        const bool silent = !asked.empty() && now - asked.begin()->second.since > patienceMs;
        const bool stuck = dialling && !channel && now - dialled > patienceMs;
        if (silent || stuck)
            hangUp();
    }
    void connected() {
        own = site::newKeys();
        line->send(site::requestText(secureId, site::message::secure, {site::keyText(own.open)}), false);
    }
    void secured(const json& result) {
        const auto back = schema::fromJson<site::HelloBack>(result);
        const auto key = back ? site::readKey(back->key) : std::nullopt;
        const auto identity = back ? site::readKey(back->identity) : std::nullopt;
        if (!key || !identity)
            return hangUp();
        const std::string proved = site::keyText(*identity);
        if (!expected.identity.empty() && proved != expected.identity) {
            wanted = false;
            line->close();
            network.there().post([core = shared_from_this()] { core->end(); }); // the line is in the midst of this
            return tell([proved](DeviceSession& s) {
                s.wanted_ = false;
                if (const auto impostor = s.impostor)
                    impostor(proved);
            });
        }
        auto made = site::Channel::desk(own, *key, *identity);
        if (!made.usable())
            return hangUp();
        const bool pinned = !expected.identity.empty();
        expected.identity = proved; // a line that comes back leads to the same device
        channel = std::move(made);
        if (!expected.ticket.empty())
            post(site::requestText(knownId, site::message::known, {expected.ticket}));
        // That it holds the key shows with its first answer: before it nothing is told.
        asked[describeId] = {[this, proved, pinned](const json& about) {
                                 isUp(schema::fromJson<site::DiscoveredDevice>(about), proved, pinned);
                                 return std::any();
                             },
                             network.there().now()};
        post(site::requestText(describeId, site::message::describe, {}));
    }
    void isUp(const Result<site::DiscoveredDevice>& about, const std::string& proved, bool pinned) {
        if (!about)
            return hangUp();
        dialling = false;
        tell([proved, binding = channel->binding(), pinned, about = *about](DeviceSession& s) {
            s.isUp(proved, binding, pinned, about);
        });
    }
    void post(const std::string& text) { line->send(channel->seal(text), true); }
    void received(const std::string& bytes, bool box) {
        if (box != channel.has_value())
            return hangUp(); // an encrypted line takes nothing in the open
        if (!box) {
            const auto reply = project::parseJson(bytes, "answer");
            if (reply && reply->is_object() && reply->value("id", json()) == secureId)
                secured(reply->value("result", json()));
            return;
        }
        const auto text = channel->open(bytes);
        if (!text)
            return hangUp();
        const auto reply = project::parseJson(*text, "answer");
        if (!reply || !reply->is_object())
            return;
        if (!reply->contains("id")) {
            if (const auto params = reply->value("params", json()); params.is_object())
                tell([method = textOf(*reply, "method"), params](DeviceSession& s) {
                    if (const auto told = s.told)
                        told(method, params);
                });
            return;
        }
        if (!reply->value("id", json()).is_number_integer())
            return; // not an answer to anything asked here
        const auto it = asked.find(reply->at("id").get<int>());
        if (it == asked.end())
            return;
        const int id = it->first;
        const auto read = std::move(it->second.read);
        asked.erase(it);
        const auto error = reply->value("error", json());
        std::any answer;
        if (error.is_object()) {
            const auto message = textOf(error, "message").substr(0, 500);
            const auto code = error.value("code", json());
            answer = Failure{code.is_number_integer() && code != static_cast<int>(Code::lost)
                                 ? static_cast<Code>(code.get<int>())
                                 : Code::refused,
                             message.empty() ? "The device refused." : message};
        } else {
            answer = read(reply->value("result", json()));
        }
        if (id > 0)
            tell([id, answer = std::move(answer)](DeviceSession& s) { s.answered(id, answer); });
    }
    void lost() {
        channel.reset();
        asked.clear();
        dialling = false;
        if (wanted)
            again.start(againMs);
        tell([](DeviceSession& s) { s.isDown(); });
    }
    void ask(int id, const Make& make, Read read) {
        if (!channel)
            return tell([id](DeviceSession& s) { s.answered(id, Failure{Code::lost, wentAway}); });
        asked[id] = {std::move(read), network.there().now()};
        post(make(id));
    }
};

DeviceSession::DeviceSession(Network& network) : network_(network), self_(std::make_shared<DeviceSession*>(this)) {}

DeviceSession::~DeviceSession() {
    *self_ = nullptr; // what calls it just now may hold it still
    close();
}

void DeviceSession::open(const std::string& address, std::uint16_t port, const Expected& expected, int afterMs) {
    close();
    address_ = address;
    wanted_ = true;
    core_ = std::make_shared<Core>(network_, self_, ++opened_, address, port, expected);
    network_.there().post([core = core_, afterMs] { core->begin(afterMs); });
}

void DeviceSession::close() {
    wanted_ = false;
    ++opened_;
    if (core_) {
        network_.there().post([core = std::move(core_)] { core->end(); }); // and it goes there
        core_.reset();
    }
    const bool was = std::exchange(up_, false);
    for (auto& [_, then] : std::exchange(waiting_, {})) // not in the midst of whoever closes it
        network_.here().post([then = std::move(then)] { then(Failure{Code::lost, wentAway}); });
    if (was && *self_)
        tellChanged();
}

void DeviceSession::begin(Make make, Read read, std::function<void(std::any)> then) {
    if (!up_ || !core_) {
        network_.here().post([then = std::move(then)] { then(Failure{Code::lost, "The device is not connected."}); });
        return;
    }
    const int id = next_++;
    waiting_[id] = std::move(then);
    network_.there().post([core = core_, id, make = std::move(make), read = std::move(read)]() mutable {
        core->ask(id, make, std::move(read));
    });
}

void DeviceSession::answered(int id, std::any answer) {
    const auto it = waiting_.find(id);
    if (it == waiting_.end())
        return;
    const auto then = std::move(it->second);
    waiting_.erase(it);
    then(std::move(answer));
}

void DeviceSession::unlocked() {
    if (core_)
        network_.there().post([core = core_] {
            if (core->line)
                core->line->allow(site::mostUnlocked);
        });
}

void DeviceSession::isUp(const std::string& identity, const site::Key& binding, bool pinned,
                         const site::DiscoveredDevice& about) {
    identity_ = identity;
    binding_ = binding;
    pinned_ = pinned;
    about_ = about;
    up_ = true;
    tellChanged();
}

void DeviceSession::isDown() {
    const bool was = std::exchange(up_, false);
    auto waiting = std::exchange(waiting_, {});
    const auto me = self_;
    for (auto& [_, then] : waiting) // any of them may have this go
        then(Failure{Code::lost, wentAway});
    if (was && *me)
        tellChanged();
}

void DeviceSession::tellChanged() {
    if (const auto tell = changed) // it may have this go
        tell();
}

std::string DeviceSession::notUnderstood() {
    return "The device's answer is not understood. Its firmware may be of another time than this program; look at "
           "Site.";
}

} // namespace loom::client
