// What hangs on the outputs of amplifiers.
#pragma once
#include "loudspeaker/load.h"
#include "schema/extra.h"
#include <map>
#include <string>
#include <vector>

namespace loom::project {

struct LoudspeakerLoad {
    std::string device;  // a loudspeaker
    int way = 0;         // of its voicing, from 0
    double tapWatts = 0; // on a line: its transformer's tap
    schema::Extra extra{};
    bool operator==(const LoudspeakerLoad&) const = default;
};

enum class Wiring { parallel, series, line70, line100 };

struct AmplifierOutput {
    std::vector<LoudspeakerLoad> loads{};
    Wiring wiring = Wiring::parallel;
    double metres = 10, mm2 = 2.5, celsius = 20; // of its cable, one way
    schema::Extra extra{};
    bool operator==(const AmplifierOutput&) const = default;
    bool line() const { return wiring == Wiring::line70 || wiring == Wiring::line100; }
    double lineVolts() const { return wiring == Wiring::line70 ? 70.7 : 100; }
    loudspeaker::Cable cable() const { return {metres, mm2, celsius}; }
};
using AmplifierOutputs = std::map<std::string, AmplifierOutput>; // by port: "out 1"

} // namespace loom::project
