#include "project/tools.h"
#include "engine/block_kind.h"
#include "engine/play_list.h"
#include "engine/plan.h"
#include "project/findings.h"

namespace loom::project {
namespace {

using engine::Block;
using engine::PortRef;
using engine::Program;
using engine::Thread;

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
        for (auto& t : p.threads)
            if (t.to == at)
                t.to = in;
        p.threads.push_back({out, at});
    } else {
        for (auto& t : p.threads)
            if (t.from == at)
                t.from = out;
        p.threads.push_back({at, in});
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
    }
    return "";
}

bool fits(const Program& p, const Tool& t) {
    return (hasOutput(p, t.at) || endsThere(p, t.at)) && (t.kind != Tool::Kind::bridge || hasOutput(p, t.from));
}

Result<Program> withTools(const Program& p, const std::vector<Tool>& tools, const std::vector<bool>& awake) {
    Program n = p;
    for (std::size_t i = 0; i < tools.size(); ++i) {
        const Tool& t = tools[i];
        const bool acts = i < awake.size() && awake[i];
        if (!fits(p, t))
            return Trouble{"there is no such place in the program", t.at.block, "Choose a thread."};
        const std::string id = "~" + std::to_string(i + 1);
        if (t.kind == Tool::Kind::mute) {
            Block mute{id + ".mute", "level", ""};
            if (acts)
                mute.values["mute"] = 1;
            putInto(n, t.at, std::move(mute));
            continue;
        }
        Block mix{id + ".mix", "matrix", "", {{"inputs", 2}, {"outputs", 1}}, {{"1.1", 0}}};
        if (acts)
            mix.values["2.1"] = t.kind == Tool::Kind::inject && !isFile(t) ? 0 : t.levelDb;
        putInto(n, t.at, std::move(mix));
        PortRef from = t.from;
        if (t.kind == Tool::Kind::inject) {
            n.blocks.push_back(maker(t, id + ".signal"));
            from = {id + ".signal", 0};
        }
        n.threads.push_back({from, {id + ".mix", 1}});
    }
    if (auto order = engine::runningOrder(n); !order)
        return order.trouble();
    return n;
}

} // namespace loom::project
