#include "pages/http_ask.h"
#include "dsp/number.h"
#include <algorithm>
#include <cctype>

namespace loom::project {
namespace {

std::string small(std::string t) {
    for (char& c : t)
        c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return t;
}

bool isToken(const std::string& t) { // RFC 9110, 5.6.2
    return !t.empty() && std::all_of(t.begin(), t.end(), [](unsigned char c) {
        return std::isalnum(c) ||
               std::string_view("!#$%&'*+-.^_`|~").find(static_cast<char>(c)) != std::string_view::npos;
    });
}

int hexOf(char c) {
    return c >= '0' && c <= '9'   ? c - '0'
           : c >= 'a' && c <= 'f' ? c - 'a' + 10
           : c >= 'A' && c <= 'F' ? c - 'A' + 10
                                  : -1;
}

std::optional<std::string> plain(const std::string& t) {
    std::string out;
    for (std::size_t i = 0; i < t.size(); ++i) {
        if (t[i] != '%') {
            out += t[i];
            continue;
        }
        const int high = i + 2 < t.size() ? hexOf(t[i + 1]) : -1, low = i + 2 < t.size() ? hexOf(t[i + 2]) : -1;
        if (high < 0 || low < 0)
            return {};
        out += static_cast<char>(high * 16 + low);
        i += 2;
    }
    const bool odd = std::any_of(out.begin(), out.end(), [](unsigned char c) { return c < 32 || c == 127; });
    return odd ? std::nullopt : std::optional(out);
}

bool contains(const std::string& list, const std::string& word) { // "keep-alive, Upgrade"
    const auto l = small(list);
    for (std::size_t at = 0; at <= l.size();) {
        const auto end = std::min(l.find(',', at), l.size());
        auto one = l.substr(at, end - at);
        one.erase(0, one.find_first_not_of(" \t"));
        one.erase(one.find_last_not_of(" \t") + 1);
        if (one == word)
            return true;
        at = end + 1;
    }
    return false;
}

const char* reasonOf(int status) {
    switch (status) {
    case 200:
        return "OK";
    case 304:
        return "Not Modified";
    case 400:
        return "Bad Request";
    case 401:
        return "Unauthorized";
    case 403:
        return "Forbidden";
    case 404:
        return "Not Found";
    case 405:
        return "Method Not Allowed";
    case 413:
        return "Content Too Large";
    case 429:
        return "Too Many Requests";
    case 431:
        return "Request Header Fields Too Large";
    case 503:
        return "Service Unavailable";
    default:
        return "Error";
    }
}

} // namespace

// An IPv4 or IPv6 address, "localhost" or a name under .local, each with a port or without.
bool isOwnHost(const std::string& said) {
    auto host = small(said);
    if (!host.empty() && host[0] == '[')
        return host.find(']') != std::string::npos;
    host.resize(std::min(host.find(':'), host.size()));
    const bool local = host == "localhost" || (host.size() > 6 && host.compare(host.size() - 6, 6, ".local") == 0);
    return local || (!host.empty() && host.find_first_not_of("0123456789.") == std::string::npos &&
                     std::count(host.begin(), host.end(), '.') == 3);
}

std::string HttpAsk::head(const std::string& name) const {
    const auto it = heads.find(name);
    return it == heads.end() ? std::string() : it->second;
}

bool HttpAsk::upgrades() const {
    return method == "GET" && small(head("upgrade")) == "websocket" && contains(head("connection"), "upgrade");
}

bool HttpAsk::isApi() const {
    return path == "/api" || path.rfind("/api/", 0) == 0;
}

Result<std::optional<HttpAsk>> readHttpAsk(const std::string& bytes) {
    const auto end = bytes.find("\r\n\r\n");
    if (end == std::string::npos || end + 4 > longestHead) {
        if (bytes.size() >= longestHead || (end != std::string::npos && end + 4 > longestHead))
            return Error{"the head is longer than 8 kB", "431", ""};
        return std::optional<HttpAsk>();
    }
    HttpAsk ask;
    ask.bytes = end + 4;
    std::size_t at = 0;
    bool first = true;
    while (at < end) {
        const auto stop = std::min(bytes.find("\r\n", at), end);
        const auto line = bytes.substr(at, stop - at);
        at = stop + 2;
        if (line.find_first_of(std::string("\r\n\0", 3)) != std::string::npos)
            return Error{"a line of the head has an odd sign", "400", ""};
        if (std::exchange(first, false)) {
            const auto one = line.find(' '), two = one == std::string::npos ? one : line.find(' ', one + 1);
            if (two == std::string::npos || line.find(' ', two + 1) != std::string::npos ||
                !isToken(line.substr(0, one)))
                return Error{"is no request", "400", ""};
            ask.method = line.substr(0, one);
            const auto version = line.substr(two + 1);
            if (version != "HTTP/1.1" && version != "HTTP/1.0")
                return Error{"speaks another version", "400", ""};
            auto target = line.substr(one + 1, two - one - 1);
            if (target.empty() || target[0] != '/')
                return Error{"asks for no path", "400", ""};
            if (const auto mark = target.find('?'); mark != std::string::npos) {
                ask.query = target.substr(mark + 1);
                target.resize(mark);
            }
            const auto path = plain(target);
            if (!path || path->find("..") != std::string::npos || path->find('\\') != std::string::npos)
                return Error{"asks for no path", "400", ""};
            ask.path = *path;
            continue;
        }
        const auto colon = line.find(':');
        if (colon == std::string::npos || !isToken(line.substr(0, colon)) || ask.heads.size() >= mostHeads)
            return Error{"a line of the head is none", "400", ""};
        auto value = line.substr(colon + 1);
        value.erase(0, value.find_first_not_of(" \t"));
        value.erase(value.find_last_not_of(" \t") + 1);
        const auto name = small(line.substr(0, colon));
        if (!ask.heads.emplace(name, value).second &&
            (name == "host" || name == "content-length" || name == "upgrade" || name == "origin" ||
             name == "transfer-encoding"))
            return Error{"says " + name + " twice", "400", ""};
    }
    if (first)
        return Error{"is no request", "400", ""};
    const bool sets = ask.method == "PUT" || ask.method == "POST";
    if (ask.method != "GET" && ask.method != "HEAD" && !(sets && ask.isApi()))
        return Error{"only GET and HEAD are answered", "405", ""};
    const auto length = ask.head("content-length");
    if (ask.heads.count("transfer-encoding") || (!sets && !length.empty() && length != "0"))
        return Error{"a request has no body here", "413", ""};
    if (!length.empty()) {
        const auto n = wholeInteger(length, 0, 999999);
        if (!n)
            return Error{"does not say how long its body is", length.size() <= 6 ? "400" : "413", ""};
        if (static_cast<std::size_t>(*n) > longestBody)
            return Error{"its body is longer than 2,000 bytes", "413", ""};
        if (bytes.size() < ask.bytes + static_cast<std::size_t>(*n))
            return std::optional<HttpAsk>();
        ask.body = bytes.substr(ask.bytes, static_cast<std::size_t>(*n));
        ask.bytes += ask.body.size();
    }
    return std::optional(ask);
}

bool isOwnOrigin(const std::string& origin, const std::string& host) {
    if (origin.empty())
        return true; // no page: a program
    const auto at = origin.find("://");
    if (at == std::string::npos || host.empty())
        return false;
    const auto scheme = small(origin.substr(0, at));
    return (scheme == "http" || scheme == "https") && small(origin.substr(at + 3)) == small(host) && isOwnHost(host);
}

std::string httpText(const HttpAnswer& a, bool withBody) {
    std::string out = "HTTP/1.1 " + std::to_string(a.status) + " " + reasonOf(a.status) + "\r\n";
    const auto head = [&](const std::string& name, const std::string& value) { out += name + ": " + value + "\r\n"; };
    head("Content-Type", a.type);
    head("Content-Length", std::to_string(a.body.size()));
    head("Connection", "close");
    head("X-Content-Type-Options", "nosniff");
    head("Referrer-Policy", "no-referrer");
    head(
        "Content-Security-Policy",
        "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self'; connect-src 'self'; "
        "manifest-src 'self'; worker-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'");
    for (const auto& [name, value] : a.heads)
        head(name, value);
    out += "\r\n";
    return withBody ? out + a.body : out;
}

} // namespace loom::project
