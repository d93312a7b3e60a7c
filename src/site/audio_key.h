// Sound on the audio network that only those with the room's key can hear.
#pragma once
#include "site/password.h"

namespace loom::site {

Key newAudioKey();
// From a phrase that people typed, of 12 to 200 bytes: Argon2id (RFC 9106) with the salt of the project, so that the
// same phrase gives the same key on all devices of one project, and another one in every other. Takes about 0.1 s.
Result<Key> audioKeyFrom(const std::string& phrase, const Salt& salt);
// By what two keys are told apart without telling them: BLAKE2b of it, 8 hexadecimal digits.
std::string audioKeyPrint(const Key& key);

// A text that tells nothing of a secret and is another for every other one: BLAKE2b of it, 32 bytes, base64.
std::string secretPrint(const std::string& secret);

// One packet: a header that anybody can read and nobody can change, and a body. XChaCha20-Poly1305 with a random nonce.
std::string sealPacket(const Key& key, const std::string& header, const std::string& body);
// Which packets of one sender were heard, so that none is heard twice: the newest start of the sender, and of its
// packets the last 64 (as the anti-replay window of RFC 4303, 3.4.3). One that is older is taken for heard.
class PacketWindow {
  public:
    // epoch: when the sender began; count: of its packets since then. To be asked of packets that are authentic.
    bool isNew(std::uint64_t epoch, std::uint32_t count);

  private:
    std::uint64_t epoch_ = 0, seen_ = 0; // seen_: bit i for the packet `i` before the newest
    std::uint32_t newest_ = 0;
    bool any_ = false;
};

// The body, if the packet was sealed with this key and header.
std::optional<std::string> openPacket(const Key& key, const std::string& header, const std::string& box);

} // namespace loom::site
