#include "loudspeaker/protection.h"
#include "dsp/number.h"
#include "loudspeaker/load.h"
#include <algorithm>
#include <cmath>
#include <cstdio>

namespace loom::loudspeaker {
namespace {

// A limit of `volts` at the driver (peak or r.m.s.), taken back to the output and the limiter.
Limit limitOf(double volts, double marginDb, const DriverPower& d, const Drive& drive, bool peak) {
    Limit l;
    const double at = volts * std::pow(10.0, -marginDb / 20);
    l.watts = at * at / d.ohms;
    l.volts = at / drive.partOfVolts;
    const double gain = std::pow(10.0, drive.gainDb / 20), input = l.volts / gain;
    l.dbu = dbuOf(peak ? input / std::sqrt(2.0) : input);
    l.dbfs = 20 * std::log10(input / (std::sqrt(2.0) * voltsOf(drive.fullScaleDbu)));
    return l;
}

std::string marginText(double db) {
    return db == 0 ? "" : print(db > 0 ? ", %.1f dB of margin taken off" : ", raised by %.1f dB", std::abs(db));
}

} // namespace

Protection protect(const DriverPower& d, const Drive& drive, const Margins& margins) {
    Protection p;
    const bool known = d.peakWatts > 0;
    const double peakWatts = known ? d.peakWatts : 4 * d.rmsWatts;
    p.peak = limitOf(std::sqrt(peakWatts * d.ohms), margins.peakDb, d, drive, true);
    p.peak.reason = print("%.0f W peak into %.3g ohms%s", peakWatts, d.ohms,
                          known ? "" : " (four times its noise power; the sheet has no peak power)") +
                    marginText(margins.peakDb);
    p.thermal = limitOf(std::sqrt(d.rmsWatts * d.ohms), margins.thermalDb, d, drive, false);
    p.thermal.reason = print("%.0f W noise power into %.3g ohms", d.rmsWatts, d.ohms) + marginText(margins.thermalDb);
    const double coil = d.coilMm > 0 ? d.coilMm : 25;
    p.seconds = std::clamp(coil * (d.kind == DriverKind::cone ? 0.04 : 0.02), 0.1, 60.0);
    p.releaseMs = d.lowestHz > 0 ? std::clamp(8000 / d.lowestHz, 10.0, 400.0) : 100;
    p.clipsFirst = drive.maxVolts < p.peak.volts;
    return p;
}

} // namespace loom::loudspeaker
