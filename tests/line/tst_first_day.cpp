// The first day on a site from the shell alone: loomctl against a rig in a process of its own.
#include <QDir>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#ifndef Q_MOC_RUN
#include "file/store.h"
#include "models.h"
#include <nlohmann/json.hpp>
#endif
#include "test.h"

using nlohmann::json;
using namespace loom;

class TestFirstDay : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QProcess rig_;
    QString project_;

    struct Said {
        int code = -1;
        QString out, err;
        json asJson() const { return json::parse(out.toStdString(), nullptr, false); }
    };
    Said ctl(QStringList words) {
        QProcess p;
        p.start(LOOMCTL, words << "--port"
                               << "47340");
        Said s;
        if (p.waitForFinished(120000))
            s.code = p.exitCode();
        if (s.code < 0 || p.exitStatus() != QProcess::NormalExit)
            qWarning() << words << (s.code < 0 ? "did not end" : "crashed with signal") << s.code << p.errorString();
        s.out = QString::fromUtf8(p.readAllStandardOutput()), s.err = QString::fromUtf8(p.readAllStandardError());
        return s;
    }
    bool finding(const json& all, const char* code) {
        return std::any_of(all.begin(), all.end(), [&](const auto& f) { return f["code"] == code; });
    }
    project::Project now() { return *test::load(project_.toStdString()); }

  private slots:
    void initTestCase() {
        project_ = folder_.filePath("day.loom");
        auto p = test::load(LOOM_SOURCE_DIR "/demo/first-day");
        QVERIFY(p && project::saveProject(*p, project_.toStdString()));
        rig_.setProcessChannelMode(QProcess::MergedChannels);
        rig_.start(LOOM_RIG, {"--scenario", LOOM_SOURCE_DIR "/demo/scenarios/first-day.json", "--port", "47340",
                              "--store", folder_.filePath("store")});
        QVERIFY(rig_.waitForStarted() && rig_.waitForReadyRead(20000));
    }
    void cleanupTestCase() {
        rig_.write("quit\n");
        QVERIFY(rig_.waitForFinished(10000));
    }
    void theFirstDay() {
        // Find: eleven, two with one address, one of another network.
        auto said = ctl({"find", "--project", project_, "--json"});
        QVERIFY2(said.code == 0, qPrintable(said.err));
        auto all = said.asJson();
        QCOMPARE(all["found"].size(), std::size_t(11));
        for (const auto& f : all["found"])
            QVERIFY(f["print"].get<std::string>().size() == 19);
        QVERIFY(finding(all["findings"], "address-shared") && finding(all["findings"], "wrong-subnet"));
        // Cure.
        said = ctl({"address", project_});
        QVERIFY2(said.code == 0, qPrintable(said.err));
        all = ctl({"find", "--project", project_, "--json"}).asJson();
        QVERIFY(!finding(all["findings"], "address-shared") && !finding(all["findings"], "wrong-subnet"));
        // Pair: nine of the eleven, one of them before; each with the key that it showed.
        said = ctl({"pair-all", project_});
        QVERIFY2(said.code == 0 && said.out.contains("8 devices paired"), qPrintable(said.out + said.err));
        int paired = 0;
        for (const auto& d : now().devices)
            paired += !d.serial.empty() && !d.known.identity.empty();
        QCOMPARE(paired, 9);
        // One value changed on both sides: nothing is sent until a side is chosen.
        const auto rows = ctl({"differences", project_, "--json"}).asJson();
        QVERIFY(std::any_of(rows.begin(), rows.end(),
                            [](const auto& r) { return r["key"] == "far-end.level.gain" && r["take"] == "open"; }));
        said = ctl({"try", project_});
        QVERIFY2(said.code == 2 && said.err.contains("choose a side"), qPrintable(said.err));
        said = ctl({"try", project_, "--take", "design"});
        QVERIFY2(said.code == 0 && said.out.contains("9 devices run it"), qPrintable(said.out + said.err));
        QCOMPARE(now().device("heddle")->program->find("ceiling-2.eq")->values.at("1.gain"), -1.0); // turned there
        QCOMPARE(ctl({"differences", project_, "--json"}).asJson().size(), std::size_t(0));
        said = ctl({"keep", project_});
        QVERIFY2(said.code == 0 && said.out.contains("9 devices keep it"), qPrintable(said.out + said.err));
        // Seal; without the password nothing goes, with another one neither.
        const auto write = [&](const char* name, const char* text) {
            QFile f(folder_.filePath(name));
            return f.open(QIODevice::WriteOnly) && f.write(text) > 0 ? f.fileName() : QString();
        };
        const QString room = write("room.txt", "tall grass by the sea\n"), other = write("other.txt", "short grass\n");
        said = ctl({"seal", project_, "--password-file", room});
        QVERIFY2(said.code == 0 && said.out.contains("9 devices are sealed"), qPrintable(said.out + said.err));
        said = ctl({"differences", project_});
        QVERIFY2(said.code == 2 && said.err.contains("password"), qPrintable(said.err));
        said = ctl({"differences", project_, "heddle", "--password-file", other});
        QVERIFY2(said.code == 2 && said.err.contains("wrong"), qPrintable(said.err));
        // One value live, a power-cut of all, and it is as it was kept.
        said = ctl({"live", project_, "heddle/far-end.level.gain", "-7", "--password-file", room});
        QVERIFY2(said.code == 0, qPrintable(said.err));
        QCOMPARE(now().device("heddle")->program->find("far-end.level")->values.at("gain"), -7.0);
        QCOMPARE(ctl({"differences", project_, "heddle", "--json", "--password-file", room}).asJson().size(),
                 std::size_t(0));
        said = ctl({"power-cycle", project_, "--password-file", room});
        QVERIFY2(said.code == 0, qPrintable(said.err));
        const auto after = ctl({"differences", project_, "heddle", "--json", "--password-file", room}).asJson();
        QVERIFY2(after.size() == 1 && after[0]["key"] == "far-end.level.gain", after.dump().c_str());
        // Tried and kept again, and back to the revision before.
        const int before = now().device("heddle")->known.revision;
        QCOMPARE(ctl({"try", project_, "heddle", "--take", "design", "--password-file", room}).code, 0);
        QCOMPARE(ctl({"keep", project_, "heddle", "--password-file", room}).code, 0);
        said = ctl({"go-back", project_, "heddle", QString::number(before), "--password-file", room});
        QVERIFY2(said.code == 0, qPrintable(said.err));
        QCOMPARE(ctl({"differences", project_, "heddle", "--json", "--password-file", room}).asJson().size(),
                 std::size_t(1));
        // The password stands nowhere.
        QFile file(project_);
        QVERIFY(file.open(QIODevice::ReadOnly) && !file.readAll().contains("tall grass"));
    }
    void wrongCallsSayWhy() {
        for (const auto& [words, text] :
             {std::pair<QStringList, const char*>{{"find", "--range", "nonsense"}, "is no range"},
              {{"differences", project_, "nobody"}, "no such device"},
              {{"try", project_, "heddle", "--take", "neither"}, "design or device"},
              {{"address", project_, "NOBODY", "127.20.4.99", "--seconds", "1"}, "not on the network"},
              {{"address", project_, "NOBODY", "127.020.4.9", "--seconds", "1"}, "not an address"}}) {
            const auto said = ctl(words);
            QVERIFY2(said.code == 2 && said.err.contains(text), qPrintable(words.join(' ') + ": " + said.err));
        }
    }
};

LOOM_TEST(tst_first_day, TestFirstDay)
#include "tst_first_day.moc"
