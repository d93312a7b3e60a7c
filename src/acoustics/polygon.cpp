#include "acoustics/polygon.h"
#include <algorithm>
#include <cmath>

namespace loom::acoustics {
namespace {

constexpr double tiny = 1e-9;

double turn(const Spot& a, const Spot& b, const Spot& c) {
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
}

double signedArea(const Outline& o) {
    double sum = 0;
    for (std::size_t i = 0; i < o.size(); ++i) {
        const auto &a = o[i], &b = o[(i + 1) % o.size()];
        sum += a[0] * b[1] - b[0] * a[1];
    }
    return sum / 2;
}

bool onStretch(const Spot& p, const Spot& a, const Spot& b) {
    return std::abs(turn(a, b, p)) < tiny && std::min(a[0], b[0]) - tiny <= p[0] &&
           p[0] <= std::max(a[0], b[0]) + tiny && std::min(a[1], b[1]) - tiny <= p[1] &&
           p[1] <= std::max(a[1], b[1]) + tiny;
}

bool cross(const Spot& a, const Spot& b, const Spot& c, const Spot& d) {
    const double u = turn(a, b, c), v = turn(a, b, d), s = turn(c, d, a), t = turn(c, d, b);
    if (u * v < -tiny && s * t < -tiny)
        return true;
    return onStretch(c, a, b) || onStretch(d, a, b) || onStretch(a, c, d) || onStretch(b, c, d);
}

double distance(const Spot& a, const Spot& b) {
    return std::hypot(a[0] - b[0], a[1] - b[1]);
}

} // namespace

double areaOf(const Outline& o) {
    return o.size() < 3 ? 0 : std::abs(signedArea(o));
}

double perimeterOf(const Outline& o) {
    double sum = 0;
    for (std::size_t i = 0; i < o.size(); ++i)
        sum += distance(o[i], o[(i + 1) % o.size()]);
    return sum;
}

Spot centreOf(const Outline& o) {
    const double area = o.size() < 3 ? 0 : signedArea(o);
    Spot c{};
    if (std::abs(area) < tiny) {
        for (const auto& p : o) {
            c[0] += p[0] / double(o.size());
            c[1] += p[1] / double(o.size());
        }
        return c;
    }
    for (std::size_t i = 0; i < o.size(); ++i) {
        const auto &a = o[i], &b = o[(i + 1) % o.size()];
        const double k = (a[0] * b[1] - b[0] * a[1]) / (6 * area);
        c[0] += (a[0] + b[0]) * k;
        c[1] += (a[1] + b[1]) * k;
    }
    return c;
}

bool contains(const Outline& o, const Spot& p) {
    bool in = false;
    for (std::size_t i = 0, j = o.size() - 1; i < o.size(); j = i++)
        if ((o[i][1] > p[1]) != (o[j][1] > p[1]) &&
            p[0] < (o[j][0] - o[i][0]) * (p[1] - o[i][1]) / (o[j][1] - o[i][1]) + o[i][0])
            in = !in;
    return in;
}

Extent extentOf(const Outline& o) {
    if (o.empty())
        return {};
    Extent e{o.front(), o.front()};
    for (const auto& p : o)
        for (std::size_t d = 0; d < 2; ++d) {
            e.least[d] = std::min(e.least[d], p[d]);
            e.most[d] = std::max(e.most[d], p[d]);
        }
    return e;
}

Outline rectangle(const Spot& c, double w, double d) {
    return {c, {c[0] + w, c[1]}, {c[0] + w, c[1] + d}, {c[0], c[1] + d}};
}

std::optional<std::pair<std::size_t, std::size_t>> crossingWalls(const Outline& o) {
    const std::size_t n = o.size();
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = i + 1; j < n; ++j) {
            const Spot &a = o[i], &b = o[(i + 1) % n], &c = o[j], &d = o[(j + 1) % n];
            if (j == i + 1 || (i == 0 && j == n - 1)) { // they share a corner: only folding back is wrong
                const Spot &corner = j == i + 1 ? b : a, &p = j == i + 1 ? a : b, &q = j == i + 1 ? d : c;
                if (n == 2 || (std::abs(turn(corner, p, q)) < tiny &&
                               (p[0] - corner[0]) * (q[0] - corner[0]) + (p[1] - corner[1]) * (q[1] - corner[1]) > 0))
                    return std::pair{i, j};
            } else if (cross(a, b, c, d))
                return std::pair{i, j};
        }
    return {};
}

