// Streams on site, by events alone: told, kept and switched live; a leader that goes, links that are cut, levels, ports
// brought to this computer, streams that others announce.
#include "app/patch/hear_view.h"
#include "app/patch/patch_page.h"
#include "models.h"
#include "site_test.h"
#ifndef Q_MOC_RUN
#include "patch/patch_edit.h"
#include "stream/sap.h"
#endif
#include "test.h"
#include <QNetworkInterface>
#include <QUdpSocket>

class TestSiteStreams : public SiteTest {
    Q_OBJECT

    static project::Device made(const char* id, const char* model, const char* address) {
        project::Device d;
        d.models = loom::test::models();
        d.id = d.name = id, d.model = model, d.address = address;
        return d;
    }
    static engine::Program through(const char* kind, const char* from, const char* to) {
        engine::Program p;
        engine::Block a, b;
        a.id = "a", a.kind = kind, b.id = "b", b.kind = "destination";
        if (*from)
            a.texts["port"] = from;
        b.texts["port"] = to;
        p.blocks = {a, b};
        p.connections = {{{"a", 0}, {"b", 0}}};
        return p;
    }
    PatchPage* patch() { return view<PatchPage>(); }
    const project::Vitals& vitals(const char* id) { return member(id)->vitals; }
    void startRig(const project::Project& p, const char* name, std::size_t devices) {
        rig_ = std::make_unique<EmbeddedRig>(loom::test::models(), p, store_->path().toStdString());
        open(p, name);
        click("Look again");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().found().size(), devices, 10000);
        click("pairAll");
        for (const auto& d : p.devices)
            QTRY_VERIFY_WITH_TIMEOUT(up(d.id), 10000);
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() { beginSite(); }
    void cleanup() { endSite(); }
    // Streams are part of what a device is told: tried, kept through power-off, and switched live.
    void streamsAreToldAndSwitchedLive() {
        project::Project p;
        const auto add = [&](const char* id, const char* model, const char* address) {
            project::Device d;
            d.models = loom::test::models();
            d.id = d.name = id, d.model = model, d.address = address;
            p.devices.push_back(d);
        };
        add("desk", "heddle-16", "127.20.4.75");
        add("left", "canopy-8", "127.20.4.76");
        add("right", "canopy-8", "127.20.4.77");
        for (const char* id : {"left", "right"}) {
            project::Stream s;
            s.id = s.name = id, s.ports = {"net 1"};
            p.device(id)->streams = {s};
        }
        p.device("desk")->receivers = {{"far", {"net 3"}, {"left/left", "right/right"}}};
        rig_ = std::make_unique<EmbeddedRig>(loom::test::models(), p, store_->path().toStdString());
        open(p, "streams");
        click("Look again");
        QTRY_COMPARE_WITH_TIMEOUT(fleet().found().size(), std::size_t(3), 10000);
        click("pairAll");
        for (const char* id : {"desk", "left", "right"})
            QTRY_VERIFY_WITH_TIMEOUT(up(id), 10000);
        const auto hears = [&] { // of the desk, on the rig's network
            std::string stream;
            rig_->with([&](rig::Rig& r) {
                for (const auto& s : r.air()->net().states())
                    if (s.device == "desk")
                        stream = s.stream;
            });
            return stream;
        };
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("desk"), 10000);
        QVERIFY(member("desk")->config->setUp.count("receiver far"));
        QTRY_COMPARE_WITH_TIMEOUT(hears(), std::string("left/left"), 5000);
        // Live, an edit acts at once.
        w_->commands().run("site.live");
        QVERIFY(fleet().live());
        QVERIFY(session().edit(*project::chooseStream(project(), "desk/far", 1)));
        QTRY_COMPARE_WITH_TIMEOUT(hears(), std::string("right/right"), 5000);
        QTRY_VERIFY_WITH_TIMEOUT(member("desk")->rows.empty(), 5000);
        QVERIFY(session().edit(*project::dropReceivers(project(), {"desk/far"})));
        QTRY_COMPARE_WITH_TIMEOUT(hears(), std::string(), 5000);
        session().undo();
        QTRY_COMPARE_WITH_TIMEOUT(hears(), std::string("right/right"), 5000);
        // Another controller lets it hear the left one again: here it is seen, with who did it.
        rig_->with([&](rig::Rig& r) {
            auto other = *project().device("desk");
            other.receivers[0].chosen = 0;
            auto& device = r.server(member("desk")->serial)->device();
            const auto done = device.setUp("receiver far", project::setUpOf(other).at("receiver far"), "Somebody else");
            QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        });
        QTRY_COMPARE_WITH_TIMEOUT(project().device("desk")->receivers[0].chosen, 0, 5000);
        // Kept, it comes back after power-off.
        w_->commands().run("site.live");
        QVERIFY(session().edit(*project::setReceiverField(project(), "desk/far", "delayMs", "9")));
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("desk") && !fleet().work().running(), 10000);
        click("keep");
        QTRY_VERIFY_WITH_TIMEOUT(member("desk")->kept() && !fleet().work().running(), 10000);
        fault(member("desk")->serial, "power", "off");
        fault(member("desk")->serial, "power", "on");
        QTRY_VERIFY_WITH_TIMEOUT(same("desk"), 15000);
        QTRY_COMPARE_WITH_TIMEOUT(hears(), std::string("left/left"), 5000);
    }
    // Two processors and one that leads their clock: a tone goes from the first to the second.
    void theLeaderIsLost() {
        project::Project p;
        p.devices.push_back(made("lead", "heddle-16", "127.20.4.78"));
        p.devices.push_back(made("talks", "heddle-16", "127.20.4.79"));
        p.devices.push_back(made("hears", "heddle-8", "127.20.4.80"));
        p.devices.push_back(made("sley", "sley-24", "127.20.4.81"));
        p.device("lead")->clockPriority = 1;
        p.device("talks")->clockPriority = 2;
        p.device("talks")->program = through("generator", "", "net 1");
        p.device("hears")->program = through("source", "net 5", "out 1");
        project::Stream s;
        s.id = s.name = "mix", s.ports = {"net 1"};
        p.device("talks")->streams = {s};
        p.device("hears")->receivers = {{"mix", {"net 5"}, {"talks/mix"}}};
        for (const auto& [id, from, to] :
             {std::tuple("w1", "lead/lan 1", "sley/lan 1"), std::tuple("w2", "talks/lan 1", "sley/lan 2"),
              std::tuple("w3", "hears/lan 1", "sley/lan 3")}) {
            project::Wire w;
            w.id = id, w.from = from, w.to = to;
            p.wires.push_back(w);
        }
        startRig(p, "leader", 4);
        click("tryIt");
        for (const char* id : {"talks", "hears"})
            QTRY_VERIFY_WITH_TIMEOUT(same(id), 10000);
        QTRY_COMPARE_WITH_TIMEOUT(vitals("lead").clock, std::string("leads"), 5000);
        QTRY_VERIFY_WITH_TIMEOUT(vitals("hears").clock == "follows" && vitals("hears").clockFrom == "lead", 5000);
        // Live, Patch shows what sounds, and one port is brought here.
        w_->commands().run("site.live");
        w_->showStage("patch");
        auto& ear = patch()->ear();
        const auto sounds = [&] { return ear.level({"hears", "net 5", true}).value_or(-200) > -30; };
        QTRY_VERIFY_WITH_TIMEOUT(sounds(), 10000);
        QVERIFY(ear.level({"talks", "net 1", false}).value_or(-200) > -30);
        QVERIFY(ear.level({"hears", "out 1", false}).value_or(-200) > -30); // of its program
        patch()->state().choosePort({"hears", "net 5", true});
        view<HearView>()->setFocus();
        QTest::keyClick(view<HearView>(), Qt::Key_L);
        QVERIFY2(ear.brought(), qPrintable(said_));
        QTRY_VERIFY_WITH_TIMEOUT(fleet().ear().latest().size() == client::PortTap::kept, 10000);
        const auto heard = fleet().ear().latest();
        QVERIFY(*std::max_element(heard.begin(), heard.end()) > 0.05f);
        ear.look(PatchEar::Place{"hears", "out 1", false});
        QTRY_VERIFY_WITH_TIMEOUT(ear.spectrum().size() == 30, 10000);
        const auto bands = ear.spectrum();
        QCOMPARE(std::max_element(bands.begin(), bands.end()) - bands.begin(), std::ptrdiff_t(16)); // 1 kHz
        QTest::keyClick(view<HearView>(), Qt::Key_G);
        QVERIFY(!ear.brought() && !fleet().ear().place());
        // The leader goes; the next one leads, and sound goes on.
        fault(member("lead")->serial, "power", "off");
        QTRY_VERIFY_WITH_TIMEOUT(vitals("talks").clock == "leads" && vitals("hears").clockFrom == "talks", 10000);
        QVERIFY(sounds());
        // A clock that follows nobody is told.
        fault(member("hears")->serial, "clock", true);
        QTRY_VERIFY_WITH_TIMEOUT(vitals("hears").clock == "free" && vitals("hears").clockLost, 10000);
        QTRY_VERIFY_WITH_TIMEOUT(session().health().at("hears").word == "no clock", 5000);
        fault(member("hears")->serial, "clock", false);
        QTRY_COMPARE_WITH_TIMEOUT(vitals("hears").clock, std::string("follows"), 10000);
        // A cable is cut, and mended.
        fault("*", "cut", {"w3"});
        QTRY_VERIFY_WITH_TIMEOUT(!sounds() && vitals("hears").sounds.at("net 5") == "none", 10000);
        fault("*", "cut", nlohmann::json::array());
        QTRY_VERIFY_WITH_TIMEOUT(sounds(), 10000);
        // A value by its path, as surfaces and rules will set it.
        rig_->with([&](rig::Rig& r) {
            auto& device = r.server(member("hears")->serial)->device();
            QCOMPARE(*device.get("receiver.mix.level"), 0.0);
            QVERIFY(bool(device.set("receiver.mix.level", -40, "A rule")));
            QVERIFY(!device.set("receiver.mix.level", 99, "A rule") && !device.get("receiver.none.level"));
        });
        QTRY_COMPARE_WITH_TIMEOUT(project().device("hears")->receivers[0].levelDb, -40.0, 5000);
        QTRY_VERIFY_WITH_TIMEOUT(ear.level({"hears", "net 5", true}).value_or(0) < -50, 10000);
        session().undo(); // and as one edits here
        QTRY_VERIFY_WITH_TIMEOUT(sounds(), 10000);
        // Power-cycled, what was only set live is gone, and the leader leads again.
        fault(member("lead")->serial, "power", "on");
        QTRY_COMPARE_WITH_TIMEOUT(vitals("talks").clockFrom, std::string("lead"), 15000);
    }
    // What others announce is offered here; taken, it is a stream like any other.
    void othersAnnounce() {
        project::Project p;
        p.devices.push_back(made("desk", "heddle-8", "127.20.4.82"));
        project::Stream own;
        own.id = own.name = "own", own.ports = {"net 1"};
        p.device("desk")->streams = {own};
        startRig(p, "others", 1);
        QVERIFY(fleet().announcements().listening());
        stream::Description d;
        d.name = "Stage left", d.session = 5, d.origin = "10.7.0.9", d.address = "239.7.7.9";
        QUdpSocket mouth;
        QVERIFY(mouth.bind(QHostAddress("127.0.0.1"), 0));
        mouth.setMulticastInterface(QNetworkInterface::interfaceFromName("lo"));
        mouth.setSocketOption(QAbstractSocket::MulticastTtlOption, 0);
        const auto packet = stream::sapPacket({false, 77, d.origin, stream::sdpText(d)});
        const auto known = [&] {
            mouth.writeDatagram(reinterpret_cast<const char*>(packet.data()), qint64(packet.size()),
                                QHostAddress("239.255.255.255"), 9875);
            const auto all = fleet().announcements().known().all();
            return std::count_if(all.begin(), all.end(),
                                 [](const auto& one) { return one.second.source == "10.7.0.9"; });
        };
        QTRY_COMPARE_WITH_TIMEOUT(known(), std::ptrdiff_t(1), 5000);
        w_->showStage("patch");
        answer(QStringList{"Stage left, 2 channels, of 10.7.0.9"}); // the device's own is not among them
        patch()->announced();
        QVERIFY2(patch()->state().isChosen("outside/stage-left"), qPrintable(said_));
        patch()->announced();
        QVERIFY2(said_.contains("Nobody announces") || asked() == nullptr, qPrintable(said_));
        QVERIFY(session().edit(*project::hearStream(project(), "outside/stage-left", "desk")));
        QVERIFY(!project().device("outside")->receivers.size() && project().device("desk")->receivers.size() == 1);
    }
};

LOOM_TEST(tst_site_streams, TestSiteStreams)
#include "tst_site_streams.moc"
