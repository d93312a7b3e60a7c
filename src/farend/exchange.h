// The stand-in of a telephone server: which accounts it knows, and what the numbers behind it do.
#pragma once
#include <map>
#include <set>
#include <string>

namespace loom::farend {

struct Account {
    std::string server{}, name{}, secret{};
    bool operator==(const Account&) const = default;
};

struct Exchange {
    bool reachable = true;
    std::string server{};                          // "": whatever name it is called by
    std::map<std::string, std::string> accounts{}; // name -> secret; none: any name with a secret
    std::set<std::string> busy{}, nobody{};        // numbers that are engaged, or answered by no one
    // "" if it takes the account, else why not, for people: "the server does not know the account \"hall\"".
    std::string refuses(const Account& account) const;
};

// A number as the exchange has it: digits, * and #, a + before; spaces, brackets, dots and dashes are left out. "": it
// is none.
std::string numberOf(const std::string& typed);

} // namespace loom::farend
