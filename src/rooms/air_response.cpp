#include "rooms/air_response.h"
#include "acoustics/band_response.h"
#include "dsp/edge.h"
#include <algorithm>
#include <cmath>

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

// What a microphone takes of sound that comes to it in a direction, as a factor for an octave.
class Takes {
  public:
    Takes(const SpaceModel::Microphone& mic, const acoustics::Point& towards) : mic_(mic), towards_(towards) {
        for (std::size_t b = 0; b < acoustics::bandCount; ++b)
            beside_[b] = 1 / std::sqrt(mic.factor[b]);
    }
    double cosineOf(const acoustics::Point& coming) const {
        const double r = lengthOf(coming) * lengthOf(towards_);
        return r > 0 ? -(coming[0] * towards_[0] + coming[1] * towards_[1] + coming[2] * towards_[2]) / r : 1;
    }
    double at(double cosine, std::size_t band) const {
        if (mic_.lobes == 0)
            return acoustics::microphoneTakes(mic_.pattern, cosine);
        return cosine <= 0.7 ? beside_[band] : 1; // beside the beam: as much as its directivity factor says
    }

  private:
    const SpaceModel::Microphone& mic_;
    const acoustics::Point& towards_;
    acoustics::Bands beside_{};
};

} // namespace

std::vector<float> airResponse(const SpaceModel& m, const SpaceModel::Loudspeaker* from, const acoustics::Point& at,
                               const SpaceModel::Microphone& mic, const acoustics::Point& towards, double rate,
                               std::size_t length, std::optional<std::size_t> only) {
    const acoustics::BandBox box{m.box.size, m.box.absorption, acoustics::airAttenuation(m.air),
                                 acoustics::speedOfSound(m.air)};
    const Takes takes(mic, towards);
    const auto source = inBox(m.box, at), receiver = inBox(m.box, mic.at);
    const auto sentBy = [&](const acoustics::Bands& levels, std::size_t b) {
        return acoustics::quickFactor(levels[b] + from->bands[b]);
    };
    auto h = only ? acoustics::octaveResponse(
                        box, *only, source, receiver, rate, static_cast<int>(length),
                        [&](const auto& leaving, const auto& coming) {
                            const double taken = takes.at(takes.cosineOf(coming), *only);
                            return from ? taken * sentBy(from->pattern->towards(from->aim, leaving), *only) : taken;
                        })
                  : acoustics::bandResponse(box, source, receiver, rate, static_cast<int>(length),
                                            [&](const auto& leaving, const auto& coming) {
                                                const double cosine = takes.cosineOf(coming);
                                                const auto levels = from ? from->pattern->towards(from->aim, leaving)
                                                                         : acoustics::Bands{};
                                                acoustics::Bands gain;
                                                for (std::size_t b = 0; b < gain.size(); ++b)
                                                    gain[b] = takes.at(cosine, b) * (from ? sentBy(levels, b) : 1);
                                                return gain;
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
