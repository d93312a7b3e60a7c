// The sealed line between a desk and a device: what passes can be read by nobody else, and nobody can pose as the
// device.
//
// Handshake after the pattern NK of T. Perrin, "The Noise Protocol Framework", 2018: the desk knows the device's static
// public key s from pairing; both make a key pair for this line alone (e, f).
//   desk -> device: e        device -> desk: f
//   keys = BLAKE2b(f·e ‖ e·s ‖ e ‖ f ‖ s, 64 bytes), X25519 (RFC 7748); first half desk to device, second half back.
// Messages: XChaCha20-Poly1305 (draft-irtf-cfrg-xchacha), the nonce counts, so that none can be dropped, repeated or
// moved. All primitives are libsodium's.
#pragma once
#include "engine/result.h"
#include <array>
#include <cstdint>
#include <optional>
#include <string>

namespace loom::site {

using Key = std::array<unsigned char, 32>;

struct KeyPair {
    Key open{}, secret{};
};
KeyPair newKeys();
std::string base64(const unsigned char* bytes, std::size_t size);
bool readBase64(const std::string& text, unsigned char* bytes, std::size_t size); // false: it is not that many
std::string keyText(const Key& key);                                              // base64
std::optional<Key> readKey(const std::string& text);

class Channel {
  public:
    static Channel desk(const KeyPair& own, const Key& device, const Key& identity);
    static Channel device(const KeyPair& own, const KeyPair& identity, const Key& desk);
    bool usable() const { return usable_; } // false: a key of the other side was none
    // Another value on every line, the same at both of its ends: what is proved on this line holds on no other.
    const Key& binding() const { return binding_; }
    std::string seal(const std::string& message);
    // Error: changed, repeated, out of order or not for this line; the line is to be dropped then.
    Result<std::string> open(const std::string& box);

  private:
    void derive(const Key& one, const Key& two, const Key& deskKey, const Key& deviceKey, const Key& identity,
                bool isDesk);
    Key out_{}, in_{}, binding_{};
    std::uint64_t sent_ = 0, heard_ = 0;
    bool usable_ = false;
};

// By what people compare an identity with a device's label: 16 digits of its BLAKE2b, "4F2A 91C0 77DE 03B6".
std::string printOf(const std::string& identity);

} // namespace loom::site
