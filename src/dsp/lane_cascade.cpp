#include "dsp/lane_cascade.h"
#include <algorithm>

namespace loom::dsp {

// The loops need the private rows; a struct of static functions keeps them out of the header.
struct LaneCascadeLoops {
    using Row = LaneCascade::Row;
    using RowState = LaneCascade::RowState;

    // K rows in one pass over the sound: while one waits for its own feedback the others go on.
    template <int B, int K, class In, class Out>
    LOOM_INLINE static void pass(const Row* rows, RowState* states, const In* in, Out* out, int frames) {
        using E = Eight<B>;
        E b0[K], b1[K], b2[K], a1[K], a2[K], z1[K], z2[K];
        for (int k = 0; k < K; ++k) {
            b0[k] = E::load(rows[k].b0);
            b1[k] = E::load(rows[k].b1);
            b2[k] = E::load(rows[k].b2);
            a1[k] = E::load(rows[k].a1);
            a2[k] = E::load(rows[k].a2);
            z1[k] = E::load(states[k].z1);
            z2[k] = E::load(states[k].z2);
        }
        for (int i = 0; i < frames; ++i, in += laneCount, out += laneCount) {
            E x = E::load(in);
#pragma GCC unroll 4
            for (int k = 0; k < K; ++k)
#pragma GCC unroll 4
                for (int j = 0; j < E::n; ++j) {
                    const auto y = b0[k].v[j] * x.v[j] + z1[k].v[j];
                    z1[k].v[j] = (b1[k].v[j] * x.v[j] + z2[k].v[j]) - a1[k].v[j] * y;
                    z2[k].v[j] = b2[k].v[j] * x.v[j] - a2[k].v[j] * y;
                    x.v[j] = y;
                }
            x.store(out);
        }
        for (int k = 0; k < K; ++k) {
            calm(z1[k]);
            calm(z2[k]);
            z1[k].store(states[k].z1);
            z2[k].store(states[k].z2);
        }
    }

    // Below 1e-25 a state is inaudible for ever, and what is not finite must not stay.
    template <int B> LOOM_INLINE static void calm(Eight<B>& z) {
        for (int j = 0; j < Eight<B>::n; ++j) {
            const auto size = z.v[j] > -z.v[j] ? z.v[j] : -z.v[j];
            z.v[j] = size > 1e-25 ? z.v[j] : typename Eight<B>::D{};
            z.v[j] = size < 1e25 ? z.v[j] : typename Eight<B>::D{};
        }
    }

    template <int B, class In, class Out>
    LOOM_INLINE static void passOf(int k, const Row* rows, RowState* states, const In* in, Out* out, int frames) {
        switch (k) {
        case 1:
            return pass<B, 1>(rows, states, in, out, frames);
        case 2:
            return pass<B, 2>(rows, states, in, out, frames);
        case 3:
            return pass<B, 3>(rows, states, in, out, frames);
        default:
            return pass<B, 4>(rows, states, in, out, frames);
        }
    }

    // As many rows at once as there are registers for: 4 with 32 of 64 bytes, 2 with 16 of 32 bytes, else 1.
    template <int B>
    LOOM_INLINE static void steady(const Row* rows, RowState* states, int count, const float* in, float* out,
                                   int frames) {
        constexpr int most = B == 64 ? 4 : B == 32 ? 2 : 1;
        alignas(64) double between[bundleSize];
        int done = std::min(count, most);
        if (done == count)
            return passOf<B>(done, rows, states, in, out, frames);
        passOf<B>(done, rows, states, in, between, frames);
        for (; count - done > most; done += most)
            passOf<B>(most, rows + done, states + done, between, between, frames);
        passOf<B>(count - done, rows + done, states + done, between, out, frames);
    }

