#include "engine/layout.h"
#include "engine/block_kind.h"
#include "engine/name_index.h"
#include <algorithm>
#include <charconv>
#include <limits>
#include <map>
#include <numeric>
#include <tuple>

namespace loom::engine {
namespace {

constexpr int mostColumns = 64;
constexpr double nowhere = 1e6;   // the row wished for by what nothing feeds: below all others
constexpr double headingRows = 1; // whole, so that warps stay between wefts

std::string markOf(const Block& b, const char* key) {
    const auto it = b.marks.find(key);
    return it == b.marks.end() ? std::string() : it->second;
}

// Blocks are numbers here; what is not on a lane is a hub.
class LayOut {
  public:
    explicit LayOut(const Program& p) : program_(p), count_(static_cast<int>(p.blocks.size())) {
        NameIndex index(p.blocks.size());
        const auto nameOf = [&](int i) -> std::string_view { return p.blocks[static_cast<std::size_t>(i)].id; };
        for (int i = 0; i < count_; ++i)
            index.add(p.blocks[static_cast<std::size_t>(i)].id, i, nameOf);
        ins_.resize(p.blocks.size());
        outs_.resize(p.blocks.size());
        known_.resize(p.blocks.size());
        std::unordered_map<const BlockKind*, std::pair<int, int>> plain; // ports of kinds in their usual shape
        for (std::size_t i = 0; i < p.blocks.size(); ++i) {
            const Block& b = p.blocks[i];
            const BlockKind* kind = findKind(b.kind);
            known_[i] = kind != nullptr;
            if (!kind)
                continue; // counted by its threads below
            auto usual = plain.find(kind);
            if (usual == plain.end() || !b.shape.empty()) {
                const Shape shape = fullShape(*kind, b);
                ins_[i] = kind->inputs(shape);
                outs_[i] = kind->outputs(shape);
                if (b.shape.empty())
                    plain[kind] = {ins_[i], outs_[i]};
            } else {
                std::tie(ins_[i], outs_[i]) = usual->second;
            }
        }
        leaving_.resize(p.blocks.size());
        arriving_.resize(p.blocks.size());
        for (const auto& t : p.connections) {
            const int from = index.find(t.from.block, nameOf), to = index.find(t.to.block, nameOf);
            if (from < 0 || to < 0 || t.from.port < 0 || t.to.port < 0 || t.from.port > 4096 || t.to.port > 4096)
                continue;
            if (!known_[at(from)])
                outs_[at(from)] = std::max(outs_[at(from)], t.from.port + 1);
            if (!known_[at(to)])
                ins_[at(to)] = std::max(ins_[at(to)], t.to.port + 1);
            leaving_[at(from)].push_back({t.from.port, to, t.to.port});
            arriving_[at(to)].push_back({t.to.port, from, t.from.port});
        }
        lane_.assign(p.blocks.size(), -1);
        hub_.assign(p.blocks.size(), -1);
    }

    Layout run() {
        for (int i = 0; i < count_; ++i)
            if (ports(i, 0, 1))
                sourceLane(i);
        const std::size_t sources = lanes_.size();
        for (int i = 0; i < count_; ++i)
            if (ports(i, 1, 0))
                destinationLane(i);
        const std::size_t ends = lanes_.size();
        innerLanes();
        for (int i = 0; i < count_; ++i)
            if (lane_[at(i)] < 0) {
                hub_[at(i)] = static_cast<int>(layout_.hubs.size());
                hubBlocks_.push_back(i);
                layout_.hubs.push_back({id(i), 0, {}, {}});
            }
        positions();
        double row = sideRows(0, sources, Layout::Kind::source, 0);
        row = std::max(row, middleRows(ends));
        row = std::max(row, sideRows(sources, ends, Layout::Kind::destination, 0.5));
        layout_.rows = row;
        finish();
        return std::move(layout_);
    }

