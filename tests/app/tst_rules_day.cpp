// Rules from nothing to the devices, by events alone: written, rehearsed, kept as tests, broken and mended, tried and
// kept; then the button is pressed, the wall opens, this computer is gone, the power fails, and all of it happens.
#include "app/rules/occasion_list.h"
#include "app/rules/outside_panel.h"
#include "app/rules/rehearsal_deck.h"
#include "app/rules/rule_line.h"
#include "app/rules/rule_view.h"
#include "app/rules/rules_page.h"
#include "app/text.h"
#ifndef Q_MOC_RUN
#include "outside/outside_edit.h"
#endif
#include "site_test.h"
#include "test.h"
#include <QListWidget>
#include <QTabWidget>

using nlohmann::json;

class TestRulesDay : public SiteTest {
    Q_OBJECT
    static constexpr const char* tern = "tern.level.gain";

    RulesState& state() { return view<RulesPage>()->state(); }
    RuleView* rules() { return view<RuleView>(); }
    RuleLine* line() { return view<RuleLine>(); }
    void chooseOccasion(const QString& label) {
        auto* list = w_->findChild<QListWidget*>("occasionList");
        QListWidgetItem* item = nullptr;
        QTRY_VERIFY2(!(list->findItems(label, Qt::MatchExactly).isEmpty()) &&
                         (item = list->findItems(label, Qt::MatchExactly)[0]),
                     qPrintable(label));
        list->scrollToItem(item);
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(item).center());
    }
    void newRule(const QString& name, const QStringList& lines) {
        const auto before = project().rules.size();
        answer(QStringList{name});
        rules()->setFocus();
        QTest::keyClick(rules(), Qt::Key_N);
        QTRY_COMPARE(project().rules.size(), before + 1);
        for (const auto& text : lines) {
            line()->setFocus();
            line()->clear();
            QTest::keyClicks(line(), text);
            QTest::keyClick(line(), Qt::Key_Escape); // what the list offers is not taken
            QTest::keyClick(line(), Qt::Key_Return);
            QVERIFY2(line()->text().isEmpty(), qPrintable(line()->text() + ": " + said_));
        }
    }
    void rehearse(const char* begins, const QStringList& happens, project::Millis until, const QString& keptAs) {
        if (state().rehearsal())
            press("rehearsalBegin"); // ends it
        w_->findChild<QLineEdit*>("rehearsalBegins")->setText(begins);
        press("rehearsalBegin");
        QVERIFY(state().rehearsal());
        auto* field = w_->findChild<QLineEdit*>("rehearsalHappens");
        for (const auto& what : happens) {
            QTest::keyClicks(field, what);
            QTest::keyClick(field, Qt::Key_Escape);
            QTest::keyClick(field, Qt::Key_Return);
        }
        state().goTo(until);
        const auto before = project().ruleTests.size();
        answer(QStringList{keptAs});
        press("rehearsalKeep");
        QTRY_COMPARE(project().ruleTests.size(), before + 1);
    }
    double onDevice(const char* serial, const char* param) {
        double v = -999;
        rig_->with([&](rig::Rig& r) {
            if (const auto now = r.server(serial)->device().get(param))
                v = *now;
        });
        return v;
    }
    double atDisplay(const char* what) {
        double v = -1;
        rig_->with([&](rig::Rig& r) {
            if (const auto* one = r.standIn("hall-display"))
                v = one->state(what);
        });
        return v;
    }
    bool logged(const char* serial, const std::string& who, const std::string& words) {
        bool is = false;
        rig_->with([&](rig::Rig& r) {
            for (const auto& e : r.server(serial)->device().store().log())
                is = is || (e.who == who && e.what.find(words) != std::string::npos);
        });
        return is;
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() { beginSite(); }
    void cleanup() { endSite(); }

    void fromNothingToTheRoom() {
        auto p = *loom::test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        const auto scenario = site::scenarioFromJson(json::parse(R"({"devices": [
            {"serial": "H", "model": "heddle-16", "address": "127.20.42.10", "as": "heddle"},
            {"serial": "R", "model": "heddle-8", "address": "127.20.42.11", "as": "heddle-8-rack-a"},
            {"serial": "T", "model": "tap", "address": "127.20.42.12", "as": "tern-tap"}]})"));
        QVERIFY(bool(scenario));
        // The display is there before anybody has planned it.
        auto there = p;
        there.outside.clear(), there.outsideKinds.clear();
        there = *(*project::addOutside(there, "Hall display", "display-lines", "council", "127.20.42.40:46642"))
                     .make(there);
        p.rules.clear(), p.scripts.clear(), p.scenes.clear(), p.ruleTests.clear(), p.surfaces.clear();
        p.outside.clear(), p.outsideKinds.clear();
        rig_ = std::make_unique<EmbeddedRig>(loom::test::models(), std::vector<rig::DeviceSetup>{});
        rig_->with([&](rig::Rig& r) {
            auto prepared = p;
            prepared.outside = there.outside, prepared.outsideKinds = there.outsideKinds;
            const auto done = r.play(*scenario, &prepared, &p, store_->path().toStdString());
            QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        });
        for (const auto& [id, serial] :
             {std::pair("heddle", "H"), std::pair("heddle-8-rack-a", "R"), std::pair("tern-tap", "T")})
            p.device(id)->serial = serial;
        open(p, "day");

        // -- written --
        w_->showStage("rules");
        answer({"Joined", "tern zone level level"});
        press("keepScene");
        QTRY_COMPARE(project().scenes.size(), std::size_t(1));
        const auto path = std::string("heddle-8-rack-a/") + tern;
        QVERIFY(project().scenes[0].values.count(path));
        session().edit(*project::setSceneValue(project(), "joined", path, -9.0));
        chooseOccasion("Folding wall becomes open");
        newRule("Seminar", {"then recall Joined over 0.5 s"});
        chooseOccasion("Tern tap becomes pressed");
        newRule("Tap", {"then turn heddle-8-rack-a/tern-handheld.preamp.mute over"});
        chooseOccasion("power comes");
        newRule("Closing", {"when it is 17:45 on weekdays except 2026-12-24..2027-01-01, up to 10 min late",
                            "then set heddle-8-rack-a/foyer.level.gain to -6 dB"});
        view<RulesPage>()->show(RulesPage::Side::outside);
        answer(QStringList{"Display, lines of text over TCP"});
        QTimer::singleShot(400, this, [this] { answer({"Hall display", "127.20.42.40:46642"}); });
        press("addOutside");
        QTRY_COMPARE(project().outside.size(), std::size_t(1));
        QVERIFY(view<OutsidePanel>()->isVisible() && project().outside[0].id == "hall-display");
        chooseOccasion("Folding wall becomes closed");
        newRule("Display", {"then set outside:hall-display/power to on", "then set outside:hall-display/volume to 35"});

        // -- rehearsed, kept, broken and mended --
        rehearse("2026-11-30 09:00", {"Folding wall open"}, 5 * project::minute, "The wall");
        rehearse("2026-11-30 09:00", {"Tern tap pressed"}, project::minute, "The button");
        rehearse("2026-11-30 17:40", {}, 10 * project::minute, "The closing call");
        QTRY_VERIFY(state().tests() && state().tests()->hold == 3);
        const auto seminar = project().rules[0].id;
        session().edit(project::turnRule(seminar, false));
        waitForFinding("instead of"); // the test of the wall
        session().undo();
        QTRY_VERIFY(state().tests() && state().tests()->hold == 3);

        // -- tried and kept --
        w_->showStage("site");
        click("Look again");
        QTRY_VERIFY_WITH_TIMEOUT(up("heddle") && up("heddle-8-rack-a") && up("tern-tap"), 30000);
        for (const char* device : {"heddle", "heddle-8-rack-a", "tern-tap"})
            fleet().chooseAll({device}, Take::design, false);
        click("tryIt");
        QTRY_VERIFY_WITH_TIMEOUT(same("heddle") && same("heddle-8-rack-a") && same("tern-tap"), 30000);
        click("keep");
        const auto kept = [&] {
            bool is = false;
            rig_->with([&](rig::Rig& r) {
                is = true;
                for (const char* serial : {"H", "R", "T"}) {
                    const auto* k = r.server(serial)->device().store().kept();
                    is = is && k && !k->config.rules.empty();
                }
            });
            return is;
        };
        QTRY_VERIFY_WITH_TIMEOUT(kept(), 30000);

        // -- it happens --
        fault("*", "wall", {{"fold", "closed"}});
        QCOMPARE(atDisplay("power"), 0.0); // it was closed before
        const double muted = onDevice("R", "tern-handheld.preamp.mute");
        fault("T", "press", true);
        QTRY_VERIFY_WITH_TIMEOUT(onDevice("R", "tern-handheld.preamp.mute") != muted, 5000);
        QVERIFY(logged("R", "Rule \u201cTap\u201d", "Tern tap"));
        fault("*", "wall", {{"fold", "open"}});
        QTRY_COMPARE_WITH_TIMEOUT(onDevice("R", tern), -9.0, 5000);
        fault("*", "wall", {{"fold", "closed"}});
        QTRY_COMPARE_WITH_TIMEOUT(atDisplay("power"), 1.0, 8000);
        QTRY_COMPARE_WITH_TIMEOUT(atDisplay("volume"), 35.0, 8000);

        // -- and without this computer, and over a power cut --
        end();
        fault("R", "power", "off");
        fault("R", "power", "on");
        const auto runs = [&] {
            bool is = false;
            rig_->with([&](rig::Rig& r) { is = r.server("R")->device().rules().runs(); });
            return is;
        };
        QTRY_VERIFY_WITH_TIMEOUT(runs(), 10000);
        QVERIFY(onDevice("R", tern) != -9.0);
        fault("*", "wall", {{"fold", "open"}});
        QTRY_COMPARE_WITH_TIMEOUT(onDevice("R", tern), -9.0, 5000);
    }
};

LOOM_TEST(tst_rules_day, TestRulesDay)
#include "tst_rules_day.moc"
