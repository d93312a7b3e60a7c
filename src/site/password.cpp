#include "site/password.h"
#include <cstring>
#include <sodium.h>
#include <vector>

namespace loom::site {
namespace {

using Hash = std::array<unsigned char, crypto_hash_sha512_BYTES>;
using Bytes = std::string;

Bytes bytesOf(const unsigned char* data, std::size_t size) {
    return {reinterpret_cast<const char*>(data), size};
}
template <class Array> Bytes bytesOf(const Array& a) {
    return bytesOf(a.data(), a.size());
}
const unsigned char* raw(const Bytes& b) {
    return reinterpret_cast<const unsigned char*>(b.data());
}

Hash sha512(const Bytes& b) {
    Hash h;
    crypto_hash_sha512(h.data(), raw(b), b.size());
    return h;
}

Hash hmac(const Bytes& key, const Bytes& message) {
    Hash h;
    crypto_auth_hmacsha512_state state;
    crypto_auth_hmacsha512_init(&state, raw(key), key.size());
    crypto_auth_hmacsha512_update(&state, raw(message), message.size());
    crypto_auth_hmacsha512_final(&state, h.data());
    return h;
}

// RFC 5869 without a salt, two blocks long.
Bytes hkdf(const Bytes& material, const Bytes& info) {
    const Bytes key = bytesOf(hmac(Bytes(64, '\0'), material));
    const Bytes one = bytesOf(hmac(key, info + '\1'));
    return one + bytesOf(hmac(key, one + info + '\2'));
}

template <class Array> std::string text64(const Array& a) {
    return base64(a.data(), a.size());
}

// Points that nobody knows a relation of, as RFC 9383 wants them.
Key pointNamed(const char* name) {
    Key p;
    crypto_core_ristretto255_from_hash(p.data(), sha512(name).data());
    return p;
}
const Key& pointM() {
    static const Key m = pointNamed("Nimble Loom SPAKE2+ M");
    return m;
}
const Key& pointN() {
    static const Key n = pointNamed("Nimble Loom SPAKE2+ N");
    return n;
}

std::optional<Key> times(const Key& scalar, const Key& point) {
    Key out;
    if (crypto_scalarmult_ristretto255(out.data(), scalar.data(), point.data()) != 0)
        return {};
    return out;
}
Key base(const Key& scalar) {
    Key out{};
    (void)(crypto_scalarmult_ristretto255_base(out.data(), scalar.data()) != 0);
    return out;
}
// a P + w0 Q
std::optional<Key> shareOf(const Key& scalar, const Key& w0, const Key& blind) {
    const auto hidden = times(w0, blind);
    Key out;
    const Key open = base(scalar);
    if (!hidden || crypto_core_ristretto255_add(out.data(), open.data(), hidden->data()) != 0)
        return {};
    return out;
}
// share - w0 Q
std::optional<Key> without(const Key& share, const Key& w0, const Key& blind) {
    const auto hidden = times(w0, blind);
    Key out;
    if (!hidden || sodium_is_zero(share.data(), share.size()) == 1 ||
        crypto_core_ristretto255_is_valid_point(share.data()) != 1 ||
        crypto_core_ristretto255_sub(out.data(), share.data(), hidden->data()) != 0)
        return {};
    return out;
}

// RFC 9383, 3.3 and 3.4.
struct Proofs {
    std::string asker, device;
};
Proofs proofsOf(const Key& line, const Key& identity, const Key& x, const Key& y, const Key& z, const Key& v,
                const Key& w0) {
    Bytes transcript;
    for (const Bytes& part : {"Nimble Loom unlock 1" + bytesOf(line), Bytes(), bytesOf(identity), bytesOf(pointM()),
                              bytesOf(pointN()), bytesOf(x), bytesOf(y), bytesOf(z), bytesOf(v), bytesOf(w0)}) {
        std::uint64_t size = part.size();
        for (int i = 0; i < 8; ++i, size >>= 8)
            transcript += static_cast<char>(size & 255);
        transcript += part;
    }
    const Bytes confirm = hkdf(bytesOf(sha512(transcript)), "ConfirmationKeys");
    return {text64(hmac(confirm.substr(0, 64), bytesOf(y))), text64(hmac(confirm.substr(64), bytesOf(x)))};
}

bool same(const std::string& a, const std::string& b) { // in a time that tells nothing
    return a.size() == b.size() && sodium_memcmp(a.data(), b.data(), a.size()) == 0;
}

} // namespace

Key newScalar() {
    (void)newKeys(); // makes sure that libsodium is ready
    Key k;
    crypto_core_ristretto255_scalar_random(k.data());
    return k;
}

Salt newSalt() {
    (void)newKeys();
    Salt salt;
    randombytes_buf(salt.data(), salt.size());
    return salt;
}

std::string saltText(const Salt& salt) {
    return text64(salt);
}
std::optional<Salt> readSalt(const std::string& text) {
    Salt salt;
    return readBase64(text, salt.data(), salt.size()) ? std::optional(salt) : std::nullopt;
}

std::optional<Lock> lockFrom(const std::string& salt, const std::string& w0, const std::string& l) {
    const auto s = readSalt(salt);
    const auto w = readKey(w0), point = readKey(l);
    if (!s || !w || !point || crypto_core_ristretto255_is_valid_point(point->data()) != 1)
        return {};
    // A scalar as it is made: reduced, and not 0.
    std::array<unsigned char, 64> wide{};
    std::memcpy(wide.data(), w->data(), w->size());
    Key reduced;
    crypto_core_ristretto255_scalar_reduce(reduced.data(), wide.data());
    if (reduced != *w || sodium_is_zero(w->data(), w->size()) == 1)
        return {};
    return Lock{*s, *w, *point};
}

std::string lockText(const Lock& lock) {
    return "spake2+ " + saltText(lock.salt) + " " + keyText(lock.w0) + " " + keyText(lock.l);
}

std::optional<Lock> readLock(const std::string& text) {
    const auto a = text.find(' '), b = a == std::string::npos ? a : text.find(' ', a + 1),
               c = b == std::string::npos ? b : text.find(' ', b + 1);
    if (c == std::string::npos || text.substr(0, a) != "spake2+")
        return {};
    return lockFrom(text.substr(a + 1, b - a - 1), text.substr(b + 1, c - b - 1), text.substr(c + 1));
}

Result<Secret> secretOf(const std::string& password, const Salt& salt) {
    (void)newKeys();
    if (password.size() < leastPassword || password.size() > mostPassword)
        return Error{"a password has 8 to 200 bytes", "", "Choose another one; a few words are good."};
    std::array<unsigned char, 128> out;
    if (crypto_pwhash(out.data(), out.size(), password.data(), password.size(), salt.data(),
                      crypto_pwhash_OPSLIMIT_INTERACTIVE, crypto_pwhash_MEMLIMIT_INTERACTIVE,
                      crypto_pwhash_ALG_ARGON2ID13) != 0)
        return Error{"there is not enough memory for a password", "", "Close something and try again."};
    Secret s;
    crypto_core_ristretto255_scalar_reduce(s.w0.data(), out.data());
    crypto_core_ristretto255_scalar_reduce(s.w1.data(), out.data() + 64);
    sodium_memzero(out.data(), out.size());
    return s;
}

Lock lockOf(const Secret& secret, const Salt& salt) {
    return {salt, secret.w0, base(secret.w1)};
}

Result<Lock> lockOf(const std::string& password) {
    const Salt salt = newSalt();
    const auto secret = secretOf(password, salt);
    if (!secret)
        return secret.error();
    return lockOf(*secret, salt);
}

PasswordAsker::PasswordAsker(const Secret& secret, const Key& line, const Key& identity)
    : PasswordAsker(secret, line, identity, newScalar()) {}

PasswordAsker::PasswordAsker(const Secret& secret, const Key& line, const Key& identity, const Key& scalar)
    : secret_(secret), line_(line), identity_(identity), x_(scalar) {
    if (const auto x = shareOf(x_, secret_.w0, pointM()))
        share_ = keyText(*x);
}

std::optional<std::string> PasswordAsker::answered(const std::string& share, const std::string& confirm) const {
    const auto x = readKey(share_), y = readKey(share);
    const auto open = x && y ? without(*y, secret_.w0, pointN()) : std::nullopt;
    const auto z = open ? times(x_, *open) : std::nullopt, v = open ? times(secret_.w1, *open) : std::nullopt;
    if (!z || !v)
        return {};
    const auto proofs = proofsOf(line_, identity_, *x, *y, *z, *v, secret_.w0);
    if (!same(confirm, proofs.device))
        return {};
    return proofs.asker;
}

std::optional<PasswordCheck> PasswordCheck::begin(const Lock& lock, const Key& line, const Key& identity,
                                                  const std::string& share) {
    return begin(lock, line, identity, share, newScalar());
}

std::optional<PasswordCheck> PasswordCheck::begin(const Lock& lock, const Key& line, const Key& identity,
                                                  const std::string& share, const Key& scalar) {
    const auto x = readKey(share);
    const auto open = x ? without(*x, lock.w0, pointM()) : std::nullopt;
    const auto y = shareOf(scalar, lock.w0, pointN());
    const auto z = open ? times(scalar, *open) : std::nullopt, v = times(scalar, lock.l);
    if (!y || !z || !v)
        return {};
    const auto proofs = proofsOf(line, identity, *x, *y, *z, *v, lock.w0);
    PasswordCheck c;
    c.answer_ = {keyText(*y), proofs.device};
    c.wanted_ = proofs.asker;
    return c;
}

bool PasswordCheck::proves(const std::string& confirm) const {
    return same(confirm, wanted_);
}

} // namespace loom::site
