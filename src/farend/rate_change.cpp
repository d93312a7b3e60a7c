#include "farend/rate_change.h"
#include <samplerate.h>

namespace loom::farend {

struct RateChange::State {
    SRC_STATE* src = nullptr;
    double ratio = 1;
    std::vector<float> made{};
    ~State() { src_delete(src); }
};

RateChange::RateChange(double from, double to) : state_(std::make_unique<State>()) {
    int error = 0;
    state_->ratio = to / from;
    state_->src = src_new(SRC_SINC_FASTEST, 1, &error);
}
RateChange::~RateChange() = default;
RateChange::RateChange(RateChange&&) noexcept = default;

void RateChange::push(const float* samples, int count, std::vector<float>& out) {
    auto& s = *state_;
    s.made.resize(static_cast<std::size_t>(count * s.ratio) + 64);
    SRC_DATA data{};
    data.data_in = samples;
    data.input_frames = count;
    data.data_out = s.made.data();
    data.output_frames = static_cast<long>(s.made.size());
    data.src_ratio = s.ratio;
    if (s.src && src_process(s.src, &data) == 0)
        out.insert(out.end(), s.made.begin(), s.made.begin() + data.output_frames_gen);
}

} // namespace loom::farend
