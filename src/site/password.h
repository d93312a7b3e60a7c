// The room's password, proved without being told: SPAKE2+ (RFC 9383, T. Taubert and C. A. Wood, 2023) over ristretto255
// (RFC 9496) with SHA-512, HKDF-SHA512 (RFC 5869) and HMAC-SHA512.
//
// The device holds what is left of the password (Lock) and never hears it. Whoever answers in a device's place learns
// nothing from an exchange but whether the one password that it had to settle on beforehand is the right one; a lock
// that is stolen opens no device by itself. Both sides' proofs are bound to the encrypted line that they travel on, so
// that nobody between two lines can pass them on.
//
//   w0 || w1 = Argon2id(password, salt, 128 bytes), each half reduced modulo the group's order; L = w1 P
//   asker:  X = x P + w0 M                     device: Y = y P + w0 N
//   asker:  Z = x (Y - w0 N), V = w1 (Y - w0 N)   device: Z = y (X - w0 M), V = y L
#pragma once
#include "site/channel.h"
#include <optional>

namespace loom::site {

inline constexpr std::size_t leastPassword = 8, mostPassword = 200; // bytes

using Salt = std::array<unsigned char, 16>;

// What a device holds of its password.
struct Lock {
    Salt salt{};
    Key w0{}, l{}; // a scalar, a point
    bool operator==(const Lock&) const = default;
};
// As one text for a store: "spake2+ SALT W0 L", base64. Error: it is none.
std::string lockText(const Lock& lock);
std::optional<Lock> readLock(const std::string& text);
// From base64, as it travels; none if it is not whole, or L is no point of the group.
std::optional<Lock> lockFrom(const std::string& salt, const std::string& w0, const std::string& l);
Salt newSalt();
std::string saltText(const Salt& salt);
std::optional<Salt> readSalt(const std::string& text);

// What is made of a password on the computer where it is typed. Argon2id (RFC 9106) with libsodium's limits for people
// who wait: takes about 0.1 s and 64 MiB. Error: too short, too long, no memory.
struct Secret {
    Key w0{}, w1{};
};
Result<Secret> secretOf(const std::string& password, const Salt& salt);
Result<Lock> lockOf(const std::string& password); // with a new salt
Lock lockOf(const Secret& secret, const Salt& salt);

// The asker's side of one exchange. line: Channel::binding() of the line it travels on; identity: the device's key.
class PasswordAsker {
  public:
    PasswordAsker(const Secret& secret, const Key& line, const Key& identity);
    // For tests and vectors: with this scalar instead of one drawn.
    PasswordAsker(const Secret& secret, const Key& line, const Key& identity, const Key& scalar);
    const std::string& share() const { return share_; } // base64
    // The proof to send back, base64; none: whoever answered does not know the password.
    std::optional<std::string> answered(const std::string& share, const std::string& confirm) const;

  private:
    Secret secret_;
    Key line_, identity_, x_{};
    std::string share_;
};

// The device's side.
class PasswordCheck {
  public:
    struct Begun {
        std::string share, confirm; // base64
    };
    // None: the share is no point of the group.
    static std::optional<PasswordCheck> begin(const Lock& lock, const Key& line, const Key& identity,
                                              const std::string& share);
    static std::optional<PasswordCheck> begin(const Lock& lock, const Key& line, const Key& identity,
                                              const std::string& share, const Key& scalar);
    const Begun& answer() const { return answer_; }
    bool proves(const std::string& confirm) const;

  private:
    Begun answer_{};
    std::string wanted_{};
};

// A scalar of the group, drawn.
Key newScalar();

} // namespace loom::site
