#include "program/heard_response.h"
#include "engine/block_kind.h"
#include "model/block_names.h"
#include "program/trace.h"
#include <cmath>

namespace loom::project {

using engine::PortRef;
using engine::Program;

Result<HeardResponse> heardResponse(const engine::Layout& layout, const Program& p, const std::string& block, Span span,
                                    const std::vector<double>& hz, double rate, const engine::Resources& resources) {
    const auto* b = p.find(block);
    const auto* lane = layout.laneOf(block);
    if (!b || (span != Span::block && !lane))
        return Error{"this block lies on no lane", block, ""};
    HeardResponse heard{std::vector<dsp::Complex>(hz.size(), 1.0), 0, blockName(p, *b)};
    if (span != Span::path) {
        for (const auto& id : span == Span::block ? std::vector<std::string>{block} : lane->beads) {
            const auto own = engine::blockResponse(*p.find(id), 0, 0, hz, rate, resources);
            for (std::size_t i = 0; i < hz.size(); ++i)
                heard.h[i] *= own[i];
        }
        if (span == Span::chain)
            heard.text = blockName(p, *p.find(lane->end));
        return heard;
    }
    std::string source = lane->end, destination = lane->end;
    if (!lane->source()) {
        const auto way = trace(p, lane->end);
        source = way.steps.empty() ? "" : way.steps.back().at.block;
    }
    const auto reaches = [&](const std::string& to) {
        const auto h = engine::pathResponse(p, {source, 0}, {to, 0}, {1000}, rate, resources);
        return h && std::abs((*h)[0]) > 1e-5;
    };
    if (!lane->destination()) {
        destination.clear();
        for (const auto& l : layout.lanes)
            if (l.destination() && destination.empty() && reaches(l.end))
                destination = l.end;
    }
    if (!p.find(source) || destination.empty() || !reaches(destination))
        return Error{"no sound goes this way to a destination", block, "Route the lane first."};
    std::vector<double> points = hz;
    points.push_back(1000);
    auto h = engine::pathResponse(p, {source, 0}, {destination, 0}, points, rate, resources);
    if (!h)
        return h.error();
    const double level = std::abs(h->back());
    h->pop_back();
    for (auto& v : *h)
        v /= level;
    heard.h = std::move(*h);
    heard.levelDb = dsp::dbFromGain(level);
    heard.text = blockName(p, *p.find(source)) + " to " + blockName(p, *p.find(destination));
    return heard;
}

} // namespace loom::project
