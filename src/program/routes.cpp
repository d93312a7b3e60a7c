#include "program/routes.h"
#include "dsp/words.h"
#include "engine/origin.h"
#include "engine/schedule.h"
#include "model/block_names.h"
#include "program/ports.h"
#include "program/program_edit.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

using engine::BlockView;
using engine::Connection;
using engine::PortRef;
using engine::Program;

bool fits(const char* pattern, const char* name) {
    const char *star = nullptr, *retry = nullptr; // of the last "*", and of what it has not swallowed yet
    for (;;) {
        if (*pattern == '*') {
            star = pattern++;
            retry = name;
        } else if (*name && (*pattern == '?' || *pattern == *name)) {
            ++pattern;
            ++name;
        } else if (!*name && !*pattern) {
            return true;
        } else if (star && *retry) {
            pattern = star + 1;
            name = ++retry;
        } else {
            return false;
        }
    }
}

// Routes through one or several matrix mixers of a program, which grow as they must.
class Router {
  public:
    explicit Router(const Program& p) : p_(p) {}

    std::optional<Error> route(const std::vector<PortRef>& sources, const std::vector<PortRef>& entries, double level) {
        const std::string common = commonHub(sources, entries);
        if (common.empty() && sources.size() == 1 && entries.size() == 1 && level == 0 && !p_.into(entries[0])) {
            p_.connections.push_back({sources[0], entries[0]});
            return {};
        }
        for (const auto& to : entries) {
            std::string hub = common;
            if (const auto* t = p_.into(to); t && isMatrix(t->from.block))
                hub = t->from.block;
            if (hub.empty()) { // all that come after go through the same
                if (made_.empty())
                    made_ = newHub();
                hub = made_;
            }
            auto column = columnTo(hub, to);
            if (!column)
                return column.error();
            for (const auto& from : sources) {
                auto row = rowFrom(hub, from);
                if (!row)
                    return row.error();
                open(hub, *row, *column, level);
            }
        }
        return {};
    }
    Program take() { return std::move(p_); }

  private:
    bool isMatrix(const std::string& id) const {
        const auto* b = p_.find(id);
        return b && engine::isMatrix(*b);
    }
    // The matrix that a source is on, or else one that feeds a destination.
    std::string commonHub(const std::vector<PortRef>& sources, const std::vector<PortRef>& entries) const {
        std::string hub;
        for (const auto& t : p_.connections) {
            if (std::find(sources.begin(), sources.end(), t.from) != sources.end() && isMatrix(t.to.block))
                hub = t.to.block;
            if (hub.empty() && std::find(entries.begin(), entries.end(), t.to) != entries.end() &&
                isMatrix(t.from.block))
                hub = t.from.block;
        }
        return hub;
    }
    std::string newHub() {
        auto made = addBlock(p_, "matrix", "");
        p_ = std::move(made->program);
        p_.find(made->block)->shape = {{"inputs", 1}, {"outputs", 1}};
        return made->block;
    }
    // A port of the hub that no thread is at, grown by one if there is none.
    Result<int> freePort(const std::string& hub, bool input) {
        const BlockView view(*p_.find(hub));
        std::set<int> used;
        for (const auto& t : p_.connections)
            if ((input ? t.to : t.from).block == hub)
                used.insert((input ? t.to : t.from).port);
        const int count = input ? view.inputs() : view.outputs();
        for (int i = 0; i < count; ++i)
            if (!used.count(i))
                return i;
        auto grown = reshapeBlock(p_, hub, input ? "inputs" : "outputs", count + 1);
        if (!grown)
            return grown.error();
        p_ = std::move(*grown);
        return count;
    }
    Result<int> rowFrom(const std::string& hub, const PortRef& from) {
        for (const auto& t : p_.connections)
            if (t.from == from && t.to.block == hub)
                return t.to.port;
        auto row = freePort(hub, true);
        if (row)
            p_.connections.push_back({from, {hub, *row}});
        return row;
    }
    // What the destination hears already goes on through the hub.
    Result<int> columnTo(const std::string& hub, const PortRef& to) {
        const auto* t = p_.into(to);
        if (t && t->from.block == hub)
            return t->from.port;
        const std::optional<PortRef> before = t ? std::optional(t->from) : std::nullopt;
        auto column = freePort(hub, false);
        if (!column)
            return column;
        erase_if(p_.connections, [&](const Connection& x) { return x.to == to; });
        p_.connections.push_back({{hub, *column}, to});
        if (before) {
            auto row = rowFrom(hub, *before);
            if (!row)
                return row;
            open(hub, *row, *column, 0);
        }
        return column;
    }
    void open(const std::string& hub, int row, int column, double level) {
        engine::enterValue(*p_.find(hub), std::to_string(row + 1) + "." + std::to_string(column + 1), level);
    }

    Program p_;
    std::string made_;
};

