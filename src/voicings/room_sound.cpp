#include "voicings/room_sound.h"
#include "catalogue/device_model.h"
#include "patch/streams.h"
#include "program/render.h"
#include "voicings/voiced.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace loom::project {

using acoustics::lengthOf;
using acoustics::operator-;

namespace {

constexpr double longest = 0.3;        // s of a response
constexpr double setForDb = -24;       // dBFS r.m.s. of speech at an input
constexpr double pascal = 20e-6;       // of 0 dB SPL
constexpr double voltsOfWatt = 2.8284; // 1 W into 8 ohms
constexpr std::size_t band = 4;        // 1 kHz

double pressure(double spl) {
    return pascal * std::pow(10.0, spl / 20);
}

// While somebody speaks: of the stretches of 50 ms that are less than 30 dB below the loudest.
double rmsOf(const dsp::AudioClip& clip) {
    const auto stretch = std::max<std::size_t>(static_cast<std::size_t>(clip.rate * 0.05), 1);
    std::vector<double> powers;
    for (std::size_t at = 0; at < clip.frames(); at += stretch) {
        const auto end = std::min(at + stretch, clip.frames());
        double sum = 0;
        for (std::size_t i = at; i < end; ++i)
            sum += static_cast<double>(clip.channels[0][i]) * clip.channels[0][i];
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

struct Driven { // an end with the loudspeakers it drives
    SoundEnd end;
    double most = 1;
    std::vector<std::pair<std::string, double>> loudspeakers{}; // device, Pa at 1 m at full scale (r.m.s. of a sine)
};

std::vector<Driven> drivenOf(const Project& p) {
    std::vector<Driven> all;
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
        Driven d{processes ? SoundEnd{path.amplifier->id, path.port} : *from, path.data->maxVolts() / volts};
        for (const auto& l : path.output->loads)
            if (const auto* s = p.device(l.device))
                if (const auto* m = s->spec(); m && m->loudspeaker)
                    d.loudspeakers.push_back(
                        {l.device, volts * pascalsPerVolt(*path.output, l, m->loudspeaker->sensitivity + s->trimDb)});
        all.push_back(std::move(d));
    }
    return all;
}

} // namespace

std::optional<SoundEnd> readSoundEnd(const std::string& text) {
    const auto slash = text.find('/');
    if (slash == std::string::npos || slash == 0 || slash + 1 == text.size())
        return {};
    return SoundEnd{text.substr(0, slash), text.substr(slash + 1)};
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
    for (const auto& d : drivenOf(p))
        all.push_back(d.end);
    return all;
}

RoomSound roomSoundOf(const Project& p, const Space& space, const WallState* state, double rate, std::stop_token stop) {
    RoomSound sound;
    sound.name = space.name;
    const auto model = modelOf(p, space, state);
    struct Ear {
        const SpaceModel::Microphone* microphone;
        SoundEnd end;
        acoustics::Point towards; // the nearest talker, from it
        double gain = 0;          // full scale per Pa
    };
    std::vector<Ear> ears;
    struct Mouth {
        const SpaceModel::Voice* voice;
        std::shared_ptr<const dsp::AudioClip> clip;
        double pascals; // at 1 m for 1 of the clip
    };
    std::vector<Mouth> mouths;
    std::set<const SpaceModel::Voice*> taken;
    for (const auto& mic : model.microphones) {
        const SpaceModel::Voice* nearest = nullptr;
        for (const auto& v : model.voices)
            if (!nearest || lengthOf(v.at - mic.at) < lengthOf(nearest->at - mic.at))
                nearest = &v;
        for (const auto& end : endsOf(p, *p.device(mic.id))) {
            Ear ear{&mic, end, nearest ? nearest->at - mic.at : acoustics::Point{0, 0, -1}};
            const double r = nearest ? std::max(lengthOf(ear.towards), 0.02) : 0.5;
            const double level = nearest ? nearest->level : 60;
            ear.gain = std::pow(10.0, setForDb / 20) * r / pressure(level);
            const auto* taker = p.device(end.device);
            for (const auto& s : taker ? taker->standIns : std::vector<StandIn>{})
                if (s.port == end.port && nearest && !taken.count(nearest))
                    if (auto clip = clipOf(p.assets, s.asset, rate); clip && rmsOf(*clip) > 0) {
                        mouths.push_back({nearest, clip, pressure(level) / rmsOf(*clip)});
                        taken.insert(nearest);
                        ear.gain = std::pow(10.0, s.gainDb / 20) * r / mouths.back().pascals;
                    }
            ears.push_back(ear);
        }
    }
    for (const auto& e : ears)
        sound.targets.push_back(e.end);
    if (ears.empty())
        return sound;
    const double seconds = std::clamp(model.reverberation.eyring[band] * 0.6, 0.1, longest);
    const auto length = static_cast<std::size_t>(seconds * rate);
    for (const auto& d : drivenOf(p)) {
        std::vector<std::vector<float>> row(ears.size(), std::vector<float>(length, 0.0f));
        bool here = false;
        for (const auto& [id, pascals] : d.loudspeakers)
            for (const auto& l : model.loudspeakers)
                if (l.id == id)
                    for (std::size_t t = 0; t < ears.size(); ++t) {
                        if (stop.stop_requested())
                            return {};
                        here = true;
                        const auto part =
                            airResponse(model, &l, l.at, *ears[t].microphone, ears[t].towards, rate, length);
                        const auto late = static_cast<std::size_t>(l.delay * rate);
                        const double factor = pascals * std::pow(10.0, l.bands[band] / 20) * ears[t].gain;
                        for (std::size_t i = 0; i + late < length; ++i)
                            row[t][i + late] += static_cast<float>(part[i] * factor);
                    }
        if (!here)
            continue;
        sound.sources.push_back({d.end, nullptr, d.most});
        std::move(row.begin(), row.end(), std::back_inserter(sound.responses));
    }
    for (const auto& m : mouths) {
        sound.sources.push_back({{}, m.clip, std::numeric_limits<double>::infinity()});
        for (const auto& e : ears) {
            if (stop.stop_requested())
                return {};
            // Beams follow whoever speaks; other microphones stay where they are.
            const auto towards = e.microphone->lobes > 0 ? m.voice->at - e.microphone->at : e.towards;
            auto part = airResponse(model, nullptr, m.voice->at, *e.microphone, towards, rate, length);
            for (float& v : part)
                v = static_cast<float>(v * m.pascals * e.gain);
            sound.responses.push_back(std::move(part));
        }
    }
    return sound;
}

} // namespace loom::project
