#include "farend/line_codec.h"
#include "farend/rate_change.h"
#include "stream/conceal.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
extern "C" {
#include <spandsp.h>
}

namespace loom::farend {

namespace {

constexpr double packetSeconds = 0.02;
constexpr double telephoneRate = 8000;
constexpr std::size_t pastLength = 1024; // samples that a loss is filled from

double rateOf(Codec codec) {
    return codec == Codec::g722 ? 16000 : telephoneRate;
}

std::int16_t toPcm(float v) {
    return static_cast<std::int16_t>(std::lround(std::clamp(v, -1.0f, 1.0f) * 32767));
}

} // namespace

const char* nameOf(Codec codec) {
    constexpr const char* names[] = {"G.711 A-law", "G.711 \u00b5-law", "G.722"};
    return names[static_cast<std::size_t>(codec)];
}

std::optional<Codec> codecOf(const std::string& id) {
    return id == "g711a"   ? std::optional(Codec::g711a)
           : id == "g711u" ? std::optional(Codec::g711u)
           : id == "g722"  ? std::optional(Codec::g722)
                           : std::nullopt;
}

struct LineCodec::Coders {
    explicit Coders(Codec codec)
        : down(rate, rateOf(codec)), up(rateOf(codec), rate),
          law(codec == Codec::g722 ? nullptr : g711_init(nullptr, codec == Codec::g711a ? G711_ALAW : G711_ULAW)),
          encode(codec == Codec::g722 ? g722_encode_init(nullptr, 64000, 0) : nullptr),
          decode(codec == Codec::g722 ? g722_decode_init(nullptr, 64000, 0) : nullptr) {}
    ~Coders() {
        if (law)
            g711_free(law);
        if (encode)
            g722_encode_free(encode);
        if (decode)
            g722_decode_free(decode);
    }
    RateChange down, up;
    g711_state_t* law;
    g722_encode_state_t* encode;
    g722_decode_state_t* decode;
    stream::Concealer conceal{};
    std::vector<float> past = std::vector<float>(pastLength); // decoded samples
    // What would have come, as far as it can be told from what did.
    void fill(std::vector<std::int16_t>& pcm) {
        std::vector<float> signal = past;
        signal.resize(pastLength + pcm.size());
        for (std::size_t at = 0; at < pcm.size(); at += stream::Concealer::longest) {
            const auto to = std::min(pcm.size(), at + stream::Concealer::longest);
            conceal.fill(std::span(signal).first(pastLength + to), pastLength + at, pastLength + to);
        }
        for (std::size_t i = 0; i < pcm.size(); ++i)
            pcm[i] = toPcm(signal[pastLength + i]);
    }
    void remember(const std::vector<std::int16_t>& pcm) {
        for (const auto v : pcm)
            past.push_back(static_cast<float>(v) / 32767.0f);
        past.erase(past.begin(), past.end() - static_cast<std::ptrdiff_t>(pastLength));
    }
};

LineCodec::LineCodec(Codec codec, LineFaults faults, unsigned seed)
    : codec_(codec), faults_(faults), coders_(std::make_unique<Coders>(codec)), dice_(seed) {
    // What waits for its packet, and the network's own delay.
    const auto held = static_cast<std::size_t>((packetSeconds + 0.012 + faults_.delayMs / 1000) * rate);
    out_.assign(held, 0.0f);
}
LineCodec::~LineCodec() = default;

void LineCodec::packet() {
    const auto n = static_cast<std::size_t>(packetSeconds * rateOf(codec_));
    std::vector<std::int16_t> pcm(n);
    for (std::size_t i = 0; i < n; ++i)
        pcm[i] = toPcm(narrow_[i]);
    narrow_.erase(narrow_.begin(), narrow_.begin() + static_cast<std::ptrdiff_t>(n));
    std::vector<std::uint8_t> bytes(n);
    int size = 0;
    if (coders_->law)
        size = g711_encode(coders_->law, bytes.data(), pcm.data(), static_cast<int>(n));
    else
        size = g722_encode(coders_->encode, bytes.data(), pcm.data(), static_cast<int>(n));
    if (std::uniform_real_distribution<double>(0, 1)(dice_) < faults_.loss) {
        ++lost_;
        coders_->fill(pcm);
    } else {
        if (coders_->law)
            (void)g711_decode(coders_->law, pcm.data(), bytes.data(), size);
        else
            (void)g722_decode(coders_->decode, pcm.data(), bytes.data(), size);
    }
    coders_->remember(pcm);
    std::vector<float> decoded(n);
    for (std::size_t i = 0; i < n; ++i)
        decoded[i] = static_cast<float>(pcm[i]) / 32767.0f;
    wide_.clear();
    coders_->up.push(decoded.data(), static_cast<int>(n), wide_);
    out_.insert(out_.end(), wide_.begin(), wide_.end());
}

void LineCodec::step(const float* in, float* out, int frames) {
    coders_->down.push(in, frames, narrow_);
    while (narrow_.size() >= static_cast<std::size_t>(packetSeconds * rateOf(codec_)))
        packet();
    for (int i = 0; i < frames; ++i) {
        out[i] = out_.empty() ? 0.0f : out_.front();
        if (!out_.empty())
            out_.pop_front();
    }
}

std::vector<float> keypadTones(const std::string& keys) {
    auto* tx = dtmf_tx_init(nullptr);
    dtmf_tx_put(tx, keys.c_str(), static_cast<int>(keys.size()));
    std::vector<float> all;
    RateChange up(telephoneRate, LineCodec::rate);
    std::array<std::int16_t, 160> pcm{};
    std::array<float, 160> one{};
    for (int n; (n = dtmf_tx(tx, pcm.data(), static_cast<int>(pcm.size()))) > 0;) {
        for (int i = 0; i < n; ++i)
            one[static_cast<std::size_t>(i)] = static_cast<float>(pcm[static_cast<std::size_t>(i)]) / 32767.0f;
        up.push(one.data(), n, all);
    }
    dtmf_tx_free(tx);
    return all;
}

std::string keysIn(const std::vector<float>& sound) {
    auto* rx = dtmf_rx_init(nullptr, nullptr, nullptr);
    RateChange down(LineCodec::rate, telephoneRate);
    std::vector<float> narrow;
    down.push(sound.data(), static_cast<int>(sound.size()), narrow);
    std::vector<std::int16_t> pcm(narrow.size());
    for (std::size_t i = 0; i < narrow.size(); ++i)
        pcm[i] = toPcm(narrow[i]);
    dtmf_rx(rx, pcm.data(), static_cast<int>(pcm.size()));
    char keys[128]{};
    const auto n = dtmf_rx_get(rx, keys, sizeof keys - 1);
    dtmf_rx_free(rx);
    return std::string(keys, n);
}

} // namespace loom::farend
