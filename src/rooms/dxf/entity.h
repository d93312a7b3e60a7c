// One entity of a drawing, as its groups say.
#pragma once
#include "rooms/dxf/groups.h"
#include "rooms/dxf/space.h"
#include <string>
#include <vector>

namespace loom::project::dxf {

struct Spline {
    int degree = 3;
    bool closed = false;
    std::vector<double> knots{}, weights{};
    std::vector<V3> control{}, fit{};
};

// A piece of a hatch's outline, or of a polyline.
struct Piece {
    enum class Is { line, arc, ellipse, spline } is = Is::line;
    V3 a{}, b{};                  // ends; of arcs and ellipses the centre and the long axis
    double radius = 0, ratio = 1; // of ellipses: short by long axis
    double from = 0, to = 0;      // radians, anticlockwise
    Spline spline{};
};

struct Entity {
    enum class Is {
        none,
        line,
        polyline, // points with bulges
        arc,
        ellipse,
        spline,
        text,
        insert,
        dimension,
        hatch,
        face,
        attribute,
        vertex,
        end // SEQEND
    } is = Is::none;
    std::string_view kind{}; // "LWPOLYLINE"
    std::string_view layer{}, name{};
    bool paper = false, hidden = false, closed = false, world = false; // world: its points need no object axes
    V3 normal{0, 0, 1};
    std::vector<V3> points{};
    std::vector<double> bulges{};
    double radius = 0, from = 0, to = 0, ratio = 1; // radians
    V3 scale{1, 1, 1};
    double rotation = 0; // radians
    int columns = 1, rows = 1, flags = 0;
    double columnStep = 0, rowStep = 0;
    double height = 0, across = 0, up = 0;
    std::string text{};
    Spline spline{};
    std::vector<std::vector<Piece>> paths{}; // of hatches
    std::vector<std::vector<V3>> loops{};    // of hatches: polylines
    std::vector<std::vector<double>> loopBulges{};
    bool follows = false; // vertices or attributes follow
};

// Takes the groups between a kind's 0 and the next 0.
Entity entityOf(std::string_view kind, const std::vector<Group>& groups);
// "A\Pb {\fArial|b0;c} %%d \U+00E9" as plain text of one line. `utf8`: bytes above 127 are UTF-8, else Windows-1252.
std::string plainText(std::string_view text, bool rich);

} // namespace loom::project::dxf
