// Sound between devices: leads, the audio network with and without keys, rooms with talkers, echo and feedback.
#ifndef Q_MOC_RUN
#include "acoustics/loop_gain.h"
#include "catalogue/catalogue.h"
#include "dsp/units.h"
#include "engine/runner.h"
#include "models.h"
#include "program/lane_edit.h"
#include "program/render.h"
#include "rig/air.h"
#include "rig/device.h"
#include <cmath>
#include <random>
#endif
#include "test.h"
#include <QFile>
#include <QNetworkInterface>
#include <QTemporaryDir>
#include <QUdpSocket>
#include <atomic>
#include <thread>

using namespace loom;
using project::SoundEnd;

namespace {

project::Device device(const std::string& id, const std::string& model, const std::string& room = "") {
    project::Device d;
    d.models = test::models();
    d.id = id, d.name = id, d.model = model, d.room = room;
    return d;
}

// A source, a level and a destination.
engine::Program through(const std::string& in, const std::string& out, double gain = 0) {
    engine::Program p;
    for (const char* kind : {"source", "level", "destination"})
        p.blocks.emplace_back().id = kind, p.blocks.changeBack().kind = kind;
    p.blocks.change(0).texts["port"] = in, p.blocks.change(2).texts["port"] = out;
    p.blocks.change(1).values["gain"] = gain;
    p.connections = {{{"source", 0}, {"level", 0}}, {{"level", 0}, {"destination", 0}}};
    return p;
}

// "desk" hears the first output of "array", as a stream called mix.
void hearTheArray(project::Project& p) {
    project::Stream mix;
    mix.id = mix.name = "mix";
    mix.ports = {"net 1"};
    p.device("array")->streams = {mix};
    p.device("desk")->receivers = {{"mix", {"net 3"}, {"array/mix"}}};
}

// A microphone array that sends its sound over the network to the processor "desk".
project::Project arrayOnTheNetwork() {
    project::Project p;
    p.devices = {device("desk", "heddle-16"), device("array", "canopy-8")};
    hearTheArray(p);
    p.devices.change(0).program = through("net 3", "out 1");
    return p;
}

// A room of 8 x 6 m with a talker at a microphone and a loudspeaker, both at the processor "desk".
project::Project hall() {
    project::Project p;
    project::Room room;
    room.id = "hall", room.name = "Hall", room.height = 3.2;
    room.outline = {{0, 0}, {8, 0}, {8, 6}, {0, 6}};
    room.talkers = {{"who", "Who", 2, 3, 1.2, 60}};
    project::Seats seats;
    seats.id = "seats", seats.x = 6, seats.y = 3;
    room.seats = {seats};
    p.buildings = {{"house", "House", {room}}};
    auto desk = device("desk", "heddle-16"), amplifier = device("amplifier", "treadle-2a"),
         microphone = device("microphone", "reed-g40", "hall"),
         loudspeaker = device("loudspeaker", "bobbin-12", "hall");
    microphone.place = {2.4, 3, 1.2, 180, 0, "", 0, true};
    loudspeaker.place = {5, 1.5, 2.2, 150, 0, "", 0, true};
    desk.program = through("in 1", "out 1");
    desk.feeds["in 1"] = "microphone/out 1";
    amplifier.feeds["in 1"] = "desk/out 1";
    amplifier.outputs["out 1"].loads = {{"loudspeaker"}};
    p.devices = {desk, amplifier, microphone, loudspeaker};
    return p;
}

// What a talker says: a burst of noise and a long silence.
void speak(project::Project& p, const std::string& port, double gainDb) {
    dsp::AudioClip clip;
    clip.channels.emplace_back(48000 * 30, 0.0f);
    std::mt19937 random(7);
    std::uniform_real_distribution<float> noise(-0.3f, 0.3f);
    for (std::size_t i = 0; i < 9600; ++i)
        clip.channels[0][i] = noise(random);
    QTemporaryDir folder;
    std::string error;
    const auto path = folder.filePath("burst.wav");
    QVERIFY(dsp::writeWav(path.toStdString(), clip, error));
    QFile file(path);
    QVERIFY(file.open(QIODevice::ReadOnly));
    const auto bytes = file.readAll();
    p.assets["burst.wav"] = std::vector<char>(bytes.begin(), bytes.end());
    p.device("desk")->standIns = {{port, "burst.wav", gainDb, true}};
}

// The processor and the air, block by block without threads.
struct Bench {
    rig::Air air;
    std::unique_ptr<engine::Runner> runner;
    explicit Bench(const project::Project& p) {
        air.lay(p);
        const auto& desk = *p.device("desk");
        runner = std::make_unique<engine::Runner>(48000, air.joined(project::resourcesOf(p, desk, true), "desk"));
        QVERIFY(bool(runner->load(*desk.program)));
    }
    // What comes to the program while the blocks pass.
    std::vector<float> listen(int blocks) {
        std::vector<float> all, heard(rig::Air::block);
        runner->probe(0, engine::PortRef{"source", 0});
        for (int i = 0; i < blocks; ++i) {
            air.step();
            for (int f = 0; f < rig::Air::block / engine::maxFrame; ++f)
                runner->process({}, engine::maxFrame);
            const auto n = runner->readProbe(0, heard);
            all.insert(all.end(), heard.begin(), heard.begin() + static_cast<std::ptrdiff_t>(n));
        }
        return all;
    }
    // The same as an r.m.s. level in dB.
    double run(int blocks) {
        double power = 0;
        for (const float v : listen(blocks))
            power += static_cast<double>(v) * v;
        return 10 * std::log10(power / (blocks * rig::Air::block) + 1e-20);
    }
};

} // namespace

