// Packets that only those with the key can hear, and nobody can change or play again (SRTP, RFC 3711; AES-GCM with
// 128 bits, RFC 7714), by libsrtp2.
#pragma once
#include "engine/result.h"
#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace loom::stream {

// 16 bytes of key and 12 of salt.
using SrtpKey = std::array<std::uint8_t, 28>;

// One direction of one stream. An object belongs to one thread.
class Sealer {
  public:
    static Result<Sealer> sending(const SrtpKey& key);
    static Result<Sealer> hearing(const SrtpKey& key); // packets that came before, or are older than 128, are refused
    // The packet sealed, 16 bytes longer; valid until the next call. Empty: it is no packet of RTP.
    std::span<const std::uint8_t> seal(std::span<const std::uint8_t> packet);
    // The packet as it was. Empty: not of this key, changed on its way, or heard before.
    std::span<const std::uint8_t> open(std::span<const std::uint8_t> packet);

  private:
    struct Session;
    static Result<Sealer> made(const SrtpKey& key, bool sends);
    std::shared_ptr<Session> session_;
    std::vector<std::uint8_t> work_;
};

} // namespace loom::stream
