// A simulated processor over its real socket: try, keep, power-cycle, hostile messages, kills while it keeps.
#ifndef Q_MOC_RUN
#include "project/json.h"
#include "project/store.h"
#include "rig/server.h"
#include <csignal>
#include <sys/wait.h>
#include <unistd.h>
#endif
#include <QDir>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
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

    void connectNow() {
        socket_ = std::make_unique<QWebSocket>();
        socket_->open(QUrl(QString("ws://127.20.9.9:%1").arg(server_->port())));
        QTRY_COMPARE_WITH_TIMEOUT(socket_->state(), QAbstractSocket::ConnectedState, 3000);
    }
    json ask(const std::string& method, const json& params = json::object()) {
        QSignalSpy spy(socket_.get(), &QWebSocket::textMessageReceived);
        socket_->sendTextMessage(QString::fromStdString(
            json{{"jsonrpc", "2.0"}, {"id", ++id_}, {"method", method}, {"params", params}}.dump()));
        if (!spy.wait(5000))
            return {{"error", {{"message", "no answer"}}}};
        return json::parse(spy.takeFirst().at(0).toString().toStdString());
    }
    double gain() { return ask("get", {{"path", "delegate-3.eq.2.gain"}})["result"]["value"].get<double>(); }

  private slots:
    void init() {
        program_ = *project::loadProject(LOOM_SOURCE_DIR "/demo/marram-point")->devices[0].program;
        QVERIFY(QDir(folder_.path()).removeRecursively() && QDir().mkpath(folder_.path()));
        rig::DeviceSetup setup;
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
        QVERIFY(ask("state")["result"]["running"].is_null());
        QVERIFY(ask("identify")["result"]["blinks"] == 1);
        QVERIFY(ask("program")["result"].is_null());
        QVERIFY(ask("keep").contains("error")); // nothing to keep
    }
    void tryIsLostAtPowerOffKeepIsNot() {
        QVERIFY(!ask("try", {{"program", project::toJson(program_)}, {"author", "tester"}}).contains("error"));
        QVERIFY(!ask("keep").contains("error"));
        program_.find("delegate-3.eq")->values["2.gain"] = 5;
        program_.revision = 2;
        auto state = ask("try", {{"program", project::toJson(program_)}})["result"];
        QVERIFY(state["running"]["revision"] == 2 && state["kept"]["revision"] == 1);
        QCOMPARE(gain(), 5.0);
        for (const bool keep : {false, true}) {
            if (keep) {
                QVERIFY(!ask("try", {{"program", project::toJson(program_)}}).contains("error"));
                QVERIFY(!ask("keep").contains("error"));
            }
            QVERIFY(!ask("powerCycle").contains("error"));
            QTRY_COMPARE_WITH_TIMEOUT(socket_->state(), QAbstractSocket::UnconnectedState, 3000);
            QTest::qWait(900);
            connectNow();
            QCOMPARE(gain(), keep ? 5.0 : -4.5);
        }
    }
    void valuesAndMeters() {
        auto& source = *program_.find("chair");
        source = {"chair", "generator", "Chair"}; // no stand-in speech here: a tone is heard at once
        QVERIFY(!ask("try", {{"program", project::toJson(program_)}}).contains("error"));
        QTRY_VERIFY_WITH_TIMEOUT(ask("meters")["result"].contains("chair.eq"), 3000);
        QVERIFY(ask("set", {{"path", "chair.preamp.gain"}, {"value", 10}})["result"]["value"] == 10);
        QVERIFY(ask("get", {{"path", "chair.preamp.gain"}})["result"]["value"] == 10);
        QVERIFY(ask("set", {{"path", "chair.preamp.gain"}, {"value", 1000}}).contains("error"));
        QVERIFY(ask("set", {{"path", "nobody.gain"}, {"value", 1}}).contains("error"));
        QVERIFY(ask("set", {{"path", "chair.preamp.gain"}, {"value", "loud"}})["error"]["code"] == -32602);
    }
    void toolsActAndLeaveNoTrace() {
        const auto level = [&] { return ask("meters")["result"].value("chair.eq", -120.0); }; // falls slowly
        *program_.find("chair") = {"chair", "generator", "Chair"};
        QVERIFY(ask("putTool", {{"tool", {{"kind", "mute"}, {"at", {"chair", 0}}}}}).contains("error")); // nothing runs
        QVERIFY(!ask("try", {{"program", project::toJson(program_)}}).contains("error"));
        QTRY_VERIFY_WITH_TIMEOUT(level() > -35, 12000);
        const auto print = ask("state")["result"]["running"]["fingerprint"];
        const json mute = {{"kind", "mute"}, {"at", {"chair", 0}}};
        const auto put = ask("putTool", {{"tool", mute}})["result"];
        QVERIFY(put["number"].is_number_integer());
        QTRY_VERIFY_WITH_TIMEOUT(level() < -45, 12000);
        QVERIFY(ask("state")["result"]["running"]["fingerprint"] == print && ask("state")["result"]["tools"] == 1);
        QVERIFY(ask("program")["result"] == project::toJson(program_)); // nothing of it is in the program
        QVERIFY(ask("tools")["result"][0]["number"] == put["number"]);
        QVERIFY(!ask("set", {{"path", "chair.level"}, {"value", -3}}).contains("error")); // and work goes on
        QVERIFY(ask("putTool", {{"tool", {{"kind", "mute"}, {"at", {"nobody", 0}}}}})["error"]["code"] == 1);
        for (const json& bad : {json(7), json{{"kind", "melt"}, {"at", {"chair", 0}}}, json{{"kind", "mute"}},
                                json{{"kind", "inject"}, {"at", {"chair", 0}}, {"signal", "noise of the sea"}}})
            QVERIFY(ask("putTool", {{"tool", bad}}).contains("error"));
        QVERIFY(!ask("takeTool", {{"number", put["number"]}}).contains("error"));
        QTRY_VERIFY_WITH_TIMEOUT(level() > -35, 12000);
        // One whose engineer went away is taken off by itself.
        QVERIFY(!ask("putTool", {{"tool", mute}}).contains("error"));
        QTRY_VERIFY_WITH_TIMEOUT(level() < -45, 12000);
        connectNow();
        QTRY_VERIFY_WITH_TIMEOUT(level() > -35, 12000);
        QCOMPARE(ask("tools")["result"].size(), 0u);
    }
    void badProgramLeavesWhatRuns() {
        QVERIFY(!ask("try", {{"program", project::toJson(program_)}}).contains("error"));
        engine::Program loop = program_;
        for (auto& t : loop.threads)
            if (t.to.block == "chair.preamp")
                t.from = {"hall", 0};
        const auto refused = ask("try", {{"program", project::toJson(loop)}});
        QVERIFY(refused["error"]["message"].get<std::string>().find("loop") != std::string::npos);
        engine::Program large = program_;
        for (int i = 0; i < 100; ++i)
            large.blocks.push_back({"e" + std::to_string(i), "octave", ""});
        QVERIFY(ask("try", {{"program", project::toJson(large)}})["error"]["message"].get<std::string>().find("work") !=
                std::string::npos);
        QCOMPARE(gain(), -4.5);
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
                                  "{\"method\":\"try\",\"params\":{\"program\":{\"blocks\":7}}}",
                                  "{\"method\":\"try\"}",
                                  "{\"method\":\"set\",\"params\":{\"path\":\"....\",\"value\":1e999}}",
                                  "\xff\xfe\x00\x01"};
        for (const char* m : messages) {
            const auto reply = json::parse(server_->answer(m));
            QVERIFY2(reply.contains("error") && !reply["error"]["message"].get<std::string>().empty(), m);
        }
        QVERIFY(!server_->answer(std::string(200000, '[')).empty());
        QVERIFY(ask("frob")["error"]["code"] == -32601);
        QVERIFY(!ask("describe").contains("error")); // still there
    }
    void killedWhileKeeping() { // the store holds the old or the new program, whole
        const int kills =
            qEnvironmentVariableIntValue("LOOM_KILLS") > 0 ? qEnvironmentVariableIntValue("LOOM_KILLS") : 20;
        server_.reset();
        rig::DeviceSetup setup;
        setup.folder = folder_.path().toStdString();
        {
            rig::Device first(setup);
            QVERIFY(first.tryProgram(program_, "") && first.keep());
        }
        for (int k = 0; k < kills; ++k) {
            const pid_t child = fork();
            if (child == 0) {
                rig::Device device(setup);
                for (int i = 0;; ++i) {
                    engine::Program p = program_;
                    p.revision = 1000 + i;
                    if (!device.tryProgram(p, "") || !device.keep())
                        _exit(1);
                }
            }
            usleep(static_cast<useconds_t>(20000 + (k * 7919) % 40000));
            kill(child, SIGKILL);
            waitpid(child, nullptr, 0);
            rig::Device after(setup);
            QVERIFY(after.running() && after.running()->blocks == program_.blocks);
        }
    }
};
QTEST_GUILESS_MAIN(TestRig)
#include "tst_rig.moc"
