// Blocks that change level by what they hear; filters whose promise is not a plain response.
#include "dsp/dynamics.h"
#include "dsp/graphic.h"
#include "dsp/loudness.h"
#include "engine/solo.h"
#include "test.h"
#include <random>

using namespace loom;
using namespace loom::engine;

namespace {

// One block with its buffers; sound goes in by functions of the sample number.
struct Rig {
    explicit Rig(const Block& b, double rate = 48000) : solo(b, rate), rate_(rate) {
        in.assign(static_cast<std::size_t>(solo.view().inputs()), std::vector<float>(maxFrame));
        out.assign(static_cast<std::size_t>(solo.view().outputs()), std::vector<float>(maxFrame));
        for (auto& v : in)
            ins.push_back(v.data());
        for (auto& v : out)
            outs.push_back(v.data());
    }
    // Runs for `seconds`; `sound(channel, n)` gives each sample, `heard(n)` sees each one that came out.
    template <class Sound, class Heard> void run(double seconds, Sound sound, Heard heard) {
        const long end = at + std::lround(seconds * rate_);
        for (; at < end; at += maxFrame) {
            for (std::size_t c = 0; c < in.size(); ++c)
                for (int i = 0; i < maxFrame; ++i)
                    in[c][static_cast<std::size_t>(i)] = static_cast<float>(sound(static_cast<int>(c), at + i));
            solo.run(ins, outs, maxFrame);
            for (int i = 0; i < maxFrame; ++i)
                heard(at + i, static_cast<std::size_t>(i));
        }
    }
    template <class Sound> void run(double seconds, Sound sound) {
        run(seconds, sound, [](long, std::size_t) {});
    }
    Solo solo;
    std::vector<std::vector<float>> in, out;
    std::vector<const float*> ins;
    std::vector<float*> outs;
    long at = 0;

  private:
    double rate_;
};

double sine(double hz, long n, double gain = 1) {
    return gain * std::sin(2 * dsp::pi * hz / 48000 * static_cast<double>(n));
}

} // namespace

