// What devices gave to this computer when it knew their passwords: with it they keep a place for it, and do not hold it
// up for what strangers tried. Secrets: the file is nobody else's to read.
#pragma once
#include "engine/result.h"
#include <map>
#include <string>

namespace loom::client {

class Tickets {
  public:
    static constexpr std::size_t most = 2000;
    // "": kept in memory only.
    explicit Tickets(std::string path = "");
    static std::string usualPath();                    // $XDG_STATE_HOME/nimble-loom/tickets.json
    std::string of(const std::string& identity) const; // "": none
    // Error: it holds until this program ends, and is not kept.
    Result<Done> keep(const std::string& identity, const std::string& ticket);

  private:
    void read();
    std::string path_;
    std::map<std::string, std::string> all_;
};

} // namespace loom::client
