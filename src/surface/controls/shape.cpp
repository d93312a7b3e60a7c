// Shape: a rectangle, ellipse, triangle, diamond, polygon or line.
#include "surface/control_kind.h"

namespace loom::project::shape_control {
namespace {

// Pairs of shares of the box, in percent; what cannot be read is a triangle.
std::vector<std::array<double, 2>> corners(const std::string& text, double w, double h) {
    const auto read = readCorners(text);
    std::vector<std::array<double, 2>> points;
    if (read)
        for (const auto& c : *read)
            points.push_back({c[0] / 100 * w, c[1] / 100 * h});
    return points.size() < 3 ? std::vector<std::array<double, 2>>{{w / 2, 0}, {w, h}, {0, h}} : points;
}

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    Sketch s;
    const auto& shape = d.control.shape;
    Mark m = box(d, d.paint.fill);
    const double w = d.width, h = d.height;
    if (shape == "ellipse")
        m.kind = Mark::Kind::ellipse;
    else if (shape == "triangle")
        m.kind = Mark::Kind::polygon, m.points = {{w / 2, 0}, {w, h}, {0, h}};
    else if (shape == "diamond")
        m.kind = Mark::Kind::polygon, m.points = {{w / 2, 0}, {w, h / 2}, {w / 2, h}, {0, h / 2}};
    else if (shape == "polygon")
        m.kind = Mark::Kind::polygon, m.points = corners(d.control.corners, w, h);
    else if (shape == "line") {
        m.kind = Mark::Kind::line;
        m.edge = d.control.look.edge.empty() ? d.paint.ink : d.paint.edge;
        m.edgeWidth = d.paint.edgeWidth;
    }
    s.marks.push_back(m);
    if (!d.label.empty())
        s.marks.push_back(label(d, 4, 0, w - 8, h, d.label, d.paint.ink, d.paint.textSize));
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "shape", k.label = "Shape", k.purpose = "A rectangle, ellipse, triangle, diamond, polygon or line";
    k.width = 200, k.height = 120;
    k.role = "presentation";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::shape_control
