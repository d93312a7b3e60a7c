// Somebody else's tools hear our streams by the descriptions that we write, and theirs are heard here: GStreamer and
// FFmpeg, on this machine only. They keep the time of the clock on the wall, and so do these tests.
#ifndef Q_MOC_RUN
#include "stream/rtp.h"
#include "stream/sdp.h"
#include "stream/srtp.h"
#include <arpa/inet.h>
#include <atomic>
#include <chrono>
#include <cstring>
#include <netinet/in.h>
#include <random>
#include <sys/socket.h>
#include <thread>
#include <unistd.h>
#endif
#include "test.h"
#include <QElapsedTimer>
#include <QFile>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>

using namespace loom::stream;

class Udp { // on the loopback net
  public:
    Udp() : is_(::socket(AF_INET, SOCK_DGRAM, 0)) {
        sockaddr_in here = at(0);
        ::bind(is_, reinterpret_cast<sockaddr*>(&here), sizeof here);
        timeval wait{0, 200000};
        ::setsockopt(is_, SOL_SOCKET, SO_RCVTIMEO, &wait, sizeof wait);
        int room = 1 << 20;
        ::setsockopt(is_, SOL_SOCKET, SO_RCVBUF, &room, sizeof room);
    }
    ~Udp() { ::close(is_); }
    int port() const {
        sockaddr_in a{};
        socklen_t size = sizeof a;
        ::getsockname(is_, reinterpret_cast<sockaddr*>(&a), &size);
        return ntohs(a.sin_port);
    }
    void send(int port, std::span<const std::uint8_t> bytes) {
        sockaddr_in to = at(port);
        ::sendto(is_, bytes.data(), bytes.size(), 0, reinterpret_cast<sockaddr*>(&to), sizeof to);
    }
    std::vector<std::uint8_t> receive() { // empty: nothing came for 0.2 s
        std::vector<std::uint8_t> b(2048);
        const auto n = ::recv(is_, b.data(), b.size(), 0);
        b.resize(n > 0 ? static_cast<std::size_t>(n) : 0);
        return b;
    }

  private:
    static sockaddr_in at(int port) {
        sockaddr_in a{};
        a.sin_family = AF_INET;
        a.sin_port = htons(static_cast<std::uint16_t>(port));
        a.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        return a;
    }
    int is_;
};

class TestOthers : public QObject {
    Q_OBJECT
    static constexpr int channels = 2, seconds = 30;
    Format format_{Encoding::l24, channels, 48000, 48};
    std::vector<std::vector<float>> sound_;
    QByteArray bytes_; // the same as they lie in packets
    QTemporaryDir folder_;

    static int freePort() { // even, as RTP likes it
        for (;;)
            if (const int p = Udp().port(); p % 2 == 0)
                return p;
    }
    Description described(int port) const {
        Description d;
        d.name = "proof";
        d.session = 1;
        d.version = 1;
        d.origin = d.address = "127.0.0.1";
        d.port = port;
        d.format = format_;
        return d;
    }
    // Sends the sound at its own pace until `done`, packet after packet.
    std::jthread sending(int port, const std::atomic<bool>& done, bool sealed = false) {
        return std::jthread([this, port, &done, sealed] {
            Udp udp;
            PacketMaker maker(format_, 98, 0xabcd0001, 7, 1000);
            auto sealer = Sealer::sending({1, 2, 3});
            auto due = std::chrono::steady_clock::now();
            for (std::size_t at = 0; !done && at + 48 <= sound_[0].size(); at += 48) {
                const float* now[] = {sound_[0].data() + at, sound_[1].data() + at};
                const auto packet = maker.next(now);
                udp.send(port, sealed ? sealer->seal(packet) : packet);
                due += std::chrono::milliseconds(1);
                std::this_thread::sleep_until(due);
            }
        });
    }
    // How many bytes of `heard` lie, one behind the other, in what was sent.
    qsizetype sameRun(const QByteArray& heard) const {
        const qsizetype probe = 48 * 3 * channels;
        for (qsizetype skip = 0; skip + probe <= heard.size() && skip < 40 * probe; skip += 3 * channels)
            if (const auto at = bytes_.indexOf(heard.mid(skip, probe)); at >= 0) {
                qsizetype n = 0;
                while (skip + n < heard.size() && at + n < bytes_.size() && heard[skip + n] == bytes_[at + n])
                    ++n;
                return n;
            }
        return 0;
    }
    QString fileOf(const char* name, const QByteArray& content) const {
        QFile f(folder_.filePath(name));
        if (f.open(QFile::WriteOnly))
            f.write(content);
        return f.fileName();
    }
    static QByteArray contentOf(const QString& name) {
        QFile f(name);
        return f.open(QFile::ReadOnly) ? f.readAll() : QByteArray();
    }
    QByteArray ffmpegHears(bool sealed) {
        const int port = freePort();
        const QString sdp = fileOf("f.sdp", QByteArray::fromStdString(sdpText(described(port)))),
                      out = folder_.filePath("f.raw");
        QFile::remove(out);
        std::atomic<bool> done{false};
        QProcess p;
        p.start("ffmpeg", {"-nostdin", "-v", "error", "-protocol_whitelist", "file,udp,rtp", "-i", sdp, "-t", "0.6",
                           "-c:a", "pcm_s24be", "-f", "s24be", out});
        if (!p.waitForStarted())
            return {};
        const auto thread = sending(port, done, sealed);
        p.waitForFinished(25000);
        done = true;
        if (p.state() != QProcess::NotRunning)
            p.kill();
        p.waitForFinished(3000);
        const auto said = p.readAllStandardError();
        if (!said.isEmpty())
            qInfo("%s", said.constData());
        return contentOf(out);
    }
    QByteArray gstreamerHears(bool sealed) {
        const int port = freePort();
        const QString sdp = fileOf("g.sdp", QByteArray::fromStdString(sdpText(described(port)))),
                      out = folder_.filePath("g.raw");
        QFile::remove(out);
        std::atomic<bool> done{false};
        QProcess p;
        p.setProcessChannelMode(QProcess::MergedChannels);
        p.start("gst-launch-1.0", {"-q", "filesrc", "location=" + sdp, "!", "sdpdemux", "latency=20", "!",
                                   "rtpL24depay", "!", "filesink", "buffer-mode=unbuffered", "location=" + out});
        if (!p.waitForStarted())
            return {};
        const auto thread = sending(port, done, sealed);
        QElapsedTimer since;
        since.start();
        while (since.elapsed() < (sealed ? 6000 : 25000) && QFile(out).size() < 48000 * 3 * channels * 6 / 10)
            p.waitForFinished(50);
        done = true;
        p.kill();
        p.waitForFinished(3000);
        return contentOf(out);
    }

