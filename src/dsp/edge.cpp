#include "dsp/edge.h"
#include <algorithm>
#include <cstdlib>
#include <vector>

namespace loom::dsp {
namespace {

// The analogue low-pass prototype with its corner at 1 rad/s: the poles of the upper half plane first, then, for an
// odd order, the real one.
struct Prototype {
    std::array<Complex, 4> pairs{};
    int pairCount = 0;
    double realPole = 0; // 0: none
};

Prototype butterworth(int order) {
    Prototype p;
    p.pairCount = order / 2;
    for (int i = 0; i < p.pairCount; ++i) {
        const double angle = pi / 2.0 + pi * (2 * i + 1) / (2.0 * order);
        p.pairs[i] = std::polar(1.0, angle);
    }
    if (order % 2)
        p.realPole = -1.0;
    return p;
}

// Coefficients of the reverse Bessel polynomial, lowest power first: (2n-k)! / (2^(n-k) k! (n-k)!).
std::vector<double> reverseBessel(int n) {
    std::vector<double> c(n + 1);
    for (int k = 0; k <= n; ++k)
        c[k] = std::exp(std::lgamma(2.0 * n - k + 1) - (n - k) * std::log(2.0) - std::lgamma(k + 1.0) -
                        std::lgamma(n - k + 1.0));
    for (double& v : c)
        v = std::round(v); // the coefficients are whole numbers
    return c;
}

Complex evaluate(const std::vector<double>& c, Complex s) {
    Complex v = 0;
    for (std::size_t k = c.size(); k-- > 0;)
        v = v * s + c[k];
    return v;
}

// All roots at once by Durand-Kerner, polished by Newton steps.
std::vector<Complex> roots(const std::vector<double>& c) {
    const int n = static_cast<int>(c.size()) - 1;
    std::vector<Complex> r(n);
    for (int i = 0; i < n; ++i)
        r[i] = std::polar(0.6 * n, 2.0 * pi * i / n + 0.4);
    for (int round = 0; round < 400; ++round)
        for (int i = 0; i < n; ++i) {
            Complex below = 1;
            for (int j = 0; j < n; ++j)
                if (j != i)
                    below *= r[i] - r[j];
            r[i] -= evaluate(c, r[i]) / below;
        }
    return r;
}

// Frequency at which the unscaled Bessel low-pass is 3.01 dB down.
double besselCorner(const std::vector<double>& c) {
    double low = 0.1, high = 20.0;
    for (int i = 0; i < 200; ++i) {
        const double mid = 0.5 * (low + high);
        const double power = std::norm(c[0] / evaluate(c, Complex(0, mid)));
        (power > 0.5 ? low : high) = mid;
    }
    return 0.5 * (low + high);
}

Prototype computeBessel(int order) {
    const auto c = reverseBessel(order);
    const double corner = besselCorner(c);
    Prototype p;
    for (Complex r : roots(c)) {
        r /= corner;
        if (std::abs(r.imag()) < 1e-9)
            p.realPole = r.real();
        else if (r.imag() > 0)
            p.pairs[p.pairCount++] = r;
    }
    std::sort(p.pairs.begin(), p.pairs.begin() + p.pairCount, [](Complex a, Complex b) { return a.imag() < b.imag(); });
    return p;
}

// Computed once, before any audio thread runs, so that a design never allocates.
const std::array<Prototype, 9> besselTable = [] {
    std::array<Prototype, 9> t;
    for (int n = 2; n <= 8; ++n)
        t[n] = computeBessel(n);
    return t;
}();

Section pairSection(Complex pole, EdgeSide side, double k) {
    const double square = std::norm(pole);
    // s^2 + damping s + stiffness, corner at 1; a high-pass mirrors the poles: p -> 1/p.
    double damping = -2.0 * pole.real(), stiffness = square;
    if (side == EdgeSide::highPass) {
        damping /= square;
        stiffness = 1.0 / square;
    }
    const double a0 = 1.0 + damping * k + stiffness * k * k;
    Section s;
    if (side == EdgeSide::lowPass) {
        const double g = stiffness * k * k / a0;
        s.b0 = g;
        s.b1 = 2 * g;
        s.b2 = g;
    } else {
        s.b0 = 1 / a0;
        s.b1 = -2 / a0;
        s.b2 = 1 / a0;
    }
    s.a1 = 2.0 * (stiffness * k * k - 1.0) / a0;
    s.a2 = (1.0 - damping * k + stiffness * k * k) / a0;
    return s;
}

Section realSection(double pole, EdgeSide side, double k) {
    double w = -pole;
    if (side == EdgeSide::highPass)
        w = 1.0 / w;
    const double a0 = 1.0 + w * k;
    Section s;
    if (side == EdgeSide::lowPass)
        s.b0 = s.b1 = w * k / a0;
    else {
        s.b0 = 1 / a0;
        s.b1 = -1 / a0;
    }
    s.a1 = (w * k - 1.0) / a0;
    return s;
}

void append(EdgeDesign& d, const Prototype& p, EdgeSide side, double k) {
    for (int i = 0; i < p.pairCount; ++i)
        d.sections[d.count++] = pairSection(p.pairs[i], side, k);
    if (p.realPole != 0)
        d.sections[d.count++] = realSection(p.realPole, side, k);
}

} // namespace

bool edgeExists(EdgeShape shape, int order) {
    if (order < 1 || order > 8)
        return false;
    if (shape == EdgeShape::linkwitzRiley)
        return order % 2 == 0;
    return shape == EdgeShape::butterworth || order >= 2;
}

int nearestEdgeOrder(EdgeShape shape, int order) {
    int best = 2;
    for (int n = 8; n >= 1; --n)
        if (edgeExists(shape, n) && std::abs(n - order) < std::abs(best - order))
            best = n;
    return best;
}

EdgeDesign designEdge(EdgeShape shape, EdgeSide side, int order, double hz, double rate) {
    order = nearestEdgeOrder(shape, order);
    const double k = std::tan(pi * hz / rate);
    EdgeDesign d;
    if (shape == EdgeShape::linkwitzRiley) {
        const auto half = butterworth(order / 2);
        append(d, half, side, k);
        append(d, half, side, k);
    } else {
        append(d, shape == EdgeShape::bessel ? besselTable[order] : butterworth(order), side, k);
    }
    return d;
}

Complex response(const EdgeDesign& edge, double hz, double rate) {
    Complex h = 1;
    for (std::size_t i = 0; i < edge.count; ++i)
        h *= response(edge.sections[i], hz, rate);
    return h;
}

} // namespace loom::dsp
