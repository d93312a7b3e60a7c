#include "project/dxf_drawing.h"
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <dl_creationadapter.h>
#include <dl_dxf.h>
#include <numbers>
#include <sstream>
#include <vector>

namespace loom::project {
namespace {

struct Point {
    double x, y;
};
using Line = std::vector<Point>;

// Metres of a drawing unit by its $INSUNITS; 0: not told, or none that a building is drawn in.
double metresOf(int units) {
    switch (units) {
    case 1:
        return 0.0254;
    case 2:
        return 0.3048;
    case 4:
        return 0.001;
    case 5:
        return 0.01;
    case 6:
        return 1;
    case 14:
        return 0.1;
    default:
        return 0;
    }
}

// Gathers what is drawn; blocks and texts are passed over.
class Gatherer : public DL_CreationAdapter {
  public:
    std::vector<Line> lines;
    std::size_t count = 0;
    int units = 0;
    bool full() const { return count > maxDxfLines; }

    void addLine(const DL_LineData& l) override { add({{l.x1, l.y1}, {l.x2, l.y2}}); }
    void addArc(const DL_ArcData& a) override { addArcOf(a.cx, a.cy, a.radius, a.angle1, a.angle2); }
    void addCircle(const DL_CircleData& c) override { addArcOf(c.cx, c.cy, c.radius, 0, 360); }
    void addPolyline(const DL_PolylineData& p) override {
        open_ = {};
        closed_ = (p.flags & 1) != 0;
    }
    void addVertex(const DL_VertexData& v) override {
        if (!full())
            open_.push_back({v.x, v.y});
    }
    void endEntity() override {
        if (open_.size() > 1) {
            if (closed_)
                open_.push_back(open_.front());
            add(std::move(open_));
        }
        open_ = {};
    }
    void endSequence() override { endEntity(); }
    void setVariableInt(const std::string& key, int value, int) override {
        if (key == "$INSUNITS")
            units = value;
    }

  private:
    void add(Line line) {
        count += line.size();
        const bool sound = std::all_of(line.begin(), line.end(), [](const Point& p) {
            return std::isfinite(p.x) && std::isfinite(p.y) && std::abs(p.x) < 1e9 && std::abs(p.y) < 1e9;
        });
        if (sound && !full())
            lines.push_back(std::move(line));
    }
    void addArcOf(double x, double y, double r, double from, double to) {
        if (to <= from)
            to += 360;
        const int steps = std::clamp(static_cast<int>((to - from) / 10), 2, 36);
        Line line;
        for (int i = 0; i <= steps; ++i) {
            const double a = (from + (to - from) * i / steps) * std::numbers::pi / 180;
            line.push_back({x + r * std::cos(a), y + r * std::sin(a)});
        }
        add(std::move(line));
    }
    Line open_;
    bool closed_ = false;
};

} // namespace

Result<DxfDrawing> readDxf(const std::string& bytes, const std::string& name) {
    if (bytes.size() > maxDxfBytes)
        return Trouble{"is larger than 64 MiB", name, "Save only the floor plan's layer from your drawing program."};
    if (bytes.find("SECTION") == std::string::npos)
        return Trouble{"is not a DXF drawing as text", name, "Save it as ASCII DXF."};
    Gatherer g;
    DL_Dxf reader;
    std::stringstream stream(bytes);
    reader.in(stream, &g);
    g.endEntity();
    if (g.full())
        return Trouble{"has more than " + std::to_string(maxDxfLines) + " lines", name,
                       "Save only the floor plan's layer from your drawing program."};
    if (g.lines.empty())
        return Trouble{"has no lines, arcs or polylines", name, "Is the plan in a block? Explode it before saving."};
    double left = 1e18, right = -1e18, low = 1e18, high = -1e18;
    for (const auto& line : g.lines)
        for (const auto& p : line)
            left = std::min(left, p.x), right = std::max(right, p.x), low = std::min(low, p.y),
            high = std::max(high, p.y);
    DxfDrawing d;
    const double metres = metresOf(g.units) > 0 ? metresOf(g.units) : 0.001;
    d.unitsKnown = metresOf(g.units) > 0;
    d.width = (right - left) * metres, d.depth = (high - low) * metres, d.lines = g.lines.size();
    if (d.width > 10000 || d.depth > 10000)
        return Trouble{"would be more than 10 km wide", name, "Set the drawing's units before saving."};
    const double k = metres * 100; // cm
    char text[160];
    std::snprintf(text, sizeof text, "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"%.0f\" height=\"%.0f\">",
                  std::ceil(d.width * 100) + 1, std::ceil(d.depth * 100) + 1);
    d.svg = text;
    d.svg += "<g fill=\"none\" stroke=\"#6b675f\" stroke-width=\"2\">";
    for (const auto& line : g.lines) {
        d.svg += "<polyline points=\"";
        for (const auto& p : line) {
            std::snprintf(text, sizeof text, "%.1f,%.1f ", (p.x - left) * k, (high - p.y) * k);
            d.svg += text;
        }
        d.svg += "\"/>";
    }
    d.svg += "</g></svg>\n";
    return d;
}

} // namespace loom::project
