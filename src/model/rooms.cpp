#include "model/rooms.h"
#include "acoustics/noise_curve.h"
#include "dsp/number.h"
#include <string_view>

namespace loom::project {

acoustics::Bands noiseBands(const Noise& n) {
    return n.kind == Noise::Kind::nc   ? acoustics::noiseCriterion(n.value)
           : n.kind == Noise::Kind::nr ? acoustics::noiseRating(n.value)
                                       : n.bands;
}

Result<std::array<double, 3>> readSize(const std::string& text) {
    std::array<double, 3> size{0, 0, 0};
    std::size_t n = 0;
    bool unsure = false;
    for (std::string_view rest = text; !rest.empty() && n < 3;) {
        const auto v = typedNumber(rest);
        if (v.length > 0) {
            size[n++] = v.value;
            unsure = unsure || v.unsure;
        }
        rest.remove_prefix(std::max<std::size_t>(1, v.length));
    }
    if (unsure || n < 2 || !(size[0] > 0.5 && size[0] <= 500 && size[1] > 0.5 && size[1] <= 500))
        return Error{"\"" + text.substr(0, 40) + "\" is no size of a room", "",
                     "Type width and depth in metres, such as 12 x 8, or 12 x 8 x 3.2 with the height."};
    return size;
}

} // namespace loom::project