    // One lane alone: up to eight of its sections in one pass, the same sums as beside others.
    template <int K, class In, class Out>
    LOOM_INLINE static void alone(const Row* rows, RowState* states, int lane, const In* in, Out* out, int inStride,
                                  int outStride, int frames) {
        double b0[K], b1[K], b2[K], a1[K], a2[K], z1[K], z2[K];
        for (int k = 0; k < K; ++k) {
            b0[k] = rows[k].b0[lane];
            b1[k] = rows[k].b1[lane];
            b2[k] = rows[k].b2[lane];
            a1[k] = rows[k].a1[lane];
            a2[k] = rows[k].a2[lane];
            z1[k] = states[k].z1[lane];
            z2[k] = states[k].z2[lane];
        }
        for (int i = 0; i < frames; ++i, in += inStride, out += outStride) {
            auto x = static_cast<double>(*in);
#pragma GCC unroll 8
            for (int k = 0; k < K; ++k) {
                const double y = b0[k] * x + z1[k];
                z1[k] = (b1[k] * x + z2[k]) - a1[k] * y;
                z2[k] = b2[k] * x - a2[k] * y;
                x = y;
            }
            *out = static_cast<Out>(x);
        }
        const auto calmed = [](double z) { return std::abs(z) > 1e-25 && std::abs(z) < 1e25 ? z : 0.0; };
        for (int k = 0; k < K; ++k) {
            states[k].z1[lane] = calmed(z1[k]);
            states[k].z2[lane] = calmed(z2[k]);
        }
    }
    template <class In, class Out>
    LOOM_INLINE static void aloneOf(int k, const Row* rows, RowState* states, int lane, const In* in, Out* out,
                                    int inStride, int outStride, int frames) {
        switch (k) {
        case 1:
            return alone<1>(rows, states, lane, in, out, inStride, outStride, frames);
        case 2:
            return alone<2>(rows, states, lane, in, out, inStride, outStride, frames);
        case 3:
            return alone<3>(rows, states, lane, in, out, inStride, outStride, frames);
        case 4:
            return alone<4>(rows, states, lane, in, out, inStride, outStride, frames);
        case 5:
            return alone<5>(rows, states, lane, in, out, inStride, outStride, frames);
        case 6:
            return alone<6>(rows, states, lane, in, out, inStride, outStride, frames);
        case 7:
            return alone<7>(rows, states, lane, in, out, inStride, outStride, frames);
        default:
            return alone<8>(rows, states, lane, in, out, inStride, outStride, frames);
        }
    }
    template <int B>
    LOOM_INLINE static void steadyAlone(const Row* rows, RowState* states, int count, int lane, const float* in,
                                        float* out, int frames) {
        const int first = std::min(count, 8), rest = count - first;
        if (rest == 0)
            return aloneOf(first, rows, states, lane, in + lane, out + lane, laneCount, laneCount, frames);
        double between[maxFrame];
        aloneOf(first, rows, states, lane, in + lane, between, laneCount, 1, frames);
        aloneOf(rest, rows + first, states + first, lane, between, out + lane, 1, laneCount, frames);
    }

