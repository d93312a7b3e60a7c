// The way to an unlocked line, from both ends. To a sealed device: pieces of a conversation, in the open, as boxes that
// nobody made, encrypted, or as shares and proofs; nobody gets in. To a desk that knows a device's key: whatever
// somebody answers in its place; the line never comes up, and every call ends once.
//   Input: pieces of a kind (one byte), a length (two) and that many bytes.
#include "../tests/client/fake_network.h"
#include "../tests/client/stranger.h"
#include "client/device_session.h"
#include "models.h"
#include "rig/device.h"
#include "site/config.h"
#include <cstdlib>
#include <deque>
#include <filesystem>

using namespace loom;
using nlohmann::json;
using test::Stranger;

namespace {

void need(bool holds) {
    if (!holds)
        std::abort();
}

double now = 0;

struct Piece {
    unsigned char kind;
    std::string bytes;
};

std::vector<Piece> piecesOf(const unsigned char* data, std::size_t size) {
    std::vector<Piece> all;
    for (std::size_t at = 0; at + 3 <= size && all.size() < 64;) {
        const std::size_t wanted = data[at + 1] | data[at + 2] << 8, there = std::min(wanted, size - at - 3);
        all.push_back({data[at], {reinterpret_cast<const char*>(data) + at + 3, there}});
        at += 3 + there;
    }
    return all;
}

// ---- the device's end ----

void toDevice(const std::vector<Piece>& pieces) {
    static const std::string folder = [] {
        std::string name = (std::filesystem::temp_directory_path() / "loom-fuzz-XXXXXX").string();
        need(mkdtemp(name.data()));
        return name;
    }();
    static rig::DeviceSetup setup = [] {
        rig::DeviceSetup s;
        s.models = test::models();
        s.folder = folder;
        return s;
    }();
    static rig::Device device(setup);
    static rig::Front front(device, [] { return now; });
    static const std::string before = [] {
        need(bool(front.setPassword("only for the fuzzer")));
        return device.store().lock();
    }();
    now += 100000; // pauses after wrong passwords are over
    static const site::Secret wrong{{1}, {2}};
    Stranger who(front);
    for (const auto& p : pieces) {
        now += 0.5;
        if (who.dropped)
            break;
        switch (p.kind % 8) {
        case 0: // as it stands
            front.received(who.line, p.bytes, false);
            break;
        case 1: // a box that nobody made
            front.received(who.line, p.bytes, true);
            need(who.dropped);
            break;
        case 2:
            (void)who.say(p.bytes);
            break;
        case 3:
            (void)who.ask("secure", {{"key", p.bytes}});
            break;
        case 4:
            if (!who.channel && !who.dropped && who.ask("describe").is_object())
                who.secure();
            break;
        case 5:
            (void)who.ask("unlock", {{"share", p.bytes}});
            break;
        case 6:
            need(!who.ask("prove", {{"confirm", p.bytes}}).contains("result"));
            break;
        case 7: // a whole exchange with another password
            if (who.channel)
                need(!who.unlock(wrong).contains("result"));
            break;
        }
        front.tick();
    }
    if (!who.dropped && who.channel)
        need(!who.ask("state").contains("result"));
    need(device.store().lock() == before && !device.running().program && front.lines() <= 1);
}

// ---- the desk's end ----

// Answers with one piece after the other.
class Impostor : public client::Network {
  public:
    explicit Impostor(std::deque<Piece> pieces) : pieces_(std::move(pieces)) {}
    test::Turns turns;
    site::KeyPair own = site::newKeys(), identity = site::newKeys();
    std::optional<site::Channel> channel{}; // where the desk took its keys
    client::Scheduler& here() override { return turns; }
    client::Scheduler& there() override { return turns; }
    void work(std::function<void()> job) override { turns.post(std::move(job)); }
    std::unique_ptr<client::Finder> newFinder() override { return nullptr; }
    std::unique_ptr<client::GroupListener> newListener() override { return nullptr; }
    std::unique_ptr<client::Line> newLine() override {
        struct Way : client::Line {
            Impostor& at;
            std::shared_ptr<int> there = std::make_shared<int>();
            explicit Way(Impostor& i) : at(i) {}
            void open(const std::string&, std::uint16_t) override {
                later([this] { opened(); });
            }
            void send(const std::string& bytes, bool) override {
                later([this, bytes] { at.answer(*this, bytes); });
            }
            void close() override { there = std::make_shared<int>(), at.channel.reset(); }
            void allow(std::size_t) override {}
            void later(std::function<void()> what) {
                at.turns.after(1, [weak = std::weak_ptr(there), what = std::move(what)] {
                    if (weak.lock())
                        what();
                });
            }
        };
        return std::make_unique<Way>(*this);
    }

  private:
    void answer(client::Line& way, const std::string& asked) {
        if (pieces_.empty())
            return;
        const auto p = pieces_.front();
        pieces_.pop_front();
        const auto request = json::parse(asked, nullptr, false);
        switch (p.kind % 4) {
        case 0:
            return way.received(p.bytes, false);
        case 1:
            return way.received(p.bytes, true);
        case 2: // with keys that are keys
            if (request.is_object() && request.contains("params")) {
                if (const auto desk = site::readKey(request["params"].value("key", "")))
                    channel = site::Channel::device(own, identity, *desk);
                return way.received(
                    json{{"jsonrpc", "2.0"},
                         {"id", request["id"]},
                         {"result", {{"key", site::keyText(own.open)}, {"identity", site::keyText(identity.open)}}}}
                        .dump(),
                    false);
            }
            return way.received(p.bytes, false);
        case 3:
            return channel ? way.received(channel->seal(p.bytes), true) : way.received(p.bytes, true);
        }
    }
    std::deque<Piece> pieces_;
};

void toDesk(const std::vector<Piece>& pieces, bool pinned) {
    Impostor network({pieces.begin(), pieces.end()});
    static const auto real = site::newKeys();
    int ended = 0, begun = 0, impostors = 0;
    std::optional<client::DeviceSession> session(std::in_place, network);
    const auto call = [&] {
        ++begun;
        session->call(site::message::state, {}, [&](const client::Reply<site::DeviceState>&) { ++ended; });
    };
    session->impostor = [&](const std::string&) { ++impostors; };
    session->told = [](const std::string&, const json&) {};
    session->changed = [&] {
        if (session && session->up())
            call(), call();
    };
    session->open("127.20.1.1", 1, {pinned ? site::keyText(real.open) : "", ""});
    for (int second = 0; second < 20; ++second) {
        network.turns.run(1000);
        need(!pinned || !session->up()); // nobody else's key is taken for it
        if (second % 5 == 2)
            call();
    }
    session.reset();
    network.turns.run(10000);
    need(begun == ended && impostors <= 1 && network.turns.steps() < 20000);
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    if (size < 1)
        return 0;
    const auto pieces = piecesOf(data + 1, size - 1);
    switch (data[0] % 4) {
    case 0:
    case 1:
        toDevice(pieces);
        break;
    case 2:
        toDesk(pieces, true);
        break;
    case 3:
        toDesk(pieces, false);
        break;
    }
    // What a device holds of a password, and an exchange with somebody who does not know it.
    const std::string text(reinterpret_cast<const char*>(data), size);
    if (const auto lock = site::readLock(text))
        need(site::readLock(site::lockText(*lock)) == lock);
    static const site::PasswordAsker asker({{3}, {4}}, {5}, {6});
    if (pieces.size() >= 2)
        need(!asker.answered(pieces[0].bytes, pieces[1].bytes));
    return 0;
}
