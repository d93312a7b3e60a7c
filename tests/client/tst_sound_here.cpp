// What a device's ports sound like, brought here; and streams that somebody announces. Time is stepped.
#include "fake_network.h"
#ifndef Q_MOC_RUN
#include "client/announcements.h"
#include "client/port_tap.h"
#include "site/samples.h"
#endif
#include "test.h"
#include <QSignalSpy>
#include <QTemporaryDir>

using namespace loom;
using namespace loom::test;
using client::PortTap;

class TestSoundHere : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    static stream::Description described(int n) {
        stream::Description d;
        d.name = "stream " + std::to_string(n), d.session = static_cast<std::uint64_t>(n), d.version = 1;
        d.origin = "10.1.1." + std::to_string(1 + n % 200), d.address = "239.1.1." + std::to_string(1 + n % 200);
        return d;
    }
    static std::vector<std::uint8_t> announcement(const stream::Description& d, bool ends = false) {
        const auto text = stream::sdpText(d);
        return stream::sapPacket({ends, stream::sapHashOf(text), d.origin, text});
    }

  private slots:
    void samplesAsText() {
        const std::vector<float> there{0, 0.5f, -1, 1.5f, -0.25f, 1.0f / 32768};
        const auto back = site::readSamples(site::samplesText(there));
        QVERIFY(back && back->size() == 6);
        QVERIFY((*back)[1] == 0.5f && (*back)[2] == -1 && (*back)[3] == 32767.0f / 32768 && (*back)[4] == -0.25f &&
                (*back)[5] == 1.0f / 32768);
        QVERIFY(site::readSamples("")->empty());
        QVERIFY(!site::readSamples("AAA") && !site::readSamples("no base64!") && !site::readSamples("AA=="));
        QVERIFY(!site::readSamples(std::string(site::mostSamples * 4, 'A')));
    }
    void announcedAndForgotten() {
        FakeNetwork net;
        client::Announcements ears(net);
        int changes = 0;
        ears.changed = [&] { ++changes; };
        net.announce(announcement(described(1)));
        ears.listen(true);
        net.turns.run(50);
        QVERIFY(ears.listening() && ears.known().all().empty());
        for (int n = 0; n < 600; ++n)
            net.announce(announcement(described(n)));
        net.turns.run(500);
        QCOMPARE(ears.known().all().size(), std::size_t(600));
        QCOMPARE(changes, 1); // told once of all
        net.announce(announcement(described(3), true));
        net.announce({1, 2, 3});
        net.turns.run(500);
        QVERIFY(ears.known().all().size() == 599 && changes == 2 && ears.known().refused() == 1);
        net.turns.run(4000 * 1000); // nobody says them again
        QVERIFY(ears.known().all().empty());
    }
    void aPortIsBroughtHere() {
        FakeNetwork net;
        auto& station = net.add("H1", "heddle-8", "10.0.0.8", folder_.path().toStdString());
        site::Config config;
        engine::Program program;
        engine::Block tone, out;
        tone.id = "tone", tone.kind = "generator";
        out.id = "main", out.kind = "destination", out.texts["port"] = "out 1";
        program.blocks = {tone, out};
        program.connections = {{{"tone", 0}, {"main", 0}}};
        config.program = program;
        const auto tried = station.device->tryConfig(config, "test");
        QVERIFY2(bool(tried), tried ? "" : tried.error().text().c_str());
        client::DeviceSession link(net);
        link.open("10.0.0.8", 4710, {});
        net.turns.run(1000);
        QVERIFY(link.up());
        PortTap tap(net);
        QSignalSpy changed(&tap, &PortTap::changed), said(&tap, &PortTap::said);
        std::size_t samples = 0;
        float most = 0;
        connect(&tap, &PortTap::came, this, [&](const std::vector<float>& s) {
            samples += s.size();
            for (const float v : s)
                most = std::max(most, std::abs(v));
        });
        tap.begin(link, {"h", "out 1", false});
        QVERIFY(tap.place() && changed.count() == 1);
        // The device's sound keeps the time of the clock on the wall.
        QElapsedTimer wall;
        wall.start();
        while (samples < 8192 && wall.elapsed() < 10000) {
            QTest::qWait(20);
            net.turns.run(20);
        }
        QVERIFY2(samples >= 8192 && tap.latest().size() == PortTap::kept && most > 0.01f,
                 std::to_string(samples).c_str());
        QVERIFY(said.isEmpty() && tap.rate() == 48000);
        // Another takes its place, and what is not there is said.
        tap.begin(link, {"h", "out 77", false});
        net.turns.run(500);
        QVERIFY(!tap.place() && said.count() == 1 && said[0][0].toString().contains("no such output"));
        tap.begin(link, {"h", "out 2", false});
        net.turns.run(500);
        QVERIFY(!tap.place() && said.count() == 2 && said[1][0].toString().contains("nothing passes there"));
        tap.begin(link, {"h", "out 1", false});
        net.turns.run(200);
        tap.end();
        QVERIFY(!tap.place() && tap.latest().empty());
        const auto before = samples;
        net.turns.run(500);
        QCOMPARE(samples, before);
        tap.begin(link, {"h", "out 1", false});
        link.close();
        net.turns.run(500);
        QVERIFY(!tap.place() && said.count() == 3);
    }
};

LOOM_TEST(tst_sound_here, TestSoundHere)
#include "tst_sound_here.moc"
