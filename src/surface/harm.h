// What a press may do to people or equipment before anybody can take it back.
#pragma once
#include "rules/drive.h"

namespace loom::project {

// Why setting it may do harm: "48 V that is switched is heard as a loud thud"; of a scene what one of its values does.
// None: it does none that is known.
std::optional<std::string> harmOf(const Project& project, const Drive& drive);

} // namespace loom::project
