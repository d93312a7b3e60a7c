// Other people's files, read with the answers that were given: spec sheets, curves.
#pragma once
#include "loudspeaker/curve_file.h"
#include "loudspeaker/sheet.h"
#include <functional>

namespace CLI {
class App;
}

namespace loom::cli {

// A text or a PDF; "3=1" answers field 3 by the first of what it may mean. Error: also an answer to nothing.
Result<loudspeaker::Sheet> sheetOf(const std::string& path, const std::vector<std::string>& answers);
// "frequency=2" answers a topic by its second choice. Error: also what is still open.
Result<loudspeaker::CurveReading> curveOf(const std::string& path, loudspeaker::CurveUse use,
                                          const std::vector<std::string>& answers, double windowMs);
// sheet, curve
void addReadingVerbs(CLI::App& app, std::function<int()>& action);

} // namespace loom::cli