  private:
    struct Link { // of a thread, seen from one end
        int own = 0, other = -1, otherPort = 0;
    };
    static std::size_t at(int i) { return static_cast<std::size_t>(i); }
    const Block& block(int i) const { return program_.blocks[at(i)]; }
    const std::string& id(int i) const { return block(i).id; }
    bool ports(int i, int in, int out) const { return ins_[at(i)] == in && outs_[at(i)] == out; }
    bool freeBead(int i) const { return ports(i, 1, 1) && lane_[at(i)] < 0; }

    int newLane(int end, Layout::Kind kind) {
        layout_.lanes.push_back({id(end), kind, 0, {}, {id(end), 0}, 0, {}, false});
        lanes_.push_back({end, end});
        lane_[at(end)] = static_cast<int>(lanes_.size()) - 1;
        return lane_[at(end)];
    }

    // The next bead of a lane. Where its sound also reaches weaves and ends, those threads branch off and the lane goes
    // on; where it reaches several beads, the lane ends and the fork is drawn there.
    int beadAfter(int i) const {
        int next = -1;
        for (const auto& l : leaving_[at(i)]) {
            if (!freeBead(l.other) || l.other == i)
                continue;
            if (next >= 0)
                return -1;
            next = l.other;
        }
        return next;
    }
    void growLane(int lane) {
        for (int next = beadAfter(lanes_[at(lane)].last); next >= 0; next = beadAfter(next)) {
            layout_.lanes[at(lane)].beads.push_back(id(next));
            layout_.lanes[at(lane)].open = {id(next), 0};
            lane_[at(next)] = lane;
            lanes_[at(lane)].last = next;
        }
    }
    void sourceLane(int i) {
        const int lane = newLane(i, Layout::Kind::source);
        growLane(lane);
        layout_.sourceSlots = std::max(layout_.sourceSlots, static_cast<int>(layout_.lanes[at(lane)].beads.size()));
    }
    void destinationLane(int i) {
        const int lane = newLane(i, Layout::Kind::destination);
        auto& l = layout_.lanes[at(lane)];
        for (int now = i; !arriving_[at(now)].empty();) {
            const int before = arriving_[at(now)].front().other;
            if (!freeBead(before) || leaving_[at(before)].size() != 1)
                break;
            l.beads.push_back(id(before));
            l.open = {id(before), 0};
            lane_[at(before)] = lane;
            lanes_[at(lane)].first = before;
            now = before;
        }
        std::reverse(l.beads.begin(), l.beads.end());
        layout_.destinationSlots = std::max(layout_.destinationSlots, static_cast<int>(l.beads.size()));
    }
    // Chains between hubs, and behind forks. A chain begins where what comes before is not the bead it would go on
    // from; what is left then lies in a loop.
    void innerLanes() {
        for (const bool loops : {false, true})
            for (int i = 0; i < count_; ++i) {
                if (!freeBead(i))
                    continue;
                const int before = arriving_[at(i)].empty() ? -1 : arriving_[at(i)].front().other;
                if (!loops && before >= 0 && freeBead(before) && beadAfter(before) == i)
                    continue;
                const int lane = newLane(i, Layout::Kind::inner);
                layout_.lanes[at(lane)].beads.push_back(id(i));
                growLane(lane);
            }
    }

    // ---- columns and gaps: positions from left to right, gaps even, columns odd ----

