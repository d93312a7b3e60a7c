// The line between client and device without sockets: every message, in every state of the line, from whoever asks;
// keys, passwords, places; what waits when a line goes.
#include "fake_network.h"
#include "stranger.h"
#ifndef Q_MOC_RUN
#include "client/tickets.h"
#include "client/transaction.h"
#include "client/unlock.h"
#include "disk/safe_file.h"
#include "file/project_json.h"
#endif
#include "test.h"
#include <QTemporaryDir>

using namespace loom;
using namespace loom::test;
using client::DeviceSession;
using client::Reply;
using nlohmann::json;
using site::Code;

namespace {

const std::string phrase = "tall grass by the sea";
const site::Salt salt{1, 2, 3};

const site::Secret& secretOfPhrase() { // takes a while: once
    static const auto s = *site::secretOf(phrase, salt);
    return s;
}

// Something that is well formed for a JSON Schema of what is asked.
json anythingFor(const json& schema) {
    json params = json::object();
    const json members = schema.value("properties", json::object()), needed = schema.value("required", json::array());
    for (const auto& [key, member] : members.items()) {
        if (std::find(needed.begin(), needed.end(), key) == needed.end())
            continue;
        const std::string type = member.contains("$ref") ? "object" : member.value("type", "string");
        params[key] = type == "number" || type == "integer" ? json(1)
                      : type == "boolean"                   ? json(true)
                      : type == "object"                    ? json::object()
                                                            : json("x");
    }
    return params;
}

} // namespace

class TestLine : public QObject {
    Q_OBJECT
    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<FakeNetwork> net_;
    Station* tap_ = nullptr;

    Station& add(const std::string& serial, const std::string& model, const std::string& address) {
        return net_->add(serial, model, address, folder_->path().toStdString());
    }
    void seal(Station& s) { QVERIFY(bool(s.front->setLock(site::lockText(site::lockOf(secretOfPhrase(), salt))))); }
    bool up(DeviceSession& s) {
        return net_->turns.runUntil([&] { return s.up(); }, 20000);
    }

  private slots:
    void init() {
        const QString fast = QFileInfo("/dev/shm").isWritable() ? "/dev/shm/loom-XXXXXX" : QString();
        folder_ = fast.isEmpty() ? std::make_unique<QTemporaryDir>() : std::make_unique<QTemporaryDir>(fast);
        net_ = std::make_unique<FakeNetwork>();
        tap_ = &add("T1", "tap", "127.0.0.1");
    }
    void cleanup() { net_.reset(); }

