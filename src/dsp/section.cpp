#include "dsp/section.h"

namespace loom::dsp {

Complex response(const Section& s, double hz, double rate) {
    const Complex z1 = std::polar(1.0, -2.0 * pi * hz / rate);
    return (s.b0 + z1 * (s.b1 + z1 * s.b2)) / (1.0 + z1 * (s.a1 + z1 * s.a2));
}

Section designBand(BellKind kind, double hz, double gainDb, double q, double rate) {
    const double w = 2.0 * pi * hz / rate;
    const double c = std::cos(w);
    const double alpha = std::sin(w) / (2.0 * q);
    const double a = std::pow(10.0, gainDb / 40.0);
    const double root = 2.0 * std::sqrt(a) * alpha;
    double b0 = 1, b1 = 0, b2 = 0, a0 = 1, a1 = 0, a2 = 0;
    switch (kind) {
    case BellKind::bell:
        b0 = 1 + alpha * a;
        b1 = -2 * c;
        b2 = 1 - alpha * a;
        a0 = 1 + alpha / a;
        a1 = -2 * c;
        a2 = 1 - alpha / a;
        break;
    case BellKind::lowShelf:
        b0 = a * ((a + 1) - (a - 1) * c + root);
        b1 = 2 * a * ((a - 1) - (a + 1) * c);
        b2 = a * ((a + 1) - (a - 1) * c - root);
        a0 = (a + 1) + (a - 1) * c + root;
        a1 = -2 * ((a - 1) + (a + 1) * c);
        a2 = (a + 1) + (a - 1) * c - root;
        break;
    case BellKind::highShelf:
        b0 = a * ((a + 1) + (a - 1) * c + root);
        b1 = -2 * a * ((a - 1) + (a + 1) * c);
        b2 = a * ((a + 1) + (a - 1) * c - root);
        a0 = (a + 1) - (a - 1) * c + root;
        a1 = 2 * ((a - 1) - (a + 1) * c);
        a2 = (a + 1) - (a - 1) * c - root;
        break;
    case BellKind::notch:
        b0 = 1;
        b1 = -2 * c;
        b2 = 1;
        a0 = 1 + alpha;
        a1 = -2 * c;
        a2 = 1 - alpha;
        break;
    case BellKind::allPass:
        b0 = 1 - alpha;
        b1 = -2 * c;
        b2 = 1 + alpha;
        a0 = 1 + alpha;
        a1 = -2 * c;
        a2 = 1 - alpha;
        break;
    }
    return {b0 / a0, b1 / a0, b2 / a0, a1 / a0, a2 / a0};
}

} // namespace loom::dsp
