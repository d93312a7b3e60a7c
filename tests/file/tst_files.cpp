// Projects on disk: round trips, versions, damage, kills.
#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the concepts of newer standard headers
#include "disk/safe_file.h"
#include "file/journal.h"
#include "file/project_json.h"
#include "file/store.h"
#include "model/asset_name.h"
#include "models.h"
#include "schema/json_text.h"
#include <atomic>
#include <thread>
#endif
#include "test.h"
#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QTemporaryDir>
#include <csignal>
#include <fstream>
#include <sys/stat.h>
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
        const auto p = loom::test::load(demo);
        QVERIFY2(bool(p), p ? "" : p.error().text().c_str());
        QVERIFY(bool(saveProject(*p, at("a.loom"))));
        const auto q = loom::test::load(at("a.loom"));
        QVERIFY(q && toJson(*q) == toJson(*p) && q->assets == p->assets);
        QVERIFY(bool(saveProject(*q, at("folder/"))));
        const auto r = loom::test::load(at("folder"));
        QVERIFY(r && toJson(*r) == toJson(*p) && r->assets == p->assets);
    }
    void unknownFieldsSurvive() {
        auto j = toJson(*loom::test::load(demo));
        j["later"] = {{"deep", {1, 2, 3}}};
        j["devices"][0]["colourOfKnobs"] = "blue";
        j["devices"][0]["program"]["mood"] = 3.5;
        j["devices"][0]["program"]["blocks"][1]["nextYear"] = nullptr;
        j["buildings"][0]["rooms"][0]["smell"] = true;
        const auto p = projectFromJson(j, loom::test::models());
        QVERIFY(p && toJson(*p) == j);
    }
    void olderVersionIsBroughtUpToDate() {
        const auto p = loom::test::load(LOOM_SOURCE_DIR "/tests/samples/version-1");
        QVERIFY2(bool(p), p ? "" : p.error().text().c_str());
        QCOMPARE(p->buildings.size(), std::size_t(1));
        QCOMPARE(QString::fromStdString(p->buildings[0].rooms[0].name), QString("Sample Room"));
        QVERIFY(toJson(*p)["version"] == formatVersion);
    }
    // Leads over the network became streams: one of a device, and receivers of what others took of it.
    void networkLeadsBecomeStreams() {
        const auto p = loom::test::load(LOOM_SOURCE_DIR "/tests/samples/version-2");
        QVERIFY2(bool(p), p ? "" : p.error().text().c_str());
        const auto& array = p->device("array")->streams;
        QVERIFY(array.size() == 1 && array[0].name == "Array-north");
        QCOMPARE(array[0].ports, (std::vector<std::string>{"net 1", "net 2"}));
        const auto& desk = *p->device("desk");
        QVERIFY(desk.receivers.size() == 1 && desk.streams.size() == 1 &&
                desk.streams[0].ports == std::vector<std::string>{"net 5"});
        QCOMPARE(desk.receivers[0].inputs, (std::vector<std::string>{"net 3", "net 4"}));
        QCOMPARE(desk.receivers[0].streams, std::vector<std::string>{"array/net"});
        // Cables stay, and what comes from nowhere stays to be told.
        QVERIFY(desk.feeds.size() == 2 && desk.feeds.count("in 1") && desk.feeds.count("net 7"));
        const auto& second = *p->device("second");
        QVERIFY(second.receivers.size() == 2 && second.feeds.empty());
        QCOMPARE(second.receivers[0].inputs, (std::vector<std::string>{"", "net 1"}));
        QCOMPARE(second.receivers[1].streams, std::vector<std::string>{"desk/net"});
    }
    void errors_data() {
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
    void errors() {
        QFETCH(QString, text);
        QFETCH(QString, says);
        QDir().mkpath(folder_.filePath("bad"));
        QVERIFY(bool(writeWhole(at("bad/project.json"), text.toStdString(), false)));
        const auto p = loom::test::load(at("bad"));
        QVERIFY(!p);
        QVERIFY2(QString::fromStdString(p.error().text()).contains(says), p.error().text().c_str());
    }
    void deepNestingIsRefused() {
        QVERIFY(!parseJson(std::string(100000, '['), "x"));
        QVERIFY(!parseJson("{\"a\":" + std::string(100, '[') + std::string(100, ']') + "}", "x"));
    }
    void damagedArchives() {
        const auto bytes = *packProject(*loom::test::load(demo));
        for (const std::size_t keep : {std::size_t(0), std::size_t(10), bytes.size() / 2, bytes.size() - 5}) {
            const auto p = unpackProject(bytes.substr(0, keep), "cut.loom", loom::test::models());
            QVERIFY(!p);
            QVERIFY(!p.error().remedy.empty());
        }
        unsigned seed = 7;
        for (int round = 0; round < 300; ++round) { // a flipped byte is an error or harmless, never a crash
            std::string hurt = bytes;
            seed = seed * 1664525u + 1013904223u;
            hurt[seed % hurt.size()] ^= static_cast<char>(1 + (seed >> 24) % 255);
            (void)bool(unpackProject(hurt, "hurt.loom", loom::test::models()));
        }
    }
    void previousIsKept() {
        Project p;
        p.name = "one";
        QVERIFY(bool(saveProject(p, at("k.loom"))));
        p.name = "two";
        QVERIFY(bool(saveProject(p, at("k.loom"))));
        QCOMPARE(QString::fromStdString(loom::test::load(at("k.loom.previous"))->name), QString("one"));
    }
    void unwritablePlaceIsAnError() {
        const auto saved = saveProject(Project{}, "/nowhere/x.loom");
        QVERIFY(!saved && saved.error().text().find("/nowhere/x.loom") != std::string::npos);
    }
    void journal() {
        Project p = *loom::test::load(demo);
        const std::string path = at("j.loom"), journal = journalPath(path);
        QVERIFY(bool(saveProject(p, path)));
        QVERIFY(!readJournal(journal, p, loom::test::models()));
        Project changed = p;
        changed.name = "unsaved work";
        changed.buildings.change(0).rooms.change(0).name = "Renamed", changed.devices.change(0).address = "10.1.2.3";
        changed.devices.push_back(changed.devices[0]);
        changed.devices.changeBack().id = "new";
        changed.assets["new.wav"] = std::vector<char>(1000, 'w');
        changed.assets.erase(p.assets.begin()->first);
        QVERIFY(bool(writeJournal(changed, p, journal)));
        const auto back = readJournal(journal, *loom::test::load(path), loom::test::models());
        QVERIFY(back && back->gone.empty() && toJson(back->project) == toJson(changed));
        QVERIFY(back->project.assets == changed.assets);
        QCOMPARE(back->based, contentStamp(*loom::test::load(path))); // it belongs to what lies there
        QVERIFY(bool(saveProject(changed, path)));
        QVERIFY(back->based != contentStamp(*loom::test::load(path))); // saved since: it does not any more
        // A file that neither has any more is named.
        QVERIFY(bool(writeJournal(p, p, journal)));
        QCOMPARE(readJournal(journal, changed, loom::test::models())->gone.size(), std::size_t(1));
        std::ofstream(journal + "/work.json") << "{ broken";
        QVERIFY(!readJournal(journal, p, loom::test::models()));
        dropJournal(journal);
        QVERIFY(!QFile::exists(QString::fromStdString(journal)));
    }
    // What a file's own bytes look like does not matter, what it holds does.
    void contentStamps() {
        const Project p = *loom::test::load(demo);
        QVERIFY(bool(saveProject(p, at("s.loom"))) && bool(saveProject(p, at("s/"))));
        QCOMPARE(contentStamp(*loom::test::load(at("s.loom"))), contentStamp(p));
        QCOMPARE(contentStamp(*loom::test::load(at("s"))), contentStamp(p));
        Project q = p;
        q.assets[p.assets.begin()->first] = std::vector<char>{'x'};
        QVERIFY(contentStamp(q) != contentStamp(p));
        const auto before = diskStamp(at("s")), archive = diskStamp(at("s.loom"));
        QVERIFY(bool(saveProject(q, at("s"))) && bool(saveProject(q, at("s.loom"))));
        QVERIFY(diskStamp(at("s")) != before && diskStamp(at("s.loom")) != archive);
        QVERIFY(diskStamp(at("nothing")).empty());
    }
    void oneWorksOnItAtATime() {
        const std::string path = at("l.loom");
        auto mine = ProjectLock::take(path);
        QVERIFY(!mine.other());
        const auto other = ProjectLock::take(path + "/"); // as people type folders
        QVERIFY(other.other() && !other.other()->who.empty() && !other.other()->since.empty());
        mine = ProjectLock();
        QVERIFY(!ProjectLock::take(path).other());
        const pid_t child = fork(); // a program that is killed lets go
        if (child == 0) {
            const auto held = ProjectLock::take(path);
            std::ofstream(at("held")) << (held.other() ? "no" : "yes");
            pause();
        }
        QTRY_VERIFY(QFile::exists(folder_.filePath("held")) && QFileInfo(folder_.filePath("held")).size() == 3);
        QVERIFY(ProjectLock::take(path).other());
        kill(child, SIGKILL);
        waitpid(child, nullptr, 0);
        QVERIFY(!ProjectLock::take(path).other());
        QVERIFY(!ProjectLock::take("/nowhere/at/all.loom").other());
    }
    void filesThatWentStayAway() {
        Project p;
        p.assets["a.wav"] = std::vector<char>{'a'}, p.assets["deep/b.wav"] = std::vector<char>{'b'};
        QVERIFY(bool(saveProject(p, at("gone/"))));
        p.assets.erase("deep/b.wav");
        QVERIFY(bool(saveProject(p, at("gone"))));
        const auto back = loom::test::load(at("gone"));
        QVERIFY(back && back->assets.size() == 1 && back->assets.count("a.wav"));
        QVERIFY(!QFile::exists(folder_.filePath("gone/assets/deep")));
    }
    void droppedBefore() { // each of these was lost on the way to the file
        Project p = *loom::test::load(demo);
        p.voicings.change(0).across = 0, p.voicings.change(0).upDown = 40;
        Room bare;
        bare.id = "bare", bare.name = "Bare", bare.targets.sti = 0.7, bare.noise.value = 44, bare.people = 0.2;
        p.buildings.change(0).rooms.push_back(bare);
        p.devices.change(0).place = {};
        p.devices.change(0).place.x = 3; // not placed, and yet it has been somewhere
        QVERIFY(bool(saveProject(p, at("d.loom"))));
        const auto q = loom::test::load(at("d.loom"));
        QVERIFY(q && q->voicings[0] == p.voicings[0] && *q->room("bare") == bare);
        QVERIFY(q->devices == p.devices && q->buildings == p.buildings && q->voicings == p.voicings);
    }
    void unknownEntriesOfAnArchiveSurvive() {
        Project p;
        p.unknownFiles["later/thing.bin"] = std::vector<char>{'1', '2'};
        QVERIFY(bool(saveProject(p, at("u.loom"))));
        auto q = loom::test::load(at("u.loom"));
        QVERIFY(q && q->unknownFiles == p.unknownFiles && q->assets.empty());
        q->name = "edited";
        QVERIFY(bool(saveProject(*q, at("u.loom"))) && loom::test::load(at("u.loom"))->unknownFiles == p.unknownFiles);
    }
    // A folder may be a repository, or somebody's web site: what an archive brings along does not reach into it.
    void foreignFoldersAreLeftAlone() {
        const auto text = [&](const char* name) { return QString::fromStdString(*readWhole(at(name), 1000)); };
        QDir(folder_.path()).mkpath("site/assets");
        QDir(folder_.path()).mkpath("site/.git");
        std::ofstream(at("site/assets/logo.txt")) << "logo";
        std::ofstream(at("site/.git/config")) << "theirs";
        std::ofstream(at("site/README.md")) << "read me";
        Project p;
        p.assets["a.wav"] = std::vector<char>{'a'};
        for (const char* name : {".git/config", ".git/hooks/x", "README.md", "deep/.hidden", "new/notes.txt"})
            p.unknownFiles[name] = std::vector<char>{'!'};
        QVERIFY(bool(saveProject(p, at("site"))));
        QCOMPARE(text("site/assets/logo.txt"), QString("logo"));
        QCOMPARE(text("site/.git/config"), QString("theirs"));
        QCOMPARE(text("site/README.md"), QString("read me"));
        QCOMPARE(text("site/new/notes.txt"), QString("!"));
        QVERIFY(!QFile::exists(folder_.filePath("site/.git/hooks/x")) && !QFile::exists(folder_.filePath("site/deep")));
    }
    void journalsOfEarlierVersionsAreNotInTheWay() {
        const std::string journal = at("old.loom.autosave");
        std::ofstream(journal) << "{}";
        QVERIFY(bool(writeJournal(Project{}, Project{}, journal)) &&
                readJournal(journal, Project{}, loom::test::models()));
        QVERIFY(QFile::exists(QString::fromStdString(journal + ".old")));
    }
    void namesOfFiles() {
        std::string chinese;
        for (int i = 0; i < 72; ++i)
            chinese += "\u6c34";
        for (const std::string& good :
             {chinese + ".wav", std::string("a b.wav"), std::string("x/y/z"), std::string(255, 'n')})
            QVERIFY2(isAssetName(good), good.c_str());
        for (const std::string& bad : {std::string(), std::string("a\\b"), std::string("../x"), std::string("/x"),
                                       std::string("x/"), std::string("a//b"), std::string("./a"), std::string("a\nb"),
                                       std::string(256, 'n'), std::string(".loom-1"), std::string("x/.loom-1")})
            QVERIFY2(!isAssetName(bad), bad.c_str());
        for (const std::string& any :
             {chinese + chinese + ".flac", std::string("a\\b/c"), std::string(".."), std::string()})
            QVERIFY2(isAssetName(assetNameFrom(any)), any.c_str());
        QVERIFY(assetNameFrom(chinese + chinese + ".flac").ends_with(".flac"));
        Project p;
        p.assets[chinese + ".wav"] = std::vector<char>{'c'};
        for (const char* where : {"n.loom", "n/"}) {
            QVERIFY(bool(saveProject(p, at(where))));
            const auto q = loom::test::load(at(where));
            QVERIFY2(q && q->assets == p.assets, q ? "" : q.error().text().c_str());
        }
        p.assets["a\\b"] = std::vector<char>{'x'};
        QVERIFY(!saveProject(p, at("n.loom")) && bool(loom::test::load(at("n.loom")))); // what lay there is still whole
        QCOMPARE(freeAssetName(p.assets, chinese + ".wav", Asset({'d'})), chinese + "-2.wav");
        QCOMPARE(freeAssetName(p.assets, chinese + ".wav", Asset({'c'})), chinese + ".wav");
    }
    void linksAreRefused() {
        Project p;
        p.assets["a.txt"] = std::vector<char>{'a'};
        QVERIFY(bool(saveProject(p, at("links/"))));
        std::ofstream(at("outside")) << "secret";
        QVERIFY(::symlink(at("outside").c_str(), at("links/assets/b.txt").c_str()) == 0);
        const auto q = loom::test::load(at("links"));
        QVERIFY(!q && q.error().text().find("assets/b.txt") != std::string::npos &&
                q.error().text().find("link") != std::string::npos);
        p.assets["b.txt"] = std::vector<char>{'b'};
        (void)bool(saveProject(p, at("links")));
        QCOMPARE(QString::fromStdString(*readWhole(at("outside"), 100)), QString("secret"));
        // A circle of folders is a link like any other.
        QVERIFY(bool(saveProject(Project{}, at("circle/"))));
        QDir().mkpath(folder_.filePath("circle/assets"));
        QVERIFY(::symlink("..", at("circle/assets/up").c_str()) == 0);
        QVERIFY(!loom::test::load(at("circle")));
    }
    void unreadableFoldersAreError() {
        if (::geteuid() == 0) { // for whom everything can be read: a thing that is neither file nor folder instead
            QVERIFY(bool(saveProject(Project{}, at("odd/"))));
            QDir().mkpath(folder_.filePath("odd/assets"));
            QVERIFY(::mkfifo(at("odd/assets/pipe").c_str(), 0600) == 0);
            const auto p = loom::test::load(at("odd"));
            QVERIFY(!p && p.error().text().find("assets/pipe") != std::string::npos);
            return;
        }
        Project p;
        p.assets["deep/a"] = std::vector<char>{'a'};
        QVERIFY(bool(saveProject(p, at("shut/"))));
        ::chmod(at("shut/assets/deep").c_str(), 0);
        const auto q = loom::test::load(at("shut"));
        ::chmod(at("shut/assets/deep").c_str(), 0700);
        QVERIFY(!q && q.error().text().find("assets/deep") != std::string::npos);
    }
    void writingAFile() {
        const auto text = [&](const char* name) { return QString::fromStdString(*readWhole(at(name), 1000)); };
        // Never through a link that lies where it is written beside.
        std::ofstream(at("victim")) << "untouched";
        QVERIFY(::symlink(at("victim").c_str(), at("w.txt.part").c_str()) == 0);
        QVERIFY(bool(writeWhole(at("w.txt"), "one", false)));
        QCOMPARE(text("victim"), QString("untouched"));
        // The mode stays.
        ::chmod(at("w.txt").c_str(), 0600);
        QVERIFY(bool(writeWhole(at("w.txt"), "two", true)));
        struct stat s {};
        QVERIFY(::stat(at("w.txt").c_str(), &s) == 0 && (s.st_mode & 07777) == 0600);
        QCOMPARE(text("w.txt.previous"), QString("one"));
        // Behind a link, the file is written that it leads to.
        QVERIFY(::symlink("w.txt", at("link.txt").c_str()) == 0);
        QVERIFY(bool(writeWhole(at("link.txt"), "three", false)));
        QVERIFY(QFileInfo(folder_.filePath("link.txt")).isSymLink());
        QCOMPARE(text("w.txt"), QString("three"));
        QVERIFY(bool(saveProject(Project{}, at("p.loom"))));
        ::chmod(at("p.loom").c_str(), 0640);
        QVERIFY(::symlink("p.loom", at("to.loom").c_str()) == 0);
        Project named;
        named.name = "through the link";
        QVERIFY(bool(saveProject(named, at("to.loom"))) && loom::test::load(at("p.loom"))->name == named.name);
        QVERIFY(::stat(at("p.loom").c_str(), &s) == 0 && (s.st_mode & 07777) == 0640);
        // Many writers at once: none fails, and one of them stays whole.
        std::vector<std::thread> writers;
        std::atomic<int> failed{0};
        for (int w = 0; w < 8; ++w)
            writers.emplace_back([&, w] {
                for (int i = 0; i < 20; ++i)
                    failed += !writeWhole(at("many"), std::string(5000, static_cast<char>('a' + w)), true);
            });
        for (auto& w : writers)
            w.join();
        QCOMPARE(failed.load(), 0);
        const auto last = *readWhole(at("many"), 6000);
        QVERIFY(last == std::string(5000, last[0]));
        QVERIFY(QDir(folder_.path()).entryList({".loom-*"}, QDir::Files | QDir::Hidden).isEmpty());
    }
    void readingTakesItsTimeAndNoMore() {
        // Linear: eight times the objects take about eight times as long, not sixty-four.
        const auto took = [](std::size_t objects) {
            std::string text = "[";
            for (std::size_t i = 0; i < objects; ++i)
                text += i ? ",{}" : "{}";
            QElapsedTimer clock;
            clock.start();
            const auto j = parseJson(text + "]", "many");
            return j ? static_cast<double>(clock.nsecsElapsed()) : -1.0;
        };
        took(20000);
        const double few = took(50000), many = took(400000);
        QVERIFY2(few > 0 && many > 0 && many < 30 * few, qPrintable(QString("%1 %2").arg(few).arg(many)));
        // What would take too much memory is refused before it is taken.
        const auto p = parseJson("[" + std::string(20'000'000, '{'), "deep");
        QVERIFY(!p);
        std::string wide = "[{}";
        for (int i = 0; i < 8'000'000; ++i)
            wide += ",{}";
        const auto q = parseJson(wide + "]", "wide");
        QVERIFY(!q && q.error().text().find("MiB of memory") != std::string::npos);
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
            const auto q = loom::test::load(path);
            QVERIFY2(bool(q), q ? "" : q.error().text().c_str());
            QCOMPARE(q->assets.at("noise").size(), std::size_t(300000));
            old += q->name == "New project";
        }
        qInfo("%d kills, every file whole (%d still the first)", kills, old);
    }
};
LOOM_TEST(tst_files, TestFiles)
#include "tst_files.moc"
