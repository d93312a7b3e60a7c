#include "outside/outside_address.h"
#include "dsp/number.h"
#include "outside/template.h"

namespace loom::project {
namespace {

Result<std::array<unsigned char, 6>> readMac(const std::string& text) {
    std::array<unsigned char, 6> mac{};
    const Error wrong{"\"" + text.substr(0, 60) + "\" is no hardware address", "address", "As in 00:11:22:33:44:55."};
    if (text.size() != 17)
        return wrong;
    for (std::size_t i = 0; i < 6; ++i) {
        const auto byte = codeNumber("0x" + text.substr(3 * i, 2));
        if (!byte || (i < 5 && text[3 * i + 2] != ':' && text[3 * i + 2] != '-'))
            return wrong;
        mac[i] = static_cast<unsigned char>(*byte);
    }
    return mac;
}

} // namespace

Result<OutsideAddress> readOutsideAddress(const OutsideKind& kind, const std::string& text) {
    using Link = OutsideKind::Link;
    OutsideAddress a;
    if (text.empty())
        return Error{"it has no address", "address",
                     kind.link == Link::serial ? "Type its serial line, as in /dev/ttyS0."
                     : kind.link == Link::wake ? "Type its hardware address, as in 00:11:22:33:44:55."
                                               : "Type where it is reached, as in 192.0.2.40 or 192.0.2.40:4001."};
    if (kind.link == Link::wake) {
        const auto mac = readMac(text);
        if (!mac)
            return mac.error();
        a.mac = *mac;
        return a;
    }
    if (kind.link == Link::serial) {
        if (text.rfind("/dev/", 0) != 0 || text.find("..") != std::string::npos)
            return Error{"\"" + text.substr(0, 60) + "\" is no serial line", "address", "As in /dev/ttyS0."};
        a.path = text;
        return a;
    }
    const auto colon = text.rfind(':');
    a.host = text.substr(0, colon);
    a.port = kind.port;
    if (colon != std::string::npos) {
        const auto port = wholeInteger(text.substr(colon + 1), 1, 65535);
        if (!port)
            return Error{"\"" + text.substr(colon + 1, 20) + "\" is no port", "address", "Use 1 to 65535."};
        a.port = *port;
    }
    if (a.port == 0)
        return Error{"it has no port", "address", "Type it behind the address, as in 192.0.2.40:4001."};
    if (a.host.empty() || a.host.size() > 200 ||
        a.host.find_first_not_of("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789.-") !=
            std::string::npos)
        return Error{"\"" + a.host.substr(0, 60) + "\" is no address", "address", "As in 192.0.2.40."};
    return a;
}

std::string wakePacket(const std::array<unsigned char, 6>& mac) {
    std::string out(6, '\xff');
    for (int i = 0; i < 16; ++i)
        out.append(mac.begin(), mac.end());
    return out;
}

} // namespace loom::project
