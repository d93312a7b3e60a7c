// What a function that can fail in normal use gives back.
#pragma once
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace loom {

// What is wrong, where, and what to do about it.
struct Error {
    std::string message, place, remedy;
    std::vector<std::string> way{}; // blocks that a refused loop goes through, in the order of the sound
    std::string text() const {
        std::string t = place.empty() ? message : place + ": " + message;
        if (!t.empty() && t.back() != '.')
            t += '.';
        return remedy.empty() ? t : t + " " + remedy;
    }
};

template <class T> class [[nodiscard]] Result {
  public:
    Result(T value) : value_(std::move(value)) {}
    Result(Error error) : error_(std::move(error)) {}
    explicit operator bool() const { return value_.has_value(); }
    T& operator*() { return *value_; }
    const T& operator*() const { return *value_; }
    T* operator->() { return &*value_; }
    const T* operator->() const { return &*value_; }
    const Error& error() const { return error_; }

  private:
    std::optional<T> value_;
    Error error_;
};

struct Done {};

} // namespace loom