class TestDynamics : public QObject {
    Q_OBJECT
    // Level that comes out for a steady 1 kHz sine of a peak level, in dB.
    double steady(const Block& b, double db) {
        Rig rig(b);
        double peak = 0;
        rig.run(3, [&](int, long n) { return sine(1000, n, dsp::gainFromDb(db)); });
        rig.run(
            0.1, [&](int, long n) { return sine(1000, n, dsp::gainFromDb(db)); },
            [&](long, std::size_t i) { peak = std::max(peak, std::abs(static_cast<double>(rig.out[0][i]))); });
        return dsp::dbFromGain(peak);
    }
  private slots:
    void curvesOfThePaper() { // hard knee: straight lines; soft knee: continuous, halfway there at the threshold
        QCOMPARE(dsp::compressorGainDb(-10, -20, 4, 0), -7.5);
        QCOMPARE(dsp::compressorGainDb(-30, -20, 4, 0), 0.0);
        QVERIFY(std::abs(dsp::compressorGainDb(-20, -20, 4, 8) - (-0.75 * 8 / 8)) < 1e-12);
        QVERIFY(std::abs(dsp::compressorGainDb(-16, -20, 4, 8) - dsp::compressorGainDb(-16 + 1e-9, -20, 4, 8)) < 1e-6);
        QCOMPARE(dsp::expanderGainDb(-50, -40, 3, 0, 80), -20.0);
        QCOMPARE(dsp::expanderGainDb(-90, -40, 3, 0, 30), -30.0);
        QCOMPARE(dsp::expanderGainDb(-39, -40, 3, 0, 30), 0.0);
    }
    void drawnCurveIsWhatRuns() {
        for (const char* kind : {"compressor", "gate", "limiter"}) {
            Block b{"b", kind, ""};
            if (b.kind == "limiter")
                b.values = {{"peak", -12}};
            for (const double in : {-60.0, -45.0, -30.0, -20.0, -10.0, -3.0}) {
                const BlockView view(b);
                const double want = view.kind->transfer(view.look(), in), have = steady(b, in);
                QVERIFY2(std::abs(want - have) < 0.3, (b.kind + " at " + std::to_string(in) + ": " +
                                                       std::to_string(have) + " for " + std::to_string(want))
                                                          .c_str());
            }
        }
    }
    void limiterLetsNothingPass() {
        Block b{"b", "limiter", ""};
        b.values = {{"peak", -6}};
        Rig rig(b);
        std::mt19937 random(7);
        std::normal_distribution<double> noise(0, 1);
        double worst = 0;
        rig.run(
            2, [&](int, long n) { return n % 7001 < 300 ? 3 * noise(random) : 0.05 * noise(random); },
            [&](long, std::size_t i) { worst = std::max(worst, std::abs(static_cast<double>(rig.out[0][i]))); });
        QVERIFY2(worst <= dsp::gainFromDb(-6) * 1.0001, qPrintable(QString::number(dsp::dbFromGain(worst))));
        QVERIFY(worst > dsp::gainFromDb(-7));
        QVERIFY(rig.solo.kernel().readout(0) <= 0);
    }
    void limiterLeavesQuietSoundAlone() {
        Block b{"b", "limiter", ""};
        Rig rig(b);
        double worst = 0;
        rig.run(
            0.5, [&](int, long n) { return sine(997, n, 0.5); },
            [&](long n, std::size_t i) {
                if (n > 200)
                    worst = std::max(worst, std::abs(rig.out[0][i] - sine(997, n - 63, 0.5)));
            });
        QVERIFY2(worst < 1e-5, qPrintable(QString::number(worst)));
    }
    void limiterHoldsTheCoil() { // the mean over the time constant comes down to the thermal threshold
        Block b{"b", "limiter", ""};
        b.values = {{"peak", 0}, {"thermal", 1}, {"rms", -20}, {"seconds", 0.5}};
        Rig rig(b);
        double power = 0;
        rig.run(6, [&](int, long n) { return sine(500, n, 0.7); });
        rig.run(
            1, [&](int, long n) { return sine(500, n, 0.7); },
            [&](long, std::size_t i) { power += static_cast<double>(rig.out[0][i]) * rig.out[0][i] / 48000; });
        QVERIFY2(std::abs(dsp::dbFromPower(power) + 20) < 0.2, qPrintable(QString::number(dsp::dbFromPower(power))));
    }
    void latencyIsWhatIsDeclared() { // an impulse through every block of one way in and out
        for (const auto& kind : blockKinds()) {
            if (!kind.channelwise() || kind.id == "gate") // shut for a lone impulse
                continue;
            const Block b{"b", kind.id, ""};
            Rig rig(b);
            long first = -1;
            rig.run(
                0.2, [](int, long n) { return n == 4800 ? 0.5 : 0.0; },
                [&](long n, std::size_t i) {
                    if (first < 0 && std::abs(rig.out[0][i]) > 1e-3)
                        first = n;
                });
            const BlockView& view = rig.solo.view();
            const int want = kind.latency ? kind.latency(view.look(), 48000) : 0;
            QVERIFY2(first - 4800 == want, (kind.id + ": " + std::to_string(first - 4800)).c_str());
        }
    }
    void duckerDucksAndComesBack() {
        Block b{"b", "ducker", ""};
        b.values = {{"depth", 20}, {"release", 100}, {"hold", 100}};
        Rig rig(b);
        double peak = 0;
        const auto listen = [&](double seconds, double key) {
            rig.run(seconds, [&](int c, long n) { return c == 0 ? sine(400, n, 0.5) : sine(1000, n, key); });
            peak = 0;
            rig.run(
                0.05, [&](int c, long n) { return c == 0 ? sine(400, n, 0.5) : sine(1000, n, key); },
                [&](long, std::size_t i) { peak = std::max(peak, std::abs(static_cast<double>(rig.out[0][i]))); });
            return dsp::dbFromGain(peak / 0.5);
        };
        QVERIFY(std::abs(listen(0.5, 0)) < 0.1);
        QVERIFY(std::abs(listen(0.5, 0.3) + 20) < 0.3);
        QVERIFY(std::abs(listen(1.5, 0)) < 0.3);
    }
    void levellerReachesItsTarget() {
        Block b{"b", "leveller", ""};
        b.values = {{"target", -26}};
        Rig rig(b);
        dsp::KWeighting k(48000);
        rig.run(8, [&](int, long n) { return sine(1000, n, 0.02); });
        double sum = 0;
        int frames = 0;
        for (; frames < 100; ++frames) {
            rig.run(64 / 48000.0, [&](int, long n) { return sine(1000, n, 0.02); });
            sum += k.power(rig.out[0].data(), maxFrame);
        }
        QVERIFY2(std::abs(dsp::loudnessFromPower(sum / frames) + 26) < 0.5,
                 qPrintable(QString::number(dsp::loudnessFromPower(sum / frames))));
        const float held = rig.solo.kernel().readout(0); // in a pause the gain stands
        rig.run(3, [](int, long) { return 0.0; });
        QVERIFY(std::abs(rig.solo.kernel().readout(0) - held) < 0.5);
    }
    void loudnessOfTheStandardsSine() { // BS.1770: 997 Hz at 0 dBFS in one channel reads -3.01
        for (const double rate : {44100.0, 48000.0, 96000.0}) {
            dsp::KWeighting k(rate);
            std::vector<float> x(maxFrame);
            double sum = 0;
            int frames = 0;
            for (long n = 0; n < 2 * static_cast<long>(rate); n += maxFrame) {
                for (int i = 0; i < maxFrame; ++i)
                    x[static_cast<std::size_t>(i)] =
                        static_cast<float>(std::sin(2 * dsp::pi * 997 / rate * static_cast<double>(n + i)));
                const double p = k.power(x.data(), maxFrame);
                if (n > rate)
                    sum += p, ++frames;
            }
            QVERIFY2(std::abs(dsp::loudnessFromPower(sum / frames) + 3.01) < 0.05,
                     qPrintable(QString::number(dsp::loudnessFromPower(sum / frames))));
        }
    }
    void graphicPassesThroughItsSliders() {
        std::mt19937 random(3);
        std::uniform_real_distribution<double> any(-12, 12);
        double worst = 0;
        for (const double rate : {44100.0, 48000.0, 96000.0})
            for (int round = 0; round < 40; ++round) {
                std::array<double, dsp::graphicBands> sliders;
                for (std::size_t b = 0; b < sliders.size(); ++b) // hard ones among them: all up, up and down in turns
                    sliders[b] = round == 0 ? 12 : round == 1 ? (b % 2 ? 12 : -12) : any(random);
                for (std::size_t b = 0; b < sliders.size(); ++b) {
                    const double hz = std::min(1000 * std::pow(10.0, (static_cast<double>(b) - 17) / 10), 0.47 * rate);
                    const double db = dsp::dbFromGain(std::abs(dsp::GraphicDesign::of(rate).response(sliders, hz)));
                    worst = std::max(worst, std::abs(db - sliders[b]));
                }
            }
        qInfo("largest distance from a slider: %.2f dB", worst);
        QVERIFY(worst < 0.5);
    }
    void linkwitzRileyBandsAddUp() { // two bands of 24 dB/oct sum to an all-pass
        const BlockView view(Block{"b", "crossover", ""});
        for (double hz = 30; hz < 18000; hz *= 1.3) {
            const auto sum = view.response(0, 0, hz, 48000) + view.response(0, 1, hz, 48000);
            QVERIFY2(std::abs(dsp::dbFromGain(std::abs(sum))) < 0.01, qPrintable(QString::number(hz)));
        }
        QVERIFY(std::abs(dsp::dbFromGain(std::abs(view.response(0, 0, 1800, 48000))) + 6.02) < 0.01);
    }
};
LOOM_TEST(tst_dynamics, TestDynamics)
#include "tst_dynamics.moc"
