#include "rooms/dxf_drawing.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <optional>
#include <string_view>
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

// A DXF file as text is pairs of lines: a group code and its value. Read by hand, since of the format little is wanted,
// and the library at hand takes counts and lengths from the file on trust.
class Groups {
  public:
    explicit Groups(std::string_view text) : text_(text) {}
    struct Group {
        int code = 0;
        std::string_view value{};
    };
    // None: the end, or something that is no group code.
    std::optional<Group> next() {
        const auto code = wholeInteger(line(), -5, 1071);
        if (!code || at_ >= text_.size())
            return {};
        return Group{*code, trimmed(line())};
    }

  private:
    static std::string_view trimmed(std::string_view t) {
        while (!t.empty() && (t.front() == ' ' || t.front() == '\t'))
            t.remove_prefix(1);
        while (!t.empty() && (t.back() == ' ' || t.back() == '\t' || t.back() == '\r'))
            t.remove_suffix(1);
        return t;
    }
    std::string_view line() {
        const auto end = std::min(text_.find('\n', at_), text_.size());
        const auto l = text_.substr(at_, end - at_);
        at_ = std::min(end + 1, text_.size());
        return l;
    }
    std::string_view text_;
    std::size_t at_ = 0;
};

// Gathers what is drawn in the section ENTITIES; blocks and texts are passed over.
class Gatherer {
  public:
    std::vector<Line> lines;
    int units = 0;
    bool full() const { return count_ > maxDxfLines; }

    void read(std::string_view text) {
        Groups groups(text);
        std::string_view section, variable;
        bool named = false; // the section's name comes next
        while (const auto g = groups.next()) {
            if (full())
                return;
            if (g->code == 0) {
                end();
                named = g->value == "SECTION";
                if (g->value == "ENDSEC")
                    section = {};
                begin(section == "ENTITIES" ? g->value : std::string_view());
            } else if (g->code == 2 && named) {
                section = g->value;
                named = false;
            } else if (section == "HEADER" && g->code == 9) {
                variable = g->value;
            } else if (section == "HEADER" && variable == "$INSUNITS" && g->code == 70) {
                units = wholeInteger(g->value, 0, 100).value_or(0);
            } else if (section == "ENTITIES") {
                take(g->code, g->value);
            }
        }
        end();
        endPolyline();
    }

