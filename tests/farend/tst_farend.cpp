// Whoever is far away: what a telephone line does to sound, how a line is called, and a computer's two channels.
#ifndef Q_MOC_RUN
#include "farend/computer.h"
#include "farend/telephone.h"
#endif
#include "test.h"
#include <cmath>

using namespace loom;
using namespace loom::farend;

namespace {

constexpr int block = 512;
constexpr double pi = 3.14159265358979;

std::vector<float> sine(double hz, double seconds, double peak = 0.5) {
    std::vector<float> x(static_cast<std::size_t>(seconds * 48000));
    for (std::size_t i = 0; i < x.size(); ++i)
        x[i] = static_cast<float>(peak * std::sin(2 * pi * hz * static_cast<double>(i) / 48000));
    return x;
}
std::vector<float> over(LineCodec& line, const std::vector<float>& x) {
    std::vector<float> y(x.size());
    for (std::size_t i = 0; i + block <= x.size(); i += block)
        line.step(x.data() + i, y.data() + i, block);
    y.resize(y.size() / block * block); // the rest was not run
    return y;
}
// Level of one frequency in the second half of a sound, dB of full scale (peak).
double levelOf(const std::vector<float>& y, double hz) {
    double c = 0, s = 0;
    const auto from = y.size() / 2;
    for (std::size_t i = from; i < y.size(); ++i) {
        const double a = 2 * pi * hz * static_cast<double>(i) / 48000;
        c += y[i] * std::cos(a), s += y[i] * std::sin(a);
    }
    const double n = static_cast<double>(y.size() - from);
    return 20 * std::log10(2 * std::sqrt(c * c + s * s) / n + 1e-9);
}
double noiseOf(const std::vector<float>& y, double hz) { // everything but it
    double all = 0;
    const auto from = y.size() / 2;
    for (std::size_t i = from; i < y.size(); ++i)
        all += static_cast<double>(y[i]) * y[i];
    const double tone = std::pow(10, levelOf(y, hz) / 10) / 2;
    return 10 * std::log10(std::max(1e-12, all / static_cast<double>(y.size() - from) - tone));
}

std::shared_ptr<const std::vector<float>> voice() {
    return std::make_shared<const std::vector<float>>(sine(500, 1, 0.2));
}
// Lets a line run; what it says and hears goes on.
std::vector<float> run(Telephone& t, double seconds, double hz = 1000) {
    const auto in = sine(hz, seconds, 0.3);
    std::vector<float> out(in.size());
    for (std::size_t i = 0; i + block <= in.size(); i += block)
        t.step(in.data() + i, out.data() + i, block);
    return out;
}
Account account() {
    return {"calls.example", "hall", "knot"};
}

} // namespace