    // The same with coefficients that move a step a sample; one row at a time, in place.
    template <int B>
    LOOM_INLINE static void gliding(Row* rows, const Row* steps, RowState* states, int count, const float* in,
                                    float* out, int frames) {
        using E = Eight<B>;
        alignas(64) double x[bundleSize];
        for (int i = 0; i < frames * laneCount; ++i)
            x[i] = in[i];
        for (int r = 0; r < count; ++r) {
            E c[5], d[5], z1 = E::load(states[r].z1), z2 = E::load(states[r].z2);
            const double *from[5] = {rows[r].b0, rows[r].b1, rows[r].b2, rows[r].a1, rows[r].a2},
                         *step[5] = {steps[r].b0, steps[r].b1, steps[r].b2, steps[r].a1, steps[r].a2};
            for (int q = 0; q < 5; ++q) {
                c[q] = E::load(from[q]);
                d[q] = E::load(step[q]);
            }
            for (int i = 0; i < frames; ++i) {
                E v = E::load(x + i * laneCount);
                for (int j = 0; j < E::n; ++j) {
                    for (int q = 0; q < 5; ++q)
                        c[q].v[j] += d[q].v[j];
                    const auto y = c[0].v[j] * v.v[j] + z1.v[j];
                    z1.v[j] = (c[1].v[j] * v.v[j] + z2.v[j]) - c[3].v[j] * y;
                    z2.v[j] = c[2].v[j] * v.v[j] - c[4].v[j] * y;
                    v.v[j] = y;
                }
                v.store(x + i * laneCount);
            }
            calm(z1);
            calm(z2);
            z1.store(states[r].z1);
            z2.store(states[r].z2);
        }
        for (int i = 0; i < frames * laneCount; ++i)
            out[i] = static_cast<float>(x[i]);
    }
};

namespace {

using Row = LaneCascadeLoops::Row;
using RowState = LaneCascadeLoops::RowState;

LOOM_WIDE(runSteady, LaneCascadeLoops::steady,
          (const Row* rows, RowState* states, int count, const float* in, float* out, int frames),
          (rows, states, count, in, out, frames))
LOOM_WIDE(runAlone, LaneCascadeLoops::steadyAlone,
          (const Row* rows, RowState* states, int count, int lane, const float* in, float* out, int frames),
          (rows, states, count, lane, in, out, frames))
LOOM_WIDE(runGliding, LaneCascadeLoops::gliding,
          (Row * rows, const Row* steps, RowState* states, int count, const float* in, float* out, int frames),
          (rows, steps, states, count, in, out, frames))

} // namespace

// Sections that do nothing and hold nothing are left out: a band that is off costs nothing.
void LaneCascade::take(int l) {
    const auto lane = static_cast<std::size_t>(l);
    const auto& chain = lanes_[lane]->active_;
    std::size_t used = 0;
    for (std::size_t s = 0; s < static_cast<std::size_t>(chain.count); ++s) {
        const auto& c = chain.now[s];
        const auto& z = chain.state[s];
        const bool empty = z.z1 == 0 && z.z2 == 0, glides = chain.gliding && !(chain.next[s] == c);
        if (c == Section{} && !glides && empty)
            continue;
        drains_ = drains_ || (c == Section{} && !glides);
        auto& row = rows_[used];
        row.b0[l] = c.b0;
        row.b1[l] = c.b1;
        row.b2[l] = c.b2;
        row.a1[l] = c.a1;
        row.a2[l] = c.a2;
        states_[used].z1[l] = z.z1;
        states_[used].z2[l] = z.z2;
        index_[lane][used++] = static_cast<signed char>(s);
    }
    used_[lane] = static_cast<int>(used);
    for (std::size_t r = used; r < Cascade::maxSections; ++r) {
        rows_[r].b0[l] = 1;
        rows_[r].b1[l] = rows_[r].b2[l] = rows_[r].a1[l] = rows_[r].a2[l] = 0;
        states_[r].z1[l] = states_[r].z2[l] = 0;
    }
    seen_[lane] = lanes_[lane]->version_;
    lanes_[lane]->cleared_ = false;
}

void LaneCascade::giveBack(int l) {
    const auto lane = static_cast<std::size_t>(l);
    if (lanes_[lane]->cleared_)
        return; // it was set anew meanwhile
    for (std::size_t r = 0; r < static_cast<std::size_t>(used_[lane]); ++r)
        lanes_[lane]->active_.state[static_cast<std::size_t>(index_[lane][r])] = {states_[r].z1[l], states_[r].z2[l]};
}

void LaneCascade::release() {
    for (int l = 0; l < laneCount; ++l)
        if (held_ && lanes_[static_cast<std::size_t>(l)])
            giveBack(l);
    held_ = false;
}

bool LaneCascade::changed() const {
    if (!held_ || drains_)
        return true;
    for (std::size_t l = 0; l < laneCount; ++l)
        if (lanes_[l] && lanes_[l]->version_ != seen_[l])
            return true;
    return false;
}

// Grants what was asked for since the last frame.
void LaneCascade::renew() {
    release();
    held_ = true;
    glides_ = fades_ = drains_ = false;
    count_ = 0;
    only_ = -1;
    int lanes = 0;
    for (int l = 0; l < laneCount; ++l) {
        Cascade* c = lanes_[static_cast<std::size_t>(l)];
        if (!c) {
            for (auto& row : rows_)
                row.b0[l] = row.b1[l] = row.b2[l] = row.a1[l] = row.a2[l] = 0;
            continue;
        }
        c->grant();
        take(l);
        only_ = ++lanes == 1 ? l : -1;
        count_ = std::max(count_, used_[static_cast<std::size_t>(l)]);
        glides_ = glides_ || c->active_.gliding;
        fades_ = fades_ || c->fadeLeft_ > 0;
    }
}

void LaneCascade::process(const float* in, float* out, int frames) {
    if (changed())
        renew();
    float kept[bundleSize]; // what came in, for lanes that fade; out may be in
    if (fades_)
        std::copy_n(in, frames * laneCount, kept);
    if (glides_) {
        for (auto& step : steps_)
            step = {};
        const double k = 1.0 / frames;
        for (int l = 0; l < laneCount; ++l)
            if (const Cascade* c = lanes_[static_cast<std::size_t>(l)]; c && c->active_.gliding)
                for (std::size_t r = 0; r < static_cast<std::size_t>(used_[static_cast<std::size_t>(l)]); ++r) {
                    const auto s = static_cast<std::size_t>(index_[static_cast<std::size_t>(l)][r]);
                    const Section &a = c->active_.now[s], &b = c->active_.next[s];
                    auto& step = steps_[r];
                    step.b0[l] = (b.b0 - a.b0) * k;
                    step.b1[l] = (b.b1 - a.b1) * k;
                    step.b2[l] = (b.b2 - a.b2) * k;
                    step.a1[l] = (b.a1 - a.a1) * k;
                    step.a2[l] = (b.a2 - a.a2) * k;
                }
        runGliding(rows_.data(), steps_.data(), states_.data(), count_, in, out, frames);
    } else if (count_ > 0 && only_ >= 0) {
        if (in != out) // the other lanes stay silent
            std::fill_n(out, frames * laneCount, 0.0f);
        runAlone(rows_.data(), states_.data(), count_, only_, in, out, frames);
    } else if (count_ > 0) {
        runSteady(rows_.data(), states_.data(), count_, in, out, frames);
    } else if (in != out) {
        std::copy_n(in, frames * laneCount, out);
    }
    if (!glides_ && !fades_)
        return;
    bool fading = false;
    for (int l = 0; l < laneCount; ++l) {
        Cascade* c = lanes_[static_cast<std::size_t>(l)];
        if (!c)
            continue;
        if (c->active_.gliding)
            endGlide(l);
        if (c->fadeLeft_ > 0) {
            float mono[maxFrame];
            copyLane({kept + l, laneCount}, mono, frames);
            c->fade(mono, {out + l, laneCount}, frames);
        }
        fading = fading || c->fadeLeft_ > 0;
    }
    glides_ = false;
    fades_ = fading;
}

void LaneCascade::endGlide(int l) {
    auto& chain = lanes_[static_cast<std::size_t>(l)]->active_;
    chain.now = chain.next;
    chain.gliding = false;
    giveBack(l);
    take(l);
}

} // namespace loom::dsp
