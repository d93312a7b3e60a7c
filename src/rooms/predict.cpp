#include "rooms/predict.h"
#include "acoustics/decay.h"
#include "acoustics/image_source.h"
#include "acoustics/noise_curve.h"
#include "acoustics/octaves.h"
#include "rooms/air_response.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::project {

using acoustics::lengthOf;
using acoustics::operator-;

namespace {

constexpr std::size_t oneKhz = 4;   // stands for walls, loudspeakers and microphones alike in a loop
constexpr double longestLoop = 0.5; // s of response that a loop is worked out with

} // namespace

SpaceFigures figuresOf(const SpaceModel& m) {
    SpaceFigures f;
    f.name = m.name;
    f.wallState = m.wallState;
    f.rooms = m.rooms;
    f.volume = m.volume;
    f.floorArea = m.floorArea;
    f.seats = static_cast<int>(m.seats.size());
    f.loudspeakers = static_cast<int>(m.loudspeakers.size());
    f.microphones = static_cast<int>(m.microphones.size());
    f.sabine = m.reverberation.sabine;
    f.eyring = m.reverberation.eyring;
    f.noise = m.noise;
    f.noiseA = acoustics::aWeighted(m.noise);
    f.predicted = f.seats > 0 && f.loudspeakers > 0;
    if (f.predicted) {
        f.drive = m.neededDrive();
        const acoustics::Prediction p(m.field(f.drive));
        std::vector<double> levels;
        f.worstSti = 2;
        for (const auto& s : m.seats) {
            const auto v = p.at(s.ear);
            levels.push_back(v.direct[5]);
            f.meanA += v.totalA / static_cast<double>(m.seats.size());
            f.farthestDelay = std::max(f.farthestDelay, v.spread);
            if (v.sti < f.worstSti) {
                f.worstSti = v.sti;
                f.worstClarity = v.clarity;
                f.worstSeat = s.seats + " " + std::to_string(s.number);
            }
        }
        f.levels = acoustics::evennessOf(levels);
        f.headroom = 1e9;
        for (const auto& l : m.loudspeakers)
            f.headroom = std::min(f.headroom, l.maxLevel - l.level - f.drive);
    }
    for (const auto& v : m.voices) {
        SpaceFigures::Heard h;
        h.voice = v.name;
        for (const auto& mic : m.microphones) {
            const auto up =
                acoustics::pickUp(mic.at, mic.factor, v.at, acoustics::speechAt(v.level), m.reverberation, m.noise);
            if (h.microphone.empty() || up.toNoise > h.pickUp.toNoise) {
                h.microphone = mic.name;
                h.pickUp = up;
            }
        }
        h.good = !h.microphone.empty() && h.pickUp.toNoise >= m.targets.toNoise &&
                 h.pickUp.toReverberant >= m.targets.toReverberant;
        f.talkersHeard += h.good;
        f.heard.push_back(h);
    }
    return f;
}

namespace {

// Absorption of the box's faces in a band.
acoustics::Shoebox shoebox(const Box& box, std::size_t band) {
    acoustics::Shoebox s;
    s.size = box.size;
    for (std::size_t face = 0; face < 6; ++face)
        s.absorption[face] = box.absorption[face][band];
    return s;
}

} // namespace

std::vector<float> loopResponse(const SpaceModel& m, std::size_t microphone, std::stop_token stop) {
    const auto& mic = m.microphones.at(microphone);
    const double length = std::clamp(m.reverberation.eyring[oneKhz] * 0.6, 0.1, longestLoop); // down to -36 dB
    std::vector<float> sum(static_cast<std::size_t>(length * loopRate), 0.0f);
    // The talker whom this microphone hears: it is the nearest.
    double distance = 1e9, voice = 60;
    for (const auto& v : m.voices)
        if (const double r = lengthOf(v.at - mic.at); r < distance) {
            distance = r;
            voice = v.level;
        }
    if (m.voices.empty())
        distance = 0.5;
    const double heard = voice - 20 * std::log10(std::max(distance, 0.02)); // dB(A) at the microphone
    // Gain from the microphone's level to the drive that makes the target level at the seats.
    const double gain = m.neededDrive() - heard;
    const acoustics::Point towardsVoice = [&] {
        for (const auto& v : m.voices)
            if (lengthOf(v.at - mic.at) == distance && distance > 0)
                return v.at - mic.at;
        return acoustics::Point{0, 0, -1};
    }();
    for (const auto& l : m.loudspeakers) {
        if (stop.stop_requested())
            return {};
        const auto part = airResponse(m, &l, l.at, mic, towardsVoice, loopRate, sum.size(), oneKhz);
        const double amplitude = std::pow(10, (l.level + gain) / 20);
        const auto late = static_cast<std::size_t>(l.delay * loopRate);
        for (std::size_t i = 0; i + late < sum.size(); ++i)
            sum[i + late] += static_cast<float>(part[i] * amplitude);
    }
    return sum;
}

std::vector<LoopFigure> loopsOf(const SpaceModel& m, int open, std::stop_token stop) {
    std::vector<LoopFigure> all;
    if (m.loudspeakers.empty() || m.seats.empty())
        return all;
    for (std::size_t i = 0; i < m.microphones.size(); ++i) {
        if (!m.microphones[i].reinforced)
            continue;
        const auto response = loopResponse(m, i, stop);
        if (response.empty())
            return {};
        const auto limit = acoustics::loopLimit(response, loopRate);
        all.push_back({m.microphones[i].name, limit.gainDb - feedbackMargin - acoustics::openMicrophones(open),
                       limit.gainDb, limit.hz});
    }
    std::sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.spareDb < b.spareDb; });
    return all;
}

acoustics::Bands imageSourceDecay(const SpaceModel& m, std::stop_token stop) {
    acoustics::Bands t{};
    const auto& s = m.box.size;
    const acoustics::Point from{s[0] * 0.15, s[1] * 0.2, s[2] * 0.4}, to{s[0] * 0.62, s[1] * 0.57, s[2] * 0.45};
    for (std::size_t b = 1; b < 7; ++b) {
        if (stop.stop_requested())
            return {};
        const double length = std::clamp(m.reverberation.eyring[b] * 0.6, 0.1, 0.8);
        const auto h = acoustics::imageSourceResponse(
            shoebox(m.box, b), from, to, loopRate, static_cast<int>(length * loopRate), acoustics::speedOfSound(m.air));
        t[b] = acoustics::reverberationTime(h, loopRate);
    }
    return t;
}

std::vector<acoustics::Point> mapPoints(const SpaceModel& m, double step) {
    std::vector<acoustics::Point> places;
    for (const auto& outline : m.outlines)
        for (const auto& spot : acoustics::gridInside(outline, step))
            places.push_back({spot[0], spot[1], m.ear});
    return places;
}

} // namespace loom::project
