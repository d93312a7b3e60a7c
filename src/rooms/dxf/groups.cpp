#include "rooms/dxf/groups.h"
#include <charconv>
#include <cstring>

namespace loom::project::dxf {
namespace {

bool blank(char c) {
    return c == ' ' || c == '\t' || c == '\r';
}

} // namespace

double Group::number() const {
    double v = 0;
    const char *from = value.data(), *end = value.data() + value.size();
    if (from < end && *from == '+')
        ++from;
    std::from_chars(from, end, v);
    return std::abs(v) < 1e12 ? v : 0; // also of what is no number
}

int Group::whole() const {
    int v = 0;
    std::from_chars(value.data(), value.data() + value.size(), v);
    return v;
}

std::string_view Groups::line() {
    const char* from = text_.data() + at_;
    const std::size_t left = text_.size() - at_;
    const auto* end = static_cast<const char*>(std::memchr(from, '\n', left));
    std::size_t length = end ? static_cast<std::size_t>(end - from) : left;
    at_ += length + (end ? 1 : 0);
    while (length > 0 && blank(from[length - 1]))
        --length;
    while (length > 0 && blank(*from)) {
        ++from;
        --length;
    }
    return {from, length};
}

bool Groups::next(Group& group) {
    if (at_ >= text_.size())
        return false;
    const auto code = line();
    const auto read = std::from_chars(code.data(), code.data() + code.size(), group.code);
    if (read.ec != std::errc() || read.ptr != code.data() + code.size() || at_ > text_.size())
        return false;
    group.value = line();
    return true;
}

} // namespace loom::project::dxf
