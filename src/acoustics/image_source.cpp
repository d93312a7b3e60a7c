#include "acoustics/image_source.h"
#include <algorithm>
#include <cmath>

namespace loom::acoustics {
namespace {

constexpr double pi = 3.14159265358979323846;
constexpr int halfTaps = 40;

struct Image {
    double at, gain; // offset from the receiver, product of reflections
    double leaves;   // sign that turns the offset into the direction in which the sound left the source
};

void addBetweenSamples(std::vector<double>& h, double at, double gain) {
    const int middle = static_cast<int>(std::floor(at));
    const int from = std::max(0, middle - halfTaps), to = std::min(middle + halfTaps, static_cast<int>(h.size()) - 1);
    // From tap to tap sin(pi x) only changes its sign, and the window's cosine turns by one angle.
    double sine = std::sin(pi * (from - at));
    double c = std::cos(pi * (from - at) / halfTaps), s = std::sin(pi * (from - at) / halfTaps);
    const double turnC = std::cos(pi / halfTaps), turnS = std::sin(pi / halfTaps);
    for (int i = from; i <= to; ++i) {
        const double x = i - at;
        if (std::abs(x) <= halfTaps) {
            const double sinc = std::abs(x) < 1e-9 ? 1 : sine / (pi * x);
            h[static_cast<std::size_t>(i)] += gain * sinc * 0.5 * (1 + c);
        }
        sine = -sine;
        const double next = c * turnC - s * turnS;
        s = s * turnC + c * turnS;
        c = next;
    }
}

} // namespace

double absorptionForReverberation(const Point& s, double seconds) {
    const double volume = s[0] * s[1] * s[2], surface = 2 * (s[0] * s[1] + s[1] * s[2] + s[0] * s[2]);
    return std::clamp(1 - std::exp(-0.161 * volume / (surface * seconds)), 0.0, 0.99);
}

std::vector<float> imageSourceResponse(const Shoebox& room, const Point& source, const Point& receiver, double rate,
                                       int length, double speed, const PathGain& pathGain) {
    std::vector<double> h(static_cast<std::size_t>(std::max(length, 1)), 0.0);
    std::array<double, 6> beta;
    for (std::size_t w = 0; w < 6; ++w)
        beta[w] = std::sqrt(1 - std::clamp(room.absorption[w], 0.0, 1.0));
    const double reach = length / rate * speed;
    std::array<int, 3> most;
    for (std::size_t d = 0; d < 3; ++d)
        most[d] = static_cast<int>(std::ceil(reach / (2 * room.size[d])));
    // Along each axis an image lies at 2 n L + s (after |n| reflections at each of the two walls) or at 2 n L - s (one
    // more at the near wall): Allen & Berkley eq. 8 to 10.
    const auto images = [&](std::size_t d) {
        std::vector<Image> all;
        for (int n = -most[d]; n <= most[d]; ++n)
            for (const int q : {0, 1}) {
                const double at = 2 * n * room.size[d] + (q ? -source[d] : source[d]) - receiver[d];
                if (std::abs(at) <= reach)
                    all.push_back({at, std::pow(beta[2 * d], std::abs(n - q)) * std::pow(beta[2 * d + 1], std::abs(n)),
                                   q ? 1.0 : -1.0});
            }
        return all;
    };
    const auto xs = images(0), ys = images(1), zs = images(2);
    for (const auto& [x, gx, sx] : xs)
        for (const auto& [y, gy, sy] : ys)
            for (const auto& [z, gz, sz] : zs) {
                const double r = std::sqrt(x * x + y * y + z * z);
                double gain = gx * gy * gz;
                if (r > reach || gain <= 1e-6)
                    continue;
                if (pathGain && r > 0) // from the image to the receiver; a mirrored axis leaves the other way
                    gain *= pathGain({sx * x, sy * y, sz * z}, {-x, -y, -z});
                if (std::abs(gain) > 1e-7)
                    addBetweenSamples(h, r / speed * rate, gain / (4 * pi * std::max(r, 0.01)));
            }
    return {h.begin(), h.end()};
}

} // namespace loom::acoustics
