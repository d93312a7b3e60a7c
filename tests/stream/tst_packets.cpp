// Packets of sound: what they take, whether they carry every bit, and what becomes of those that come wrong.
#ifndef Q_MOC_RUN
#include "stream/rtp.h"
#include "stream/srtp.h"
#include <cmath>
#include <numbers>
#include <random>
#endif
#include "test.h"

using namespace loom::stream;

class TestPackets : public QObject {
    Q_OBJECT
    using Packet = std::vector<std::uint8_t>;
    using Sound = std::vector<std::vector<float>>; // by channel

    static Sound noise(int channels, int frames, int bits, unsigned seed = 5) {
        std::mt19937 dice(seed);
        Sound s(static_cast<std::size_t>(channels), std::vector<float>(static_cast<std::size_t>(frames)));
        const double full = std::exp2(bits - 1);
        for (auto& c : s)
            for (auto& v : c)
                v = static_cast<float>((static_cast<double>(dice() % static_cast<unsigned>(2 * full)) - full) / full);
        return s;
    }
    static std::vector<Packet> packetsOf(const Sound& s, const Format& f, std::uint16_t sequence = 0,
                                         std::uint32_t time = 0) {
        PacketMaker maker(f, 98, 0x1234, sequence, time);
        std::vector<Packet> all;
        for (std::size_t at = 0; at + static_cast<std::size_t>(f.frames) <= s[0].size();
             at += static_cast<std::size_t>(f.frames)) {
            std::vector<const float*> channels;
            for (const auto& c : s)
                channels.push_back(c.data() + at);
            const auto p = maker.next(channels.data());
            all.emplace_back(p.begin(), p.end());
        }
        return all;
    }
    // A packet taken, a packet's time read, and so on; then what was left in the buffer.
    static Sound heard(PacketReader& reader, const std::vector<Packet>& packets, const Format& f) {
        Sound out(static_cast<std::size_t>(f.channels));
        const auto read = [&] {
            std::vector<std::vector<float>> block(out.size(), std::vector<float>(static_cast<std::size_t>(f.frames)));
            std::vector<float*> to;
            for (auto& b : block)
                to.push_back(b.data());
            reader.read(to.data(), f.frames);
            for (std::size_t c = 0; c < out.size(); ++c)
                out[c].insert(out[c].end(), block[c].begin(), block[c].end());
        };
        for (const auto& p : packets) {
            if (!p.empty())
                reader.take(p);
            read();
        }
        for (int n = 0; n * f.frames < reader.delay(); ++n)
            read();
        return out;
    }

