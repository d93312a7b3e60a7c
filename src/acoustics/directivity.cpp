#include "acoustics/directivity.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::acoustics {
namespace {

constexpr double degree = std::numbers::pi / 180;

double dot(const Point& a, const Point& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

Point cross(const Point& a, const Point& b) {
    return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

double perSquare(double coverageDeg) { // dB a square degree
    return coverageDeg >= 360 ? 0 : -6 / std::pow(std::max(coverageDeg, 1.0) / 2, 2);
}

} // namespace

double lengthOf(const Point& p) {
    return std::sqrt(dot(p, p));
}

Point direction(double turnDeg, double tiltDeg) {
    const double t = turnDeg * degree, e = tiltDeg * degree;
    return {std::cos(e) * std::cos(t), std::cos(e) * std::sin(t), std::sin(e)};
}

Aim aimed(double turnDeg, double tiltDeg) {
    Aim a;
    a.axis = direction(turnDeg, tiltDeg);
    a.side = direction(turnDeg + 90, 0);
    a.up = cross(a.axis, a.side);
    return a;
}

Directivity::Directivity(const Bands& horizontal, const Bands& vertical, double back) : back_(back) {
    for (std::size_t b = 0; b < bandCount; ++b) {
        perSquareH_[b] = perSquare(horizontal[b]);
        perSquareV_[b] = perSquare(vertical[b]);
    }
    // The integral by rings of 2 degrees around the axis, each in steps of 5 degrees.
    const Aim aim = aimed(0, 0);
    Bands sum{};
    double whole = 0;
    for (double off = 1; off < 180; off += 2)
        for (double round = 2.5; round < 360; round += 5) {
            const double ring = std::sin(off * degree);
            const Point to{std::cos(off * degree), ring * std::cos(round * degree), ring * std::sin(round * degree)};
            const Bands level = towards(aim, to);
            for (std::size_t b = 0; b < bandCount; ++b)
                sum[b] += ring * energyOf(level[b]);
            whole += ring;
        }
    for (std::size_t b = 0; b < bandCount; ++b)
        factor_[b] = whole / sum[b];
}

// The angle from the axis is split by where the direction points across it, so that a round pattern stays round.
Bands Directivity::towards(const Aim& aim, const Point& to) const {
    const double x = dot(to, aim.axis), s = dot(to, aim.side), u = dot(to, aim.up), across = std::hypot(s, u);
    const double off = std::atan2(across, x) / degree;
    const double h = across > 0 ? off * s / across : off, v = across > 0 ? off * u / across : 0;
    Bands level;
    for (std::size_t b = 0; b < bandCount; ++b)
        level[b] = std::max(back_, perSquareH_[b] * h * h + perSquareV_[b] * v * v);
    return level;
}

Bands Directivity::index() const {
    Bands b;
    for (std::size_t i = 0; i < bandCount; ++i)
        b[i] = 10 * std::log10(factor_[i]);
    return b;
}

double microphoneTakes(double a, double cosine) {
    return std::max(0.01, std::abs(a + (1 - a) * cosine));
}

double microphoneLevel(double a, double degrees) {
    return 20 * std::log10(microphoneTakes(a, std::cos(degrees * degree)));
}

double microphoneFactor(double a) {
    return 1 / (a * a + (1 - a) * (1 - a) / 3);
}

} // namespace loom::acoustics
