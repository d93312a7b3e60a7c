#include "site/audio_key.h"
#include "site/bytes.h"
#include <sodium.h>

namespace loom::site {
namespace {

constexpr std::size_t nonceSize = crypto_aead_xchacha20poly1305_ietf_NPUBBYTES,
                      tagSize = crypto_aead_xchacha20poly1305_ietf_ABYTES;

} // namespace

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

bool PacketWindow::isNew(std::uint64_t epoch, std::uint32_t count) {
    if (!any_ || epoch > epoch_) {
        any_ = true;
        epoch_ = epoch;
        newest_ = count;
        seen_ = 1;
        return true;
    }
    if (epoch < epoch_)
        return false;
    if (count > newest_) {
        const auto by = count - newest_;
        seen_ = (by < 64 ? seen_ << by : 0) | 1;
        newest_ = count;
        return true;
    }
    const auto back = newest_ - count;
    const std::uint64_t bit = back < 64 ? std::uint64_t(1) << back : 0;
    if (bit == 0 || (seen_ & bit))
        return false;
    seen_ |= bit;
    return true;
}

std::string sealPacket(const Key& key, const std::string& header, const std::string& body) {
    std::string box(nonceSize + body.size() + tagSize, '\0');
    randombytes_buf(box.data(), nonceSize);
    unsigned long long size = 0;
    crypto_aead_xchacha20poly1305_ietf_encrypt(bytes(box) + nonceSize, &size, bytes(body), body.size(), bytes(header),
                                               header.size(), nullptr, bytes(box), key.data());
    box.resize(nonceSize + static_cast<std::size_t>(size));
    return box;
}

std::optional<std::string> openPacket(const Key& key, const std::string& header, const std::string& box) {
    if (box.size() < nonceSize + tagSize)
        return {};
    std::string body(box.size() - nonceSize - tagSize, '\0');
    unsigned long long size = 0;
    if (crypto_aead_xchacha20poly1305_ietf_decrypt(bytes(body), &size, nullptr, bytes(box) + nonceSize,
                                                   box.size() - nonceSize, bytes(header), header.size(), bytes(box),
                                                   key.data()) != 0)
        return {};
    body.resize(static_cast<std::size_t>(size));
    return body;
}

} // namespace loom::site
