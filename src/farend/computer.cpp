#include "farend/computer.h"
#include <algorithm>

namespace loom::farend {

Computer::Computer(std::shared_ptr<const std::vector<float>> voice) : voice_(std::move(voice)) {}

std::string Computer::words() const {
    if (!here)
        return cameAway ? "gone in a call" : "not there";
    if (!calling)
        return muted ? "no call, muted" : "no call";
    return "in a call on channel " + std::to_string(channel) + (rate == 16000 ? ", 16 kHz" : ", 48 kHz") +
           (muted ? ", muted" : "");
}

void Computer::Narrow::step(const float* in, float* to, int frames) {
    mid.clear();
    down.push(in, frames, mid);
    up.push(mid.data(), static_cast<int>(mid.size()), out);
    const auto n = std::min<std::size_t>(out.size(), static_cast<std::size_t>(frames));
    std::fill_n(to, frames, 0.0f); // the first come late
    std::copy_n(out.begin(), n, to + (static_cast<std::size_t>(frames) - n));
    out.erase(out.begin(), out.begin() + static_cast<std::ptrdiff_t>(n));
}

void Computer::step(const float* const sent[2], float* const says[2], int frames) {
    for (int c = 0; c < 2; ++c)
        if (says[c])
            std::fill_n(says[c], frames, 0.0f);
    if (!here || !calling)
        return;
    const int at = channel == 2 ? 1 : 0;
    std::vector<float> there(static_cast<std::size_t>(frames)), voice(there);
    if (sent[at] && !muted)
        std::copy_n(sent[at], frames, there.begin());
    for (float& v : voice)
        v = voice_ && !voice_->empty() ? (*voice_)[spoken_++ % voice_->size()] : 0.0f;
    if (rate == 16000) {
        if (!there_)
            there_ = std::make_unique<Narrow>(), here_ = std::make_unique<Narrow>();
        auto in = there;
        there_->step(in.data(), there.data(), frames);
        in = voice;
        here_->step(in.data(), voice.data(), frames);
    } else {
        there_.reset();
        here_.reset();
    }
    heard_.write(there.data(), frames);
    if (says[at])
        std::copy_n(voice.begin(), frames, says[at]);
}

} // namespace loom::farend
