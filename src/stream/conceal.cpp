#include "stream/conceal.h"
#include <algorithm>
#include <cmath>

namespace loom::stream {

Concealer::Concealer()
    : a_(order + 1), products_((order + 1) * (order + 1)), matrix_(longest * (order + 1)), right_(longest) {}

// Least squares over what lies before the gap, forwards and backwards (S. Kay, Modern Spectral Estimation (1988), 7.5):
// exact for the tones that sound is made of, also for those of which only a period is there.
void Concealer::model(std::span<const float> s, std::size_t from) {
    constexpr std::size_t p = order;
    const std::size_t n = std::min(from, context);
    const float* x = s.data() + (from - n);
    const auto phi = [&](std::size_t i, std::size_t j) -> double& { return products_[i * (p + 1) + j]; };
    for (std::size_t j = 0; j <= p; ++j) { // sums of x(m - i) x(m - j), m from p to n - 1
        double sum = 0;
        for (std::size_t m = p; m < n; ++m)
            sum += static_cast<double>(x[m]) * x[m - j];
        phi(0, j) = phi(j, 0) = sum;
    }
    for (std::size_t i = 0; i < p; ++i)
        for (std::size_t j = i; j < p; ++j)
            phi(i + 1, j + 1) = phi(j + 1, i + 1) = phi(i, j) + static_cast<double>(x[p - 1 - i]) * x[p - 1 - j] -
                                                    static_cast<double>(x[n - 1 - i]) * x[n - 1 - j];
    const auto c = [&](std::size_t i, std::size_t j) { return phi(i, j) + phi(p - i, p - j); };
    const double little = 1e-11 * c(0, 0) + 1e-20;
    double l[p][p], y[p];
    for (std::size_t i = 0; i < p; ++i)
        for (std::size_t j = 0; j <= i; ++j) {
            double sum = c(i + 1, j + 1) + (i == j ? little : 0);
            for (std::size_t k = 0; k < j; ++k)
                sum -= l[i][k] * l[j][k];
            l[i][j] = i == j ? std::sqrt(std::max(sum, little)) : sum / l[j][j];
        }
    for (std::size_t i = 0; i < p; ++i) {
        double sum = -c(i + 1, 0);
        for (std::size_t k = 0; k < i; ++k)
            sum -= l[i][k] * y[k];
        y[i] = sum / l[i][i];
    }
    a_[0] = 1;
    for (std::size_t i = p; i-- > 0;) {
        double sum = y[i];
        for (std::size_t k = i + 1; k < p; ++k)
            sum -= l[k][i] * a_[k + 1];
        a_[i + 1] = sum / l[i][i];
    }
}

void Concealer::fill(std::span<float> s, std::size_t from, std::size_t to) {
    const std::size_t n = to - from;
    if (n == 0 || n > longest || s.size() > most || from < 2 * order)
        return;
    model(s, from);
    if (s.size() - to < order) { // nothing to lead to: as it was, no louder, and fading
        float loudest = 0;
        for (std::size_t i = from - 2 * order; i < from; ++i)
            loudest = std::max(loudest, std::abs(s[i]));
        for (std::size_t i = from; i < to; ++i) {
            double sum = 0;
            for (std::size_t k = 1; k <= order; ++k)
                sum -= a_[k] * s[i - k];
            s[i] = std::clamp(static_cast<float>(sum), -loudest, loudest);
        }
        for (std::size_t i = from; i < to; ++i)
            s[i] *= static_cast<float>(1 - static_cast<double>(i - from + 1) / static_cast<double>(n));
        return;
    }
    // The unknown x makes the sum of the squared residuals of all samples from `from` to `to + order` least: B x = -z
    // with B(i, j) = b(|i - j|), b(l) = sum of a(k) a(k + l); a band of `order` beside its diagonal.
    double b[order + 1];
    for (std::size_t l = 0; l <= order; ++l) {
        b[l] = 0;
        for (std::size_t k = 0; k + l <= order; ++k)
            b[l] += a_[k] * a_[k + l];
    }
    for (std::size_t i = 0; i < n; ++i) {
        double z = 0;
        for (std::size_t l = 1; l <= order; ++l) {
            if (i < l)
                z += b[l] * s[from + i - l];
            if (i + l >= n)
                z += b[l] * s[from + i + l];
        }
        right_[i] = -z;
    }
    // Cholesky within the band (G. Golub, C. Van Loan, Matrix Computations, 4.3.5).
    const auto at = [&](std::size_t i, std::size_t j) -> double& { return matrix_[i * (order + 1) + (i - j)]; };
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = i > order ? i - order : 0; j <= i; ++j) {
            double sum = b[i - j] + (i == j ? b[0] * 1e-10 : 0);
            for (std::size_t k = i > order ? i - order : 0; k < j; ++k)
                if (j - k <= order)
                    sum -= at(i, k) * at(j, k);
            at(i, j) = i == j ? std::sqrt(std::max(sum, 1e-30)) : sum / at(j, j);
        }
    for (std::size_t i = 0; i < n; ++i) {
        double sum = right_[i];
        for (std::size_t k = i > order ? i - order : 0; k < i; ++k)
            sum -= at(i, k) * right_[k];
        right_[i] = sum / at(i, i);
    }
    for (std::size_t i = n; i-- > 0;) {
        double sum = right_[i];
        for (std::size_t k = i + 1; k < std::min(n, i + order + 1); ++k)
            sum -= at(k, i) * right_[k];
        right_[i] = sum / at(i, i);
    }
    for (std::size_t i = 0; i < n; ++i)
        s[from + i] = static_cast<float>(right_[i]);
}

} // namespace loom::stream
