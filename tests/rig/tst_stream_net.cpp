// Streams between the devices of a rig: bit for bit, to the sample, to many and to one, announced, and heard by others.
#ifndef Q_MOC_RUN
#include "patch/delays.h"
#include "stream/sap.h"
#include "stream_bench.h"
#include <fstream>
#include <net/if.h>
#include <sched.h>
#include <sstream>
#include <sys/ioctl.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>
#endif
#include "test.h"
#include <QNetworkInterface>
#include <QUdpSocket>

using namespace loom;
using namespace loom::test;

class TestStreamNet : public QObject {
    Q_OBJECT

    // Plays numbers, and says how late each channel of a device comes and whether every bit was right; -1: it was not.
    int lateness(StreamBench& n, const std::string& d, int first, int blocks = 30) {
        std::vector<std::vector<float>> played(8), heard(8);
        for (int b = 0; b < blocks; ++b) {
            std::vector<float> block(rig::soundBlock);
            for (int c = 0; c < 8; ++c) {
                for (int i = 0; i < rig::soundBlock; ++i)
                    block[static_cast<std::size_t>(i)] = sampleOf(c, b * rig::soundBlock + i);
                played[static_cast<std::size_t>(c)].insert(played[static_cast<std::size_t>(c)].end(), block.begin(),
                                                           block.end());
                n.play("a", "net " + std::to_string(c + 1), block);
            }
            n.net.step();
            for (int c = 0; c < 8; ++c) {
                const auto h = n.heard(d, "net " + std::to_string(first + c));
                heard[static_cast<std::size_t>(c)].insert(heard[static_cast<std::size_t>(c)].end(), h.begin(), h.end());
            }
        }
        // Lanes read a block behind what was written.
        for (int late = 0; late < 4000; ++late) {
            bool same = true;
            for (std::size_t c = 0; c < 8 && same; ++c)
                for (std::size_t i = 8000; i < 12000 && same; ++i)
                    same = heard[c][i] == played[c][i - static_cast<std::size_t>(late)];
            if (same)
                return late;
        }
        return -1;
    }

