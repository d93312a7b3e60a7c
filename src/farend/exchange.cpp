#include "farend/exchange.h"

namespace loom::farend {

std::string Exchange::refuses(const Account& a) const {
    if (a.server.empty())
        return "no server is given";
    if (a.name.empty())
        return "no account is given";
    if (a.secret.empty())
        return "the device has no secret for the account \"" + a.name + "\"";
    if (!reachable || (!server.empty() && server != a.server))
        return "the server " + a.server + " does not answer";
    if (accounts.empty())
        return "";
    const auto it = accounts.find(a.name);
    if (it == accounts.end())
        return "the server does not know the account \"" + a.name + "\"";
    return it->second == a.secret ? "" : "the server does not take the secret of \"" + a.name + "\"";
}

std::string numberOf(const std::string& typed) {
    std::string all;
    for (const char c : typed) {
        if (c == ' ' || c == '-' || c == '.' || c == '(' || c == ')' || c == '/')
            continue;
        const bool digit = (c >= '0' && c <= '9') || c == '*' || c == '#';
        if (!digit && !(c == '+' && all.empty()))
            return "";
        all += c;
    }
    const auto digits = all.size() - (all.rfind('+', 0) == 0 ? 1 : 0);
    return digits >= 1 && digits <= 20 ? all : "";
}

} // namespace loom::farend
