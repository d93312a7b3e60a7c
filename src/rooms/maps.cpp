#include "rooms/maps.h"
#include "acoustics/map.h"
#include "acoustics/pick_up.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

constexpr double talker = 60; // dB(A) at 1 m, normal speech

void scale(PlanMap& map, const MapSpec& spec) {
    if (map.values.empty())
        return;
    const auto [low, high] = std::minmax_element(map.values.begin(), map.values.end());
    map.least = std::floor(*low / spec.step) * spec.step;
    map.most = std::ceil(*high / spec.step) * spec.step;
    map.least = std::min(map.least, map.most - spec.range);
}

// A talker at each place, at the microphone that hears it best.
void fillPickUp(PlanMap& map, const SpaceModel& m, std::stop_token stop) {
    const auto speech = acoustics::speechAt(talker);
    for (const auto& at : map.places) {
        double best = -40;
        for (const auto& mic : m.microphones)
            best = std::max(best, acoustics::pickUp(mic.at, mic.factor, at, speech, m.reverberation, m.noise).toNoise);
        if (stop.stop_requested())
            return;
        map.values.push_back(static_cast<float>(best));
    }
}

double valueOf(const acoustics::Prediction::Value& v, MapKind kind, int band) {
    switch (kind) {
    case MapKind::direct:
        return v.directA;
    case MapKind::band:
        return v.total[static_cast<std::size_t>(band)];
    case MapKind::clarity:
        return v.clarity;
    case MapKind::sti:
        return v.sti;
    case MapKind::stray:
        return v.totalA - talker;
    case MapKind::loudest:
        return v.loudest;
    default:
        return v.totalA;
    }
}

} // namespace

const std::vector<MapSpec>& mapSpecs() {
    static const std::vector<MapSpec> all{
        {MapKind::level, "level", "Level", "Map of levels", "Speech at the target level, direct and reverberant, dB(A)",
         "dB(A)", 1.5, 6},
        {MapKind::direct, "direct", "Direct", "Map of direct sound", "Direct sound only, dB(A)", "dB(A)", 1.5, 6},
        {MapKind::band, "octave", "2 kHz", "Map of one octave",
         "One octave; press again with the menu at the right for another", "dB", 1.5, 6},
        {MapKind::clarity, "clarity", "Clarity", "Map of clarity", "C50: what comes early against what comes late, dB",
         "dB", 1, 6},
        {MapKind::sti, "sti", "STI", "Map of speech transmission index", "Speech transmission index", "STI", 0.05,
         0.15},
        {MapKind::pickUp, "pick-up", "Pick-up", "Map of pick-up",
         "A talker there, over the noise, at the microphone that hears it best", "dB over noise", 3, 9},
        {MapKind::stray, "stray", "Stray", "Map of stray level",
         "How loud the loudspeakers are there against a talker at 1 m: microphones belong where it is low",
         "dB over a talker at 1 m", 1.5, 6},
        {MapKind::loudest, "loudest", "Loudest", "Map of the loudest loudspeaker",
         "Which loudspeaker is heard first of all", "", 1.5, 6}};
    return all;
}

const MapSpec* mapSpec(MapKind kind) {
    for (const auto& s : mapSpecs())
        if (s.kind == kind)
            return &s;
    return nullptr;
}

const MapSpec* mapSpec(const std::string& id) {
    for (const auto& s : mapSpecs())
        if (s.id == id)
            return &s;
    return nullptr;
}

double mapStepFor(const SpaceModel& space, std::size_t places) {
    return std::clamp(std::sqrt(space.floorArea / static_cast<double>(places)), 0.1, 10.0);
}

PlanMap mapOf(const SpaceModel& m, MapKind kind, int band, double step, std::stop_token stop) {
    const auto* spec = mapSpec(kind);
    PlanMap map;
    map.kind = kind;
    map.step = step;
    map.places = mapPoints(m, step);
    if (!spec || (kind == MapKind::pickUp ? m.microphones.empty() : m.loudspeakers.empty()))
        return map;
    map.unit = spec->unit;
    if (kind == MapKind::pickUp)
        fillPickUp(map, m, stop);
    else
        for (const auto& v : acoustics::mapOf(acoustics::Prediction(m.field(m.neededDrive())), map.places, stop))
            map.values.push_back(static_cast<float>(valueOf(v, kind, band)));
    if (kind == MapKind::loudest)
        for (const auto& l : m.loudspeakers)
            map.names.push_back(l.name);
    scale(map, *spec);
    return map;
}

double contourOf(const PlanMap& map) {
    const double range = map.most - map.least;
    if (map.kind == MapKind::sti)
        return range > 0.4 ? 0.05 : 0.02;
    return range <= 8 ? 0.5 : range <= 16 ? 1 : range <= 45 ? 3 : 6;
}

} // namespace loom::project
