// Somebody else's tools and the devices of a rig: FFmpeg and GStreamer hear a device by the description that the rig
// gives, hear nothing of a sealed one, and a device hears what GStreamer sends. They keep the time of the clock on the
// wall.
#ifndef Q_MOC_RUN
#include "patch/outside.h"
#include "stream_bench.h"
#endif
#include "test.h"
#include <QElapsedTimer>
#include <QFile>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>

using namespace loom;
using namespace loom::test;

class TestStreamTools : public QObject {
    Q_OBJECT

    // Two channels of numbers from device a to one address; the tool is there in place of device b. What it wrote: 24
    // bits a sample, the most significant byte first. `arguments`: with SDP and OUT for the files.
    static QByteArray toolHears(const QString& tool, QStringList arguments, int port, bool sealed, qsizetype enough) {
        auto p = three();
        auto& s = p.device("a")->streams[0];
        s.ports = {"net 1", "net 2"}, s.unicast = true, s.port = port;
        p.device("c")->receivers.clear();
        p.device("b")->receivers[0].inputs = inputs(1, 2);
        p.device("b")->address = "127.20.9.2";
        StreamBench n(p);
        n.sides["b"]->plugged = false;
        if (sealed)
            n.sides["a"]->setKey(site::newAudioKey());
        QTemporaryDir folder;
        const QString heard = folder.filePath("heard.raw");
        QFile sdp(folder.filePath("mix.sdp"));
        if (!sdp.open(QIODevice::WriteOnly)) // a sealed one as somebody who does not know would try it
            return {};
        sdp.write(QByteArray::fromStdString(stream::sdpText(project::patchedOf(p).offers[0].description)));
        sdp.close();
        arguments.replaceInStrings("SDP", sdp.fileName()).replaceInStrings("OUT", heard);
        QProcess hears;
        hears.start(tool, arguments);
        if (!hears.waitForStarted())
            return {};
        QElapsedTimer clock;
        clock.start();
        for (std::int64_t at = 0; hears.state() != QProcess::NotRunning && QFile(heard).size() < enough &&
                                  clock.elapsed() < (sealed ? 6000 : 25000);
             at += rig::soundBlock) {
            for (int c = 0; c < 2; ++c) {
                std::vector<float> block;
                for (int i = 0; i < rig::soundBlock; ++i)
                    block.push_back(sampleOf(c, at + i));
                n.play("a", "net " + std::to_string(c + 1), block);
            }
            n.net.step();
            (void)hears.waitForFinished(10); // the pace of the sound
        }
        hears.kill();
        hears.waitForFinished(3000);
        QFile raw(heard);
        return raw.open(QIODevice::ReadOnly) ? raw.readAll() : QByteArray();
    }
    // How many frames from the first on are what was played, without a break.
    static qsizetype sameFrames(const QByteArray& bytes) {
        const auto sample = [&](qsizetype frame, int channel) {
            const auto* b = reinterpret_cast<const unsigned char*>(bytes.constData()) + frame * 6 + channel * 3;
            return static_cast<std::int32_t>(std::uint32_t(b[0]) << 24 | std::uint32_t(b[1]) << 16 |
                                             std::uint32_t(b[2]) << 8) >>
                   8;
        };
        const auto played = [](int channel, std::int64_t n) {
            return static_cast<std::int32_t>(sampleOf(channel, n) * 8388608.0f);
        };
        const qsizetype frames = bytes.size() / 6;
        std::int64_t begin = 0;
        while (frames > 0 && begin < 48000 * 30 &&
               (played(0, begin) != sample(0, 0) || played(1, begin) != sample(0, 1)))
            ++begin;
        qsizetype same = 0;
        while (same < frames && played(0, begin + same) == sample(same, 0) &&
               played(1, begin + same) == sample(same, 1))
            ++same;
        return same;
    }
    static QString ffmpeg() { return QStandardPaths::findExecutable("ffmpeg"); }
    static QString gstreamer() { return QStandardPaths::findExecutable("gst-launch-1.0"); }
    static QStringList ffmpegArguments() {
        return {"-nostdin", "-loglevel", "error", "-protocol_whitelist", "file,udp,rtp", "-i", "SDP", "-t", "0.5",
                "-f",       "s24be",     "-c:a",  "pcm_s24be",           "OUT"};
    }
    static QStringList gstreamerArguments() {
        return {"-q", "filesrc",  "location=SDP",           "!",           "sdpdemux", "latency=20", "!", "rtpL24depay",
                "!",  "filesink", "buffer-mode=unbuffered", "location=OUT"};
    }

