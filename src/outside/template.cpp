#include "outside/template.h"
#include "dsp/number.h"
#include <algorithm>
#include <cmath>
#include <cstdio>

namespace loom::project {
namespace {

int digitOf(char c) {
    return c >= '0' && c <= '9'   ? c - '0'
           : c >= 'a' && c <= 'f' ? c - 'a' + 10
           : c >= 'A' && c <= 'F' ? c - 'A' + 10
                                  : -1;
}

unsigned char sumOf(std::string_view bytes) {
    unsigned all = 0;
    for (const char c : bytes)
        all += static_cast<unsigned char>(c);
    return static_cast<unsigned char>(all & 255);
}

unsigned char xorOf(std::string_view bytes) {
    unsigned all = 0;
    for (const char c : bytes)
        all ^= static_cast<unsigned char>(c);
    return static_cast<unsigned char>(all);
}

Error wrong(const std::string& what, std::size_t at) {
    return {what, "sign " + std::to_string(at + 1), "As in POWER {value} or 02 {value:b1} {sum} 03."};
}

} // namespace

std::optional<long long> codeNumber(const std::string& text) {
    if (text.size() > 2 && text[0] == '0' && (text[1] == 'x' || text[1] == 'X')) {
        long long v = 0;
        if (text.size() > 10)
            return {};
        for (std::size_t i = 2; i < text.size(); ++i) {
            const int d = digitOf(text[i]);
            if (d < 0)
                return {};
            v = v * 16 + d;
        }
        return v;
    }
    const auto v = wholeNumber(text);
    if (!v || !(std::abs(*v) < 1e12))
        return {};
    return std::llround(*v);
}

Result<Template> Template::read(const std::string& text, bool hex) {
    if (text.size() > longest)
        return wrong("it is longer than 1,000 bytes", longest);
    Template t;
    std::string bytes;
    const auto flush = [&] {
        if (!bytes.empty()) {
            Piece p;
            p.bytes = std::exchange(bytes, {});
            t.pieces_.push_back(std::move(p));
        }
    };
    for (std::size_t i = 0; i < text.size();) {
        const char c = text[i];
        const bool twice = i + 1 < text.size() && text[i + 1] == c;
        if ((c == '{' || c == '}') && twice && !hex) {
            bytes += c;
            i += 2;
            continue;
        }
        if (c == '}')
            return wrong("a brace closes what was not opened", i);
        if (c == '{') {
            const auto end = text.find('}', i);
            if (end == std::string::npos)
                return wrong("a brace is not closed", i);
            const auto name = text.substr(i + 1, end - i - 1);
            flush();
            Piece p;
            if (name == "any") {
                p.kind = Piece::Kind::any;
            } else if (name == "sum" || name == "xor") {
                p.kind = name == "sum" ? Piece::Kind::sum : Piece::Kind::xored;
            } else if (name.rfind("value", 0) == 0) {
                p.kind = Piece::Kind::value;
                if (name.size() > 5) {
                    const auto how = name.substr(std::min<std::size_t>(6, name.size()));
                    const bool lettered = !how.empty() && (how[0] == 'x' || how[0] == 'b');
                    const auto width =
                        wholeInteger(lettered ? how.substr(1) : how, 1, lettered && how[0] == 'b' ? 4 : 12);
                    if (name[5] != ':' || !width)
                        return wrong("there is no such way to write a value", i);
                    p.as = how[0] == 'x' ? Piece::As::hex : how[0] == 'b' ? Piece::As::byte : Piece::As::digits;
                    p.width = *width;
                } else if (hex) {
                    p.as = Piece::As::byte, p.width = 1;
                }
            } else {
                return wrong("there is no {" + name.substr(0, 40) + "}", i);
            }
            const bool counted = p.kind == Piece::Kind::value && p.as == Piece::As::byte;
            if (!t.pieces_.empty() && !counted && (p.kind == Piece::Kind::any || p.kind == Piece::Kind::value) &&
                (t.pieces_.back().kind == Piece::Kind::any ||
                 (t.pieces_.back().kind == Piece::Kind::value && t.pieces_.back().as == Piece::As::text)))
                return wrong("nothing tells where what stands before it ends", i);
            t.pieces_.push_back(p);
            if (t.pieces_.size() > mostPieces)
                return wrong("it has more than 100 parts", i);
            i = end + 1;
            continue;
        }
        if (!hex) {
            bytes += c;
            ++i;
            continue;
        }
        if (c == ' ') {
            ++i;
            continue;
        }
        const int high = digitOf(c), low = i + 1 < text.size() ? digitOf(text[i + 1]) : -1;
        if (high < 0 || low < 0)
            return wrong("this is no pair of hexadecimal digits", i);
        bytes += static_cast<char>(high * 16 + low);
        i += 2;
    }
    flush();
    int values = 0;
    for (const auto& p : t.pieces_)
        values += p.kind == Piece::Kind::value;
    if (values > 1)
        return wrong("it has more than one value", 0);
    return t;
}

bool Template::hasValue() const {
    return std::any_of(pieces_.begin(), pieces_.end(), [](const auto& p) { return p.kind == Piece::Kind::value; });
}

bool Template::hasAny() const {
    return std::any_of(pieces_.begin(), pieces_.end(), [](const auto& p) { return p.kind == Piece::Kind::any; });
}

Result<std::string> Template::compose(const std::string& value) const {
    std::string out;
    for (const auto& p : pieces_) {
        switch (p.kind) {
        case Piece::Kind::literal:
            out += p.bytes;
            break;
        case Piece::Kind::any:
            return Error{"what is said cannot hold {any}", "", ""};
        case Piece::Kind::sum:
            out += static_cast<char>(sumOf(out));
            break;
        case Piece::Kind::xored:
            out += static_cast<char>(xorOf(out));
            break;
        case Piece::Kind::value: {
            if (p.as == Piece::As::text) {
                out += value;
                break;
            }
            const auto n = codeNumber(value);
            if (!n)
                return Error{"\"" + value.substr(0, 40) + "\" is no whole number", "", ""};
            if (p.as == Piece::As::digits) {
                char text[32];
                std::snprintf(text, sizeof text, "%0*lld", p.width, *n);
                out += text;
                break;
            }
            const long long most =
                p.as == Piece::As::byte ? (1LL << (8 * p.width)) - 1 : (1LL << (4 * std::min(p.width, 12))) - 1;
            if (*n < 0 || *n > most)
                return Error{value.substr(0, 40) + " does not fit there", "", ""};
            if (p.as == Piece::As::hex) {
                char text[32];
                std::snprintf(text, sizeof text, "%0*llX", p.width, *n);
                out += text;
            } else {
                for (int k = p.width - 1; k >= 0; --k)
                    out += static_cast<char>((*n >> (8 * k)) & 255);
            }
            break;
        }
        }
    }
    return out;
}

std::optional<std::string> Template::match(std::string_view heard) const {
    std::string value;
    std::size_t at = 0;
    for (std::size_t i = 0; i < pieces_.size(); ++i) {
        const auto& p = pieces_[i];
        const auto rest = heard.substr(at);
        switch (p.kind) {
        case Piece::Kind::literal:
            if (rest.substr(0, p.bytes.size()) != p.bytes)
                return {};
            at += p.bytes.size();
            break;
        case Piece::Kind::sum:
        case Piece::Kind::xored:
            if (rest.empty() ||
                static_cast<unsigned char>(rest[0]) !=
                    (p.kind == Piece::Kind::sum ? sumOf(heard.substr(0, at)) : xorOf(heard.substr(0, at))))
                return {};
            ++at;
            break;
        case Piece::Kind::any:
        case Piece::Kind::value: {
            if (p.kind == Piece::Kind::value && p.as == Piece::As::byte) {
                if (rest.size() < static_cast<std::size_t>(p.width))
                    return {};
                long long n = 0;
                for (int k = 0; k < p.width; ++k)
                    n = n * 256 + static_cast<unsigned char>(rest[static_cast<std::size_t>(k)]);
                value = std::to_string(n);
                at += static_cast<std::size_t>(p.width);
                break;
            }
            // Up to where what follows is found for the first time, or to the end.
            std::size_t length = rest.size();
            if (i + 1 < pieces_.size() && pieces_[i + 1].kind == Piece::Kind::literal) {
                length = rest.find(pieces_[i + 1].bytes);
                if (length == std::string_view::npos)
                    return {};
            } else if (i + 1 < pieces_.size()) { // a sum, or bytes: as many as these are
                std::size_t behind = 0;
                for (std::size_t k = i + 1; k < pieces_.size(); ++k) {
                    const auto& q = pieces_[k];
                    if (q.kind == Piece::Kind::any || (q.kind == Piece::Kind::value && q.as != Piece::As::byte))
                        return {};
                    behind += q.kind == Piece::Kind::literal ? q.bytes.size()
                              : q.kind == Piece::Kind::value ? static_cast<std::size_t>(q.width)
                                                             : 1;
                }
                if (behind > rest.size())
                    return {};
                length = rest.size() - behind;
            }
            if (p.kind == Piece::Kind::value) {
                value = std::string(rest.substr(0, length));
                if (p.as == Piece::As::hex) {
                    if (value.empty() || value.size() > 8)
                        return {};
                    long long n = 0;
                    for (const char c : value) {
                        if (digitOf(c) < 0)
                            return {};
                        n = n * 16 + digitOf(c);
                    }
                    value = std::to_string(n);
                } else if (p.as == Piece::As::digits && !codeNumber(value)) {
                    return {};
                }
            }
            at += length;
            break;
        }
        }
    }
    return at == heard.size() ? std::optional(value) : std::nullopt;
}

std::string shownBytes(std::string_view bytes) {
    std::string out;
    for (const char c : bytes.substr(0, 200)) {
        const auto u = static_cast<unsigned char>(c);
        if (u >= 32 && u < 127) {
            out += c;
        } else if (c == '\r' || c == '\n') {
            out += c == '\r' ? "\\r" : "\\n";
        } else {
            char hex[8];
            std::snprintf(hex, sizeof hex, "\\x%02x", u);
            out += hex;
        }
    }
    return bytes.size() > 200 ? out + "\u2026" : out;
}

} // namespace loom::project
