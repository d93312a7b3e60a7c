// Curves as polylines whose points lie on them.
#pragma once
#include "rooms/dxf/entity.h"

namespace loom::project::dxf {

struct Fine {
    double sagitta = 0.1; // between curve and chord at most, in the units of the drawing that is made
    double scale = 1;     // of the transform that the points go through
};

// Each adds to `points`, in object coordinates; the first point is left out where it is the last one already.
void addArc(std::vector<V3>& points, V3 centre, double radius, double from, double to, const Fine& fine);
void addBulge(std::vector<V3>& points, V3 a, V3 b, double bulge, const Fine& fine);
// `minor` is the short half axis; angles are the parameter's.
void addEllipse(std::vector<V3>& points, V3 centre, V3 major, V3 minor, double from, double to, const Fine& fine);
// Rational B-splines by de Boor's algorithm (Piegl, Tiller, The NURBS Book, A4.1); through fit points alone a natural
// cubic spline over the lengths of chords. False: its degree, knots or weights are not such that it is one.
bool addSpline(std::vector<V3>& points, const Spline& spline, const Fine& fine);

inline constexpr int maxDegree = 25;

} // namespace loom::project::dxf
