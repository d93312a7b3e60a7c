#include "stream/sap.h"
#include "dsp/number.h"
#include <algorithm>

namespace loom::stream {
namespace {

constexpr std::uint8_t version1 = 0x20, ipv6 = 0x10, deletion = 0x04, encrypted = 0x02, compressed = 0x01;
constexpr std::string_view mime = "application/sdp";

void putAddress(std::vector<std::uint8_t>& out, const std::string& text) {
    unsigned part = 0;
    std::size_t parts = 0;
    for (std::size_t i = 0; i <= text.size() && parts < 4; ++i)
        if (i == text.size() || text[i] == '.') {
            out.push_back(static_cast<std::uint8_t>(part));
            part = 0;
            ++parts;
        } else {
            part = part * 10 + static_cast<unsigned>(text[i] - '0');
        }
    while (parts++ < 4)
        out.push_back(0);
}

Error none(const char* why) {
    return {why, "an announcement", "Others on this network announce in another way."};
}

} // namespace

std::uint32_t numberOf(const std::string& text) {
    std::uint32_t h = 2166136261u;
    for (const char c : text)
        h = (h ^ static_cast<unsigned char>(c)) * 16777619u;
    return h ^ (h >> 16);
}

std::uint16_t sapHashOf(const std::string& text) {
    const auto half = static_cast<std::uint16_t>(numberOf(text));
    return half ? half : std::uint16_t(1);
}

std::vector<std::uint8_t> sapPacket(const Announcement& a) {
    std::vector<std::uint8_t> p{static_cast<std::uint8_t>(version1 | (a.ends ? deletion : 0)), 0,
                                static_cast<std::uint8_t>(a.hash >> 8), static_cast<std::uint8_t>(a.hash)};
    putAddress(p, isIpv4(a.source) ? a.source : "0.0.0.0");
    p.insert(p.end(), mime.begin(), mime.end());
    p.push_back(0);
    p.insert(p.end(), a.text.begin(), a.text.end());
    return p;
}

Result<Announcement> readSap(std::span<const std::uint8_t> p) {
    if (p.size() < 8 || (p[0] & 0xe0) != version1)
        return none("is no packet of SAP");
    if (p[0] & ipv6)
        return none("comes from an address of IPv6");
    if (p[0] & (encrypted | compressed))
        return none("is encrypted or compressed");
    Announcement a;
    a.ends = (p[0] & deletion) != 0;
    a.hash = static_cast<std::uint16_t>(p[2] << 8 | p[3]);
    a.source = print("%d.%d.%d.%d", int(p[4]), int(p[5]), int(p[6]), int(p[7]));
    const std::size_t begins = 8 + std::size_t(p[1]) * 4; // behind what proves who it is, which nobody here checks
    if (begins > p.size())
        return none("is shorter than it says");
    std::string rest(p.begin() + static_cast<std::ptrdiff_t>(begins), p.end());
    if (!rest.starts_with("v=0")) { // a type stands before it
        const auto end = rest.find('\0');
        if (end == std::string::npos || rest.substr(0, end) != mime)
            return none("holds no description of a stream");
        rest.erase(0, end + 1);
    }
    if (rest.size() > mostSdpBytes)
        return none("is too large");
    a.text = std::move(rest);
    return a;
}

bool Directory::take(std::span<const std::uint8_t> packet, double now) {
    const auto a = readSap(packet);
    if (!a) {
        ++refused_;
        return false;
    }
    if (a->ends) { // by hash and source; a description that is given counts as well (RFC 2974 4)
        const auto gone = std::erase_if(
            all_, [&](const auto& one) { return one.second.source == a->source && one.second.hash == a->hash; });
        return gone > 0;
    }
    for (auto& [key, e] : all_)
        if (e.source == a->source && e.hash == a->hash && a->hash != 0) { // the same once more
            e.last = now;
            return false;
        }
    auto d = readSdp(a->text);
    if (!d) {
        ++refused_;
        return false;
    }
    const std::string key = a->source + "/" + std::to_string(d->session) + "/" + d->name;
    const auto known = all_.find(key);
    if (known == all_.end() && all_.size() >= most) {
        ++refused_;
        return false;
    }
    if (known != all_.end() && known->second.description.version > d->version) {
        ++refused_; // an old one that came late
        return false;
    }
    const bool same = known != all_.end() && known->second.description == *d;
    auto& e = all_[key];
    e.first = known == all_.end() ? now : e.first;
    e.description = std::move(*d);
    e.source = a->source;
    e.hash = a->hash;
    e.last = now;
    return !same;
}

bool Directory::forget(double now) {
    return std::erase_if(all_, [&](const auto& one) { return now - one.second.last > forgottenAfter; }) > 0;
}

} // namespace loom::stream
