// The last half minute of a sound.
#pragma once
#include <algorithm>
#include <cstddef>
#include <vector>

namespace loom::farend {

class Record {
  public:
    static constexpr std::size_t length = 48000 * 30; // samples
    void write(const float* samples, int count) {
        if (held_.empty())
            held_.resize(length);
        for (int i = 0; i < count; ++i)
            held_[(at_++) % length] = samples[i];
    }
    std::vector<float> last(std::size_t most = length) const { // oldest first
        const auto n = std::min({most, at_, length});
        std::vector<float> all(n);
        for (std::size_t i = 0; i < n; ++i)
            all[i] = held_[(at_ - n + i) % length];
        return all;
    }
    std::size_t written() const { return at_; }
    void clear() { at_ = 0; }

  private:
    std::vector<float> held_{};
    std::size_t at_ = 0;
};

} // namespace loom::farend
