#include "dsp/real_fft.h"
#include <algorithm>
#include <cstdint>
#include <fftw3.h>
#include <map>

namespace loom::dsp {

std::mutex& fftPlanner() {
    static std::mutex lock;
    return lock;
}

RealFft::RealFft(int size) : size_(size) {
    time_ = fftwf_alloc_real(static_cast<std::size_t>(size));
    spectrum_ = reinterpret_cast<std::complex<float>*>(fftwf_alloc_complex(static_cast<std::size_t>(bins())));
    std::fill_n(time_, size, 0.0f);
    std::fill_n(spectrum_, bins(), std::complex<float>());
    auto* s = reinterpret_cast<fftwf_complex*>(spectrum_);
    std::lock_guard lock(fftPlanner());
    forward_ = fftwf_plan_dft_r2c_1d(size, time_, s, FFTW_ESTIMATE);
    backward_ = fftwf_plan_dft_c2r_1d(size, s, time_, FFTW_ESTIMATE);
}

RealFft::~RealFft() {
    std::lock_guard lock(fftPlanner());
    fftwf_destroy_plan(static_cast<fftwf_plan>(forward_));
    fftwf_destroy_plan(static_cast<fftwf_plan>(backward_));
    fftwf_free(time_);
    fftwf_free(spectrum_);
}

void RealFft::forward() {
    fftwf_execute(static_cast<fftwf_plan>(forward_));
}

void RealFft::backward() {
    fftwf_execute(static_cast<fftwf_plan>(backward_));
}

AlignedFloats::AlignedFloats(std::size_t count) : memory_(count + 16, 0.0f) {
    const auto address = reinterpret_cast<std::uintptr_t>(memory_.data());
    p_ = memory_.data() + (64 - address % 64) % 64 / sizeof(float);
}

SplitFft::SplitFft(int size) : size_(size) {
    static auto& plans = *new std::map<int, std::pair<fftwf_plan, fftwf_plan>>; // kept for ever: there are three sizes
    std::lock_guard lock(fftPlanner());
    auto& [there, back] = plans[size];
    if (!there) {
        AlignedFloats time(static_cast<std::size_t>(size)), re(static_cast<std::size_t>(size / 2 + 1)),
            im(static_cast<std::size_t>(size / 2 + 1));
        fftwf_iodim dim{size, 1, 1};
        there = fftwf_plan_guru_split_dft_r2c(1, &dim, 0, nullptr, time.get(), re.get(), im.get(),
                                              FFTW_ESTIMATE | FFTW_PRESERVE_INPUT);
        back = fftwf_plan_guru_split_dft_c2r(1, &dim, 0, nullptr, re.get(), im.get(), time.get(), FFTW_ESTIMATE);
    }
    forward_ = there;
    backward_ = back;
}

void SplitFft::forward(const float* time, float* re, float* im) const {
    fftwf_execute_split_dft_r2c(static_cast<fftwf_plan>(forward_), const_cast<float*>(time), re, im);
}

void SplitFft::backward(float* re, float* im, float* time) const {
    fftwf_execute_split_dft_c2r(static_cast<fftwf_plan>(backward_), re, im, time);
}

} // namespace loom::dsp
