// A simulated device over its real socket: try, keep, go back, power-cycle, sealing, faults, hostile messages, kills.
#ifndef Q_MOC_RUN
#include "../client/stranger.h"
#include "file/project_json.h"
#include "file/store.h"
#include "models.h"
#include "rig/rig.h"
#include "site/password.h"
#include <csignal>
#include <sys/wait.h>
#include <unistd.h>
#endif
#include "test.h"
#include <QDir>
#include <QNetworkDatagram>
#include <QNetworkProxy>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QUdpSocket>
#include <QWebSocket>

using namespace loom;
using nlohmann::json;

class TestRig : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::unique_ptr<rig::Server> server_;
    std::unique_ptr<QWebSocket> socket_;
    engine::Program program_;
    int id_ = 0;

    std::optional<site::Channel> channel_;

    void connectOpen() {
        channel_.reset();
        socket_ = std::make_unique<QWebSocket>();
        socket_->open(QUrl(QString("ws://127.20.9.9:%1").arg(server_->port())));
        QTRY_COMPARE_WITH_TIMEOUT(socket_->state(), QAbstractSocket::ConnectedState, 3000);
    }
    void connectNow() { // and encrypted
        connectOpen();
        const auto desk = site::newKeys();
        const auto about = ask("describe")["result"];
        const auto hello = ask("secure", {{"key", site::keyText(desk.open)}})["result"];
        QVERIFY(hello["identity"] == about["identity"]);
        channel_ = site::Channel::desk(desk, *site::readKey(hello["key"]), *site::readKey(hello["identity"]));
    }
    void send(const std::string& method, const json& params) {
        const auto text = json{{"jsonrpc", "2.0"}, {"id", ++id_}, {"method", method}, {"params", params}}.dump();
        if (channel_)
            socket_->sendBinaryMessage(QByteArray::fromStdString(channel_->seal(text)));
        else
            socket_->sendTextMessage(QString::fromStdString(text));
    }
    json ask(const std::string& method, const json& params = json::object()) {
        QSignalSpy boxes(socket_.get(), &QWebSocket::binaryMessageReceived),
            texts(socket_.get(), &QWebSocket::textMessageReceived);
        auto& spy = channel_ ? boxes : texts;
        send(method, params);
        for (;;) {
            if (spy.isEmpty() && !spy.wait(5000))
                return {{"error", {{"message", "no answer"}}}};
            const auto first = spy.takeFirst().at(0);
            const auto text = channel_ ? channel_->open(first.toByteArray().toStdString())
                                       : Result<std::string>(first.toString().toStdString());
            if (!text)
                return {{"error", {{"message", "not readable"}}}};
            const auto j = json::parse(*text);
            if (j.contains("id")) // others are notices
                return j;
        }
    }
    // The two steps of a password, on the line as it is.
    json unlock(const std::string& password, bool unseal = false) {
        const auto about = ask("describe")["result"];
        const auto secret = site::secretOf(password, *site::readSalt(about["salt"]));
        const site::PasswordAsker asker(*secret, channel_->binding(), *site::readKey(about["identity"]));
        const auto share = ask("unlock", {{"share", asker.share()}});
        if (share.contains("error"))
            return share;
        const auto proof = asker.answered(share["result"]["share"], share["result"]["confirm"]);
        return ask("prove", {{"confirm", proof ? *proof : site::keyText({})}, {"unseal", unseal}});
    }
    json seal(const std::string& password) {
        const auto lock = *site::lockOf(password);
        return ask("seal",
                   {{"salt", site::saltText(lock.salt)}, {"w0", site::keyText(lock.w0)}, {"l", site::keyText(lock.l)}});
    }
    static json config(const engine::Program& p) { return {{"program", project::toJson(p)}}; }
    double gain() { return ask("get", {{"path", "delegate-3.eq.2.gain"}})["result"]["value"].get<double>(); }

  private slots:
    void init() {
        program_ = *test::load(LOOM_HALL)->devices[0].program;
        QVERIFY(QDir(folder_.path()).removeRecursively() && QDir().mkpath(folder_.path()));
        rig::DeviceSetup setup;
        setup.models = test::models();
        setup.folder = folder_.path().toStdString();
        server_ = std::make_unique<rig::Server>(setup);
        QCOMPARE(server_->listen(QHostAddress("127.20.9.9"), 0), QString());
        connectNow();
    }
    void cleanup() {
        socket_.reset();
        server_.reset();
    }
    void describes() {
        const auto d = ask("describe")["result"];
        QVERIFY(d["model"] == "heddle-16" && d["serial"] == "00A3F1");
        QVERIFY(!ask("state")["result"].contains("running"));
        QVERIFY(ask("identify")["result"]["blinks"] == true && server_->device().identifying());
        QVERIFY(ask("identify", {{"on", false}})["result"]["blinks"] == false);
        QVERIFY(!ask("config")["result"].contains("program"));
        QVERIFY(ask("describe")["result"]["fresh"] == true);
        QVERIFY(ask("keep").contains("error")); // nothing to keep
    }
    void tryIsLostAtPowerOffKeepIsNot() {
        QVERIFY(!ask("try", {{"config", config(program_)}, {"author", "tester"}}).contains("error"));
        QVERIFY(!ask("keep").contains("error"));
        program_.find("delegate-3.eq")->values["2.gain"] = 5;
        program_.revision = 2;
        auto state = ask("try", {{"config", config(program_)}, {"revision", 2}})["result"];
        QVERIFY(state["running"]["revision"] == 2 && state["kept"]["revision"] == 1);
        QCOMPARE(gain(), 5.0);
        auto boot = state["boot"];
        for (const bool keep : {false, true}) {
            if (keep) {
                QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
                QVERIFY(!ask("keep").contains("error"));
            }
            QVERIFY(!ask("powerCycle").contains("error"));
            QTRY_COMPARE_WITH_TIMEOUT(socket_->state(), QAbstractSocket::UnconnectedState, 3000);
            QTest::qWait(900);
            connectNow();
            QCOMPARE(gain(), keep ? 5.0 : -4.5);
            QVERIFY(ask("state")["result"]["boot"] != boot); // how a desk knows that it started anew
        }
    }
    void valuesAndMeters() {
        auto& source = *program_.find("chair");
        source = {"chair", "generator", "Chair"}; // no stand-in speech here: a tone is heard at once
        QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
        QTRY_VERIFY_WITH_TIMEOUT(ask("meters")["result"]["peaks"].contains("chair.eq"), 3000);
        QVERIFY(ask("set", {{"path", "chair.preamp.gain"}, {"value", 10}})["result"]["value"] == 10);
        QVERIFY(ask("get", {{"path", "chair.preamp.gain"}})["result"]["value"] == 10);
        QVERIFY(ask("set", {{"path", "chair.preamp.gain"}, {"value", 1000}}).contains("error"));
        QVERIFY(ask("set", {{"path", "nobody.gain"}, {"value", 1}}).contains("error"));
        QVERIFY(ask("set", {{"path", "chair.preamp.gain"}, {"value", "loud"}})["error"]["code"] == -32602);
    }
    void toolsActAndLeaveNoTrace() {
        const auto level = [&] { return ask("meters")["result"]["peaks"].value("chair.eq", -120.0); }; // falls slowly
        *program_.find("chair") = {"chair", "generator", "Chair"};
        QVERIFY(ask("putTool", {{"tool", {{"kind", "mute"}, {"at", {"chair", 0}}}}}).contains("error")); // nothing runs
        QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
        QTRY_VERIFY_WITH_TIMEOUT(level() > -35, 12000);
        const auto print = ask("state")["result"]["running"]["fingerprint"];
        const json mute = {{"kind", "mute"}, {"at", {"chair", 0}}};
        const auto put = ask("putTool", {{"tool", mute}})["result"];
        QVERIFY(put["number"].is_number_integer());
        QTRY_VERIFY_WITH_TIMEOUT(level() < -45, 30000);
        QVERIFY(ask("state")["result"]["running"]["fingerprint"] == print && ask("state")["result"]["tools"] == 1);
        QVERIFY(ask("config")["result"]["program"] == project::toJson(program_)); // nothing of it is in the program
        QVERIFY(ask("tools")["result"]["tools"][0].value("number", 1) == put["number"]);
        QVERIFY(!ask("set", {{"path", "chair.level"}, {"value", -3}}).contains("error")); // and work goes on
        QVERIFY(ask("putTool", {{"tool", {{"kind", "mute"}, {"at", {"nobody", 0}}}}})["error"]["code"] == 1);
        for (const json& bad : {json(7), json{{"kind", "melt"}, {"at", {"chair", 0}}}, json{{"kind", "mute"}},
                                json{{"kind", "inject"}, {"at", {"chair", 0}}, {"signal", "noise of the sea"}}})
            QVERIFY(ask("putTool", {{"tool", bad}}).contains("error"));
        const auto second = ask("putTool", {{"tool", mute}})["result"]["number"].get<int>();
        QVERIFY(ask("takeTool", {{"number", second}})["result"]["tools"] == 1); // the other stays
        QVERIFY(ask("putTool", {{"tool", mute}}).contains("result"));
        QVERIFY(ask("takeTool", {{"number", 0}})["result"]["tools"] == 0); // all of them
        QTRY_VERIFY_WITH_TIMEOUT(level() > -35, 12000);
        const auto again = ask("putTool", {{"tool", mute}})["result"];
        QTRY_VERIFY_WITH_TIMEOUT(level() < -45, 12000);
        QVERIFY(!ask("takeTool", {{"number", again["number"]}}).contains("error"));
        QTRY_VERIFY_WITH_TIMEOUT(level() > -35, 12000);
        // One whose engineer went away is taken off by itself.
        QVERIFY(!ask("putTool", {{"tool", mute}}).contains("error"));
        QTRY_VERIFY_WITH_TIMEOUT(level() < -45, 12000);
        connectNow();
        QTRY_VERIFY_WITH_TIMEOUT(level() > -35, 12000);
        QCOMPARE(ask("tools")["result"]["tools"].size(), 0u);
    }
    void badProgramLeavesWhatRuns() {
        QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
        engine::Program loop = program_;
        loop.connections.changeIf([](const auto& t) { return t.to.block == "chair.preamp"; },
                                  [](auto& t) {
                                      t.from = {"hall", 0};
                                  });
        const auto refused = ask("try", {{"config", config(loop)}});
        QVERIFY(refused["error"]["message"].get<std::string>().find("loop") != std::string::npos);
        engine::Program large = program_;
        for (int i = 0; i < 100; ++i)
            large.blocks.push_back({"e" + std::to_string(i), "octave", ""});
        QVERIFY(ask("try", {{"config", config(large)}})["error"]["message"].get<std::string>().find("work") !=
                std::string::npos);
        QCOMPARE(gain(), -4.5);
    }
    void aProxyIsNotAsked() {
        const auto before = QNetworkProxy::applicationProxy();
        QNetworkProxy::setApplicationProxy({QNetworkProxy::HttpProxy, "127.0.0.1", 9});
        rig::DeviceSetup setup;
        setup.models = test::models();
        setup.folder = folder_.path().toStdString(), setup.serial = "BEHIND";
        rig::Server another(setup);
        QCOMPARE(another.listen(QHostAddress("127.20.9.10"), 0), QString());
        QVERIFY(another.finder());
        QNetworkProxy::setApplicationProxy(before);
    }
    void hostileMessages() {
        const char* messages[] = {"",
                                  "{",
                                  "[]",
                                  "1",
                                  "{\"method\":7}",
                                  "{\"method\":\"frob\",\"id\":[]}",
                                  "{\"method\":\"get\",\"params\":[]}",
                                  "{\"method\":\"get\",\"params\":{\"path\":{}}}",
                                  "{\"method\":\"try\",\"params\":{\"config\":{\"program\":{\"blocks\":7}}}}",
                                  "{\"method\":\"try\"}",
                                  "{\"method\":\"set\",\"params\":{\"path\":\"....\",\"value\":1e999}}",
                                  "\xff\xfe\x00\x01"};
        test::Stranger open(server_->front()), encrypted(server_->front());
        encrypted.secure();
        for (auto* who : {&open, &encrypted})
            for (const char* m : messages) {
                const auto reply = who->say(m);
                QVERIFY2(reply.contains("error") && !reply["error"]["message"].get<std::string>().empty(), m);
                QVERIFY(reply["error"]["code"] != -32601 || std::string(m).find("frob") != std::string::npos);
            }
        QVERIFY(encrypted.say(std::string(200000, '[')).contains("error")); // deeper than anything is read
        QVERIFY(!encrypted.dropped);
        (void)open.say(std::string(200000, '['));
        QVERIFY(open.dropped); // longer than anything in the open
        QVERIFY(ask("frob")["error"]["code"] == -32601);
        QVERIFY(!ask("describe").contains("error")); // still there
    }
    void killedWhileKeeping() { // the store holds the old or the new program, whole
        const int kills =
            qEnvironmentVariableIntValue("LOOM_KILLS") > 0 ? qEnvironmentVariableIntValue("LOOM_KILLS") : 20;
        server_.reset();
        rig::DeviceSetup setup;
        setup.models = test::models();
        setup.folder = folder_.path().toStdString();
        {
            rig::Device first(setup);
            QVERIFY(first.tryConfig({program_, {}}, "") && first.keep());
        }
        for (int k = 0; k < kills; ++k) {
            const pid_t child = fork();
            if (child == 0) {
                rig::Device device(setup);
                for (int i = 0;; ++i) {
                    engine::Program p = program_;
                    p.find("chair.preamp")->values["gain"] = i % 40;
                    if (!device.tryConfig({p, {}}, "") || !device.keep())
                        _exit(1);
                }
            }
            usleep(static_cast<useconds_t>(20000 + (k * 7919) % 40000));
            kill(child, SIGKILL);
            waitpid(child, nullptr, 0);
            rig::Device after(setup);
            QVERIFY(after.running().program && after.running().program->connections == program_.connections);
            const auto value = after.get("chair.preamp.gain");
            QVERIFY(value && *value == std::floor(*value) && *value < 40);
        }
    }
    // ---- revisions ----
    void revisionsAreGoneBackTo() {
        for (const double gain : {1.0, 2.0, 3.0}) {
            program_.find("delegate-3.eq")->values["2.gain"] = gain;
            QVERIFY(!ask("try", {{"config", config(program_)}, {"author", "tester"}}).contains("error"));
            QVERIFY(!ask("keep").contains("error"));
        }
        const auto list = ask("revisions")["result"]["revisions"];
        QCOMPARE(list.size(), std::size_t(3));
        QVERIFY(list[2]["kept"] == true && !list[0].contains("kept") && list[1]["author"] == "tester");
        QVERIFY(list[0]["time"].get<std::string>().size() == 20);
        QVERIFY(!ask("state")["result"]["running"].contains("turned"));
        QVERIFY(!ask("set", {{"path", "chair.preamp.gain"}, {"value", 11}}).contains("error"));
        QVERIFY(ask("state")["result"]["running"]["turned"] == true);
        QVERIFY(!ask("goBack", {{"revision", list[0]["revision"]}}).contains("error"));
        QCOMPARE(gain(), 1.0);
        QVERIFY(ask("state")["result"]["kept"]["revision"] == list[2]["revision"]); // until it is kept
        QVERIFY(!ask("keep").contains("error"));
        QVERIFY(ask("state")["result"]["kept"]["revision"] == list[0]["revision"]);
        QVERIFY(ask("revision", {{"revision", list[1]["revision"]}})["result"]["program"].is_object());
        QVERIFY(ask("goBack", {{"revision", 99}}).contains("error"));
        QVERIFY(ask("goBack", {{"revision", -1}})["error"]["code"] == -32602);
        for (int i = 0; i < 20; ++i) { // the oldest make room
            QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
            QVERIFY(!ask("keep").contains("error"));
        }
        QCOMPARE(ask("revisions")["result"]["revisions"].size(), rig::Store::mostRevisions);
    }
    void severalAsOneStep() { // stage, commit, revert
        QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
        program_.find("delegate-3.eq")->values["2.gain"] = 7;
        QVERIFY(ask("commit").contains("error")); // nothing is staged
        QVERIFY(!ask("stage", {{"config", config(program_)}}).contains("error"));
        QCOMPARE(gain(), -4.5); // not before it is committed
        QVERIFY(!ask("discard").contains("error"));
        QVERIFY(ask("commit").contains("error"));
        QVERIFY(!ask("stage", {{"config", config(program_)}}).contains("error"));
        QVERIFY(!ask("commit").contains("error"));
        QCOMPARE(gain(), 7.0);
        QVERIFY(!ask("revert").contains("error"));
        QCOMPARE(gain(), -4.5);
        QVERIFY(ask("revert").contains("error")); // once
        program_.connections.push_back(program_.connections.front());
        auto& wrong = program_.connections.changeBack(); // nonsense, found when it is staged
        std::swap(wrong.from, wrong.to);
        wrong.from.block = "nobody";
        QVERIFY(ask("stage", {{"config", config(program_)}}).contains("error"));
    }
    void setUpIsPartOfIt() {
        QVERIFY(!ask("try", {{"config", {{"setUp", {{"lampLive", "green"}}}}}}).contains("error"));
        QVERIFY(ask("config")["result"]["setUp"]["lampLive"] == "green");
        QVERIFY(ask("config")["result"]["setUp"]["panel"] == "open"); // what was not told stays
        QVERIFY(!ask("setUp", {{"id", "panel"}, {"value", "locked"}}).contains("error"));
        QVERIFY(ask("setUp", {{"id", "panel"}, {"value", "ajar"}}).contains("error"));
        QVERIFY(ask("setUp", {{"id", "colour"}, {"value", "red"}}).contains("error"));
        QVERIFY(ask("try", {{"config", {{"setUp", {{"panel", "ajar"}}}}}}).contains("error"));
        QVERIFY(ask("config")["result"]["setUp"]["panel"] == "locked");
    }
    // ---- faults ----
    void storesFail() {
        QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
        QVERIFY(!ask("keep").contains("error"));
        program_.find("delegate-3.eq")->values["2.gain"] = 7;
        QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
        for (const char* how : {"full", "failing"}) {
            QVERIFY(bool(server_->setFault("store", how)));
            const auto refused = ask("keep");
            QVERIFY(refused.contains("error") &&
                    refused["error"]["message"].get<std::string>().find("store") != std::string::npos);
            QVERIFY(ask("revisions")["result"]["revisions"].size() == 1);
            QCOMPARE(gain(), 7.0); // what runs goes on
        }
        QVERIFY(bool(server_->setFault("store", "good")));
        QVERIFY(!ask("keep").contains("error"));
    }
    void storesThatCannotBeWritten() {
        // What refuses says nothing of where the store lies on this computer.
        QVERIFY(!ask("try", {{"config", config(program_)}}).contains("error"));
        QVERIFY(QDir(folder_.path()).mkdir("00A3F1.store"));
        const auto refused = ask("keep")["error"]["message"].get<std::string>();
        QVERIFY2(refused.find("store") != std::string::npos &&
                     refused.find(folder_.path().toStdString()) == std::string::npos,
                 refused.c_str());
        // One that cannot keep its key would be another device at its next start: it is not started.
        rig::Rig rig(test::models(), 47313);
        rig::DeviceSetup d;
        d.models = test::models();
        d.model = "tap", d.serial = "N1", d.address = "127.20.8.21";
        d.folder = folder_.filePath("file").toStdString();
        QFile inTheWay(folder_.filePath("file"));
        QVERIFY(inTheWay.open(QIODevice::WriteOnly));
        const auto none = rig.add(d);
        QVERIFY(!none && none.error().text().find("identity") != std::string::npos);
    }
    void faultsShowInHealth() {
        QVERIFY(ask("health")["result"]["clockLost"] == false);
        const std::pair<const char*, json> faults[] = {{"temperature", 82}, {"clip", true}, {"clock", true}};
        for (const auto& [name, value] : faults)
            QVERIFY(bool(server_->setFault(name, value)));
        const auto h = ask("health")["result"];
        QVERIFY(h["temperature"] == 82 && h["clip"] == true && h["clockLost"] == true);
        for (const auto& [name, value] : {std::pair<const char*, json>{"temperature", "warm"},
                                          {"clip", 7},
                                          {"nonsense", 1},
                                          {"power", "maybe"},
                                          {"cable", 1},
                                          {"delay", -1},
                                          {"loss", 2},
                                          {"address", "x"},
                                          {"store", "x"},
                                          {"output", {{"out 1", "x"}}},
                                          {"turn", {{"nobody.gain", 1}}}})
            QVERIFY2(!server_->setFault(name, value), name);
    }
    void cableOutIsSilenceNotGoodbye() {
        QVERIFY(bool(server_->setFault("cable", "out")));
        QVERIFY(ask("describe").contains("error")); // no answer
        QCOMPARE(socket_->state(), QAbstractSocket::ConnectedState);
        QSignalSpy spy(socket_.get(), &QWebSocket::binaryMessageReceived);
        QVERIFY(bool(server_->setFault("cable", "in")));
        QTRY_COMPARE(spy.size(), 1); // what was on its way comes in
        QVERIFY(bool(channel_->open(spy.at(0).at(0).toByteArray().toStdString())));
        QVERIFY(!ask("describe").contains("error"));
    }
    void slowLinesKeepTheOrder() {
        connectOpen();
        QVERIFY(bool(server_->setFault("delay", 30)) && bool(server_->setFault("loss", 0.3)));
        QSignalSpy spy(socket_.get(), &QWebSocket::textMessageReceived);
        for (int i = 0; i < 40; ++i)
            socket_->sendTextMessage(
                QString::fromStdString(json{{"jsonrpc", "2.0"}, {"id", 1000 + i}, {"method", "describe"}}.dump()));
        QTRY_COMPARE_WITH_TIMEOUT(spy.size(), 40, 20000);
        for (int i = 0; i < 40; ++i)
            QVERIFY(json::parse(spy.at(i).at(0).toString().toStdString())["id"] == 1000 + i);
    }
    void firmware() {
        rig::DeviceSetup old;
        old.models = test::models();
        old.folder = folder_.path().toStdString(), old.model = "slate-10", old.serial = "52E1", old.firmware = "1.1";
        rig::Device d(old);
        const auto newest = d.model()->firmware;
        QVERIFY(d.describe().firmware == "1.1");
        QVERIFY(!d.update("0.5") && !d.rollBack());
        QVERIFY(d.update(newest) && d.describe().firmware == newest);
        QVERIFY(!d.update(newest));
        QVERIFY(d.rollBack() && d.describe().firmware == "1.1");
        rig::Device again(old);
        QVERIFY(again.describe().firmware == "1.1");
        QVERIFY(!again.tryConfig({program_, {}}, "")); // a touch surface runs no program
    }
    // ---- sealing ----
    void sealedNeedsThePassword() {
        const auto about = ask("describe")["result"];
        QVERIFY(ask("unlock", {{"share", site::keyText({})}})["error"]["code"] == 1); // it has none yet
        QVERIFY(ask("seal", {{"salt", "x"}, {"w0", "y"}, {"l", "z"}})["error"]["code"] == -32602);
        QVERIFY(!seal("tall grass").contains("error"));
        QVERIFY(!ask("state").contains("error")); // who sealed it may go on
        auto first = std::move(socket_);
        connectNow();
        QVERIFY(ask("describe")["result"]["sealed"] == true); // who it is, everybody may know
        for (int i = 0; i < 4; ++i)
            QVERIFY(unlock("tall gras?")["error"]["message"].get<std::string>().find("wrong") != std::string::npos);
        QVERIFY(ask("prove", {{"confirm", site::keyText({})}})["error"]["code"] == 1); // nothing was begun
        QVERIFY(unlock("tall grass")["result"]["ticket"].is_string());
        QVERIFY(!ask("state").contains("error"));
        // The log tells of it once, with how often.
        const auto log = ask("log")["result"]["events"];
        QVERIFY(std::any_of(log.begin(), log.end(), [](const auto& e) { return e.value("times", 1) == 4; }));
        QVERIFY(unlock("tall grass", true)["result"].empty()); // opened for good
        QVERIFY(ask("describe")["result"]["sealed"] == false);
        // The way back from a lost password: as it left the factory, with its identity.
        QVERIFY(!seal("forgotten").contains("error"));
        QVERIFY(bool(server_->setFault("reset", true)));
        const auto now = ask("describe")["result"];
        QVERIFY(now["sealed"] == false && now["fresh"] == true && now["identity"] == about["identity"]);
    }
    // Five tries are five, however they are sent; a computer that has known the password is not held up by others.
    void guessesAreCountedOnArrival() {
        QVERIFY(!seal("tall grass").contains("error"));
        const auto ticket = unlock("tall grass")["result"]["ticket"];
        connectNow();
        const auto salt = *site::readSalt(ask("describe")["result"]["salt"]);
        const auto identity = *site::readKey(ask("describe")["result"]["identity"]);
        const site::PasswordAsker wrong(*site::secretOf("something else", salt), channel_->binding(), identity);
        QSignalSpy answers(socket_.get(), &QWebSocket::binaryMessageReceived);
        for (int i = 0; i < 50; ++i) // none is ever ended
            send("unlock", {{"share", wrong.share()}});
        QTRY_COMPARE_WITH_TIMEOUT(answers.size(), 50, 5000);
        int looked = 0, held = 0;
        for (const auto& a : answers) {
            const auto j = json::parse(*channel_->open(a.at(0).toByteArray().toStdString()));
            looked += j.contains("result"), held += j.contains("error") && j["error"]["code"] == 4;
        }
        QCOMPARE(looked, 5);
        QCOMPARE(held, 45);
        connectNow();
        QVERIFY(unlock("tall grass")["error"]["code"] == 4); // even the right one has to wait
        QVERIFY(ask("known", {{"ticket", site::keyText({})}})["result"]["known"] == false);
        QVERIFY(unlock("tall grass")["error"]["code"] == 4);
        QVERIFY(ask("known", {{"ticket", ticket}})["result"]["known"] == true);
        QVERIFY(unlock("tall grass").contains("result"));
    }
    void guessesAreHeldUp() {
        rig::Guesses g;
        double now = 100;
        for (int i = 0; i < 5; ++i)
            QCOMPARE(g.begin("a", false, now), 0);
        QCOMPARE(g.begin("a", false, now), 30);
        QCOMPARE(g.begin("b", false, now), 0); // another place
        QCOMPARE(g.begin("a", false, now + 29.5), 1);
        now += 30;
        QCOMPARE(g.begin("a", false, now), 0);
        QCOMPARE(g.begin("a", false, now), 60); // growing
        for (int i = 0; i < 12; ++i)            // to 15 minutes
            QCOMPARE(g.begin("a", false, now += 900), 0);
        QCOMPARE(g.begin("a", false, now), 900);
        // Many places at once are held up together; a computer that has known it is not.
        rig::Guesses many;
        int let = 0;
        for (int i = 0; i < 1000; ++i)
            let += many.begin("place " + std::to_string(i), false, 5) == 0;
        QCOMPARE(let, 20);
        QCOMPARE(many.begin("ticket", true, 5), 0);
        many.right("ticket", true);
        // Whoever is right begins anew, and takes away what he counted for.
        rig::Guesses once;
        for (int k = 0; k < 10; ++k) {
            for (int i = 0; i < 4; ++i)
                QCOMPARE(once.begin("a", false, 5), 0);
            once.right("a", false);
        }
        QCOMPARE(once.begin("b", false, 5), 0);
        // An hour later all is forgotten.
        QCOMPARE(many.begin("place 1", false, 5 + 3601), 0);
    }
    void anEncryptedLineTakesNothingInTheOpen() {
        socket_->sendTextMessage("{\"method\":\"describe\"}");
        QTRY_COMPARE_WITH_TIMEOUT(socket_->state(), QAbstractSocket::UnconnectedState, 3000);
        connectOpen();
        QVERIFY(ask("secure", {{"key", "nonsense"}})["error"]["code"] == -32602);
        QVERIFY(ask("state")["error"]["code"] == 3);
        socket_->sendBinaryMessage("rubbish"); // an open line takes nothing encrypted
        QTRY_COMPARE_WITH_TIMEOUT(socket_->state(), QAbstractSocket::UnconnectedState, 3000);
    }
    // ---- many devices ----
    void finding() {
        rig::Rig rig(test::models(), 47311);
        QCOMPARE(rig.open(), QString());
        const std::pair<const char*, const char*> devices[] = {
            {"A1", "127.20.8.1"}, {"A2", "127.20.8.1"}, {"A3", "10.99.0.3"}, {"A4", "127.20.8.4"}};
        for (const auto& [serial, address] : devices) {
            rig::DeviceSetup d;
            d.models = test::models();
            d.model = "tap", d.serial = serial, d.address = address, d.folder = folder_.path().toStdString();
            QVERIFY(bool(rig.add(d)));
            QVERIFY(!rig.add(d)); // twice
        }
        QVERIFY(rig.server("A1")->listening() && !rig.server("A2")->listening() && !rig.server("A3")->listening());
        QUdpSocket desk;
        QVERIFY(desk.bind(QHostAddress::AnyIPv4, 0));
        const auto heard = [&](const char* to) {
            desk.writeDatagram(R"({"loom":"who"})", QHostAddress(to), 47311);
            std::set<std::string> serials;
            QTest::qWait(250);
            while (desk.hasPendingDatagrams())
                serials.insert(json::parse(desk.receiveDatagram().data().toStdString())["serial"].get<std::string>());
            return serials;
        };
        QCOMPARE(heard("127.255.255.255").size(), std::size_t(4)); // also those that cannot be reached
        QCOMPARE(heard("127.20.8.1").size(), std::size_t(2));      // both hold it
        QCOMPARE(heard("127.20.8.9").size(), std::size_t(0));
        // Nobody moves a device by a datagram; where it cannot be reached at its address, it can at its own.
        desk.writeDatagram(R"({"loom":"address","serial":"A2","address":"127.20.8.2"})",
                           QHostAddress("127.255.255.255"), 47311);
        desk.writeDatagram("rubbish", QHostAddress("127.255.255.255"), 47311);
        desk.writeDatagram(QByteArray(2000, '['), QHostAddress("127.255.255.255"), 47311);
        QTest::qWait(200);
        QCOMPARE(rig.server("A2")->address(), QString("127.20.8.1"));
        std::set<QString> own;
        for (const auto& s : rig.servers()) {
            QVERIFY(s->reachedAt().startsWith("127.254."));
            own.insert(s->reachedAt());
        }
        QCOMPARE(own.size(), std::size_t(4));
        for (const auto& [serial, to] : {std::pair("A2", "127.20.8.2"), {"A3", "127.20.8.3"}}) {
            socket_ = std::make_unique<QWebSocket>();
            channel_.reset();
            socket_->open(QUrl(QString("ws://%1:47311").arg(rig.server(serial)->reachedAt())));
            QTRY_COMPARE_WITH_TIMEOUT(socket_->state(), QAbstractSocket::ConnectedState, 3000);
            QVERIFY(ask("address", {{"address", to}})["error"]["code"] == 3); // not in the open
            const auto desk2 = site::newKeys();
            const auto hello = ask("secure", {{"key", site::keyText(desk2.open)}})["result"];
            channel_ = site::Channel::desk(desk2, *site::readKey(hello["key"]), *site::readKey(hello["identity"]));
            QVERIFY(ask("address", {{"address", "127.020.8.2"}})["error"]["code"] == -32602);
            QVERIFY(!ask("address", {{"address", to}}).contains("error"));
        }
        QTRY_VERIFY(rig.server("A2")->listening() && rig.server("A3")->listening());
        QVERIFY(bool(rig.setFault("A4", "power", "off")));
        QCOMPARE(heard("127.255.255.255").size(), std::size_t(3));
        QVERIFY(bool(rig.setFault("*", "cable", "out")));
        QCOMPARE(heard("127.255.255.255").size(), std::size_t(0));
        QVERIFY(!rig.setFault("nobody", "power", "off"));
        QVERIFY(bool(rig.setFault("*", "cable", "in")) && bool(rig.setFault("*", "power", "on")));
    }
    void scenarioPlays() {
        const auto scenario = site::scenarioFromJson(json::parse(R"({"devices": [
            {"serial": "S1", "model": "heddle-16", "address": "127.20.8.11", "as": "heddle", "author": "workshop",
             "faults": {"turn": {"chair.preamp.gain": 21}}},
            {"serial": "S2", "model": "tap", "address": "127.20.8.12", "firmware": "1.0"}],
            "steps": [{"at": 0.1, "device": "S2", "faults": {"power": "off"}},
                      {"name": "heat", "device": "*", "faults": {"temperature": 80}}]})"));
        QVERIFY(bool(scenario));
        const auto demo = test::load(LOOM_HALL);
        rig::Rig rig(test::models(), 47312);
        const auto done = rig.play(*scenario, &*demo, &*demo, folder_.path().toStdString());
        QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        const auto& heddle = rig.server("S1")->device();
        QCOMPARE(*heddle.get("chair.preamp.gain"), 21.0); // turned at the device since it left the workshop
        QVERIFY(heddle.store().kept() && heddle.store().kept()->author == "workshop");
        QTRY_VERIFY(!rig.server("S2")->device().powered());
        QVERIFY(bool(rig.step("heat")) && !rig.step("cold"));
        QVERIFY(rig.server("S1")->device().health().celsius == 80);
        QVERIFY(rig.said().empty());
    }
};
LOOM_TEST(tst_rig, TestRig)
#include "tst_rig.moc"
