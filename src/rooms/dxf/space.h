// Points and transforms of drawings, three-dimensional as DXF has them.
#pragma once

#include <algorithm>
#include <cmath>

namespace loom::project::dxf {

struct V3 {
    double x = 0, y = 0, z = 0;
    V3 operator+(const V3& o) const { return {x + o.x, y + o.y, z + o.z}; }
    V3 operator-(const V3& o) const { return {x - o.x, y - o.y, z - o.z}; }
    V3 operator*(double k) const { return {x * k, y * k, z * k}; }
    double length() const { return std::sqrt(x * x + y * y + z * z); }
};
inline V3 cross(const V3& a, const V3& b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}

// Columns for x, y, z, and where 0 goes.
struct Transform {
    V3 x{1, 0, 0}, y{0, 1, 0}, z{0, 0, 1}, at{};
    V3 operator()(const V3& p) const { return x * p.x + y * p.y + z * p.z + at; }
    V3 direction(const V3& p) const { return x * p.x + y * p.y + z * p.z; }
    Transform operator*(const Transform& inner) const { // inner first
        return {direction(inner.x), direction(inner.y), direction(inner.z), (*this)(inner.at)};
    }
    double stretch() const { return std::max({x.length(), y.length(), z.length()}); }
};

// Object coordinates to world: the arbitrary axis algorithm of the DXF Reference.
inline Transform objectAxes(V3 normal) {
    const double length = normal.length();
    if (!(length > 1e-12) || (std::abs(normal.x) < 1e-12 && std::abs(normal.y) < 1e-12 && normal.z > 0))
        return {};
    normal = normal * (1 / length);
    V3 x = std::abs(normal.x) < 1.0 / 64 && std::abs(normal.y) < 1.0 / 64 ? cross({0, 1, 0}, normal)
                                                                          : cross({0, 0, 1}, normal);
    x = x * (1 / x.length());
    return {x, cross(normal, x), normal, {}};
}

} // namespace loom::project::dxf
