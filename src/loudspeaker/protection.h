// Limiter thresholds that follow from what a driver bears and what stands before it.
#pragma once
#include <optional>
#include <string>

namespace loom::loudspeaker {

enum class DriverKind { cone, compression };

// What a sheet says of one way.
struct DriverPower {
    double ohms = 8;      // rated impedance
    double rmsWatts = 0;  // noise power (IEC 60268-5, 18.1; AES2): U^2 / rated impedance; 0: not known
    double peakWatts = 0; // U^2 / impedance of the highest peaks; 0: four times the other (a crest of 6 dB)
    DriverKind kind = DriverKind::cone;
    double coilMm = 0;   // diameter of the voice coil; 0: not known
    double lowestHz = 0; // its high-pass; 0: none
};

// From a full-scale sample to the voltage at the output.
struct Drive {
    double fullScaleDbu = 18; // of a full-scale sine where the limiter is, at the amplifier's input
    double gainDb = 32;       // voltage gain of the amplifier
    double maxVolts = 60;     // peak, where it clips
    double partOfVolts = 1;   // what one driver gets of the output's voltage: 1/n of n in series, or by a transformer
};

struct Margins {
    double peakDb = 0, thermalDb = 0; // further down than the sheet's figures; negative: up
    bool operator==(const Margins&) const = default;
};

struct Limit {
    double volts = 0; // at the output: peak for peaks, r.m.s. for the thermal one
    double dbu = 0;   // the same at the amplifier's input, as a sine's r.m.s. for peaks
    double dbfs = 0;  // threshold of the limiter block: 0 is a full-scale sample
    double watts = 0; // into one driver
    std::string reason;
};

// A limit as its maker states it.
struct StatedLimit {
    double value = 0;
    bool dbu = false; // at the amplifier's input, as a sine's r.m.s.; else volts at the loudspeaker, peak or r.m.s.
};
// "104 V", "7,5 dBu"; none: no limit that could be held.
std::optional<StatedLimit> statedLimit(const std::string& text);

struct Protection {
    Limit peak, thermal;
    double seconds = 0;      // thermal time constant
    double releaseMs = 0;    // of the peak limiter
    bool clipsFirst = false; // the amplifier reaches its end below the peak limit
};

// U_peak = sqrt(P_peak R) and U_rms = sqrt(P_rms R) at the driver, divided by its part of the output's voltage, taken
// down by the margins. dBFS: 20 lg(U / (sqrt(2) U_fs G)), where a full-scale sine has the peak 1.
// Time constants are rules of thumb: 0.04 s for each mm of a cone's coil, half that for a compression driver (25 mm
// where it is not known); release: eight periods of the lowest frequency, 10 to 400 ms.
// rmsWatts must be above 0.
Protection protect(const DriverPower& driver, const Drive& drive, const Margins& margins);

// The lower one of a limit and of what the maker states for it, with the reason why that holds; `peak`: of peaks, else
// of the mean. dBu become volts by the amplifier's gain: U = 0.7746 V * 10^(dBu/20) * G (IEC 60268-3), times sqrt(2)
// for peaks.
void hold(Limit& limit, const StatedLimit& stated, bool peak, const Drive& drive);

} // namespace loom::loudspeaker
