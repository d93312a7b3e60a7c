// The Council Hall of the demo, for tests that change its program.
#pragma once
#include "engine/block_kind.h"
#include "engine/layout.h"
#include "engine/path_response.h"
#include "file/store.h"
#include "models.h"
#include <cmath>

namespace loom::test {

inline const project::Project& demo() {
    static const project::Project p = *test::load(LOOM_HALL);
    return p;
}
inline const project::Device& hall() {
    return demo().devices[0];
}

inline double gainDb(const engine::Program& p, const std::string& from, const std::string& to, double hz = 1000) {
    const auto h = engine::pathResponse(p, {from, 0}, {to, 0}, {hz}, 48000);
    return h ? 20 * std::log10(std::abs((*h)[0]) + 1e-9) : 999;
}

inline double valueOf(const engine::Program& p, const std::string& block, const std::string& param) {
    return engine::BlockView(*p.find(block)).look()[param];
}

} // namespace loom::test
