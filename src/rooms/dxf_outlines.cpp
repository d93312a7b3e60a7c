// Closed outlines of a plan that may be rooms.
#include "rooms/dxf_plan.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <utility>

namespace loom::project {
namespace {

using Corner = std::array<double, 2>;
using Ring = std::vector<Corner>;

double areaOf(const Ring& r) {
    double twice = 0;
    for (std::size_t i = 0; i < r.size(); ++i) {
        const auto &a = r[i], &b = r[(i + 1) % r.size()];
        twice += a[0] * b[1] - b[0] * a[1];
    }
    return twice / 2;
}

bool inside(const Ring& r, const Corner& p) {
    bool in = false;
    for (std::size_t i = 0, k = r.size() - 1; i < r.size(); k = i++)
        if ((r[i][1] > p[1]) != (r[k][1] > p[1]) &&
            p[0] < (r[k][0] - r[i][0]) * (p[1] - r[i][1]) / (r[k][1] - r[i][1]) + r[i][0])
            in = !in;
    return in;
}

bool crosses(const Corner& a, const Corner& b, const Corner& c, const Corner& d) {
    const auto side = [](const Corner& p, const Corner& q, const Corner& r) {
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
    };
    return side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
}

bool simple(const Ring& r) {
    for (std::size_t i = 0; i < r.size(); ++i)
        for (std::size_t k = i + 2; k < r.size(); ++k)
            if (!(i == 0 && k + 1 == r.size()) && crosses(r[i], r[i + 1], r[k], r[(k + 1) % r.size()]))
                return false;
    return true;
}

// Corners within 1 mm of a straight line between their neighbours go, so that a wall is one wall.
Ring straightened(Ring r) {
    bool changed = true;
    while (changed && r.size() > 3) {
        changed = false;
        for (std::size_t i = 0; i < r.size() && r.size() > 3; ++i) {
            const auto &a = r[(i + r.size() - 1) % r.size()], &b = r[i], &c = r[(i + 1) % r.size()];
            const double wide = std::hypot(c[0] - a[0], c[1] - a[1]);
            const double far =
                wide > 0 ? std::abs((c[0] - a[0]) * (a[1] - b[1]) - (a[0] - b[0]) * (c[1] - a[1])) / wide : 0;
            if (far < 1e-3 || std::hypot(b[0] - a[0], b[1] - a[1]) < 1e-3) {
                r.erase(r.begin() + static_cast<std::ptrdiff_t>(i));
                changed = true;
                break;
            }
        }
    }
    return r;
}

// Lines that meet end to end, each end with one other, become rings.
class Chains {
  public:
    void add(Ring line, std::int32_t layer) {
        const auto n = lines_.size();
        ends_[key(line.front(), layer)].push_back(n);
        ends_[key(line.back(), layer)].push_back(n);
        lines_.push_back({std::move(line), layer});
    }
    template <class Take> void rings(const Take& take) {
        std::vector<bool> used(lines_.size());
        for (std::size_t n = 0; n < lines_.size(); ++n) {
            if (used[n])
                continue;
            Ring ring = lines_[n].points;
            const auto layer = lines_[n].layer;
            used[n] = true;
            const auto start = key(ring.front(), layer);
            while (key(ring.back(), layer) != start && ring.size() < 2000) {
                const auto& at = ends_[key(ring.back(), layer)];
                if (at.size() != 2)
                    break;
                const auto next = used[at[0]] ? at[1] : at[0];
                if (used[next])
                    break;
                used[next] = true;
                Ring more = lines_[next].points;
                if (key(more.front(), layer) != key(ring.back(), layer))
                    std::reverse(more.begin(), more.end());
                ring.insert(ring.end(), more.begin() + 1, more.end());
            }
            if (ring.size() > 3 && key(ring.back(), layer) == start) {
                ring.pop_back();
                take(std::move(ring), layer);
            }
        }
    }

