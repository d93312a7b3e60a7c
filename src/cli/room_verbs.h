// The verbs of loomctl that do what Survey does: rooms, devices on the plan, figures, maps, names, addresses, copies.
#pragma once
#include <functional>

namespace CLI {
class App;
}

namespace loom::cli {

void addRoomVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
