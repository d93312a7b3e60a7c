// What measures: filters inside their standards, loudness beside libebur128, spectra of known sounds.
#include "dsp/band_filters.h"
#include "dsp/fft_analyser.h"
#include "dsp/loudness_meter.h"
#include "dsp/noise.h"
#include "dsp/spectrum.h"
#include "test.h"
#include <ebur128.h>

using namespace loom::dsp;

namespace {

// Acceptance limits of IEC 61260-1:2014, table 1, class 1, for octave bands: relative attenuation in dB at G^x. At the
// band edges (x = 1/2) the narrower of the limits on both sides.
struct Limit {
    double x, least, most;
};
constexpr Limit classOne[] = {{0, -0.4, 0.4},       {1 / 8.0, -0.4, 0.5}, {1 / 4.0, -0.4, 0.7},
                              {3 / 8.0, -0.4, 1.4}, {0.5, 1.6, 5.3},      {1, 16.6, 1e9},
                              {2, 40.5, 1e9},       {3, 60, 1e9},         {4, 70, 1e9}};

// The same limit's frequency for a fraction of an octave (IEC 61260-1, 5.10).
double omega(double x, int perOctave, bool above) {
    const double g = std::pow(10.0, 0.3);
    const double w = 1 + (std::pow(g, 1.0 / (2 * perOctave)) - 1) / (std::pow(g, 0.5) - 1) * (std::pow(g, x) - 1);
    return above ? w : 1 / w;
}

double attenuation(const std::array<Section, bandSections>& band, double hz, double rate) {
    Complex h = 1;
    for (const auto& s : band)
        h *= response(s, hz, rate);
    return -20 * std::log10(std::max(1e-12, std::abs(h)));
}

// Closed form of IEC 61672-1, annex E.
double weightingGain(Weighting weighting, double hz) {
    constexpr double f1 = 20.598997, f2 = 107.65265, f3 = 737.86223, f4 = 12194.217;
    const auto raw = [weighting](double f) {
        const double q = f * f, c = f4 * f4 * q / ((q + f1 * f1) * (q + f4 * f4));
        return weighting == Weighting::none ? 1.0
               : weighting == Weighting::c  ? c
                                            : c * q / std::sqrt((q + f2 * f2) * (q + f3 * f3));
    };
    return raw(hz) / raw(1000);
}

std::vector<float> sound(int kind, double rate, double seconds) {
    std::vector<float> x(static_cast<std::size_t>(rate * seconds));
    PinkNoise pink;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double t = static_cast<double>(i) / rate;
        switch (kind) {
        case 0: // a tone
            x[i] = static_cast<float>(0.1 * std::sin(2 * pi * 997 * t));
            break;
        case 1: // noise of changing strength with pauses, so that both gates work
            x[i] = static_cast<float>(pink.step() * (std::fmod(t, 3.0) < 1 ? 0 : std::fmod(t, 7.0) < 3 ? 0.02 : 0.5));
            break;
        default: // bass and treble
            x[i] = static_cast<float>(0.2 * std::sin(2 * pi * 40 * t) + 0.05 * std::sin(2 * pi * 9000 * t));
        }
    }
    return x;
}

} // namespace

class TestEyes : public QObject {
    Q_OBJECT
  private slots:
    void bandFiltersAreClassOne() {
        int bands = 0;
        for (const double rate : {44100.0, 48000.0, 96000.0})
            for (const int b : {1, 3})
                for (const double mid : b == 1 ? octaveCentres() : thirdOctaveCentres()) {
                    std::array<Section, bandSections> band;
                    if (!designFractionalOctave(mid, b, rate, band)) {
                        QVERIFY2(mid * std::pow(10.0, 0.15 / b) > 0.49 * rate, qPrintable(QString::number(mid)));
                        continue;
                    }
                    ++bands;
                    for (const auto& l : classOne)
                        for (const bool above : {true, false}) {
                            const double hz = mid * omega(l.x, b, above);
                            if (hz >= rate / 2)
                                continue;
                            const double a = attenuation(band, hz, rate);
                            const QString where = QString("1/%1 octave at %2 Hz, rate %3, x %4 %5: %6 dB")
                                                      .arg(b)
                                                      .arg(mid)
                                                      .arg(rate)
                                                      .arg(l.x)
                                                      .arg(above ? "above" : "below")
                                                      .arg(a);
                            QVERIFY2(a >= l.least && a <= l.most, qPrintable(where));
                        }
                }
        qInfo("%d filters inside class 1", bands);
        QVERIFY(bands > 110);
    }

