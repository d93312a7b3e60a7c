// Somebody who stays on a line and asks: who it says it is, how often it asks, and what it wants to be told of.
#pragma once
#include "access/access_host.h"

namespace loom::project {

class AccessSeat {
  public:
    static constexpr int mostAsked = 400; // within a second
    AccessSeat(AccessHost& host, std::string source) : host_(host) { caller_.source = std::move(source); }
    AccessAnswer ask(const AccessAsk& ask, double now);

    struct Told {
        const AccessItem* item;
        std::optional<double> value;
    };
    // Of what it watches, what is other than it was told; `values` are those of the host's items, in their order.
    std::vector<Told> changed(const std::vector<std::optional<double>>& values);

  private:
    AccessHost& host_;
    AccessHost::Caller caller_{};
    std::set<std::string> watched_{};
    bool all_ = false;
    std::map<std::string, std::optional<double>> told_{};
    double second_ = -1e9;
    int asked_ = 0;
};

inline constexpr const char* accessAll = "all"; // watch and ignore: everything

// What an answer says why it was refused, as one line: "hall/level: may not be set from outside."
std::string accessRefusal(const Error& error);

} // namespace loom::project
