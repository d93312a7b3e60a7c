// Swatches: kept, read back, inserted; and what is none.
#ifndef Q_MOC_RUN
#include "demo_hall.h"
#include "engine/schedule.h"
#include "program/links.h"
#include "program/swatch.h"
#endif
#include "test.h"
#include <QFile>
#include <QTemporaryDir>

using namespace loom;
using namespace loom::project;
using namespace loom::test;
using engine::layOut;

class TestSwatch : public QObject {
    Q_OBJECT
    static Swatch make(const std::vector<std::string>& lanes, const std::string& block = {}) {
        return *makeSwatch(layOut(*hall().program), *hall().program, lanes, block, "Mine", "for a table");
    }

  private slots:
    void chainComesOntoEveryLane() {
        const auto s = make({"chair"});
        QVERIFY(s.chain());
        QCOMPARE(s.order(), (std::vector<std::string>{"chair.preamp", "chair.highpass", "chair.eq"}));
        const auto in = insertSwatch(hall(), {"far-end", "programme-l"}, "", s);
        QVERIFY(in && in->blocks.size() == 6 && in->leftOut.empty());
        const auto layout = layOut(in->program);
        const auto& beads = layout.laneOf("programme-l")->beads;
        QCOMPARE(in->program.find(beads.back())->values, hall().program->find("chair.eq")->values);
        QVERIFY(engine::compile(in->program, 48000, {}));
        // Behind a bead, and on a destination's lane in the order of the sound.
        const auto behind = insertSwatch(hall(), {"delegate-1"}, "delegate-1.preamp", make({"chair"}, "chair.eq"));
        QCOMPARE(layOut(behind->program).laneOf("delegate-1")->beads[1], behind->blocks[0]);
        const auto out = insertSwatch(hall(), {"loop"}, "", s);
        const auto last = layOut(out->program).laneOf("loop")->beads;
        QCOMPARE(out->program.find(last[last.size() - 3])->kind, std::string("preamp"));
        QCOMPARE(out->program.find(last.back())->kind, std::string("eq"));
        QVERIFY(!insertSwatch(hall(), {}, "", s));
    }
    void portsThatAreThereOnceAreLeftOut() {
        const auto s = make({"chair", "far-end", "hall", "loop"});
        QVERIFY(!s.chain());
        const auto in = insertSwatch(hall(), {}, "", s); // all its ports are in use here
        QVERIFY(bool(in));
        QVERIFY2(in->leftOut.find("Chair (in 1)") != std::string::npos, in->leftOut.c_str());
        QCOMPARE(in->blocks.size(), s.piece.blocks.size() - 3);
        QVERIFY(in->program.find("hall-2"));
        QVERIFY(engine::compile(in->program, 48000, {}));
        Device fresh = hall();
        fresh.program.emplace();
        const auto whole = insertSwatch(fresh, {}, "", s);
        QVERIFY(whole && whole->leftOut.empty());
        QCOMPARE(whole->program.connections.size(), s.piece.connections.size());
        QVERIFY(std::abs(gainDb(whole->program, "far-end", "loop") - gainDb(*hall().program, "far-end", "loop")) <
                1e-6);
    }
    void linksAndOrderStayBehind() {
        const auto& p = *hall().program;
        const auto linked = *linkLanes(layOut(p), p, {"delegate-4", "delegate-3"}, "x");
        const auto s = makeSwatch(layOut(linked), linked, {"delegate-3"}, "", "Mine", "");
        for (const auto& b : s->piece.blocks)
            QVERIFY(b.marks.empty());
        QVERIFY(!makeSwatch(layOut(p), p, {}, "", "Mine", ""));
        QVERIFY(!makeSwatch(layOut(p), p, {"chair"}, "", "", "") &&
                !makeSwatch(layOut(p), p, {"chair"}, "", "a/b", ""));
    }
    void textComesBack() {
        const auto s = make({"chair", "hall"});
        const auto back = readSwatch(swatchText(s), "x");
        QVERIFY(back && *back == s);
    }
    void whatIsNoneIsSaid_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QString>("says");
        QTest::newRow("empty") << QByteArray() << "not JSON";
        QTest::newRow("other") << QByteArray("{\"format\": \"soup\"}") << "not a swatch";
        QTest::newRow("no version") << QByteArray("{\"format\": \"nimble-loom-swatch\"}") << "version";
        QTest::newRow("later") << QByteArray("{\"format\": \"nimble-loom-swatch\", \"version\": 2}") << "later version";
        QTest::newRow("no program") << QByteArray(
                                           "{\"format\": \"nimble-loom-swatch\", \"version\": 1, \"name\": \"a\"}")
                                    << "2,000 blocks";
        QTest::newRow("unknown block")
            << QByteArray(
                   "{\"format\": \"nimble-loom-swatch\", \"version\": 1, \"name\": \"a\", \"program\": {\"blocks\": "
                   "[{\"id\": \"a\", \"kind\": \"of-tomorrow\"}], \"threads\": []}}")
            << "of-tomorrow";
        QTest::newRow("loop")
            << QByteArray("{\"format\": \"nimble-loom-swatch\", \"version\": 1, \"name\": \"a\", \"program\": "
                          "{\"blocks\": [{\"id\": \"a\", \"kind\": \"eq\"}], \"threads\": [[[\"a\",0],[\"a\",0]]]}}")
            << "a \u2192 a";
        QTest::newRow("huge") << QByteArray(5 << 20, ' ') << "4 MiB";
    }
    void whatIsNoneIsSaid() {
        QFETCH(QByteArray, text);
        QFETCH(QString, says);
        const auto s = readSwatch(text.toStdString(), "gift.json");
        QVERIFY(!s);
        QVERIFY2(QString::fromStdString(s.error().text()).contains(says), s.error().text().c_str());
    }
    void libraryOfOnesOwn() {
        QTemporaryDir home;
        qputenv("XDG_DATA_HOME", home.path().toUtf8());
        const auto count = library().size();
        QVERIFY(count >= 12); // those that ship
        const auto kept = keepSwatch(make({"chair"}), false);
        QVERIFY(kept && QFile::exists(QString::fromStdString(*kept)));
        QVERIFY(!keepSwatch(make({"chair"}), false) && keepSwatch(make({"chair"}), true));
        // Names that become the same file's are two swatches.
        for (const char* name : {"Main / left", "Main (left)", "Потолок", "天井"}) {
            auto s = make({"chair"});
            s.name = name;
            QVERIFY2(bool(keepSwatch(s, false)), name);
            s.notes = name;
            QVERIFY2(bool(keepSwatch(s, true)) && !keepSwatch(s, false), name);
        }
        for (const char* name : {"Main / left", "Main (left)", "Потолок", "天井"}) {
            const auto own = library();
            const auto it =
                std::find_if(own.begin(), own.end(), [&](const auto& e) { return e.own && e.swatch.name == name; });
            QVERIFY2(it != own.end() && it->swatch.notes == name, name);
            QVERIFY2(bool(removeSwatch(name)), name);
        }
        QFile bad(QString::fromStdString(libraryFolder()) + "/bad.json");
        QVERIFY(bad.open(QIODevice::WriteOnly) && bad.write("no") == 2);
        bad.close();
        std::vector<Error> errors;
        const auto all = library(&errors);
        QCOMPARE(all.size(), count + 1);
        QCOMPARE(errors.size(), std::size_t(1));
        QVERIFY(errors[0].text().find("bad.json") != std::string::npos);
        const std::string name = make({"chair"}).name;
        QVERIFY(!renameSwatch("Nobody's", "Mine") && !removeSwatch("Nobody's"));
        const auto renamed = renameSwatch(name, "Another");
        QVERIFY(renamed && !QFile::exists(QString::fromStdString(*kept)));
        QVERIFY(!removeSwatch(name));
        const auto removed = removeSwatch("Another"); // it can be had back
        QVERIFY(removed && QFile::exists(QString::fromStdString(*removed)));
        QCOMPARE(library().size(), count);
        const auto shipped = removeSwatch(library().front().swatch.name);
        QVERIFY(!shipped && shipped.error().remedy.find("ship") != std::string::npos);
    }
    void everyShippedOneRuns() {
        for (const auto& e : library()) {
            Device d = hall();
            const auto in = insertSwatch(
                d, e.swatch.chain() ? std::vector<std::string>{"chair"} : std::vector<std::string>{}, "", e.swatch);
            QVERIFY2(bool(in), e.path.c_str());
            QVERIFY2(bool(engine::compile(in->program, 48000, {})), e.path.c_str());
            QVERIFY2(!e.swatch.notes.empty() && !e.swatch.name.empty(), e.path.c_str());
        }
    }
};
LOOM_TEST(tst_swatch, TestSwatch)
#include "tst_swatch.moc"
