#include "acoustics/band_response.h"
#include "dsp/real_fft.h"
#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>
#include <utility>

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
template <std::size_t N>
std::vector<std::array<double, N>> powersOf(const std::array<double, N>& absorption, int most) {
    std::array<double, N> one;
    one.fill(1);
    std::vector<std::array<double, N>> all(static_cast<std::size_t>(most) + 1, one);
    for (std::size_t b = 0; b < N; ++b) {
        const double beta = std::sqrt(1 - std::clamp(absorption[b], 0.0, 1.0));
        for (std::size_t n = 1; n < all.size(); ++n)
            all[n][b] = all[n - 1][b] * beta;
    }
    return all;
}

// Taps of a Hann-windowed sinc around a place between samples; returns the first one's index. From tap to tap the sine
// only changes its sign, and the window's cosine turns by one angle.
int nearTapsAt(double at, float* taps) {
    constexpr int half = nearTaps;
    const int from = static_cast<int>(std::floor(at)) - half;
    double sine = std::sin(turnHalf * (from - at));
    const double step = turnHalf / half, first = step * (from - at), twice = 2 * std::cos(step);
    double window = std::cos(first), before = std::cos(first - step);
    for (int i = 0; i <= 2 * half; ++i) {
        const double x = from + i - at;
        const double sinc = std::abs(x) < 1e-9 ? 1 : sine / (turnHalf * x);
        taps[i] = std::abs(x) <= half ? static_cast<float>(sinc * 0.5 * (1 + window)) : 0;
        sine = -sine;
        before = std::exchange(window, twice * window - before);
    }
    return from;
}

// The same for images from far away, between 256 places from sample to sample: within 2e-5 of the largest.
int farTapsAt(double at, float* taps) {
    constexpr int phases = 256, count = 2 * farTaps + 1;
    static const auto table = [] {
        std::vector<std::array<float, count>> rows(phases + 1);
        for (int p = 0; p <= phases; ++p) {
            const double at = static_cast<double>(p) / phases;
            for (int i = 0; i < count; ++i) {
                const double x = i - farTaps - at;
                const double sinc = std::abs(x) < 1e-9 ? 1 : std::sin(turnHalf * x) / (turnHalf * x);
                rows[static_cast<std::size_t>(p)][static_cast<std::size_t>(i)] =
                    std::abs(x) <= farTaps ? static_cast<float>(sinc * 0.5 * (1 + std::cos(turnHalf * x / farTaps)))
                                           : 0;
            }
        }
        return rows;
    }();
    const double whole = std::floor(at), place = (at - whole) * phases;
    const auto p = std::min(static_cast<std::size_t>(place), static_cast<std::size_t>(phases - 1));
    const auto part = static_cast<float>(place - static_cast<double>(p));
    const auto &low = table[p], &high = table[p + 1];
    for (std::size_t i = 0; i < count; ++i)
        taps[i] = low[i] + part * (high[i] - low[i]);
    return static_cast<int>(whole) - farTaps;
}

// N trains of images, each gathered as if there were no other; `row` samples each. gain: as BandGain, N of it. air:
// dB/m.
template <std::size_t N, class Gain>
std::vector<float> trainsOf(const Point& size, const std::array<std::array<double, N>, 6>& absorption,
                            const std::array<double, N>& air, double speed, const Point& source, const Point& receiver,
                            double rate, int length, std::size_t row, const Gain& gain) {
    const double reach = length / rate * speed;
    std::array<std::vector<BandImage>, 3> axes;
    std::array<std::vector<std::array<double, N>>, 6> walls;
    for (std::size_t d = 0; d < 3; ++d) {
        const int most = static_cast<int>(std::ceil(reach / (2 * size[d])));
        for (int n = -most; n <= most; ++n)
            for (const int q : {0, 1}) {
                const double at = 2 * n * size[d] + (q ? -source[d] : source[d]) - receiver[d];
                if (std::abs(at) <= reach)
                    axes[d].push_back({at, q ? 1.0 : -1.0, std::abs(n - q), std::abs(n)});
            }
        walls[2 * d] = powersOf<N>(absorption[2 * d], most + 1);
        walls[2 * d + 1] = powersOf<N>(absorption[2 * d + 1], most + 1);
    }
    std::vector<float> trains(row * N, 0.0f);
    float taps[2 * nearTaps + 1];
    const auto count = static_cast<int>(std::min<std::size_t>(static_cast<std::size_t>(length), row));
    for (const auto& x : axes[0])
        for (const auto& y : axes[1]) {
            std::array<double, N> across; // of the four walls beside
            for (std::size_t b = 0; b < N; ++b)
                across[b] =
                    walls[0][static_cast<std::size_t>(x.first)][b] * walls[1][static_cast<std::size_t>(x.second)][b] *
                    walls[2][static_cast<std::size_t>(y.first)][b] * walls[3][static_cast<std::size_t>(y.second)][b];
            for (const auto& z : axes[2]) {
                const double r = std::sqrt(x.at * x.at + y.at * y.at + z.at * z.at);
                if (r > reach)
                    continue;
                const auto &floor = walls[4][static_cast<std::size_t>(z.first)],
                           &ceiling = walls[5][static_cast<std::size_t>(z.second)];
                std::array<double, N> g;
                double loudest = 0;
                for (std::size_t b = 0; b < N; ++b) {
                    g[b] = across[b] * floor[b] * ceiling[b] / std::max(r, 0.01);
                    loudest = std::max(loudest, g[b]);
                }
                if (loudest < static_cast<double>(tooQuiet))
                    continue;
                const auto sent = gain({x.leaves * x.at, y.leaves * y.at, z.leaves * z.at}, {-x.at, -y.at, -z.at});
                const bool far = r > nearMetres;
                const int half = far ? farTaps : nearTaps;
                const double at = r / speed * rate;
                const int from = far ? farTapsAt(at, taps) : nearTapsAt(at, taps);
                const int skip = std::max(0, -from), last = std::min(2 * half, count - 1 - from);
                for (std::size_t b = 0; b < N; ++b) {
                    const auto factor = static_cast<float>(g[b] * sent[b] * quickFactor(-air[b] * r));
                    if (std::abs(factor) < tooQuiet)
                        continue;
                    float* to = trains.data() + b * row + from;
                    for (int i = skip; i <= last; ++i)
                        to[i] += factor * taps[i];
                }
            }
        }
    return trains;
}

} // namespace

std::vector<float> octaveResponse(const BandBox& room, std::size_t band, const Point& source, const Point& receiver,
                                  double rate, int length, const PathGain& gain) {
    std::array<std::array<double, 1>, 6> absorption;
    for (std::size_t w = 0; w < 6; ++w)
        absorption[w] = {room.absorption[w][band]};
    return trainsOf<1>(
        room.size, absorption, {0}, room.speed, source, receiver, rate, length, static_cast<std::size_t>(length),
        [&](const Point& leaving, const Point& coming) { return std::array<double, 1>{gain(leaving, coming)}; });
}

std::vector<float> bandResponse(const BandBox& room, const Point& source, const Point& receiver, double rate,
                                int length, const BandGain& gain) {
    // Every octave's images are gathered as if there were no other, and then put together in the frequency domain.
    int size = 1024;
    while (size < length + nearTaps + 1024) // what rings before the first image has room at the end
        size *= 2;
    const auto row = static_cast<std::size_t>(size);
    const auto trains = trainsOf<bandCount>(room.size, room.absorption, room.air, room.speed, source, receiver, rate,
                                            length, row, gain);
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
