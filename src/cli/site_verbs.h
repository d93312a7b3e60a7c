// Verbs of Site, as far as the project holds it: pairs, images of small boards, ways of sound.
#pragma once
#include <functional>

namespace CLI {
class App;
}

namespace loom::cli {

void addSiteVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
