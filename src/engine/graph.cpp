#include "engine/graph.h"
#include <algorithm>

namespace loom::engine {
namespace {

Error loopError(const Program& p, const std::vector<std::pair<int, int>>& connections,
                const std::vector<int>& waiting) {
    std::size_t at = 0;
    while (waiting[at] == 0)
        ++at;
    // Walk backwards along blocks that still wait: sooner or later one comes again.
    std::vector<std::vector<int>> back(p.blocks.size());
    for (const auto& [from, to] : connections)
        back[static_cast<std::size_t>(to)].push_back(from);
    std::vector<std::size_t> path;
    std::vector<int> seen(p.blocks.size(), -1);
    while (seen[at] < 0) {
        seen[at] = static_cast<int>(path.size());
        path.push_back(at);
        for (const int b : back[at])
            if (waiting[static_cast<std::size_t>(b)] > 0) {
                at = static_cast<std::size_t>(b);
                break;
            }
    }
    std::vector<std::string> way{p.blocks[at].id};
    std::string text = p.blocks[at].id;
    for (std::size_t i = path.size(); i-- > static_cast<std::size_t>(seen[at]);) {
        way.push_back(p.blocks[path[i]].id);
        text += " \u2192 " + way.back();
    }
    return {"the threads run in a loop: " + text, p.blocks[at].id, "Remove one of these threads.", std::move(way)};
}

} // namespace

Result<Graph> graphOf(const Program& p) {
    if (p.blocks.size() > maxBlocks)
        return Error{"the program has " + std::to_string(p.blocks.size()) + " blocks", "program",
                     "Up to " + std::to_string(maxBlocks) + " are possible."};
    Graph g{NameIndex(p.blocks.size()), {}, {}, {}};
    std::vector<std::string_view> names;
    names.reserve(p.blocks.size());
    for (const auto& b : p.blocks)
        names.push_back(b.id);
    const auto nameOf = [&names](int i) { return names[static_cast<std::size_t>(i)]; };
    for (std::size_t i = 0; i < names.size(); ++i)
        if (!g.byName.add(names[i], static_cast<int>(i), nameOf))
            return Error{"two blocks have this id", std::string(names[i]), "Give one of them another id."};
    g.connections.reserve(p.connections.size());
    std::vector<int> waiting(p.blocks.size(), 0), first(p.blocks.size() + 1, 0);
    for (const auto& t : p.connections) {
        const int a = g.byName.find(t.from.block, nameOf), b = g.byName.find(t.to.block, nameOf);
        if (a < 0 || b < 0)
            return Error{"a thread names the block \"" + (a < 0 ? t.from.block : t.to.block) + "\", which is not there",
                         "thread " + t.from.block + " \u2192 " + t.to.block, "Remove the thread or add the block."};
        g.connections.emplace_back(a, b);
        ++waiting[static_cast<std::size_t>(b)];
        ++first[static_cast<std::size_t>(a) + 1];
    }
    for (std::size_t i = 1; i < first.size(); ++i)
        first[i] += first[i - 1];
    std::vector<int> next(p.connections.size()), fill = first; // blocks behind each block, in one piece
    for (const auto& [from, to] : g.connections)
        next[static_cast<std::size_t>(fill[static_cast<std::size_t>(from)]++)] = to;
    std::vector<int> ready;
    for (std::size_t i = p.blocks.size(); i-- > 0;)
        if (waiting[i] == 0)
            ready.push_back(static_cast<int>(i));
    g.level.assign(p.blocks.size(), 0);
    g.order.reserve(p.blocks.size());
    while (!ready.empty()) {
        const int i = ready.back();
        ready.pop_back();
        g.order.push_back(i);
        const auto at = static_cast<std::size_t>(i);
        for (int k = first[at]; k < first[at + 1]; ++k) {
            const auto n = static_cast<std::size_t>(next[static_cast<std::size_t>(k)]);
            g.level[n] = std::max(g.level[n], g.level[at] + 1);
            if (--waiting[n] == 0)
                ready.push_back(static_cast<int>(n));
        }
    }
    if (g.order.size() < p.blocks.size())
        return loopError(p, g.connections, waiting);
    return g;
}

} // namespace loom::engine
