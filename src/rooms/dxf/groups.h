// A DXF file as text is pairs of lines: a group code and its value.
#pragma once
#include <cmath>
#include <cstddef>
#include <string_view>

namespace loom::project::dxf {

struct Group {
    int code = 0;
    std::string_view value{};
    double number() const; // 0: none, or out of range
    int whole() const;
};

class Groups {
  public:
    explicit Groups(std::string_view text) : text_(text) {}
    bool next(Group& group); // false: the end, or something that is no group code
    double share() const { return text_.empty() ? 1 : static_cast<double>(at_) / static_cast<double>(text_.size()); }

  private:
    std::string_view line();
    std::string_view text_;
    std::size_t at_ = 0;
};

} // namespace loom::project::dxf
