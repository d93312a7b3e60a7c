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

} // namespace loom::site