    // A unit is a hub or an inner lane. Its position is the smallest of its parity behind all that feed it.
    void positions() {
        const int hubs = static_cast<int>(hubBlocks_.size());
        position_.assign(lanes_.size() + at(hubs), -1);
        for (std::size_t u = 0; u < position_.size(); ++u)
            if (isUnit(static_cast<int>(u)))
                (void)place(static_cast<int>(u));
        for (std::size_t h = 0; h < layout_.hubs.size(); ++h) {
            layout_.hubs[h].column = (position_[lanes_.size() + h] - 1) / 2;
            layout_.columns = std::max(layout_.columns, layout_.hubs[h].column + 1);
        }
        for (std::size_t l = 0; l < lanes_.size(); ++l)
            if (layout_.lanes[l].kind == Layout::Kind::inner)
                layout_.columns = std::max(layout_.columns, layout_.lanes[l].gap = position_[l] / 2);
        layout_.gapSlots.assign(at(layout_.columns) + 1, 0);
        for (const auto& l : layout_.lanes)
            if (l.kind == Layout::Kind::inner)
                layout_.gapSlots[at(l.gap)] = std::max(layout_.gapSlots[at(l.gap)], static_cast<int>(l.beads.size()));
    }
    int unitOf(int b) const { return lane_[at(b)] >= 0 ? lane_[at(b)] : static_cast<int>(lanes_.size()) + hub_[at(b)]; }
    bool isHub(int unit) const { return unit >= static_cast<int>(lanes_.size()); }
    bool isUnit(int unit) const { return isHub(unit) || layout_.lanes[at(unit)].kind == Layout::Kind::inner; }
    const std::vector<Link>& feeding(int unit) const {
        return arriving_[at(isHub(unit) ? hubBlocks_[at(unit) - lanes_.size()] : lanes_[at(unit)].first)];
    }
    // Walks back along the sound with a stack of its own: programs may be long. A loop is cut where it closes.
    int place(int unit) {
        constexpr int walking = -2;
        struct Step {
            int unit;
            std::size_t next = 0;
            int least = 0;
        };
        std::vector<Step> todo{{unit}};
        while (!todo.empty()) {
            Step& s = todo.back();
            if (s.next == 0 && position_[at(s.unit)] >= 0) {
                todo.pop_back();
                continue;
            }
            position_[at(s.unit)] = walking;
            const auto& links = feeding(s.unit);
            bool deeper = false;
            while (s.next < links.size()) {
                const int from = unitOf(links[s.next].other);
                if (!isUnit(from) || position_[at(from)] == walking) {
                    ++s.next;
                } else if (position_[at(from)] >= 0) {
                    s.least = std::max(s.least, position_[at(from)] + 1);
                    ++s.next;
                } else {
                    todo.push_back({from});
                    deeper = true;
                    break;
                }
            }
            if (deeper)
                continue;
            const int parity = isHub(s.unit) ? 1 : 0;
            position_[at(s.unit)] = std::min(s.least + (s.least % 2 != parity), 2 * mostColumns - 2 + parity);
            todo.pop_back();
        }
        return position_[at(unit)];
    }

    // ---- rows ----

    // The row in which the sound of an output lies, if that is settled already.
    double rowOf(int b, int port) const {
        if (lane_[at(b)] >= 0)
            return settled_[at(lane_[at(b)])] ? layout_.lanes[at(lane_[at(b)])].row : nowhere;
        const auto& rows = layout_.hubs[at(hub_[at(b)])].outRows;
        return at(port) < rows.size() ? rows[at(port)] : nowhere;
    }

