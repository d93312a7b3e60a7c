#include "loudspeaker/load.h"
#include <cmath>

namespace loom::loudspeaker {

double dbuOf(double volts) {
    return 20 * std::log10(volts / dbuVolts);
}

double voltsOf(double dbu) {
    return dbuVolts * std::pow(10.0, dbu / 20);
}

Impedance parallel(std::span<const Impedance> all) {
    double nominal = 0, minimum = 0;
    for (const auto& z : all) {
        nominal += 1 / z.nominal;
        minimum += 1 / z.minimum;
    }
    return {1 / nominal, 1 / minimum};
}

Impedance series(std::span<const Impedance> all) {
    Impedance sum{0, 0};
    for (const auto& z : all) {
        sum.nominal += z.nominal;
        sum.minimum += z.minimum;
    }
    return sum;
}

double lineImpedance(double volts, double watts) {
    return volts * volts / watts;
}

double resistanceOf(const Cable& c) {
    constexpr double copper = 1.0 / 58, perKelvin = 0.00393;
    return 2 * copper * c.metres / c.mm2 * (1 + perKelvin * (c.celsius - 20));
}

Run runOf(const Cable& cable, double loadOhms, double volts, double sourceOhms) {
    const double r = resistanceOf(cable);
    Run run;
    run.amperes = volts / (loadOhms + r);
    run.atLoad = run.amperes * loadOhms;
    run.lossDb = 20 * std::log10((loadOhms + r) / loadOhms);
    run.damping = r + sourceOhms > 0 ? loadOhms / (r + sourceOhms) : 1e9;
    run.watts = run.amperes * run.atLoad;
    return run;
}

} // namespace loom::loudspeaker