  private slots:
    void whatFits() {
        // The table of the issue: L24 at 48 kHz, 10 channels at 1 ms, 80 at 125 us.
        const auto fits = [](Encoding e, double ms) { return channelsThatFit({e, 1, 48000, framesOf(ms, 48000)}); };
        QCOMPARE(fits(Encoding::l24, 1), 10);
        QCOMPARE(fits(Encoding::l24, 0.125), 80);
        QCOMPARE(fits(Encoding::l16, 1), 15);
        QCOMPARE(fits(Encoding::l24, 4), 2);
        QCOMPARE(fits(Encoding::l16, 0.125), 80);
        QCOMPARE(framesOf(0.33, 48000), 16);
        QVERIFY(!errorIn({Encoding::l24, 10, 48000, 48}));
        const auto wrong = errorIn({Encoding::l24, 11, 48000, 48});
        QVERIFY(wrong && wrong->message.find("11 channels of L24") != std::string::npos &&
                wrong->remedy.find("10") != std::string::npos);
        QVERIFY(errorIn({Encoding::l24, 0, 48000, 48}) && errorIn({Encoding::l24, 2, 47999, 48}) &&
                errorIn({Encoding::l24, 2, 48000, 0}) && errorIn({Encoding::l24, 1, 48000, 240}));
    }
    // Two receivers that begin at different packets give a sample out at one time, if they have the sender's clock.
    void byTheSameClock() {
        const Format f{Encoding::l24, 1, 48000, 48};
        PacketMaker maker(f, 98, 7, 0, 1000);
        PacketReader early(f, 98, 96), lateComer(f, 98, 96), stranger(f, 98, 96);
        std::vector<float> ramp(48), a(48), b(48), c(48);
        for (std::uint32_t n = 0; n < 20; ++n) {
            for (std::uint32_t i = 0; i < 48; ++i)
                ramp[i] = static_cast<float>(n * 48 + i) / 8388608.0f;
            const float* channels[] = {ramp.data()};
            const std::uint32_t now = 1000 + n * 48 + 20; // it came 20 samples after it was due
            const auto packet = maker.next(channels);
            early.take(packet, now);
            if (n >= 5)
                lateComer.take(packet, now);
            stranger.take(packet, now + 500000000); // of another clock: by its arrival
            float *to[] = {a.data()}, *too[] = {b.data()}, *three[] = {c.data()};
            early.read(to, 48);
            if (n >= 5)
                lateComer.read(too, 48);
            stranger.read(three, 48);
        }
        QCOMPARE(a, b);
        QCOMPARE(a[0] * 8388608.0f, 19.0f * 48 + 20 - 96);
        QCOMPARE(c[0] * 8388608.0f, 19.0f * 48 - 96);
    }
    void whatTheyTake() {
        // By hand, for L24, 2 channels, 48 kHz, 1 ms: 288 bytes of samples; + 40 of IP = 328 bytes a packet; with 8 +
        // 14
        // + 4 + 12 = 38 of Ethernet 366 bytes; 1000 a second: 2.928 Mbit/s. With a tag 4, sealed 16 bytes more.
        const Format f{Encoding::l24, 2, 48000, 48};
        const auto plain = loadOf(f);
        QCOMPARE(plain.packets, 1000.0);
        QCOMPARE(plain.ipBytes, 328000.0);
        QCOMPARE(plain.wireBits, 2928000.0);
        QCOMPARE(loadOf(f, false, true).wireBits, 2960000.0);
        QCOMPARE(loadOf(f, true).wireBits, 3056000.0);
        // L16, 1 channel, 0.125 ms: 12 bytes + 40 = 52, more than Ethernet's 46: 90 bytes, 8000 a second.
        const auto small = loadOf({Encoding::l16, 1, 48000, 6});
        QCOMPARE(small.wireBits, 8000.0 * 8 * (8 + 14 + 52 + 4 + 12));
    }
    void everyBit() {
        for (const auto& f : {Format{Encoding::l24, 2, 48000, 48}, Format{Encoding::l24, 80, 48000, 6},
                              Format{Encoding::l16, 3, 48000, 192}, Format{Encoding::l24, 1, 96000, 96}}) {
            const auto sent = noise(f.channels, 40 * f.frames, f.encoding == Encoding::l24 ? 24 : 16);
            PacketReader reader(f, 98, 3 * f.frames);
            // Sequence and time both go over their ends on the way.
            const auto out = heard(reader, packetsOf(sent, f, 65530, 0xffffffff - 500), f);
            const auto late = static_cast<std::size_t>(3 * f.frames);
            for (std::size_t c = 0; c < sent.size(); ++c) {
                QVERIFY(std::all_of(out[c].begin(), out[c].begin() + static_cast<std::ptrdiff_t>(late),
                                    [](float v) { return v == 0; }));
                QVERIFY(std::equal(sent[c].begin(), sent[c].end(), out[c].begin() + static_cast<std::ptrdiff_t>(late)));
            }
            QCOMPARE(reader.counts(), (PacketReader::Counts{.taken = 40}));
        }
    }
    void aboveFullScaleIsCut() {
        const Format f{Encoding::l24, 1, 48000, 48};
        Sound s{{std::vector<float>(48)}};
        s[0][0] = 1.5f;
        s[0][1] = -1.5f;
        s[0][2] = std::nanf("");
        s[0][3] = 1e30f;
        PacketReader reader(f, 98, 48);
        const auto out = heard(reader, packetsOf(s, f), f);
        QCOMPARE(out[0][48], 8388607.0f / 8388608.0f);
        QCOMPARE(out[0][49], -1.0f);
        QCOMPARE(out[0][50], 0.0f);
        QCOMPARE(out[0][51], 8388607.0f / 8388608.0f);
    }
    void outOfOrder() {
        const Format f{Encoding::l24, 2, 48000, 48};
        const auto sent = noise(2, 60 * 48, 24);
        auto packets = packetsOf(sent, f);
        for (std::size_t n = 3; n + 2 < packets.size(); n += 5)
            std::swap(packets[n], packets[n + 1]); // within the buffer
        packets.insert(packets.begin() + 20, packets[19]);
        packets[19] = packets[18]; // one again, and again
        PacketReader reader(f, 98, 4 * 48);
        const auto out = heard(reader, packets, f);
        QVERIFY(std::equal(sent[1].begin(), sent[1].begin() + 15 * 48, out[1].begin() + 4 * 48));
        QVERIFY(reader.counts().repeated >= 1);
        QCOMPARE(reader.counts().late + reader.counts().foreign + reader.counts().again, std::uint64_t(0));
    }
    // A lost packet in 100 is heard as no click above -40 dB of what sounds: a chord, as music and speech are made of.
    void lostOnesAreConcealed() {
        const Format f{Encoding::l24, 1, 48000, 48};
        Sound s{{std::vector<float>(48 * 1000)}};
        for (std::size_t n = 0; n < s[0].size(); ++n) {
            double v = 0;
            for (const double hz : {110.0, 277.2, 440.0, 1318.5, 3520.0})
                v += std::sin(2 * std::numbers::pi * hz * static_cast<double>(n) / 48000 + hz);
            s[0][n] = static_cast<float>(0.1 * v);
        }
        auto packets = packetsOf(s, f);
        std::mt19937 dice(3);
        int gone = 0;
        for (std::size_t n = 20; n + 20 < packets.size(); n += 100) {
            packets[n + dice() % 15].clear();
            ++gone;
        }
        PacketReader reader(f, 98, 3 * 48);
        const auto out = heard(reader, packets, f);
        QCOMPARE(reader.counts().lost, static_cast<std::uint64_t>(gone));
        double rms = 0, worst = 0;
        for (std::size_t n = 0; n < s[0].size(); ++n) {
            rms += static_cast<double>(s[0][n]) * s[0][n];
            worst = std::max(worst, std::abs(static_cast<double>(out[0][n + 144]) - s[0][n]));
        }
        rms = std::sqrt(rms / static_cast<double>(s[0].size()));
        qInfo("%d of %zu packets lost: the worst sample is %.1f dB against the sound's r.m.s.", gone, packets.size(),
              20 * std::log10(worst / rms));
        QVERIFY(worst < 0.01 * rms);
    }
    void soundThatStops() {
        const Format f{Encoding::l24, 1, 48000, 48};
        Sound s{{std::vector<float>(48 * 200)}};
        for (std::size_t n = 0; n < s[0].size(); ++n)
            s[0][n] = static_cast<float>(0.5 * std::sin(0.05 * static_cast<double>(n)));
        auto packets = packetsOf(s, f);
        for (std::size_t n = 50; n < 180; ++n)
            packets[n].clear();
        PacketReader reader(f, 98, 2 * 48);
        const auto out = heard(reader, packets, f);
        // It fades without a step, is silent, and comes again.
        double step = 0;
        for (std::size_t n = 51 * 48; n < 150 * 48; ++n)
            step = std::max(step, std::abs(static_cast<double>(out[0][n]) - out[0][n - 1]));
        QVERIFY2(step < 0.03, std::to_string(step).c_str()); // the sine's own steps are 0.025
        QVERIFY(std::all_of(out[0].begin() + 60 * 48, out[0].begin() + 180 * 48, [](float v) { return v == 0; }));
        for (std::size_t n = 180 * 48; n < 197 * 48; ++n)
            QVERIFY(std::abs(s[0][n] - out[0][n + 96]) < 1e-6f);
        QVERIFY(reader.counts().lost == 1 && reader.counts().again == 1);
    }
    void whatIsNotOurs() {
        const Format f{Encoding::l24, 2, 48000, 48};
        const auto good = packetsOf(noise(2, 48 * 4, 24), f);
        PacketReader reader(f, 98, 96);
        reader.take(good[0]);
        const auto foreign = [&](Packet p) {
            const auto before = reader.counts().foreign;
            reader.take(p);
            return reader.counts().foreign == before + 1;
        };
        Packet p = good[1];
        p[1] = 97; // another payload
        QVERIFY(foreign(p));
        p = good[1];
        p[0] = 0x40; // version 1
        QVERIFY(foreign(p));
        p = good[1];
        p[11] ^= 1; // another sender
        QVERIFY(foreign(p));
        p = good[1];
        p.pop_back();
        QVERIFY(foreign(p));
        p = good[1];
        p[0] |= 0x0f; // says that 15 contributing sources follow
        QVERIFY(foreign(p));
        p = good[1];
        p[0] |= 0x20; // padding of more than there is
        p.back() = 255;
        QVERIFY(foreign(p));
        p = good[1];
        p[0] |= 0x10; // an extension longer than the packet
        p[14] = p[15] = 0xff;
        QVERIFY(foreign(p));
        QVERIFY(foreign({}) && foreign({0x80}));
        // An extension and padding that are whole hurt nothing.
        p.assign(good[1].begin(), good[1].begin() + 12);
        p[0] |= 0x31;
        for (const int byte : {9, 9, 9, 9, 0, 0, 0, 1, 7, 7, 7, 7})
            p.push_back(static_cast<std::uint8_t>(byte));
        p.insert(p.end(), good[1].begin() + 12, good[1].end());
        for (const int byte : {0, 0, 0, 4})
            p.push_back(static_cast<std::uint8_t>(byte));
        const auto h = readRtp(p);
        QVERIFY(h && h->begins == 24 && h->ends - h->begins == f.payloadBytes() && h->time == 48 && h->sequence == 1);
        reader.take(p);
        QCOMPARE(reader.counts().taken, std::uint64_t(2));
    }
    void clockThatJumps() {
        const Format f{Encoding::l24, 1, 48000, 48};
        const auto s = noise(1, 48 * 60, 24);
        auto packets = packetsOf(s, f, 0, 1000);
        const auto later = packetsOf(s, f, 60, 0x80000000);
        packets.insert(packets.end(), later.begin(), later.end());
        PacketReader reader(f, 98, 96);
        const auto out = heard(reader, packets, f);
        QCOMPARE(reader.counts().again, std::uint64_t(1));
        QVERIFY(std::equal(s[0].begin(), s[0].end(), out[0].begin() + 96 + 60 * 48));
    }
    void latePackets() {
        const Format f{Encoding::l24, 1, 48000, 48};
        const auto s = noise(1, 48 * 40, 24);
        auto packets = packetsOf(s, f);
        auto one = packets[10];
        packets[10].clear();
        std::vector<Packet> order(packets.begin(), packets.begin() + 20);
        order.push_back(one); // ten packets late, with a buffer of two
        order.insert(order.end(), packets.begin() + 20, packets.end());
        PacketReader reader(f, 98, 96);
        (void)heard(reader, order, f);
        QVERIFY(reader.counts().late == 1 && reader.counts().lost >= 1);
    }
    void sealed() {
        SrtpKey key{}, other{};
        for (std::size_t n = 0; n < key.size(); ++n)
            key[n] = static_cast<std::uint8_t>(3 * n + 1);
        other = key;
        other[5] ^= 1;
        auto out = Sealer::sending(key), in = Sealer::hearing(key), stranger = Sealer::hearing(other);
        QVERIFY2(out && in && stranger, out ? "" : out.error().text().c_str());
        const Format f{Encoding::l24, 2, 48000, 48};
        const auto packets = packetsOf(noise(2, 48 * 300, 24), f);
        for (const auto& p : packets) {
            const auto s = out->seal(p);
            QCOMPARE(s.size(), p.size() + sealBytes);
            const Packet on(s.begin(), s.end());
            QVERIFY(std::search(on.begin(), on.end(), p.begin() + 12, p.begin() + 20) == on.end());
            QVERIFY(stranger->open(on).empty());
            Packet changed = on;
            changed[40] ^= 1;
            QVERIFY(in->open(changed).empty());
            const auto back = in->open(on);
            QVERIFY(back.size() == p.size() && std::equal(back.begin(), back.end(), p.begin()));
            QVERIFY(in->open(on).empty()); // played again
        }
        QVERIFY(in->open(packets[0]).empty() && in->open({}).empty() && out->seal({}).empty());
    }
};

LOOM_TEST(tst_packets, TestPackets)
#include "tst_packets.moc"