    // The lanes from `first` to `last`, one below the other. Returns the first row below them.
    double sideRows(std::size_t first, std::size_t last, Layout::Kind kind, double row) {
        settled_.resize(lanes_.size());
        struct Item {
            double place, wish;
            int lane;
        };
        std::vector<Item> items;
        for (std::size_t l = first; l < last; ++l) {
            const std::string mark = markOf(block(lanes_[l].end), "place");
            int place = std::numeric_limits<int>::max();
            std::from_chars(mark.data(), mark.data() + mark.size(), place);
            const auto& feeds = arriving_[at(lanes_[l].first)];
            const double wish = kind == Layout::Kind::source ? 0
                                : feeds.empty()              ? nowhere
                                                             : rowOf(feeds.front().other, feeds.front().otherPort);
            items.push_back({static_cast<double>(place), wish, static_cast<int>(l)});
        }
        std::stable_sort(items.begin(), items.end(), [](const Item& a, const Item& b) {
            return a.place != b.place ? a.place < b.place : a.wish < b.wish;
        });
        std::map<std::string, std::vector<Item>> groups;
        for (const auto& i : items)
            groups[markOf(block(lanes_[at(i.lane)].end), "group")].push_back(i);
        const auto lie = [&](const Item& i) {
            auto& lane = layout_.lanes[at(i.lane)];
            // A destination in the row of the warp that feeds it, so that threads run straight; else below what is
            // there.
            lane.row = i.wish < nowhere ? std::max(row, i.wish) : row;
            settled_[at(i.lane)] = true;
            order_.push_back(i.lane);
            row = lane.row + 1;
        };
        for (const auto& i : items) {
            if (settled_[at(i.lane)])
                continue;
            const std::string name = markOf(block(lanes_[at(i.lane)].end), "group");
            if (name.empty()) {
                lie(i);
                continue;
            }
            Layout::Group group{name, kind, 0, {}, false};
            const auto& all = groups[name];
            for (const auto& member : all)
                group.folded = group.folded || !markOf(block(lanes_[at(member.lane)].end), "folded").empty();
            if (i.wish < nowhere)
                row = std::max(row, i.wish - (group.folded ? 0 : headingRows));
            group.row = row;
            row += group.folded ? 1 : headingRows;
            for (const auto& member : all) {
                auto& lane = layout_.lanes[at(member.lane)];
                group.lanes.push_back(lane.end);
                lane.group = name;
                lane.folded = group.folded;
                if (!group.folded) {
                    lie(member);
                    continue;
                }
                lane.row = group.row;
                settled_[at(member.lane)] = true;
                order_.push_back(member.lane);
            }
            layout_.groups.push_back(std::move(group));
        }
        return row;
    }

    // Hubs and inner lanes, position by position: each in the order of the median row of what feeds it.
    double middleRows(std::size_t ends) {
        settled_.resize(lanes_.size());
        struct Item {
            int position;
            std::pair<double, double> wish; // median, and mean where medians are the same
            int unit;
        };
        std::vector<Item> items;
        for (std::size_t u = ends; u < position_.size(); ++u)
            items.push_back({position_[u], {}, static_cast<int>(u)});
        std::stable_sort(items.begin(), items.end(),
                         [](const Item& a, const Item& b) { return a.position < b.position; });
        double lowest = 0;
        for (std::size_t begin = 0, end = 0; begin < items.size(); begin = end) {
            while (end < items.size() && items[end].position == items[begin].position) {
                items[end].wish = wishOf(items[end].unit);
                ++end;
            }
            std::stable_sort(items.begin() + static_cast<std::ptrdiff_t>(begin),
                             items.begin() + static_cast<std::ptrdiff_t>(end),
                             [](const Item& a, const Item& b) { return a.wish < b.wish; });
            double free = 0;
            for (std::size_t i = begin; i < end; ++i) {
                const bool hub = isHub(items[i].unit);
                free = hub ? lieHub(items[i].unit, free) : lieInner(items[i].unit, free);
                lowest = std::max(lowest, hub ? free - 1 : free); // below a hub a row stays empty
            }
        }
        return lowest;
    }
    std::pair<double, double> wishOf(int unit) {
        std::vector<double> rows;
        for (const auto& l : feeding(unit))
            if (const double r = rowOf(l.other, l.otherPort); r < nowhere)
                rows.push_back(r);
        if (rows.empty())
            return {nowhere, nowhere};
        const auto middle = rows.begin() + static_cast<std::ptrdiff_t>((rows.size() - 1) / 2);
        std::nth_element(rows.begin(), middle, rows.end());
        return {*middle, std::accumulate(rows.begin(), rows.end(), 0.0) / static_cast<double>(rows.size())};
    }
    double lieInner(int unit, double free) {
        auto& lane = layout_.lanes[at(unit)];
        const auto& feeds = feeding(unit);
        const double wish = feeds.empty() ? nowhere : rowOf(feeds.front().other, feeds.front().otherPort);
        lane.row = wish < nowhere ? std::max(free, wish) : free;
        settled_[at(unit)] = true;
        order_.push_back(unit);
        return lane.row + 1;
    }
    double lieHub(int unit, double free) {
        const int b = hubBlocks_[at(unit) - lanes_.size()];
        auto& h = layout_.hubs[at(unit) - lanes_.size()];
        const int inputs = ins_[at(b)], outputs = outs_[at(b)];
        std::vector<const Link*> into(at(inputs), nullptr);
        for (const auto& l : arriving_[at(b)])
            if (l.own < inputs)
                into[at(l.own)] = &l;
        double next = free;
        const Layout::Lane* bundled = nullptr;
        for (const Link* l : into) {
            const double wish = l ? rowOf(l->other, l->otherPort) : nowhere;
            const auto* lane = l && lane_[at(l->other)] >= 0 ? &layout_.lanes[at(lane_[at(l->other)])] : nullptr;
            const bool folded = lane && lane->folded;
            if (folded && bundled && bundled->group == lane->group) {
                h.inRows.push_back(h.inRows.back()); // with the others of its group
                continue;
            }
            bundled = folded ? lane : nullptr;
            h.inRows.push_back(wish < nowhere ? std::max(next, wish) : next); // never above the input before it
            next = h.inRows.back() + 1;
        }
        const double first = h.inRows.empty() ? free : h.inRows.front();
        // What leaves a weave runs between the rows, so that no warp covers a weft; other blocks pass sound straight
        // on.
        const double shift = isMatrix(block(b)) ? 0.5 : 0;
        for (int o = 0; o < outputs; ++o)
            h.outRows.push_back(first + shift + o);
        return std::max(h.inRows.empty() ? free : h.inRows.back(), h.outRows.empty() ? free : h.outRows.back()) + 2;
    }

