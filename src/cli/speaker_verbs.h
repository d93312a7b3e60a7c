// Verbs of Speakers: sheets, voicings, what hangs on amplifiers.
#pragma once
#include <functional>

namespace CLI {
class App;
}

namespace loom::cli {

void addSpeakerVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
