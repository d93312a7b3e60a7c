// Floor plans from DXF files, as a drawing that lies below the plan.
#pragma once
#include "engine/result.h"
#include <string>

namespace loom::project {

inline constexpr std::size_t maxDxfBytes = 64u << 20, maxDxfLines = 200000;

struct DxfDrawing {
    std::string svg;             // its lines, arcs, circles and polylines; 1 unit of the SVG is 1 cm
    double width = 0, depth = 0; // m
    std::size_t lines = 0;
    bool unitsKnown = false; // the file says its units; else a millimetre was taken for one
};

// Error: not DXF, nothing drawn in it, more than maxDxfLines lines, or larger than 10 km. The name is for people.
Result<DxfDrawing> readDxf(const std::string& bytes, const std::string& name);

} // namespace loom::project