  private slots:
    void initTestCase() {
        for (const char* tool : {"ffmpeg", "gst-launch-1.0"})
            QVERIFY2(!QStandardPaths::findExecutable(tool).isEmpty(), tool);
        std::mt19937 dice(23);
        sound_.assign(channels, std::vector<float>(48000 * seconds));
        for (std::size_t n = 0; n < sound_[0].size(); ++n)
            for (auto& c : sound_) {
                const auto v = static_cast<std::int32_t>(dice() & 0xffffff) - 0x800000;
                c[n] = static_cast<float>(v) / 8388608.0f;
                for (int shift = 16; shift >= 0; shift -= 8)
                    bytes_ += static_cast<char>((v >> shift) & 0xff);
            }
    }
    void ffmpegHearsEveryBit() {
        const auto heard = ffmpegHears(false);
        QVERIFY2(heard.size() > 48000 * 3 * channels / 3, QByteArray::number(heard.size()));
        QVERIFY2(sameRun(heard) > 48000 * 3 * channels / 3, QByteArray::number(sameRun(heard)));
    }
    void gstreamerHearsEveryBit() {
        const auto heard = gstreamerHears(false);
        QVERIFY2(heard.size() > 48000 * 3 * channels / 3, QByteArray::number(heard.size()));
        QVERIFY2(sameRun(heard) > 48000 * 3 * channels / 3, QByteArray::number(sameRun(heard)));
    }
    void neitherHearsASealedOne() {
        QCOMPARE(sameRun(ffmpegHears(true)), qsizetype(0));
        QCOMPARE(sameRun(gstreamerHears(true)), qsizetype(0));
    }
    void gstreamerIsHeard() {
        Udp udp;
        const QString raw = fileOf("in.raw", bytes_.left(48000 * 3 * channels * 2));
        QProcess p;
        p.start("gst-launch-1.0", {"-q", "filesrc", "location=" + raw, "!", "rawaudioparse", "use-sink-caps=false",
                                   "format=pcm", "pcm-format=s24be", "sample-rate=48000", "num-channels=2", "!",
                                   "rtpL24pay", "pt=96", "min-ptime=1000000", "max-ptime=1000000", "!", "udpsink",
                                   "host=127.0.0.1", "port=" + QString::number(udp.port())});
        QVERIFY(p.waitForStarted());
        // As somebody would paste it.
        const auto d = readSdp("v=0\no=- 5 1 IN IP4 127.0.0.1\ns=theirs\nc=IN IP4 127.0.0.1\nt=0 0\nm=audio " +
                               std::to_string(udp.port()) + " RTP/AVP 96\na=rtpmap:96 L24/48000/2\na=ptime:1\n");
        QVERIFY(d);
        PacketReader reader(d->format, d->payload, 10 * d->format.frames);
        std::vector<float> left(48), right(48);
        QByteArray heard;
        QElapsedTimer since;
        since.start();
        while (since.elapsed() < 20000 && heard.size() < 48000 * 3 * channels) {
            const auto packet = udp.receive();
            if (packet.empty())
                continue;
            reader.take(packet);
            float* to[] = {left.data(), right.data()};
            reader.read(to, 48);
            for (int f = 0; f < 48; ++f)
                for (const auto* c : {&left, &right}) {
                    const auto v = static_cast<std::int32_t>((*c)[static_cast<std::size_t>(f)] * 8388608.0f);
                    for (int shift = 16; shift >= 0; shift -= 8)
                        heard += static_cast<char>((v >> shift) & 0xff);
                }
        }
        p.kill();
        p.waitForFinished(3000);
        heard.remove(0, 10 * 48 * 3 * channels); // the buffer's silence
        QVERIFY2(sameRun(heard) > 48000 * 3 * channels * 8 / 10, QByteArray::number(sameRun(heard)));
        QVERIFY(reader.counts().foreign == 0 && reader.counts().lost == 0);
    }
};

LOOM_TEST(tst_others, TestOthers)
#include "tst_others.moc"
