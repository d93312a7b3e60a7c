// What a block is heard through: its own response, that of its lane's chain, or of a whole path from a source to a
// destination.
#pragma once
#include "engine/layout.h"
#include "engine/path_response.h"

namespace loom::project {

enum class Span { block, chain, path };

struct HeardResponse {
    std::vector<dsp::Complex> h{};
    double levelDb = 0; // at 1 kHz; h is divided by it, so that 0 dB is there (Span::path)
    std::string text{}; // "Chair to Ceiling zone 1"
};
// The path is that of the block's lane: from its source, or the one a trace comes to, to its destination or the first
// that its sound reaches. Error: no such block or lane, or no sound reaches a destination.
Result<HeardResponse> heardResponse(const engine::Layout& layout, const engine::Program& p, const std::string& block,
                                    Span span, const std::vector<double>& hz, double rate,
                                    const engine::Resources& resources = {});

} // namespace loom::project
