#include "project/tools.h"
#include "engine/block_kind.h"
#include "engine/plan.h"
#include "engine/play_list.h"
#include "project/findings.h"
#include <algorithm>
#include <cmath>
#include <sstream>
#include <tuple>

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
        p.threads.changeIf([&](const auto& t) { return t.to == at; }, [&](auto& t) { t.to = in; });
        p.threads.push_back({out, at});
    } else {
        p.threads.changeIf([&](const auto& t) { return t.from == at; }, [&](auto& t) { t.from = out; });
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

Result<Tool> readSignal(const std::string& text) {
    std::vector<std::string> words;
    std::istringstream in(text);
    for (std::string w; in >> w;)
        words.push_back(w);
    Tool t{Tool::Kind::inject};
    if (words.empty())
        return Trouble{"nothing was said to inject", "", "Say pink -20, sine 1k -20 or file NAME."};
    const bool file = words[0] == "file";
    const auto level = engine::levelParam("level", "the level", -80, file ? 12 : 0, -20);
    std::size_t last = words.size();
    t.levelDb = file ? 0 : -20;
    if (const char sign = words.back()[0];
        words.size() > (file ? 2u : 1u) && (sign == '-' || sign == '+' || words.back() == "0")) {
        auto value = engine::parseValue(level, words.back());
        if (!value)
            return value.trouble();
        t.levelDb = *value;
        --last;
    }
    if (file) {
        t.signal = "file";
        for (std::size_t i = 1; i < last; ++i)
            t.signal += " " + words[i];
        return last > 1 ? Result<Tool>(t) : Result<Tool>(Trouble{"no file was named", "", ""});
    }
    const engine::BlockView view(engine::Block{"x", "generator", ""});
    const auto& specs = view.table->specs();
    t.signal = words[0];
    if (auto choice = engine::parseValue(specs[static_cast<std::size_t>(view.table->indexOf("signal"))], t.signal);
        !choice)
        return choice.trouble();
    if (last > 1) {
        auto hz = engine::parseValue(specs[static_cast<std::size_t>(view.table->indexOf("hz"))], words[1]);
        if (!hz)
            return hz.trouble();
        t.hz = *hz;
    }
    return t;
}

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
            return Trouble{"there is no such place in the program", t.at.block, "Choose a thread."};
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
        n.threads.push_back({from, {id + ".mix", 1}});
    }
    if (auto order = engine::runningOrder(n); !order)
        return order.trouble();
    return n;
}

} // namespace loom::project
