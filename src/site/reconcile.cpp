#include "site/reconcile.h"
#include "dsp/number.h"
#include "dsp/units.h"
#include "engine/layout.h"
#include "engine/path_response.h"
#include "model/block_names.h"
#include <algorithm>
#include <cmath>
#include <limits>

namespace loom::site {

namespace {

// The lane that a block lies on, by the name of its end; else the block's own.
class Groups {
  public:
    Groups(const Config& design, const Config& device) {
        add(design);
        add(device);
    }
    std::string of(const project::Difference& d) const {
        if (d.block.empty())
            return d.param.rfind("setUp/", 0) == 0     ? "Set-up"
                   : d.param == "rules"                ? "Rules"
                   : d.param.rfind("surface/", 0) == 0 ? "Touch surfaces"
                                                       : "Program";
        const auto it = groups_.find(d.block);
        return it == groups_.end() ? d.what : it->second;
    }

  private:
    void add(const Config& c) {
        if (!c.program)
            return;
        const auto layout = engine::layOut(*c.program);
        const project::BlockNames names(*c.program);
        for (const auto& b : c.program->blocks) {
            const auto* lane = layout.laneOf(b.id);
            const auto* end = lane ? c.program->find(lane->end) : nullptr;
            groups_.try_emplace(b.id, names.of(end ? *end : b));
        }
    }
    std::map<std::string, std::string> groups_;
};

} // namespace

namespace {

Take byItself(const project::Difference& d, Standing standing) {
    if (standing == Standing::nothing || standing == Standing::older || d.changed == project::Changed::here)
        return Take::design;
    return d.changed == project::Changed::there && standing == Standing::current ? Take::device : Take::open;
}

} // namespace

std::vector<Row> rowsOf(const Config& design, const Config& device, const Config* last, Standing standing,
                        const Choices& chosen) {
    const Groups groups(design, device);
    std::vector<Row> rows;
    for (auto& d : differences(design, device, last)) {
        Row r;
        r.key = keyOf(d);
        r.group = groups.of(d);
        if (standing == Standing::older &&
            (d.changed == project::Changed::there || d.changed == project::Changed::both))
            d.changed = project::Changed::older;
        const auto it = chosen.find(r.key);
        r.take = r.key == "program" && !device.program ? Take::design
                 : it != chosen.end()                  ? it->second
                                                       : byItself(d, standing);
        r.difference = std::move(d);
        rows.push_back(std::move(r));
    }
    // Groups in the order in which they first come, each in one piece.
    std::map<std::string, std::size_t> first;
    for (const auto& r : rows)
        first.try_emplace(r.group, first.size());
    std::stable_sort(rows.begin(), rows.end(),
                     [&](const Row& a, const Row& b) { return first[a.group] < first[b.group]; });
    return rows;
}

int openRows(const std::vector<Row>& rows) {
    return static_cast<int>(std::count_if(rows.begin(), rows.end(), [](const Row& r) { return r.take == Take::open; }));
}

Config settled(const Config& design, const Config& device, const std::vector<Row>& rows) {
    std::set<std::string> keys;
    for (const auto& r : rows)
        if (r.take == Take::device)
            keys.insert(r.key);
    return merged(design, device, keys);
}

std::vector<Heard> heardChanges(const Config& from, const Config& to, double rate) {
    std::vector<Heard> out;
    const engine::Program none;
    const auto& a = from.program ? *from.program : none;
    const auto& b = to.program ? *to.program : none;
    std::vector<double> hz;
    for (int i = -16; i <= 12; ++i)
        hz.push_back(1000 * std::pow(10.0, i / 10.0)); // base-ten third octaves, IEC 61260-1
    const auto ends = [](const engine::Program& p, auto kind) {
        std::vector<std::string> ids;
        for (const auto& l : engine::layOut(p).lanes)
            if (l.kind == kind)
                ids.push_back(l.end);
        return ids;
    };
    using Kind = engine::Layout::Kind;
    constexpr double silent = -90; // nobody hears what is lower
    const auto levels = [&](const engine::Program& p, const std::string& source, const std::string& destination) {
        std::vector<double> db(hz.size(), silent);
        if (!p.find(source) || !p.find(destination))
            return db;
        if (const auto h = engine::pathResponse(p, {source, 0}, {destination, 0}, hz, rate))
            for (std::size_t i = 0; i < hz.size(); ++i)
                db[i] = std::max(silent, 20 * std::log10(std::max(std::abs((*h)[i]), 1e-9)));
        return db;
    };
    std::vector<std::string> destinations = ends(b, Kind::destination), sources = ends(b, Kind::source);
    const auto addMissing = [](std::vector<std::string>& all, const std::vector<std::string>& more) {
        for (const auto& id : more)
            if (std::find(all.begin(), all.end(), id) == all.end())
                all.push_back(id);
    };
    addMissing(destinations, ends(a, Kind::destination));
    addMissing(sources, ends(a, Kind::source));
    for (const auto& d : destinations) {
        Heard h;
        double at = 0;
        bool started = false, ended = false;
        for (const auto& s : sources) {
            const auto before = levels(a, s, d), after = levels(b, s, d);
            const auto most = [](const auto& v) { return *std::max_element(v.begin(), v.end()); };
            started = started || (most(before) <= silent && most(after) > silent);
            ended = ended || (most(before) > silent && most(after) <= silent);
            for (std::size_t i = 0; i < hz.size(); ++i)
                if (most(before) > silent && most(after) > silent && std::abs(after[i] - before[i]) > std::abs(h.db)) {
                    h.db = after[i] - before[i];
                    at = hz[i];
                }
        }
        const auto* block = b.find(d) ? b.find(d) : a.find(d);
        h.where = project::blockName(b.find(d) ? b : a, *block);
        if (started || ended) {
            h.what = started && ended ? "hears other sources" : started ? "sound comes in" : "a source falls silent";
            h.db = (started ? 1 : -1) * std::numeric_limits<double>::infinity();
        } else if (std::abs(h.db) >= 0.05) {
            h.what = print("up to %.1f dB %s around %.0f Hz", std::abs(h.db), h.db > 0 ? "louder" : "softer", at);
        } else {
            continue;
        }
        out.push_back(h);
    }
    return out;
}

} // namespace loom::site
