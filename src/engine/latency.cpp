#include "engine/latency.h"
#include "engine/block_kind.h"
#include "engine/graph.h"
#include "engine/origin.h"
#include <algorithm>
#include <limits>
#include <optional>

namespace loom::engine {

namespace {

// source: null for the sound of all.
std::map<PortRef, Latency> latenciesOf(const Program& program, double rate, const std::string* source) {
    const auto graph = graphOf(program);
    if (!graph)
        return {};
    std::vector<std::vector<const Connection*>> arriving(program.blocks.size());
    for (std::size_t t = 0; t < program.connections.size(); ++t)
        arriving[static_cast<std::size_t>(graph->connections[t].second)].push_back(&program.connections[t]);
    std::map<PortRef, Latency> all;
    for (const int i : graph->order) {
        const Block& b = program.blocks[static_cast<std::size_t>(i)];
        const auto* kind = findKind(b.kind);
        if (!kind)
            continue;
        const BlockView view(b);
        const int own = kind->latency ? kind->latency(view.look(), rate) : 0;
        for (const Connection* t : arriving[static_cast<std::size_t>(i)]) {
            const auto from = all.find(t->from);
            if (from == all.end())
                continue;
            if (view.outputs() == 0)
                all[t->to] = from->second;
            const Latency here{from->second.least + own, from->second.most + own};
            for (int o = 0; o < view.outputs(); ++o)
                if (!source || goesOn(view, t->to.port, o)) {
                    auto& sum = all.try_emplace({b.id, o}, here).first->second;
                    sum = {std::min(sum.least, here.least), std::max(sum.most, here.most)};
                }
        }
        if (!source || b.id == *source)
            for (int o = 0; o < view.outputs(); ++o)
                all.try_emplace({b.id, o}, Latency{own, own});
    }
    return all;
}

} // namespace

std::map<PortRef, Latency> latencies(const Program& program, double rate) {
    return latenciesOf(program, rate, nullptr);
}

std::map<PortRef, Latency> latenciesFrom(const Program& program, const std::string& source, double rate) {
    return latenciesOf(program, rate, &source);
}

namespace {

// Goes back from the inputs of a block to where their sound comes from.
class WaysBack {
  public:
    WaysBack(const Program& program, const Graph& graph, double rate)
        : program_(program), rate_(rate), place_(program.blocks.size()), views_(program.blocks.size()),
          arriving_(program.blocks.size()) {
        for (std::size_t n = 0; n < graph.order.size(); ++n)
            place_[static_cast<std::size_t>(graph.order[n])] = static_cast<int>(n);
        for (std::size_t t = 0; t < program.connections.size(); ++t)
            arriving_[static_cast<std::size_t>(graph.connections[t].second)].push_back(
                {graph.connections[t].first, program.connections[t].from.port, program.connections[t].to.port});
    }
    std::optional<Meeting> meetingAt(std::size_t block) {
        if (arriving_[block].size() < 2 || !viewOf(block))
            return {};
        std::map<Output, std::map<int, int>> late; // by where sound leaves a block: the inputs it leads to
        for (const auto& t : arriving_[block])
            walk(t, late);
        const BlockView& view = *viewOf(block);
        std::optional<Meeting> found;
        for (int out = 0; out < view.outputs(); ++out)
            for (auto way = late.rbegin(); way != late.rend(); ++way) { // the nearest place first
                const auto& [from, ports] = *way;
                std::map<int, int> here; // those that go on to this output
                for (const auto& [port, samples] : ports)
                    if (std::abs(view.response(port, out, 1000, rate_)) > heard)
                        here.emplace(port, samples);
                if (here.size() < 2 || (found && here.size() <= found->ports.size()))
                    continue;
                const auto [least, most] = std::minmax_element(
                    here.begin(), here.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
                if (least->second < most->second) {
                    const auto& [number, port] = from.second;
                    found = {program_.blocks[block].id,
                             {program_.blocks[static_cast<std::size_t>(number)].id, port},
                             std::move(here)};
                }
            }
        return found;
    }

  private:
    static constexpr double heard = 1e-6; // -120 dB
    struct Arrival {
        int from, port, at;
    };
    // The block's place in the running order, its number and the output. Places first: the map is gone through from
    // its end, and whatever feeds a block has an earlier place.
    using Output = std::pair<int, std::pair<int, int>>;

    void walk(const Arrival& start, std::map<Output, std::map<int, int>>& late) {
        std::map<Output, int> open{{outputOf(start), 0}};
        while (!open.empty()) {
            const auto [from, samples] = *open.rbegin();
            open.erase(std::prev(open.end()));
            late[from][start.at] = samples;
            const auto block = static_cast<std::size_t>(from.second.first);
            const BlockView* view = viewOf(block);
            if (!view)
                continue;
            const int own = view->kind->latency ? view->kind->latency(view->look(), rate_) : 0;
            for (const auto& t : arriving_[block])
                if (std::abs(view->response(t.at, from.second.second, 1000, rate_)) > heard) {
                    int& there = open.try_emplace(outputOf(t), 0).first->second;
                    there = std::max(there, samples + own);
                }
        }
    }
    Output outputOf(const Arrival& t) const { return {place_[static_cast<std::size_t>(t.from)], {t.from, t.port}}; }
    const BlockView* viewOf(std::size_t i) { // null: of unknown kind
        if (!views_[i] && findKind(program_.blocks[i].kind))
            views_[i] = std::make_unique<BlockView>(program_.blocks[i]);
        return views_[i].get();
    }
    const Program& program_;
    double rate_;
    std::vector<int> place_;
    std::vector<std::unique_ptr<BlockView>> views_;
    std::vector<std::vector<Arrival>> arriving_;
};

} // namespace

std::vector<Meeting> unevenMeetings(const Program& program, double rate) {
    const auto graph = graphOf(program);
    if (!graph)
        return {};
    WaysBack back(program, *graph, rate);
    const auto late = latencies(program, rate);
    std::vector<int> least(program.blocks.size(), std::numeric_limits<int>::max()), most(program.blocks.size(), 0);
    for (std::size_t t = 0; t < program.connections.size(); ++t)
        if (const auto from = late.find(program.connections[t].from); from != late.end()) {
            const auto to = static_cast<std::size_t>(graph->connections[t].second);
            least[to] = std::min(least[to], from->second.least);
            most[to] = std::max(most[to], from->second.most);
        }
    std::vector<Meeting> found; // along the sound
    for (const int i : graph->order)
        if (const auto at = static_cast<std::size_t>(i); least[at] < most[at])
            if (auto meeting = back.meetingAt(at))
                found.push_back(std::move(*meeting));
    return found;
}

int longestLatency(const Program& program, double rate) {
    int longest = 0;
    const auto all = latencies(program, rate);
    for (const auto& b : program.blocks)
        if (endOf(b) == End::leaves)
            if (const auto it = all.find({b.id, 0}); it != all.end())
                longest = std::max(longest, it->second.most);
    return longest;
}

} // namespace loom::engine