  private slots:
    void bitForBitAndToTheSample() {
        const auto p = three();
        StreamBench n(p);
        const int late = lateness(n, "b", 1);
        const auto patched = project::patchedOf(p);
        const auto wired = project::wiredOf(p, patched);
        const double ms = project::delayOf(p, patched, wired, wired.deliveries[0]).total();
        QCOMPARE(late, rig::soundBlock + static_cast<int>(std::lround(ms * 48)));
        QCOMPARE(n.net.states().size(), std::size_t(2));
        for (const auto& s : n.net.states())
            QVERIFY(s.counts.lost == 0 && s.counts.late == 0 && s.counts.foreign == 0 && s.counts.taken > 200);
    }
    void delaysAreAligned() {
        auto p = three();
        p.device("c")->receivers[0].delayMs = 7;
        StreamBench n(p), m(p);
        const int b = lateness(n, "b", 1), c = lateness(m, "c", 9);
        QVERIFY(b > 0 && c - rig::soundBlock == 7 * 48 && c > b);
    }
    void toOneOnly() {
        auto p = three();
        p.device("a")->streams[0].unicast = true;
        p.device("c")->receivers.clear();
        p.device("b")->address = "127.20.9.2";
        StreamBench n(p);
        QVERIFY(lateness(n, "b", 1) > 0);
    }
    void sealedAndShortPackets() {
        auto p = three();
        p.device("a")->streams[0].packetMs = 0.125;
        p.device("a")->streams[0].samples = project::Stream::Samples::l24;
        StreamBench n(p);
        const auto key = site::newAudioKey();
        n.sides["a"]->setKey(key);
        n.sides["b"]->setKey(key);
        QVERIFY(lateness(n, "b", 1) > 0);
        QCOMPARE(n.sides["b"]->heard().at("net 1"), std::string("encrypted"));
        QCOMPARE(n.sides["c"]->heard().at("net 9"), std::string("refused")); // has no key
        const auto states = n.net.states();
        QVERIFY(states[0].refused == 0 && states[1].refused > 100 && states[1].counts.taken == 0);
    }
    void levelMuteAndPolarityOfBothEnds() {
        auto p = three();
        p.device("a")->streams[0].levelDb = -6;
        p.device("b")->receivers[0].levelDb = -6;
        p.device("b")->receivers[0].inverted = true;
        p.device("c")->receivers[0].muted = true;
        StreamBench n(p);
        std::vector<float> steady(rig::soundBlock, 0.5f);
        float b = 0, c = 1;
        for (int i = 0; i < 10; ++i) {
            for (int ch = 1; ch <= 8; ++ch)
                n.play("a", "net " + std::to_string(ch), steady);
            n.net.step();
            b = n.heard("b", "net 1").back();
            c = n.heard("c", "net 9").back();
        }
        QVERIFY(std::abs(b + 0.5 * std::pow(10, -12 / 20.0)) < 1e-6);
        QCOMPARE(std::abs(c), 0.0f);
    }
    void unpluggedAndBack() {
        const auto p = three();
        StreamBench n(p);
        std::vector<float> steady(rig::soundBlock, 0.5f);
        const auto run = [&](int blocks) {
            float last = 0;
            for (int i = 0; i < blocks; ++i) {
                for (int ch = 1; ch <= 8; ++ch)
                    n.play("a", "net " + std::to_string(ch), steady);
                n.net.step();
                last = n.heard("b", "net 1").back();
            }
            return last;
        };
        QCOMPARE(run(10), 0.5f);
        n.sides["a"]->plugged = false;
        QCOMPARE(run(30), 0.0f);
        QCOMPARE(n.sides["b"]->heard().at("net 1"), std::string("none"));
        n.sides["a"]->plugged = true;
        QCOMPARE(run(10), 0.5f);
        QCOMPARE(n.sides["b"]->heard().at("net 1"), std::string("open"));
        n.sides["b"]->setAddress("127.20.9.77"); // to a group it goes all the same
        QCOMPARE(run(10), 0.5f);
    }
    // A receiver is told to hear another stream while it runs; what others hear goes on.
    void toldWhileItRuns() {
        auto p = three();
        p.device("a")->streams.push_back(stream8());
        p.device("a")->streams[1].id = p.device("a")->streams[1].name = "other";
        for (int n = 0; n < 8; ++n)
            p.device("a")->streams[1].ports[static_cast<std::size_t>(n)] = "net " + std::to_string(n + 9);
        p.device("b")->receivers[0].streams = {"a/mix", "a/other"};
        StreamBench n(p);
        const std::vector<float> mix(rig::soundBlock, 0.5f), other(rig::soundBlock, 0.25f);
        const auto run = [&](int blocks, const char* device = "b", const char* port = "net 1") {
            float last = 0;
            for (int i = 0; i < blocks; ++i) {
                for (int c = 1; c <= 8; ++c) {
                    n.play("a", "net " + std::to_string(c), mix);
                    n.play("a", "net " + std::to_string(c + 8), other);
                }
                n.net.step();
                last = n.heard(device, port).back();
                (void)n.heard("c", "net 9");
            }
            return last;
        };
        QCOMPARE(run(10), 0.5f);
        const auto takenByC = [&] {
            for (const auto& s : n.net.states())
                if (s.device == "c")
                    return s.counts;
            return stream::PacketReader::Counts{};
        };
        const auto before = takenByC();
        auto told = project::DeviceSound{{}, p.device("b")->receivers};
        told.receivers[0].chosen = 1;
        n.sides["b"]->tell(told);
        QCOMPARE(run(10), 0.25f);
        const auto after = takenByC();
        QVERIFY(after.taken > before.taken && after.lost == before.lost && after.again == before.again);
        // Level at once, without a break; on another input; and off.
        told.receivers[0].levelDb = -6.0206;
        n.sides["b"]->tell(told);
        QVERIFY(std::abs(run(1) - 0.125f) < 1e-5);
        told.receivers[0].inputs[0] = "net 20";
        n.sides["b"]->tell(told);
        QVERIFY(std::abs(run(5, "b", "net 20") - 0.125f) < 1e-5);
        QVERIFY(n.sides["b"]->heard().count("net 20") && !n.sides["b"]->heard().count("net 1"));
        n.sides["b"]->tell({});
        (void)run(3);
        QVERIFY(n.net.states().size() == 1 && n.sides["b"]->heard().empty());
        // A stream that is withdrawn is heard no more; offered again, it is.
        n.sides["a"]->tell({});
        (void)run(3, "c", "net 9");
        QVERIFY(n.net.states().empty());
        n.sides["a"]->tell({p.device("a")->streams, {}});
        QCOMPARE(run(10, "c", "net 10"), 0.5f);
    }
    void announcedAndTakenBack() {
        QUdpSocket ear;
        QVERIFY(
            ear.bind(QHostAddress("239.255.255.255"), 9875, QUdpSocket::ShareAddress | QUdpSocket::ReuseAddressHint));
        QVERIFY(ear.joinMulticastGroup(QHostAddress("239.255.255.255"), QNetworkInterface::interfaceFromName("lo")));
        stream::Directory known;
        const auto listen = [&] {
            while (ear.hasPendingDatagrams()) {
                QByteArray bytes(int(ear.pendingDatagramSize()), 0);
                (void)ear.readDatagram(bytes.data(), bytes.size());
                (void)known.take({reinterpret_cast<const std::uint8_t*>(bytes.data()), std::size_t(bytes.size())}, 1);
            }
            std::vector<stream::Description> ours;
            for (const auto& [_, e] : known.all())
                if (e.source == "127.20.9.1")
                    ours.push_back(e.description);
            return ours;
        };
        {
            StreamBench n(three());
            n.net.step();
            QTRY_COMPARE(listen().size(), std::size_t(1));
            const auto d = listen()[0];
            const auto p = three();
            QVERIFY(d.name == "mix" && d.format.channels == 8 &&
                    d.address == project::patchedOf(p).offers[0].description.address);
        }
        QTRY_VERIFY(listen().empty());
    }
    // Packets and bytes of IP are those that the loopback device counts, in a network of the test's own. (Packets to a
    // group with a TTL of 0 never come to it.)
    void countedByTheDevice() {
        int ends[2];
        QCOMPARE(::pipe(ends), 0);
        const pid_t child = ::fork();
        if (child == 0) {
            long long result[4]{-1, 0, 0, 0};
            const auto counted = [](long long& packets, long long& bytes) {
                std::ifstream in("/proc/net/dev");
                for (std::string line; std::getline(in, line);)
                    if (const auto at = line.find("lo:"); at != std::string::npos) {
                        std::istringstream words(line.substr(at + 3));
                        long long skip[7];
                        for (auto& s : skip)
                            words >> s;
                        words >> skip[0] >> bytes >> packets; // what was sent
                    }
            };
            if (::unshare(CLONE_NEWNET) == 0 || ::unshare(CLONE_NEWUSER | CLONE_NEWNET) == 0) {
                const int s = ::socket(AF_INET, SOCK_DGRAM, 0);
                ifreq lo{};
                lo.ifr_name[0] = 'l', lo.ifr_name[1] = 'o';
                lo.ifr_flags = IFF_UP | IFF_RUNNING;
                if (::ioctl(s, SIOCSIFFLAGS, &lo) == 0) {
                    auto p = three();
                    p.device("a")->streams[0].unicast = true;
                    p.device("c")->receivers.clear();
                    p.device("b")->address = "127.20.9.2";
                    StreamBench n(p);
                    const std::vector<float> steady(rig::soundBlock, 0.25f);
                    const auto run = [&](int blocks) {
                        for (int i = 0; i < blocks; ++i) {
                            for (int c = 1; c <= 8; ++c)
                                n.play("a", "net " + std::to_string(c), steady);
                            n.net.step();
                        }
                        return static_cast<long long>(n.net.states()[0].counts.taken);
                    };
                    const auto before = run(6); // both ends are there
                    long long packets = 0, bytes = 0;
                    counted(packets, bytes);
                    result[2] = run(300) - before;
                    counted(result[0], result[1]);
                    result[0] -= packets;
                    result[1] -= bytes;
                }
            }
            (void)!::write(ends[1], result, sizeof result);
            ::_exit(0);
        }
        long long result[4]{};
        QCOMPARE(::read(ends[0], result, sizeof result), ssize_t(sizeof result));
        ::waitpid(child, nullptr, 0);
        ::close(ends[0]);
        ::close(ends[1]);
        if (result[0] < 0)
            QSKIP("this system lets nobody have a network of their own");
        const auto p = three();
        const auto load = project::patchedOf(p).offers[0].load();
        const double seconds = 300.0 * rig::soundBlock / 48000;
        QCOMPARE(result[0], result[2]);
        QVERIFY2(std::abs(result[0] - load.packets * seconds) <= 1, QByteArray::number(result[0]));
        QCOMPARE(result[1], result[0] * 1192); // 1,152 of samples, 12 of RTP, 8 of UDP, 20 of IPv4
        QVERIFY(std::abs(load.ipBytes / load.packets - 1192) < 1e-9);
    }
};

LOOM_TEST(tst_stream_net, TestStreamNet)
#include "tst_stream_net.moc"