  private slots:
    void initTestCase() { // scripts/bootstrap installs both
        QVERIFY(!ffmpeg().isEmpty() && !gstreamer().isEmpty());
    }
    void eachHearsADevice() {
        const auto one = sameFrames(toolHears(ffmpeg(), ffmpegArguments(), 25004, false, 48000 * 6)),
                   other = sameFrames(toolHears(gstreamer(), gstreamerArguments(), 25020, false, 24000 * 6));
        QVERIFY2(one >= 12000 && other >= 12000, QByteArray::number(one) + " " + QByteArray::number(other));
    }
    void neitherHearsASealedOne() {
        QVERIFY(sameFrames(toolHears(ffmpeg(), ffmpegArguments(), 25016, true, 48000 * 6)) < 10);
        QVERIFY(sameFrames(toolHears(gstreamer(), gstreamerArguments(), 25024, true, 24000 * 6)) < 10);
    }
    // GStreamer sends; its description is taken into the project, and a device of the rig hears every bit.
    void gstreamerIsHeardInADevice() {
        QTemporaryDir folder;
        QFile raw(folder.filePath("sound.raw"));
        QVERIFY(raw.open(QIODevice::WriteOnly));
        QByteArray bytes;
        for (int n = 0; n < 48000 * 4; ++n)
            for (int c = 0; c < 2; ++c) {
                const auto v = static_cast<std::int32_t>(sampleOf(c, n) * 8388608.0f);
                for (int shift = 16; shift >= 0; shift -= 8)
                    bytes += static_cast<char>((v >> shift) & 0xff);
            }
        raw.write(bytes);
        raw.close();
        project::Project p;
        p.devices = {netDevice("b", "heddle-16")};
        const auto d =
            stream::readSdp("v=0\r\no=- 5 1 IN IP4 127.0.0.1\r\ns=theirs\r\nc=IN IP4 239.66.1.9/0\r\nt=0 0\r\n"
                            "m=audio 25010 RTP/AVP 96\r\na=rtpmap:96 L24/48000/2\r\na=ptime:1\r\n");
        QVERIFY(d);
        auto then = project::takeStream(p, *d, test::models());
        QVERIFY(then);
        p = *then->make(p);
        auto hears = project::hearStream(p, project::takenStream(p, *d), "b", "net 5");
        QVERIFY(hears);
        p = *hears->make(p);
        std::map<std::string, std::shared_ptr<engine::Cable>> cables;
        const auto side = std::make_shared<rig::SoundSide>();
        side->setAddress("127.20.9.2");
        rig::StreamNet net;
        net.lay(
            p, [](const auto&, const auto&) { return std::make_shared<engine::Cable>(); },
            [&](const auto&, const auto& port) { return cables[port] = std::make_shared<engine::Cable>(); },
            [&](const auto&) { return side; });
        QCOMPARE(cables.size(), std::size_t(2));
        net.step(); // listens
        QProcess sends;
        sends.start(gstreamer(), {"-q",
                                  "filesrc",
                                  "location=" + raw.fileName(),
                                  "!",
                                  "rawaudioparse",
                                  "use-sink-caps=false",
                                  "format=pcm",
                                  "pcm-format=s24be",
                                  "sample-rate=48000",
                                  "num-channels=2",
                                  "!",
                                  "rtpL24pay",
                                  "pt=96",
                                  "min-ptime=1000000",
                                  "max-ptime=1000000",
                                  "!",
                                  "udpsink",
                                  "host=239.66.1.9",
                                  "port=25010",
                                  "ttl-mc=0",
                                  "multicast-iface=lo"});
        QVERIFY(sends.waitForStarted());
        std::vector<float> heard[2];
        std::uint64_t read = 0;
        bool open = false;
        QElapsedTimer clock;
        clock.start();
        for (std::int64_t step = 0; clock.elapsed() < 20000 && heard[0].size() < 48000 * 6; ++step) {
            const qint64 due = step * rig::soundBlock * 1000 / 48000; // the pace of the sound
            if (const auto wait = due - clock.elapsed(); wait > 0)
                QTest::qWait(static_cast<int>(wait));
            net.step();
            const auto how = side->heard();
            open = open || (how.count("net 5") && how.at("net 5") == "open");
            const auto end = cables.at("net 5")->written();
            for (int c = 0; c < 2; ++c) {
                const auto at = heard[c].size();
                heard[c].resize(at + (end - read));
                cables.at(c == 0 ? "net 5" : "net 6")->copy(read, heard[c].data() + at, end - read);
            }
            read = end;
            if (sends.state() == QProcess::NotRunning && clock.elapsed() > 6000)
                break;
        }
        sends.kill();
        sends.waitForFinished(3000);
        // Where their sound begins, and how much of it is theirs bit for bit without a break.
        std::size_t longest = 0;
        for (std::size_t start = 0; start + 1000 < heard[0].size(); start += 97) {
            if (heard[0][start] == 0)
                continue;
            std::int64_t k = -1;
            for (std::int64_t n = 0; n < 48000 * 4 && k < 0; ++n)
                if (sampleOf(0, n) == heard[0][start] && sampleOf(1, n) == heard[1][start])
                    k = n;
            if (k < 0)
                continue;
            std::size_t run = 0;
            while (start + run < heard[0].size() &&
                   sampleOf(0, k + static_cast<std::int64_t>(run)) == heard[0][start + run] &&
                   sampleOf(1, k + static_cast<std::int64_t>(run)) == heard[1][start + run])
                ++run;
            longest = std::max(longest, run);
            start += run;
        }
        // A tenth of a second of two channels of 24 bits is no chance; on a slow machine the rig stumbles now and then.
        QVERIFY2(longest > 4800, std::to_string(longest).c_str());
        QVERIFY(open);
        qInfo("%zu samples of both channels bit for bit", longest);
    }
};

LOOM_TEST(tst_stream_tools, TestStreamTools)
#include "tst_stream_tools.moc"
