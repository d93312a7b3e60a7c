#include "app/talk/far_player.h"
#include <algorithm>

namespace loom::app {

FarPlayer::FarPlayer(QObject* parent) : QObject(parent) {
    timer_.setInterval(20);
    connect(&timer_, &QTimer::timeout, this, &FarPlayer::feed);
}

QString FarPlayer::play(std::vector<float> samples, const QString& what) {
    stop();
    if (samples.empty())
        return "There is nothing to hear yet.";
    const auto why = out_.open(48000);
    if (!why.isEmpty())
        return why;
    samples_ = std::move(samples);
    what_ = what;
    at_ = 0;
    timer_.start();
    emit changed();
    return {};
}

void FarPlayer::stop() {
    const bool was = playing();
    timer_.stop();
    out_.close();
    samples_.clear();
    what_.clear();
    if (was)
        emit changed();
}

void FarPlayer::feed() {
    const auto n = std::min(out_.room(), samples_.size() - at_);
    out_.write({samples_.data() + at_, n});
    at_ += n;
    if (at_ >= samples_.size())
        stop();
}

} // namespace loom::app
