// Between the core's words and Qt's.
#pragma once
#include <QString>
#include <string>

namespace loom::app {

inline QString q(const std::string& s) {
    return QString::fromStdString(s);
}

} // namespace loom::app