  private:
    // A LWPOLYLINE repeats 10 and 20 for each corner; VERTEX entities follow a POLYLINE until SEQEND.
    void begin(std::string_view kind) {
        kind_ = kind;
        x_ = y_ = x2_ = y2_ = radius_ = from_ = 0;
        to_ = 360;
        flags_ = 0;
        if (kind == "LWPOLYLINE" || kind == "POLYLINE")
            endPolyline();
        polyline_ = polyline_ || kind == "POLYLINE";
    }
    void take(int code, std::string_view value) {
        const auto number = [&] {
            const double v = leadingNumber(value).value;
            return std::abs(v) < 1e9 ? v : std::numeric_limits<double>::infinity();
        };
        switch (code) {
        case 10:
            x_ = number();
            break;
        case 20:
            y_ = number();
            if (kind_ == "LWPOLYLINE")
                corner({x_, y_});
            break;
        case 11:
            x2_ = number();
            break;
        case 21:
            y2_ = number();
            break;
        case 40:
            radius_ = number();
            break;
        case 50:
            from_ = number();
            break;
        case 51:
            to_ = number();
            break;
        case 70:
            flags_ = wholeInteger(value, 0, 1 << 20).value_or(0);
            if (kind_ == "POLYLINE" || kind_ == "LWPOLYLINE")
                closed_ = (flags_ & 1) != 0;
            break;
        default:
            break;
        }
    }
    void end() {
        if (kind_ == "LINE")
            add({{x_, y_}, {x2_, y2_}});
        else if (kind_ == "ARC")
            addArc(from_, to_);
        else if (kind_ == "CIRCLE")
            addArc(0, 360);
        else if (kind_ == "VERTEX" && polyline_)
            corner({x_, y_});
        else if (kind_ == "LWPOLYLINE" || kind_ == "SEQEND")
            endPolyline();
        kind_ = {};
    }
    void corner(Point p) {
        if (++count_, !full())
            open_.push_back(p);
    }
    void endPolyline() {
        if (open_.size() > 1) {
            if (closed_)
                open_.push_back(open_.front());
            count_ -= open_.size(); // counted once more as they are added
            add(std::move(open_));
        }
        open_ = {};
        closed_ = polyline_ = false;
    }
    void add(Line line) {
        count_ += line.size();
        const bool sound = std::all_of(line.begin(), line.end(),
                                       [](const Point& p) { return std::isfinite(p.x) && std::isfinite(p.y); });
        if (sound && !full())
            lines.push_back(std::move(line));
    }
    void addArc(double from, double to) {
        if (!std::isfinite(from) || !std::isfinite(to) || !std::isfinite(radius_))
            return;
        from = std::fmod(from, 360);
        to = std::fmod(to, 360);
        if (to <= from)
            to += 360;
        const int steps = std::clamp(static_cast<int>((to - from) / 10), 2, 36);
        Line line;
        for (int i = 0; i <= steps; ++i) {
            const double a = (from + (to - from) * i / steps) * std::numbers::pi / 180;
            line.push_back({x_ + radius_ * std::cos(a), y_ + radius_ * std::sin(a)});
        }
        add(std::move(line));
    }
    std::size_t count_ = 0;
    std::string_view kind_{}; // of the entity that is being read; empty: none of interest
    double x_ = 0, y_ = 0, x2_ = 0, y2_ = 0, radius_ = 0, from_ = 0, to_ = 360;
    int flags_ = 0;
    Line open_{};
    bool closed_ = false, polyline_ = false;
};

} // namespace

Result<DxfDrawing> readDxf(const std::string& bytes, const std::string& name) {
    if (bytes.size() > maxDxfBytes)
        return Error{"is larger than 64 MiB", name, "Save only the floor plan's layer from your drawing program."};
    if (bytes.find("SECTION") == std::string::npos)
        return Error{"is not a DXF drawing as text", name, "Save it as ASCII DXF."};
    Gatherer g;
    g.read(bytes);
    if (g.full())
        return Error{"has more than " + std::to_string(maxDxfLines) + " lines", name,
                     "Save only the floor plan's layer from your drawing program."};
    if (g.lines.empty())
        return Error{"has no lines, arcs or polylines", name, "Is the plan in a block? Explode it before saving."};
    double left = 1e18, right = -1e18, low = 1e18, high = -1e18;
    for (const auto& line : g.lines)
        for (const auto& p : line) {
            left = std::min(left, p.x);
            right = std::max(right, p.x);
            low = std::min(low, p.y);
            high = std::max(high, p.y);
        }
    DxfDrawing d;
    const double metres = metresOf(g.units) > 0 ? metresOf(g.units) : 0.001;
    d.unitsKnown = metresOf(g.units) > 0;
    d.width = (right - left) * metres;
    d.depth = (high - low) * metres;
    d.lines = g.lines.size();
    if (d.width > 10000 || d.depth > 10000)
        return Error{"would be more than 10 km wide", name, "Set the drawing's units before saving."};
    const double k = metres * 100; // cm
    d.svg = print("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"%.0f\" height=\"%.0f\">",
                  std::ceil(d.width * 100) + 1, std::ceil(d.depth * 100) + 1);
    d.svg += "<g fill=\"none\" stroke=\"#6b675f\" stroke-width=\"2\">";
    for (const auto& line : g.lines) {
        d.svg += "<polyline points=\"";
        for (const auto& p : line) {
            d.svg += print("%.1f,%.1f ", (p.x - left) * k, (high - p.y) * k);
        }
        d.svg += "\"/>";
    }
    d.svg += "</g></svg>\n";
    return d;
}

} // namespace loom::project
