#include "program/tools.h"
#include "engine/block_kind.h"
#include "engine/play_list.h"
#include "engine/schedule.h"
#include "model/block_names.h"
#include <algorithm>
#include <cmath>
#include <tuple>

namespace loom::project {
namespace {

using engine::Block;
using engine::Connection;
using engine::PortRef;
using engine::Program;

bool isFile(const Tool& t) {
    return t.signal.rfind("file ", 0) == 0;
}

bool hasOutput(const Program& p, const PortRef& port) {
    const Block* b = p.find(port.block);
    return b && port.port >= 0 && port.port < engine::outputsOf(p, *b);
}

bool endsThere(const Program& p, const PortRef& port) {
    const Block* b = p.find(port.block);
    return b && engine::outputsOf(p, *b) == 0 && port.port >= 0 && port.port < engine::inputsOf(p, *b);
}

// Puts a block into the thread at `at`: into everything that leaves an output, or what arrives at an end.
void putInto(Program& p, const PortRef& at, Block block) {
    const PortRef in{block.id, 0}, out{block.id, 0};
    if (endsThere(p, at)) {
        p.connections.changeIf([&](const auto& t) { return t.to == at; }, [&](auto& t) { t.to = in; });
        p.connections.push_back({out, at});
    } else {
        p.connections.changeIf([&](const auto& t) { return t.from == at; }, [&](auto& t) { t.from = out; });
        p.connections.push_back({at, in});
    }
    p.blocks.push_back(std::move(block));
}

Block maker(const Tool& t, const std::string& id) {
    if (isFile(t))
        return {id, "player", "", {}, {{"play", 1}}, {{engine::fileKey(1), t.signal.substr(5)}}};
    Block b{id, "generator", "", {}, {{"level", t.levelDb}, {"hz", t.hz}}};
    const auto& table = *engine::BlockView(b).table;
    if (auto choice = engine::parseValue(table.specs()[static_cast<std::size_t>(table.indexOf("signal"))], t.signal))
        b.values["signal"] = *choice;
    return b;
}

std::string placeName(const Program& p, const PortRef& at) {
    const Block* b = p.find(at.block);
    if (!b)
        return at.block;
    const auto* kind = engine::findKind(b->kind);
    const bool many = kind && engine::outputsOf(p, *b) > 1;
    return blockName(p, *b) +
           (many ? " \u00b7 " + engine::portName(*kind, engine::fullShape(*kind, *b), false, at.port) : "");
}

} // namespace

std::string describe(const Program& p, const Tool& t) {
    const auto spec = engine::levelParam("level", "", -80, 12, 0);
    switch (t.kind) {
    case Tool::Kind::mute:
        return "Mute at " + placeName(p, t.at);
    case Tool::Kind::inject:
        return (isFile(t) ? t.signal.substr(5) : t.signal) + ", " + engine::formatValue(spec, t.levelDb) + ", at " +
               placeName(p, t.at);
    case Tool::Kind::bridge:
        return placeName(p, t.from) + " bridged to " + placeName(p, t.at);
    case Tool::Kind::solo:
        return "Only " + engine::formatValue(engine::frequencyParam("hz", "", 1000), t.hz) + " at " +
               placeName(p, t.at);
    }
    return "";
}

bool fits(const Program& p, const Tool& t) {
    return (hasOutput(p, t.at) || endsThere(p, t.at)) && (t.kind != Tool::Kind::bridge || hasOutput(p, t.from));
}

std::vector<ToolSwitch> switchesOf(const Tool& t) {
    const std::string id = "~" + std::to_string(t.number);
    switch (t.kind) {
    case Tool::Kind::mute:
        return {{id + ".mute", "mute", 1, 0}};
    case Tool::Kind::solo:
        return {{id + ".above", "on", 1, 0}, {id + ".below", "on", 1, 0}};
    case Tool::Kind::inject:
        return {{id + ".mix", "2.1", isFile(t) ? t.levelDb : 0, -80}};
    case Tool::Kind::bridge:
        break;
    }
    return {{id + ".mix", "2.1", t.levelDb, -80}};
}

Result<Program> withTools(const Program& p, const std::vector<Tool>& tools) {
    Program n = p;
    for (const Tool& t : tools) {
        if (!fits(p, t))
            return Error{"there is no such place in the program", t.at.block, "Choose a thread."};
        const std::string id = "~" + std::to_string(t.number);
        if (t.kind == Tool::Kind::mute) {
            putInto(n, t.at, {id + ".mute", "level", ""});
            continue;
        }
        if (t.kind == Tool::Kind::solo) { // steep edges around the band
            const double half = std::pow(2.0, t.octaves / 2);
            for (const auto& [name, kind, corner] :
                 {std::tuple{".above", "highpass", t.hz / half}, std::tuple{".below", "lowpass", t.hz * half}}) {
                Block edge{id + name, kind, ""};
                const auto& table = *engine::BlockView(edge).table;
                const auto& range = table.specs()[static_cast<std::size_t>(table.indexOf("corner"))];
                edge.values = {{"on", 0}, {"corner", std::clamp(corner, range.min, range.max)}, {"slope", 3}};
                putInto(n, t.at, std::move(edge));
            }
            continue;
        }
        putInto(n, t.at, {id + ".mix", "matrix", "", {{"inputs", 2}, {"outputs", 1}}, {{"1.1", 0}}});
        PortRef from = t.from;
        if (t.kind == Tool::Kind::inject) {
            from = {id + ".signal", 0};
            n.blocks.push_back(maker(t, from.block));
        }
        n.connections.push_back({from, {id + ".mix", 1}});
    }
    if (auto order = engine::runningOrder(n); !order)
        return order.error();
    return n;
}

} // namespace loom::project
