// Closed outlines of a plan that may be rooms.
#include "rooms/dxf_plan.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <set>
#include <utility>

namespace loom::project {
namespace {

using acoustics::Outline;
using acoustics::Spot;

// Corners within 1 mm of a straight line between their neighbours go, so that a wall is one wall.
Outline straightened(Outline r) {
    bool changed = true;
    while (changed && r.size() > 3) {
        changed = false;
        for (std::size_t i = 0; i < r.size() && r.size() > 3; ++i) {
            const auto &a = r[(i + r.size() - 1) % r.size()], &b = r[i], &c = r[(i + 1) % r.size()];
            if (acoustics::distanceTo(b, a, c) < 1e-3 || std::hypot(b[0] - a[0], b[1] - a[1]) < 1e-3) {
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
    void add(Outline line, std::int32_t layer) {
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
            Outline ring = lines_[n].points;
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
                Outline more = lines_[next].points;
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
    static Key key(const Spot& p, std::int32_t layer) { // ends within some millimetres are one
        return {std::lround(p[0] * 200), std::lround(p[1] * 200), layer};
    }
    struct Line {
        Outline points;
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
        return Spot{(p.x - plan.low.x) * metresPerUnit, (plan.high.y - p.y) * metresPerUnit};
    };
    std::vector<DxfOutline> all;
    const auto take = [&](Outline ring, std::int32_t layer) {
        ring = straightened(std::move(ring));
        const double area = acoustics::areaOf(ring);
        if (ring.size() < 3 || ring.size() > 60 || area < 2 || area > 20000 || acoustics::crossingWalls(ring))
            return;
        const Spot middle = acoustics::centreOf(ring);
        for (const auto& one : all) { // the same drawn twice
            const Spot other = acoustics::centreOf(one.corners);
            if (std::abs(one.area - area) < 0.01 * area &&
                std::hypot(other[0] - middle[0], other[1] - middle[1]) < 0.05)
                return;
        }
        all.push_back({std::move(ring), area, {}, plan.layers[static_cast<std::size_t>(layer)].name, false});
    };
    Chains chains;
    std::size_t open = 0;
    for (const auto& line : plan.lines) {
        if (!shown(line.layer) || line.count > 2000)
            continue;
        Outline points;
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
    chains.rings([&](Outline ring, std::int32_t layer) {
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
                     turn = t.degrees * std::numbers::pi / 180;
        const double dx = (0.5 - t.across) * wide, dy = (0.5 - t.up) * t.height;
        const auto at = toMetres(
            {t.at.x + dx * std::cos(turn) - dy * std::sin(turn), t.at.y + dx * std::sin(turn) + dy * std::cos(turn)});
        for (std::size_t n = all.size(); n-- > 0;) // smallest first
            if (acoustics::contains(all[n].corners, at)) {
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
