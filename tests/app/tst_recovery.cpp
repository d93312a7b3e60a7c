// Unsaved work through kills of the real window's process; two windows on one project.
#include "app/window_test.h"
#include "models.h"
#ifndef Q_MOC_RUN
#include "app/shell/end_signals.h"
#include "disk/safe_file.h"
#include "file/journal.h"
#include "file/project_json.h"
#include "rooms/plan_items.h"
#include "voicings/voicing_edit.h"
#endif
#include "test.h"
#include <QApplication>
#include <csignal>
#include <fstream>
#include <sys/wait.h>
#include <unistd.h>

using namespace loom::app;
using namespace loom;

namespace {

using Work = std::function<void(loom::app::Session&)>;

const std::string demo = LOOM_HALL;

// Every kind of edit there is, and how one sees that it was recovered: by comparing all of the project.
const std::pair<const char*, Work> kinds[] = {
    {"a value", [](auto& s) { s.set("chair.eq", "2.gain", -7.5); }},
    {"several values",
     [](auto& s) {
         s.setAll({{"chair.eq.2.gain", -2}, {"chair.eq.3.gain", 3}}, "Set");
     }},
    {"a program", [](auto& s) { s.reshape("chair.eq", "bands", 6); }},
    {"a renamed room",
     [](auto& s) { s.edit(std::move(*project::setField(s.project(), {"room:tern"}, "name", "Gull Room"))); }},
    {"an address",
     [](auto& s) { s.edit(std::move(*project::setField(s.project(), {"device:heddle"}, "address", "10.9.8.7"))); }},
    {"notes of a device",
     [](auto& s) { s.edit(project::changeDevice("heddle", "Notes", [](auto& d) { d.notes = "n"; })); }},
    {"a new device",
     [](auto& s) {
         auto d = *s.project().device("heddle");
         d.id = "second", d.name = "Second", d.address.clear();
         s.edit(project::setDevices({{"second", d}}, "Add"));
     }},
    {"a device that goes",
     [](auto& s) {
         s.edit(project::setDevices({{"column-l", std::nullopt}}, "Remove"));
     }},
    {"a moved room", [](auto& s) { s.edit(project::moveItems(s.project(), {"room:tern"}, 1, 2)); }},
    {"a moved device", [](auto& s) { s.edit(project::moveItems(s.project(), {"device:column-l"}, 0.5, 0)); }},
    {"a file", [](auto& s) { s.edit(project::addAsset("new.wav", std::vector<char>(70000, 'x'))); }},
    {"a finding left",
     [](auto& s) {
         s.edit(project::leaveFinding({"goes-nowhere", "heddle", "spare", "later"}));
     }},
    {"the project's name", [](auto& s) { s.edit(project::renameProject("Another name")); }},
    {"what a device was told",
     [](auto& s) {
         s.note(
             project::changeDevice("heddle", "Note", [](auto& d) { d.known.sent = d.program, d.known.revision = 3; }));
     }},
    {"several at once",
     [](auto& s) {
         std::vector<project::Edit> all;
         all.push_back(project::renameProject("Both"));
         all.push_back(project::addAsset("b.wav", {'b'}));
         s.edit(project::together(std::move(all), "Both"));
     }},
};

} // namespace

class TestRecovery : public WindowTest {
    Q_OBJECT
    QString file(const char* name) const { return folder_.filePath(name); }
    // Does the work in a process of its own, which is killed once its journal is written, or asked to end as soon as
    // the work is done; gives what it had made.
    project::Project killedWhileWorking(const QString& path, const Work& work, bool& written, int signal = SIGKILL) {
        const QString result = file("result.loom");
        QFile::remove(result);
        const pid_t child = ::fork();
        if (child == 0) {
            // A fresh program: nothing of this process's Qt is used.
            const QByteArray self = QCoreApplication::applicationFilePath().toUtf8();
            for (std::size_t k = 0; k < std::size(kinds); ++k)
                if (&kinds[k].second == &work) {
                    const QByteArray number = QByteArray::number(static_cast<int>(k));
                    ::execl(self.data(), self.data(), "work", number.data(), path.toUtf8().data(),
                            result.toUtf8().data(), nullptr);
                }
            ::_exit(9);
        }
        const QString journal = QString::fromStdString(path.isEmpty() ? "" : project::journalPath(path.toStdString()));
        QElapsedTimer clock;
        clock.start();
        const auto there = [&] {
            return path.isEmpty()
                       ? !QDir(folder_.path() + "/nimble-loom").entryList({"unnamed-*"}, QDir::Dirs).isEmpty() &&
                             QFile::exists(
                                 folder_.path() + "/nimble-loom/" +
                                 QDir(folder_.path() + "/nimble-loom").entryList({"unnamed-*"}, QDir::Dirs).first() +
                                 "/work.json")
                       : QFile::exists(journal + "/work.json");
        };
        while (!((there() || signal != SIGKILL) && QFile::exists(result)) && clock.elapsed() < 20000)
            QTest::qWait(signal == SIGKILL ? 20 : 1);
        written = signal != SIGKILL || there();
        ::kill(child, signal);
        int end = 0;
        ::waitpid(child, &end, 0);
        if (signal != SIGKILL) // it ended by itself, with its work written down
            written = there() && WIFEXITED(end) && WEXITSTATUS(end) == 128 + signal;
        const auto made = test::load(result.toStdString());
        return made ? *made : project::Project{};
    }
    QString copyOfDemo(const char* name) {
        const auto p = test::load(demo);
        const QString path = file(name);
        QDir(path).removeRecursively();
        QFile::remove(path);
        (void)bool(project::saveProject(*p, (QString(name).endsWith(".loom") ? path : path + "/").toStdString()));
        return path;
    }
  private slots:
    void initTestCase() { beginAll(); }

