#include "voicings/room_sound.h"
#include "catalogue/device_model.h"
#include "dsp/band_filters.h"
#include "patch/streams.h"
#include "program/render.h"
#include "rooms/air_response.h"
#include "voicings/voiced.h"
#include <algorithm>
#include <atomic>
#include <cmath>
#include <limits>
#include <map>
#include <thread>

namespace loom::project {

using acoustics::lengthOf;
using acoustics::operator-;

namespace {

constexpr double pascal = 20e-6;       // of 0 dB SPL
constexpr double voltsOfWatt = 2.8284; // 1 W into 8 ohms
constexpr std::size_t band = 4;        // whose decay says how long a response is

double pressure(double spl) {
    return pascal * std::pow(10.0, spl / 20);
}

// While somebody speaks: of the stretches of 50 ms that are less than 30 dB below the loudest.
double spokenRms(std::span<const float> samples, double rate) {
    const auto stretch = std::max<std::size_t>(static_cast<std::size_t>(rate * 0.05), 1);
    std::vector<double> powers;
    for (std::size_t at = 0; at < samples.size(); at += stretch) {
        const auto end = std::min(at + stretch, samples.size());
        double sum = 0;
        for (std::size_t i = at; i < end; ++i)
            sum += static_cast<double>(samples[i]) * samples[i];
        powers.push_back(sum / static_cast<double>(end - at));
    }
    const double loudest = powers.empty() ? 0 : *std::max_element(powers.begin(), powers.end());
    std::erase_if(powers, [&](double p) { return p < loudest * 1e-3; });
    double sum = 0;
    for (const double p : powers)
        sum += p;
    return powers.empty() ? 0 : std::sqrt(sum / static_cast<double>(powers.size()));
}

// Sound pressure at 1 m of one loudspeaker, in Pa per volt (r.m.s.) at its output.
double pascalsPerVolt(const AmplifierOutput& output, const LoudspeakerLoad& load, double sensitivity) {
    if (output.line())
        return pressure(sensitivity) * std::sqrt(std::max(load.tapWatts, 0.0)) / output.lineVolts();
    const double share = output.wiring == Wiring::series ? 1.0 / static_cast<double>(output.loads.size()) : 1;
    return pressure(sensitivity) * share / voltsOfWatt;
}

// Where a microphone's sound is taken up: its own network outputs that are led somewhere, or the input it is led to.
std::vector<SoundEnd> endsOf(const Project& p, const Device& microphone) {
    std::vector<SoundEnd> all;
    const auto* m = microphone.spec();
    for (const auto& d : p.devices)
        for (const auto& [port, from] : d.feeds)
            if (const auto end = readSoundEnd(from); end && end->device == microphone.id)
                all.push_back(m && m->network ? *end : SoundEnd{d.id, port});
    for (const auto& t : streamThreads(p))
        if (t.fromDevice == microphone.id)
            all.push_back({t.fromDevice, t.fromPort});
    std::sort(all.begin(), all.end());
    all.erase(std::unique(all.begin(), all.end()), all.end());
    return all;
}

} // namespace

double inputPerPascal(const Project& p, const Device& microphone, const SoundEnd& end) {
    const auto* m = microphone.spec();
    if (!m || !m->microphone)
        return 0;
    const double factor =
        std::pow(10.0, m->microphone->sensitivity / 20) / std::sqrt(2.0); // a sine of 1 has 0.7 r.m.s.
    if (m->network)
        return factor;
    const auto* taker = p.device(end.device);
    const auto* model = taker ? taker->spec() : nullptr;
    return factor / loudspeaker::voltsOf(model ? model->inputDbu : DeviceModel().inputDbu);
}

std::vector<DrivenEnd> drivenEnds(const Project& p) {
    std::vector<DrivenEnd> all;
    for (const auto& path : outputPaths(p)) {
        if (path.output->loads.empty())
            continue;
        // Where it has no program, the processor's output is amplified as it is.
        const auto feed = path.amplifier->feeds.find(path.input);
        const auto from = feed == path.amplifier->feeds.end() ? std::nullopt : readSoundEnd(feed->second);
        const auto* model = path.amplifier->spec();
        const bool processes = model && model->workBudget > 0;
        if (!processes && !from)
            continue;
        const auto* before = processes ? nullptr : p.device(from->device);
        const auto* beforeModel = before ? before->spec() : nullptr;
        const double dbu = processes ? path.data->fullScaleDbu : beforeModel ? beforeModel->fullScaleDbu : 18;
        const double volts = loudspeaker::voltsOf(dbu + path.data->gainDb); // of a sine at full scale
        DrivenEnd d{processes ? SoundEnd{path.amplifier->id, path.port} : *from, path.data->maxVolts() / volts};
        for (const auto& l : path.output->loads)
            if (const auto* s = p.device(l.device))
                if (const auto* m = s->spec(); m && m->loudspeaker)
                    d.loudspeakers.push_back(
                        {l.device, volts * pascalsPerVolt(*path.output, l, m->loudspeaker->sensitivity + s->trimDb)});
        all.push_back(std::move(d));
    }
    return all;
}

std::optional<SoundEnd> readSoundEnd(const std::string& text) {
    const auto slash = text.find('/');
    if (slash == std::string::npos || slash == 0 || slash + 1 == text.size())
        return {};
    return SoundEnd{text.substr(0, slash), text.substr(slash + 1)};
}

std::vector<std::size_t> RoomSound::firstAlike() const {
    std::vector<std::size_t> first;
    for (const auto& t : targets) {
        std::size_t k = 0;
        while (k < first.size() && (targets[k].microphone != t.microphone || targets[k].gain != t.gain))
            ++k;
        first.push_back(k);
    }
    return first;
}

std::vector<Lead> leadsOf(const Project& p) {
    std::vector<Lead> all;
    for (const auto& d : p.devices) {
        const auto* to = d.spec();
        for (const auto& [port, text] : d.feeds) {
            const auto from = readSoundEnd(text);
            const auto* source = from ? p.device(from->device) : nullptr;
            const auto* model = source ? source->spec() : nullptr;
            if (!model || !to || (model->microphone && !model->network))
                continue; // a microphone's sound comes through the air
            if (specOf(transportOf(port)).streams)
                continue; // that is a stream's
            Lead l{*from, {d.id, port}};
            const bool digital = transportOf(port) == Transport::pair;
            const double scale = to->amplifier ? to->amplifier->fullScaleDbu : to->fullScaleDbu;
            l.gain = digital ? 1 : std::pow(10.0, (model->fullScaleDbu - scale) / 20);
            all.push_back(std::move(l));
        }
    }
    for (const auto& t : streamThreads(p)) {
        Lead l{{t.fromDevice, t.fromPort}, {t.toDevice, t.toPort}};
        l.network = transportOf(t.fromPort) == Transport::network;
        l.gain = t.gain;
        all.push_back(std::move(l));
    }
    return all;
}

std::vector<SoundEnd> microphoneInputs(const Project& p) {
    std::vector<SoundEnd> all;
    for (const auto& d : p.devices)
        for (const auto& [port, text] : d.feeds)
            if (const auto from = readSoundEnd(text))
                if (const auto* source = p.device(from->device); source && p.room(source->room))
                    if (const auto* m = source->spec(); m && m->microphone && !m->network)
                        all.push_back({d.id, port});
    return all;
}

std::vector<SoundEnd> drivingEnds(const Project& p) {
    std::vector<SoundEnd> all;
    for (const auto& d : drivenEnds(p))
        all.push_back(d.end);
    return all;
}

double speechLevelA(std::span<const float> samples, double rate) {
    std::vector<float> weighted(samples.begin(), samples.end());
    for (const auto& section : dsp::designWeighting(dsp::Weighting::a, rate)) {
        dsp::SectionState state;
        for (float& v : weighted)
            v = static_cast<float>(state.step(section, v));
    }
    return spokenRms(weighted, rate);
}

namespace {

struct Ear {
    const SpaceModel::Microphone* microphone;
    acoustics::Point towards; // the nearest talker, from it
    double distance;          // of that one
    const SpaceModel::Voice* nearest;
};

Ear earOf(const SpaceModel& model, const SpaceModel::Microphone& mic) {
    Ear ear{&mic, {0, 0, -1}, 0.5, nullptr};
    for (const auto& v : model.voices)
        if (!ear.nearest || lengthOf(v.at - mic.at) < lengthOf(ear.nearest->at - mic.at))
            ear.nearest = &v;
    if (ear.nearest) {
        ear.towards = ear.nearest->at - mic.at;
        ear.distance = std::max(lengthOf(ear.towards), 0.02);
    }
    return ear;
}

acoustics::Bands noiseAt(const SpaceModel& model, const SpaceModel::Microphone& mic, double gain) {
    acoustics::Bands all{};
    for (std::size_t b = 0; b < acoustics::bandCount; ++b)
        all[b] = model.noise[b] + 20 * std::log10(pascal * gain) - 10 * std::log10(mic.factor[b]);
    return all;
}

// Does job(i) for all below `count`, on so many threads.
void inParallel(std::size_t count, int threads, const std::function<void(std::size_t)>& job) {
    std::atomic<std::size_t> next{0};
    const auto work = [&] {
        for (std::size_t i = next++; i < count; i = next++)
            job(i);
    };
    std::vector<std::jthread> others;
    for (int i = 1; i < threads; ++i)
        others.emplace_back(work);
    work();
}

} // namespace

RoomSound roomSoundOf(const Project& p, const Space& space, const WallState* state, const RoomSoundSpec& spec,
                      std::stop_token stop) {
    RoomSound sound;
    sound.name = space.name;
    const auto model = modelOf(p, space, state);
    std::vector<Ear> ears;
    std::vector<std::size_t> earAt;                     // of a target
    std::map<const SpaceModel::Voice*, double> pascals; // at 1 m for 1 of what it says
    for (const auto& mic : model.microphones) {
        const Ear ear = earOf(model, mic);
        const auto* microphone = p.device(mic.id);
        const auto ends = endsOf(p, *microphone);
        if (!ends.empty())
            ears.push_back(ear);
        for (const auto& end : ends) {
            RoomSound::Target t{end, mic.id, inputPerPascal(p, *microphone, end), {}};
            const auto* taker = p.device(end.device);
            if (spec.voices == Voices::standIns && taker)
                for (const auto& s : taker->standIns)
                    if (s.port == end.port && ear.nearest && !pascals.count(ear.nearest))
                        if (auto clip = clipOf(p.assets, s.asset, spec.rate); clip)
                            if (const double rms = spokenRms(clip->channels[0], clip->rate); rms > 0) {
                                pascals[ear.nearest] = pressure(ear.nearest->level) / rms;
                                t.gain = std::pow(10.0, s.gainDb / 20) * ear.distance / pascals[ear.nearest];
                                sound.sources.push_back({{},
                                                         clip,
                                                         std::numeric_limits<double>::infinity(),
                                                         ear.nearest->name,
                                                         ear.nearest->level});
                            }
            t.noise = noiseAt(model, mic, t.gain);
            sound.targets.push_back(std::move(t));
            earAt.push_back(ears.size() - 1);
        }
    }
    if (sound.targets.empty())
        return {sound.name};
    std::vector<const SpaceModel::Voice*> speaks; // of a source; null: loudspeakers
    std::vector<std::vector<std::pair<const SpaceModel::Loudspeaker*, double>>> drives;
    std::vector<RoomSound::Source> people = std::exchange(sound.sources, {});
    for (const auto& d : drivenEnds(p)) {
        std::vector<std::pair<const SpaceModel::Loudspeaker*, double>> here;
        for (const auto& [id, pa] : d.loudspeakers)
            for (const auto& l : model.loudspeakers)
                if (l.id == id)
                    here.emplace_back(&l, pa);
        if (here.empty())
            continue;
        sound.sources.push_back({d.end, nullptr, d.most});
        speaks.push_back(nullptr);
        drives.push_back(std::move(here));
    }
    for (const auto& v : model.voices) {
        const auto said = std::find_if(people.begin(), people.end(), [&](const auto& s) { return s.name == v.name; });
        if (spec.voices == Voices::all)
            sound.sources.push_back({{}, nullptr, std::numeric_limits<double>::infinity(), v.name, v.level});
        else if (said != people.end() && pascals.count(&v))
            sound.sources.push_back(std::move(*said));
        else
            continue;
        speaks.push_back(&v);
        drives.emplace_back();
    }
    // Outputs of one microphone hear the same.
    const double seconds = std::clamp(model.reverberation.eyring[band] * 0.6, 0.1, spec.longest);
    const auto length = static_cast<std::size_t>(seconds * spec.rate);
    std::vector<std::vector<float>> heard(sound.sources.size() * ears.size());
    inParallel(heard.size(), spec.threads, [&](std::size_t i) {
        if (stop.stop_requested())
            return;
        const auto& ear = ears[i % ears.size()];
        const auto source = i / ears.size();
        auto& h = heard[i];
        if (const auto* v = speaks[source]) {
            // Beams follow whoever speaks; other microphones stay where they are.
            const auto towards = ear.microphone->lobes > 0 ? v->at - ear.microphone->at : ear.towards;
            h = airResponse(model, nullptr, v->at, *ear.microphone, towards, spec.rate, length);
            return;
        }
        h.assign(length, 0.0f);
        for (const auto& [l, pa] : drives[source]) {
            const auto part = airResponse(model, l, l->at, *ear.microphone, ear.towards, spec.rate, length);
            const auto late = static_cast<std::size_t>(l->delay * spec.rate);
            for (std::size_t k = 0; k + late < length; ++k)
                h[k + late] += static_cast<float>(part[k] * pa * std::sqrt(2.0)); // a sine of 1 has 0.7 r.m.s.
        }
    });
    if (stop.stop_requested())
        return {};
    for (std::size_t s = 0; s < sound.sources.size(); ++s) {
        std::map<std::pair<std::size_t, double>, std::shared_ptr<const std::vector<float>>> made; // by ear and gain
        for (std::size_t t = 0; t < sound.targets.size(); ++t) {
            const double gain = sound.targets[t].gain * (sound.sources[s].voice ? pascals[speaks[s]] : 1);
            auto& one = made[{earAt[t], gain}];
            if (!one) {
                auto h = heard[s * ears.size() + earAt[t]];
                for (float& v : h)
                    v = static_cast<float>(v * gain);
                one = std::make_shared<const std::vector<float>>(std::move(h));
            }
            sound.responses.push_back(one);
        }
    }
    return sound;
}

} // namespace loom::project