    // ---- who may ask what ----
    void everyMessageInEveryState() {
        // Written down before the table was made: what may be asked by whom.
        const std::set<std::string> open = {"describe", "secure"},
                                    encrypted = {"describe", "secure", "known", "unlock", "prove"};
        int cells = 0;
        for (const bool sealed : {false, true}) {
            init();
            if (sealed)
                seal(*tap_);
            for (const auto& m : site::allMessages())
                for (const char* state : {"open", "encrypted", "unlocked", "unlocked and sealed anew"}) {
                    const std::string how = state;
                    init(); // a device of its own for each
                    if (sealed)
                        seal(*tap_);
                    Stranger who(*tap_->front);
                    if (how != "open")
                        who.secure();
                    if (how.rfind("unlocked", 0) == 0 && sealed)
                        QVERIFY(who.unlock(secretOfPhrase()).contains("result"));
                    if (how == "unlocked and sealed anew")
                        seal(*tap_); // by somebody else
                    const bool may = how == "open"        ? open.count(m.name) > 0
                                     : how == "encrypted" ? !sealed || encrypted.count(m.name) > 0
                                     : how == "unlocked"  ? true
                                                          : encrypted.count(m.name) > 0;
                    const auto answer = who.ask(m.name, anythingFor(m.ask));
                    const std::string what = m.name + ", " + how + (sealed ? ", sealed" : "");
                    QVERIFY2(answer.contains("result") != answer.contains("error"), what.c_str());
                    const int code = answer.contains("error") ? answer["error"]["code"].get<int>() : 0;
                    if (!may)
                        QVERIFY2(code == (how == "open" ? 3 : 2), what.c_str());
                    else
                        QVERIFY2(code != 2 && code != 3 && code != -32601, what.c_str());
                    ++cells;
                }
        }
        QCOMPARE(cells, static_cast<int>(site::allMessages().size()) * 8);
        qInfo("%d cells", cells);
    }
    void refusedMessagesChangeNothing() {
        seal(*tap_);
        const auto before = site::fingerprint(tap_->device->running()) + tap_->device->store().lock();
        Stranger who(*tap_->front);
        who.secure();
        for (const auto& m : site::allMessages())
            (void)who.ask(m.name, anythingFor(m.ask));
        QVERIFY(site::fingerprint(tap_->device->running()) + tap_->device->store().lock() == before);
        QVERIFY(tap_->device->powered() && !tap_->device->identifying() && tap_->address == "127.0.0.1");
    }
    void onlyThoseWhoMayAreTold() {
        seal(*tap_);
        Stranger locked(*tap_->front), unlocked(*tap_->front), open(*tap_->front);
        locked.secure(), unlocked.secure();
        QVERIFY(unlocked.unlock(secretOfPhrase()).contains("result"));
        for (auto* s : {&locked, &unlocked, &open})
            s->heard.clear();
        tap_->device->pressButton();
        QCOMPARE(unlocked.heard.size(), std::size_t(1));
        QVERIFY(locked.heard.empty() && open.heard.empty());
    }
    void wrongParametersNameTheirPlace() {
        Stranger who(*tap_->front);
        who.secure();
        const auto error = who.ask("set", {{"path", 7}, {"value", 1}})["error"];
        QVERIFY(error["code"] == -32602 && error["message"].get<std::string>().find("path") != std::string::npos);
        QVERIFY(who.ask("set", {{"path", "a"}})["error"]["message"].get<std::string>().find("value") !=
                std::string::npos);
        QVERIFY(who.ask("set", {{"path", std::string(500, 'a')}, {"value", 1}})["error"]["code"] == -32602);
        QVERIFY(who.ask("revision", {{"revision", -1}})["error"]["code"] == -32602);
    }

