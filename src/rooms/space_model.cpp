#include "rooms/space_model.h"
#include "catalogue/materials.h"
#include "model/room_faces.h"
#include <algorithm>
#include <map>
#include <mutex>

namespace loom::project {

namespace {

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

// Of an array's beam, made once likewise.
acoustics::Bands factorOf(const MicrophoneData& microphone) {
    if (microphone.lobes == 0)
        return microphone.factor();
    static std::mutex lock;
    static std::map<acoustics::Bands, acoustics::Bands> made;
    const std::lock_guard hold(lock);
    const auto it = made.find(microphone.beam);
    return it != made.end() ? it->second : made[microphone.beam] = microphone.factor();
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
        m.microphones.push_back({d.id, d.name, at, factorOf(*model.microphone), model.microphone->lobes,
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

} // namespace loom::project
