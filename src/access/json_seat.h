// Control from outside as JSON: one question over HTTP, or a line of them over a WebSocket. docs/control.md says what
// they are.
#pragma once
#include "access/access_seat.h"

namespace loom::project {

struct JsonAnswer {
    int status = 200; // of HTTP
    std::string body{};
};
// What HTTP asks for below /api/: GET (what it is), PUT (set it), POST (step, toggle, give). authorization: what stands
// in that head; name: behind "/api/", "" for the list.
JsonAnswer answerJson(AccessHost& host, const std::string& method, const std::string& name, const std::string& body,
                      const std::string& authorization, const std::string& source);

class JsonSeat {
  public:
    static constexpr std::size_t longestMessage = 1000; // bytes
    JsonSeat(AccessHost& host, std::string source) : host_(host), seat_(host, std::move(source)) {}
    // ["set", "hall/level", -6]
    std::string received(const std::string& message, double now); // what is answered
    std::vector<std::string> tell(const std::vector<std::optional<double>>& values);

  private:
    AccessHost& host_;
    AccessSeat seat_;
};

} // namespace loom::project
