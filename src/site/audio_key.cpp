#include "site/audio_key.h"
#include "site/bytes.h"
#include <sodium.h>

namespace loom::site {

Key newAudioKey() {
    Key key = newKeys().secret; // makes sure that libsodium is ready
    randombytes_buf(key.data(), key.size());
    return key;
}

Result<Key> audioKeyFrom(const std::string& phrase, const Salt& salt) {
    if (phrase.size() < 12 || phrase.size() > mostPassword)
        return Error{"a phrase for the sound has 12 to 200 bytes", "", "Type a longer one, or let one be made."};
    Key key = newAudioKey();
    if (crypto_pwhash(key.data(), key.size(), phrase.data(), phrase.size(), salt.data(),
                      crypto_pwhash_OPSLIMIT_INTERACTIVE, crypto_pwhash_MEMLIMIT_INTERACTIVE,
                      crypto_pwhash_ALG_ARGON2ID13) != 0)
        return Error{"there is not enough memory to make a key", "", "Try again."};
    return key;
}

std::string audioKeyPrint(const Key& key) {
    unsigned char hash[crypto_generichash_BYTES_MIN];
    crypto_generichash(hash, sizeof hash, key.data(), key.size(), nullptr, 0);
    char text[9];
    sodium_bin2hex(text, sizeof text, hash, 4);
    return text;
}

std::string secretPrint(const std::string& secret) {
    Key hash;
    crypto_generichash(hash.data(), hash.size(), bytes(secret), secret.size(), nullptr, 0);
    return keyText(hash);
}

} // namespace loom::site
