#include "rooms/dxf/curves.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::project::dxf {
namespace {

constexpr double coarsest = 7.5 * std::numbers::pi / 180;

int stepsOf(double radius, double angle, const Fine& fine) {
    const double k = fine.sagitta / std::max(radius * fine.scale, 1e-12);
    const double step = k >= 1 ? coarsest : std::min(coarsest, 2 * std::acos(1 - k));
    return std::clamp(static_cast<int>(std::ceil(std::abs(angle) / std::max(step, 2e-3))), 1, 4000);
}

void add(std::vector<V3>& points, const V3& p) {
    if (points.empty() || (points.back() - p).length() > 1e-12)
        points.push_back(p);
}

// A point of a rational B-spline; t within its range.
V3 pointAt(const Spline& s, const std::vector<double>& knots, double t) {
    const int p = s.degree, n = static_cast<int>(s.control.size()) - 1;
    int span = static_cast<int>(std::upper_bound(knots.begin() + p, knots.begin() + n + 1, t) - knots.begin()) - 1;
    span = std::clamp(span, p, n);
    struct Weighted {
        V3 p;
        double w;
    };
    std::vector<Weighted> d(static_cast<std::size_t>(p) + 1);
    for (int j = 0; j <= p; ++j) {
        const auto i = static_cast<std::size_t>(span - p + j);
        const double w = s.weights.empty() ? 1 : s.weights[i];
        d[static_cast<std::size_t>(j)] = {s.control[i] * w, w};
    }
    for (int r = 1; r <= p; ++r)
        for (int j = p; j >= r; --j) {
            const auto i = static_cast<std::size_t>(span - p + j);
            const double low = knots[i], high = knots[i + static_cast<std::size_t>(p - r) + 1];
            const double a = high > low ? (t - low) / (high - low) : 0;
            const auto k = static_cast<std::size_t>(j);
            d[k] = {d[k - 1].p * (1 - a) + d[k].p * a, d[k - 1].w * (1 - a) + d[k].w * a};
        }
    const auto& last = d[static_cast<std::size_t>(p)];
    return last.p * (1 / last.w);
}

template <class At>
void halve(std::vector<V3>& points, const At& at, double a, V3 pa, double b, V3 pb, double tolerance, int depth) {
    const double m = (a + b) / 2;
    const V3 pm = at(m);
    const V3 chord = pb - pa;
    const double length = chord.length();
    const V3 off = pm - pa;
    const double far = length > 0 ? cross(chord, off).length() / length : off.length();
    // also where the curve turns back upon itself: the middle must lie between the ends
    const double along = length > 0 ? (off.x * chord.x + off.y * chord.y + off.z * chord.z) / length : 0;
    if (depth > 0 && (far > tolerance || along < 0 || along > length || depth > 8)) {
        halve(points, at, a, pa, m, pm, tolerance, depth - 1);
        halve(points, at, m, pm, b, pb, tolerance, depth - 1);
    } else {
        add(points, pm);
        add(points, pb);
    }
}

void addThrough(std::vector<V3>& points, const std::vector<V3>& fit, const Fine& fine) {
    const std::size_t n = fit.size();
    std::vector<double> t(n, 0);
    for (std::size_t i = 1; i < n; ++i)
        t[i] = t[i - 1] + std::max((fit[i] - fit[i - 1]).length(), 1e-9);
    // Second derivatives of a natural cubic spline (Numerical Recipes, 3.3), each coordinate by itself.
    std::vector<V3> second(n), u(n);
    for (std::size_t i = 1; i + 1 < n; ++i) {
        const double sig = (t[i] - t[i - 1]) / (t[i + 1] - t[i - 1]);
        const V3 slope =
            (fit[i + 1] - fit[i]) * (1 / (t[i + 1] - t[i])) - (fit[i] - fit[i - 1]) * (1 / (t[i] - t[i - 1]));
        const auto one = [&](double before, double step, double was) {
            const double p = sig * before + 2;
            return std::pair((sig - 1) / p, (6 * step / (t[i + 1] - t[i - 1]) - sig * was) / p);
        };
        const auto x = one(second[i - 1].x, slope.x, u[i - 1].x);
        const auto y = one(second[i - 1].y, slope.y, u[i - 1].y);
        const auto z = one(second[i - 1].z, slope.z, u[i - 1].z);
        second[i] = {x.first, y.first, z.first};
        u[i] = {x.second, y.second, z.second};
    }
    second[n - 1] = {};
    for (std::size_t k = n - 1; k-- > 0;)
        second[k] = {second[k].x * second[k + 1].x + u[k].x, second[k].y * second[k + 1].y + u[k].y,
                     second[k].z * second[k + 1].z + u[k].z};
    add(points, fit.front());
    for (std::size_t i = 0; i + 1 < n; ++i) {
        const double h = t[i + 1] - t[i];
        const auto at = [&](double v) {
            const double a = (t[i + 1] - v) / h, b = (v - t[i]) / h;
            return fit[i] * a + fit[i + 1] * b +
                   (second[i] * (a * a * a - a) + second[i + 1] * (b * b * b - b)) * (h * h / 6);
        };
        halve(points, at, t[i], fit[i], t[i + 1], fit[i + 1], fine.sagitta / std::max(fine.scale, 1e-12), 10);
    }
}

} // namespace

