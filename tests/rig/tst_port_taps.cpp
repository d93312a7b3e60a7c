// What passes ports, as it is kept for who asks: numbered without a gap, bounded, given back when nobody asks.
#ifndef Q_MOC_RUN
#include "engine/cable.h"
#include "rig/port_taps.h"
#endif
#include "test.h"

using namespace loom;
using rig::PortTaps;

class TestPortTaps : public QObject {
    Q_OBJECT
    std::map<std::string, std::shared_ptr<engine::Cable>> cables_;
    std::uint64_t written_ = 0;
    engine::Resources resources() {
        engine::Resources r;
        r.arriving = [this](const std::string& port) {
            const auto it = cables_.find(port);
            return it == cables_.end() ? nullptr : it->second;
        };
        return r;
    }
    void write(const std::string& port, int count) { // each sample its number
        std::vector<float> samples(static_cast<std::size_t>(count));
        for (auto& v : samples)
            v = static_cast<float>(written_++);
        cables_.at(port)->write(samples.data(), count);
    }

  private slots:
    void init() {
        cables_.clear();
        written_ = 0;
        for (const char* port : {"net 1", "net 2", "net 3", "net 4", "in 5"})
            cables_[port] = std::make_shared<engine::Cable>();
    }
    void numberedWithoutAGap() {
        PortTaps taps;
        const auto r = resources();
        write("net 1", 700); // before anybody asks
        auto heard = taps.take(nullptr, r, "net 1", true, 0, 0);
        QVERIFY(heard && heard->samples.empty() && heard->begins == 0);
        write("net 1", 1000);
        heard = taps.take(nullptr, r, "net 1", true, 0, 0.1);
        QVERIFY(heard->begins == 0 && heard->samples.size() == 1000 && heard->samples[0] == 700 &&
                heard->samples[999] == 1699);
        write("net 1", 500);
        heard = taps.take(nullptr, r, "net 1", true, 1000, 0.2);
        QVERIFY(heard->begins == 1000 && heard->samples.size() == 500 && heard->samples[0] == 1700);
        heard = taps.take(nullptr, r, "net 1", true, 1200, 0.2); // somebody else is less far
        QVERIFY(heard->begins == 1200 && heard->samples.size() == 300 && heard->samples[0] == 1900);
        heard = taps.take(nullptr, r, "net 1", true, 99999, 0.2); // of another time: from the beginning
        QVERIFY(heard->begins == 0 && heard->samples.size() == 1500);
    }
    void boundedAndMissed() {
        PortTaps taps;
        const auto r = resources();
        (void)bool(taps.take(nullptr, r, "net 1", true, 0, 0));
        for (int n = 0; n < 15; ++n) {
            write("net 1", 4000);
            taps.tend(nullptr, 0.1 * n);
        }
        auto heard = taps.take(nullptr, r, "net 1", true, 0, 1.5);
        QVERIFY(heard->samples.size() == PortTaps::length && heard->begins == 60000 - PortTaps::length);
        QVERIFY(heard->samples.front() == static_cast<float>(heard->begins) && heard->samples.back() == 59999);
        write("net 1", 12000); // more than can be read safely: what is missed is counted
        heard = taps.take(nullptr, r, "net 1", true, 60000, 1.6);
        QVERIFY(heard->samples.back() == 71999 && heard->begins + heard->samples.size() == 72000);
    }
    void fourAtOnceUntilNobodyAsks() {
        PortTaps taps;
        const auto r = resources();
        for (const char* port : {"net 1", "net 2", "net 3", "net 4"})
            QVERIFY(bool(taps.take(nullptr, r, port, true, 0, 0)));
        QVERIFY(!taps.take(nullptr, r, "in 5", true, 0, 1));
        QVERIFY(bool(taps.take(nullptr, r, "net 1", true, 0, 2.9)));
        QVERIFY(bool(taps.take(nullptr, r, "in 5", true, 0, 3.1))); // the others were forgotten
        // What leaves an amplifier without a program is what comes to it by that number.
        QVERIFY(bool(taps.take(nullptr, r, "out 5", false, 0, 3.1)) && !taps.take(nullptr, r, "out 9", false, 0, 3.1));
    }
};

LOOM_TEST(tst_port_taps, TestPortTaps)
#include "tst_port_taps.moc"
