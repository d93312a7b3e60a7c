// Signals that end the program: a desktop session that closes, kill, Ctrl+C in a terminal.
#pragma once
#include "app/session.h"

namespace loom::app {

// From now on they end the event loop, once unsaved work lies in its journal. Once a program.
void keepWorkOnSignals(Session& session);

} // namespace loom::app