  private:
    struct Key {
        long x, y;
        std::int32_t layer;
        auto operator<=>(const Key&) const = default;
    };
    static Key key(const Corner& p, std::int32_t layer) { // ends within some millimetres are one
        return {std::lround(p[0] * 200), std::lround(p[1] * 200), layer};
    }
    struct Line {
        Ring points;
        std::int32_t layer;
    };
    std::vector<Line> lines_;
    std::map<Key, std::vector<std::size_t>> ends_;
};

} // namespace

std::vector<DxfOutline> outlinesOf(const DxfPlan& plan, const std::vector<std::string>& hidden, double metresPerUnit) {
    const std::set<std::string> off(hidden.begin(), hidden.end());
    const auto shown = [&](std::int32_t layer) {
        return !off.count(plan.layers[static_cast<std::size_t>(layer)].name);
    };
    const auto toMetres = [&](const DxfPoint& p) {
        return Corner{(p.x - plan.low.x) * metresPerUnit, (plan.high.y - p.y) * metresPerUnit};
    };
    std::vector<DxfOutline> all;
    const auto take = [&](Ring ring, std::int32_t layer) {
        ring = straightened(std::move(ring));
        const double area = std::abs(areaOf(ring));
        if (ring.size() < 3 || ring.size() > 60 || area < 2 || area > 20000 || !simple(ring))
            return;
        for (const auto& one : all) // the same drawn twice
            if (std::abs(one.area - area) < 0.01 * area &&
                inside(one.corners, ring.front()) == inside(one.corners, ring[1]) &&
                std::hypot(one.corners[0][0] - ring[0][0], one.corners[0][1] - ring[0][1]) < 0.05)
                return;
        if (areaOf(ring) < 0)
            std::reverse(ring.begin(), ring.end());
        all.push_back({std::move(ring), area, {}, plan.layers[static_cast<std::size_t>(layer)].name, false});
    };
    Chains chains;
    std::size_t open = 0;
    for (const auto& line : plan.lines) {
        if (!shown(line.layer) || line.count > 2000)
            continue;
        Ring points;
        for (std::uint32_t k = 0; k < line.count; ++k)
            points.push_back(toMetres(plan.points[line.first + k]));
        const bool meets =
            std::hypot(points.front()[0] - points.back()[0], points.front()[1] - points.back()[1]) < 5e-3;
        if (points.size() > 3 && meets) {
            points.pop_back();
            if (all.size() < 5000)
                take(std::move(points), line.layer);
        } else if (++open <= 200000) {
            chains.add(std::move(points), line.layer);
        }
    }
    chains.rings([&](Ring ring, std::int32_t layer) {
        if (all.size() < 5000)
            take(std::move(ring), layer);
    });
    std::sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.area > b.area; });
    if (all.size() > 500)
        all.resize(500);
    // A text names the smallest outline that it stands in; of several the largest letters, then the first.
    std::vector<double> tall(all.size(), 0);
    for (const auto& t : plan.texts) {
        if (!shown(t.layer) || t.text.size() > 60)
            continue;
        const bool word = std::any_of(t.text.begin(), t.text.end(), [](char c) {
            return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || static_cast<unsigned char>(c) >= 0x80;
        });
        if (!word || t.text.find("m\u00b2") != std::string::npos)
            continue;
        const double wide = t.height * 0.6 * static_cast<double>(t.text.size()),
                     turn = t.degrees * 3.14159265358979 / 180;
        const double dx = (0.5 - t.across) * wide, dy = (0.5 - t.up) * t.height;
        const auto at = toMetres(
            {t.at.x + dx * std::cos(turn) - dy * std::sin(turn), t.at.y + dx * std::sin(turn) + dy * std::cos(turn)});
        for (std::size_t n = all.size(); n-- > 0;) // smallest first
            if (inside(all[n].corners, at)) {
                if (t.height > tall[n] * 1.01) {
                    tall[n] = t.height;
                    all[n].name = t.text;
                }
                break;
            }
    }
    for (std::size_t n = 0; n < all.size(); ++n)
        all[n].likely = !all[n].name.empty() && all[n].area < 5000;
    return all;
}

} // namespace loom::project
