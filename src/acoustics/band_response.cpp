#include "acoustics/band_response.h"
#include "dsp/real_fft.h"
#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

namespace loom::acoustics {
namespace {

constexpr double turnHalf = std::numbers::pi;

constexpr int nearTaps = 40, farTaps = 8; // to each side
constexpr float tooQuiet = 1e-6f;

// How much of each octave a frequency belongs to: to one, or two that share it.
struct Share {
    std::size_t band;
    float own, next; // of the one above
};
Share shareOf(double hz) {
    const double octave = hz > 0 ? std::log2(hz / bandHz[0]) : -1;
    if (octave <= 0)
        return {0, 1, 0};
    if (octave >= static_cast<double>(bandCount - 1))
        return {bandCount - 2, 0, 1};
    const auto band = static_cast<std::size_t>(octave);
    const double c = std::cos(turnHalf / 2 * (octave - static_cast<double>(band)));
    return {band, static_cast<float>(c * c), static_cast<float>(1 - c * c)};
}

struct BandImage {
    double at;         // offset from the receiver
    double leaves;     // sign that turns it into the direction in which the sound left the source
    int first, second; // reflections at the two walls
};

// Reflection factors of a wall, by how often it was met.
std::vector<Bands> powersOf(const Bands& absorption, int most) {
    std::vector<Bands> all(static_cast<std::size_t>(most) + 1, filled(1));
    for (std::size_t b = 0; b < bandCount; ++b) {
        const double beta = std::sqrt(1 - std::clamp(absorption[b], 0.0, 1.0));
        for (std::size_t n = 1; n < all.size(); ++n)
            all[n][b] = all[n - 1][b] * beta;
    }
    return all;
}

// Taps of a Hann-windowed sinc around a place between samples; returns the first one's index.
int tapsAt(double at, int half, float* taps) {
    const int from = static_cast<int>(std::floor(at)) - half;
    double sine = std::sin(turnHalf * (from - at));
    for (int i = 0; i <= 2 * half; ++i) {
        const double x = from + i - at;
        const double sinc = std::abs(x) < 1e-9 ? 1 : sine / (turnHalf * x);
        taps[i] = std::abs(x) <= half ? static_cast<float>(sinc * 0.5 * (1 + std::cos(turnHalf * x / half))) : 0;
        sine = -sine;
    }
    return from;
}

} // namespace

std::vector<float> bandResponse(const BandBox& room, const Point& source, const Point& receiver, double rate,
                                int length, const BandGain& gain) {
    const double reach = length / rate * room.speed;
    std::array<std::vector<BandImage>, 3> axes;
    std::array<std::vector<Bands>, 6> walls;
    for (std::size_t d = 0; d < 3; ++d) {
        const int most = static_cast<int>(std::ceil(reach / (2 * room.size[d])));
        for (int n = -most; n <= most; ++n)
            for (const int q : {0, 1}) {
                const double at = 2 * n * room.size[d] + (q ? -source[d] : source[d]) - receiver[d];
                if (std::abs(at) <= reach)
                    axes[d].push_back({at, q ? 1.0 : -1.0, std::abs(n - q), std::abs(n)});
            }
        walls[2 * d] = powersOf(room.absorption[2 * d], most + 1);
        walls[2 * d + 1] = powersOf(room.absorption[2 * d + 1], most + 1);
    }
    // Every octave's images are gathered as if there were no other, and then put together in the frequency domain.
    int size = 1024;
    while (size < length + nearTaps + 1024) // what rings before the first image has room at the end
        size *= 2;
    const auto row = static_cast<std::size_t>(size);
    std::vector<float> trains(row * bandCount, 0.0f);
    float taps[2 * nearTaps + 1];
    const auto count = static_cast<int>(std::min<std::size_t>(static_cast<std::size_t>(length), row));
    for (const auto& x : axes[0])
        for (const auto& y : axes[1])
            for (const auto& z : axes[2]) {
                const double r = std::sqrt(x.at * x.at + y.at * y.at + z.at * z.at);
                if (r > reach)
                    continue;
                const Bands* const w[6] = {
                    &walls[0][static_cast<std::size_t>(x.first)], &walls[1][static_cast<std::size_t>(x.second)],
                    &walls[2][static_cast<std::size_t>(y.first)], &walls[3][static_cast<std::size_t>(y.second)],
                    &walls[4][static_cast<std::size_t>(z.first)], &walls[5][static_cast<std::size_t>(z.second)]};
                Bands g;
                double loudest = 0;
                for (std::size_t b = 0; b < bandCount; ++b) {
                    g[b] =
                        (*w[0])[b] * (*w[1])[b] * (*w[2])[b] * (*w[3])[b] * (*w[4])[b] * (*w[5])[b] / std::max(r, 0.01);
                    loudest = std::max(loudest, g[b]);
                }
                if (loudest < static_cast<double>(tooQuiet))
                    continue;
                const auto sent = gain({x.leaves * x.at, y.leaves * y.at, z.leaves * z.at}, {-x.at, -y.at, -z.at});
                const int half = r > nearMetres ? farTaps : nearTaps;
                const int from = tapsAt(r / room.speed * rate, half, taps);
                const int skip = std::max(0, -from), last = std::min(2 * half, count - 1 - from);
                for (std::size_t b = 0; b < bandCount; ++b) {
                    const auto factor = static_cast<float>(g[b] * sent[b] * std::pow(10, -room.air[b] * r / 20));
                    if (std::abs(factor) < tooQuiet)
                        continue;
                    float* to = trains.data() + b * row + from;
                    for (int i = skip; i <= last; ++i)
                        to[i] += factor * taps[i];
                }
            }
    dsp::RealFft fft(size);
    std::vector<std::complex<float>> sum(static_cast<std::size_t>(fft.bins()));
    std::vector<Share> shares;
    for (int k = 0; k < fft.bins(); ++k)
        shares.push_back(shareOf(k * rate / size));
    for (std::size_t b = 0; b < bandCount; ++b) {
        std::copy_n(trains.data() + b * row, row, fft.time());
        fft.forward();
        for (std::size_t k = 0; k < sum.size(); ++k)
            if (shares[k].band == b)
                sum[k] += fft.spectrum()[k] * shares[k].own;
            else if (shares[k].band + 1 == b)
                sum[k] += fft.spectrum()[k] * shares[k].next;
    }
    std::copy(sum.begin(), sum.end(), fft.spectrum());
    fft.backward();
    std::vector<float> h(static_cast<std::size_t>(length));
    for (std::size_t i = 0; i < h.size() && i < row; ++i)
        h[i] = fft.time()[i] / static_cast<float>(size);
    return h;
}

std::vector<float> bandNoise(const Bands& levels, double rate, std::size_t length, std::uint64_t seed) {
    dsp::RealFft fft(static_cast<int>(length));
    // Each octave's power is spread over its bins; the two outermost end where their octaves do.
    Bands power{};
    for (std::size_t b = 0; b < bandCount; ++b)
        power[b] = energyOf(levels[b]) / (bandHz[b] * (std::sqrt(2.0) - std::sqrt(0.5)));
    std::mt19937_64 random(seed);
    std::uniform_real_distribution<double> turn(0, 2 * turnHalf);
    const double spacing = rate / static_cast<double>(length);
    for (std::size_t k = 0; k < static_cast<std::size_t>(fft.bins()); ++k) {
        const double hz = static_cast<double>(k) * spacing, angle = turn(random);
        double density = 0;
        for (std::size_t b = 0; b < bandCount; ++b)
            if (hz >= bandHz[b] * std::sqrt(0.5) && hz < bandHz[b] * std::sqrt(2.0))
                density = power[b];
        // A sine of amplitude a has the power a^2 / 2, and its bin a / 2.
        const double a = std::sqrt(2 * density * spacing);
        fft.spectrum()[k] = {static_cast<float>(a / 2 * std::cos(angle)), static_cast<float>(a / 2 * std::sin(angle))};
    }
    fft.backward();
    return {fft.time(), fft.time() + length};
}

} // namespace loom::acoustics
