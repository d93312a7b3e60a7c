#include "engine/layout.h"
#include "engine/block_kind.h"
#include <algorithm>
#include <set>
#include <unordered_map>

namespace loom::engine {
namespace {

class LayOut {
  public:
    explicit LayOut(const Program& p) : program_(p) {
        for (const auto& b : p.blocks) {
            blocks_[b.id] = &b;
            ports_[b.id] = {inputsOf(p, b), outputsOf(p, b)};
        }
        for (const auto& t : p.threads) {
            leaving_[t.from.block].push_back(&t);
            arriving_[t.to] = &t;
        }
    }

    Layout run() {
        for (const auto& b : program_.blocks)
            if (ports(b.id) == std::pair(0, 1))
                sourceLane(b.id);
        for (const auto& b : program_.blocks)
            if (ports(b.id) == std::pair(1, 0))
                destinationLane(b.id);
        for (const auto& b : program_.blocks)
            if (!placed_.count(b.id))
                layout_.hubs.push_back({b.id, 0, {}, {}});
        columns();
        rows();
        for (std::size_t i = 0; i < layout_.lanes.size(); ++i) {
            layout_.laneNumbers.emplace(layout_.lanes[i].end, i);
            for (const auto& b : layout_.lanes[i].beads)
                layout_.laneNumbers.emplace(b, i);
        }
        for (std::size_t i = 0; i < layout_.hubs.size(); ++i)
            layout_.hubNumbers.emplace(layout_.hubs[i].block, i);
        return std::move(layout_);
    }

  private:
    std::pair<int, int> ports(const std::string& id) const { return ports_.at(id); }
    bool bead(const std::string& id) const {
        return ports_.count(id) && ports(id) == std::pair(1, 1) && !placed_.count(id);
    }

    void sourceLane(const std::string& id) {
        Layout::Lane lane{id, true, 0, {}, {id, 0}};
        placed_.insert(id);
        for (auto next = beadAfter(id); !next.empty(); next = beadAfter(next)) {
            lane.beads.push_back(next);
            placed_.insert(next);
            lane.open = {next, 0};
        }
        layout_.lanes.push_back(lane);
        layout_.sourceSlots = std::max(layout_.sourceSlots, static_cast<int>(lane.beads.size()));
    }

    void destinationLane(const std::string& id) {
        Layout::Lane lane{id, false, 0, {}, {id, 0}};
        placed_.insert(id);
        for (auto before = arriving_.find({id, 0}); before != arriving_.end();) {
            const std::string at = before->second->from.block;
            if (!bead(at) || leaving_[at].size() != 1)
                break;
            lane.beads.insert(lane.beads.begin(), at);
            placed_.insert(at);
            lane.open = {at, 0};
            before = arriving_.find({at, 0});
        }
        layout_.lanes.push_back(lane);
        layout_.destinationSlots = std::max(layout_.destinationSlots, static_cast<int>(lane.beads.size()));
    }

    // The next bead of a lane. Where its sound also reaches weaves and ends, those threads branch off and the lane goes
    // on; where it reaches several beads, the lane ends and the fork is drawn there.
    std::string beadAfter(const std::string& id) {
        std::string next;
        for (const Thread* t : leaving_[id]) {
            if (!bead(t->to.block))
                continue;
            if (!next.empty())
                return "";
            next = t->to.block;
        }
        return next;
    }

    // A hub's column is the length of the longest way to it through other hubs.
    void columns() {
        std::unordered_map<std::string, Layout::Hub*> hubs;
        for (auto& h : layout_.hubs)
            hubs[h.block] = &h;
        for (std::size_t round = 0; round < std::min<std::size_t>(layout_.hubs.size(), 32); ++round)
            for (const auto& t : program_.threads) {
                const auto a = hubs.find(t.from.block), b = hubs.find(t.to.block);
                if (a != hubs.end() && b != hubs.end() && a != b)
                    b->second->column = std::min(31, std::max(b->second->column, a->second->column + 1));
            }
        for (const auto& h : layout_.hubs)
            layout_.columns = std::max(layout_.columns, h.column + 1);
    }

    void rows() {
        double row = 0;
        std::unordered_map<std::string, double> at; // where the sound of a block lies
        for (auto& lane : layout_.lanes)
            if (lane.source) {
                lane.row = row++;
                at[lane.end] = lane.row;
                for (const auto& b : lane.beads)
                    at[b] = lane.row;
            }
        double lowest = row;
        std::vector<double> free(32, 0.0); // the first row of a column that nothing lies on
        std::stable_sort(layout_.hubs.begin(), layout_.hubs.end(),
                         [](const auto& a, const auto& b) { return a.column < b.column; });
        for (auto& h : layout_.hubs) {
            placeInputs(h, at, free[h.column]);
            const auto outs = ports(h.block).second;
            const double first = h.inRows.empty() ? free[h.column] : h.inRows.front();
            // What leaves a weave runs between the rows, so that no warp covers a weft; other blocks pass sound
            // straight on.
            const double shift = blocks_.at(h.block)->kind == "matrix" ? 0.5 : 0;
            for (int o = 0; o < outs; ++o)
                h.outRows.push_back(first + shift + o);
            at[h.block] = first;
            const double end =
                std::max(h.inRows.empty() ? 0 : h.inRows.back(), h.outRows.empty() ? 0 : h.outRows.back());
            free[h.column] = end + 2;
            lowest = std::max(lowest, end + 1);
        }
        destinationRows();
        for (const auto& lane : layout_.lanes)
            lowest = std::max(lowest, lane.row + 1);
        layout_.rows = lowest;
    }

    void placeInputs(Layout::Hub& h, const std::unordered_map<std::string, double>& at, double next) {
        for (int i = 0; i < ports(h.block).first; ++i) {
            const auto t = arriving_.find({h.block, i});
            const auto from = t == arriving_.end() ? at.end() : at.find(t->second->from.block);
            const double wish = from == at.end() ? next : from->second;
            h.inRows.push_back(std::max(next, wish)); // never above the input before it
            next = h.inRows.back() + 1;
        }
    }

    void destinationRows() {
        std::unordered_map<std::string, const Layout::Hub*> hubs;
        for (const auto& h : layout_.hubs)
            hubs[h.block] = &h;
        const auto wish = [&](const Layout::Lane& l) {
            const auto t = arriving_.find(l.open);
            const auto h = t == arriving_.end() ? hubs.end() : hubs.find(t->second->from.block);
            if (h == hubs.end())
                return 1e6;
            const auto port = static_cast<std::size_t>(t->second->from.port);
            return port < h->second->outRows.size() ? h->second->outRows[port] : 1e6;
        };
        std::vector<std::pair<double, Layout::Lane*>> order;
        for (auto& l : layout_.lanes)
            if (!l.source)
                order.emplace_back(wish(l), &l);
        std::stable_sort(order.begin(), order.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        // In the row of the warp that feeds them, so that threads run straight; else below what is there.
        double row = 0.5;
        for (auto& [wished, lane] : order) {
            lane->row = wished < 1e6 ? std::max(row, wished) : row;
            row = lane->row + 1;
        }
    }

    const Program& program_;
    std::unordered_map<std::string, const Block*> blocks_;
    std::unordered_map<std::string, std::pair<int, int>> ports_;
    std::unordered_map<std::string, std::vector<const Thread*>> leaving_;
    std::map<PortRef, const Thread*> arriving_;
    std::set<std::string> placed_;
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
