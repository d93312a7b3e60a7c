// Maps over a room's floor, as Survey draws them and loomctl prints them.
#pragma once
#include "rooms/predict.h"
#include <stop_token>

namespace loom::project {

enum class MapKind { none, level, direct, band, clarity, sti, pickUp, stray, loudest };

// What there is to draw: each map once.
struct MapSpec {
    MapKind kind;
    const char *id, *name; // "sti", "STI"
    const char* what;      // "Map of speech transmission index"
    const char* help;      // what it says
    const char* unit;
    double step, range; // its scale goes in such steps, and over so much at least
};
const std::vector<MapSpec>& mapSpecs();        // all but `none`
const MapSpec* mapSpec(MapKind kind);          // null: none
const MapSpec* mapSpec(const std::string& id); // null: there is no such map

struct PlanMap {
    MapKind kind = MapKind::none;
    double step = 0, least = 0, most = 0; // m; values at the ends of the scale
    std::string unit{};
    std::vector<acoustics::Point> places{};
    std::vector<float> values{};      // of each place; MapKind::loudest: the number of a loudspeaker, -1 for none
    std::vector<std::string> names{}; // MapKind::loudest: of the loudspeakers
    bool coarse = false;
};
// At `step` metres between places (0.1 to 10 m are usual); `band`: which octave MapKind::band shows, 0 (63 Hz) to 7.
// Empty values: there is nothing that could sound, or hear. A stop request ends it early.
PlanMap mapOf(const SpaceModel& space, MapKind kind, int band, double step, std::stop_token stop = {});
// A step that makes about so many places of a space's floor, m.
double mapStepFor(const SpaceModel& space, std::size_t places);
// Values are shown in steps of this, so that their edges are the contours.
double contourOf(const PlanMap& map);

} // namespace loom::project
