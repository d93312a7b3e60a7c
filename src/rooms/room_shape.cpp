#include "rooms/room_shape.h"
#include "catalogue/materials.h"
#include "dsp/number.h"
#include "model/room_faces.h"
#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

namespace loom::project {
namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr double leastHeight = 1.5, mostHeight = 60, leastArea = 1, mostSide = 500;

acoustics::Spot turned(const acoustics::Spot& p, double degrees) {
    const double c = std::cos(degrees * degree), s = std::sin(degrees * degree);
    return {p[0] * c - p[1] * s, p[0] * s + p[1] * c};
}

} // namespace

acoustics::Outline cornersOf(const Furniture& p) {
    acoustics::Outline o;
    for (const auto& [sx, sy] : {std::pair{-0.5, -0.5}, {0.5, -0.5}, {0.5, 0.5}, {-0.5, 0.5}}) {
        const auto c = turned({sx * p.width, sy * p.depth}, p.turn);
        o.push_back({p.x + c[0], p.y + c[1]});
    }
    return o;
}

// The floor of a stage rises from its front (towards +y, before it is turned) to its far edge.
double floorAt(const Room& room, const acoustics::Spot& spot) {
    double height = 0;
    for (const auto& p : room.furniture)
        if (p.kind == Furniture::Kind::stage && acoustics::contains(cornersOf(p), spot)) {
            const auto inside = turned({spot[0] - p.x, spot[1] - p.y}, -p.turn);
            height = std::max(height, p.height + p.rise * (0.5 - inside[1] / p.depth));
        }
    return height;
}

std::vector<Seat> seatsOf(const Room& room, const Seats& s) {
    std::vector<Seat> all;
    for (int row = 0; row < s.rows; ++row)
        for (int i = 0; i < s.across; ++i) {
            acoustics::Spot at{(i - (s.across - 1) / 2.0) * s.pitch, (row - (s.rows - 1) / 2.0) * s.rowPitch};
            if (s.shape == Seats::Shape::horseshoe) { // from 200 degrees round the top to -20
                const double part = s.across > 1 ? double(i) / (s.across - 1) : 0.5;
                const double a = (200 - 220 * part) * degree, r = s.radius + row * s.rowPitch;
                at = {r * std::cos(a), -r * std::sin(a)};
            }
            at = turned(at, s.turn);
            at = {at[0] + s.x, at[1] + s.y};
            all.push_back({s.id, static_cast<int>(all.size()) + 1, {at[0], at[1], floorAt(room, at) + s.ear}, s.talks});
        }
    return all;
}

std::vector<Seat> seatsOf(const Room& room) {
    std::vector<Seat> all;
    for (const auto& s : room.seats) {
        const auto some = seatsOf(room, s);
        all.insert(all.end(), some.begin(), some.end());
    }
    return all;
}

bool Space::has(const std::string& room) const {
    return std::any_of(rooms.begin(), rooms.end(), [&](const auto* r) { return r->id == room; });
}

double Space::volume() const {
    double v = 0;
    for (const auto* r : rooms) {
        v += acoustics::areaOf(r->outline) * r->height;
        for (const auto& p : r->furniture)
            if (p.kind == Furniture::Kind::stage)
                v -= p.width * p.depth * (p.height + p.rise / 2);
    }
    return std::max(v, 0.1);
}

double Space::floorArea() const {
    double a = 0;
    for (const auto* r : rooms)
        a += acoustics::areaOf(r->outline);
    return a;
}

double openingOf(const Space& space, const MovableWall& w) {
    double height = 1e9;
    for (const auto* r : space.rooms)
        if (std::find(w.rooms.begin(), w.rooms.end(), r->id) != w.rooms.end())
            height = std::min(height, r->height);
    return height > 1e8 ? 0 : std::hypot(w.to[0] - w.from[0], w.to[1] - w.from[1]) * height;
}

