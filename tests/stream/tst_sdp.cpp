// Descriptions of streams: ours read back, those of others with their truth, what is wrong with the line that is.
#ifndef Q_MOC_RUN
#include "stream/sap.h"
#include <random>
#endif
#include "test.h"

using namespace loom;
using namespace loom::stream;

class TestSdp : public QObject {
    Q_OBJECT
    static Description mix() {
        Description d;
        d.name = "hall-mix";
        d.session = 71;
        d.version = 3;
        d.origin = "10.20.4.11";
        d.address = "239.20.4.17";
        d.format = {Encoding::l24, 2, 48000, 48};
        return d;
    }
    static std::string line(const std::string& text, int n) {
        std::istringstream in(text);
        std::string l;
        for (int k = 0; k < n; ++k)
            std::getline(in, l);
        return l;
    }

  private slots:
    void asItIsWritten() {
        QCOMPARE(sdpText(mix()),
                 std::string("v=0\r\no=- 71 3 IN IP4 10.20.4.11\r\ns=hall-mix\r\nc=IN IP4 239.20.4.17/0\r\n"
                             "t=0 0\r\nm=audio 5004 RTP/AVP 98\r\na=rtpmap:98 L24/48000/2\r\na=ptime:1\r\n"
                             "a=recvonly\r\na=ts-refclk:private\r\na=mediaclk:direct=0\r\n"));
    }
    void readBack() {
        std::mt19937 dice(11);
        for (int n = 0; n < 2000; ++n) {
            Description d = mix();
            d.name = "stream " + std::to_string(dice() % 1000);
            d.session = (std::uint64_t(dice()) << 32) | dice();
            d.version = dice();
            d.port = 1024 + static_cast<int>(dice() % 60000);
            d.payload = 96 + static_cast<int>(dice() % 32);
            d.sealed = dice() % 2;
            d.format.encoding = dice() % 2 ? Encoding::l24 : Encoding::l16;
            const double rates[] = {44100, 48000, 88200, 96000}, times[] = {0.125, 0.25, 0.333, 1, 2, 4};
            d.format.rate = rates[dice() % 4];
            d.format.frames = framesOf(times[dice() % 6], d.format.rate);
            d.format.channels =
                1 + static_cast<int>(dice() % static_cast<unsigned>(std::max(channelsThatFit(d.format), 1)));
            if (errorIn(d.format))
                continue;
            if (dice() % 2) {
                d.address = "10.20.4." + std::to_string(dice() % 250);
                d.ttl = 0;
            } else {
                d.ttl = static_cast<int>(dice() % 256);
            }
            if (dice() % 2)
                d.clockOffset = static_cast<std::uint32_t>(dice());
            if (dice() % 2)
                d.source = "10.20.4.9";
            const auto back = readSdp(sdpText(d));
            QVERIFY2(bool(back), back ? "" : (sdpText(d) + back.error().text()).c_str());
            QVERIFY2(*back == d, (sdpText(d) + "\n" + sdpText(*back)).c_str());
        }
    }
    // Signs that cannot be shown become blanks; what is written then reads the same again.
    void blanksOfAClock() {
        std::string text = sdpText(mix());
        text.replace(text.find("ts-refclk:private"), 17, "ts-refclk:\x03\x01pri\x02vate");
        const auto once = readSdp(text);
        QVERIFY(once && once->clock == "pri vate");
        QCOMPARE(readSdp(sdpText(*once))->clock, once->clock);
    }
    void ofOthers_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QByteArray>("is"); // encoding channels rate frames address port payload name
        const QByteArray head = "v=0\no=- 1 1 IN IP4 10.0.0.9\ns=Stage left\nt=0 0\n";
        QTest::newRow("line feeds, address of the medium")
            << head + "m=audio 5004 RTP/AVP 96\nc=IN IP4 239.1.2.3/15\na=rtpmap:96 L16/48000/8\na=ptime:1\n"
            << QByteArray("L16 8 48000 48 239.1.2.3 5004 96 Stage left");
        QTest::newRow("video first, then speech in another code, then ours")
            << head + "c=IN IP4 239.9.9.9/1\nm=video 6000 RTP/AVP 99\na=rtpmap:99 H264/90000\nm=audio 6002 RTP/AVP 0\n"
                      "m=audio 6004 RTP/AVP 0 97\na=rtpmap:97 L24/96000/4\na=ptime:0.25\n"
            << QByteArray("L24 4 96000 24 239.9.9.9 6004 97 Stage left");
        QTest::newRow("no packet time, one channel by default")
            << head + "c=IN IP4 10.0.0.40\nm=audio 7000 RTP/AVP 100\na=rtpmap:100 L24/48000\n"
            << QByteArray("L24 1 48000 48 10.0.0.40 7000 100 Stage left");
        QTest::newRow("packet time as it is with 44.1 kHz")
            << head + "c=IN IP4 239.1.1.1/32\nm=audio 5004/1 RTP/AVP 98\na=rtpmap:98 L24/44100/2\na=ptime:1.088435374\n"
            << QByteArray("L24 2 44100 48 239.1.1.1 5004 98 Stage left");
        QTest::newRow("attributes nobody knows, a clock by IEEE 1588, a filter of senders")
            << head +
                   "i=told\nu=http://example.invalid/\nb=AS:3000\na=tool:loom\nc=IN IP4 239.1.1.2/32\nm=audio 5004 "
                   "RTP/AVP "
                   "98\ni=ch 1-2\na=rtpmap:98 "
                   "L24/48000/2\na=ptime:1\na=ts-refclk:ptp=IEEE1588-2008:00-11-22-FF-FE-33-44-"
                   "55:0\na=mediaclk:direct=963214424\na=source-filter: incl IN IP4 239.1.1.2 10.0.0.9\na=sync-time:0\n"
            << QByteArray("L24 2 48000 48 239.1.1.2 5004 98 Stage left");
        QTest::newRow("old Mac's writing is not known, but a lonely return is")
            << head + "c=IN IP4 239.1.1.3/32\r\n\r\nm=audio 5004 RTP/AVP 98\r\na=rtpmap:98 L16/48000/2\r\na=ptime:4\r\n"
            << QByteArray("L16 2 48000 192 239.1.1.3 5004 98 Stage left");
    }
    void ofOthers() {
        QFETCH(QByteArray, text);
        QFETCH(QByteArray, is);
        const auto d = readSdp(text.toStdString());
        QVERIFY2(bool(d), d ? "" : d.error().text().c_str());
        const auto said = QString("%1 %2 %3 %4 %5 %6 %7 %8")
                              .arg(nameOf(d->format.encoding))
                              .arg(d->format.channels)
                              .arg(d->format.rate)
                              .arg(d->format.frames)
                              .arg(d->address.c_str())
                              .arg(d->port)
                              .arg(d->payload)
                              .arg(d->name.c_str());
        QCOMPARE(said.toUtf8(), is);
        if (text.contains("963214424"))
            QVERIFY(d->clockOffset == 963214424u && d->source == "10.0.0.9" && d->clock.starts_with("ptp=IEEE1588"));
    }
    void whatIsWrong_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QByteArray>("says");
        const QByteArray head = "v=0\no=- 1 1 IN IP4 10.0.0.9\ns=x\nc=IN IP4 239.1.1.1/32\nt=0 0\n",
                         m = "m=audio 5004 RTP/AVP 98\n";
        const auto row = [&](const char* name, const QByteArray& text, const char* says) {
            QTest::newRow(name) << text << QByteArray(says);
        };
        row("nothing", "", "describes no sound");
        row("another text", "hello", "line 1 of the description: does not begin");
        row("no sound", head, "describes no sound");
        row("a line that is none", head + "nonsense\n", "line 6");
        row("no map", head + m, "does not say how its samples");
        row("a map of another", head + m + "a=rtpmap:97 L24/48000/2\n", "is written as L24");
        row("another code", head + m + "a=rtpmap:98 opus/48000/2\n", "is written as opus");
        row("map torn", head + m + "a=rtpmap:98 L24\n", "line 7");
        row("too many channels", head + m + "a=rtpmap:98 L24/48000/64\na=ptime:1\n", "64 channels");
        row("hostile channels", head + m + "a=rtpmap:98 L24/48000/99999999999999999999\n", "line 7");
        row("no channel", head + m + "a=rtpmap:98 L24/48000/0\n", "0 channels");
        row("another rate", head + m + "a=rtpmap:98 L24/32000/2\n", "32000 Hz");
        row("packet time", head + m + "a=rtpmap:98 L24/48000/2\na=ptime:-1\n", "line 8");
        row("a long one", head + m + "a=rtpmap:98 L24/48000/2\na=ptime:20\n", "20 ms");
        row("hostile time", head + m + "a=rtpmap:98 L24/48000/2\na=ptime:99999999999999999\n", "packets of");
        row("IPv6", "v=0\ns=x\nc=IN IP6 ff02::1\n", "line 3 of the description: goes to an address of IPv6");
        row("bad address", "v=0\ns=x\nc=IN IP4 239.1.1.999/32\n", "line 3");
        row("bad ttl", "v=0\ns=x\nc=IN IP4 239.1.1.9/999\n", "line 3");
        row("no address", "v=0\ns=x\n" + m + "a=rtpmap:98 L24/48000/2\n", "has no address");
        row("bad port", head + "m=audio 70000 RTP/AVP 98\n", "line 6");
        row("bad origin", "v=0\no=- x y IN IP4 1.2.3.4\n", "line 2");
        row("too many lines", head + QByteArray("a=x\n").repeated(600), "more than 500 lines");
        row("too large", head + "a=" + QByteArray(70000, 'x') + "\n", "64 KiB");
    }
    void whatIsWrong() {
        QFETCH(QByteArray, text);
        QFETCH(QByteArray, says);
        const auto d = readSdp(text.toStdString());
        QVERIFY(!d);
        QVERIFY2(d.error().text().find(says.toStdString()) != std::string::npos, d.error().text().c_str());
        QVERIFY(!d.error().remedy.empty());
    }
    void announced() {
        const auto text = sdpText(mix());
        const Announcement a{false, sapHashOf(text), "10.20.4.11", text};
        const auto packet = sapPacket(a);
        QVERIFY(packet[0] == 0x20 && packet[1] == 0 && packet[4] == 10 && packet[7] == 11);
        QCOMPARE(std::string(packet.begin() + 8, packet.begin() + 23), std::string("application/sdp"));
        QVERIFY(readSap(packet) && *readSap(packet) == a);
        Directory known;
        QVERIFY(known.take(packet, 0) && known.all().size() == 1);
        QVERIFY(!known.take(packet, 30)); // the same once more
        auto next = mix();
        next.version = 4;
        next.format.channels = 4;
        const auto changed = sdpText(next);
        QVERIFY(known.take(sapPacket({false, sapHashOf(changed), "10.20.4.11", changed}), 60));
        QVERIFY(known.all().size() == 1 && known.all().begin()->second.description.format.channels == 4);
        QVERIFY(!known.take(packet, 61) && known.refused() == 1); // the old one, late
        QVERIFY(!known.forget(3600) && known.forget(3661) && known.all().empty());
        known.take(packet, 4000);
        QVERIFY(!known.take(sapPacket({true, a.hash, "10.20.4.12", text}), 4001)); // somebody else cannot end it
        QVERIFY(known.take(sapPacket({true, a.hash, "10.20.4.11", text}), 4002) && known.all().empty());
    }
    void floods() {
        Directory known;
        for (int n = 0; n < 5000; ++n) {
            auto d = mix();
            d.session = static_cast<std::uint64_t>(n);
            const auto text = sdpText(d);
            known.take(sapPacket({false, static_cast<std::uint16_t>(n + 1), "10.20.4.11", text}), n * 0.001);
        }
        QCOMPARE(known.all().size(), Directory::most);
        QCOMPARE(known.refused(), 5000 - Directory::most);
        const std::vector<std::vector<std::uint8_t>> bad{
            {},
            {0x20},
            {0x40, 0, 0, 1, 1, 2, 3, 4, 'v', '=', '0'},
            {0x20, 255, 0, 1, 1, 2, 3, 4, 'v', '=', '0'},
            {0x30, 0, 0, 1, 1, 2, 3, 4, 'v', '=', '0'},
            {0x22, 0, 0, 1, 1, 2, 3, 4, 'v', '=', '0'},
            {0x20, 0, 0, 1, 1, 2, 3, 4, 't', 'e', 'x', 't', 0, 'v', '=', '0'},
            {0x20, 0, 0, 1, 1, 2, 3, 4, 'x', 'x'}};
        for (const auto& p : bad)
            QVERIFY(!readSap(p));
    }
    void addresses() {
        for (const char* good : {"0.0.0.0", "10.20.4.11", "255.255.255.255"})
            QVERIFY(isIpv4(good));
        for (const char* none : {"", "1.2.3", "1.2.3.4.5", "1.2.3.256", "1..2.3", "a.b.c.d", "1.2.3.4 ", "1.2.3.0004"})
            QVERIFY2(!isIpv4(none), none);
        Description d = mix();
        QVERIFY(d.multicast());
        d.address = "10.1.1.1";
        QVERIFY(!d.multicast());
        d.address = "240.1.1.1";
        QVERIFY(!d.multicast());
    }
};

LOOM_TEST(tst_sdp, TestSdp)
#include "tst_sdp.moc"
