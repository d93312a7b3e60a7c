// The declarations of programs and of the tools that are put at their threads.
#include "engine/graph.h"
#include "model/describe.h"
#include <cmath>

namespace loom::schema {

using namespace project;
using engine::Block;
using engine::Connection;
using engine::PortRef;
using engine::Program;

namespace {

constexpr int mostPorts = 4096;
constexpr const char* portMust = "must be a port such as [\"chair\", 0]";
constexpr const char* connectionMust = "must be a thread such as [[\"chair\", 0], [\"eq\", 0]]";

bool readPort(const Json& j, PortRef& v, bool limited) {
    if (!j.is_array() || j.size() != 2 || !j[0].is_string() || !j[1].is_number_integer())
        return false;
    const double n = j[1].get<double>();
    if (limited && (n < 0 || n > mostPorts))
        return false;
    v = {j[0].get<std::string>(), static_cast<int>(n)};
    return true;
}

bool goodPort(const PortRef& v) {
    return v.port >= 0 && v.port <= mostPorts;
}

Type<Block> blockType() {
    Type<Block> t("block", "One piece of processing; only what differs from its defaults is written");
    t.add("id", &Block::id).id().help("unique in its program, for ever");
    t.add("kind", &Block::kind).id().help("`loomctl blocks` lists them; an unknown one is kept and stays silent");
    t.add("label", &Block::label).help("what people read; without it the kind's");
    t.add("shape", &Block::shape).range(0, mostPorts).help("channels, bands, inputs, outputs");
    t.add("values", &Block::values).help("parameters");
    t.add("texts", &Block::texts).help("`port`, `file`");
    t.add("marks", &Block::marks)
        .help("`colour`, `group`, `folded`, `place`, `link`, `apart`, `note`, `protect` (of a value: `note 2.gain`): "
              "how it is seen and handled, not the sound");
    t.extra(&Block::extra);
    return t;
}

Type<Program> programType() {
    Type<Program> t("program", "All blocks and threads of one processor");
    t.add("revision", &Program::revision).range(0, 1e9).always();
    t.add("blocks", &Program::blocks).items(0, engine::maxBlocks).always();
    t.add("threads", &Program::connections)
        .always()
        .help("`[[\"from block\", port], [\"to block\", port]]`, ports from 0");
    t.extra(&Program::extra);
    return t;
}

Type<Tool> toolType() {
    Type<Tool> t("tool", "A tool at a thread of what runs");
    const auto is = [](Tool::Kind kind) { return [kind](const Tool& tool) { return tool.kind == kind; }; };
    const auto hears = [](const Tool& tool) {
        return tool.kind == Tool::Kind::inject || tool.kind == Tool::Kind::solo;
    };
    const auto brings = [](const Tool& tool) {
        return tool.kind == Tool::Kind::inject || tool.kind == Tool::Kind::bridge;
    };
    t.add("number", &Tool::number).range(1, 1e9).help("tells the tools of a list apart");
    t.add("kind", &Tool::kind).choices({"mute", "inject", "bridge", "solo"}).needed();
    t.add("at", &Tool::at).needed();
    t.add("from", &Tool::from).writtenIf(is(Tool::Kind::bridge)).help("bridge: the port whose sound is brought there");
    t.add("signal", &Tool::signal)
        .writtenIf(is(Tool::Kind::inject))
        .help("inject: a signal of the generator, or `file NAME`");
    t.add("hz", &Tool::hz).range(10, 40000).writtenIf(hears);
    t.add("octaves", &Tool::octaves).range(0.01, 10).writtenIf(is(Tool::Kind::solo));
    t.add("level", &Tool::levelDb).range(-80, 12).writtenIf(brings).defaultFrom([](const Tool& tool) {
        return tool.kind == Tool::Kind::bridge ? 0.0 : -20.0;
    });
    t.extra(&Tool::extra);
    t.rule([](const Tool& tool, const At& at, Reading& r) {
        if (tool.kind == Tool::Kind::bridge && tool.from.block.empty())
            r.fail(at, "needs the field \"from\"");
        if (tool.signal.rfind("file ", 0) != 0 && !readSignal(tool.signal))
            r.fail(At(at, "signal"), "is none there is");
    });
    return t;
}

} // namespace

void Codec<PortRef>::read(PortRef& v, const Json& j, const Limits&, const At& at, Reading& r) {
    if (!readPort(j, v, r.limited()))
        r.fail(at, portMust);
}

Json Codec<PortRef>::write(const PortRef& v, const Limits&) {
    return Json::array({v.block, v.port});
}

void Codec<PortRef>::check(const PortRef& v, const Limits&, const At& at, Reading& r) {
    if (!goodPort(v))
        r.fail(at, portMust);
}

Json Codec<PortRef>::schema(const Limits&, Definitions&) {
    return {
        {"type", "array"},
        {"minItems", 2},
        {"maxItems", 2},
        {"items", Json::array({{{"type", "string"}}, {{"type", "integer"}, {"minimum", 0}, {"maximum", mostPorts}}})}};
}

void Codec<Connection>::read(Connection& v, const Json& j, const Limits&, const At& at, Reading& r) {
    if (!j.is_array() || j.size() != 2 || !readPort(j[0], v.from, r.limited()) || !readPort(j[1], v.to, r.limited()))
        r.fail(at, connectionMust);
}

Json Codec<Connection>::write(const Connection& v, const Limits& l) {
    return Json::array({Codec<PortRef>::write(v.from, l), Codec<PortRef>::write(v.to, l)});
}

void Codec<Connection>::check(const Connection& v, const Limits&, const At& at, Reading& r) {
    if (!goodPort(v.from) || !goodPort(v.to))
        r.fail(at, connectionMust);
}

Json Codec<Connection>::schema(const Limits& l, Definitions& d) {
    d["port"] = Codec<PortRef>::schema(l, d);
    return {{"type", "array"}, {"minItems", 2}, {"maxItems", 2}, {"items", {{"$ref", "#/definitions/port"}}}};
}

LOOM_TYPE(Block, blockType)
LOOM_TYPE(Program, programType)
LOOM_TYPE(Tool, toolType)

} // namespace loom::schema
