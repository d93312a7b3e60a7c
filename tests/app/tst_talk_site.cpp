// Talk beside devices at work: a space is muted by the button and the key, the telephone is dialled and hung up, and
// what the devices say is drawn.
#include "app/talk/mute_view.h"
#include "app/talk/talk_page.h"
#include "site_test.h"
#include "test.h"

class TestTalkSite : public SiteTest {
    Q_OBJECT

    TalkState& talk() { return view<TalkPage>()->state(); }
    bool cut() { // on the device itself
        bool is = false;
        rig_->with([&](rig::Rig& r) { is = r.server("H")->device().health().mutes.at("council"); });
        return is;
    }
    std::string line() {
        std::string how;
        rig_->with([&](rig::Rig& r) { how = r.server("H")->device().lines()[0].how; });
        return how;
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() { beginSite(); }
    void cleanup() { endSite(); }

    void mutesAndCallsTheDevices() {
        const auto demo = *loom::test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        const auto scenario = site::scenarioFromJson(nlohmann::json::parse(R"({"devices": [
            {"serial": "H", "model": "heddle-16", "address": "127.20.9.30", "as": "heddle", "faults": {"secret": "knot"}},
            {"serial": "T", "model": "tap", "address": "127.20.9.31", "as": "council-tap"}]})"));
        QVERIFY(bool(scenario));
        rig_ = std::make_unique<EmbeddedRig>(loom::test::models(), std::vector<rig::DeviceSetup>{});
        rig_->with([&](rig::Rig& r) {
            const auto done = r.play(*scenario, &demo, &demo, store_->path().toStdString());
            QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        });
        auto p = demo;
        for (const auto& [id, serial] : {std::pair("heddle", "H"), std::pair("council-tap", "T")})
            p.device(id)->serial = serial;
        open(p, "call");
        click("Look again");
        QTRY_VERIFY_WITH_TIMEOUT(up("heddle") && up("council-tap"), 20000);
        QTRY_VERIFY_WITH_TIMEOUT(!cut(), 20000);

        w_->showStage("talk");
        press("talkMute");
        talk().choose("council");
        QTRY_COMPARE_WITH_TIMEOUT(talk().mutedNow(), std::optional(false), 20000);
        auto* now = w_->findChild<QPushButton*>("talkMuteNow");
        QTRY_COMPARE(now->text(), QString("Mute now"));
        press("talkMuteNow");
        QTRY_VERIFY_WITH_TIMEOUT(cut(), 20000);
        QTRY_COMPARE_WITH_TIMEOUT(now->text(), QString("Live again"), 20000);
        QVERIFY(!talk().disagree());
        rig_->with([&](rig::Rig& r) { QCOMPARE(r.server("T")->device().health().lamp, std::string("muted")); });
        view<MuteView>()->setFocus(); // and by its key
        QTest::keyClick(view<MuteView>(), Qt::Key_M);
        QTRY_VERIFY_WITH_TIMEOUT(!cut(), 20000);
        QTRY_COMPARE_WITH_TIMEOUT(talk().mutedNow("council-tap", "self"), std::optional(false), 20000);
        // Somebody presses the button on the table: the view follows.
        rig_->with([&](rig::Rig& r) { r.server("T")->device().pressButton(); });
        QTRY_COMPARE_WITH_TIMEOUT(now->text(), QString("Live again"), 20000);

        // The telephone.
        answer("2041");
        pick("Dial a number");
        QTRY_VERIFY_WITH_TIMEOUT(line().find("2041") != std::string::npos, 20000);
        QTRY_VERIFY_WITH_TIMEOUT(line().find("in a call with 2041") == 0, 60000);
        QTRY_VERIFY_WITH_TIMEOUT(talk().lineNow("heddle", "tel 1").contains("in a call"), 20000);
        pick("Hold the call");
        QTRY_VERIFY_WITH_TIMEOUT(line().find("on hold") == 0, 20000);
        pick("Go on with the call");
        QTRY_VERIFY_WITH_TIMEOUT(line().find("in a call") == 0, 20000);
        answer("4#");
        pick("Send keypad tones");
        QTest::qWait(1);
        pick("Hang up");
        QTRY_VERIFY_WITH_TIMEOUT(line().find("in a call") != 0 && line().find("on hold") != 0, 20000);
        answer("the hall"); // no number
        said_.clear();
        pick("Dial a number");
        QTRY_VERIFY_WITH_TIMEOUT(!said_.isEmpty(), 20000);
    }
};
LOOM_TEST(tst_talk_site, TestTalkSite)
#include "tst_talk_site.moc"
