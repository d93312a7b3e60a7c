// The Fourier transform of real numbers, by FFTW.
#pragma once
#include <complex>
#include <mutex>
#include <vector>

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

// Memory on a 64-byte border, zeroed.
class AlignedFloats {
  public:
    explicit AlignedFloats(std::size_t count = 0);
    float* get() { return p_; }
    const float* get() const { return p_; }
    float& operator[](std::size_t i) { return p_[i]; }
    float operator[](std::size_t i) const { return p_[i]; }

  private:
    std::vector<float> memory_;
    float* p_;
};

// The same transform with real and imaginary parts in rows of their own, as SIMD loops like them. All pointers lie on
// 64-byte borders; any thread, also at once. Plans are shared by all of one size.
class SplitFft {
  public:
    explicit SplitFft(int size); // even
    int size() const { return size_; }
    void forward(const float* time, float* re, float* im) const;
    void backward(float* re, float* im, float* time) const; // times size(); the spectrum is lost

  private:
    int size_;
    void *forward_, *backward_;
};

} // namespace loom::dsp
