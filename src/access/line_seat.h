// Control from outside in lines of text, for controllers that know nothing else. docs/control.md says what they are.
#pragma once
#include "access/access_seat.h"
#include <string_view>

namespace loom::project {

class LineSeat {
  public:
    static constexpr std::size_t longestLine = 500; // bytes
    LineSeat(AccessHost& host, std::string source) : seat_(host, std::move(source)) {}
    void received(std::string_view bytes, double now);
    void tell(const std::vector<std::optional<double>>& values); // see AccessSeat::changed
    std::string take();                                          // what goes out
    bool over() const { return over_; }                          // it said so

  private:
    void line(const std::string& text, double now);
    void out(const std::string& text) { out_ += text + "\r\n"; }
    AccessSeat seat_;
    std::string line_{}, out_{};
    bool tooLong_ = false, over_ = false;
};

// What a line asks. Error: it asks nothing.
Result<AccessAsk> readAccessLine(const std::string& line);

} // namespace loom::project