    // ---- places and limits ----
    void strangersMakeRoomForEachOther() {
        std::vector<std::unique_ptr<Stranger>> flood;
        Stranger works(*tap_->front, "desk");
        works.secure();
        for (int i = 0; i < 500; ++i)
            flood.push_back(std::make_unique<Stranger>(*tap_->front, "flood"));
        QVERIFY(!works.dropped && works.ask("state").contains("result"));
        QCOMPARE(tap_->front->lines(), rig::Front::mostLines);
        // From one place each: those that are not encrypted go before one that works.
        for (int i = 0; i < 500; ++i)
            flood.push_back(std::make_unique<Stranger>(*tap_->front, "flood " + std::to_string(i)));
        QVERIFY(!works.dropped);
    }
    void aPlaceIsKeptForKnownComputers() {
        seal(*tap_);
        std::string ticket;
        {
            Stranger first(*tap_->front, "desk");
            first.secure();
            ticket = first.unlock(secretOfPhrase())["result"]["ticket"];
        }
        std::vector<std::unique_ptr<Stranger>> flood;
        const auto more = [&](int n) {
            for (int i = 0; i < n; ++i)
                flood.push_back(std::make_unique<Stranger>(*tap_->front, "desk")); // from the very same place
        };
        more(40);
        Stranger known(*tap_->front, "desk");
        known.secure();
        QVERIFY(known.ask("known", {{"ticket", ticket}})["result"]["known"] == true);
        more(500);
        QVERIFY(!known.dropped && known.unlock(secretOfPhrase()).contains("result") &&
                known.ask("state").contains("result"));
        // Where only known ones are left, a new one finds no place.
        std::vector<std::unique_ptr<Stranger>> known32;
        for (std::size_t i = 0; i < rig::Front::mostLines; ++i) {
            known32.push_back(std::make_unique<Stranger>(*tap_->front, "desk"));
            if (known32.back()->dropped)
                continue;
            known32.back()->secure();
            (void)known32.back()->ask("known", {{"ticket", ticket}});
        }
        QVERIFY(Stranger(*tap_->front, "another").dropped && !known.dropped);
    }
    void idleStrangersEnd() {
        seal(*tap_);
        Stranger open(*tap_->front), encrypted(*tap_->front), busy(*tap_->front), unlocked(*tap_->front);
        encrypted.secure(), busy.secure(), unlocked.secure();
        QVERIFY(unlocked.unlock(secretOfPhrase()).contains("result"));
        for (int s = 0; s < 1000; ++s) {
            net_->turns.run(1000);
            tap_->front->tick();
            if (s == 5)
                QVERIFY(!open.dropped);
            if (s == 12)
                QVERIFY(open.dropped && !encrypted.dropped);
            if (s == 65)
                QVERIFY(encrypted.dropped && !busy.dropped);
            if (s < 850)
                QVERIFY(busy.ask("describe").contains("result"));
        }
        QVERIFY(busy.dropped && !unlocked.dropped); // it had 15 minutes
    }
    void longMessagesEndALineThatMayNotAskMuch() {
        const std::string large = json{{"method", "describe"}, {"params", {{"a", std::string(20000, 'a')}}}}.dump();
        Stranger open(*tap_->front), may(*tap_->front);
        QCOMPARE(open.allowed, site::mostBeforeUnlocked);
        open.say(large);
        QVERIFY(open.dropped);
        may.secure();
        QCOMPARE(may.allowed, site::mostUnlocked);
        may.say(large);
        QVERIFY(!may.dropped);
        seal(*tap_);
        QCOMPARE(may.allowed, site::mostBeforeUnlocked);
        may.say(large);
        QVERIFY(may.dropped);
    }
    // Passwords that are tried and not proved are told once, and push nothing out.
    void guessesAreSlowedDown() {
        using rig::Guesses;
        { // one place: five, then half a minute, then twice as long each time, and no more than a quarter of an hour
            Guesses g;
            double now = 100;
            for (int i = 0; i < Guesses::free; ++i)
                QCOMPARE(g.begin("here", false, now), 0);
            for (int wait = 30; wait < 900; wait *= 2) {
                QCOMPARE(g.begin("here", false, now), wait);
                QCOMPARE(g.begin("here", false, now + wait - 0.5), 1);
                QCOMPARE(g.begin("there", true, now), 0); // a computer that is known is not held up
                QCOMPARE(g.begin("here", false, now += wait), 0);
            }
            QCOMPARE(g.begin("here", false, now), 900);
            QCOMPARE(g.begin("here", false, now += 900), 0);
            QCOMPARE(g.begin("here", false, now), 900);
            QCOMPARE(g.begin("here", false, now + Guesses::forgottenAfter + 1), 0); // and all over again
            QCOMPARE(g.begin("here", false, now + Guesses::forgottenAfter + 1), 0);
        }
        { // strangers together: twenty
            Guesses g;
            for (int i = 0; i < Guesses::freeOfStrangers; ++i)
                QCOMPARE(g.begin("place " + std::to_string(i), false, 10), 0);
            QCOMPARE(g.begin("yet another", false, 10), 30);
            QCOMPARE(g.begin("place 0", true, 10), 0);
            g.right("place 3", false); // one of them knew it: the others are strangers still, one fewer
            QCOMPARE(g.begin("yet another", false, 10), 0);
            QCOMPARE(g.begin("yet another", false, 10), 30);
            g.right("nobody", false);
            QCOMPARE(g.begin("one more", false, 10), 30);
            QCOMPARE(g.begin("one more", false, 40), 0);
        }
        { // more wrong ones than one right one makes up for
            Guesses g;
            for (int i = 0; i < Guesses::freeOfStrangers; ++i)
                QCOMPARE(g.begin("place " + std::to_string(i), false, 10), 0);
            QCOMPARE(g.begin("place 0", false, 40), 0); // after the pause
            g.right("place 1", false);
            QCOMPARE(g.begin("place 2", false, 41), 59); // of the one a minute long
            g.right("place 0", false);                   // two tries
            QCOMPARE(g.begin("place 2", false, 41), 0);
        }
    }
    void idsAreNumbersOrShortTexts() {
        Stranger who(*tap_->front);
        const auto code = [&](const std::string& id) {
            const auto answer = who.say("{\"id\": " + id + ", \"method\": \"describe\"}");
            return answer.contains("result") ? 0 : answer["error"]["code"].get<int>();
        };
        for (const std::string good : {"7", "-1.5", "null", "\"seven\""}) {
            QCOMPARE(code(good), 0);
            QVERIFY(who.say("{\"id\": " + good + ", \"method\": \"describe\"}")["id"] == json::parse(good));
        }
        for (const std::string bad : {"[]", "{}", "true", "[1]"})
            QCOMPARE(code(bad), static_cast<int>(Code::noRequest));
        QCOMPARE(code('"' + std::string(99, 'x') + '"'), 0);
        QCOMPARE(code('"' + std::string(100, 'x') + '"'), static_cast<int>(Code::noRequest));
    }
    void theLogKeepsWhatMatters() {
        tap_->device->note("Ana", "Something worth knowing.");
        seal(*tap_);
        for (int i = 0; i < 1000; ++i) {
            Stranger who(*tap_->front, "place " + std::to_string(i));
            who.secure();
            (void)who.ask(
                "unlock",
                {{"share", site::keyText(site::lockOf(site::Secret{site::newScalar(), site::newScalar()}, {}).l)}});
            net_->turns.run(1000000);
        }
        const auto& log = tap_->device->store().log();
        QVERIFY(log.size() < 10);
        QVERIFY(log.front().what == "Something worth knowing." && log.back().times > 20);
    }

