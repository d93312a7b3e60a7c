#include "farend/telephone.h"
#include <algorithm>
#include <cmath>

namespace loom::farend {

namespace {

constexpr double rate = LineCodec::rate;
constexpr double dials = 0.6, ringsFor = 2.5, ringEvery = 5, givesUp = 60; // s
constexpr double pi = 3.14159265358979;

} // namespace

const char* nameOf(Telephone::State state) {
    constexpr const char* names[] = {"on hook", "dialling", "rings there", "rings here", "in a call", "on hold"};
    return names[static_cast<std::size_t>(state)];
}

Telephone::Telephone(std::shared_ptr<const std::vector<float>> voice) : voice_(std::move(voice)) {}

Result<Done> Telephone::dial(const std::string& typed) {
    const auto number = numberOf(typed);
    if (number.empty())
        return Error{"\"" + typed.substr(0, 40) + "\" is no telephone number", "the line",
                     "Dial digits, * and #; + only before them."};
    if (const auto why = unregistered(); !why.empty())
        return Error{"is not registered: " + why, "the line", "Set its account right under Device at Site."};
    if (state_ != State::onHook)
        return Error{std::string("is ") + nameOf(state_), "the line", "Hang up first."};
    number_ = number;
    ended_.clear();
    state_ = State::dialling;
    inState_ = 0;
    return Done{};
}

Result<Done> Telephone::answer() {
    if (state_ != State::ringsHere)
        return Error{"nobody calls", "the line", "Dial a number to call somebody."};
    begin();
    return Done{};
}

Result<Done> Telephone::hold() {
    if (state_ != State::inCall)
        return Error{"is not in a call", "the line", ""};
    state_ = State::onHold;
    return Done{};
}

Result<Done> Telephone::resume() {
    if (state_ != State::onHold)
        return Error{"no call is held", "the line", ""};
    state_ = State::inCall;
    return Done{};
}

Result<Done> Telephone::keys(const std::string& pressed) {
    if (state_ != State::inCall)
        return Error{"is not in a call", "the line", "Tones are sent in a call."};
    if (pressed.empty() || pressed.size() > 32 || pressed.find_first_not_of("0123456789ABCD*#") != std::string::npos)
        return Error{"\"" + pressed.substr(0, 40) + "\" are no keys", "the line", "Use digits, A to D, * and #."};
    const auto more = keypadTones(pressed);
    tones_.erase(tones_.begin(), tones_.begin() + static_cast<std::ptrdiff_t>(std::min(toned_, tones_.size())));
    toned_ = 0;
    tones_.insert(tones_.end(), more.begin(), more.end());
    return Done{};
}

Result<Done> Telephone::hangUp() {
    if (state_ == State::onHook)
        return Error{"is on hook", "the line", ""};
    end("");
    return Done{};
}

void Telephone::ring(const std::string& from) {
    if (state_ != State::onHook || !unregistered().empty())
        return;
    number_ = from;
    ended_.clear();
    state_ = State::ringsHere;
    inState_ = 0;
}

void Telephone::begin() {
    state_ = State::inCall;
    seconds_ = inState_ = 0;
    spoken_ = toned_ = 0;
    tones_.clear();
    heard_.clear();
    codec_ = std::make_unique<LineCodec>(wanted_, faults_, 1);
    back_ = std::make_unique<LineCodec>(wanted_, faults_, 2);
}

void Telephone::end(const std::string& why) {
    state_ = State::onHook;
    ended_ = why;
    codec_.reset();
    back_.reset();
}

std::string Telephone::words() const {
    if (const auto why = unregistered(); !why.empty())
        return "not registered: " + why;
    if (state_ == State::onHook)
        return ended_.empty() ? "on hook" : "on hook, " + ended_;
    std::string all = nameOf(state_);
    if (!number_.empty())
        all += state_ == State::ringsHere ? " from " + number_ : " with " + number_;
    if (codec_)
        all += std::string(", ") + nameOf(codec_->codec());
    return all;
}

void Telephone::step(const float* sent, float* received, int frames) {
    const double length = frames / rate;
    std::fill_n(received, frames, 0.0f);
    if (!unregistered().empty() && state_ != State::onHook)
        end("the line was lost");
    inState_ += length;
    switch (state_) {
    case State::dialling:
        if (inState_ > dials) {
            if (exchange_.busy.count(number_))
                end(number_ + " is engaged");
            else
                state_ = State::ringsThere, inState_ = 0;
        }
        break;
    case State::ringsThere:
        for (int i = 0; i < frames; ++i) { // 425 Hz, a second in five (ITU-T E.180)
            const double t = inState_ + i / rate;
            received[i] = std::fmod(t, ringEvery) < 1 ? 0.05f * static_cast<float>(std::sin(2 * pi * 425 * t)) : 0.0f;
        }
        if (exchange_.nobody.count(number_)) {
            if (inState_ > givesUp)
                end("nobody answers at " + number_);
        } else if (inState_ > ringsFor) {
            begin();
        }
        break;
    case State::ringsHere:
        if (answersAfter_ > 0 && inState_ > (answersAfter_ - 1) * ringEvery + 1)
            begin();
        else if (inState_ > givesUp)
            end("nobody answered " + number_);
        break;
    case State::inCall:
    case State::onHold: {
        const bool held = state_ == State::onHold;
        seconds_ += length;
        std::vector<float> says(static_cast<std::size_t>(frames)), sends(says), there(says);
        for (int i = 0; i < frames; ++i) {
            const auto at = static_cast<std::size_t>(i);
            says[at] = !held && voice_ && !voice_->empty() ? (*voice_)[spoken_++ % voice_->size()] : 0.0f;
            sends[at] = held ? 0.0f : sent[i];
            if (!held && toned_ < tones_.size())
                sends[at] += tones_[toned_++];
        }
        codec_->step(sends.data(), there.data(), frames);
        back_->step(says.data(), received, frames);
        heard_.write(there.data(), frames);
        break;
    }
    case State::onHook:
        break;
    }
}

} // namespace loom::farend
