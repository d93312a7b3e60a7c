// Values of streams and receivers by their paths.
#ifndef Q_MOC_RUN
#include "model/sound_values.h"
#endif
#include "models.h"
#include "test.h"

using namespace loom;
using namespace loom::project;

class TestSoundValues : public QObject {
    Q_OBJECT
    static DeviceSound sound() {
        DeviceSound s;
        Stream mix;
        mix.id = "mix", mix.name = "Hall mix", mix.ports = {"net 1"}, mix.levelDb = -3;
        s.streams = {mix};
        Receiver far, one;
        far.id = "far", far.inputs = {"net 2"}, far.streams = {"a/x", "b/y"}, far.chosen = 1, far.muted = true;
        one.id = "one", one.inputs = {"net 3"}, one.streams = {"a/x"};
        s.receivers = {far, one};
        return s;
    }

  private slots:
    void listed() {
        const auto all = soundValues(sound());
        QCOMPARE(all.size(), std::size_t(3 + 4 + 3)); // one stream alone is no choice
        QCOMPARE(soundValue(sound(), "stream.mix.level")->value, -3.0);
        QCOMPARE(soundValue(sound(), "receiver.far.muted")->value, 1.0);
        QCOMPARE(soundValue(sound(), "receiver.far.inverted")->value, 0.0);
        const auto chosen = soundValue(sound(), "receiver.far.chosen");
        QVERIFY(chosen->value == 1 && chosen->spec.choices == (std::vector<std::string>{"a/x", "b/y"}));
        QVERIFY(!soundValue(sound(), "receiver.one.chosen") && !soundValue(sound(), "stream.mix.chosen"));
    }
    void set() {
        const auto apply = [](DeviceSound s, const std::string& path, double v) -> std::optional<DeviceSound> {
            const auto then = withSoundValue(s, path, v);
            if (!then)
                return {};
            Device device;
            device.model = "heddle-16", device.models = test::models();
            device.streams = s.streams, device.receivers = s.receivers;
            adoptSetUp(device, {*then});
            return DeviceSound{device.streams, device.receivers};
        };
        auto s = apply(sound(), "stream.mix.level", -12.5);
        QVERIFY(s && s->streams[0].levelDb == -12.5 && s->receivers == sound().receivers);
        s = apply(*s, "stream.mix.inverted", 1);
        QVERIFY(s && s->streams[0].inverted && !s->streams[0].muted);
        s = apply(*s, "receiver.far.chosen", 0);
        QVERIFY(s && s->receivers[0].chosen == 0 && s->receivers[0].muted);
        s = apply(*s, "receiver.far.muted", 0);
        QVERIFY(s && !s->receivers[0].muted && s->receivers[1] == sound().receivers[1]);
        QVERIFY(!apply(sound(), "stream.mix.level", 20.5) && !apply(sound(), "stream.mix.level", -101));
        QVERIFY(!apply(sound(), "receiver.far.chosen", 2) && !apply(sound(), "receiver.none.level", 0));
        QVERIFY(withSoundValue(sound(), "stream.mix.level", 99).error().text().find("Use") != std::string::npos);
    }
};

LOOM_TEST(tst_sound_values, TestSoundValues)
#include "tst_sound_values.moc"
