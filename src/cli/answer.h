// How loomctl answers: JSON on the one stream, what went wrong on the other.
#pragma once
#include "engine/result.h"
#include <iostream>
#include <nlohmann/json.hpp>

namespace loom::cli {

inline int fail(const Error& t) {
    std::cerr << "loomctl: " << t.text() << "\n";
    return 2;
}

inline int say(const nlohmann::json& j) {
    std::cout << j.dump(2) << "\n";
    return 0;
}

} // namespace loom::cli