double distanceTo(const Spot& p, const Spot& a, const Spot& b) {
    const double l2 = (b[0] - a[0]) * (b[0] - a[0]) + (b[1] - a[1]) * (b[1] - a[1]);
    const double t =
        l2 < tiny ? 0 : std::clamp(((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / l2, 0.0, 1.0);
    return distance(p, {a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])});
}

std::optional<std::pair<double, double>> sharedPart(const Spot& a, const Spot& b, const Spot& from, const Spot& to) {
    constexpr double near = 0.15;
    const double dx = b[0] - a[0], dy = b[1] - a[1], squared = dx * dx + dy * dy;
    if (squared <= 0)
        return {};
    const auto along = [&](const Spot& s) { return ((s[0] - a[0]) * dx + (s[1] - a[1]) * dy) / squared; };
    const auto beside = [&](const Spot& s) {
        return std::abs((s[0] - a[0]) * dy - (s[1] - a[1]) * dx) / std::sqrt(squared);
    };
    const double begin = std::max(0.0, std::min(along(from), along(to))),
                 end = std::min(1.0, std::max(along(from), along(to)));
    if (beside(from) > near || beside(to) > near || begin >= end)
        return {};
    return std::pair(begin, end);
}

std::optional<Outline> joined(const Outline& first, const Outline& second) {
    Outline a = first, b = second;
    if (a.size() < 3 || b.size() < 3)
        return {};
    if (signedArea(a) < 0)
        std::reverse(a.begin(), a.end());
    if (signedArea(b) < 0)
        std::reverse(b.begin(), b.end());
    // Walls of the two run in opposite directions where they touch; walls up to 0.35 m thick may lie between.
    constexpr double thick = 0.35, straight = 0.02;
    for (std::size_t i = 0; i < a.size(); ++i)
        for (std::size_t j = 0; j < b.size(); ++j) {
            const Spot &p = a[i], &q = a[(i + 1) % a.size()], &r = b[j], &s = b[(j + 1) % b.size()];
            const double l = distance(p, q), m = distance(r, s);
            if (l < tiny || m < tiny)
                continue;
            const Spot u{(q[0] - p[0]) / l, (q[1] - p[1]) / l};
            const double along = ((s[0] - r[0]) * u[0] + (s[1] - r[1]) * u[1]) / m;
            const double offR = std::abs(turn(p, q, r)) / l, offS = std::abs(turn(p, q, s)) / l;
            const double tr = (r[0] - p[0]) * u[0] + (r[1] - p[1]) * u[1];
            const double ts = (s[0] - p[0]) * u[0] + (s[1] - p[1]) * u[1];
            if (along > -1 + straight || offR > thick || offS > thick || std::min(tr, l) - std::max(ts, 0.0) < 0.1)
                continue;
            // a up to p, then b from s round to r, then a from q on.
            Outline all;
            const auto add = [&](const Spot& spot) {
                if (all.empty() || distance(all.back(), spot) > 1e-6)
                    all.push_back(spot);
            };
            for (std::size_t k = 0; k < a.size(); ++k)
                add(a[(i + 1 + k) % a.size()]); // q .. p
            for (std::size_t k = 0; k < b.size(); ++k)
                add(b[(j + 1 + k) % b.size()]); // s .. r
            if (distance(all.front(), all.back()) < 1e-6)
                all.pop_back();
            return all;
        }
    return {};
}

std::vector<Spot> gridInside(const Outline& o, double step, double margin) {
    std::vector<Spot> spots;
    const Extent e = extentOf(o);
    for (double y = e.least[1] + step / 2; y < e.most[1]; y += step)
        for (double x = e.least[0] + step / 2; x < e.most[0]; x += step) {
            if (!contains(o, {x, y}))
                continue;
            bool clear = true;
            for (std::size_t i = 0; margin > 0 && clear && i < o.size(); ++i)
                clear = distanceTo({x, y}, o[i], o[(i + 1) % o.size()]) >= margin;
            if (clear)
                spots.push_back({x, y});
        }
    return spots;
}

} // namespace loom::acoustics
