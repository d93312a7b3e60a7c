// High-pass and low-pass edges as cascades of sections.
#pragma once
#include "dsp/section.h"
#include <array>
#include <cstddef>

namespace loom::dsp {

enum class EdgeShape { butterworth, linkwitzRiley, bessel };
enum class EdgeSide { highPass, lowPass };
inline constexpr std::size_t maxEdgeSections = 4;

// Up to four sections; unused ones pass everything.
struct EdgeDesign {
    std::array<Section, maxEdgeSections> sections{};
    std::size_t count = 0;
};

// True if the shape exists with this order (slope / 6 dB per octave): Butterworth 1..8, Linkwitz-Riley 2, 4, 6, 8,
// Bessel 2..8.
bool edgeExists(EdgeShape shape, int order);

// The nearest order at which the shape exists.
int nearestEdgeOrder(EdgeShape shape, int order);

// Designs an edge by the bilinear transform with the corner prewarped. hz in (0, rate/2).
// Corner: Butterworth and Bessel -3.01 dB, Linkwitz-Riley -6.02 dB (two Butterworth edges of half the order).
// Does not allocate. Sources: Butterworth 1930; Linkwitz & Riley, JAES 24 (1976); Bessel polynomials, Thomson 1949,
// scaled to -3.01 dB at the corner.
EdgeDesign designEdge(EdgeShape shape, EdgeSide side, int order, double hz, double rate);

Complex response(const EdgeDesign& edge, double hz, double rate);

} // namespace loom::dsp
