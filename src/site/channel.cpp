#include "site/channel.h"
#include "site/bytes.h"
#include <cctype>
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

} // namespace

KeyPair newKeys() {
    ready();
    KeyPair k;
    crypto_box_keypair(k.open.data(), k.secret.data());
    return k;
}

std::string base64(const unsigned char* from, std::size_t size) {
    std::string text(sodium_base64_ENCODED_LEN(size, sodium_base64_VARIANT_ORIGINAL), '\0');
    sodium_bin2base64(text.data(), text.size(), from, size, sodium_base64_VARIANT_ORIGINAL);
    text.resize(std::strlen(text.c_str()));
    return text;
}

bool readBase64(const std::string& text, unsigned char* into, std::size_t size) {
    std::size_t read = 0;
    return sodium_base642bin(into, size, text.data(), text.size(), nullptr, &read, nullptr,
                             sodium_base64_VARIANT_ORIGINAL) == 0 &&
           read == size;
}

std::string keyText(const Key& key) {
    return base64(key.data(), key.size());
}

std::optional<Key> readKey(const std::string& text) {
    Key k;
    return readBase64(text, k.data(), k.size()) ? std::optional(k) : std::nullopt;
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
    static const char what[] = "loom line";
    crypto_generichash_init(&state, nullptr, 0, binding_.size());
    crypto_generichash_update(&state, reinterpret_cast<const unsigned char*>(what), sizeof what - 1);
    for (const Key* part : {&deskKey, &deviceKey, &identity})
        crypto_generichash_update(&state, part->data(), part->size());
    crypto_generichash_final(&state, binding_.data(), binding_.size());
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
        return Error{"a message came that is not from the other end of this line", "", ""};
    std::string message(box.size() - crypto_aead_xchacha20poly1305_ietf_ABYTES, '\0');
    unsigned long long size = 0;
    if (crypto_aead_xchacha20poly1305_ietf_decrypt(bytes(message), &size, nullptr, bytes(box), box.size(), nullptr, 0,
                                                   nonceOf(heard_).data(), in_.data()) != 0)
        return Error{"a message came that is not from the other end of this line", "", ""};
    ++heard_;
    message.resize(static_cast<std::size_t>(size));
    return message;
}

std::string printOf(const std::string& identity) {
    ready();
    const auto key = readKey(identity);
    if (!key)
        return "";
    unsigned char hash[crypto_generichash_BYTES_MIN];
    crypto_generichash(hash, sizeof hash, key->data(), key->size(), nullptr, 0);
    char hex[2 * 8 + 1];
    sodium_bin2hex(hex, sizeof hex, hash, 8);
    std::string print;
    for (int i = 0; i < 16; ++i)
        print += (i > 0 && i % 4 == 0 ? " " : "") +
                 std::string(1, static_cast<char>(std::toupper(static_cast<unsigned char>(hex[i]))));
    return print;
}

} // namespace loom::site
