// The demo library, as people try things out on it.
#pragma once
#include <QString>

namespace loom::app {

// A copy in a folder of the user's, made once, so that trying things out never touches the shipped one.
QString demoCopy();

} // namespace loom::app
