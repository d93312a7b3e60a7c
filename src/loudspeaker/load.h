// What hangs on an amplifier's output: impedances, 70 and 100 V lines, cables. Plain circuit theory with real
// impedances; volts and amperes are r.m.s.
#pragma once
#include <span>

namespace loom::loudspeaker {

inline constexpr double dbuVolts = 0.7745966692414834; // 0 dBu: 1 mW into 600 ohms (IEC 60268-2)
double dbuOf(double volts);                            // volts > 0
double voltsOf(double dbu);

struct Impedance {
    double nominal = 8, minimum = 6.4; // ohms; IEC 60268-5, 16.1: the minimum is at least 80 % of the rated one
};
// All of them side by side, or one after another; at least one, each above 0.
Impedance parallel(std::span<const Impedance> all);
Impedance series(std::span<const Impedance> all);
// What a line of `volts` sees of transformers tapped for `watts` in all: Z = U^2 / P. watts > 0.
double lineImpedance(double volts, double watts);

// A pair of copper conductors.
struct Cable {
    double metres = 0; // one way
    double mm2 = 2.5;  // of one conductor
    double celsius = 20;
};
// Of both conductors in ohms: annealed copper of 1/58 ohm mm2/m at 20 degrees, 0.00393 more for each kelvin (IEC
// 60028).
double resistanceOf(const Cable& cable);

// One output with its cable and load, driven to `volts`.
struct Run {
    double amperes = 0;
    double atLoad = 0;  // volts
    double lossDb = 0;  // of level at the load, 20 lg((Z + R) / Z)
    double damping = 0; // load over all that stands before it: cable and the amplifier's own output resistance
    double watts = 0;   // into the load
};
Run runOf(const Cable& cable, double loadOhms, double volts, double sourceOhms);

} // namespace loom::loudspeaker
