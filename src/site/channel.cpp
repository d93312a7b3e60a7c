#include "site/channel.h"
#include <cstring>
#include <sodium.h>
#include <stdexcept>

namespace loom::site {
namespace {

void ready() {
    static const int done = sodium_init();
    if (done < 0)
        throw std::runtime_error("libsodium cannot start"); // no random numbers on this machine
}

using Nonce = std::array<unsigned char, crypto_aead_xchacha20poly1305_ietf_NPUBBYTES>;
Nonce nonceOf(std::uint64_t count) {
    Nonce n{};
    for (int i = 0; i < 8; ++i)
        n[static_cast<std::size_t>(i)] = static_cast<unsigned char>(count >> (8 * i));
    return n;
}

const unsigned char* bytes(const std::string& s) {
    return reinterpret_cast<const unsigned char*>(s.data());
}
unsigned char* bytes(std::string& s) {
    return reinterpret_cast<unsigned char*>(s.data());
}

} // namespace

KeyPair newKeys() {
    ready();
    KeyPair k;
    crypto_box_keypair(k.open.data(), k.secret.data());
    return k;
}

std::string keyText(const Key& key) {
    char text[64];
    sodium_bin2base64(text, sizeof text, key.data(), key.size(), sodium_base64_VARIANT_ORIGINAL);
    return text;
}

std::optional<Key> readKey(const std::string& text) {
    Key k;
    std::size_t size = 0;
    if (sodium_base642bin(k.data(), k.size(), text.data(), text.size(), nullptr, &size, nullptr,
                          sodium_base64_VARIANT_ORIGINAL) != 0 ||
        size != k.size())
        return {};
    return k;
}

Channel Channel::desk(const KeyPair& own, const Key& device, const Key& identity) {
    ready();
    Channel c;
    Key both, known;
    c.usable_ = crypto_scalarmult(both.data(), own.secret.data(), device.data()) == 0 &&
                crypto_scalarmult(known.data(), own.secret.data(), identity.data()) == 0;
    c.derive(both, known, own.open, device, identity, true);
    return c;
}

Channel Channel::device(const KeyPair& own, const KeyPair& identity, const Key& desk) {
    ready();
    Channel c;
    Key both, known;
    c.usable_ = crypto_scalarmult(both.data(), own.secret.data(), desk.data()) == 0 &&
                crypto_scalarmult(known.data(), identity.secret.data(), desk.data()) == 0;
    c.derive(both, known, desk, own.open, identity.open, false);
    return c;
}

void Channel::derive(const Key& one, const Key& two, const Key& deskKey, const Key& deviceKey, const Key& identity,
                     bool isDesk) {
    unsigned char keys[64];
    crypto_generichash_state state;
    crypto_generichash_init(&state, nullptr, 0, sizeof keys);
    for (const Key* part : {&one, &two, &deskKey, &deviceKey, &identity})
        crypto_generichash_update(&state, part->data(), part->size());
    crypto_generichash_final(&state, keys, sizeof keys);
    std::memcpy(out_.data(), isDesk ? keys : keys + 32, 32);
    std::memcpy(in_.data(), isDesk ? keys + 32 : keys, 32);
    sodium_memzero(keys, sizeof keys);
}

std::string Channel::seal(const std::string& message) {
    std::string box(message.size() + crypto_aead_xchacha20poly1305_ietf_ABYTES, '\0');
    unsigned long long size = 0;
    crypto_aead_xchacha20poly1305_ietf_encrypt(bytes(box), &size, bytes(message), message.size(), nullptr, 0, nullptr,
                                               nonceOf(sent_++).data(), out_.data());
    box.resize(static_cast<std::size_t>(size));
    return box;
}

Result<std::string> Channel::open(const std::string& box) {
    if (!usable_ || box.size() < crypto_aead_xchacha20poly1305_ietf_ABYTES)
        return Trouble{"a message came that is not from the other end of this line", "", ""};
    std::string message(box.size() - crypto_aead_xchacha20poly1305_ietf_ABYTES, '\0');
    unsigned long long size = 0;
    if (crypto_aead_xchacha20poly1305_ietf_decrypt(bytes(message), &size, nullptr, bytes(box), box.size(), nullptr, 0,
                                                   nonceOf(heard_).data(), in_.data()) != 0)
        return Trouble{"a message came that is not from the other end of this line", "", ""};
    ++heard_;
    message.resize(static_cast<std::size_t>(size));
    return message;
}

Result<std::string> hashPassword(const std::string& password) {
    ready();
    if (password.size() < leastPassword || password.size() > mostPassword)
        return Trouble{"a password has 8 to 200 bytes", "", "Choose another one; a few words are good."};
    char hash[crypto_pwhash_STRBYTES];
    if (crypto_pwhash_str_alg(hash, password.data(), password.size(), crypto_pwhash_OPSLIMIT_INTERACTIVE,
                              crypto_pwhash_MEMLIMIT_INTERACTIVE, crypto_pwhash_ALG_ARGON2ID13) != 0)
        return Trouble{"there is not enough memory to seal", "", "Try again."};
    return std::string(hash);
}

bool isPassword(const std::string& hash, const std::string& password) {
    ready();
    return password.size() <= mostPassword && hash.size() < crypto_pwhash_STRBYTES &&
           crypto_pwhash_str_verify(hash.c_str(), password.data(), password.size()) == 0;
}

} // namespace loom::site
