// Control from outside at a device: others' tools ask it as docs/control.md says, and whatever comes harms nobody.
#ifndef Q_MOC_RUN
#include "../rules/rules_demo.h"
#include "access/access_edit.h"
#include "rig/rig.h"
#include <nlohmann/json.hpp>
#endif
#include "test.h"
#include <QElapsedTimer>
#include <QFile>
#include <QNetworkDatagram>
#include <QProcess>
#include <QRegularExpression>
#include <QTcpSocket>
#include <QTemporaryDir>
#include <QUdpSocket>
#include <QWebSocket>
#include <random>

using namespace loom;
using namespace loom::project;
using nlohmann::json;

class TestAccessRig : public QObject {
    Q_OBJECT
    static constexpr const char* address = "127.20.43.1";
    static constexpr quint16 lines = 4783, osc = 4782, ears = 47371;
    QTemporaryDir folder_;
    Project p_;
    std::unique_ptr<rig::Rig> rig_;

    rig::Server& server() { return *rig_->server("BOX"); }
    rig::Device& box() { return server().device(); }
    void run(const Result<Edit>& e) {
        QVERIFY2(bool(e), e ? "" : e.error().text().c_str());
        auto now = e->make(p_);
        QVERIFY2(bool(now), now ? "" : now.error().text().c_str());
        p_ = std::move(*now);
    }
    bool noted(const char* words) {
        for (const auto& e : box().store().log())
            if (e.what.find(words) != std::string::npos)
                return true;
        return false;
    }
    QByteArray told(const QString& command) { // by a shell; what it says on its output
        QProcess shell;
        shell.start("bash", {"-c", command});
        while (shell.state() != QProcess::NotRunning) // the device lives on this thread, too
            QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents, 20);
        return shell.readAllStandardOutput();
    }
    QByteArray said(QTcpSocket& line, const QByteArray& text, int answers) {
        line.write(text);
        QByteArray all;
        QElapsedTimer t;
        t.start();
        while (all.count("\r\n") < answers && t.elapsed() < 5000) {
            QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents, 10);
            all += line.readAll();
        }
        return all;
    }

  private slots:
    void initTestCase() {
        p_ = test::rulesProject();
        p_.device("box")->contacts["contact 1"] = "wall fold oak+elm";
        Scene s;
        s.id = "meeting", s.name = "Meeting", s.room = "oak";
        s.values["box/speech.gain"] = -10;
        p_.scenes.push_back(s);
        test::addRule(p_, "close", "when the cue closing is given\nthen set Box \u00b7 Speech \u00b7 Level to -40")
            .room = "oak";
        for (const auto& [signal, name] : {std::pair("box/speech.gain", "hall/level"),
                                           {"box/cut.muted", "hall/muted"},
                                           {"wall:fold", "wall"},
                                           {"scene:meeting", "meeting"},
                                           {"cue:closing", "close"}}) {
            run(allowSignal(p_, "box", signal, true));
            run(setAllowedField("box", p_.accessOf("box")->allowed.back().name, "name", name));
        }
        run(setAllowedField("box", "hall/level", "low", "-40"));
        run(setAllowedField("box", "hall/level", "high", "0"));
        run(setAllowedField("box", "hall/muted", "role", "technician"));
        for (const auto* way : {"osc", "web", "lines"})
            run(setAccessField("box", way, "yes"));
        run(setAccessField("box", "oscTo", ("127.0.0.1:" + std::to_string(ears)).c_str()));
        engine::Block& speech = *p_.device("box")->program->find("speech");
        speech.values["gain"] = -20;
        rig_ = std::make_unique<rig::Rig>(test::models(), 47351);
        const auto scenario = site::scenarioFromJson(json::parse(
            R"({"devices": [{"serial": "BOX", "model": "heddle-16", "address": "127.20.43.1", "as": "box"}]})"));
        QVERIFY(rig_->open().isEmpty());
        const auto done = rig_->play(*scenario, &p_, nullptr, folder_.path().toStdString());
        QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        QTRY_COMPARE(server().linesPort(), lines);
        QTRY_COMPARE(server().oscPort(), osc);
        QTRY_VERIFY(server().pagePort() > 0);
        QVERIFY(box().setPin({accessPins, "technician", "2468"}));
    }

    // Every example of the documentation, word for word.
    void othersToolsAsDocumented() {
        QFile file(QString(qgetenv("NIMBLE_LOOM_DATA")) + "/docs/control.md");
        QVERIFY(file.open(QIODevice::ReadOnly));
        const auto text = QString::fromUtf8(file.readAll()).replace("192.0.2.20", address);
        int ran = 0;
        auto blocks =
            QRegularExpression("```sh\n(.*?)```", QRegularExpression::DotMatchesEverythingOption).globalMatch(text);
        while (blocks.hasNext()) {
            for (const auto& one : ("\n" + blocks.next().captured(1)).split("\n$ ", Qt::SkipEmptyParts)) {
                const auto command = one.section('\n', 0, 0), expected = one.section('\n', 1).trimmed();
                const auto got = QString::fromUtf8(told(command)).replace("\r\n", "\n").trimmed();
                if (command.startsWith("oscsend"))
                    QTest::qWait(50); // a packet is not waited for by who sends it
                QVERIFY2(got == expected, qPrintable(command + "\n" + got));
                ++ran;
            }
        }
        QVERIFY(ran >= 15);
    }

    void overTls() {
        QTRY_COMPARE(server().tlsPagePort(), quint16(4781));
        QCOMPARE(told(QString("curl -sk -u technician:2468 https://%1:4781/api/wall").arg(address)).trimmed(),
                 QByteArray("{\"name\":\"wall\",\"text\":\"closed\",\"value\":\"closed\"}"));
    }

    // What is told by OSC, to another's tool.
    void changesAreTold() {
        QProcess dump;
        dump.start("oscdump", {"-L", QString::number(ears)});
        QVERIFY(dump.waitForStarted());
        QByteArray heard;
        const auto hears = [&](const QByteArray& line) {
            heard += dump.readAllStandardOutput();
            return heard.contains(line);
        };
        QTRY_VERIFY_WITH_TIMEOUT((box().set("speech.gain", -30, "a hand"), box().set("speech.gain", -31, "a hand"),
                                  hears("/hall/level f -31.0")),
                                 5000);
        QVERIFY(box().setContact("contact 1", true) && box().setContact("contact 1", false));
        QTRY_VERIFY_WITH_TIMEOUT(hears("/wall s \"open\""), 5000);
        QVERIFY(!heard.contains("muted")); // it asks for a PIN
        dump.kill();
        dump.waitForFinished();
    }

    void aWebSocket() {
        QWebSocket ws;
        QStringList all;
        connect(&ws, &QWebSocket::textMessageReceived, this, [&](const QString& t) { all << t; });
        ws.open(QUrl(QString("ws://%1:4780/api").arg(address)));
        QTRY_COMPARE(ws.state(), QAbstractSocket::ConnectedState);
        ws.sendTextMessage("[\"watch\", \"hall/level\"]");
        QTRY_COMPARE(all.size(), 2);
        QCOMPARE(all[0], QString("{\"done\":true}"));
        QVERIFY(box().set("speech.gain", -17, "a hand"));
        QTRY_VERIFY(all.back().contains("-17"));
        ws.sendTextMessage("[\"pin\", \"technician\", \"2468\"]");
        ws.sendTextMessage("[\"toggle\", \"hall/muted\"]");
        QTRY_VERIFY(all.back().contains("hall/muted"));
        const auto n = all.size();
        ws.sendTextMessage(QString(3000, 'x'));
        QTRY_COMPARE(all.size(), n + 1);
        QVERIFY(all.back().contains("error"));
        // Pages of others do not get a line.
        QWebSocket page("http://elsewhere.example");
        page.open(QUrl(QString("ws://%1:4780/api").arg(address)));
        QTest::qWait(300);
        QVERIFY(page.state() != QAbstractSocket::ConnectedState);
        ws.sendBinaryMessage("x");
        QTRY_COMPARE(ws.state(), QAbstractSocket::UnconnectedState);
    }

    void wrongPinsHaveToWait() {
        QTcpSocket line;
        line.connectToHost(address, lines);
        QTRY_COMPARE(line.state(), QAbstractSocket::ConnectedState);
        QByteArray last;
        for (int i = 0; i < 6; ++i)
            last = said(line, "pin technician 0000\n", 1);
        QVERIFY2(last.contains("too many wrong PINs"), last.constData());
        // The right one has to wait as well, though this computer gave it before: else trying on would tell it.
        last = said(line, "pin technician 2468\n", 1);
        QVERIFY2(last.contains("too many wrong PINs"), last.constData());
        QVERIFY(noted("A wrong PIN came from"));
    }

    // Rules, sound and everybody else go on, whatever comes.
    void floodsAndHostileMessages() {
        std::mt19937 random(7);
        const auto any = [&](std::size_t n) {
            QByteArray b;
            for (std::size_t i = 0; i < n; ++i)
                b += static_cast<char>(random() & 255);
            return b;
        };
        QUdpSocket out;
        const QByteArray level("/hall/level\0,f\0\0\xc1\xa0\0\0", 20);
        for (int i = 0; i < 20000; ++i) {
            auto packet = i % 3 == 0 ? any(random() % 200) : level;
            if (i % 3 == 1)
                packet[static_cast<qsizetype>(random() % 20)] = static_cast<char>(random());
            out.writeDatagram(packet, QHostAddress(address), osc);
            if (i % 100 == 0)
                QCoreApplication::processEvents();
        }
        std::vector<std::unique_ptr<QTcpSocket>> many;
        for (int i = 0; i < 80; ++i) {
            many.push_back(std::make_unique<QTcpSocket>());
            many.back()->connectToHost(address, lines);
        }
        QTRY_VERIFY(many.back()->state() == QAbstractSocket::ConnectedState);
        for (auto& s : many)
            if (s->state() == QAbstractSocket::ConnectedState) {
                s->write(any(20000));
                s->write("list\r\nwatch all\r\n");
            }
        for (int i = 0; i < 40; ++i) {
            QTcpSocket http;
            http.connectToHost(address, 4780);
            QTRY_COMPARE(http.state(), QAbstractSocket::ConnectedState);
            const QByteArray asks[]{
                "PUT /api/hall/level HTTP/1.1\r\nHost: 127.20.43.1\r\nContent-Length: 99999999\r\n\r\n",
                "PUT /api/hall/level HTTP/1.1\r\nHost: 127.20.43.1\r\nContent-Length: -1\r\n\r\n",
                "PUT /api/../x HTTP/1.1\r\n\r\n",
                "POST /api/hall/level HTTP/1.1\r\nHost: 127.20.43.1\r\nContent-Length: 4\r\n\r\n[[[[",
                "GET /api/%00 HTTP/1.1\r\n\r\n"};
            http.write(asks[static_cast<std::size_t>(i) % 5]);
            QTRY_COMPARE(http.state(), QAbstractSocket::UnconnectedState);
            QVERIFY(!http.readAll().startsWith("HTTP/1.1 200"));
        }
        many.clear();
        QTest::qWait(1100); // another second, another 2,000 messages
        QTcpSocket line;
        line.connectToHost(address, lines);
        QTRY_COMPARE(line.state(), QAbstractSocket::ConnectedState);
        QCOMPARE(said(line, "give close\nget hall/level\n", 2), QByteArray("ok\r\nis hall/level -40\r\n"));
        QTRY_VERIFY(noted("is no message of OSC 1.0") || noted("More than 2,000 messages"));
    }

    // It is kept with the rules, closed without power, and closed when the design says so.
    void aLineIsCalled() {
        const auto before = box().running();
        run(allowSignal(p_, "box", "box/tel 1@line", true));
        run(setAllowedField("box", p_.accessOf("box")->allowed.back().name, "name", "phone"));
        auto config = before;
        config.rules = packRules(p_, "box");
        QVERIFY(box().tryConfig(config, "a test"));
        QTRY_COMPARE(server().linesPort(), lines);
        QTcpSocket line;
        line.connectToHost(address, lines);
        QTRY_COMPARE(line.state(), QAbstractSocket::ConnectedState);
        QVERIFY(said(line, "set phone dial x\r\n", 1).startsWith("error phone: \"dial x\" is nothing"));
        // This one has no line to anywhere, and says so.
        QCOMPARE(said(line, "set phone dial 2041\r\n", 1), QByteArray("error phone: it has no telephone line.\r\n"));
        QVERIFY(box().tryConfig(before, "a test"));
    }
    void itComesAndGoes() {
        QVERIFY(box().keep());
        QVERIFY(rig_->setFault("BOX", "power", "off"));
        QCOMPARE(server().linesPort(), quint16(0));
        QCOMPARE(server().oscPort(), quint16(0));
        QVERIFY(rig_->setFault("BOX", "power", "on"));
        QTRY_COMPARE(server().linesPort(), lines);
        QTRY_COMPARE(server().oscPort(), osc);
        run(setAccessField("box", "lines", "no"));
        run(setAccessField("box", "osc", "no"));
        run(setAccessField("box", "web", "no"));
        auto config = box().running();
        config.rules = packRules(p_, "box");
        QVERIFY(box().tryConfig(config, "a test"));
        QTRY_COMPARE(server().linesPort(), quint16(0));
        QTRY_COMPARE(server().oscPort(), quint16(0));
        QTRY_COMPARE(server().pagePort(), quint16(0));
    }
};

LOOM_TEST(tst_access_rig, TestAccessRig)
#include "tst_access_rig.moc"
