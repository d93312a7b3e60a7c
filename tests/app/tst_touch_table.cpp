// Every kind of control in the window, by the table that a browser plays too (tests/browser).
#include "app/surfaces/surface_painter.h"
#include "app/surfaces/surface_pictures.h"
#include "app/surfaces/surface_window.h"
#include "model/describe.h"
#include "models.h"
#include "schema/json_text.h"
#include "surface/letters.h"
#include "surface/over.h"
#include "surface/page_svg.h"
#include "test.h"
#include "window_test.h"
#include <QFile>
#include <QPainter>
#include <QProcess>
#include <QStandardPaths>

using namespace loom;
using namespace loom::app;
using nlohmann::json;

class TestTouchTable : public WindowTest {
    Q_OBJECT
    json table_;
    std::unique_ptr<SurfaceWindow> window_;
    SurfaceFace* face() { return window_->face(); }
    project::SurfaceUse& use() { return face()->use(); }
    const project::Control& control(const std::string& id) { return *use().page()->control(id); }
    std::string text(const std::string& id) { return use().shown(control(id)).text; }
    QPoint spot(const project::Control& c, double x, double y) {
        return face()->toView({c.x + c.width * x, c.y + c.height * y}).toPoint();
    }
    void tap(const QPoint& at) { QTest::mouseClick(face(), Qt::LeftButton, {}, at); }
    QPoint middleOf(const project::Sketch& sketch, int part, double x = 0, double y = 0) {
        for (const auto& m : sketch.marks)
            if (m.part == part)
                return face()->toView({x + m.x.at + m.width.at / 2, y + m.y.at + m.height.at / 2}).toPoint();
        qFatal("no part %d", part);
    }
    void play(const json& step, const project::Control& c) {
        const auto what = step[0].get<std::string>();
        const auto number = [&](std::size_t i) { return step[i].get<double>(); };
        if (what == "drag") {
            const auto a = spot(c, number(1), number(2)), b = spot(c, number(3), number(4));
            QTest::mousePress(face(), Qt::LeftButton, {}, a);
            for (int k = 1; k <= 8; ++k)
                QTest::mouseMove(face(), a + (b - a) * k / 8);
            QTest::mouseRelease(face(), Qt::LeftButton, {}, b);
        } else if (what == "tap") {
            tap(spot(c, number(1), number(2)));
        } else if (what == "down") {
            QTest::mousePress(face(), Qt::LeftButton, {}, spot(c, 0.5, 0.5));
        } else if (what == "up") {
            QTest::mouseRelease(face(), Qt::LeftButton, {}, spot(c, 0.5, 0.5));
        } else if (what == "slide-off") {
            QTest::mousePress(face(), Qt::LeftButton, {}, spot(c, 0.5, 0.5));
            QTest::mouseMove(face(), spot(c, 0.5, 3));
            QTest::mouseRelease(face(), Qt::LeftButton, {}, spot(c, 0.5, 3));
        } else if (what == "part") {
            tap(middleOf(project::sketchOf(use().project(), *use().surface(), *use().page(), c), step[1].get<int>(),
                         c.x, c.y));
        } else if (what == "over" && step[1] == "escape") {
            QTest::keyClick(face(), Qt::Key_Escape);
        } else if (what == "over") {
            const auto& keys = project::numberKeys();
            const auto at = std::find(keys.begin(), keys.end(), step[1].get<std::string>()) - keys.begin();
            tap(middleOf(*use().over(), static_cast<int>(at)));
        } else if (what == "over-part") {
            tap(middleOf(*use().over(), step[1].get<int>()));
        } else if (what == "answer") {
            QVERIFY(use().asked());
            QTest::keyClick(face(), step[1].get<bool>() ? Qt::Key_Return : Qt::Key_Escape);
        } else if (what == "key" || what == "keys") {
            if (!use().over())
                focus(c);
            const auto keys = step[1].get<std::string>();
            if (what == "keys")
                QTest::keyClicks(face(), q(keys));
            else
                QTest::keyClick(face(), keys == "Enter"  ? Qt::Key_Return
                                        : keys == "Left" ? Qt::Key_Left
                                                         : Qt::Key_Backspace);
        } else if (what == "set-off") {
            if (text(c.id) == "on")
                tap(spot(c, 0.5, 0.5));
        } else {
            QFAIL(what.c_str());
        }
    }
    void focus(const project::Control& c) { // Tab walks them
        for (int i = 0; i < 60 && face()->focusedControl() != c.id; ++i)
            QTest::keyClick(face(), Qt::Key_Tab);
        QCOMPARE(face()->focusedControl(), c.id);
    }

