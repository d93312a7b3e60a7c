#include "acoustics/decay.h"
#include "acoustics/image_source.h"
#include "acoustics/noise_curve.h"
#include "acoustics/octaves.h"
#include "catalogue/materials.h"
#include "model/surfaces.h"
#include "rooms/air_response.h"
#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <numbers>

namespace loom::project {

using acoustics::lengthOf;
using acoustics::operator-;

namespace {

constexpr std::size_t oneKhz = 4;   // stands for walls, loudspeakers and microphones alike in a loop
constexpr double longestLoop = 0.5; // s of response that a loop is worked out with

// One pattern a model, made once: its directivity factor takes an integral.
std::shared_ptr<const acoustics::Directivity> patternOf(const DeviceModel& model) {
    static std::mutex lock;
    static std::map<std::string, std::shared_ptr<const acoustics::Directivity>> made;
    const std::lock_guard hold(lock);
    auto& pattern = made[model.id];
    if (!pattern)
        pattern = std::make_shared<acoustics::Directivity>(model.loudspeaker->horizontal, model.loudspeaker->vertical);
    return pattern;
}

acoustics::Reverberation reverberationOf(const Space& space) {
    std::vector<acoustics::Surface> surfaces;
    acoustics::Bands people{};
    for (const auto* r : space.rooms) {
        for (const auto& s : surfacesOf(*r))
            surfaces.push_back({areaOf(*r, s), finishOf(*r, s).absorption});
        const double seated = static_cast<double>(seatsOf(*r).size()) * r->people;
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            people[b] += seated * personAbsorption()[b];
    }
    for (const auto* w : space.open) { // both sides of an open wall are gone
        const double area = openingOf(space, *w);
        for (const auto* r : space.rooms)
            if (std::find(w->rooms.begin(), w->rooms.end(), r->id) != w->rooms.end())
                for (std::size_t i = 0; i < r->outline.size(); ++i) {
                    const auto &a = r->outline[i], &b = r->outline[(i + 1) % r->outline.size()];
                    if (acoustics::distanceTo({(w->from[0] + w->to[0]) / 2, (w->from[1] + w->to[1]) / 2}, a, b) <
                        0.35) {
                        surfaces.push_back({-std::min(area, areaOf(*r, "wall " + std::to_string(i + 1))),
                                            finishOf(*r, "wall " + std::to_string(i + 1)).absorption});
                        break;
                    }
                }
    }
    const auto* first = space.rooms.front();
    return acoustics::reverberation(space.volume(), surfaces, {first->celsius, first->humidity, 101.325}, people);
}

void addDevice(SpaceModel& m, const Device& d, const DeviceModel& model) {
    const acoustics::Point at{d.place.x, d.place.y, d.place.z};
    if (model.loudspeaker)
        m.loudspeakers.push_back({d.id, d.name, at, acoustics::aimed(d.place.turn, d.place.tilt), patternOf(model),
                                  model.loudspeaker->bands, model.loudspeaker->sensitivity + d.trimDb,
                                  model.loudspeaker->maxLevel, d.delayMs / 1000});
    if (model.microphone)
        m.microphones.push_back({d.id, d.name, at, model.microphone->factor(), model.microphone->lobes,
                                 model.microphone->pattern, model.microphone->reinforced && !d.silentHere});
}

} // namespace

SpaceModel modelOf(const Project& project, const Space& space, const WallState* state) {
    SpaceModel m;
    m.name = space.name;
    m.wallState = state ? state->name : "";
    if (space.rooms.empty())
        return m;
    m.volume = space.volume();
    m.floorArea = space.floorArea();
    m.reverberation = reverberationOf(space);
    m.box = boxOf(space);
    const auto* first = space.rooms.front();
    m.air = {first->celsius, first->humidity, 101.325};
    m.targets = first->targets;
    acoustics::Bands noise = acoustics::filled(0);
    for (const auto* r : space.rooms) {
        m.rooms.push_back(r->id);
        m.outlines.push_back(r->outline);
        const auto seats = seatsOf(*r);
        m.seats.insert(m.seats.end(), seats.begin(), seats.end());
        if (!r->seats.empty())
            m.ear = r->seats.front().ear;
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            noise[b] = std::max(noise[b], noiseBands(r->noise)[b]);
        for (const auto& t : r->talkers)
            m.voices.push_back({t.name, {t.x, t.y, t.z}, t.level});
        for (const auto& s : seats)
            if (s.talks)
                m.voices.push_back({r->name + ", seat " + std::to_string(s.number), s.ear, 60});
    }
    m.noise = noise;
    for (const auto& d : project.devices)
        if (const auto* model = d.place.placed && d.place.rack.empty() && space.has(d.room) ? d.spec() : nullptr)
            addDevice(m, d, *model);
    return m;
}

acoustics::Field SpaceModel::field(double drive) const {
    acoustics::Field f;
    f.room = reverberation;
    f.decay = reverberation.eyring;
    f.noise = noise;
    f.air = air;
    for (const auto& l : loudspeakers) {
        acoustics::Emitter e{l.at, l.aim, {}, l.pattern.get(), l.delay};
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            e.level[b] = l.level + drive + acoustics::speechSpectrum[b] + l.bands[b];
        f.emitters.push_back(e);
    }
    return f;
}

double SpaceModel::neededDrive() const {
    if (loudspeakers.empty() || seats.empty())
        return 0;
    const acoustics::Prediction p(field(0));
    double sum = 0;
    for (const auto& s : seats)
        sum += p.at(s.ear).totalA;
    return targets.level - sum / static_cast<double>(seats.size());
}

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
