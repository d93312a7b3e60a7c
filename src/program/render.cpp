#include "program/render.h"
#include "dsp/tap_file.h"
#include "engine/runner.h"
#include <algorithm>
#include <mutex>

namespace loom::project {

std::shared_ptr<const dsp::AudioClip> clipOf(const Assets& assets, const std::string& name, double rate) {
    const auto asset = assets.find(name);
    if (asset == assets.end())
        return nullptr;
    auto clip = std::make_shared<dsp::AudioClip>();
    std::string error;
    if (!dsp::isTapText(asset->second))
        return dsp::readClip(asset->second, name, rate, *clip, error) ? clip : nullptr;
    clip->rate = rate;
    clip->channels.resize(1);
    return dsp::readTapText(asset->second, name, clip->channels[0], error) ? clip : nullptr;
}

namespace {

// Decoded assets by name and rate. Looked up when programs are compiled, possibly from several threads.
class ClipShelf {
  public:
    explicit ClipShelf(const Assets& assets) : assets_(assets) {}
    std::shared_ptr<const dsp::AudioClip> get(const std::string& name, double rate) {
        std::lock_guard guard(lock_);
        auto& clip = clips_[{name, rate}];
        if (!clip)
            clip = clipOf(assets_, name, rate);
        return clip;
    }

  private:
    std::mutex lock_;
    Assets assets_;
    std::map<std::pair<std::string, double>, std::shared_ptr<const dsp::AudioClip>> clips_;
};

} // namespace

engine::Resources resourcesOf(const Project& project, const Device& device, bool withStandIns) {
    auto shelf = std::make_shared<ClipShelf>(project.assets);
    engine::Resources r;
    r.clip = [shelf](const std::string& file, double rate) { return shelf->get(file, rate); };
    if (withStandIns)
        r.feed = [shelf, stands = device.standIns](const std::string& port, double rate) {
            for (const auto& s : stands)
                if (s.port == port)
                    return engine::Feed{shelf->get(s.asset, rate), dsp::gainFromDb(s.gainDb), s.loop};
            return engine::Feed{};
        };
    return r;
}

Result<std::vector<std::vector<float>>> render(const Project& project, const Device& device,
                                               const std::vector<RenderInput>& inputs,
                                               const std::vector<std::string>& ports, double seconds, Tapes* tapes) {
    if (!device.program)
        return Error{"has no program", device.id, "Choose a processor."};
    auto resources = resourcesOf(project, device, false);
    resources.feed = [&inputs](const std::string& port, double) {
        for (const auto& in : inputs)
            if (in.port == port)
                return engine::Feed{in.clip, 1.0, false};
        return engine::Feed{};
    };
    auto plan = engine::compile(*device.program, device.rate, resources);
    if (!plan)
        return plan.error();
    std::vector<int> buffers;
    for (const auto& port : ports) {
        int buffer = -1;
        for (const auto& b : device.program->blocks)
            if (engine::endOf(b) == engine::End::leaves && b.texts.count("port") && b.texts.at("port") == port)
                buffer = (*plan)->bufferOf({b.id, 0});
        if (buffer < 0)
            return Error{"the program has no destination at this port", port,
                         "loomctl info FILE lists the ports in use."};
        buffers.push_back(buffer);
    }
    const auto total = static_cast<std::size_t>(std::llround(seconds * device.rate));
    std::vector<std::vector<float>> out(ports.size());
    for (auto& o : out)
        o.reserve(total);
    for (std::size_t done = 0; done < total; done += engine::maxFrame) {
        const int frames = static_cast<int>(std::min<std::size_t>(engine::maxFrame, total - done));
        (*plan)->process({}, frames);
        if (tapes)
            (void)tapes->tend(*device.program, **plan);
        for (std::size_t i = 0; i < buffers.size(); ++i) {
            out[i].resize(out[i].size() + static_cast<std::size_t>(frames));
            (*plan)->read(buffers[i], out[i].data() + done, frames);
        }
    }
    return out;
}

Result<std::map<engine::PortRef, double>> levelsOf(const Project& project, const Device& device, double seconds) {
    if (!device.program)
        return Error{"has no program", device.id, "Choose a processor."};
    const auto resources = resourcesOf(project, device, true);
    auto plan = engine::compile(*device.program, device.rate, resources);
    if (!plan)
        return plan.error();
    std::map<engine::PortRef, int> buffers;
    for (const auto& b : device.program->blocks) {
        const int outs = engine::outputsOf(*device.program, b);
        for (int o = 0; o < std::max(outs, outs == 0 ? engine::inputsOf(*device.program, b) : 0); ++o)
            buffers[{b.id, o}] = (*plan)->bufferOf({b.id, o});
    }
    std::map<engine::PortRef, double> peaks;
    const auto frames = static_cast<long>(seconds * device.rate / engine::maxFrame);
    for (long f = 0; f <= frames; ++f) {
        (*plan)->process({}, engine::maxFrame);
        // The first half lets gates and the like settle; the meters fall slowly enough in between.
        if ((f % 64 == 63 && f > frames / 2) || f == frames)
            for (const auto& [port, buffer] : buffers)
                if (buffer >= 0) {
                    const double db = buffer == 0 ? dsp::silenceDb : (*plan)->meter(buffer).peakDb;
                    const auto it = peaks.emplace(port, db).first;
                    it->second = std::max(it->second, db);
                }
    }
    return peaks;
}

} // namespace loom::project
