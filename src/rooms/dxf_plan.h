// Floor plans from DXF files: their lines by layers, texts, closed outlines. Written to the DXF Reference as it is
// published; groups are read by hand, since of the format little is wanted and no length in a file is taken on trust.
#pragma once
#include "acoustics/polygon.h"
#include "engine/result.h"
#include <cstdint>
#include <functional>
#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace loom::project {

inline constexpr std::size_t maxDxfBytes = 128u << 20, maxDxfPoints = 12'000'000, maxDxfInserts = 1'000'000;
inline constexpr int maxDxfDepth = 16; // of blocks in blocks

struct DxfPoint {
    double x = 0, y = 0; // drawing units, y up
};
struct DxfLayer {
    std::string name;
    bool on = true, frozen = false;
    std::size_t lines = 0, texts = 0;
    bool shown() const { return on && !frozen; } // by the file
};
struct DxfLine {
    std::uint32_t first = 0, count = 0; // of DxfPlan::points
    std::int32_t layer = 0;
};
struct DxfText {
    std::int32_t layer = 0;
    DxfPoint at{}; // where its alignment says
    double height = 0, degrees = 0;
    double across = 0, up = 0; // its anchor within it: 0 left or baseline, 0.5 middle, 1 right or top
    std::string text{};        // UTF-8, one line
};

struct DxfPlan {
    std::vector<DxfLayer> layers;
    std::vector<DxfPoint> points;
    std::vector<DxfLine> lines;
    std::vector<DxfText> texts;
    std::map<std::string, std::size_t> drawn,
        passedOver;              // entities by kind; what was passed over says why behind a comma
    double metresPerUnit = 0;    // 0: the file does not say its units
    DxfPoint low{}, high{};      // extent of the layers that the file shows, else of all
    double likelyMetres() const; // of a unit, where the file says none: a building is 5 to 1000 m wide
};

// Curves are drawn so that they are within 0.1 mm where the units are known, and never coarser than 7.5 degrees a
// step; their points lie on the curve. Cancelled where `progress` (share done) gives false. Error: no DXF as text,
// nothing drawn in it, too large.
Result<DxfPlan> readDxfPlan(std::string_view bytes, const std::string& name,
                            const std::function<bool(double)>& progress = {});

// A closed outline that may be a room.
struct DxfOutline {
    acoustics::Outline corners{}; // m, y down, from the plan's upper left corner as it is shown
    double area = 0;              // m2
    std::string name{};           // of the text inside
    std::string layer{};
    bool likely = false; // it has a name, or nothing but smaller ones in it
};
// Closed polylines and lines that meet end to end, of 2 to 20,000 m2, that do not cross themselves; of several alike
// one. Corners that lie on a straight line are left out. At most 500, largest first.
std::vector<DxfOutline> outlinesOf(const DxfPlan& plan, const std::vector<std::string>& hidden, double metresPerUnit);

// Names of the layers that the file does not show.
std::vector<std::string> hiddenBy(const DxfPlan& plan);

} // namespace loom::project
