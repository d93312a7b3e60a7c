// The verbs of loomctl that do what Weave does: phrases, counts, alignment, links, looks, swatches, tracing, findings.
#pragma once
#include <functional>

namespace CLI {
class App;
}

namespace loom::cli {

void addLaneVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