std::vector<PortRef> soundsOf(const Program& p, const std::vector<std::string>& lanes) {
    std::vector<PortRef> sources;
    for (const auto& lane : lanes) {
        const auto* b = p.find(lane);
        if (!b || engine::outputsOf(p, *b) == 0)
            continue;
        if (const auto at = openEnd(p, lane); std::find(sources.begin(), sources.end(), at) == sources.end())
            sources.push_back(at);
    }
    return sources;
}

const Error noSource{"no source is chosen", "", "Choose the lanes that are to be heard there."};

// A loop is refused with the path it would take.
Result<Program> inOrder(Program p) {
    if (auto order = engine::runningOrder(p); !order)
        return order.error();
    return p;
}

} // namespace

std::vector<Route> draggedRoutes(const engine::Layout& layout, const std::string& dragged, const std::string& target,
                                 const std::vector<std::string>& chosen) {
    const auto *own = layout.laneOf(dragged), *other = layout.laneOf(target);
    if (!own || !other || own->kind == other->kind || own->kind == engine::Layout::Kind::inner ||
        other->kind == engine::Layout::Kind::inner)
        return {};
    const auto isChosen = [&](const std::string& id) {
        return std::find(chosen.begin(), chosen.end(), id) != chosen.end();
    };
    std::vector<std::string> mine, theirs;
    for (const auto& l : layout.lanes) {
        if (l.kind == own->kind && (&l == own || (isChosen(own->end) && isChosen(l.end))))
            mine.push_back(l.end);
        if (l.kind == other->kind && (&l == other || !theirs.empty()))
            theirs.push_back(l.end);
    }
    std::vector<Route> routes;
    for (std::size_t i = 0; i < std::min(mine.size(), theirs.size()); ++i)
        routes.emplace_back(own->source() ? mine[i] : theirs[i], own->source() ? theirs[i] : mine[i]);
    return routes;
}

std::vector<Route> allToOne(const engine::Layout& layout, const std::vector<Route>& routes,
                            const std::vector<std::string>& chosen) {
    std::vector<Route> all;
    const auto add = [&](const std::string& from) {
        if (std::none_of(all.begin(), all.end(), [&](const auto& r) { return r.first == from; }))
            all.emplace_back(from, routes.front().second);
    };
    if (routes.empty())
        return all;
    for (const auto& [from, to] : routes)
        add(from);
    for (const auto& id : chosen)
        if (const auto* l = layout.laneOf(id); l && l->source())
            add(l->end);
    return all;
}

bool fitsPattern(const std::string& pattern, const std::string& name) {
    return fits(lower(pattern).c_str(), lower(name).c_str());
}

int outputFor(const engine::BlockView& view, int in) {
    int found = -1;
    for (int o = 0; o < view.outputs(); ++o)
        if (std::abs(view.response(in, o, 1000, 48000)) > 1e-6) {
            if (found >= 0)
                return -1;
            found = o;
        }
    for (int i = 0; found >= 0 && i < view.inputs(); ++i)
        if (i != in && std::abs(view.response(i, found, 1000, 48000)) > 1e-6)
            return -1;
    return found;
}

PortRef openEnd(const Program& p, const std::string& lane) {
    PortRef at{lane, 0};
    for (std::size_t steps = 0; steps <= p.blocks.size(); ++steps) {
        const engine::Connection* only = nullptr;
        int count = 0;
        for (const auto& t : p.connections)
            if (t.from == at) {
                only = &t;
                ++count;
            }
        if (count != 1)
            return at;
        const auto* b = p.find(only->to.block);
        if (!b || !engine::findKind(b->kind))
            return at;
        if (b->kind == "automixer")
            return openEnd(p, b->id);
        const engine::BlockView view(*b);
        const int out = view.inputs() == 1 && view.outputs() == 1 ? 0
                        : engine::isMatrix(*b)                    ? -1
                                                                  : outputFor(view, only->to.port);
        if (out < 0)
            return at;
        at = {b->id, out};
    }
    return at;
}

// A chain from a source straight to it is the source's lane.
PortRef entryOf(const Program& p, const std::string& destination) {
    const PortRef own{destination, 0};
    PortRef at = own;
    for (std::size_t steps = 0; steps <= p.blocks.size(); ++steps) {
        const auto* t = p.into(at);
        const auto* b = t ? p.find(t->from.block) : nullptr;
        if (!b)
            return at;
        const int ins = engine::inputsOf(p, *b), outs = engine::outputsOf(p, *b);
        if (ins == 0 && outs == 1)
            return own;
        if (ins != 1 || outs != 1 ||
            std::count_if(p.connections.begin(), p.connections.end(),
                          [&](const Connection& x) { return x.from.block == b->id; }) > 1)
            return at;
        at = {b->id, 0};
    }
    return at;
}

