#include "talk/lane_way.h"
#include "program/routes.h"

namespace loom::project::first {

const Block* beadOf(const Program& p, const std::string& source, const char* kind) {
    const auto layout = engine::layOut(p);
    if (const auto* lane = layout.laneOf(source))
        for (const auto& bead : lane->beads)
            if (const auto* b = p.find(bead); b && b->kind == kind)
                return b;
    return nullptr;
}

PortRef laneEnd(const Program& p, const std::string& source) {
    const auto layout = engine::layOut(p);
    const auto* lane = layout.laneOf(source);
    return lane ? lane->open : PortRef{source, 0};
}

PortRef laneOut(const Program& p, const std::string& source, const std::string& walls) {
    PortRef at{source, 0};
    for (int i = 0; i < 64; ++i) {
        std::optional<PortRef> next;
        for (const auto& c : p.connections) {
            const auto* b = c.from == at ? p.find(c.to.block) : nullptr;
            if (!b || next || engine::isMatrix(*b) || engine::endOf(*b) != engine::End::none ||
                !engine::findKind(b->kind) || isWallSwitch(*b))
                continue;
            const engine::BlockView view(*b);
            // What belongs to rooms that are apart is not on the way of those that are one; beads are on every way.
            const bool bead = view.inputs() == 1 && view.outputs() == 1 && b->kind != "sum";
            if (!isAtWork(*b, walls) && !(wallsOf(*b).empty() && bead))
                continue;
            if (b->kind == "automixer") {
                if (c.to.port < view.shape.at("lanes"))
                    next = {b->id, c.to.port + 1};
            } else if (const int out = outputFor(view, c.to.port); out >= 0 && (b->kind != "sum" || view.inputs() == 1))
                next = {b->id, out};
        }
        if (!next)
            return at;
        at = *next;
    }
    return at;
}

std::vector<std::string> present(const Program& p, const std::vector<std::string>& blocks) {
    std::vector<std::string> all;
    for (const auto& b : blocks)
        if (p.find(b))
            all.push_back(b);
    return all;
}

void splice(Program& p, const PortRef& from, const PortRef& in, const PortRef& out) {
    const auto* mine = p.find(in.block);
    const auto walls = mine ? wallsOf(*mine) : std::string();
    for (std::size_t i = 0; i < p.connections.size(); ++i) {
        const auto c = std::as_const(p.connections)[i];
        const auto* to = std::as_const(p).find(c.to.block);
        if (c.from == from && c.to.block != in.block && to && wallsOf(*to) == walls)
            p.connections.change(i).from = out;
    }
    p.connections.push_back({from, in});
}

std::string firstMatrix(const Program& p, const Conversation& c, const std::string& device) {
    std::map<std::string, int> reached;
    for (const auto& m : c.microphones) {
        if (m.input.device != device || m.source.empty())
            continue;
        // On through blocks that keep lanes apart.
        const auto end = laneOut(p, m.source, c.walls());
        for (const auto& t : p.connections)
            if (t.from == end)
                if (const auto* b = p.find(t.to.block); b && engine::isMatrix(*b) && wallsOf(*b) == c.walls())
                    ++reached[b->id];
    }
    std::string best;
    for (const auto& [id, n] : reached)
        if (best.empty() || n > reached[best])
            best = id;
    return best;
}

int inputOn(const Program& p, const std::string& matrix, const std::string& source, const std::string& walls) {
    const auto end = laneOut(p, source, walls);
    for (const auto& c : p.connections)
        if (c.from == end && c.to.block == matrix)
            return c.to.port;
    return -1;
}

int outputOn(const Program& p, const std::string& matrix, const std::string& destination) {
    std::vector<PortRef> open{entryOf(p, destination)};
    for (std::size_t i = 0; i < open.size() && i < 64; ++i) { // back through a mute or level that lies between
        const auto* c = p.into(open[i]);
        const auto* b = c ? p.find(c->from.block) : nullptr;
        if (!b)
            continue;
        if (b->id == matrix)
            return c->from.port;
        const int inputs = engine::inputsOf(p, *b), outputs = engine::outputsOf(p, *b);
        if (isWallSwitch(*b)) // in any state
            for (int in = c->from.port; in < inputs; in += outputs)
                open.push_back({b->id, in});
        else if (inputs == outputs)
            open.push_back({b->id, c->from.port});
    }
    return -1;
}

std::string crossing(int in, int out) {
    return std::to_string(in + 1) + "." + std::to_string(out + 1);
}

} // namespace loom::project::first
