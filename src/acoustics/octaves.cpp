#include "acoustics/octaves.h"
#include "dsp/band_filters.h"

namespace loom::acoustics {

std::vector<double> octaveBand(std::span<const float> response, double midHz, double rate) {
    std::vector<double> out(response.begin(), response.end());
    std::array<dsp::Section, dsp::bandSections> sections;
    if (!dsp::designFractionalOctave(midHz, 1, rate, sections))
        return std::vector<double>(response.size(), 0.0);
    for (const auto& s : sections) {
        dsp::SectionState state;
        for (double& v : out)
            v = state.step(s, v);
    }
    return out;
}

} // namespace loom::acoustics