    void everyKindOfEditSurvivesAKill_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<QString>("name");
        for (std::size_t k = 0; k < std::size(kinds); ++k)
            for (const char* name : {"k.loom", "folder"})
                QTest::newRow(qPrintable(QString("%1, %2").arg(kinds[k].first, name))) << static_cast<int>(k) << name;
    }
    void everyKindOfEditSurvivesAKill() {
        QFETCH(int, kind);
        QFETCH(QString, name);
        const QString path = copyOfDemo(qPrintable(name));
        const auto before = *test::load(path.toStdString());
        bool written = false;
        const auto made = killedWhileWorking(path, kinds[kind].second, written);
        QVERIFY(written);
        QVERIFY(project::contentStamp(made) != project::contentStamp(before)); // the work did something
        loom::app::Session s;
        QVERIFY(s.open(path));
        QVERIFY(project::toJson(s.project()) == project::toJson(made) && s.project().assets == made.assets);
        QVERIFY(s.dirty() && s.history().canUndo());
        s.undo(); // one step
        QVERIFY(project::toJson(s.project()).at("buildings") == project::toJson(before).at("buildings"));
        QVERIFY(s.project().assets == before.assets && !s.history().canUndo());
    }
    // A session that closes: nothing of the last second is lost.
    void askedToEnd() {
        const QString path = copyOfDemo("term.loom");
        bool written = false;
        const auto made = killedWhileWorking(path, kinds[3].second, written, SIGTERM);
        QVERIFY(written);
        loom::app::Session s;
        QVERIFY(s.open(path) && s.dirty());
        QVERIFY(project::toJson(s.project()) == project::toJson(made));
        s.discard();
    }
    // Undone work is gone, also after the next start; saved work is not recovered; what is declined does not come back.
    void whatIsDeclinedStaysAway() {
        const QString path = copyOfDemo("declined.loom");
        bool written = false;
        killedWhileWorking(path, kinds[3].second, written);
        QVERIFY(written);
        {
            loom::app::Session s;
            QVERIFY(s.open(path) && s.dirty());
            s.undo();
            QVERIFY(!s.dirty());
        }
        loom::app::Session again;
        QVERIFY(again.open(path));
        QVERIFY(!again.dirty() && again.project().room("tern")->name == "Tern Room");
        QVERIFY(again.edit(project::renameProject("kept")) && again.save());
        QVERIFY(!QFile::exists(QString::fromStdString(project::journalPath(path.toStdString()))));
    }
    // Saved by something else since: the work replaces nothing, and is not lost.
    void staleWorkBecomesAFileOfItsOwn() {
        for (const char* name : {"stale.loom", "stale"}) {
            const QString path = copyOfDemo(name);
            bool written = false;
            const auto made = killedWhileWorking(path, kinds[3].second, written);
            QVERIFY(written);
            auto other = *test::load(path.toStdString());
            other.name = "Saved by somebody else";
            QVERIFY(bool(project::saveProject(other, path.toStdString())));
            loom::app::Session s;
            QString said;
            connect(&s, &loom::app::Session::said, this, [&](const QString& t) { said = t; });
            QVERIFY(s.open(path));
            QVERIFY(!s.dirty() && s.project().name == other.name && s.project().room("tern")->name == "Tern Room");
            const auto aside = QDir(folder_.path()).entryList({QFileInfo(path).completeBaseName() + ", unsaved*.loom"});
            QCOMPARE(aside.size(), 1);
            QVERIFY2(said.contains(aside.first()), qPrintable(said));
            QVERIFY(project::toJson(*test::load(file(qPrintable(aside.first())).toStdString())) ==
                    project::toJson(made));
            QFile::remove(file(qPrintable(aside.first())));
        }
    }
    void workWithoutANameIsKept() {
        bool written = false;
        const auto made = killedWhileWorking("", kinds[12].second, written);
        QVERIFY(written);
        loom::app::Session s;
        QVERIFY(s.recoverUnnamed());
        QCOMPARE(s.project().name, std::string("Another name"));
        QVERIFY(s.dirty() && s.path().isEmpty());
        s.discard();
        QVERIFY(!loom::app::Session().recoverUnnamed());
    }
    void theSecondWindowOnlyReads() {
        const QString path = copyOfDemo("two.loom");
        auto first = std::make_unique<loom::app::Session>();
        QVERIFY(first->open(path) && !first->readingOnly());
        QVERIFY(first->edit(project::renameProject("the first one's")));
        loom::app::Session second;
        QString said;
        connect(&second, &loom::app::Session::said, this, [&](const QString& t) { said = t; });
        bool shown = false; // what the top bar reads when it is told
        connect(&second, &loom::app::Session::fileChanged, this, [&] { shown = second.readingOnly(); });
        QVERIFY(second.open(path) && second.readingOnly() && shown);
        QVERIFY2(said.contains("reading only") && said.contains("since"), qPrintable(said));
        QVERIFY(!second.edit(project::renameProject("the second one's")) &&
                second.project().name != "the second one's");
        QVERIFY(!second.save());
        QVERIFY(second.saveAs(file("copy.loom")) && !second.readingOnly()); // a copy is one's own
        QVERIFY(second.edit(project::renameProject("the copy")) && second.save());
        QVERIFY(!second.saveAs(path)); // still the first one's
        QVERIFY(first->save());
        QCOMPARE(test::load(path.toStdString())->name, std::string("the first one's"));
        const auto good = *loom::project::readWhole(path.toStdString(), 1 << 26);
        std::ofstream(path.toStdString()) << "damaged"; // opening it again fails, and it is still the first one's
        QVERIFY(!first->open(path) && loom::project::ProjectLock::take(path.toStdString()).other());
        std::ofstream(path.toStdString()) << good;
        first.reset();
        QVERIFY(second.open(path) && !second.readingOnly());
    }
    void whatChangedMeanwhileIsNotReplaced() {
        const QString path = copyOfDemo("meanwhile.loom");
        loom::app::Session s;
        QVERIFY(s.open(path) && s.edit(project::renameProject("mine")));
        auto other = *test::load(path.toStdString());
        QVERIFY(bool(project::saveProject(other, path.toStdString()))); // written anew, but the same
        QVERIFY(s.save());
        other.name = "theirs";
        QVERIFY(bool(project::saveProject(other, path.toStdString())));
        QVERIFY(s.edit(project::renameProject("mine again")));
        QVERIFY(!s.save());
        QCOMPARE(test::load(path.toStdString())->name, std::string("theirs"));
        QVERIFY(s.saveAs(file("elsewhere.loom")));
    }
    // The journal is written while work goes on, not when it pauses.
    void writtenWhileWorkGoesOn() {
        const QString path = copyOfDemo("busy.loom");
        loom::app::Session s;
        QVERIFY(s.open(path));
        QElapsedTimer clock;
        clock.start();
        const QString work = QString::fromStdString(project::journalPath(path.toStdString())) + "/work.json";
        for (int i = 0; clock.elapsed() < 10000 && !QFile::exists(work); ++i) {
            s.set("chair.eq", "2.gain", i % 10, true);
            QTest::qWait(20);
        }
        QVERIFY(QFile::exists(work)); // by a pause it would have come never
        qInfo("written after %lld ms of edits", static_cast<long long>(clock.elapsed()));
    }
};

// As the process that is killed: works, says what it made, and waits for its end.
static int work(int kind, const QString& path, const QString& result) {
    loom::app::MainWindow window;
    window.show();
    loom::app::keepWorkOnSignals(window.session());
    if (path.isEmpty())
        window.session().startEmpty();
    else if (!window.session().open(path))
        return 3;
    kinds[kind].second(window.session());
    (void)bool(project::saveProject(window.session().project(), result.toStdString()));
    return QApplication::exec();
}

static const bool workAdded = loom::test::add(
    "work", [](int argc, char** argv) { return argc == 4 ? work(std::atoi(argv[1]), argv[2], argv[3]) : 2; });
LOOM_TEST(tst_recovery, TestRecovery)
#include "tst_recovery.moc"