void addArc(std::vector<V3>& points, V3 centre, double radius, double from, double to, const Fine& fine) {
    constexpr double turn = 2 * std::numbers::pi;
    if (to - from > turn || to - from < 0)
        to = from + std::fmod(std::fmod(to - from, turn) + turn, turn);
    if (to - from < 1e-12)
        to = from + turn;
    const int steps = stepsOf(std::abs(radius), to - from, fine);
    for (int i = 0; i <= steps; ++i) {
        const double a = from + (to - from) * i / steps;
        add(points, {centre.x + radius * std::cos(a), centre.y + radius * std::sin(a), centre.z});
    }
}

// A bulge is the tangent of a quarter of the arc's angle, positive to the left of a to b turning anticlockwise (DXF
// Reference, LWPOLYLINE).
void addBulge(std::vector<V3>& points, V3 a, V3 b, double bulge, const Fine& fine) {
    add(points, a);
    const double chord = std::hypot(b.x - a.x, b.y - a.y);
    if (std::abs(bulge) < 1e-9 || chord < 1e-12) {
        add(points, b);
        return;
    }
    const double angle = 4 * std::atan(bulge), radius = chord / 2 / std::sin(angle / 2); // signed
    const double away = radius * std::cos(angle / 2);
    const V3 centre{(a.x + b.x) / 2 - away * (b.y - a.y) / chord, (a.y + b.y) / 2 + away * (b.x - a.x) / chord, a.z};
    const double from = std::atan2(a.y - centre.y, a.x - centre.x);
    const int steps = stepsOf(std::abs(radius), angle, fine);
    for (int i = 1; i < steps; ++i) {
        const double at = from + angle * i / steps;
        add(points, {centre.x + std::abs(radius) * std::cos(at), centre.y + std::abs(radius) * std::sin(at), a.z});
    }
    add(points, b);
}

void addEllipse(std::vector<V3>& points, V3 centre, V3 major, V3 minor, double from, double to, const Fine& fine) {
    constexpr double turn = 2 * std::numbers::pi;
    if (to - from > turn + 1e-9 || to - from < 0)
        to = from + std::fmod(std::fmod(to - from, turn) + turn, turn);
    if (to - from < 1e-12)
        to = from + turn;
    const int steps = stepsOf(std::max(major.length(), minor.length()), to - from, fine);
    for (int i = 0; i <= steps; ++i) {
        const double a = from + (to - from) * i / steps;
        add(points, centre + major * std::cos(a) + minor * std::sin(a));
    }
}

bool addSpline(std::vector<V3>& points, const Spline& s, const Fine& fine) {
    if (s.control.empty()) {
        if (s.fit.size() < 2)
            return false;
        auto fit = s.fit;
        if (s.closed)
            fit.push_back(fit.front());
        addThrough(points, fit, fine);
        return true;
    }
    const auto p = static_cast<std::size_t>(std::max(s.degree, 0)), n = s.control.size();
    if (s.degree < 1 || s.degree > maxDegree || n < p + 1 || s.knots.size() != n + p + 1 ||
        !std::is_sorted(s.knots.begin(), s.knots.end()))
        return false;
    if (!s.weights.empty() && (s.weights.size() != n ||
                               std::any_of(s.weights.begin(), s.weights.end(), [](double w) { return !(w > 1e-9); })))
        return false;
    const auto at = [&](double t) { return pointAt(s, s.knots, t); };
    add(points, at(s.knots[p]));
    for (std::size_t k = p; k < n; ++k) {
        const double a = s.knots[k], b = s.knots[k + 1];
        if (b > a)
            halve(points, at, a, at(a), b, at(b), fine.sagitta / std::max(fine.scale, 1e-12), 10);
    }
    return true;
}

} // namespace loom::project::dxf
