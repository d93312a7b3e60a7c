// What hangs on the outputs of amplifiers, and what feeds their inputs.
#pragma once
#include "model/extra.h"
#include "speaker/load.h"
#include <map>
#include <string>
#include <vector>

namespace loom::project {

struct HangsOn {
    std::string device;  // a loudspeaker
    int way = 0;         // of its voicing, from 0
    double tapWatts = 0; // on a line: its transformer's tap
    schema::Extra extra{};
    bool operator==(const HangsOn&) const = default;
};

enum class Wiring { parallel, series, line70, line100 };

struct AmplifierOutput {
    std::vector<HangsOn> loads{};
    Wiring wiring = Wiring::parallel;
    double metres = 10, mm2 = 2.5, celsius = 20; // of its cable, one way
    schema::Extra extra{};
    bool operator==(const AmplifierOutput&) const = default;
    bool line() const { return wiring == Wiring::line70 || wiring == Wiring::line100; }
    double lineVolts() const { return wiring == Wiring::line70 ? 70.7 : 100; }
    speaker::Cable cable() const { return {metres, mm2, celsius}; }
};
using AmplifierOutputs = std::map<std::string, AmplifierOutput>; // by port: "out 1"

// What an amplifier's sheet says.
struct PowerRating {
    double ohms = 8, watts = 100;
    schema::Extra extra{};
    bool operator==(const PowerRating&) const = default;
};
struct AmplifierData {
    double gainDb = 32;       // voltage gain
    double fullScaleDbu = 18; // of a full-scale sine in its own processing, at its input
    double leastOhms = 4;
    double sourceOhms = 0.03;         // output resistance
    double totalWatts = 0;            // of all outputs together; 0: their sum
    double lineWatts = 0;             // of one output on a 70 or 100 V line; 0: it drives none
    std::vector<PowerRating> power{}; // for long, one output
    // The power it gives into a load, r.m.s. volts of it at least: between its ratings straight over the impedance;
    // above the highest by the same voltage, below the lowest by the same current.
    double wattsInto(double ohms) const;
    double maxVolts() const; // r.m.s., the highest of its ratings
    schema::Extra extra{};
    bool operator==(const AmplifierData&) const = default;
};

} // namespace loom::project
