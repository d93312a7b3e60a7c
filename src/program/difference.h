// Where two programs differ, value by value: the design, what a device runs, and what was last sent to it.
#pragma once
#include "model/project.h"

namespace loom::project {

// Which side moved away from what was last sent; unknown: nothing was sent from here; older: the device fell back to
// what it held before that, as at power-off.
enum class Changed { unknown, here, there, both, older };
Changed changedBy(bool here, bool there);
std::string wordsOf(Changed changed); // "changed here", "changed at the device", ...

struct Difference {
    std::string block, param;         // param empty: the block, or the threads, differ as a whole
    std::string what;                 // "Delegate 3 · Equaliser · Band 2 gain"
    std::string last, design, device; // as people read them; "—" where there is none
    Changed changed = Changed::unknown;
};

// `last` may be null. Empty: both are the same but for the revision.
std::vector<Difference> differences(const engine::Program& design, const engine::Program& device,
                                    const engine::Program* last);

} // namespace loom::project
