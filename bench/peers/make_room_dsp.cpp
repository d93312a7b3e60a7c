// Writes the room load as a Faust program, with the coefficients that the engine uses.
#include "room_load.h"
#include <cmath>
#include <cstdio>
#include <string>

using namespace loom;
using namespace loom::bench;

namespace {

std::string chain(const std::vector<dsp::Section>& sections) {
    std::string text;
    for (const auto& s : sections) {
        char one[200];
        std::snprintf(one, sizeof one, "%sfi.tf22t(%.9g,%.9g,%.9g,%.9g,%.9g)", text.empty() ? "" : ":", s.b0, s.b1,
                      s.b2, s.a1, s.a2);
        text += one;
    }
    return text;
}

std::vector<dsp::Section> bells(int lane) {
    std::vector<dsp::Section> s;
    for (int k = 0; k < roomBells; ++k)
        s.push_back(dsp::designBand(dsp::BellKind::bell, bellHz[k], bellGain(lane, k), 1.41, roomRate));
    return s;
}

std::string edge(dsp::EdgeSide side, int order, double hz) {
    const auto d = dsp::designEdge(dsp::EdgeShape::butterworth, side, order, hz, roomRate);
    return chain({d.sections.begin(), d.sections.begin() + static_cast<long>(d.count)});
}

} // namespace

int main(int argc, char**) {
    std::puts("import(\"stdfaust.lib\");");
    if (argc > 1) { // any argument: 8 bells on one channel
        std::printf("process = %s;\n", chain(bells(0)).c_str());
        return 0;
    }
    for (int i = 0; i < roomIns; ++i)
        std::printf("in%d = *(1.995) : %s : %s;\n", i, edge(dsp::EdgeSide::highPass, 3, 100).c_str(),
                    chain(bells(i)).c_str());
    for (int o = 0; o < roomOuts; ++o) {
        std::printf("mix%d = ", o);
        for (int i = 0; i < roomIns; ++i)
            std::printf("%s*(%.7g)", i ? "," : "", std::pow(10.0, -(20 + (i + o) % 5) / 20.0));
        std::printf(" :> _;\nout%d = %s : %s : @(240) : co.limiter_lad_mono(64.0/48000, 1, 0.0005, 0.0013, 0.05);\n", o,
                    chain(bells(o)).c_str(), edge(dsp::EdgeSide::lowPass, 4, 16000).c_str());
    }
    std::printf("process = ");
    for (int i = 0; i < roomIns; ++i)
        std::printf("%sin%d", i ? "," : "", i);
    std::printf(" <: ");
    for (int o = 0; o < roomOuts; ++o)
        std::printf("%s(mix%d : out%d)", o ? "," : "", o, o);
    std::puts(";");
}
