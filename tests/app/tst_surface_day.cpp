// A touch surface from nothing to the room, by events alone: made in the window for three spaces, tried here, put on
// devices of the rig, pressed there in a real browser while a second one looks, and there again after a power cut.
#include "app/surfaces/drive_list.h"
#include "app/surfaces/surface_canvas.h"
#include "app/surfaces/surface_window.h"
#include "app/surfaces/surfaces_page.h"
#include "app/text.h"
#include "site_test.h"
#include "test.h"
#include <QListWidget>
#include <QProcess>
#include <QStandardPaths>
#include <QTreeWidget>

using nlohmann::json;

class TestSurfaceDay : public SiteTest {
    Q_OBJECT
    QProcess hand_;

    SurfacesState& state() { return view<SurfacesPage>()->state(); }
    SurfaceCanvas* canvas() { return view<SurfaceCanvas>(); }
    QListWidget* drives() { return w_->findChild<QListWidget*>("driveList"); }
    const project::Surface& slate() { return *project().surface("council-slate"); }
    std::vector<std::string> controls() {
        std::vector<std::string> ids;
        for (const auto& ply : state().page()->plies)
            for (const auto& c : ply.controls)
                ids.push_back(c.id);
        return ids;
    }
    // What a step put on the page: the ids that are new.
    std::vector<std::string> fresh(const std::function<void()>& step) {
        const auto before = controls();
        step();
        std::vector<std::string> now;
        for (const auto& id : controls())
            if (std::find(before.begin(), before.end(), id) == before.end())
                now.push_back(id);
        return now;
    }
    // The first in the list that has all words, dragged onto the page.
    std::vector<std::string> bring(const QString& words, double x, double y) {
        auto* field = w_->findChild<QLineEdit*>("driveField");
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, words);
        QTest::keyClick(field, Qt::Key_Return);
        return fresh([&] {
            QMimeData mime;
            mime.setData(driveMime, QByteArray::fromStdString(view<DriveList>()->current()));
            const QPointF at = canvas()->toView({x, y});
            QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
            QApplication::sendEvent(canvas(), &enter);
            QDropEvent dropped(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
            QApplication::sendEvent(canvas(), &dropped);
        });
    }
    std::string put(const char* kind) { // one that nothing drives, by its button
        const auto now = fresh([&] { press(("put " + std::string(kind)).c_str()); });
        return now.size() == 1 ? now[0] : "";
    }
    void chooseOnly(const std::string& id) { state().chooseControls({id}, true); }
    // A field of a form of the deck.
    void set(const char* form, const char* field, const QString& text) {
        auto* of = w_->findChild<QWidget*>(form);
        QVERIFY2(of, form);
        QWidget* editor = nullptr;
        QTRY_VERIFY2((editor = of->findChild<QWidget*>(QString("field.") + field)), field);
        if (auto* line = qobject_cast<QLineEdit*>(editor)) {
            typeInto(line, text);
        } else if (auto* box = qobject_cast<QComboBox*>(editor)) {
            const int i = box->findData(text) >= 0 ? box->findData(text) : box->findText(text);
            QVERIFY2(i >= 0, qPrintable(text));
            box->setCurrentIndex(i);
            emit box->activated(i);
        } else if (auto* tick = qobject_cast<QAbstractButton*>(editor)) {
            if (tick->isChecked() != (text == "yes"))
                QTest::mouseClick(tick, Qt::LeftButton, {}, QPoint(8, tick->height() / 2));
        } else {
            QFAIL(field);
        }
    }
    void place(const std::string& id, int x, int y, int w, int h) {
        chooseOnly(id);
        set("controlPlace", "x", QString::number(x));
        set("controlPlace", "y", QString::number(y));
        set("controlPlace", "width", QString::number(w));
        set("controlPlace", "height", QString::number(h));
        const auto* c = state().page()->control(id);
        QVERIFY(c && c->x == x && c->y == y && c->width == w && c->height == h);
    }
    json asked(const json& command) {
        hand_.write(QByteArray::fromStdString(command.dump()) + "\n");
        QElapsedTimer t;
        t.start();
        while (!hand_.canReadLine() && t.elapsed() < 40000 && hand_.state() == QProcess::Running)
            QTest::qWait(5);
        return json::parse(hand_.readLine().toStdString(), nullptr, false);
    }
    json browser(const json& command) { // and it must work
        const auto answer = asked(command);
        if (!answer.is_array() || answer[0] != true)
            qWarning("%s: %s", command.dump().c_str(), answer.dump().c_str());
        return answer.is_array() && answer[0] == true ? answer[1] : json("failed");
    }
    std::string ofControl(const std::string& id, const char* attribute) {
        return "return document.getElementById('c-" + id + "').getAttribute('" + attribute + "')";
    }
    double onDevice(const char* serial, const char* param) {
        double v = -999;
        rig_->with([&](rig::Rig& r) {
            if (const auto now = r.server(serial)->device().get(param))
                v = *now;
        });
        return v;
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() { beginSite(); }
    void cleanup() {
        hand_.closeWriteChannel();
        hand_.waitForFinished(10000);
        endSite();
    }

    void fromNothingToTheRoom() {
        if (QStandardPaths::findExecutable("chromedriver").isEmpty())
            QSKIP("there is no chromedriver");
        auto p = *loom::test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        const auto scenario = site::scenarioFromJson(json::parse(R"({"devices": [
            {"serial": "H", "model": "heddle-16", "address": "127.20.41.10", "as": "heddle"},
            {"serial": "R", "model": "heddle-8", "address": "127.20.41.11", "as": "heddle-8-rack-a"},
            {"serial": "S", "model": "slate-10", "address": "127.20.41.12"}]})"));
        QVERIFY(bool(scenario));
        p.surfaces.clear();
        p.scenes.clear();
        rig_ = std::make_unique<EmbeddedRig>(loom::test::models(), std::vector<rig::DeviceSetup>{});
        rig_->with([&](rig::Rig& r) {
            const auto done = r.play(*scenario, &p, &p, store_->path().toStdString());
            QVERIFY2(bool(done), done ? "" : done.error().text().c_str());
        });
        for (const auto& [id, serial] :
             {std::pair("heddle", "H"), std::pair("heddle-8-rack-a", "R"), std::pair("council-slate", "S")})
            p.device(id)->serial = serial;
        open(p, "day");

        // -- made --
        w_->showStage("surfaces");
        answer(q(project().device("council-slate")->name));
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        // Three spaces: the lanes of each as strips; a guide to line them up by.
        const double y = canvas()->toView({0, 90}).y();
        dragOn(canvas(), QPointF(4, y), canvas()->toView({40, 90}));
        QCOMPARE(state().page()->guidesAcross.size(), std::size_t(1));
        const auto council = bring("heddle council canopy strip", 40, 90);
        const auto tern = bring("tern zone strip", 190, 90), plover = bring("plover zone strip", 340, 90);
        QVERIFY(council.size() == 3 && tern.size() == 3 && plover.size() == 3);
        std::map<std::string, std::string> of; // kind -> id, of the council's strip
        for (const auto& id : council)
            of[state().page()->control(id)->kind] = id;
        const auto fader = of["fader"], mute = of["toggle"];
        const auto level = state().page()->control(fader)->param;
        QVERIFY(level == "heddle/council-canopy.level.gain" && !mute.empty());
        // A scene of what they set now, and one of another state.
        answer("Meeting");
        state().chooseControls({});
        pick("Keep a scene");
        QTRY_COMPARE(project().scenes.size(), std::size_t(1));
        chooseOnly(fader);
        set("controlDoes", "text", "Council");
        const auto scene = bring("scene meeting", 500, 90);
        QCOMPARE(scene.size(), std::size_t(1));
        place(scene[0], 500, 90, 170, 100);
        // A call pad, who is open, a picture on a button.
        const auto pad = bring("telephone line heddle", 700, 90);
        QCOMPARE(pad.size(), std::size_t(1));
        place(pad[0], 700, 90, 250, 320);
        const auto lamps = bring("council hall microphones lanes", 40, 560);
        QCOMPARE(lamps.size(), std::size_t(1));
        place(lamps[0], 40, 560, 900, 200);
        const auto away = bring("far-end send mute muted", 980, 90);
        QCOMPARE(away.size(), std::size_t(1));
        place(away[0], 980, 90, 160, 160);
        answerFile(LOOM_SOURCE_DIR "/demo/pictures/microphones-on.svg");
        pick("A picture from a file");
        QTRY_VERIFY(!state().page()->control(away[0])->pictures.always.empty());
        // A drawer on a ply of its own, opened by a button that lies below a map that lets presses through.
        answer("More");
        press("newPly");
        QTRY_COMPARE(state().page()->plies.size(), std::size_t(2));
        const auto more = state().page()->plies[1].id;
        state().chooseControls({});
        set("plyFields", "edge", "A drawer on the right");
        set("plyFields", "extent", "300");
        set("plyFields", "closed", "yes");
        QVERIFY(state().page()->plies[1].edge == "right" && state().page()->plies[1].closed);
        const auto inside = bring("heddle loop level gain", 1000, 300);
        QCOMPARE(inside.size(), std::size_t(1));
        QVERIFY(state().page()->plies[1].controls.size() == 1); // on the ply that is chosen
        place(inside[0], 1000, 300, 120, 300);
        state().choosePly(state().page()->plies[0].id);
        const auto opens = put("press");
        place(opens, 500, 250, 170, 160);
        set("controlDoes", "ply", "More");
        set("controlDoes", "text", "More");
        QCOMPARE(state().page()->control(opens)->ply, more);
        state().chooseControls({});
        const auto map = fresh([&] {
            answerFile(LOOM_SOURCE_DIR "/demo/pictures/council-hall.svg");
            pick("A picture from a file");
            QTRY_VERIFY(!state().chosen().empty() || controls().size() > 14);
        });
        QCOMPARE(map.size(), std::size_t(1));
        place(map[0], 510, 260, 150, 140);
        set("controlPlace", "through", "yes");
        QVERIFY(state().page()->control(map[0])->through);
        // A page for the technician alone.
        state().chooseControls({});
        set("surfaceFields", "roles", "Technician");
        QCOMPARE(slate().roles.size(), std::size_t(1));
        const auto leads = put("press");
        place(leads, 980, 560, 160, 90);
        set("controlDoes", "text", "Sound");
        const auto first = state().page()->id;
        press("newPage");
        const auto second = state().page()->id;
        state().chooseControls({});
        set("pageFields", "name", "Sound");
        set("pageFields", "roles", "Technician");
        QCOMPARE(state().page()->roles.size(), std::size_t(1));
        const auto chair = bring("preamp chair gain", 100, 100);
        QCOMPARE(chair.size(), std::size_t(1));
        state().choosePage(first);
        chooseOnly(leads);
        set("controlDoes", "page", "Sound");
        QCOMPARE(state().page()->control(leads)->page, second);
        // A copy of the first page for the other room: re-pointed, what it would do is shown first.
        pick("Copy the page");
        QTRY_COMPARE(slate().pages.size(), std::size_t(3));
        const auto copied = slate().pages[1].id;
        state().choosePage(copied);
        set("pageFields", "name", "Plover first");
        canvas()->setFocus();
        answer(QStringList{"tern", "plover"}, [this] {
            auto* wait = new QTimer(this);
            connect(wait, &QTimer::timeout, this, [this, wait] {
                for (auto* b : w_->findChildren<QPushButton*>())
                    if (b->text() == "Re-point them" && b->isVisible()) {
                        wait->stop();
                        wait->deleteLater();
                        return QTest::mouseClick(b, Qt::LeftButton);
                    }
            });
            wait->start(20);
        });
        pick("Drive this page from another room");
        QTRY_VERIFY(std::none_of(state().page()->plies[0].controls.begin(), state().page()->plies[0].controls.end(),
                                 [](const auto& c) { return c.param.find("tern") != std::string::npos; }));
        state().choosePage(first);

        // -- tried here --
        const auto designed = project();
        press("useHere");
        auto* window = view<SurfaceWindow>();
        QVERIFY(window && QTest::qWaitForWindowExposed(window));
        const auto f = *state().page()->control(fader);
        QTest::mouseClick(window->face(), Qt::LeftButton, {},
                          window->face()->toView({f.x + f.width / 2, f.y + f.height * 0.7}).toPoint());
        const auto turned = window->face()->values().now(*project::driveOf(project(), level));
        QVERIFY(turned && *turned != *project::designValue(project(), *project::driveOf(project(), level)));
        QTest::mouseClick(window->face(), Qt::LeftButton, {}, window->face()->toView({585, 330}).toPoint());
        QVERIFY(window->face()->use().isOpen(window->face()->use().page()->plies[1])); // through the map
        QVERIFY(project() == designed);
        QTest::mouseClick(window->findChild<QPushButton*>("surfaceClose"), Qt::LeftButton);
        QTRY_VERIFY(!view<SurfaceWindow>());

        // -- put on the devices --
        w_->showStage("site");
        click("Look again");
        QTRY_VERIFY_WITH_TIMEOUT(up("heddle") && up("heddle-8-rack-a") && up("council-slate"), 30000);
        for (const char* device : {"heddle", "heddle-8-rack-a", "council-slate"})
            fleet().chooseAll({device}, Take::design, false);
        click("tryIt");
        const auto on = [&](const char* serial) {
            bool is = false;
            rig_->with([&](rig::Rig& r) { is = r.server(serial)->pagePort() != 0; });
            return is;
        };
        QTRY_VERIFY_WITH_TIMEOUT(on("S") && on("H"), 30000);
        QTRY_VERIFY_WITH_TIMEOUT(same("council-slate"), 30000);
        click("keep");
        const auto kept = [&] {
            bool is = false;
            rig_->with([&](rig::Rig& r) {
                const auto* k = r.server("S")->device().store().kept();
                is = k && !k->config.surfaces.empty();
            });
            return is;
        };
        QTRY_VERIFY_WITH_TIMEOUT(kept(), 30000);
        w_->showStage("surfaces");
        answer("4711");
        pick("PIN of a role on the devices");
        const auto hasPin = [&] {
            bool is = false;
            rig_->with(
                [&](rig::Rig& r) { is = r.server("S")->device().store().pins().count("council-slate/technician"); });
            return is;
        };
        QTRY_VERIFY_WITH_TIMEOUT(hasPin(), 20000);

        // -- in real browsers --
        hand_.setWorkingDirectory(LOOM_SOURCE_DIR "/tests/browser");
        hand_.setProcessChannelMode(QProcess::ForwardedErrorChannel);
        hand_.start("python3", {"hand.py"});
        QVERIFY(hand_.waitForStarted());
        const std::string at = "http://127.20.41.12:4780/s/council-slate";
        QCOMPARE(browser({"open", "one", at}), json("Council slate \u00b7 Page 1"));
        QCOMPARE(browser({"open", "two", at}), json("Council slate \u00b7 Page 1"));
        browser({"run", "one", "window.mark = 1"});
        browser({"until", "one", ofControl(fader, "aria-valuetext")});
        const double before = onDevice("H", "council-canopy.level.gain");
        browser({"drag", "one", fader, 0.5, 0.3, 0.5, 0.8});
        QTRY_VERIFY_WITH_TIMEOUT(onDevice("H", "council-canopy.level.gain") < before - 3, 5000);
        const auto said = browser({"run", "one", ofControl(fader, "aria-valuetext")}).get<std::string>();
        QVERIFY2(said.find("dB") != std::string::npos, said.c_str());
        const auto follows = browser({"until", "two", ofControl(fader, "aria-valuetext") + " === '" + said + "'"});
        QCOMPARE(follows, json(true));
        browser({"tap", "one", mute, 0.5, 0.5});
        QTRY_COMPARE_WITH_TIMEOUT(onDevice("H", "council-canopy.level.mute"), 1.0, 5000);
        browser({"until", "two", ofControl(mute, "aria-checked") + " === 'true'"});
        browser({"tap", "two", scene[0], 0.5, 0.5}); // back to how it was kept
        QTRY_COMPARE_WITH_TIMEOUT(onDevice("H", "council-canopy.level.mute"), 0.0, 5000);
        QTRY_COMPARE_WITH_TIMEOUT(onDevice("H", "council-canopy.level.gain"), before, 5000);
        // What another device does is seen here too: the slate has no program of its own.
        rig_->with([](rig::Rig& r) { QVERIFY(bool(r.server("R")->device().set("tern.level.gain", -17, "somebody"))); });
        std::string ternFader;
        for (const auto& id : tern)
            if (state().page()->control(id)->kind == "fader")
                ternFader = id;
        QVERIFY(browser({"until", "two", ofControl(ternFader, "aria-valuetext") + ".includes('17')"}) == true);
        // Through the map, the drawer; the picture has come by its print.
        browser({"tap-at", "one", 585, 330});
        QVERIFY(browser({"until", "one",
                         "return !document.getElementById('c-" + inside[0] +
                             "').closest('.ply').classList.contains('hidden')"}) == true);
        QVERIFY(browser({"run", "one", "return document.querySelectorAll('image[href^=\"/picture/\"]').length"}) >= 2);
        // The technician's page wants the PIN.
        browser({"tap", "two", leads, 0.5, 0.5});
        browser({"until", "two", "return !document.getElementById('card').hidden"});
        browser({"keys", "two", "1234"});
        QVERIFY(browser({"until", "two",
                         "return (document.querySelector('.why') || {}).textContent.includes('wrong')"}) == true);
        browser({"keys", "two", "4711"});
        QVERIFY(browser({"until", "two", "return document.title.endsWith('Sound')"}) == true);
        QCOMPARE(browser({"run", "one", "return document.title"}), json("Council slate \u00b7 Page 1"));

        // -- without power, and there again --
        fault("S", "power", "off");
        QVERIFY(browser({"until", "one", "return document.getElementById('notice').textContent.includes('lost')"}) ==
                true);
        fault("S", "power", "on");
        QVERIFY(browser({"until", "one",
                         "return !document.querySelector('.lost') && " +
                             ("document.getElementById('c-" + fader + "') !== null")}) == true);
        QVERIFY(browser({"until", "one",
                         "const c = document.getElementById('c-" + fader +
                             "'); return c && (c.getAttribute('aria-valuetext') || '').includes('dB')"}) == true);
        QCOMPARE(browser({"run", "one", "return window.mark"}), json(1)); // without loading anew
        browser({"drag", "one", fader, 0.5, 0.3, 0.5, 0.6});
        QTRY_VERIFY_WITH_TIMEOUT(onDevice("H", "council-canopy.level.gain") < before - 1, 8000);
        w_->showStage("site");
        QTRY_VERIFY_WITH_TIMEOUT(up("council-slate") && member("council-slate")->rows.empty(), 30000);

        // -- an operator's window: with the devices, nothing but the surface --
        fleet().setLive(true);
        SurfaceWindow alone(session(), "council-slate", nullptr, SurfaceWindow::For::operators);
        alone.setAttribute(Qt::WA_DeleteOnClose, false);
        alone.resize(1280, 800);
        alone.show();
        QVERIFY(QTest::qWaitForWindowExposed(&alone));
        const auto drive = *project::driveOf(project(), level);
        QTRY_VERIFY(alone.face()->values().there("heddle"));
        QTRY_COMPARE(alone.face()->values().now(drive).value_or(-999), onDevice("H", "council-canopy.level.gain"));
        const auto unchanged = project();
        QTest::mouseClick(alone.face(), Qt::LeftButton, {},
                          alone.face()->toView({f.x + f.width / 2, f.y + f.height * 0.85}).toPoint());
        const auto wanted = alone.face()->values().now(drive);
        QVERIFY(wanted && *wanted < before - 6);
        QTRY_COMPARE_WITH_TIMEOUT(onDevice("H", "council-canopy.level.gain"), *wanted, 8000);
        QVERIFY(project().surfaces == unchanged.surfaces);
    }
};
LOOM_TEST(tst_surface_day, TestSurfaceDay)
#include "tst_surface_day.moc"