class TestAir : public QObject {
    Q_OBJECT

  private slots:
    void cablesWaitForNobody() {
        engine::Cable cable;
        engine::Cable::Reader early(0), late(100), other(0);
        float got[64];
        QVERIFY(!early.read(cable, got, 64) && got[0] == 0);
        std::vector<float> ramp(1000);
        for (std::size_t i = 0; i < ramp.size(); ++i)
            ramp[i] = static_cast<float>(i + 1);
        cable.write(ramp.data(), 1000);
        QVERIFY(early.read(cable, got, 64));
        QCOMPARE(got[63], 1000.0f); // the newest
        QVERIFY(late.read(cable, got, 64));
        QCOMPARE(got[63], 900.0f);
        QVERIFY(late.read(cable, got, 64));
        QCOMPARE(got[0], 901.0f); // goes on where it was
        QVERIFY(!early.read(cable, got, 64) && got[5] == 0);
        for (int i = 0; i < 40; ++i) // far ahead of the late one: it starts anew instead of reading old things
            cable.write(ramp.data(), 1000);
        QVERIFY(late.read(cable, got, 64));
        QCOMPARE(got[63], 900.0f);
        QVERIFY(other.read(cable, got, 64)); // each from a place of its own
        QCOMPARE(got[63], 1000.0f);
    }
    void leadsAreReadFromTheProject() {
        auto p = hall();
        auto array = device("array", "canopy-8", "hall"), network = device("network", "treadle-4");
        p.devices.push_back(array), p.devices.push_back(network);
        hearTheArray(p);
        p.device("desk")->feeds["net 4"] = "array/net 2"; // goes as a stream only
        p.device("network")->feeds["in 1"] = "desk/out 2";
        p.device("network")->feeds["in 2"] = "nobody/out 2"; // is no lead
        const auto leads = project::leadsOf(p);
        QCOMPARE(leads.size(), 3u);
        QVERIFY(leads[2].network && leads[2].from.text() == "array/net 1" && leads[2].to.text() == "desk/net 3");
        QVERIFY(!leads[0].network && leads[0].to.text() == "amplifier/in 1");
        const auto* model = test::models().find("treadle-4");
        QVERIFY(std::abs(20 * std::log10(leads[1].gain) -
                         (test::models().find("heddle-16")->fullScaleDbu - model->amplifier->fullScaleDbu)) < 1e-9);
        QCOMPARE(project::microphoneInputs(p).size(), 1u);
        QVERIFY(!project::readSoundEnd("heddle") && !project::readSoundEnd("/in 1"));
    }
    // Nothing but the direct way: as loud as the stand-in says; and the room behind it.
    void talkersReachTheirMicrophone() {
        auto p = hall();
        speak(p, "in 1", -12);
        Bench bench(p);
        QVERIFY(bench.air.arriving({"desk", "in 1"}) != nullptr);
        QVERIFY(bench.run(40) < -190); // no room yet, and the stand-in itself is not heard
        p.device("desk")->program->find("level")->values["gain"] = -80; // the loudspeaker stays silent
        QVERIFY(bool(bench.runner->load(*p.device("desk")->program)));
        const auto sound = project::roomSoundOf(p, project::spacesOf(p.buildings[0], nullptr)[0], nullptr, {48000});
        QCOMPARE(sound.sources.size(), 2u); // loudspeaker, voice
        QCOMPARE(sound.targets.size(), 1u);
        // The first arrival of the voice: the distance of 0.4 m, and the gain of the stand-in.
        const auto& direct = sound.response(1, 0);
        std::size_t peak = 0;
        for (std::size_t i = 0; i < 200; ++i)
            if (std::abs(direct[i]) > std::abs(direct[peak]))
                peak = i;
        QVERIFY(std::abs(static_cast<double>(peak) - 0.4 / 343.2 * 48000) < 2);
        (void)bench.run(40); // the level glides down
        bench.air.add(sound);
        const double level =
            bench.run(18); // noise of -15.2 dBFS r.m.s., and -12; above 16 kHz nothing, the room adds some
        QVERIFY2(level > -30 && level < -25, qPrintable(QString::number(level)));
        (void)bench.run(30);
        QVERIFY(bench.run(30) < level - 20); // it dies away
    }
    void aFarEndComesBackAsEcho() {
        auto p = hall();
        speak(p, "usb 1", -6); // the far end speaks: no person in the room
        p.device("desk")->program->blocks.change(0).texts["port"] = "usb 1";
        engine::Block microphone, send;
        microphone.id = "microphone", microphone.kind = "source", send.id = "send", send.kind = "destination";
        microphone.texts["port"] = "in 1", send.texts["port"] = "usb 1";
        p.device("desk")->program->blocks.push_back(microphone);
        p.device("desk")->program->blocks.push_back(send);
        p.device("desk")->program->connections.push_back({{"microphone", 0}, {"send", 0}});
        Bench bench(p);
        bench.air.furnish(p);
        QVERIFY(bench.air.furnished());
        (void)bench.run(30);
        const double echo = bench.runner->meter({"send", 0}).peakDb;
        QVERIFY2(echo > -60, qPrintable(QString::number(echo)));
        // The same room with the loudspeaker taken off its amplifier is quiet.
        p.device("amplifier")->outputs.clear();
        Bench silent(p);
        silent.air.furnish(p);
        (void)silent.run(30);
        QVERIFY(silent.runner->meter({"send", 0}).peakDb < -100);
    }
    // The gain at which it begins to ring is the one that the loop's response says, within 2 dB.
    void loopsRingAtThePredictedGain() {
        auto p = hall();
        speak(p, "in 1", -30);
        const auto sound = project::roomSoundOf(p, project::spacesOf(p.buildings[0], nullptr)[0], nullptr, {48000});
        // What cables and blocks are late: with nothing but a thread in the air, a click comes round after that time.
        auto click = std::make_shared<dsp::AudioClip>();
        click->channels.emplace_back(480000, 0.0f);
        click->channels[0][4000] = 0.5f;
        auto flat = sound;
        const auto thread = std::make_shared<const std::vector<float>>(1, 1.0f);
        flat.responses = {thread, thread};
        flat.sources[0].most = 10;
        flat.sources[1].voice = click;
        Bench probe(p);
        probe.air.add(flat);
        const auto clicks = probe.listen(24);
        std::vector<std::size_t> at;
        for (std::size_t i = 0; i < clicks.size(); ++i)
            if (clicks[i] > 0.25f)
                at.push_back(i);
        QVERIFY(at.size() >= 2);
        const auto limit =
            acoustics::loopLimit(sound.response(0, 0), 48000, static_cast<double>(at[1] - at[0]) / 48000);
        QVERIFY2(limit.gainDb > -60 && limit.gainDb < 10, qPrintable(QString::number(limit.gainDb)));
        const auto grows = [&](double gain) {
            p.device("desk")->program->find("level")->values["gain"] = gain;
            Bench bench(p);
            bench.air.add(sound);
            (void)bench.run(40); // the burst, and its echoes
            const double early = bench.run(150);
            (void)bench.run(600);
            return bench.run(150) > early;
        };
        QVERIFY2(!grows(limit.gainDb - 2), qPrintable(QString("rings 2 dB below %1 dB").arg(limit.gainDb)));
        QVERIFY2(grows(limit.gainDb + 2), qPrintable(QString("does not ring 2 dB above %1 dB").arg(limit.gainDb)));
    }
    // An array sends its beam to a processor: with the same key on both ends, and with another one on one of them.
    void soundOnTheNetworkNeedsTheKey() {
        Bench bench(arrayOnTheNetwork());
        auto from = bench.air.side("array"), to = bench.air.side("desk");
        from->setAddress("127.20.8.1"), to->setAddress("127.20.8.2");
        std::vector<float> tone(rig::Air::block);
        const auto cable = bench.air.leaving({"array", "net 1"});
        const auto play = [&](int blocks) {
            double level = -200;
            for (int i = 0; i < blocks; ++i) {
                for (std::size_t s = 0; s < tone.size(); ++s)
                    tone[s] = 0.1f * static_cast<float>(std::sin(
                                         0.1 * static_cast<double>(s + tone.size() * static_cast<std::size_t>(i))));
                cable->write(tone.data(), rig::Air::block);
                level = bench.run(1);
            }
            return level;
        };
        QVERIFY(play(20) > -30);
        QCOMPARE(to->heard().at("net 3"), std::string("open"));
        const auto key = site::newAudioKey();
        from->setKey(key);
        QVERIFY(play(20) < -100); // the receiver has none: it hears nothing
        QCOMPARE(to->heard().at("net 3"), std::string("refused"));
        to->setKey(key);
        QVERIFY(play(20) > -30);
        QCOMPARE(to->heard().at("net 3"), std::string("encrypted"));
        to->setKey(site::newAudioKey());
        QVERIFY(play(20) < -100);
        QCOMPARE(to->heard().at("net 3"), std::string("refused"));
        from->setKey({}); // in the open, to one that has a key
        QVERIFY(play(20) < -100);
        QCOMPARE(to->heard().at("net 3"), std::string("refused"));
        to->setKey({});
        QVERIFY(play(20) > -30);
        from->quiet = true;
        QVERIFY(play(20) < -100);
        from->quiet = false, from->plugged = false;
        (void)play(40);
        QCOMPARE(to->heard().at("net 3"), std::string("none"));
    }
    // Packets that somebody recorded are heard once, from wherever they come again.
    void recordedSoundIsNotHeardAgain() {
        Bench bench(arrayOnTheNetwork());
        auto to = bench.air.side("desk");
        to->setAddress("127.20.8.2");
        const auto key = site::newAudioKey();
        to->setKey(key);
        (void)bench.run(1); // it listens
        QUdpSocket wire;    // from the array's own address, or it would be passed over
        QVERIFY(wire.bind(QHostAddress("127.20.8.1"), 0));
        wire.setSocketOption(QAbstractSocket::MulticastTtlOption, 0);
        wire.setMulticastInterface(QNetworkInterface::interfaceFromName("lo"));
        bench.air.side("array")->setAddress("127.20.8.1");
        bench.air.side("array")->plugged = false; // it says nothing itself
        const auto project = arrayOnTheNetwork();
        const auto description = project::patchedOf(project).offers[0].description;
        // A start of the sender is its source; packets of it are sealed with the stream's key.
        using Packets = std::vector<QByteArray>;
        const auto some = [&](std::uint32_t start, int first, int count = 24) {
            auto sealer = *stream::Sealer::sending(rig::streamKeyOf(key, "array/mix"));
            stream::PacketMaker maker(description.format, description.payload, start);
            std::vector<float> loud(48);
            for (std::size_t i = 0; i < loud.size(); ++i)
                loud[i] = i % 2 ? 0.25f : -0.25f;
            const float* channels[] = {loud.data()};
            Packets all;
            for (int i = 0; i < first + count; ++i) {
                const auto packet = sealer.seal(maker.next(channels));
                if (i >= first)
                    all.push_back(QByteArray(reinterpret_cast<const char*>(packet.data()), qsizetype(packet.size())));
            }
            return all;
        };
        const auto level = [&](const Packets& packets) {
            for (const auto& one : packets)
                wire.writeDatagram(one, QHostAddress(QString::fromStdString(description.address)), 5004);
            return bench.run(12);
        };
        const auto recorded = some(1000, 0);
        QVERIFY(level(recorded) > -30);
        QCOMPARE(to->heard().at("net 3"), std::string("encrypted"));
        QVERIFY(level(recorded) < -100);
        auto next = some(1000, 24);
        for (qsizetype i = 0; i + 1 < qsizetype(next.size()); i += 2)
            std::swap(next[std::size_t(i)], next[std::size_t(i) + 1]); // out of order, as networks do
        QVERIFY(level(next) > -30);
        QVERIFY(level(next) < -100);
        QVERIFY(level(some(999, 100)) < -100); // of an earlier start
        QVERIFY(level(some(1001, 0)) > -30);
        QVERIFY(level(some(1000, 48)) < -100);
        QUdpSocket other; // with the key, from somewhere else
        QVERIFY(other.bind(QHostAddress("127.20.8.7"), 0));
        other.setSocketOption(QAbstractSocket::MulticastTtlOption, 0);
        other.setMulticastInterface(QNetworkInterface::interfaceFromName("lo"));
        for (const auto& one : some(1002, 0))
            other.writeDatagram(one, QHostAddress(QString::fromStdString(description.address)), 5004);
        QVERIFY(bench.run(12) < -100);
        (void)bench.run(60);
        QCOMPARE(to->heard().at("net 3"), std::string("none"));
    }
    // As a rig runs it: the air at the pace of the clock on its thread, a device's sound on another, and its keys,
    // addresses and plugs from a third.
    void theAirCarriesOnAThreadOfItsOwn() {
        auto p = hall();
        speak(p, "in 1", -12);
        p.devices.push_back(device("array", "canopy-8", "hall"));
        hearTheArray(p);
        p.device("desk")->program->find("level")->values["gain"] = -40; // far from ringing
        rig::Air air;
        air.lay(p);
        engine::Runner runner(48000, air.joined(project::resourcesOf(p, *p.device("desk"), true), "desk"));
        QVERIFY(bool(runner.load(*p.device("desk")->program)));
        auto from = air.side("array"), to = air.side("desk");
        from->setAddress("127.20.8.3"), to->setAddress("127.20.8.4");
        const auto cable = air.leaving({"array", "net 1"});
        std::atomic<float> loudest{-200}; // of what the program hears
        std::jthread devices([&](std::stop_token stop) {
            const std::vector<float> steady(rig::Air::block, 0.1f);
            std::vector<float> heard(rig::Air::block);
            runner.probe(0, engine::PortRef{"source", 0});
            while (!stop.stop_requested()) {
                cable->write(steady.data(), rig::Air::block);
                for (int f = 0; f < rig::Air::block / engine::maxFrame; ++f)
                    runner.process({}, engine::maxFrame);
                double power = 1e-20;
                for (std::size_t i = 0, n = runner.readProbe(0, heard); i < n; ++i)
                    power += static_cast<double>(heard[i]) * heard[i];
                loudest = std::max(loudest.load(), static_cast<float>(10 * std::log10(power / rig::Air::block)));
                std::this_thread::sleep_for(std::chrono::milliseconds(10));
            }
        });
        air.start(p);
        const auto hears = [&](const char* how) {
            return QTest::qWaitFor(
                [&] {
                    const auto heard = to->heard();
                    return heard.count("net 3") && heard.at("net 3") == how;
                },
                60000);
        };
        QVERIFY(QTest::qWaitFor([&] { return air.furnished(); }, 120000));
        QVERIFY(hears("open"));
        const auto key = site::newAudioKey();
        to->setKey(key);
        QVERIFY(hears("refused"));
        from->setKey(key);
        QVERIFY(hears("encrypted"));
        QVERIFY(QTest::qWaitFor([&] { return loudest > -40; }, 60000)); // the talker
        to->setAddress("127.20.8.5");                                   // gets another address while sound comes
        from->plugged = false;
        QVERIFY(hears("none"));
        from->plugged = true;
        QVERIFY(hears("encrypted"));
        QVERIFY(loudest < 0);
    } // ends while everything runs
};

LOOM_TEST(tst_air, TestAir)
#include "tst_air.moc"
