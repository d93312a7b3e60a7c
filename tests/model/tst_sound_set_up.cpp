// What a device offers and hears as part of its set-up: said, read, checked, told in words.
#ifndef Q_MOC_RUN
#include "model/set_up.h"
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestSoundSetUp : public QObject {
    Q_OBJECT
    static Device device(const char* model) {
        Device d;
        d.id = "d", d.name = "D", d.model = model;
        d.models = test::models();
        return d;
    }
    static Device full() {
        auto d = device("heddle-16");
        Stream s;
        s.id = "mix", s.name = "Hall mix", s.ports = {"net 1", "net 2"}, s.levelDb = -3,
        s.samples = Stream::Samples::l16;
        Receiver r;
        r.id = "far", r.inputs = {"", "net 9"}, r.streams = {"a/one", "b/two"}, r.chosen = 1, r.delayMs = 5,
        r.muted = true;
        d.streams = {s};
        d.receivers = {r};
        return d;
    }
    static std::string wrong(const DeviceModel& m, const SetUp& values) {
        const auto done = checkSetUp(m, values);
        return done ? std::string() : done.error().text();
    }

  private slots:
    void saidAndRead() {
        const auto d = full();
        const auto all = setUpOf(d);
        QVERIFY(all.count("stream mix") && all.count("receiver far") && all.count("panel"));
        auto other = device("heddle-16");
        adoptSetUp(other, all);
        QVERIFY(other.streams == d.streams && other.receivers == d.receivers);
        const auto sound = soundOf(all);
        QVERIFY(sound.streams == d.streams && sound.receivers == d.receivers);
        adoptSetUp(other, {{"receiver far", ""}, {"stream none", ""}});
        QVERIFY(other.receivers.empty() && other.streams.size() == 1);
        auto tap = device("tap"); // carries none
        tap.streams = d.streams;
        QVERIFY(!setUpOf(tap).count("stream mix"));
    }
    void whatOnlyTheOtherHas() {
        SetUp mine{{"name", "x"}}, theirs{{"stream a", "{}"}, {"receiver b", "{}"}, {"panel", "open"}};
        nameMissing(mine, theirs);
        QCOMPARE(mine.size(), std::size_t(3));
        QVERIFY(mine.at("stream a").empty() && !mine.count("panel"));
        QCOMPARE(setUpText(mine, "stream b"), std::string());
    }
    void checked() {
        const auto& m = test::model("heddle-16");
        const auto good = setUpOf(full());
        QCOMPARE(wrong(m, good), std::string());
        QCOMPARE(wrong(m, {{"stream gone", ""}}), std::string());
        QVERIFY(wrong(m, {{"stream other", good.at("stream mix")}}).find("another id") != std::string::npos);
        QVERIFY(!wrong(m, {{"stream mix", "nonsense"}}).empty());
        QVERIFY(!wrong(m, {{"receiver far", R"({"id":"far","streams":7})"}}).empty());
        QVERIFY(
            wrong(m, {{"stream mix", R"({"id":"mix","name":"x","ports":["net 99"]})"}}).find("no port \"net 99\"") !=
            std::string::npos);
        QVERIFY(wrong(m, {{"receiver far", R"({"id":"far","inputs":["out 1"],"streams":[]})"}}).find("no port") !=
                std::string::npos);
        QVERIFY(wrong(m, {{"stream mix", std::string(8001, ' ')}}).find("8,000") != std::string::npos);
        QVERIFY(wrong(test::model("tap"), good).find("no such set-up") != std::string::npos);
        QVERIFY(soundOf({{"stream mix", "nonsense"}}).streams.empty());
    }
    void inWords() {
        const auto all = setUpOf(full());
        QCOMPARE(setUpLabel("stream mix"), std::string("Offers mix"));
        QCOMPARE(setUpLabel("receiver far"), std::string("Hears far"));
        QCOMPARE(setUpWords("stream mix", all.at("stream mix")), std::string("net 1, net 2, L16, 1 ms, -3.0 dB"));
        QCOMPARE(setUpWords("receiver far", all.at("receiver far")), std::string("b/two on net 9, 5 ms, muted"));
        QCOMPARE(setUpWords("receiver far", ""), std::string("\u2014"));
        QCOMPARE(setUpWords("panel", "open"), std::string("open"));
    }
};

LOOM_TEST(tst_sound_set_up, TestSoundSetUp)
#include "tst_sound_set_up.moc"
