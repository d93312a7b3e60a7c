// Sound on its way between threads: one writes, any number read, each from a place of its own. Nobody waits.
#pragma once
#include <algorithm>
#include <array>
#include <atomic>
#include <cstdint>

namespace loom::engine {

class Cable {
  public:
    static constexpr std::size_t length = 1 << 14; // samples that are held

    void write(const float* samples, int count) noexcept {
        auto at = written_.load(std::memory_order_relaxed);
        for (int i = 0; i < count; ++i)
            held_[(at + static_cast<std::uint64_t>(i)) % length].store(samples[i], std::memory_order_relaxed);
        written_.store(at + static_cast<std::uint64_t>(count), std::memory_order_release);
    }
    std::uint64_t written() const noexcept { return written_.load(std::memory_order_acquire); }
    // What was written from sample `at` on, as far as it is held.
    void copy(std::uint64_t at, float* to, std::uint64_t count) const noexcept {
        for (std::uint64_t i = 0; i < count; ++i)
            to[i] = held_[(at + i) % length].load(std::memory_order_relaxed);
    }

    // One end of it. Reads `late` samples behind what was written, as both threads come and go at the pace of their
    // own; silence where the writer is behind, and a fresh start where the reader is.
    class Reader {
      public:
        explicit Reader(int late = 1024) : late_(static_cast<std::uint64_t>(late)) {}
        bool read(const Cable& cable, float* to, int count) noexcept {
            const auto n = static_cast<std::uint64_t>(count);
            const auto end = cable.written();
            if (!started_ || end > at_ + length / 2) {
                if (end < from_ + late_ + n)
                    return silence(to, count);
                at_ = end - late_ - n;
                started_ = true;
            }
            if (end < at_ + n) {
                started_ = false;
                from_ = at_; // what was heard does not come again
                return silence(to, count);
            }
            for (std::uint64_t i = 0; i < n; ++i)
                to[i] = cable.held_[(at_ + i) % length].load(std::memory_order_relaxed);
            at_ += n;
            return true;
        }

      private:
        static bool silence(float* to, int count) noexcept {
            std::fill_n(to, count, 0.0f);
            return false;
        }
        std::uint64_t at_ = 0, from_ = 0, late_;
        bool started_ = false;
    };

  private:
    std::array<std::atomic<float>, length> held_{};
    std::atomic<std::uint64_t> written_{0};
};

} // namespace loom::engine
