// An HTTP/1.1 request (RFC 9112), as far as who serves pages needs it: GET and HEAD without a body; below /api/, where
// values are asked and set, also PUT and POST with a short one.
#pragma once
#include "engine/result.h"
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

struct HttpAsk {
    std::string method, path, query{};          // path: percent signs undone, without ".."
    std::map<std::string, std::string> heads{}; // names in small letters
    std::string body{};
    std::size_t bytes = 0; // of all of it
    std::string head(const std::string& name) const;
    bool upgrades() const; // to a WebSocket (RFC 6455)
    bool isApi() const;    // below /api
};
inline constexpr std::size_t longestHead = 8192, mostHeads = 60, longestBody = 2000;

// Nothing: it is not all there yet. Error: what is wrong; its place is the status that it is answered with, "400".
Result<std::optional<HttpAsk>> readHttpAsk(const std::string& bytes);
// Whether a page of that origin may talk to whoever is asked as `host`: its own pages, and programs that are none.
bool isOwnOrigin(const std::string& origin, const std::string& host);
// Hosts are addresses and names of the local network: a name of the internet that was turned to point here is not one
// of ours.
bool isOwnHost(const std::string& host);

struct HttpAnswer {
    int status = 200;
    std::string type{"text/plain; charset=utf-8"}, body{};
    std::vector<std::pair<std::string, std::string>> heads{};
};
// With what every answer has: no sniffing, no frames, nothing but its own scripts, styles, fonts and pictures.
std::string httpText(const HttpAnswer& answer, bool withBody);

} // namespace loom::project
