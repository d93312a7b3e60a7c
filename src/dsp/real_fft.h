// The Fourier transform of real numbers, by FFTW.
#pragma once
#include <complex>
#include <mutex>

namespace loom::dsp {

// FFTW's planner is the one part of it that is not thread-safe: whoever plans holds this.
std::mutex& fftPlanner();

// One size, with memory of its own. Making one takes a lock and memory; transforming does neither.
class RealFft {
  public:
    explicit RealFft(int size); // even
    ~RealFft();
    RealFft(const RealFft&) = delete;
    RealFft& operator=(const RealFft&) = delete;
    int size() const { return size_; }
    int bins() const { return size_ / 2 + 1; }
    float* time() { return time_; }
    std::complex<float>* spectrum() { return spectrum_; }
    void forward();  // time -> spectrum
    void backward(); // spectrum -> time times size(); the spectrum is lost

  private:
    int size_;
    float* time_;
    std::complex<float>* spectrum_;
    void *forward_, *backward_;
};

} // namespace loom::dsp
