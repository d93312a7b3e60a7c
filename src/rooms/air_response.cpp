#include "rooms/air_response.h"
#include "acoustics/band_response.h"
#include "dsp/edge.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace loom::project {

using acoustics::lengthOf;
using acoustics::operator-;

namespace {

// A place seen from the box's corner, kept 5 cm inside.
acoustics::Point inBox(const Box& box, const acoustics::Point& p) {
    acoustics::Point q = p - box.corner;
    for (std::size_t d = 0; d < 3; ++d)
        q[d] = std::clamp(q[d], 0.05, std::max(box.size[d] - 0.05, 0.06));
    return q;
}

// What a microphone takes of sound that comes to it in a direction.
acoustics::Bands takenBy(const SpaceModel::Microphone& mic, const acoustics::Point& towards,
                         const acoustics::Point& coming) {
    const double r = lengthOf(coming) * lengthOf(towards);
    const double cosine = r > 0 ? -(coming[0] * towards[0] + coming[1] * towards[1] + coming[2] * towards[2]) / r : 1;
    if (mic.lobes == 0)
        return acoustics::filled(
            std::pow(10, acoustics::microphoneLevel(mic.pattern,
                                                    std::acos(std::clamp(cosine, -1.0, 1.0)) * 180 / std::numbers::pi) /
                             20));
    acoustics::Bands factor = acoustics::filled(1);
    if (cosine <= 0.7) // beside the beam: what is left is as much as its directivity factor says
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            factor[b] = 1 / std::sqrt(mic.factor[b]);
    return factor;
}

} // namespace

std::vector<float> airResponse(const SpaceModel& m, const SpaceModel::Loudspeaker* from, const acoustics::Point& at,
                               const SpaceModel::Microphone& mic, const acoustics::Point& towards, double rate,
                               std::size_t length, std::optional<std::size_t> only) {
    acoustics::BandBox box{m.box.size, m.box.absorption, acoustics::airAttenuation(m.air),
                           acoustics::speedOfSound(m.air)};
    if (only) {
        for (auto& wall : box.absorption)
            wall = acoustics::filled(wall[*only]);
        box.air = {};
    }
    auto h = acoustics::bandResponse(box, inBox(m.box, at), inBox(m.box, mic.at), rate, static_cast<int>(length),
                                     [&](const acoustics::Point& leaving, const acoustics::Point& coming) {
                                         auto gain = takenBy(mic, towards, coming);
                                         if (from) {
                                             const auto sent = from->pattern->towards(from->aim, leaving);
                                             for (std::size_t b = 0; b < acoustics::bandCount; ++b)
                                                 gain[b] *= std::pow(10, (sent[b] + from->bands[b]) / 20);
                                         }
                                         return only ? acoustics::filled(gain[*only]) : gain;
                                     });
    const auto end = [&](dsp::EdgeSide side, double hz) {
        if (hz > 0.45 * rate)
            return;
        for (const auto& section : dsp::designEdge(dsp::EdgeShape::butterworth, side, 4, hz, rate).sections) {
            dsp::SectionState state;
            for (float& v : h)
                v = static_cast<float>(state.step(section, v));
        }
    };
    end(dsp::EdgeSide::highPass, 120);
    end(dsp::EdgeSide::lowPass, 16000);
    return h;
}

} // namespace loom::project