    // Lanes in the order they lie in, and what is where.
    void finish() {
        std::stable_sort(order_.begin(), order_.end(),
                         [&](int a, int b) { return layout_.lanes[at(a)].kind < layout_.lanes[at(b)].kind; });
        std::vector<Layout::Lane> lanes;
        lanes.reserve(order_.size());
        for (const int l : order_)
            lanes.push_back(std::move(layout_.lanes[at(l)]));
        layout_.lanes = std::move(lanes);
        std::stable_sort(layout_.hubs.begin(), layout_.hubs.end(), [](const auto& a, const auto& b) {
            const auto top = [](const Layout::Hub& h) {
                return !h.inRows.empty() ? h.inRows[0] : h.outRows.empty() ? 0 : h.outRows[0];
            };
            return a.column != b.column ? a.column < b.column : top(a) < top(b);
        });
        layout_.laneNumbers.reserve(program_.blocks.size());
        for (std::size_t i = 0; i < layout_.lanes.size(); ++i) {
            layout_.laneNumbers.emplace(layout_.lanes[i].end, i);
            for (const auto& b : layout_.lanes[i].beads)
                layout_.laneNumbers.emplace(b, i);
        }
        for (std::size_t i = 0; i < layout_.hubs.size(); ++i)
            layout_.hubNumbers.emplace(layout_.hubs[i].block, i);
    }

    struct LaneBlocks { // in the order of the sound
        int first, last;
        int end = first;
        LaneBlocks(int f, int l) : first(f), last(l), end(f) {}
    };

    const Program& program_;
    int count_;
    std::vector<int> ins_, outs_;
    std::vector<bool> known_;
    std::vector<std::vector<Link>> leaving_, arriving_;
    std::vector<int> lane_, hub_; // of each block; -1: none
    std::vector<LaneBlocks> lanes_;
    std::vector<int> hubBlocks_;
    std::vector<int> position_; // of each unit: lanes, then hubs
    std::vector<bool> settled_; // lanes whose row is known
    std::vector<int> order_;
    Layout layout_;
};

} // namespace

const Layout::Lane* Layout::laneOf(const std::string& block) const {
    const auto it = laneNumbers.find(block);
    return it == laneNumbers.end() ? nullptr : &lanes[it->second];
}

const Layout::Hub* Layout::hubOf(const std::string& block) const {
    const auto it = hubNumbers.find(block);
    return it == hubNumbers.end() ? nullptr : &hubs[it->second];
}

Layout layOut(const Program& program) {
    return LayOut(program).run();
}

} // namespace loom::engine
