// Sound on the audio network that only those with the room's key can hear.
#pragma once
#include "site/channel.h"

namespace loom::site {

Key newAudioKey();
// From a phrase that people typed, of 12 to 200 bytes: Argon2id (RFC 9106) with a fixed salt, so that the same phrase
// gives the same key everywhere. Takes about 0.1 s.
Result<Key> audioKeyFrom(const std::string& phrase);
// By what two keys are told apart without telling them: BLAKE2b of it, 8 hexadecimal digits.
std::string audioKeyPrint(const Key& key);

// One packet: a header that anybody can read and nobody can change, and a body. XChaCha20-Poly1305 with a random nonce.
std::string sealPacket(const Key& key, const std::string& header, const std::string& body);
// The body, if the packet was sealed with this key and header.
std::optional<std::string> openPacket(const Key& key, const std::string& header, const std::string& box);

} // namespace loom::site
