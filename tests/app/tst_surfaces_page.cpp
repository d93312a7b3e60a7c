// Surfaces driven by mouse and keys: from no surface to a page that is used, changed and undone.
#include "app/shell/rail.h"
#include "app/surfaces/drive_list.h"
#include "app/surfaces/page_list.h"
#include "app/surfaces/page_share.h"
#include "app/surfaces/surface_canvas.h"
#include "app/surfaces/surface_window.h"
#include "app/surfaces/surfaces_deck.h"
#include "app/surfaces/surfaces_page.h"
#include "app/text.h"
#include "models.h"
#include "surface/picture_size.h"
#include "test.h"
#include "window_test.h"
#include <QClipboard>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QTcpSocket>
#include <QTreeWidget>

using namespace loom;
using namespace loom::app;

class TestSurfacesPage : public WindowTest {
    Q_OBJECT
    SurfacesState& state() { return view<SurfacesPage>()->state(); }
    SurfaceCanvas* canvas() { return view<SurfaceCanvas>(); }
    QListWidget* drives() { return w_->findChild<QListWidget*>("driveList"); }
    // The only control of a kind.
    const project::Control& one(const char* kind) {
        for (const auto& ply : state().page()->plies)
            for (const auto& c : ply.controls)
                if (c.kind == kind)
                    return c;
        qFatal("no %s", kind);
    }
    QPointF middle(const project::Control& c) { return canvas()->toView({c.x + c.width / 2, c.y + c.height / 2}); }
    void click(const project::Control& c, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseClick(canvas(), Qt::LeftButton, keys, middle(c).toPoint());
    }
    void drop(const char* format, const std::string& what, const QPointF& page) {
        QMimeData mime;
        mime.setData(format, QByteArray::fromStdString(what));
        const QPointF at = canvas()->toView(page);
        QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(canvas(), &enter);
        QVERIFY(enter.isAccepted());
        QDragMoveEvent move(at.toPoint(), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(canvas(), &move);
        QDropEvent dropped(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(canvas(), &dropped);
    }
    void find(const QString& words) {
        auto* field = w_->findChild<QLineEdit*>("driveField");
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, words);
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(drives()->count() > 0);
    }
    std::string path(const QString& words) {
        find(words);
        return view<DriveList>()->current();
    }

  private slots:
    void initTestCase() { beginAll(); }
    void init() {
        begin("survey");
        openDemo();
        w_->showStage("surfaces");
    }
    void cleanup() { end(); }

    void aPageIsMadeUsedAndUndone() {
        const auto before = project();
        QVERIFY(!canvas()->isVisible());
        answer(q(before.device("council-slate")->name));
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        QVERIFY(canvas()->isVisible() && project().surfaces[0].width == 1280);
        // Found, and put in the middle by Enter.
        find("preamp chair gain");
        drives()->setFocus();
        QTest::keyClick(drives(), Qt::Key_Return);
        QCOMPARE(state().chosen().size(), std::size_t(1));
        const auto fader = one("fader");
        QVERIFY(fader.param.find("chair") != std::string::npos);
        // Dropped beside it: a switch becomes a toggle; onto the fader: driven anew.
        const auto onOff = path("chair high-pass on");
        QVERIFY(!onOff.empty());
        drop(driveMime, onOff, {200, 200});
        QCOMPARE(one("toggle").param, onOff);
        const auto other = path("preamp delegate 3 gain");
        drop(driveMime, other, {fader.x + 20, fader.y + 100});
        QCOMPARE(one("fader").param, other);
        drop(controlMime, "text", {700, 60});
        QCOMPARE(one("text").kind, std::string("text"));
        // Dragged; drawn to the middle of the page. Then by keys.
        const auto text = one("text");
        click(text);
        QCOMPARE(state().chosen(), std::vector<std::string>{text.id});
        dragOn(canvas(), middle(text), middle(text) + QPointF(640 - 700 + 3, 12) * canvas()->scale());
        QCOMPARE(one("text").x + one("text").width / 2, 640.0);
        const auto lies = one("text");
        canvas()->setFocus();
        QTest::keyClick(canvas(), Qt::Key_Right);
        QTest::keyClick(canvas(), Qt::Key_Down, Qt::ShiftModifier);
        QVERIFY(one("text").x == lies.x + 1 && one("text").y == lies.y + 10);
        // Sized by a handle, its right lower corner.
        const auto now = one("text");
        const QPointF corner = canvas()->toView({now.x + now.width, now.y + now.height});
        dragOn(canvas(), corner, corner + QPointF(37, 29) * canvas()->scale());
        QVERIFY(std::abs(one("text").width - now.width - 37) <= 7 && one("text").x == now.x);
        // Fields in the deck, of one and of two.
        auto* field = w_->findChild<QLineEdit*>("field.text");
        typeInto(field, "Council Hall");
        QCOMPARE(one("text").text, std::string("Council Hall"));
        click(one("toggle"));
        click(one("fader"), Qt::ControlModifier);
        QCOMPARE(state().chosen(), (std::vector<std::string>{one("toggle").id, one("fader").id}));
        auto* left = w_->findChild<QLineEdit*>("field.x");
        QVERIFY(left && left->text() == QString(QChar(0x2014)));
        press("arrangeTop");
        QCOMPARE(one("fader").y, one("toggle").y);
        typeInto(w_->findChild<QLineEdit*>("field.corner"), "4");
        QVERIFY(one("fader").look.corner == 4 && one("toggle").look.corner == 4);
        typeInto(w_->findChild<QLineEdit*>("field.corner"), "much");
        QVERIFY(!said_.isEmpty() && one("fader").look.corner == 4);
        // A colour at a press, and another kind.
        auto* card = view<ColourCard>();
        QTest::mouseClick(card, Qt::LeftButton, {}, card->swatch(3).center().toPoint());
        QCOMPARE(one("toggle").look.fill, card->all()[3].text());
        canvas()->setFocus();
        QTest::keyClick(canvas(), Qt::Key_Escape);
        click(one("fader"));
        press("showAs knob");
        QCOMPARE(one("knob").param, other);
        QVERIFY(!w_->findChild<QPushButton*>("showAs toggle")->isVisible());
        // Copied, taken out, undone.
        canvas()->setFocus();
        QTest::keyClick(canvas(), Qt::Key_D, Qt::ControlModifier);
        QTest::keyClick(canvas(), Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(state().chosen().size(), std::size_t(4));
        canvas()->setFocus();
        QTest::keyClick(canvas(), Qt::Key_Delete);
        QVERIFY(state().page()->plies[0].controls.empty() && state().chosen().empty());
        session().undo();
        QCOMPARE(state().page()->plies[0].controls.size(), std::size_t(4));
        while (session().history().canUndo())
            session().undo();
        QVERIFY(project() == before);
        QVERIFY(!canvas()->isVisible());
    }
    void aPageMakesItselfAndIsUsed() {
        answer(q(project().device("tern-slate")->name));
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        const auto name = q(project().device("heddle")->name);
        answer(name);
        press("makePage");
        QTRY_VERIFY(project().surfaces[0].pages[0].plies.size() > 0 &&
                    project().surfaces[0].pages[0].plies[0].controls.size() > 8);
        QCOMPARE(q(state().page()->name), name);
        // Used here without a bench: what is turned stays here.
        const auto before = project();
        press("useHere");
        auto* window = view<SurfaceWindow>();
        QVERIFY(window && window->isVisible());
        auto* face = window->face();
        QVERIFY(QTest::qWaitForWindowExposed(window));
        const auto fader = one("fader");
        const auto drive = *project::driveOf(project(), fader.param);
        QTest::mouseClick(face, Qt::LeftButton, {},
                          face->toView({fader.x + fader.width / 2, fader.y + fader.height * 0.3}).toPoint());
        const auto turned = face->values().now(drive);
        QVERIFY(turned && *turned != *project::designValue(project(), drive));
        QVERIFY(project() == before);
        // Two fingers have a fader each.
        std::vector<project::Control> two;
        for (const auto& ply : state().page()->plies)
            for (const auto& c : ply.controls)
                if (c.kind == "fader" && two.size() < 2)
                    two.push_back(c);
        auto* screen = QTest::createTouchDevice();
        const auto at = [&](int i, double part) {
            const auto& c = two[static_cast<std::size_t>(i)];
            return face->toView({c.x + c.width / 2, c.y + c.height * part}).toPoint();
        };
        const auto value = [&](int i) {
            return *face->values().now(*project::driveOf(project(), two[static_cast<std::size_t>(i)].param));
        };
        QTest::touchEvent(face, screen).press(0, at(0, 0.7), face).press(1, at(1, 0.3), face);
        const double low = value(0), high = value(1);
        QTest::touchEvent(face, screen).move(0, at(0, 0.4), face).move(1, at(1, 0.6), face);
        QVERIFY(value(0) > low && value(1) < high);
        QTest::touchEvent(face, screen).release(0, at(0, 0.4), face).release(1, at(1, 0.6), face);
        QTest::mouseClick(face, Qt::LeftButton, {}, at(0, 0.3));
        face->setFocus();
        QTest::keyClick(face, Qt::Key_Up);
        QVERIFY(*face->values().now(drive) > *turned || *turned >= drive.spec.max - 1e-9);
        QTest::keyClick(face, Qt::Key_Tab);
        QTest::keyClick(face, Qt::Key_Escape);
        QTRY_VERIFY(!view<SurfaceWindow>());
        // With the bench, it is heard there.
        pick("Run the bench");
        QTRY_VERIFY_WITH_TIMEOUT(session().bench().running(), 20000);
        if (session().device()->id == drive.device) {
            w_->showStage("surfaces");
            press("useHere");
            face = view<SurfaceWindow>()->face();
            QVERIFY(QTest::qWaitForWindowExposed(view<SurfaceWindow>()));
            QTest::mouseClick(face, Qt::LeftButton, {},
                              face->toView({fader.x + fader.width / 2, fader.y + fader.height * 0.6}).toPoint());
            QVERIFY(session().bench().triedValue(drive.block, drive.param).has_value());
            QVERIFY(project() == before);
            QTest::mouseClick(view<SurfaceWindow>()->findChild<QPushButton*>("surfaceClose"), Qt::LeftButton);
            QTRY_VERIFY(!view<SurfaceWindow>());
        }
    }
    void pagesPliesGuidesAndOtherRooms() {
        answer(QStringList("Another screen"), [this] { answer(QStringList{"Wall", "1024", "600"}); });
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        QVERIFY(project().surfaces[0].width == 1024 && project().surfaces[0].name == "Wall");
        press("newPage");
        QCOMPARE(state().page()->name, std::string("Page 2"));
        answer("Sound");
        canvas()->setFocus();
        QTest::keyClick(canvas(), Qt::Key_F2);
        QTRY_COMPARE(state().page()->name, std::string("Sound"));
        auto* pages = w_->findChild<QListWidget*>("surfacePages");
        QTRY_COMPARE(pages->count(), 2);
        answer("Overlay");
        press("newPly");
        QTRY_COMPARE(state().page()->plies.size(), std::size_t(2));
        auto* plies = w_->findChild<QTreeWidget*>("surfacePlies");
        QTRY_COMPARE(plies->topLevelItem(0)->text(0), QString("Overlay")); // front first
        // What is put there goes onto the chosen ply; hidden here, it is not touched.
        press("put shape");
        QCOMPARE(state().page()->plies[1].controls.size(), std::size_t(1));
        QTRY_VERIFY(plies->topLevelItem(0)->text(1).startsWith("1 control"));
        const auto shape = one("shape");
        plies->topLevelItem(0)->setCheckState(0, Qt::Unchecked);
        QVERIFY(state().page()->plies[1].hiddenHere);
        QVERIFY(canvas()->at({shape.x + 5, shape.y + 5}).empty());
        QTRY_COMPARE(plies->topLevelItem(0)->checkState(0), Qt::Unchecked);
        plies->topLevelItem(0)->setCheckState(0, Qt::Checked);
        QCOMPARE(canvas()->at({shape.x + 5, shape.y + 5}), shape.id);
        // A guide from the ruler, and away again.
        const double y = canvas()->toView({0, 200}).y();
        dragOn(canvas(), QPointF(4, y), canvas()->toView({300, 200}));
        QVERIFY(state().page()->guidesAcross.size() == 1 && std::abs(state().page()->guidesAcross[0] - 300) < 3);
        dragOn(canvas(), canvas()->toView({state().page()->guidesAcross[0], 590}), canvas()->toView({-40, 590}));
        QVERIFY(state().page()->guidesAcross.empty());
        // From one lane to another, shown before it is done.
        const auto from = path("preamp delegate 2 gain");
        drop(driveMime, from, {100, 100});
        QCOMPARE(one("fader").param, from);
        canvas()->setFocus();
        answer(QStringList{"delegate-2", "delegate-5"}, [this] {
            auto* wait = new QTimer(this);
            connect(wait, &QTimer::timeout, this, [this, wait] {
                for (auto* b : w_->findChildren<QPushButton*>())
                    if (b->text() == "Re-point them" && b->isVisible()) {
                        wait->deleteLater();
                        wait->stop();
                        return QTest::mouseClick(b, Qt::LeftButton);
                    }
            });
            wait->start(20);
        });
        pick("Drive this page from another room");
        QTRY_VERIFY(one("fader").param.find("delegate-5") != std::string::npos);
        // Findings lead here.
        session().edit(project::setControlField(state().place(), {one("fader").id}, "x", "1020"));
        waitForFinding("outside the page");
    }
    // Whole lanes, pages of what is chosen, copies of another kind, files, windows, scenes and what lacks a device.
    void whatElseCommandsDo() {
        answer(q(project().device("tern-slate")->name));
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        const auto all = [&] { // controls of the page
            std::size_t n = 0;
            for (const auto& ply : state().page()->plies)
                n += ply.controls.size();
            return n;
        };
        // A strip by Enter; several by Shift, as a page of their own.
        find("heddle tern zone strip");
        QVERIFY(view<DriveList>()->current().rfind("strip:", 0) == 0);
        drives()->setFocus();
        QTest::keyClick(drives(), Qt::Key_Return);
        QCOMPARE(all(), std::size_t(3));
        QCOMPARE(state().chosen().size(), std::size_t(3)); // a group
        find("preamp delegate gain");
        drives()->setFocus();
        QTest::keyClick(drives(), Qt::Key_Down, Qt::ShiftModifier);
        QTest::keyClick(drives(), Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(view<DriveList>()->chosenPaths().size(), 3);
        press("pageOfIt");
        QCOMPARE(project().surfaces[0].pages.size(), std::size_t(2));
        QCOMPARE(state().page()->name, std::string("Controls"));
        QVERIFY(all() >= 4); // a title and three faders
        // Several dropped at once.
        const auto before = all();
        drop(driveMime, view<DriveList>()->chosenPaths().join('\n').toStdString(), {40, 300});
        QCOMPARE(all(), before + 3);
        session().undo();
        QCOMPARE(all(), before);
        // A copy of another kind, by key.
        std::string fader;
        for (const auto& ply : state().page()->plies)
            for (const auto& c : ply.controls)
                if (c.kind == "fader")
                    fader = c.id;
        state().chooseControls({fader}, true);
        canvas()->setFocus();
        answer("Knob");
        QTest::keyClick(canvas(), Qt::Key_D, Qt::ControlModifier | Qt::ShiftModifier);
        QTRY_COMPARE(one("knob").param, state().page()->control(fader)->param);
        // What is chosen in Weave.
        w_->showStage("weave");
        session().choose("chair", "chair.preamp");
        const auto fields = all();
        pick("Put the chosen lane or bead on the touch page");
        QVERIFY(all() > fields + 3);
        w_->showStage("surfaces");
        // A scene of the chosen controls.
        state().chooseControls({fader}, true);
        answer("Loud");
        pick("Keep a scene");
        QTRY_COMPARE(project().scenes.size(), std::size_t(1));
        QVERIFY(project().scenes[0].values.size() == 1 && project().scenes[0].room == "tern");
        // Files: the surface saved, brought in again by a drop, the page as a drawing.
        const QString file = folder_.filePath("own.surface.json"), drawing = folder_.filePath("page.svg");
        QFile::remove(file);
        answerFile(file);
        pick("Save the surface as a file");
        QTRY_VERIFY(QFile::exists(file));
        answer("None yet");
        dropFile(canvas(), file);
        QTRY_COMPARE(project().surfaces.size(), std::size_t(2));
        QVERIFY(project().surfaces[1].device.empty() && project().surfaces[1].pages.size() == 2);
        QFile::remove(drawing);
        answerFile(drawing);
        pick("Save the page as a drawing");
        QTRY_VERIFY(QFile::exists(drawing));
        QFile svg(drawing);
        QVERIFY(svg.open(QIODevice::ReadOnly) && svg.readAll().contains("</svg>"));
        QFile bad(folder_.filePath("bad.surface.json"));
        QVERIFY(bad.open(QIODevice::WriteOnly) && bad.write("{}") == 2);
        bad.close();
        said_.clear();
        dropFile(canvas(), bad.fileName());
        QTRY_VERIFY(said_.contains("no touch surface"));
        // PINs live in devices: without one it says so.
        said_.clear();
        pick("PIN of a role on the devices");
        QVERIFY(said_.contains("no role"));
        session().edit(project::setRoles(state().place().surface, {"Technician"}));
        pick("PIN of a role on the devices");
        QVERIFY(said_.contains("reached and open"));
    }
    void picturesAreScaledBeside() {
        answer(q(project().device("tern-slate")->name));
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        QImage wide(1600, 1200, QImage::Format_RGB32);
        wide.fill(Qt::darkCyan);
        const QString file = folder_.filePath("wide.png");
        QVERIFY(wide.save(file));
        answerFile(file);
        pick("A picture from a file");
        QTRY_COMPARE(one("picture").pictures.always, std::string("wide.png"));
        auto* size = view<PageList>()->findChild<QLabel*>("surfaceSize");
        QTRY_VERIFY2(size->text().contains("7.7 of 48 MB"), qPrintable(size->text()));
        QCOMPARE(int(one("picture").width), 1067); // as large as the page
        // Not drawn at once: decoded beside the window, then told.
        settlePictures();
        QVERIFY(!pictureAt(project(), "wide.png", {1067, 800}).isNull() || [&] {
            settlePictures();
            return !pictureAt(project(), "wide.png", {1067, 800}).isNull();
        }());
        session().edit(project::resizeControl(state().place(), one("picture").id, 0, 0, 400, 300, false));
        state().chooseControls({one("picture").id});
        pick("Scale the chosen pictures");
        QVERIFY(view<SurfacesPage>()->scaler().busy());
        QTRY_VERIFY_WITH_TIMEOUT(!view<SurfacesPage>()->scaler().busy(), 10000);
        const auto name = one("picture").pictures.always;
        const auto now = project::pictureSize(project().assets.at(name));
        QVERIFY(now && now->width == 400 && now->height == 300);
        QTRY_VERIFY2(size->text().contains("0.5 of 48 MB"), qPrintable(size->text()));
        said_.clear();
        pick("Scale the chosen pictures");
        QVERIFY(said_.contains("no larger"));
        // From the clipboard.
        QImage small(40, 30, QImage::Format_RGB32);
        small.fill(Qt::red);
        QGuiApplication::clipboard()->setImage(small);
        state().chooseControls({});
        pick("Paste a picture");
        QTRY_COMPARE(state().page()->plies[0].controls.size(), std::size_t(2));
    }
    void windowsAreKeptAsTheyWereLeft() {
        answer(q(project().device("tern-slate")->name));
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        press("useHere");
        auto* window = view<SurfaceWindow>();
        QVERIFY(QTest::qWaitForWindowExposed(window));
        window->resize(700, 500);
        QTimer::singleShot(100, this, [] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            QVERIFY(menu && menu->actions().size() == 4);
            menu->setActiveAction(menu->actions().first());
            QTest::keyClick(menu, Qt::Key_Return);
        });
        QTest::mouseClick(window->findChild<QPushButton*>("surfaceManners"), Qt::LeftButton);
        QVERIFY(window->manner().inFront);
        QVERIFY(window->windowFlags() & Qt::WindowStaysOnTopHint);
        QVERIFY(window->isVisible());
        QVERIFY(w_->commands().run("surfaces.window.pointer"));
        QCOMPARE(window->face()->cursor().shape(), Qt::BlankCursor);
        QTest::keyClick(window->face(), Qt::Key_F11);
        QVERIFY(window->isFullScreen());
        QTest::keyClick(window->face(), Qt::Key_F11);
        QVERIFY(!window->isFullScreen());
        QTest::mouseClick(window->findChild<QPushButton*>("surfaceClose"), Qt::LeftButton);
        QTRY_VERIFY(!view<SurfaceWindow>());
        press("useHere");
        window = view<SurfaceWindow>();
        QVERIFY(window->manner().inFront && window->manner().noPointer && !window->manner().bare &&
                !window->manner().full);
        QCOMPARE(window->size(), QSize(700, 500));
        window->setManner({});
        QVERIFY(!(window->windowFlags() & Qt::WindowStaysOnTopHint));
        QTest::keyClick(window->face(), Qt::Key_Escape);
        QTRY_VERIFY(!view<SurfaceWindow>());
        said_.clear();
        pick("The surface in use: full screen");
        QVERIFY(said_.contains("not in use"));
        // For operators: nothing but the surface, and no way out but its frame.
        SurfaceWindow alone(session(), project().surfaces[0].id, nullptr, SurfaceWindow::For::operators);
        alone.setAttribute(Qt::WA_DeleteOnClose, false);
        alone.show();
        QVERIFY(QTest::qWaitForWindowExposed(&alone));
        for (auto* b : alone.findChildren<QPushButton*>())
            QVERIFY(!b->isVisible());
        QTest::keyClick(alone.face(), Qt::Key_Escape);
        QVERIFY(alone.isVisible());
    }
    // Served to this computer's browsers, and shown as a QR code to phones.
    void onThePhoneOfSomebody() {
        answer(q(project().device("tern-slate")->name));
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        press("onPhone");
        auto* card = view<PhoneCard>();
        if (!card) { // no network here, and it says so
            QVERIFY(said_.contains("no network"));
            return;
        }
        auto& share = view<SurfacesPage>()->share();
        QVERIFY(share.running() && share.onNetwork() && card->isVisible());
        const auto address = share.address(project().surfaces[0].id);
        QVERIFY(card->accessibleName().contains(address) && address.endsWith("/s/" + q(project().surfaces[0].id)));
        QTcpSocket socket;
        const QUrl url(address);
        socket.connectToHost(url.host(), static_cast<quint16>(url.port()));
        QVERIFY(socket.waitForConnected(3000));
        socket.write("GET / HTTP/1.1\r\nHost: " + url.host().toUtf8() + "\r\n\r\n");
        QByteArray got;
        QTRY_VERIFY((got += socket.readAll()).contains("/app.js"));
        QTest::mouseClick(card->findChild<QPushButton*>("phoneStop"), Qt::LeftButton);
        QTRY_VERIFY(!view<PhoneCard>() && !share.running());
    }
    void toldToAssistivePrograms() {
        answer(q(project().device("plover-slate")->name));
        pick("New touch surface");
        QTRY_COMPARE(project().surfaces.size(), std::size_t(1));
        drop(driveMime, path("preamp chair gain"), {300, 300});
        const auto parts = canvas()->paintedParts();
        QCOMPARE(parts.size(), std::size_t(1));
        QVERIFY(parts[0].name.startsWith("Fader") && parts[0].chosen && !parts[0].value.isEmpty());
        canvas()->setFocus();
        QTest::keyClick(canvas(), Qt::Key_Escape);
        QVERIFY(state().chosen().empty());
        QTest::keyClick(canvas(), Qt::Key_Tab);
        QCOMPARE(state().chosen().size(), std::size_t(1));
    }
};
LOOM_TEST(tst_surfaces_page, TestSurfacesPage)
#include "tst_surfaces_page.moc"
