// A third-octave graphic equaliser whose response passes through its sliders.
#pragma once
#include "dsp/section.h"
#include <array>
#include <vector>

namespace loom::dsp {

inline constexpr std::size_t graphicBands = 31;
// 20 Hz .. 20 kHz, as they are written on the sliders; the exact centres are 1000 * 10^(n/10).
const std::array<double, graphicBands>& graphicNominals();

// Bells leak into their neighbours. The gains of the bells are found from the sliders through the matrix of that
// leakage (J. Rämö, V. Välimäki, B. Bank, "High-precision parallel graphic equalizer", IEEE/ACM TASLP 22, 2014, use the
// same idea), then corrected twice by what is still missing at the centres.
class GraphicDesign {
  public:
    explicit GraphicDesign(double rate);
    static const GraphicDesign& of(double rate); // made once for each rate and kept; not on the audio thread
    // Sliders in dB, -12..12. Takes some tens of microseconds; does not allocate.
    std::array<Section, graphicBands> sections(const std::array<double, graphicBands>& slidersDb) const;
    Complex response(const std::array<double, graphicBands>& slidersDb, double hz) const;

  private:
    using Row = std::array<double, graphicBands>;
    Section band(std::size_t b, double gainDb) const;
    double rate_;
    Row centres_, q_;
    std::array<Row, graphicBands> inverse_; // of the leakage
    std::array<Row, 2> cos_;                // of w and 2 w at the centres
};

} // namespace loom::dsp