Result<Program> routeAll(const Program& p, const std::vector<std::string>& lanes,
                         const std::vector<std::string>& destinations, double level) {
    const auto sources = soundsOf(p, lanes);
    if (sources.empty())
        return noSource;
    std::vector<PortRef> entries;
    for (const auto& d : destinations)
        if (const auto* b = p.find(d); b && engine::outputsOf(p, *b) == 0)
            entries.push_back(entryOf(p, d));
    if (entries.empty())
        return Error{"no destination is meant", "", "Choose where it is to be heard."};
    Router router(p);
    if (auto error = router.route(sources, entries, level))
        return *error;
    return inOrder(router.take());
}

Result<Program> routeInOrder(const Program& p, const std::vector<std::string>& lanes,
                             const std::vector<std::string>& destinations, double level) {
    Result<Program> n = p;
    for (std::size_t i = 0; i < std::min(lanes.size(), destinations.size()) && n; ++i)
        n = routeAll(*n, {lanes[i]}, {destinations[i]}, level);
    return n;
}

Result<Program> routeLanes(const Program& p, const std::vector<std::string>& lanes, const std::string& pattern,
                           double level) {
    const auto sources = soundsOf(p, lanes);
    if (sources.empty())
        return noSource;
    std::vector<std::string> destinations;
    const BlockNames names(p);
    for (const auto& b : p.blocks)
        if (engine::endOf(b) == engine::End::leaves && fitsPattern(pattern, names.of(b)))
            destinations.push_back(b.id);
    if (!destinations.empty())
        return routeAll(p, lanes, destinations, level);
    Result<Program> n = p;
    bool named = false; // inputs that have a name of their own, such as an echo canceller's reference
    for (const auto& b : p.blocks) {
        const auto* kind = engine::findKind(b.kind);
        const int ins = kind && kind->portName ? engine::inputsOf(p, b) : 0;
        for (int i = 0; i < ins && n; ++i) {
            const std::string port = engine::portName(*kind, engine::fullShape(*kind, b), true, i);
            if (std::isdigit(static_cast<unsigned char>(port[0])) || !fitsPattern(pattern, names.of(b) + " " + port))
                continue;
            n = drawThread(*n, sources.front(), {b.id, i});
            named = true;
        }
    }
    if (!named)
        return Error{"no destination is called \"" + pattern + "\"", "", "* stands for any letters: ceiling*."};
    return n;
}

Result<MixMinus> mixMinus(const Program& p, const std::string& matrix, int output) {
    const auto* hub = p.find(matrix);
    if (!hub || !engine::isMatrix(*hub))
        return Error{"only a matrix mixer can leave sounds out", matrix, "Choose one."};
    const auto portOf = [&](const std::string& end) {
        const auto* b = p.find(end);
        return b && b->texts.count("port") ? b->texts.at("port") : std::string();
    };
    const auto own = engine::origins(p);
    const BlockView view(*hub);
    std::vector<std::string> sources(static_cast<std::size_t>(view.inputs()));
    for (int i = 0; i < view.inputs(); ++i)
        if (const auto* t = p.into({matrix, i}))
            if (const auto it = own.find(t->from); it != own.end())
                sources[static_cast<std::size_t>(i)] = it->second;
    MixMinus m{p, 0, 0, {}};
    auto& mixer = *m.program.find(matrix);
    for (const auto& b : p.blocks) {
        if (engine::endOf(b) != engine::End::leaves || portOf(b.id).empty())
            continue;
        const auto* t = p.into(entryOf(p, b.id));
        if (!t || t->from.block != matrix || (output >= 0 && t->from.port != output))
            continue;
        // "in 1" and "out 1" are different sockets; of a stream, a call or a computer both ways have one name.
        const auto comesBack = [&](const std::string& source) {
            return !source.empty() && portOf(source) == portOf(b.id);
        };
        if (std::none_of(sources.begin(), sources.end(), comesBack))
            continue;
        for (int i = 0; i < view.inputs(); ++i) {
            if (!p.into({matrix, i}))
                continue;
            const std::string crossing = std::to_string(i + 1) + "." + std::to_string(t->from.port + 1);
            const auto it = mixer.values.find(crossing);
            const bool open = it != mixer.values.end() && it->second > -80;
            const auto& source = sources[static_cast<std::size_t>(i)];
            if (comesBack(source)) {
                m.closed += open;
                mixer.values.erase(crossing);
                m.pairs.push_back(blockName(p, *p.find(source)) + " is left out of " + blockName(p, b));
            } else if (!open) {
                mixer.values[crossing] = 0;
                ++m.opened;
            }
        }
    }
    if (m.pairs.empty())
        return Error{"no output of this mixer goes back to where one of its inputs comes from", matrix,
                     "Mix-minus is for a far end: a source and a destination at the same port, such as usb 1."};
    return m;
}

} // namespace loom::project
