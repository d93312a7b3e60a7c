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

std::optional<StatedLimit> statedLimit(const std::string& text) {
    const auto number = typedNumber(text);
    if (number.length == 0 || number.unsure)
        return {};
    std::string unit;
    for (const char c : text.substr(number.length))
        if (c != ' ' && c != '\t')
            unit += static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c);
    if (unit == "dbu" && std::abs(number.value) <= 60)
        return StatedLimit{number.value, true};
    const bool volts = unit == "v" || unit == "vpk" || unit == "vp" || unit == "vrms";
    return volts && number.value > 0 && number.value <= 2000 ? std::optional(StatedLimit{number.value, false})
                                                             : std::nullopt;
}

void hold(Limit& limit, const StatedLimit& stated, bool peak, const Drive& drive) {
    const double volts = stated.dbu
                             ? voltsOf(stated.value) * std::pow(10, drive.gainDb / 20) * (peak ? std::sqrt(2.0) : 1)
                             : stated.value / drive.partOfVolts;
    const std::string said =
        stated.dbu ? print("%.4g dBu, which are %.4g V", stated.value, volts) : print("%.4g V", stated.value);
    if (!(volts < limit.volts)) {
        limit.reason += "; the maker allows " + said;
        return;
    }
    const double down = 20 * std::log10(limit.volts / volts);
    limit.reason = "the maker's limit of " + said + print("; from the powers %.4g V would follow", limit.volts);
    limit.volts = volts;
    limit.dbu -= down;
    limit.dbfs -= down;
    limit.watts *= std::pow(10, -down / 10);
}

} // namespace loom::loudspeaker
