// A certificate that a device or computer makes for itself: browsers get TLS with it, and say that nobody vouches for
// it until somebody has looked at its print.
#pragma once
#include "engine/result.h"
#include <string>
#include <vector>

namespace loom::serve {

struct OwnCertificate {
    std::string certificate, key; // PEM
    std::string text() const { return key + certificate; }
};
// X.509 version 3 (RFC 5280) with a key on P-256, signed by itself with SHA-256, for 20 years: for a server called
// `name` at these addresses (IPv4, IPv6) and host names. Error: the library refused it.
Result<OwnCertificate> newCertificate(const std::string& name, const std::vector<std::string>& addresses);
// The one that `kept` holds (text()), where it is good for all of the addresses now; else a new one. `keep` is told the
// text of a new one.
template <class Keep>
Result<OwnCertificate> ownCertificate(const std::string& kept, const std::string& name,
                                      const std::vector<std::string>& addresses, Keep keep);
// Whether it is in its time and for all of them.
bool isGoodFor(const OwnCertificate& certificate, const std::vector<std::string>& addresses);
Result<OwnCertificate> readCertificate(const std::string& text);
// SHA-256 of the certificate, "3A:5F:...", as browsers show it; "": it is none.
std::string printOf(const OwnCertificate& certificate);

template <class Keep>
Result<OwnCertificate> ownCertificate(const std::string& kept, const std::string& name,
                                      const std::vector<std::string>& addresses, Keep keep) {
    if (const auto old = readCertificate(kept); old && isGoodFor(*old, addresses))
        return old;
    auto made = newCertificate(name, addresses);
    if (made)
        keep(made->text());
    return made;
}

} // namespace loom::serve
