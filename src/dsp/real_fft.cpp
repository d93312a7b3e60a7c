#include "dsp/real_fft.h"
#include <algorithm>
#include <fftw3.h>

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

} // namespace loom::dsp