  private slots:
    void initTestCase() {
        beginAll();
        begin("surfaces");
        QFile file(LOOM_SOURCE_DIR "/tests/surface/touch_table.json");
        QVERIFY(file.open(QIODevice::ReadOnly));
        table_ = json::parse(file.readAll().toStdString());
        auto demo = *test::load(LOOM_SOURCE_DIR "/demo/marram-point");
        const auto surface = schema::fromJson<project::Surface>(table_["surface"]);
        QVERIFY2(bool(surface), surface ? "" : surface.error().text().c_str());
        demo.surfaces.push_back(*surface);
        session().edit(project::replaceProject(demo, "The table"));
        window_ = std::make_unique<SurfaceWindow>(session(), "table", nullptr);
        window_->setAttribute(Qt::WA_DeleteOnClose, false);
        window_->resize(1280, 960);
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    }
    // Both are drawn from the same sketches: shapes to the pixel, letters as each rasterises them.
    void looksTheSameInABrowser() {
        const auto driver = QStandardPaths::findExecutable("chromedriver");
        if (driver.isEmpty())
            QSKIP("there is no chromedriver");
        const QString shot = folder_.filePath("shot.png");
        QProcess shoot;
        shoot.start("python3", {LOOM_SOURCE_DIR "/tests/browser/shoot.py", LOOMCTL, LOOM_SOURCE_DIR, shot});
        QVERIFY(shoot.waitForFinished(60000));
        const QImage there(shot);
        QVERIFY2(there.size() == QSize(1280, 900), shoot.readAllStandardError().constData());
        QImage here(1280, 900, QImage::Format_RGB32), letters(1280, 900, QImage::Format_Grayscale8);
        letters.fill(0);
        for (int turn = 0; turn < 2; ++turn) { // the first asks for the pictures
            QPainter p(&here);
            p.setRenderHint(QPainter::Antialiasing);
            paintPage(p, use().project(), use());
            settlePictures();
        }
        QPainter mask(&letters);
        for (const auto& ply : use().page()->plies)
            for (const auto& c : ply.controls) {
                if (c.kind == "picture") // an SVG is drawn by two libraries
                    mask.fillRect(QRectF(c.x, c.y, c.width, c.height), Qt::white);
                for (const auto& m : project::sketchOf(use().project(), *use().surface(), *use().page(), c).marks)
                    if (m.kind == project::Mark::Kind::text)
                        mask.fillRect(QRectF(c.x + m.x.at, c.y + m.y.at, m.width.at, m.height.at), Qt::white);
            }
        mask.end();
        int shapes = 0, all = 0, far = 0;
        for (int y = 0; y < here.height(); ++y)
            for (int x = 0; x < here.width(); ++x) {
                const QColor a(here.pixel(x, y)), b(there.pixel(x, y));
                const int apart = std::max(
                    {std::abs(a.red() - b.red()), std::abs(a.green() - b.green()), std::abs(a.blue() - b.blue())});
                all += apart > 24;
                if (qGray(letters.pixel(x, y)) == 0) {
                    shapes += apart > 24;
                    far += apart > 110; // more than an edge that is smoothed otherwise
                }
            }
        const double pixels = here.width() * here.height();
        qInfo("apart: %.3f %% of pixels, %.3f %% beside letters, %d by more than an edge", 100 * all / pixels,
              100 * shapes / pixels, far);
        QVERIFY2(shapes / pixels < 0.002, std::to_string(shapes).c_str());
        QVERIFY2(all / pixels < 0.02, std::to_string(all).c_str());
        QVERIFY2(far < 60, std::to_string(far).c_str());
    }
    // The drawing of a page, by somebody else's hand: Chromium opens it.
    void looksTheSameAsADrawing() {
        if (QStandardPaths::findExecutable("chromedriver").isEmpty())
            QSKIP("there is no chromedriver");
        const QString svg = folder_.filePath("page.svg"), shot = folder_.filePath("drawn.png");
        QFile file(svg);
        QVERIFY(file.open(QIODevice::WriteOnly) &&
                file.write(QByteArray::fromStdString(project::pageSvg(use()))) > 1000);
        file.close();
        QProcess shoot;
        shoot.start("python3", {LOOM_SOURCE_DIR "/tests/browser/shoot.py", LOOMCTL, LOOM_SOURCE_DIR, shot, svg});
        QVERIFY(shoot.waitForFinished(60000));
        const QImage there(shot);
        QVERIFY2(there.size() == QSize(1280, 900), shoot.readAllStandardError().constData());
        QImage here(1280, 900, QImage::Format_RGB32);
        for (int turn = 0; turn < 2; ++turn) {
            QPainter p(&here);
            p.setRenderHint(QPainter::Antialiasing);
            paintPage(p, use().project(), use());
            settlePictures();
        }
        int far = 0;
        for (int y = 0; y < here.height(); ++y)
            for (int x = 0; x < here.width(); ++x)
                far += std::abs(qGray(here.pixel(x, y)) - qGray(there.pixel(x, y))) > 40;
        const double share = far / (1280.0 * 900);
        qInfo("apart: %.2f %% of pixels, with the browser's own letters", 100 * share);
        QVERIFY2(share < 0.03, std::to_string(share).c_str());
    }
    // What the core reckons of a text is what the window draws: never narrower by 2 %, wider by kerning alone.
    void textsAreAsWideAsTheyAreReckoned() {
        for (const char* text : {"Council Hall", "Microphones away", "AVATAR To We Yo", "Tern lectern", "\u221213 dB",
                                 "Stra\u00dfe, \u00c5ngstr\u00f6m"})
            for (const bool bold : {false, true})
                for (const bool figures : {false, true}) {
                    if (figures && bold)
                        continue;
                    QFont f(figures ? "JetBrains Mono" : "Manrope");
                    f.setPixelSize(40);
                    f.setWeight(bold ? QFont::Bold : figures ? QFont::Normal : QFont::Medium);
                    const double is = QFontMetricsF(f).horizontalAdvance(QString::fromUtf8(text));
                    const double reckoned = project::textWidth(text, 40, bold, figures);
                    QVERIFY2(std::abs(is - reckoned) <= 0.06 * reckoned && is <= reckoned * 1.02 + 0.5,
                             (std::string(text) + " " + std::to_string(is) + " " + std::to_string(reckoned)).c_str());
                    project::Mark m;
                    m.size = 40, m.bold = bold, m.figures = figures;
                    const auto set = project::setText(m, text, 2000, 100);
                    QVERIFY(std::abs(set.high - QFontMetricsF(f).height()) <= 1.5);
                    QVERIFY(std::abs(set.ascent - QFontMetricsF(f).ascent()) <= 1.5);
                }
    }
    void everyCase_data() {
        QTest::addColumn<int>("number");
        for (std::size_t i = 0; i < table_["cases"].size(); ++i) {
            const auto& c = table_["cases"][i];
            QTest::newRow((c["control"].get<std::string>() + ", " + c["why"].get<std::string>()).c_str())
                << static_cast<int>(i);
        }
    }
    void everyCase() {
        QFETCH(int, number);
        const auto& one = table_["cases"][static_cast<std::size_t>(number)];
        const auto id = one["control"].get<std::string>();
        for (const auto& step : one["do"])
            play(step, control(id));
        if (one.contains("text"))
            QCOMPARE(text(id + "-value"), one["text"].get<std::string>());
        if (one.contains("own"))
            QCOMPARE(text(id), one["own"].get<std::string>());
        if (one.contains("choice"))
            QCOMPARE(text(id + "-value"), table_["choices"][id][one["choice"].get<std::size_t>()].get<std::string>());
    }
    void everyKindIsInTheTable() {
        std::set<std::string> kinds;
        for (const auto& ply : use().page()->plies)
            for (const auto& c : ply.controls)
                kinds.insert(c.kind);
        for (const auto& k : project::controlKinds())
            QVERIFY2(kinds.count(k.id), k.id.c_str());
    }
    void cleanupTestCase() {
        window_.reset();
        end();
    }
};

LOOM_TEST(tst_touch_table, TestTouchTable)
#include "tst_touch_table.moc"
