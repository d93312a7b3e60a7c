// Where something stands in JSON, and what went wrong there first.
#pragma once
#include "engine/result.h"
#include <optional>
#include <string>
#include <string_view>

namespace loom::schema {

// A place such as /devices/0/program: a chain on the stack, made a text only when something is wrong there.
class At {
  public:
    explicit At(std::string_view root = "") : key_(root) {}
    At(const At& up, std::string_view key) : up_(&up), key_(key) {}
    At(const At& up, std::size_t index) : up_(&up), index_(index) {}
    std::string text() const;

  private:
    const At* up_ = nullptr;
    std::string_view key_{};
    std::size_t index_ = 0;
};

// One pass over JSON or over values. The first failure counts; what is read after it has no meaning.
class Reading {
  public:
    enum class Limits { kept, ignored }; // ignored: types are still demanded
    explicit Reading(Limits limits = Limits::kept) : limits_(limits) {}
    void fail(const At& at, std::string message, std::string remedy = "") {
        if (!error_)
            error_ = Error{std::move(message), at.text(), std::move(remedy)};
    }
    bool failed() const { return error_.has_value(); }
    const Error& error() const { return *error_; }
    bool limited() const { return limits_ == Limits::kept; }

  private:
    std::optional<Error> error_;
    Limits limits_;
};

} // namespace loom::schema
