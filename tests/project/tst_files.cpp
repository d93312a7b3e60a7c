// Projects on disk: round trips, versions, damage, kills.
#include "project/json.h"
#include "project/safe_file.h"
#include "project/store.h"
#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <fstream>
#include <sys/wait.h>
#include <unistd.h>

using namespace loom::project;

namespace {
const std::string demo = LOOM_SOURCE_DIR "/demo/marram-point";
}

class TestFiles : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::string at(const char* name) const { return folder_.filePath(name).toStdString(); }

  private slots:
    void demoRoundTrip() {
        const auto p = loadProject(demo);
        QVERIFY2(bool(p), p ? "" : p.trouble().text().c_str());
        QVERIFY(bool(saveProject(*p, at("a.loom"))));
        const auto q = loadProject(at("a.loom"));
        QVERIFY(q && toJson(*q) == toJson(*p) && q->assets == p->assets);
        QVERIFY(bool(saveProject(*q, at("folder/"))));
        const auto r = loadProject(at("folder"));
        QVERIFY(r && toJson(*r) == toJson(*p) && r->assets == p->assets);
    }
    void unknownFieldsSurvive() {
        auto j = toJson(*loadProject(demo));
        j["later"] = {{"deep", {1, 2, 3}}};
        j["devices"][0]["colourOfKnobs"] = "blue";
        j["devices"][0]["program"]["mood"] = 3.5;
        j["devices"][0]["program"]["blocks"][1]["nextYear"] = nullptr;
        j["buildings"][0]["rooms"][0]["smell"] = true;
        const auto p = projectFromJson(j);
        QVERIFY(p && toJson(*p) == j);
    }
    void olderVersionIsBroughtUpToDate() {
        const auto p = loadProject(LOOM_SOURCE_DIR "/tests/samples/version-1");
        QVERIFY2(bool(p), p ? "" : p.trouble().text().c_str());
        QCOMPARE(p->buildings.size(), std::size_t(1));
        QCOMPARE(QString::fromStdString(p->buildings[0].rooms[0].name), QString("Sample Room"));
        QVERIFY(toJson(*p)["version"] == formatVersion);
    }
    void troubles_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("says");
        const auto row = [](const char* name, const char* text, const char* says) {
            QTest::newRow(name) << text << says;
        };
        row("not JSON", "{\"format\":", "is not JSON");
        row("other format", "{\"format\":\"x\"}", "not a Nimble Loom project");
        row("later version", R"({"format":"nimble-loom-project","version":99})", "newer Nimble Loom");
        row("huge version", R"({"format":"nimble-loom-project","version":1e300})", "whole number");
        row("wrong type", R"({"format":"nimble-loom-project","version":2,"devices":[{"id":4}]})", "/devices/0/id");
        row("bad thread",
            R"({"format":"nimble-loom-project","version":2,"devices":[{"id":"a","program":{"threads":[[["x",-1],["y",0]]]}}]})",
            "/devices/0/program/threads/0");
        row("bad rate", R"({"format":"nimble-loom-project","version":2,"devices":[{"id":"a","rate":1}]})",
            "/devices/0/rate");
        row("two devices", R"({"format":"nimble-loom-project","version":2,"devices":[{"id":"a"},{"id":"a"}]})",
            "two devices");
        row("bad value",
            R"({"format":"nimble-loom-project","version":2,"devices":[{"id":"a","program":{"blocks":[{"id":"b","kind":"eq","values":{"on":"yes"}}]}}]})",
            "values/on");
    }
    void troubles() {
        QFETCH(QString, text);
        QFETCH(QString, says);
        QDir().mkpath(folder_.filePath("bad"));
        QVERIFY(bool(writeWhole(at("bad/project.json"), text.toStdString(), false)));
        const auto p = loadProject(at("bad"));
        QVERIFY(!p);
        QVERIFY2(QString::fromStdString(p.trouble().text()).contains(says), p.trouble().text().c_str());
    }
    void deepNestingIsRefused() {
        QVERIFY(!parseJson(std::string(100000, '['), "x"));
        QVERIFY(!parseJson("{\"a\":" + std::string(100, '[') + std::string(100, ']') + "}", "x"));
    }
    void damagedArchives() {
        const auto bytes = *packProject(*loadProject(demo));
        for (const std::size_t keep : {std::size_t(0), std::size_t(10), bytes.size() / 2, bytes.size() - 5}) {
            const auto p = unpackProject(bytes.substr(0, keep), "cut.loom");
            QVERIFY(!p);
            QVERIFY(!p.trouble().remedy.empty());
        }
        unsigned seed = 7;
        for (int round = 0; round < 300; ++round) { // a flipped byte is an error or harmless, never a crash
            std::string hurt = bytes;
            seed = seed * 1664525u + 1013904223u;
            hurt[seed % hurt.size()] ^= static_cast<char>(1 + (seed >> 24) % 255);
            (void)bool(unpackProject(hurt, "hurt.loom"));
        }
    }
    void previousIsKept() {
        Project p;
        p.name = "one";
        QVERIFY(bool(saveProject(p, at("k.loom"))));
        p.name = "two";
        QVERIFY(bool(saveProject(p, at("k.loom"))));
        QCOMPARE(QString::fromStdString(loadProject(at("k.loom.previous"))->name), QString("one"));
    }
    void unwritablePlaceIsAnError() {
        const auto saved = saveProject(Project{}, "/nowhere/x.loom");
        QVERIFY(!saved && saved.trouble().text().find("/nowhere/x.loom") != std::string::npos);
    }
    void journal() {
        Project p = *loadProject(demo);
        const std::string path = at("j.loom");
        QVERIFY(bool(saveProject(p, path)));
        QVERIFY(!recoverJournal(p, path));
        Project changed = p;
        changed.name = "unsaved work";
        QVERIFY(bool(writeJournal(changed, path)));
        const auto back = recoverJournal(*loadProject(path), path);
        QVERIFY(back && back->name == "unsaved work" && back->assets == p.assets);
        QVERIFY(bool(saveProject(changed, path))); // saved since: the journal is old
        QVERIFY(!recoverJournal(changed, path));
        std::ofstream(journalPath(path)) << "{ broken";
        QVERIFY(!recoverJournal(p, path));
        dropJournal(path);
        QVERIFY(!QFile::exists(QString::fromStdString(journalPath(path))));
    }
    void killedWhileSaving() { // a child saves old and new in turn and is killed at a random moment
        const int kills =
            qEnvironmentVariableIntValue("LOOM_KILLS") > 0 ? qEnvironmentVariableIntValue("LOOM_KILLS") : 30;
        Project p;
        p.assets["noise"] = std::vector<char>(300000, 'n');
        const std::string path = at("kill.loom");
        QVERIFY(bool(saveProject(p, path)));
        int old = 0;
        for (int k = 0; k < kills; ++k) {
            const pid_t child = fork();
            if (child == 0)
                for (int i = 0;; ++i) {
                    p.name = "child " + std::to_string(i);
                    if (!saveProject(p, path))
                        _exit(1);
                }
            usleep(static_cast<useconds_t>(500 + (k * 7919) % 20000));
            kill(child, SIGKILL);
            waitpid(child, nullptr, 0);
            const auto q = loadProject(path);
            QVERIFY2(bool(q), q ? "" : q.trouble().text().c_str());
            QCOMPARE(q->assets.at("noise").size(), std::size_t(300000));
            old += q->name == "New project";
        }
        qInfo("%d kills, every file whole (%d still the first)", kills, old);
    }
};
QTEST_APPLESS_MAIN(TestFiles)
#include "tst_files.moc"