std::vector<Space> spacesOf(const Building& b, const WallState* state) {
    std::vector<Space> spaces;
    std::set<std::string> taken;
    for (const auto& r : b.rooms) {
        if (r.outline.size() < 3 || taken.count(r.id))
            continue;
        Space s;
        std::vector<const Room*> todo{&r};
        taken.insert(r.id);
        while (!todo.empty()) {
            const Room* one = todo.back();
            todo.pop_back();
            s.rooms.push_back(one);
            s.name += (s.name.empty() ? "" : " + ") + one->name;
            for (const auto& w : b.walls) {
                const bool open = state && std::find(state->open.begin(), state->open.end(), w.id) != state->open.end();
                if (!open || std::find(w.rooms.begin(), w.rooms.end(), one->id) == w.rooms.end())
                    continue;
                if (std::find(s.open.begin(), s.open.end(), &w) == s.open.end())
                    s.open.push_back(&w);
                for (const auto& other : b.rooms)
                    if (std::find(w.rooms.begin(), w.rooms.end(), other.id) != w.rooms.end() &&
                        other.outline.size() >= 3 && taken.insert(other.id).second)
                        todo.push_back(&other);
            }
        }
        spaces.push_back(std::move(s));
    }
    return spaces;
}

Space spaceOf(const Building& b, const WallState* state, const std::string& room) {
    for (auto& s : spacesOf(b, state))
        if (s.has(room))
            return std::move(s);
    return {};
}

Box boxOf(const Space& space) {
    acoustics::Outline all;
    for (const auto* r : space.rooms)
        all.insert(all.end(), r->outline.begin(), r->outline.end());
    const auto extent = acoustics::extentOf(all);
    Box box;
    box.corner = {extent.least[0], extent.least[1], 0};
    box.size = {std::max(extent.width(), 0.5), std::max(extent.depth(), 0.5), 1};
    box.size[2] = space.volume() / (box.size[0] * box.size[1]);
    std::array<double, 6> area{};
    std::array<acoustics::Bands, 6> taken{};
    const auto add = [&](std::size_t face, double a, const acoustics::Bands& absorption) {
        area[face] += a;
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            taken[face][b] += a * absorption[b];
    };
    for (const auto* r : space.rooms) {
        add(4, areaOf(*r, "floor"), finishOf(*r, "floor").absorption);
        add(5, areaOf(*r, "ceiling"), finishOf(*r, "ceiling").absorption);
        const auto middle = acoustics::centreOf(r->outline);
        for (std::size_t i = 0; i < r->outline.size(); ++i) {
            const auto &a = r->outline[i], &b = r->outline[(i + 1) % r->outline.size()];
            const double dx = b[0] - a[0], dy = b[1] - a[1];
            const acoustics::Spot half{(a[0] + b[0]) / 2, (a[1] + b[1]) / 2};
            const std::size_t face =
                std::abs(dy) >= std::abs(dx) ? (half[0] < middle[0] ? 0 : 1) : (half[1] < middle[1] ? 2 : 3);
            const bool open = std::any_of(space.open.begin(), space.open.end(), [&](const MovableWall* w) {
                return acoustics::distanceTo({(w->from[0] + w->to[0]) / 2, (w->from[1] + w->to[1]) / 2}, a, b) < 0.35;
            });
            if (!open)
                add(face, areaOf(*r, "wall " + std::to_string(i + 1)),
                    finishOf(*r, "wall " + std::to_string(i + 1)).absorption);
        }
    }
    for (std::size_t face = 0; face < 6; ++face)
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            box.absorption[face][b] = area[face] > 0 ? taken[face][b] / area[face] : 0.1;
    return box;
}

std::vector<Error> errorsOf(const Room& r) {
    std::vector<Error> all;
    if (r.outline.empty())
        return all;
    if (r.outline.size() < 3)
        all.push_back({"has fewer than three walls", r.name, "Draw its outline again, or type its size."});
    else if (const auto cross = acoustics::crossingWalls(r.outline))
        all.push_back(
            {"wall " + std::to_string(cross->first + 1) + " crosses wall " + std::to_string(cross->second + 1), r.name,
             "Drag a corner so that no wall crosses another."});
    else if (acoustics::areaOf(r.outline) < leastArea)
        all.push_back({"has a floor of less than one square metre", r.name, "Draw its outline again."});
    const auto extent = acoustics::extentOf(r.outline);
    if (std::max(extent.width(), extent.depth()) > mostSide)
        all.push_back({"is more than 500 m long", r.name, "Is the backdrop's scale right?"});
    if (!(r.height >= leastHeight && r.height <= mostHeight))
        all.push_back(
            {print("has a height of %.3g m", r.height), r.name, "Type the height from floor to ceiling, 1.5 to 60 m."});
    return all;
}

} // namespace loom::project
