// Texts as the bytes that libsodium works on.
#pragma once
#include <string>

namespace loom::site {

inline const unsigned char* bytes(const std::string& s) {
    return reinterpret_cast<const unsigned char*>(s.data());
}
inline unsigned char* bytes(std::string& s) {
    return reinterpret_cast<unsigned char*>(s.data());
}

} // namespace loom::site
