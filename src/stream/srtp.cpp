#include "stream/srtp.h"
#include <algorithm>
#include <srtp2/srtp.h>

namespace loom::stream {
namespace {

constexpr std::size_t longestPacket = 2048;

bool started() { // the library, once
    static const bool ok = srtp_init() == srtp_err_status_ok;
    return ok;
}

} // namespace

struct Sealer::Session {
    srtp_t is = nullptr;
    ~Session() {
        if (is)
            srtp_dealloc(is);
    }
};

Result<Sealer> Sealer::made(const SrtpKey& key, bool sends) {
    srtp_policy_t policy{};
    srtp_crypto_policy_set_aes_gcm_128_16_auth(&policy.rtp);
    srtp_crypto_policy_set_aes_gcm_128_16_auth(&policy.rtcp);
    policy.ssrc.type = sends ? ssrc_any_outbound : ssrc_any_inbound;
    auto bytes = key;
    policy.key = bytes.data();
    policy.window_size = 128;
    Sealer s;
    s.session_ = std::make_shared<Session>();
    s.work_.resize(longestPacket + SRTP_MAX_TRAILER_LEN);
    if (!started() || srtp_create(&s.session_->is, &policy) != srtp_err_status_ok)
        return Error{"cannot be encrypted", "the stream", "The library libsrtp2 of this machine has no AES-GCM."};
    return s;
}

Result<Sealer> Sealer::sending(const SrtpKey& key) {
    return made(key, true);
}

Result<Sealer> Sealer::hearing(const SrtpKey& key) {
    return made(key, false);
}

std::span<const std::uint8_t> Sealer::seal(std::span<const std::uint8_t> packet) {
    if (packet.size() < 12 || packet.size() > longestPacket)
        return {};
    std::copy(packet.begin(), packet.end(), work_.begin());
    int length = static_cast<int>(packet.size());
    if (srtp_protect(session_->is, work_.data(), &length) != srtp_err_status_ok)
        return {};
    return {work_.data(), static_cast<std::size_t>(length)};
}

std::span<const std::uint8_t> Sealer::open(std::span<const std::uint8_t> packet) {
    if (packet.size() < 12 || packet.size() > longestPacket)
        return {};
    std::copy(packet.begin(), packet.end(), work_.begin());
    int length = static_cast<int>(packet.size());
    if (srtp_unprotect(session_->is, work_.data(), &length) != srtp_err_status_ok)
        return {};
    return {work_.data(), static_cast<std::size_t>(length)};
}

} // namespace loom::stream