class TestFarEnd : public QObject {
    Q_OBJECT
  private slots:
    // ITU-T G.711: 300 to 3400 Hz, some 38 dB above its distortion; G.722: to 7 kHz.
    void linesHaveTheirBandwidth_data() {
        QTest::addColumn<QString>("codec");
        QTest::addColumn<double>("passes");
        QTest::addColumn<double>("stops");
        QTest::newRow("g711a") << "g711a" << 3000.0 << 5000.0;
        QTest::newRow("g711u") << "g711u" << 3000.0 << 5000.0;
        QTest::newRow("g722") << "g722" << 6000.0 << 9000.0;
    }
    void linesHaveTheirBandwidth() {
        QFETCH(QString, codec);
        QFETCH(double, passes);
        QFETCH(double, stops);
        const auto which = *codecOf(codec.toStdString());
        for (const double hz : {400.0, 1000.0, passes}) {
            LineCodec line(which);
            const auto y = over(line, sine(hz, 1));
            QVERIFY2(std::abs(levelOf(y, hz) + 6.02) < 1.5, qPrintable(QString("%1: %2").arg(hz).arg(levelOf(y, hz))));
            QVERIFY2(noiseOf(y, hz) < levelOf(y, hz) - 30, qPrintable(QString::number(noiseOf(y, hz))));
        }
        LineCodec line(which);
        QVERIFY(levelOf(over(line, sine(stops, 1)), stops) < -40);
        QVERIFY(!codecOf("g729"));
    }
    void packetsAreLateAndLost() {
        LineCodec late(Codec::g711a, {0, 150});
        auto x = std::vector<float>(48000);
        for (std::size_t i = 4800; i < 4848; ++i)
            x[i] = 0.8f;
        const auto y = over(late, x);
        const auto peak = std::max_element(y.begin(), y.end()) - y.begin();
        QVERIFY2(peak > 4800 + 0.178 * 48000 && peak < 4800 + 0.195 * 48000, qPrintable(QString::number(peak)));
        LineCodec lossy(Codec::g711a, {0.1, 0}, 7);
        const auto heard = over(lossy, sine(400, 4));
        QVERIFY(lossy.lost() > 8 && lossy.lost() < 35);    // of 200
        QVERIFY(std::abs(levelOf(heard, 400) + 6.02) < 3); // concealed, not silent
        LineCodec same(Codec::g711a, {0.1, 0}, 7);
        QVERIFY(over(same, sine(400, 4)) == heard);
    }
    void keysAreHeard() {
        for (const char* keys : {"1", "2041", "0123456789*#ABCD"})
            QCOMPARE(keysIn(keypadTones(keys)), std::string(keys));
        QVERIFY(keysIn(sine(697, 0.5)).empty());
    }
    void numbersAreRead() {
        QCOMPARE(numberOf("+44 (20) 79-46.00"), std::string("+4420794600"));
        QCOMPARE(numberOf("*17#"), std::string("*17#"));
        for (const char* none : {"", "+", "hall", "12a", "1+2", "123456789012345678901", "sip:you@there", " "})
            QVERIFY2(numberOf(none).empty(), none);
    }
    void accountsAreTakenOrNot() {
        Exchange e;
        QCOMPARE(e.refuses(account()), std::string());
        for (const auto& [a, why] : {std::pair(Account{"", "hall", "knot"}, "no server"),
                                     {Account{"calls.example", "", "knot"}, "no account"},
                                     {Account{"calls.example", "hall", ""}, "no secret"}})
            QVERIFY2(e.refuses(a).find(why) != std::string::npos, why);
        e.accounts = {{"hall", "other"}};
        QVERIFY(e.refuses(account()).find("does not take the secret") != std::string::npos);
        e.accounts = {{"foyer", "knot"}};
        QVERIFY(e.refuses(account()).find("does not know the account") != std::string::npos);
        e.accounts = {{"hall", "knot"}};
        QVERIFY(e.refuses(account()).empty());
        e.server = "elsewhere.example";
        QVERIFY(e.refuses(account()).find("does not answer") != std::string::npos);
        e.server.clear(), e.reachable = false;
        QVERIFY(e.refuses(account()).find("does not answer") != std::string::npos);
    }
    void aCallIsMadeHeldAndEnded() {
        Telephone t(voice());
        QVERIFY(!t.dial("2041")); // nobody set its account
        QVERIFY(t.words().rfind("not registered: no server", 0) == 0);
        t.setAccount(account());
        const auto none = t.dial("the hall");
        QVERIFY(!none && none.error().text().find("is no telephone number") != std::string::npos);
        for (const auto& wrong : {t.answer(), t.hold(), t.resume(), t.keys("1"), t.hangUp()})
            QVERIFY(!wrong);
        QVERIFY(bool(t.dial("20 41")));
        QVERIFY(!t.dial("17"));
        QCOMPARE(t.state(), Telephone::State::dialling);
        run(t, 1);
        QCOMPARE(t.state(), Telephone::State::ringsThere);
        QVERIFY(t.heard().written() == 0);
        run(t, 3);
        QCOMPARE(t.state(), Telephone::State::inCall);
        QCOMPARE(t.words(), std::string("in a call with 2041, G.722"));
        const auto says = run(t, 2);
        QVERIFY(std::abs(levelOf(says, 500) + 14) < 2);                     // their voice, over the line
        QVERIFY(std::abs(levelOf(t.heard().last(48000), 1000) + 10.5) < 2); // ours, there
        QVERIFY(bool(t.keys("42#")) && !t.keys("4x") && !t.keys(""));
        run(t, 2, 9000); // silence to the line
        QVERIFY(keysIn(t.heard().last(96000)).find("42#") != std::string::npos);
        QVERIFY(bool(t.hold()) && !t.hold());
        QVERIFY(levelOf(run(t, 2), 500) < -60);
        QVERIFY(levelOf(t.heard().last(24000), 1000) < -60);
        QVERIFY(bool(t.resume()) && t.seconds() > 5);
        QVERIFY(levelOf(run(t, 2), 500) > -20);
        QVERIFY(bool(t.hangUp()));
        QCOMPARE(t.words(), std::string("on hook"));
        QVERIFY(levelOf(run(t, 1), 500) < -80);
    }
    void itRingsHereAndIsAnswered() {
        Telephone t(voice());
        t.setAccount(account());
        t.ring("2041");
        QCOMPARE(t.words(), std::string("rings here from 2041"));
        QVERIFY(!t.dial("17") && bool(t.answer()));
        QCOMPARE(t.state(), Telephone::State::inCall);
        t.ring("17"); // engaged
        QCOMPARE(t.number(), std::string("2041"));
        QVERIFY(bool(t.hangUp()));
        t.setAnswersAfter(2);
        t.ring("17");
        run(t, 4);
        QCOMPARE(t.state(), Telephone::State::ringsHere);
        run(t, 3);
        QCOMPARE(t.state(), Telephone::State::inCall);
    }
    void linesGoAndNumbersAreEngaged() {
        Exchange e;
        e.busy = {"17"}, e.nobody = {"18"};
        Telephone t(voice());
        t.setAccount(account());
        t.setExchange(e);
        QVERIFY(bool(t.dial("17")));
        run(t, 1);
        QCOMPARE(t.words(), std::string("on hook, 17 is engaged"));
        QVERIFY(bool(t.dial("18")));
        run(t, 62);
        QCOMPARE(t.words(), std::string("on hook, nobody answers at 18"));
        QVERIFY(bool(t.dial("2041")));
        run(t, 4);
        QCOMPARE(t.state(), Telephone::State::inCall);
        e.reachable = false;
        t.setExchange(e);
        run(t, 0.1);
        QCOMPARE(t.state(), Telephone::State::onHook);
        QVERIFY(t.words().rfind("not registered: the server calls.example does not answer", 0) == 0);
    }
    void aComputerHasTwoChannels() {
        Computer c(voice());
        const auto first = sine(1000, 1, 0.3), second = sine(2000, 1, 0.3);
        std::vector<float> a(48000), b(48000);
        const auto go = [&] {
            for (std::size_t i = 0; i + block <= a.size(); i += block) {
                const float* const sent[2] = {first.data() + i, second.data() + i};
                float* const says[2] = {a.data() + i, b.data() + i};
                c.step(sent, says, block);
            }
        };
        go();
        QVERIFY(levelOf(a, 500) > -16 && levelOf(b, 500) < -90);
        QVERIFY(levelOf(c.heard().last(20000), 1000) > -12 && levelOf(c.heard().last(20000), 2000) < -60);
        c.channel = 2; // a call may be on either
        go();
        QVERIFY(levelOf(a, 500) < -90 && levelOf(b, 500) > -16 && levelOf(c.heard().last(20000), 2000) > -12);
        c.muted = true;
        go();
        QVERIFY(levelOf(b, 500) > -16 && levelOf(c.heard().last(20000), 2000) < -90); // it is heard, and hears nothing
        QCOMPARE(c.words(), std::string("in a call on channel 2, 48 kHz, muted"));
        c.muted = false, c.rate = 16000;
        go();
        QVERIFY(levelOf(b, 500) > -16);
        const auto high = sine(10000, 1, 0.3);
        for (std::size_t i = 0; i + block <= high.size(); i += block) {
            const float* const sent[2] = {nullptr, high.data() + i};
            float* const says[2] = {nullptr, b.data() + i};
            c.step(sent, says, block);
        }
        QVERIFY(levelOf(c.heard().last(20000), 10000) < -50); // 16 kHz carry no 10 kHz
        c.here = false, c.cameAway = true;
        go();
        QVERIFY(levelOf(b, 500) < -90 && c.words() == "gone in a call");
    }
};
LOOM_TEST(tst_farend, TestFarEnd)
#include "tst_farend.moc"
