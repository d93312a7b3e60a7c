#include "dsp/cascade.h"
#include "dsp/dispatch.h"
#include <algorithm>

namespace loom::dsp {
namespace {

// K sections in one pass: while one waits for its own feedback the others go on.
using Sections = std::array<const Section*, 4>;
using States = std::array<SectionState*, 4>;

template <int K>
[[gnu::always_inline]] inline void runTogether(const Sections& c, const States& state, double* x, int frames) {
    SectionState s[K];
    Section k[K];
    for (int j = 0; j < K; ++j) {
        s[j] = *state[j];
        k[j] = *c[j];
    }
    for (int i = 0; i < frames; ++i) {
        double v = x[i];
        for (int j = 0; j < K; ++j)
            v = s[j].step(k[j], v);
        x[i] = v;
    }
    for (int j = 0; j < K; ++j)
        *state[j] = s[j];
}

LOOM_HOT void runSteady(int count, const Sections& c, const States& state, double* x, int frames) {
    switch (count) {
    case 1:
        return runTogether<1>(c, state, x, frames);
    case 2:
        return runTogether<2>(c, state, x, frames);
    case 3:
        return runTogether<3>(c, state, x, frames);
    case 4:
        return runTogether<4>(c, state, x, frames);
    default:
        break;
    }
}

void runGliding(const Section& from, const Section& to, SectionState& state, double* x, int frames) {
    const double k = 1.0 / frames;
    const Section d{(to.b0 - from.b0) * k, (to.b1 - from.b1) * k, (to.b2 - from.b2) * k, (to.a1 - from.a1) * k,
                    (to.a2 - from.a2) * k};
    Section c = from;
    for (int i = 0; i < frames; ++i) {
        c.b0 += d.b0;
        c.b1 += d.b1;
        c.b2 += d.b2;
        c.a1 += d.a1;
        c.a2 += d.a2;
        x[i] = state.step(c, x[i]);
    }
}

// Below this a state is inaudible for ever; flushing it keeps denormal numbers out of the loops.
void flush(SectionState& s) {
    if (std::abs(s.z1) < 1e-25 && std::abs(s.z2) < 1e-25)
        s = {};
    if (!std::isfinite(s.z1) || !std::isfinite(s.z2))
        s = {};
}

} // namespace

void Cascade::jumpTo(std::span<const Section> sections) {
    active_.count = static_cast<int>(std::min<std::size_t>(sections.size(), maxSections));
    std::copy_n(sections.begin(), active_.count, active_.now.begin());
    active_.state = {};
    active_.gliding = false;
    fadeLeft_ = 0;
    wish_ = Wish::none;
    cleared_ = true;
    ++version_;
}

void Cascade::glideTo(std::span<const Section> sections) {
    const int count = wish_ == Wish::fade ? wishedCount_ : active_.count;
    if (static_cast<int>(sections.size()) != count)
        return switchTo(sections);
    std::copy(sections.begin(), sections.end(), wished_.begin());
    wishedCount_ = count;
    wish_ = wish_ == Wish::fade ? Wish::fade : Wish::glide;
    ++version_;
}

void Cascade::switchTo(std::span<const Section> sections) {
    wishedCount_ = static_cast<int>(std::min<std::size_t>(sections.size(), maxSections));
    std::copy_n(sections.begin(), wishedCount_, wished_.begin());
    wish_ = Wish::fade;
    ++version_;
}

void Cascade::grant() {
    if (wish_ == Wish::glide) {
        active_.next = wished_;
        active_.gliding = true;
    }
    if (wish_ == Wish::fade) {
        old_ = active_;
        old_.gliding = false;
        bool same = true;
        for (int i = 0; i < wishedCount_; ++i) {
            const auto n = static_cast<std::size_t>(i);
            same = same && i < old_.count && wished_[n] == old_.now[n];
            if (!same)
                active_.state[n] = {};
            active_.now[n] = wished_[n];
        }
        active_.count = wishedCount_;
        active_.gliding = false;
        fadeLeft_ = fadeSamples;
    }
    wish_ = Wish::none;
}

void Cascade::Chain::run(const float* in, double* out, int frames) {
    std::copy_n(in, frames, out);
    Sections steady{};
    States states{};
    int waiting = 0;
    const auto runWaiting = [&] {
        runSteady(waiting, steady, states, out, frames);
        for (int i = 0; i < waiting; ++i)
            flush(*states[i]);
        waiting = 0;
    };
    for (int s = 0; s < count; ++s) {
        if (gliding && !(next[s] == now[s])) {
            runWaiting();
            runGliding(now[s], next[s], state[s], out, frames);
            flush(state[s]);
        } else if (!(now[s] == Section{}) || state[s].z1 != 0 || state[s].z2 != 0) { // a band that is off costs nothing
            steady[waiting] = &now[s];
            states[waiting] = &state[s];
            if (++waiting == 4)
                runWaiting();
        }
    }
    runWaiting();
    if (gliding)
        now = next;
    gliding = false;
}

void Cascade::process(const float* in, float* out, int frames) {
    grant();
    double fresh[maxFrame];
    active_.run(in, fresh, frames);
    std::copy_n(fresh, frames, out);
    if (fadeLeft_ > 0)
        fade(in, {out, 1}, frames);
}

void Cascade::fade(const float* in, Strided out, int frames) {
    double stale[maxFrame];
    old_.run(in, stale, frames);
    float* at = out.at;
    for (int i = 0; i < frames; ++i, at += out.stride) {
        const double t = static_cast<double>(std::max(fadeLeft_ - i, 0)) / fadeSamples;
        const double keep = 0.5 - 0.5 * std::cos(pi * t);
        *at = static_cast<float>(*at + keep * (stale[i] - *at));
    }
    fadeLeft_ = std::max(0, fadeLeft_ - frames);
}

} // namespace loom::dsp
