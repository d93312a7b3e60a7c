#include "program/program_edit.h"
#include "engine/block_kind.h"
#include "engine/latency.h"
#include "engine/schedule.h"
#include <algorithm>
#include <cmath>
#include <set>

namespace loom::project {
namespace {

using engine::Connection;
using engine::PortRef;
using engine::Program;

void redirectLeaving(Program& p, const PortRef& old, const PortRef& now) {
    p.connections.changeIf([&](const Connection& t) { return t.from == old; }, [&](Connection& t) { t.from = now; });
}

// Goes through the ends of threads that lie at a block: `keep` sets them anew, and says whether the thread stays.
template <class F> void keepConnections(List<Connection>& connections, const std::string& block, F keep) {
    List<Connection> all;
    for (Connection t : connections) {
        const Connection was = t;
        if ((was.to.block != block || keep(was, t.to, true)) && (was.from.block != block || keep(was, t.from, false)))
            all.push_back(std::move(t));
    }
    connections = std::move(all);
}

// The only thread that leaves or reaches a one-channel block; null if there is none or more than one.
const Connection* onlyFrom(const Program& p, const std::string& block) {
    const Connection* found = nullptr;
    for (const auto& t : p.connections)
        if (t.from.block == block) {
            if (found)
                return nullptr;
            found = &t;
        }
    return found;
}

bool oneChannel(const Program& p, const std::string& id) {
    const auto* b = p.find(id);
    return b && engine::inputsOf(p, *b) == 1 && engine::outputsOf(p, *b) == 1;
}

// The lane's name that new ids begin with: "delegate-3" of "delegate-3.eq".
std::string laneOf(const std::string& id) {
    return id.substr(0, id.find('.'));
}

Result<Program> checked(Program p) {
    if (auto order = engine::runningOrder(p); !order)
        return order.error();
    return p;
}

Error noSuchKind(const std::string& kind) {
    return {"there is no block kind \"" + kind + "\"", "", "loomctl blocks lists them."};
}

} // namespace

bool fitsLane(const engine::BlockKind& kind) {
    const engine::BlockView plain(engine::Block{"x", kind.id, ""});
    return plain.inputs() == 1 && plain.outputs() == 1;
}

Result<NewBlock> insertBlock(const Program& p, const std::string& kindId, const PortRef& after,
                             const std::string& lane) {
    const auto* kind = engine::findKind(kindId);
    if (!kind)
        return noSuchKind(kindId);
    if (!fitsLane(*kind))
        return Error{"a " + kind->label + " cannot lie on a lane", "",
                     "Choose a block with one way in and one way out."};
    const auto* at = p.find(after.block);
    if (!at)
        return Error{"there is no block " + after.block, "", ""};
    NewBlock n{p, engine::freshId(p, (lane.empty() ? laneOf(after.block) : lane) + "." + kindId)};
    n.program.blocks.push_back({n.block, kindId, ""});
    const PortRef in{n.block, 0}, out{n.block, 0};
    if (engine::outputsOf(p, *at) == 0) { // before a destination
        n.program.connections.changeIf([&](const Connection& t) { return t.to == after; },
                                       [&](Connection& t) { t.to = in; });
        n.program.connections.push_back({out, after});
    } else {
        redirectLeaving(n.program, after, out);
        n.program.connections.push_back({after, in});
    }
    return n;
}

Result<NewBlock> addBlock(const Program& p, const std::string& kindId, const std::string& label,
                          const std::map<std::string, std::string>& texts) {
    if (!engine::findKind(kindId))
        return noSuchKind(kindId);
    NewBlock n{p, engine::freshId(p, engine::slug(label.empty() ? kindId : label))};
    n.program.blocks.push_back({n.block, kindId, label, {}, {}, texts});
    return n;
}

Result<Program> passingOn(const DeviceModel& model) {
    Program program;
    const auto inputs = model.ports(true);
    for (const auto& out : model.ports(false)) {
        const std::string number = out.substr(out.rfind(' '));
        auto in = std::find(inputs.begin(), inputs.end(), "in" + number);
        if (in == inputs.end())
            in = std::find(inputs.begin(), inputs.end(), "net" + number);
        if (in == inputs.end())
            continue;
        auto source = addBlock(program, "source", "In" + number, {{"port", *in}});
        auto end = source ? addBlock(source->program, "destination", "Out" + number, {{"port", out}}) : source;
        auto drawn = end ? drawThread(end->program, {source->block, 0}, {end->block, 0}) : Result<Program>(end.error());
        if (!drawn)
            return drawn.error();
        program = *drawn;
    }
    return program;
}

Result<Program> removeBlock(const Program& p, const std::string& id) {
    if (!p.find(id))
        return Error{"there is no block " + id, "", ""};
    Program n = p;
    if (oneChannel(p, id)) {
        if (const auto* t = p.into({id, 0}))
            redirectLeaving(n, {id, 0}, t->from);
    }
    erase_if(n.connections, [&](const Connection& t) { return t.from.block == id || t.to.block == id; });
    erase_if(n.blocks, [&](const auto& b) { return b.id == id; });
    return n;
}

int brokenBy(const Program& before, const Program& after) {
    std::set<PortRef> fed;
    for (const auto& t : after.connections)
        fed.insert(t.to);
    return static_cast<int>(
        std::count_if(before.connections.begin(), before.connections.end(),
                      [&](const Connection& t) { return after.find(t.to.block) && !fed.count(t.to); }));
}

Result<Program> moveBlock(const Program& p, const std::string& id, int by) {
    const Error stuck{"this block cannot go further along its lane", id, ""};
    if (!oneChannel(p, id))
        return stuck;
    std::string first = id; // the earlier one of the two that change places
    if (by < 0) {
        const auto* t = p.into({id, 0});
        if (!t)
            return stuck;
        first = t->from.block;
    }
    const auto* between = onlyFrom(p, first);
    const auto* before = p.into({first, 0});
    if (!between || !before || !oneChannel(p, first) || !oneChannel(p, between->to.block))
        return stuck;
    const std::string second = between->to.block;
    const PortRef from = before->from;
    Program n = p;
    redirectLeaving(n, {second, 0}, {first, 0});
    n.connections.changeIf(
        [&](const Connection& t) {
            return t.to == PortRef{first, 0} || t.to == PortRef{second, 0};
        },
        [&](Connection& t) {
            t = t.to.block == first ? Connection{from, {second, 0}} : Connection{{second, 0}, {first, 0}};
        });
    return n;
}

Result<Program> reshapeBlock(const Program& p, const std::string& id, const std::string& shape, int count) {
    const auto* old = p.find(id);
    const auto* kind = old ? engine::findKind(old->kind) : nullptr;
    const auto* spec = kind ? kind->shapeSpec(shape) : nullptr;
    if (!spec)
        return Error{"there is nothing of this name to count", id + "." + shape, "loomctl blocks lists what there is."};
    if (count < spec->min || count > spec->max)
        return Error{spec->label + " must be " + std::to_string(spec->min) + " to " + std::to_string(spec->max), id,
                     ""};
    Program n = p;
    auto& b = *n.find(id);
    count == spec->def ? void(b.shape.erase(shape)) : void(b.shape[shape] = count);
    const engine::BlockView was(*old), now(b);
    std::erase_if(b.values, [&](const auto& v) { return now.table->indexOf(v.first) < 0; });
    for (auto& [param, value] : b.values) { // "lane 8" of eight lanes is past the end of six
        const auto& s = now.table->specs()[static_cast<std::size_t>(now.table->indexOf(param))];
        value = std::clamp(value, s.min, s.max);
    }
    std::map<std::pair<bool, std::string>, int> places;
    for (const bool input : {true, false})
        for (int i = 0; i < (input ? now.inputs() : now.outputs()); ++i)
            places[{input, engine::portName(*kind, now.shape, input, i)}] = i;
    keepConnections(n.connections, id, [&](const Connection&, PortRef& end, bool input) {
        const auto at = places.find({input, engine::portName(*kind, was.shape, input, end.port)});
        if (at != places.end())
            end.port = at->second;
        return at != places.end();
    });
    return n;
}

Result<Program> drawThread(const Program& p, const PortRef& from, const PortRef& to) {
    const auto *a = p.find(from.block), *b = p.find(to.block);
    if (!a || !b || from.port < 0 || to.port < 0 || from.port >= engine::outputsOf(p, *a) ||
        to.port >= engine::inputsOf(p, *b))
        return Error{"there is no such port", from.block + " \u2192 " + to.block, ""};
    Program n = p;
    erase_if(n.connections, [&](const Connection& t) { return t.to == to; });
    n.connections.push_back({from, to});
    return checked(std::move(n));
}

Result<Program> cutConnection(const Program& p, const PortRef& to) {
    Program n = p;
    if (erase_if(n.connections, [&](const Connection& t) { return t.to == to; }) == 0)
        return Error{"no thread arrives there", to.block, ""};
    return n;
}

namespace {

// The port of the new kind that a port of the old one becomes; -1: none.
int portFor(const engine::BlockView& was, const engine::BlockView& now, bool input, int port) {
    const int count = input ? now.inputs() : now.outputs();
    const std::string name = engine::portName(*was.kind, was.shape, input, port);
    for (int i = 0; i < count; ++i)
        if (engine::portName(*now.kind, now.shape, input, i) == name)
            return i;
    return port < count ? port : -1;
}

} // namespace

Result<Swapped> swapBlock(const Program& p, const std::string& id, const std::string& kindId) {
    const auto* old = p.find(id);
    const auto* kind = engine::findKind(kindId);
    if (!old)
        return Error{"there is no block " + id, "", ""};
    if (!kind)
        return noSuchKind(kindId);
    if (!engine::findKind(old->kind))
        return Error{"a block of an unknown kind cannot be swapped", id, "Remove it and insert another."};
    Swapped s{p, engine::freshId(p, laneOf(id) + "." + kindId), {}};
    if (kind->end != engine::End::none || id.find('.') == std::string::npos)
        s.block = engine::freshId(p, engine::slug(old->label.empty() ? kindId : old->label));
    auto& b = *s.program.find(id);
    const engine::Block before = *old;
    b.id = s.block;
    b.kind = kindId;
    b.shape.clear();
    b.values.clear();
    for (const auto& [shape, count] : before.shape) // as many channels, bands ... as there were
        if (const auto* spec = kind->shapeSpec(shape))
            b.shape[shape] = std::clamp(count, spec->min, spec->max);
    if (kind->end == engine::End::none)
        b.texts.erase("port");
    const engine::BlockView was(before), now(b);
    for (const auto& [param, value] : before.values) {
        const int from = was.table->indexOf(param), to = now.table->indexOf(param);
        const auto& spec = was.table->specs()[static_cast<std::size_t>(std::max(from, 0))];
        const auto* other = to < 0 ? nullptr : &now.table->specs()[static_cast<std::size_t>(to)];
        if (from >= 0 && other && other->unit == spec.unit && other->choices == spec.choices && value >= other->min &&
            value <= other->max)
            b.values[param] = value;
        else if (from >= 0)
            s.lost.push_back(spec.label);
    }
    int kept = 0, connections = 0;
    keepConnections(s.program.connections, id, [&](const Connection& t, PortRef& end, bool input) {
        ++connections;
        const int port = portFor(was, now, input, end.port);
        if (port < 0) {
            const auto* other = p.find((input ? t.from : t.to).block);
            s.lost.push_back("a thread " + std::string(input ? "from " : "to ") + (other ? other->id : "nowhere"));
            return false;
        }
        end = {s.block, port};
        ++kept;
        return true;
    });
    if (connections > 0 && kept == 0)
        return Error{"a " + kind->label + " fits none of the threads here", id, "Choose another block."};
    if (auto order = engine::runningOrder(s.program); !order)
        return order.error();
    return s;
}

Result<Program> usePort(const Program& p, const std::string& end, const std::string& port) {
    Program n = p;
    auto* own = n.find(end);
    if (!own || engine::endOf(*own) == engine::End::none)
        return Error{"only sources and destinations have a port of the device", end, ""};
    n.blocks.changeIf(
        [&](const engine::Block& b) {
            const auto at = b.texts.find("port");
            return b.id != end && engine::endOf(b) == engine::endOf(*own) && at != b.texts.end() &&
                   at->second == port && !port.empty();
        },
        [&](engine::Block& b) {
            const auto had = own->texts.find("port");
            had == own->texts.end() ? void(b.texts.erase("port")) : void(b.texts["port"] = had->second);
        });
    port.empty() ? void(own->texts.erase("port")) : void(own->texts["port"] = port);
    return n;
}

Result<Program> restoreBlock(const Program& p, const std::string& id, const Program* as) {
    Program n = p;
    auto* b = n.find(id);
    if (!b || !engine::findKind(b->kind))
        return Error{"there is no such block", id, ""};
    const auto* like = as ? as->find(id) : nullptr;
    if (as && (!like || like->kind != b->kind))
        return Error{"this block was not there then", id, ""};
    b->values = like ? like->values : std::map<std::string, double>{};
    const engine::BlockView now(*b);
    std::erase_if(b->values, [&](const auto& v) { return now.table->indexOf(v.first) < 0; });
    return n;
}

namespace {

// The Alignment block that a thread comes from and that does nothing else; null: none.
const engine::Block* holderOf(const Program& p, const Connection& t) {
    const auto* from = p.find(t.from.block);
    return from && from->kind == "align" && oneChannel(p, from->id) && onlyFrom(p, from->id) ? from : nullptr;
}

// `late`: by how many samples what arrives at an input is late now.
Program aligned(const Program& p, const std::string& block, const std::map<int, int>& late) {
    std::map<int, int> early; // without Alignment
    for (const auto& [port, samples] : late) {
        const auto* holder = holderOf(p, *p.into({block, port}));
        early[port] =
            samples - (holder ? static_cast<int>(std::lround(engine::BlockView(*holder).look()["samples"])) : 0);
    }
    int most = 0;
    for (const auto& [port, samples] : early)
        most = std::max(most, samples);
    Program n = p;
    for (const auto& [port, samples] : early) {
        const Connection connection = *p.into({block, port});
        const auto* holder = holderOf(p, connection);
        if (holder && samples == most) {
            n = *removeBlock(n, holder->id);
        } else if (holder) {
            n.find(holder->id)->values["samples"] = most - samples;
        } else if (samples < most) {
            const std::string id = engine::freshId(n, laneOf(connection.from.block) + ".align");
            n.blocks.push_back({id, "align", "", {}, {{"samples", static_cast<double>(most - samples)}}});
            n.connections.changeIf([&](const Connection& t) { return t == connection; },
                                   [&](Connection& t) {
                                       t.from = {id, 0};
                                   });
            n.connections.push_back({connection.from, {id, 0}});
        }
    }
    return n;
}

} // namespace

Result<Program> alignLanes(const Program& p, const std::string& block, double rate) {
    if (!p.find(block))
        return Error{"there is no block " + block, "", ""};
    if (auto order = engine::runningOrder(p); !order)
        return order.error();
    const auto all = engine::latencies(p, rate);
    std::map<int, int> late;
    for (const auto& t : p.connections)
        if (const auto from = all.find(t.from); t.to.block == block && from != all.end())
            late[t.to.port] = from->second.most;
    if (late.size() < 2)
        return Error{"no two lanes meet here", block, "Choose a block at which several threads arrive."};
    return aligned(p, block, late);
}

Result<Program> alignAllLanes(const Program& p, double rate) {
    if (auto order = engine::runningOrder(p); !order)
        return order.error();
    Program n = p;
    // The first along the sound at each round: what is held back there changes how late things are behind it. Where
    // several sounds meet, one may need another round; two that contradict each other cannot both be put right.
    constexpr int rounds = 4;
    std::map<std::string, int> tried;
    for (;;) {
        const auto meetings = engine::unevenMeetings(n, rate);
        const auto next =
            std::find_if(meetings.begin(), meetings.end(), [&](const auto& m) { return tried[m.block]++ < rounds; });
        if (next == meetings.end())
            return n;
        n = aligned(n, next->block, next->ports);
    }
}

} // namespace loom::project
