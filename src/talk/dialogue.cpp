#include "talk/dialogue.h"
#include "acoustics/band_response.h"
#include "dsp/matrix_convolver.h"
#include <algorithm>
#include <cmath>

namespace loom::project {

namespace {

constexpr std::size_t fold = 4096; // samples at a time while people are heard
constexpr std::size_t noiseLength = 1 << 18;
constexpr std::size_t edge = 480;   // samples in which a voice begins and ends
constexpr double onePascal = 20e-6; // of 0 dB SPL

} // namespace

std::vector<std::vector<float>> heardIn(const Dialogue& dialogue, const RoomSound& room, std::stop_token stop) {
    std::vector<std::vector<float>> all(room.targets.size(), std::vector<float>(dialogue.length, 0.0f));
    const auto alike = room.firstAlike();
    std::vector<std::size_t> first;                       // that are worked out
    std::vector<std::size_t> sameAs(room.targets.size()); // and which of those a target is
    for (std::size_t t = 0; t < room.targets.size(); ++t)
        if (alike[t] == t)
            sameAs[t] = first.size(), first.push_back(t);
        else
            sameAs[t] = sameAs[alike[t]];
    std::vector<std::size_t> people;
    for (const auto& s : dialogue.said)
        if (std::find(people.begin(), people.end(), s.source) == people.end())
            people.push_back(s.source);
    if (!people.empty()) {
        dsp::MatrixConvolver air(people.size(), first.size(), fold);
        for (std::size_t i = 0; i < people.size(); ++i)
            for (std::size_t k = 0; k < first.size(); ++k)
                air.set(i, k, room.response(people[i], first[k]));
        std::vector<std::vector<float>> in(people.size(), std::vector<float>(fold)),
            out(first.size(), std::vector<float>(fold));
        for (std::size_t at = 0; at < dialogue.length; at += fold) {
            if (stop.stop_requested())
                return {};
            for (auto& v : in)
                std::fill(v.begin(), v.end(), 0.0f);
            std::vector<bool> speaks(people.size(), false);
            for (const auto& s : dialogue.said) {
                const auto who =
                    static_cast<std::size_t>(std::find(people.begin(), people.end(), s.source) - people.begin());
                const auto gain =
                    static_cast<float>(onePascal * std::pow(10, (room.sources[s.source].levelA + s.gainDb) / 20));
                for (std::size_t i = std::max(at, s.from); i < std::min(at + fold, s.from + s.length); ++i) {
                    const auto since = i - s.from;
                    const auto near = std::min(since, s.length - since);
                    const float ramp = near < edge ? static_cast<float>(near) / static_cast<float>(edge) : 1.0f;
                    in[who][i - at] += gain * ramp * (*s.what)[since % s.what->size()];
                    speaks[who] = true;
                }
            }
            std::vector<const float*> ins;
            std::vector<float*> outs;
            for (std::size_t i = 0; i < in.size(); ++i)
                ins.push_back(speaks[i] ? in[i].data() : nullptr);
            for (auto& o : out)
                outs.push_back(o.data());
            air.process(ins.data(), outs.data());
            for (std::size_t t = 0; t < all.size(); ++t)
                std::copy_n(out[sameAs[t]].data(), std::min(fold, dialogue.length - at), all[t].data() + at);
        }
    }
    for (std::size_t t = 0; t < all.size() && dialogue.noise; ++t) {
        if (dialogue.onlyNoiseOf >= 0 && static_cast<std::size_t>(dialogue.onlyNoiseOf) != t)
            continue;
        if (stop.stop_requested())
            return {};
        const auto noise = acoustics::bandNoise(room.targets[t].noise, Trial::rate, noiseLength, t + 1);
        for (std::size_t i = 0; i < all[t].size(); ++i)
            all[t][i] += noise[i % noiseLength];
    }
    return all;
}

Played play(Trial& trial, const Dialogue& dialogue, const std::vector<std::vector<float>>& heard, const SoundEnd& input,
            const SoundEnd& output, const std::vector<float>& farEnd, const std::function<void(std::size_t at)>& told,
            std::stop_token stop) {
    constexpr auto block = static_cast<std::size_t>(Trial::block);
    Played played;
    played.sent.reserve(dialogue.length);
    std::vector<float> far(block);
    std::size_t spoken = 0; // of the far end, so far
    for (std::size_t at = 0; at + block <= dialogue.length && !stop.stop_requested(); at += block) {
        bool speaks = false;
        for (const auto& [from, length] : dialogue.farEnd)
            speaks = speaks || (at >= from && at < from + length);
        for (std::size_t i = 0; i < block && speaks; ++i)
            far[i] = farEnd[spoken++ % farEnd.size()];
        trial.feed(input, speaks ? far.data() : nullptr);
        played.said.resize(at + block);
        if (speaks)
            std::copy(far.begin(), far.end(), played.said.begin() + static_cast<long>(at));
        for (std::size_t t = 0; t < heard.size(); ++t)
            trial.hear(t, heard[t].data() + at);
        trial.step();
        const auto* out = trial.left(output);
        out ? void(played.sent.insert(played.sent.end(), out, out + block))
            : void(played.sent.insert(played.sent.end(), block, 0.0f));
        if (told)
            told(at);
    }
    return played;
}

} // namespace loom::project
