// What people type for any parameter of any kind, and dotted addresses: read, written out, read again.
#include "engine/block_kind.h"
#include "engine/runner.h"
#include "program/phrase.h"
#include <cmath>
#include <cstdlib>

using namespace loom::engine;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    if (size < 3)
        return 0;
    const auto& kinds = blockKinds();
    const auto& kind = kinds[data[0] % kinds.size()];
    Block block{"a.b", kind.id, ""};
    for (const auto& s : kind.shape) // out of range now and then: it is brought into it
        block.shape[s.id] = s.def + static_cast<int>(data[1]) % 5 - 2;
    const auto& table = paramTable(kind, fullShape(kind, block));
    const std::string text(reinterpret_cast<const char*>(data) + 3, size - 3);
    Program program;
    program.blocks = {block};
    (void)findParameter(program, text);
    loom::project::Device device{"d", "D", "heddle-16", ""};
    device.program = program;
    if (const auto said = loom::project::speak(device, {"a.b"}, "", text))
        if (!compile(said->program, 48000, {}))
            std::abort(); // what a phrase makes can run
    if (table.size() == 0)
        return 0;
    const auto& spec = table.specs()[(data[2] * std::size_t(7)) % table.size()];
    const auto value = parseValue(spec, text);
    if (!value)
        return value.error().message.empty() ? std::abort(), 0 : 0;
    if (!std::isfinite(*value) || *value < spec.min || *value > spec.max)
        std::abort();
    if (!parseValue(spec, formatValue(spec, *value))) // what is shown can be typed
        std::abort();
    (void)formatShort(spec, *value);
    enterValue(program.blocks.change(0), spec.id, *value);
    Runner runner(48000, {});
    if (!runner.load(program) || !runner.set("a.b", spec.id, *value))
        std::abort();
    runner.process({}, maxFrame);
    runner.process({}, maxFrame);
    for (int o = 0; o < outputsOf(program, program.blocks[0]); ++o)
        if (!std::isfinite(runner.meter({"a.b", o}).peakDb))
            std::abort();
    return 0;
}