    void weightingsAreClassOne() {
        // IEC 61672-1:2013, table 3: A, C and the acceptance limits of class 1 (upper, lower).
        const struct {
            double hz, a, c, up, down;
        } table[] = {{31.5, -39.4, -3.0, 1.5, 1.5}, {63, -26.2, -0.8, 1.0, 1.0},   {125, -16.1, -0.2, 1.0, 1.0},
                     {250, -8.6, 0.0, 1.0, 1.0},    {500, -3.2, 0.0, 1.0, 1.0},    {1000, 0.0, 0.0, 0.7, 0.7},
                     {2000, 1.2, -0.2, 1.0, 1.0},   {4000, 1.0, -0.8, 1.0, 1.0},   {6300, -0.1, -2.0, 1.5, 2.0},
                     {8000, -1.1, -3.0, 1.5, 2.5},  {10000, -2.5, -4.4, 2.0, 3.0}, {12500, -4.3, -6.2, 2.0, 5.0},
                     {16000, -6.6, -8.5, 2.5, 16.0}};
        for (const double rate : {44100.0, 48000.0, 96000.0})
            for (const auto& row : table)
                for (const auto w : {Weighting::a, Weighting::c}) {
                    const double want = w == Weighting::a ? row.a : row.c;
                    const double exact = 1000 * std::pow(10.0, std::round(10 * std::log10(row.hz / 1000)) / 10);
                    QVERIFY(std::abs(20 * std::log10(weightingGain(w, exact)) - want) < 0.06);
                    Complex h = 1;
                    for (const auto& s : designWeighting(w, rate))
                        h *= response(s, exact, rate);
                    const double off = 20 * std::log10(std::abs(h)) - want;
                    QVERIFY2(off < row.up && off > -row.down,
                             qPrintable(QString("%1 Hz at %2: %3").arg(exact).arg(rate).arg(off)));
                }
    }

    void loudnessBesideLibebur128() {
        double worst = 0, worstPeak = 0;
        for (const double rate : {44100.0, 48000.0, 96000.0})
            for (const int kind : {0, 1, 2}) {
                const auto left = sound(kind, rate, 14), right = sound((kind + 1) % 3, rate, 14);
                LoudnessMeter meter(rate, 2);
                ebur128_state* peer =
                    ebur128_init(2, static_cast<unsigned long>(rate), EBUR128_MODE_I | EBUR128_MODE_TRUE_PEAK);
                for (std::size_t at = 0; at + 64 <= left.size(); at += 64) {
                    const float* in[] = {&left[at], &right[at]};
                    meter.process(in, 64);
                    float both[128];
                    for (std::size_t i = 0; i < 64; ++i)
                        both[2 * i] = left[at + i], both[2 * i + 1] = right[at + i];
                    ebur128_add_frames_float(peer, both, 64);
                }
                double want = 0, peakL = 0, peakR = 0;
                ebur128_loudness_global(peer, &want);
                ebur128_true_peak(peer, 0, &peakL), ebur128_true_peak(peer, 1, &peakR);
                worst = std::max(worst, std::abs(meter.integrated() - want));
                worstPeak = std::max(worstPeak, std::abs(meter.truePeakDb() - dbFromGain(std::max(peakL, peakR))));
                ebur128_destroy(&peer);
            }
        qInfo("integrated loudness: within %.3f LU; true peak within %.2f dB", worst, worstPeak);
        QVERIFY(worst < 0.1);
        QVERIFY(worstPeak < 0.3);
    }

    void momentaryAndShortTerm() { // a steady tone of -23 LUFS, as EBU Tech 3341 asks: within 0.1 LU
        LoudnessMeter meter(48000, 2);
        std::array<float, 64> x;
        std::size_t n = 0;
        const double size = gainFromDb(-23);
        for (int frame = 0; frame < 5 * 750; ++frame) {
            for (auto& v : x)
                v = static_cast<float>(size * std::sin(2 * pi * 1000 * static_cast<double>(n++) / 48000));
            const float* in[] = {x.data(), x.data()};
            meter.process(in, 64);
        }
        QVERIFY(std::abs(meter.momentary() + 23) < 0.1);
        QVERIFY(std::abs(meter.shortTerm() + 23) < 0.1);
        QVERIFY(std::abs(meter.integrated() + 23) < 0.1);
        meter.restart();
        QCOMPARE(meter.integrated(), silenceDb);
    }

    void truePeakBetweenSamples() { // a quarter of the rate, 45 degrees off: samples say -3 dB, the wave 0
        LoudnessMeter meter(48000, 1);
        std::array<float, 64> x;
        for (std::size_t i = 0; i < x.size(); ++i)
            x[i] = static_cast<float>(std::sin(pi / 2 * static_cast<double>(i) + pi / 4));
        for (int frame = 0; frame < 20; ++frame) {
            const float* in[] = {x.data()};
            meter.process(in, 64);
        }
        QVERIFY2(std::abs(meter.truePeakDb()) < 0.2, qPrintable(QString::number(meter.truePeakDb())));
    }

    void fineSpectrumShowsATone() {
        FftAnalyser fft(48000);
        std::array<float, 64> x;
        std::size_t n = 0;
        for (int frame = 0; frame < 400; ++frame) {
            for (auto& v : x)
                v = static_cast<float>(0.5 *
                                       std::sin(2 * pi * 2343.75 * static_cast<double>(n++) / 48000)); // on a line
            fft.process(x.data(), 64, 0);
        }
        int best = 0;
        for (int p = 0; p < FftAnalyser::points; ++p)
            if (fft.levelDb(p) > fft.levelDb(best))
                best = p;
        QVERIFY(std::abs(std::log2(FftAnalyser::pointHz(best) / 2343.75)) < 0.05);
        QVERIFY(std::abs(static_cast<double>(fft.levelDb(best)) + 6.02) < 0.1);
        QVERIFY(fft.levelDb(0) < -100);
    }
};
LOOM_TEST(tst_eyes, TestEyes)
#include "tst_eyes.moc"
