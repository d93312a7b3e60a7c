// Partitioned convolution against the plain sum.
#include "dsp/convolver.h"
#include "dsp/matrix_convolver.h"
#include "test.h"
#include <cmath>
#include <random>

using namespace loom::dsp;

class TestConvolver : public QObject {
    Q_OBJECT
  private slots:
    void equalsThePlainSum_data() {
        QTest::addColumn<int>("taps");
        for (const int n : {1, 63, 64, 65, 128, 1000, 4096})
            QTest::newRow(qPrintable(QString::number(n))) << n;
    }
    void equalsThePlainSum() {
        QFETCH(int, taps);
        std::mt19937 random(static_cast<unsigned>(taps));
        std::normal_distribution<float> noise(0, 0.1f);
        std::vector<float> h(static_cast<std::size_t>(taps)), x(6000), y(x.size());
        for (auto* v : {&h, &x})
            for (auto& s : *v)
                s = noise(random);
        Convolver c(std::make_shared<ConvolverTaps>(h));
        int step = 1; // frames of any size
        for (std::size_t at = 0; at < x.size();) {
            const int n = std::min<int>(step, static_cast<int>(x.size() - at));
            c.process(x.data() + at, y.data() + at, n);
            at += static_cast<std::size_t>(n);
            step = step % 64 + 1;
        }
        double worst = 0, power = 0;
        for (std::size_t i = convolverLatency; i < x.size(); i += 7) {
            double want = 0;
            for (std::size_t k = 0; k < h.size() && k + convolverLatency <= i; ++k)
                want += static_cast<double>(h[k]) * x[i - convolverLatency - k];
            worst = std::max(worst, std::abs(want - y[i])), power = std::max(power, std::abs(want));
        }
        QVERIFY2(worst < 1e-5 * power, qPrintable(QString::number(20 * std::log10(worst / power)) + " dB"));
    }
    void manyAtOnceEqualThePlainSums() {
        constexpr int block = 128, blocks = 20;
        const std::size_t lengths[3][2] = {{1, 127}, {129, 700}, {0, 384}}; // input by output; 0: none
        std::mt19937 random(5);
        std::normal_distribution<float> noise(0, 0.1f);
        MatrixConvolver c(3, 2, block);
        std::vector<float> h[3][2], x[3];
        for (std::size_t i = 0; i < 3; ++i) {
            x[i].resize(block * blocks);
            for (float& v : x[i])
                v = noise(random);
            for (std::size_t o = 0; o < 2; ++o) {
                h[i][o].resize(lengths[i][o]);
                for (float& v : h[i][o])
                    v = noise(random);
                c.set(i, o, h[i][o]);
            }
        }
        std::vector<float> y[2] = {std::vector<float>(block * blocks), std::vector<float>(block * blocks)};
        for (std::size_t at = 0; at < block * blocks; at += block) {
            // The third input is unplugged for the second half.
            const float* in[3] = {&x[0][at], &x[1][at], at < block * blocks / 2 ? &x[2][at] : nullptr};
            float* out[2] = {&y[0][at], &y[1][at]};
            c.process(in, out);
        }
        std::fill(x[2].begin() + block * blocks / 2, x[2].end(), 0.0f);
        double worst = 0, power = 0;
        for (std::size_t o = 0; o < 2; ++o)
            for (std::size_t n = 0; n < y[o].size(); n += 3) {
                double want = 0;
                for (std::size_t i = 0; i < 3; ++i)
                    for (std::size_t k = 0; k < h[i][o].size() && k <= n; ++k)
                        want += static_cast<double>(h[i][o][k]) * x[i][n - k];
                worst = std::max(worst, std::abs(want - y[o][n])), power = std::max(power, std::abs(want));
            }
        QVERIFY2(worst < 1e-5 * power, qPrintable(QString::number(20 * std::log10(worst / power)) + " dB"));
    }
    void badNumbersDoNotStay() {
        std::vector<float> h(300, 0.01f), x(64, NAN), y(64);
        Convolver c(std::make_shared<ConvolverTaps>(h));
        c.process(x.data(), y.data(), 64);
        std::fill(x.begin(), x.end(), 1.0f);
        for (int i = 0; i < 10; ++i)
            c.process(x.data(), y.data(), 64);
        QVERIFY(std::abs(y[63] - 3.0f) < 1e-3f);
    }
};
LOOM_TEST(tst_convolver, TestConvolver)
#include "tst_convolver.moc"
