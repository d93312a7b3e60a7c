// Touch surfaces on devices: served to browsers, values between devices, PINs, pictures, power cuts.
#ifndef Q_MOC_RUN
#include "models.h"
#include "rig/rig.h"
#include "serve/page_server.h"
#include "surface/pack.h"
#include <nlohmann/json.hpp>
#endif
#include "test.h"
#include <QElapsedTimer>
#include <QFile>
#include <QProcess>
#include <QTcpSocket>
#include <QTemporaryDir>
#include <QWebSocket>

using namespace loom;
using nlohmann::json;

class TestSurfacesRig : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    project::Project demo_;
    std::unique_ptr<rig::Rig> rig_;
    std::unique_ptr<QWebSocket> line_;
    std::vector<json> told_;

    rig::Device& heddle() { return rig_->server("H")->device(); }
    rig::Device& slate() { return rig_->server("S")->device(); }
    void open(const char* serial, const char* surface, const QString& session = "") {
        told_.clear();
        line_ = std::make_unique<QWebSocket>();
        connect(line_.get(), &QWebSocket::textMessageReceived, this,
                [this](const QString& text) { told_.push_back(json::parse(text.toStdString())); });
        line_->open(
            QUrl(QString("ws://%1:%2/ws").arg(rig_->server(serial)->address()).arg(rig_->server(serial)->pagePort())));
        QTRY_COMPARE_WITH_TIMEOUT(line_->state(), QAbstractSocket::ConnectedState, 3000);
        say({"open", surface, session.toStdString()});
        QTRY_VERIFY_WITH_TIMEOUT(last("page") || last("surfaces"), 3000);
    }
    void say(const json& j) { line_->sendTextMessage(QString::fromStdString(j.dump())); }
    const json* last(const char* is) {
        for (auto it = told_.rbegin(); it != told_.rend(); ++it)
            if ((*it)["is"] == is)
                return &*it;
        return nullptr;
    }
    void show(const char* page) { // on whichever shows it
        for (auto* device : {&heddle(), &slate()})
            device->surfaces().pages().obey("council-slate", {project::SurfaceOrder::Does::page, page});
    }
    std::string text(const char* control) { // as it was last told
        for (auto it = told_.rbegin(); it != told_.rend(); ++it)
            if ((*it)["is"] == "now" && it->contains("controls") && (*it)["controls"].contains(control))
                return (*it)["controls"][control].value("text", "");
        return "";
    }
    QByteArray get(const QString& request) {
        QTcpSocket s;
        s.connectToHost(rig_->server("S")->address(), rig_->server("S")->pagePort());
        if (!s.waitForConnected(2000))
            return "no connection";
        s.write(request.toUtf8());
        QByteArray all;
        for (int i = 0; i < 200 && s.state() != QAbstractSocket::UnconnectedState; ++i) {
            QTest::qWait(10); // the device is in this thread
            all += s.readAll();
        }
        return all + s.readAll();
    }

  private slots:
    void initTestCase() {
        demo_ = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        for (std::size_t i = 0; i < demo_.outside.size(); ++i) // elsewhere than other tests have them
            demo_.outside.change(i).address = i == 0 ? "127.20.33.40:46671" : "127.20.33.41:46672";
        project::SurfacePage room;
        room.id = "tried", room.name = "Tried";
        room.plies.push_back({"front", "Front"});
        double x = 0;
        const std::array<const char*, 3> inIt[] = {{"power", "toggle", "outside:hall-display/power"},
                                                   {"volume", "fader", "outside:hall-display/volume"},
                                                   {"stop", "press", "outside:hall-blinds/stop"},
                                                   {"there", "lamp", "device:heddle-8-rack-a"},
                                                   {"mute", "toggle", "mute:council"}};
        for (const auto& [id, kind, path] : inIt) {
            project::Control c;
            c.id = id, c.kind = kind, c.param = path;
            c.x = x, c.width = 100, c.height = 100;
            x += 110;
            room.plies.change(0).controls.push_back(c);
        }
        demo_.surface("council-slate")->pages.push_back(room);
        auto narrow = *demo_.surface("council-slate"); // a second one, on which the display goes only to 10
        narrow.id = narrow.name = "narrow", narrow.start.clear();
        room.plies.change(0).controls.change(1).high = 10;
        narrow.pages.clear();
        narrow.pages.push_back(room);
        demo_.surfaces.push_back(narrow);
        rig_ = std::make_unique<rig::Rig>(test::models(), 47330);
        const auto scenario = site::scenarioFromJson(json::parse(R"({"devices": [
            {"serial": "H", "model": "heddle-16", "address": "127.20.33.1", "as": "heddle"},
            {"serial": "S", "model": "slate-10", "address": "127.20.33.2", "as": "council-slate"}]})"));
        QVERIFY(rig_->open().isEmpty());
        const auto done = rig_->play(*scenario, &demo_, nullptr, folder_.path().toStdString());
        QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        QTRY_VERIFY(rig_->server("H")->pagePort() && rig_->server("S")->pagePort());
    }
    void whatItIsMadeOf() {
        const auto page = get("GET / HTTP/1.1\r\nHost: 127.20.33.2\r\n\r\n");
        QVERIFY(page.startsWith("HTTP/1.1 200") && page.contains("/app.js") && page.contains("default-src 'none'"));
        for (const char* file : {"app.js", "page.js", "draw.js", "style.css", "worker.js", "fonts/manrope-500.woff2"})
            QVERIFY2(get(QString("GET /%1 HTTP/1.1\r\n\r\n").arg(file)).startsWith("HTTP/1.1 200"), file);
        QVERIFY(get("GET /manifest.webmanifest?s=council-slate HTTP/1.1\r\n\r\n").contains("\"Council slate\""));
        QVERIFY(get("GET /index.html HTTP/1.1\r\n\r\n").startsWith("HTTP/1.1 404"));
        QVERIFY(get("GET /picture/../../etc/passwd HTTP/1.1\r\n\r\n").startsWith("HTTP/1.1 400"));
        QVERIFY(get("GET /picture/0000000000000000 HTTP/1.1\r\n\r\n").startsWith("HTTP/1.1 404"));
        const auto print = project::picturePrint(demo_.assets.at("council-hall.svg"));
        const auto picture = get(QString("GET /picture/%1 HTTP/1.1\r\n\r\n").arg(QString::fromStdString(print)));
        QVERIFY(picture.contains("image/svg+xml") && picture.contains("<svg"));
        QVERIFY(get("HEAD / HTTP/1.1\r\n\r\n").endsWith("\r\n\r\n"));
        QVERIFY(get("DELETE / HTTP/1.1\r\n\r\n").startsWith("HTTP/1.1 405"));
        QVERIFY(get(QString("GET / HTTP/1.1\r\nX: %1\r\n\r\n").arg(QString(9000, 'a'))).startsWith("HTTP/1.1 431"));
        // Pages of others may not talk to it.
        const char* upgrade =
            "GET /ws HTTP/1.1\r\nHost: 127.20.33.2:4780\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
            "Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\nSec-WebSocket-Version: 13\r\nOrigin: %1\r\n\r\n";
        QVERIFY(get(QString(upgrade).arg("http://elsewhere.example")).startsWith("HTTP/1.1 403"));
    }
    // With OpenSSL's own client side: another certificate is not taken, its own is, and outlives a restart.
    void overTls() {
        const auto& server = *rig_->server("S");
        QCOMPARE(server.tlsPagePort(), serve::tlsPagePort);
        const auto text = rig_->server("S")->device().store().certificate();
        const auto own = serve::readCertificate(text);
        QVERIFY(own && serve::isGoodFor(*own, {"127.20.33.2"}) && !serve::isGoodFor(*own, {"127.20.33.9"}));
        QFile pem(folder_.filePath("own.pem"));
        QVERIFY(pem.open(QIODevice::WriteOnly) && pem.write(own->certificate.c_str()) > 0);
        pem.close();
        const auto curl = [&](const QStringList& how) { // the device is in this thread
            QProcess run;
            run.start("curl", QStringList{"-sS", "--max-time", "5", "https://127.20.33.2:4781/"} + how);
            QElapsedTimer t;
            t.start();
            while (run.state() != QProcess::NotRunning && t.elapsed() < 8000)
                QTest::qWait(10);
            return std::pair(run.exitCode(), run.readAllStandardOutput());
        };
        QCOMPARE(curl({}).first, 60); // nobody vouches for it
        const auto page = curl({"--cacert", pem.fileName(), "--tls-max", "1.3"});
        QVERIFY2(page.first == 0 && page.second.contains("/app.js"), page.second.constData());
        QVERIFY(curl({"-k", "--tls-max", "1.1"}).first != 0);
        QVERIFY(bool(rig_->setFault("S", "power", "off")));
        QVERIFY(server.tlsPagePort() == 0);
        QVERIFY(bool(rig_->setFault("S", "power", "on")));
        QTRY_COMPARE(server.tlsPagePort(), serve::tlsPagePort);
        QCOMPARE(rig_->server("S")->device().store().certificate(), text);
        // Kept ones that are damaged, or for other addresses, are made anew.
        std::string kept;
        const auto keep = [&](const std::string& t) { kept = t; };
        QVERIFY(serve::ownCertificate(text, "S", {"127.20.33.2"}, keep)->certificate == own->certificate &&
                kept.empty());
        const auto moved = serve::ownCertificate(text, "S", {"127.20.33.3", "hall.local"}, keep);
        QVERIFY(moved && kept == moved->text() && serve::isGoodFor(*moved, {"127.20.33.3", "hall.local"}));
        QVERIFY(serve::printOf(*moved).size() == 95 && serve::printOf(*moved) != serve::printOf(*own));
        const auto cut = text.substr(0, text.size() - 60);
        QVERIFY(!serve::readCertificate(cut) && !serve::readCertificate("") &&
                !serve::readCertificate(own->certificate));
        QVERIFY(!serve::readCertificate(own->key + moved->certificate)); // another's
    }
    // What is no parameter: the processor talks to it, and the slate asks the processor.
    void whatIsOutsideIsPressedAtTheSlate() {
        QVERIFY(rig_->standIn("hall-display") && rig_->standIn("hall-blinds"));
        const auto is = [&](const char* device, const char* state) { return rig_->standIn(device)->state(state); };
        open("S", "council-slate");
        show("tried");
        QTRY_COMPARE_WITH_TIMEOUT(text("power"), std::string("off"), 8000);
        QCOMPARE(text("there"), std::string("lost")); // it is not in this rig
        say({"click", "power"});
        QTRY_COMPARE_WITH_TIMEOUT(is("hall-display", "power"), 1.0, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(text("power"), std::string("on"), 5000);
        // As far as any of its surfaces goes, and no further.
        slate().values().set("heddle/outside:hall-display/volume", 60, "x");
        QTRY_COMPARE_WITH_TIMEOUT(is("hall-display", "volume"), 60.0, 5000);
        slate().values().set("heddle/outside:hall-display/volume", 400, "x");
        QTRY_COMPARE_WITH_TIMEOUT(is("hall-display", "volume"), 100.0, 5000);
        // Set by somebody else.
        QVERIFY(heddle().outside().set("outside:hall-display/power", 0));
        QTRY_COMPARE_WITH_TIMEOUT(text("power"), std::string("off"), 5000);
        QVERIFY(heddle().outside().set("outside:hall-blinds/closed", 100));
        QTRY_VERIFY_WITH_TIMEOUT(is("hall-blinds", "closed") > 5, 5000);
        say({"click", "stop"});
        double at = -1;
        QTRY_VERIFY_WITH_TIMEOUT(std::exchange(at, is("hall-blinds", "closed")) == is("hall-blinds", "closed") &&
                                     is("hall-blinds", "closed") < 100,
                                 5000);
        say({"click", "mute"});
        QTRY_COMPARE_WITH_TIMEOUT(heddle().rules().valueHere("mute:council", {}), std::optional(1.0), 5000);
        QTRY_COMPARE_WITH_TIMEOUT(text("mute"), std::string("on"), 5000);
        open("H", "council-slate");
        show("tried");
        QTRY_COMPARE_WITH_TIMEOUT(text("mute"), std::string("on"), 5000);
        say({"click", "power"});
        QTRY_COMPARE_WITH_TIMEOUT(is("hall-display", "power"), 1.0, 5000);
        say({"click", "mute"});
        QTRY_COMPARE_WITH_TIMEOUT(heddle().rules().valueHere("mute:council", {}), std::optional(0.0), 5000);
    }
    void aFingerAtTheSlateReachesTheProcessor() {
        open("S", "council-slate");
        QTRY_COMPARE(text("council-canopy-level-level"), std::string("8 dB")); // the slate has no program: it was told
        say({"press", 0, 688, 519});
        QTRY_COMPARE_WITH_TIMEOUT(*heddle().get("council-canopy.level.gain"), -40.0, 2000);
        say({"release", 0});
        QTRY_COMPARE(text("council-canopy-level-level"), std::string("\u221240 dB"));
        // What somebody turns there is seen here.
        QVERIFY(bool(heddle().set("council-canopy.level.gain", -13, "somebody")));
        QTRY_COMPARE(text("council-canopy-level-level"), std::string("\u221213 dB"));
        // A scene, at once.
        say({"click", "film"});
        QTRY_COMPARE(*heddle().get("far-send.mute.muted"), 1.0);
        QTRY_COMPARE(*heddle().get("council-canopy.level.gain"), -40.0);
        // What no control of any of its surfaces sets cannot be set from here, nor further than they go.
        auto& link = slate().values().link();
        auto wanted = std::set<std::string>{"heddle/recorder.level.gain", "heddle/council-canopy.level.gain"};
        link.want(wanted);
        const double before = *heddle().get("recorder.level.gain");
        link.set("heddle/recorder.level.gain", -33, "x", 0);
        QTest::qWait(300);
        QCOMPARE(*heddle().get("recorder.level.gain"), before);
    }
    void theProcessorServesItToo() {
        open("H", "council-slate");
        say({"click", "meeting"});
        QTRY_COMPARE(*heddle().get("far-send.mute.muted"), 0.0);
        QTRY_COMPARE(text("council-canopy-level-level"), std::string("0 dB"));
    }
    void whoIsSomebody() {
        open("S", "council-slate");
        say({"click", "button-4"});
        say({"be", "technician", "4711"});
        QTRY_VERIFY(last("refused"));
        QVERIFY((*last("refused"))["why"].get<std::string>().find("no PIN") != std::string::npos);
        QVERIFY(!slate().setPin({"council-slate", "technician", "12"}) &&
                !slate().setPin({"council-slate", "technician", "abcd"}));
        QVERIFY(bool(slate().setPin({"council-slate", "technician", "4711"})));
        QCOMPARE(slate().pins(), (std::vector<std::string>{"council-slate/technician"}));
        told_.clear();
        say({"be", "technician", "1111"});
        QTRY_VERIFY(last("refused"));
        say({"be", "technician", "4711"});
        QTRY_VERIFY(last("page") && (*last("page"))["page"]["name"] == "Sound");
        // Who guesses waits.
        told_.clear();
        for (int i = 0; i < 30; ++i)
            say({"be", "technician", "1111"});
        QTRY_VERIFY(last("refused") &&
                    (*last("refused"))["why"].get<std::string>().find("too many") != std::string::npos);
        told_.clear();
        say({"be", "technician", "4711"});
        QTRY_VERIFY(last("refused"));
    }
    void powerAndCable() {
        QVERIFY(bool(slate().keep()));
        open("S", "council-slate");
        QVERIFY(bool(rig_->setFault("H", "power", "off")));
        QTRY_VERIFY_WITH_TIMEOUT(text("council-canopy-level-level") == "\u2013",
                                 8000); // not known is not shown as known
        QVERIFY(bool(rig_->setFault("H", "power", "on")));
        QTRY_VERIFY_WITH_TIMEOUT(text("council-canopy-level-level").find("dB") != std::string::npos, 8000);
        QVERIFY(bool(rig_->setFault("S", "power", "off")));
        QTRY_COMPARE_WITH_TIMEOUT(line_->state(), QAbstractSocket::UnconnectedState, 3000);
        QVERIFY(!rig_->server("S")->pagePort());
        QVERIFY(bool(rig_->setFault("S", "power", "on")));
        QTRY_VERIFY(rig_->server("S")->pagePort());
        open("S", "council-slate");
        QTRY_VERIFY_WITH_TIMEOUT(text("council-canopy-level-level").find("dB") != std::string::npos, 8000);
        QVERIFY(bool(rig_->setFault("S", "cable", "out")));
        QTRY_COMPARE_WITH_TIMEOUT(line_->state(), QAbstractSocket::UnconnectedState, 3000);
        QVERIFY(bool(rig_->setFault("S", "cable", "in")));
        QTRY_VERIFY(rig_->server("S")->pagePort());
    }
    void whatItRefuses() {
        auto config = slate().running();
        config.surfaces["council-slate"] = "{}";
        QVERIFY(!slate().tryConfig(config, "test"));
        auto& store = slate().store();
        QVERIFY(!store.addPicture("0123456789abcdef", {'x'}) && !store.addPicture("../../x", {'x'}));
        QVERIFY(!store.hasPicture("../52E0.key") && store.picture("../S.store.key").empty());
        // A surface whose pictures were not sent.
        auto p = demo_;
        p.assets["council-hall.svg"] = project::Asset({'<', 's', 'v', 'g', ' ', 'v', 'i', 'e', 'w', 'B', 'o', 'x',
                                                       '=', '"', '0', ' ', '0', ' ', '1', ' ', '1', '"', '>'});
        config.surfaces["council-slate"] = project::packSurface(p, *p.surface("council-slate"), "council-slate");
        const auto done = slate().tryConfig(config, "test");
        QVERIFY(!done && done.error().message.find("council-hall.svg") != std::string::npos);
        // A microphone shows none.
        rig::DeviceSetup setup;
        setup.models = test::models();
        setup.model = "spindle-3x6", setup.serial = "B", setup.folder = folder_.path().toStdString();
        rig::Device board(setup);
        QVERIFY(!board.tryConfig(config, "test"));
        // Pictures that nothing shows any more go when something is kept.
        QVERIFY(bool(store.addPicture(project::picturePrint({'a', 'b'}), {'a', 'b'})));
        QVERIFY(bool(slate().keep()));
        QVERIFY(!store.hasPicture(project::picturePrint({'a', 'b'})));
        QVERIFY(store.hasPicture(project::picturePrint(demo_.assets.at("council-hall.svg"))));
    }
    void cleanupTestCase() {
        line_.reset();
        rig_.reset();
    }
};

LOOM_TEST(tst_surfaces_rig, TestSurfacesRig)
#include "tst_surfaces_rig.moc"
