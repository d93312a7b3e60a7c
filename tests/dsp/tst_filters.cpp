// Filters, delays and spectra on their own.
#include "dsp/cascade.h"
#include "dsp/edge.h"
#include "dsp/fractional_delay.h"
#include "dsp/noise.h"
#include "dsp/spectrum.h"
#include "dsp/test_signals.h"
#include "test.h"

using namespace loom::dsp;

class TestFilters : public QObject {
    Q_OBJECT
  private slots:
    void cornerLevels() {
        for (int order = 1; order <= 8; ++order) {
            const auto b = designEdge(EdgeShape::butterworth, EdgeSide::lowPass, order, 1000, 48000);
            QVERIFY(std::abs(dbFromGain(std::abs(response(b, 1000, 48000))) + 3.0103) < 1e-3);
        }
        const auto lr = designEdge(EdgeShape::linkwitzRiley, EdgeSide::highPass, 4, 500, 48000);
        QVERIFY(std::abs(dbFromGain(std::abs(response(lr, 500, 48000))) + 6.0206) < 1e-3);
        const auto bessel = designEdge(EdgeShape::bessel, EdgeSide::lowPass, 5, 500, 48000);
        QVERIFY(std::abs(dbFromGain(std::abs(response(bessel, 500, 48000))) + 3.0103) < 1e-3);
    }
    void linkwitzRileySumsFlat() {
        const auto low = designEdge(EdgeShape::linkwitzRiley, EdgeSide::lowPass, 4, 1200, 48000);
        const auto high = designEdge(EdgeShape::linkwitzRiley, EdgeSide::highPass, 4, 1200, 48000);
        for (double f = 20; f < 20000; f *= 1.2)
            QVERIFY(std::abs(std::abs(response(low, f, 48000) + response(high, f, 48000)) - 1) < 1e-9);
    }
    void shapesThatDoNotExistAreReplacedByTheNearest() {
        QVERIFY(!edgeExists(EdgeShape::linkwitzRiley, 3));
        QVERIFY(!edgeExists(EdgeShape::bessel, 1));
        QCOMPARE(nearestEdgeOrder(EdgeShape::bessel, 1), 2);
        QCOMPARE(nearestEdgeOrder(EdgeShape::butterworth, 7), 7);
    }
    void cascadeWritesOnlyItsFrame() {
        Cascade c;
        const auto d = designEdge(EdgeShape::butterworth, EdgeSide::highPass, 4, 100, 48000);
        c.jumpTo({d.sections.data(), d.count});
        std::vector<float> in(80, 0.5f), out(80, 7.0f);
        c.process(in.data(), out.data(), 33);
        for (int i = 33; i < 80; ++i)
            QCOMPARE(out[i], 7.0f);
    }
    void cascadeForgetsBadInput() {
        Cascade c;
        const auto d = designEdge(EdgeShape::butterworth, EdgeSide::highPass, 4, 100, 48000);
        c.jumpTo({d.sections.data(), d.count});
        std::vector<float> bad(64, NAN), good(64, 0.1f), out(64);
        c.process(bad.data(), out.data(), 64);
        for (int i = 0; i < 3; ++i)
            c.process(good.data(), out.data(), 64);
        for (const float x : out)
            QVERIFY(std::isfinite(x));
    }
    void delayIsExactForImpulses() {
        DelayLine line;
        line.prepare(500);
        const auto d = designDelay(123);
        for (int i = 0; i < 400; ++i) {
            float x = i == 10 ? 1.0f : 0.0f, y = 7, made[loom::dsp::maxFrame];
            line.write(&x, 1);
            y = *line.read(d, made, 1);
            QCOMPARE(y, i == 133 ? 1.0f : 0.0f);
        }
    }
    void fractionalDelayDelaysASine() {
        DelayLine line;
        line.prepare(500);
        const auto d = designDelay(100.37);
        double worst = 0;
        for (int i = 0; i < 3000; ++i) {
            float x = static_cast<float>(std::sin(0.9 * i)), y = 7, made[loom::dsp::maxFrame];
            line.write(&x, 1);
            y = *line.read(d, made, 1);
            if (i > 1000)
                worst = std::max(worst, std::abs(y - std::sin(0.9 * (i - 100.37))));
        }
        QVERIFY2(worst < 1e-4, qPrintable(QString::number(worst)));
    }
    void pinkNoiseFallsThreeDecibelsAnOctave() {
        PinkNoise pink;
        ThirdOctaveSpectrum spectrum(48000);
        std::vector<double> sum(30, 0.0);
        std::vector<float> x(spectrum.size());
        for (int round = 0; round < 40; ++round) {
            for (auto& v : x)
                v = static_cast<float>(pink.step());
            const auto db = spectrum.measure(x);
            for (int b = 0; b < 30; ++b)
                sum[b] += std::pow(10, db[b] / 10);
        }
        // Pink noise has the same power in every third octave.
        for (int b = 6; b < 29; ++b)
            QVERIFY2(std::abs(10 * std::log10(sum[b] / sum[16])) < 1.0, qPrintable(QString::number(b)));
    }
    void fullScaleSineReadsZero() {
        ThirdOctaveSpectrum spectrum(48000);
        std::vector<float> x(spectrum.size());
        for (std::size_t i = 0; i < x.size(); ++i)
            x[i] = static_cast<float>(std::sin(2 * pi * 1000 * static_cast<double>(i) / 48000));
        QVERIFY(std::abs(spectrum.measure(x)[16]) < 0.05);
        QVERIFY(spectrum.measure(x)[10] < -60);
    }
    void
    sweepPassesItsFrequencies() { // from zero crossings: 20 Hz at the start, 20 kHz at the end, exponential between
        loom::dsp::Sweep sweep(20, 20000, 48000);
        std::vector<double> x;
        for (int i = 0; i < 5 * 48000; ++i)
            x.push_back(sweep.step(5));
        for (const double t : {1.0, 2.5, 4.0}) {
            const double want = 20 * std::pow(1000.0, t / 5);
            const auto half = static_cast<std::size_t>(48000 * 0.1), mid = static_cast<std::size_t>(t * 48000);
            int crossings = 0;
            for (std::size_t i = mid - half; i < mid + half; ++i)
                crossings += (x[i] < 0) != (x[i + 1] < 0);
            QVERIFY2(std::abs(crossings / 0.4 / want - 1) < 0.06, qPrintable(QString::number(crossings / 0.4)));
        }
    }
    void speechNoiseHasItsOctavesAndModulations() {
        loom::dsp::SpeechNoise noise(48000);
        loom::dsp::ThirdOctaveSpectrum spectrum(48000, 16384);
        std::vector<double> power(30, 0.0);
        std::vector<float> x(16384);
        double rms = 0;
        for (int round = 0; round < 60; ++round) {
            for (auto& v : x)
                v = static_cast<float>(noise.step()), rms += static_cast<double>(v) * v;
            const auto bands = spectrum.measure(x);
            for (std::size_t b = 0; b < 30; ++b)
                power[b] += std::pow(10.0, bands[b] / 10);
        }
        QVERIFY2(std::abs(std::sqrt(rms / (60 * 16384)) - 0.1) < 0.02,
                 qPrintable(QString::number(std::sqrt(rms / (60 * 16384)))));
        // Thirds 100, 125, 160 Hz are bands 6, 7, 8: octaves follow every three.
        std::vector<double> octave;
        for (std::size_t o = 0; o < 7; ++o)
            octave.push_back(10 * std::log10(power[6 + 3 * o] + power[7 + 3 * o] + power[8 + 3 * o]));
        for (std::size_t o = 1; o < 6; ++o) {
            const double want = loom::dsp::SpeechNoise::levelsDb[o] - loom::dsp::SpeechNoise::levelsDb[0];
            QVERIFY2(std::abs(octave[o] - octave[0] - want) < 1.5, qPrintable(QString::number(octave[o] - octave[0])));
        }
    }
};
LOOM_TEST(tst_filters, TestFilters)
#include "tst_filters.moc"
