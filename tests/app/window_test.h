// What tests of the window have in common: the window itself, keys, the mouse, dialogs that are answered.
#pragma once
#include "app/shell/accessible.h"
#include "app/shell/finder.h"
#include "app/shell/findings_watch.h"
#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include "models.h"
#ifndef Q_MOC_RUN
#include "file/store.h"
#endif
#include <QApplication>
#include <QComboBox>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QFile>
#include <QFileDialog>
#include <QFrame>
#include <QLineEdit>
#include <QMimeData>
#include <QMouseEvent>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <functional>

namespace loom::app {

class WindowTest : public QObject {
  protected:
    QTemporaryDir folder_;
    std::unique_ptr<MainWindow> w_;
    QString said_; // the last line at the foot of the window

    Session& session() { return w_->session(); }
    template <class View> View* view() { return w_->findChild<View*>(); }
    const project::Project& project() { return session().project(); }

    void beginAll() {
        QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, folder_.path());
        qputenv("XDG_DATA_HOME", folder_.path().toUtf8());
        qputenv("XDG_STATE_HOME", folder_.path().toUtf8());
        Theme::loadFonts();
        installAccessibility();
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
    }
    void begin(const QString& stage) {
        w_ = std::make_unique<MainWindow>();
        w_->resize(1280, 800);
        w_->show();
        QVERIFY(QTest::qWaitForWindowExposed(w_.get()));
        w_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(w_.get()));
        connect(&session(), &Session::said, this, [this](const QString& t) { said_ = t; });
        said_.clear();
        w_->showStage(stage);
    }
    void end() {
        Theme::get().setPercent(100);
        if (w_)
            session().discard(); // else the next window would recover it
        w_.reset();
    }
    // Opens a project from a file of its own.
    void open(const project::Project& p, const char* name) {
        const QString file = folder_.filePath(QString(name) + ".loom");
        QFile::remove(file);
        QDir(file + ".autosave").removeRecursively();
        QVERIFY(bool(project::saveProject(p, file.toStdString())));
        QVERIFY(session().open(file));
    }
    void openDemo() {
        const auto demo = test::load(LOOM_HALL);
        QVERIFY(bool(demo));
        open(*demo, "demo");
    }
    void press(const char* name) {
        auto* b = w_->findChild<QPushButton*>(name);
        QVERIFY2(b && b->isVisible() && b->isEnabled(), name);
        QTest::mouseClick(b, Qt::LeftButton);
    }
    void activate() { // a dialog may have had it
        w_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(w_.get()));
    }
    // Find or do: types words, takes the first.
    void pick(const QString& words) {
        activate();
        QTest::keyClick(w_.get(), Qt::Key_K, Qt::ControlModifier);
        auto* field = w_->findChild<Finder*>()->findChild<QLineEdit*>();
        QTest::keyClicks(field, words);
        QTest::keyClick(field, Qt::Key_Return);
    }
    // Findings are worked out on a worker, a little after what they are of.
    void waitForFinding(const std::string& reason) {
        const auto* watch = w_->findChild<FindingsWatch*>();
        QTRY_VERIFY2(std::any_of(watch->found().begin(), watch->found().end(),
                                 [&](const auto& f) { return f.reason.find(reason) != std::string::npos; }),
                     reason.c_str());
    }
    // Waits for a dialog that a later step opens, and does something with it.
    template <class Dialog> void whenOpen(std::function<void(Dialog*)> what) {
        auto* wait = new QTimer(this);
        const int until = 250; // 5 s
        connect(wait, &QTimer::timeout, this, [wait, what, tries = 0]() mutable {
            auto* dialog = qobject_cast<Dialog*>(QApplication::activeModalWidget());
            if (!dialog && ++tries < until)
                return;
            wait->stop();
            wait->deleteLater();
            QVERIFY2(dialog, "no dialog came");
            what(dialog);
        });
        wait->start(20);
    }
    QFrame* asked() { // the question that is open; null: none
        for (auto* ask : w_->findChildren<QFrame*>("ask"))
            if (ask->isVisible())
                return ask;
        return nullptr;
    }
    // Answers the question that a later step asks, line by line; an empty answer leaves what stands there.
    void answer(const QStringList& lines, std::function<void()> before = {}) {
        auto* wait = new QTimer(this);
        const int until = 250; // 5 s
        connect(wait, &QTimer::timeout, this, [this, wait, lines, before, tries = 0]() mutable {
            auto* ask = asked();
            if (!ask && ++tries < until)
                return;
            wait->stop();
            wait->deleteLater();
            QVERIFY2(ask, "nothing was asked");
            for (int i = 0; i < lines.size(); ++i) {
                auto* field = ask->findChild<QWidget*>(QString("answer%1").arg(i));
                QVERIFY(field);
                if (lines[i].isEmpty())
                    continue;
                if (auto* text = qobject_cast<QLineEdit*>(field))
                    text->setText(lines[i]);
                else if (auto* list = qobject_cast<QComboBox*>(field); list->findText(lines[i]) >= 0)
                    list->setCurrentText(lines[i]);
                else
                    list->setEditText(lines[i]);
            }
            if (before)
                before();
            QTest::mouseClick(ask->findChild<QPushButton*>("take"), Qt::LeftButton);
        });
        wait->start(20);
    }
    void answer(const QString& line) { answer(QStringList(line)); }
    void answerFile(const QString& path) {
        whenOpen<QFileDialog>([path](QFileDialog* dialog) {
            auto* name = dialog->findChild<QLineEdit*>("fileNameEdit");
            QVERIFY(name);
            name->setText(path);
            QTest::keyClick(name, Qt::Key_Return);
        });
    }
    void dropFile(QWidget* on, const QString& file) {
        QMimeData mime;
        mime.setUrls({QUrl::fromLocalFile(file)});
        const QPointF at = on->rect().center();
        QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(on, &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(on, &drop);
    }
    void typeInto(QLineEdit* edit, const QString& text) {
        QVERIFY(edit);
        edit->setFocus();
        edit->selectAll();
        QTest::keyClicks(edit, text);
        QTest::keyClick(edit, Qt::Key_Return);
    }
    void dragOn(QWidget* widget, const QPointF& from, const QPointF& to) {
        QTest::mousePress(widget, Qt::LeftButton, {}, from.toPoint());
        for (int i = 1; i <= 8; ++i) {
            const QPointF p = from + (to - from) * i / 8;
            QMouseEvent move(QEvent::MouseMove, p, widget->mapToGlobal(p), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(widget, &move);
        }
        QTest::mouseRelease(widget, Qt::LeftButton, {}, to.toPoint());
    }
};

} // namespace loom::app
