#include "findings/registry.h"

namespace loom::project {

const std::vector<FindingKind>& findingKinds() {
    static const std::vector<FindingKind> all{
#define LOOM_FINDING_KIND(name, id, stage, severity, what) {FindingCode::name, id, stage, Severity::severity, what},
        LOOM_FINDINGS(LOOM_FINDING_KIND)
#undef LOOM_FINDING_KIND
    };
    return all;
}

const FindingKind& kindOf(FindingCode code) {
    return findingKinds()[static_cast<std::size_t>(code)];
}

} // namespace loom::project
