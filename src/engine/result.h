// What a function that can fail in normal use gives back.
#pragma once
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace loom {

// What is wrong, where, and what to do about it.
struct Trouble {
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
    Result(Trouble trouble) : trouble_(std::move(trouble)) {}
    explicit operator bool() const { return value_.has_value(); }
    T& operator*() { return *value_; }
    const T& operator*() const { return *value_; }
    T* operator->() { return &*value_; }
    const T* operator->() const { return &*value_; }
    const Trouble& trouble() const { return trouble_; }

  private:
    std::optional<T> value_;
    Trouble trouble_;
};

struct Done {};

} // namespace loom
