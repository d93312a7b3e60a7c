#include "talk/reference.h"
#include "engine/path_response.h"
#include "program/program_edit.h"
#include <algorithm>
#include <cmath>

namespace loom::project::first {

std::vector<std::string> playedIn(const Program& p, const Conversation& c, const std::string& device) {
    std::vector<std::string> all;
    const auto now = atWalls(p, c.open);
    for (const auto& b : p.blocks) {
        if (engine::endOf(b) != engine::End::arrives)
            continue;
        if (std::any_of(c.microphones.begin(), c.microphones.end(),
                        [&](const auto& m) { return m.input.device == device && m.source == b.id; }))
            continue;
        bool heard = std::any_of(c.farEnds.begin(), c.farEnds.end(),
                                 [&](const auto& f) { return f.device == device && f.source == b.id; });
        for (const auto& l : c.listeners)
            if (!heard && l.kind == Conversation::Listener::Kind::zone && l.device == device)
                if (const auto h = engine::pathResponse(now, {b.id, 0}, {l.block, 0}, {1000}, 48000); h)
                    heard = std::abs(h->front()) > 1e-3;
        if (heard)
            all.push_back(b.id);
    }
    return all;
}

Result<PortRef> referenceIn(Program& p, const std::vector<std::string>& played, const std::string& name) {
    if (played.empty())
        return Error{"nothing is played that might come back", name, "Route a far end to the loudspeakers first."};
    if (played.size() == 1)
        return laneEnd(p, played.front());
    for (const auto& b : p.blocks) {
        if (b.kind != "sum")
            continue;
        std::size_t mine = 0;
        for (const auto& s : played)
            for (const auto& t : p.connections)
                mine += t.to.block == b.id && t.from == laneEnd(p, s);
        if (mine == played.size() && engine::inputsOf(p, b) == static_cast<int>(mine)) // these and no others
            return PortRef{b.id, 0};
    }
    std::vector<PortRef> ends;
    for (const auto& s : played)
        ends.push_back(laneEnd(p, s));
    auto made = addBlock(p, "sum", name + " reference");
    if (!made)
        return made.error();
    auto grown = reshapeBlock(made->program, made->block, "inputs", static_cast<int>(played.size()));
    if (!grown)
        return grown.error();
    p = std::move(*grown);
    for (std::size_t i = 0; i < ends.size(); ++i)
        p.connections.push_back({ends[i], {made->block, static_cast<int>(i)}});
    return PortRef{made->block, 0};
}

} // namespace loom::project::first