    // ---- sessions ----
    void aSessionComesUpAndBack() {
        DeviceSession s(*net_);
        int changes = 0;
        s.changed = [&] { ++changes; };
        s.open("127.0.0.1", 4710, {});
        QVERIFY(!s.up() && up(s));
        QVERIFY(s.identity() == tap_->front->about().identity && !s.pinned() && s.about().serial == "T1");
        std::vector<std::string> errors;
        for (int i = 0; i < 3; ++i)
            s.call(site::message::state, {},
                   [&](const Reply<site::DeviceState>& r) { errors.push_back(r ? "" : r.error); });
        net_->turns.step();
        tap_->cut();
        net_->turns.run(100);
        QCOMPARE(errors.size(), std::size_t(3)); // each once
        for (const auto& t : errors)
            QVERIFY(t.find("went away") != std::string::npos);
        QVERIFY(!s.up());
        QVERIFY(up(s) && s.pinned()); // the same device, by its key
        QCOMPARE(changes, 3);
    }
    void aSilentLineIsLost() {
        DeviceSession s(*net_);
        s.open("127.0.0.1", 4710, {});
        QVERIFY(up(s));
        net_->least = net_->most = 100000; // nothing arrives any more
        std::string error;
        s.call(site::message::state, {}, [&](const Reply<site::DeviceState>& r) { error = r.error; });
        net_->turns.run(4000);
        QVERIFY(s.up() && error.empty());
        net_->turns.run(4000);
        QVERIFY(!s.up() && !error.empty());
    }
    void whatNeverAnswersIsDialledAgain() {
        struct Silent : FakeNetwork {
            int opened = 0, closed = 0;
            std::unique_ptr<client::Line> newLine() override {
                struct Way : client::Line {
                    Silent& at;
                    explicit Way(Silent& s) : at(s) {}
                    void open(const std::string&, std::uint16_t) override { ++at.opened; }
                    void send(const std::string&, bool) override {}
                    void close() override { ++at.closed; }
                    void allow(std::size_t) override {}
                };
                return std::make_unique<Way>(*this);
            }
        } net;
        DeviceSession s(net);
        s.open("127.0.0.9", 4710, {});
        net.turns.run(4900);
        QCOMPARE(net.opened, 1); // it has some patience
        net.turns.run(60000);
        QVERIFY2(net.opened >= 8 && net.opened <= 12, std::to_string(net.opened).c_str()); // 5 s each, and a pause
        QCOMPARE(net.closed, net.opened - 1);
        s.close();
        net.turns.run(60000);
        QVERIFY(net.opened <= 12);
    }
    // What was on its way from one device is not taken for the next one's, at whatever moment the line is led
    // elsewhere.
    void aLineThatIsLedElsewhereForgets() {
        add("other", "tap", "127.0.0.2");
        const auto wanted = net_->stations.at("other")->front->about().identity;
        for (int moment = 0; moment < 80; ++moment) {
            DeviceSession s(*net_);
            s.open("127.0.0.1", 4710, {});
            for (int i = 0; i < moment / 2; ++i)
                net_->turns.step();
            int wrong = 0, right = 0, answers = 0;
            if (s.up())
                s.call(site::message::describe, {}, [&](const Reply<site::DiscoveredDevice>& r) { answers += !r; });
            const bool asked = s.up();
            if (moment % 2)
                s.close();
            s.changed = [&] {
                if (s.up())
                    (s.identity() == wanted ? right : wrong) += 1;
            };
            s.open("127.0.0.2", 4710, {});
            QVERIFY(net_->turns.runUntil([&] { return s.up(); }, 20000));
            QVERIFY2(wrong == 0 && right == 1 && answers == int(asked), std::to_string(moment).c_str());
            QCOMPARE(s.about().serial, std::string("other"));
        }
    }
    void aSessionThatGoesAnswersWhatWaits() {
        int answers = 0;
        {
            DeviceSession s(*net_);
            s.open("127.0.0.1", 4710, {});
            QVERIFY(up(s));
            s.call(site::message::state, {}, [&](const Reply<site::DeviceState>& r) { answers += !r; });
            s.call(site::message::health, {}, [&](const Reply<site::Vitals>& r) { answers += !r; });
        }
        QCOMPARE(answers, 0); // not in the midst of it
        net_->turns.run(1);
        QCOMPARE(answers, 2);
        net_->turns.run(60000);
        QCOMPARE(answers, 2);
    }
    // What is answered when a line is lost may have its session go: an address was given, another project is opened.
    void aSessionMayGoWhenItsLineIsLost() {
        auto s = std::make_unique<DeviceSession>(*net_);
        s->open("127.0.0.1", 4710, {});
        QVERIFY(up(*s));
        int changes = 0, answers = 0;
        s->changed = [&changes] { ++changes; };
        for (int i = 0; i < 2; ++i)
            s->call(site::message::describe, {}, [&](const Reply<site::DiscoveredDevice>& r) {
                QVERIFY(!r && r.code == Code::lost);
                ++answers;
                s.reset();
            });
        tap_->cut();
        net_->turns.run(5000);
        QCOMPARE(answers, 2);
        QCOMPARE(changes, 0); // nobody is left whom it could concern
    }
    void anotherKeyIsNotAccepted() {
        DeviceSession s(*net_);
        std::string other;
        s.impostor = [&](const std::string& identity) { other = identity; };
        s.open("127.0.0.1", 4710, {site::keyText(site::newKeys().open), ""});
        net_->turns.run(5000);
        QVERIFY(!s.up() && !s.wanted());
        QCOMPARE(other, tap_->front->about().identity);
        QCOMPARE(site::printOf(other).size(), std::size_t(19));
    }
    // A stand-in that says whose key it wants to have, without holding it, is never up: nothing is told by it.
    void whoDoesNotHoldTheKeyIsNeverUp() {
        const auto identity = tap_->front->about().identity;
        auto& impostor = add("X", "tap", "127.0.0.2");
        impostor.front.reset();
        struct Pose : client::Line {
            std::string identity;
            void open(const std::string&, std::uint16_t) override { opened(); }
            void send(const std::string& bytes, bool box) override {
                ++sent;
                if (!box)
                    received(json{{"id", 0},
                                  {"result", {{"key", site::keyText(site::newKeys().open)}, {"identity", identity}}}}
                                 .dump(),
                             false);
                else
                    received(bytes, true); // plays back what it heard
            }
            void close() override {}
            void allow(std::size_t) override {}
            int sent = 0;
        };
        struct PoseNetwork : FakeNetwork {
            std::string identity;
            std::unique_ptr<client::Line> newLine() override {
                auto line = std::make_unique<Pose>();
                line->identity = identity;
                return line;
            }
        } pose;
        pose.identity = identity;
        DeviceSession s(pose);
        bool ever = false;
        s.changed = [&] { ever = ever || s.up(); };
        s.open("127.0.0.2", 4710, {identity, ""});
        pose.turns.run(30000);
        QVERIFY(!ever && !s.up());
    }
    // ---- passwords ----
    void unlockingAndOpening() {
        seal(*tap_);
        DeviceSession s(*net_);
        const auto identity = tap_->front->about().identity;
        const auto ask = [&](const std::string& password, bool unseal) {
            std::optional<Reply<site::Unlocked>> got;
            client::unlock(*net_, s, std::make_shared<client::Password>(password), unseal,
                           [&](const Reply<site::Unlocked>& r) { got = r; });
            net_->turns.runUntil([&] { return got.has_value(); });
            return *got;
        };
        s.open("127.0.0.1", 4710, {});
        QVERIFY(up(s));
        auto r = ask(phrase, false);
        QVERIFY(!r && r.error.find("key") != std::string::npos); // not at a key that nobody knew
        QVERIFY(tap_->device->store().log().empty());            // and the device did not hear of it
        s.open("127.0.0.1", 4710, {identity, ""});
        QVERIFY(up(s));
        r = ask("something else", false);
        QVERIFY(!r && r.code == Code::locked);
        r = ask(phrase, false);
        QVERIFY(r && !r->ticket.empty());
        const auto ticket = r->ticket;
        r = ask(phrase, true);
        QVERIFY(r && r->ticket.empty() && tap_->device->store().lock().empty());
        r = ask(phrase, false);
        QVERIFY(!r && r.error.find("not sealed") != std::string::npos);
        QVERIFY(!tap_->device->store().knows(ticket)); // of a password that is gone
    }
    // Whatever becomes of the device while it is unlocked: it is told once, and only a line that holds is unlocked.
    void unlockingEndsOnceWhateverHappens() {
        seal(*tap_);
        const auto identity = tap_->front->about().identity;
        const auto password = std::make_shared<client::Password>(phrase);
        int unlocked = 0, lost = 0;
        for (const int what : {0, 1, 2, 3})
            for (int moment = 0; moment < 24; ++moment) {
                auto s = std::make_unique<DeviceSession>(*net_);
                s->open("127.0.0.1", 4710, {identity, ""});
                QVERIFY(up(*s));
                int told = 0;
                Reply<site::Unlocked> got;
                client::unlock(*net_, *s, password, false, [&](const Reply<site::Unlocked>& r) { ++told, got = r; });
                for (int i = 0; i < moment; ++i)
                    net_->turns.step();
                if (what == 0)
                    s.reset();
                else if (what == 1)
                    s->close();
                else if (what == 2)
                    tap_->cut(); // it comes back: another line, that was not unlocked
                else
                    s->open("127.0.0.1", 4710, {identity, ""});
                net_->turns.run(20000);
                QVERIFY2(told == 1, (std::to_string(what) + " at " + std::to_string(moment)).c_str());
                (got ? unlocked : lost) += 1;
                QVERIFY(got || got.code == Code::lost);
                if (what == 2 || what == 3) {
                    QVERIFY(s->up());
                    Reply<site::DeviceState> state;
                    s->call(site::message::state, {}, [&](const Reply<site::DeviceState>& r) { state = r; });
                    net_->turns.run(1000);
                    QCOMPARE(state.code, Code::locked);
                }
            }
        QVERIFY(unlocked > 0 && lost > 0); // it came too late, or in time
    }
    void ticketsAreKeptForNobodyElse() {
        using client::Tickets;
        const std::string path = folder_->filePath("state/tickets.json").toStdString();
        Tickets first(path), second(path); // two programs
        QVERIFY(bool(first.keep("one", "t1")) && bool(second.keep("two", "t2")) && bool(first.keep("one", "t3")));
        Tickets later(path);
        QCOMPARE(later.of("one"), std::string("t3"));
        QCOMPARE(later.of("two"), std::string("t2"));
        QCOMPARE(later.of("three"), std::string());
        const auto mine = QFile::ReadOwner | QFile::WriteOwner | QFile::ReadUser | QFile::WriteUser;
        QCOMPARE(QFile::permissions(QString::fromStdString(path)), mine);
        QCOMPARE(QFile::permissions(folder_->filePath("state")), mine | QFile::ExeOwner | QFile::ExeUser);
        const auto held = *project::readWhole(path, 1u << 20);
        QVERIFY(bool(later.keep("", "t")) && bool(later.keep("four", ""))); // nothing to keep
        QCOMPARE(*project::readWhole(path, 1u << 20), held);
        // Where it cannot be written it holds for now, and says so.
        QVERIFY(QFile(folder_->filePath("file")).open(QIODevice::WriteOnly));
        Tickets nowhere(folder_->filePath("file/tickets.json").toStdString());
        const auto done = nowhere.keep("one", "t1");
        QVERIFY(!done && !done.error().text().empty());
        QCOMPARE(nowhere.of("one"), std::string("t1"));
        // Rubbish is no ticket.
        for (const char* text : {"", "{", "[]", "{\"one\": 7, \"two\": \"t\"}", "\xff\xfe"}) {
            QFile file(QString::fromStdString(path));
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(text);
            file.close();
            Tickets t(path);
            QVERIFY(t.of("one").empty());
            QCOMPARE(t.of("two"), std::string(std::string(text).find("two") != std::string::npos ? "t" : ""));
        }
        Tickets many("");
        for (std::size_t i = 0; i <= Tickets::most; ++i)
            QVERIFY(bool(many.keep(std::to_string(i), "t")));
        std::size_t count = 0;
        for (std::size_t i = 0; i <= Tickets::most; ++i)
            count += !many.of(std::to_string(i)).empty();
        QCOMPARE(count, Tickets::most);
        QCOMPARE(many.of(std::to_string(Tickets::most)), std::string("t")); // the newest is among them
    }
    void oneSaltIsWorkedOutOnce() {
        const auto password = std::make_shared<client::Password>(phrase);
        int works = 0;
        struct Counting : FakeNetwork {
            int* count = nullptr;
            void work(std::function<void()> job) override {
                ++*count;
                FakeNetwork::work(std::move(job));
            }
        } net;
        net.count = &works;
        const auto one = site::newSalt();
        int got = 0;
        for (int i = 0; i < 5; ++i)
            password->secret(net, one, [&](const Result<site::Secret>& s) { got += bool(s); });
        net.turns.run(10);
        password->secret(net, one, [&](const Result<site::Secret>& s) { got += bool(s); });
        password->secret(net, site::newSalt(), [&](const Result<site::Secret>& s) { got += bool(s); });
        net.turns.run(10);
        QCOMPARE(got, 7);
        QCOMPARE(works, 2);
    }
};

LOOM_TEST(tst_line, TestLine)
#include "tst_line.moc"
