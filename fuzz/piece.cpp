// Pieces that come from outside: swatches, chains from the clipboard, tools from the network. What is taken can be put
// into a program, and that compiles and can be traced.
#include "engine/schedule.h"
#include "file/project_json.h"
#include "file/store.h"
#include "models.h"
#include "program/lane_edit.h"
#include "program/swatch.h"
#include "program/trace.h"
#include "schema/json_text.h"
#include <cstdlib>
#include <nlohmann/json.hpp>

using namespace loom;

namespace {

const project::Device& hall() {
    static const project::Device device = [] {
        project::Device d{"d", "D", "heddle-16", ""};
        d.models = test::models();
        auto& p = d.program.emplace();
        p.blocks = {{"chair", "source", "Chair"}, {"chair.eq", "eq", ""}, {"out", "destination", "Out"}};
        p.blocks.change(0).texts["port"] = "in 1", p.blocks.change(2).texts["port"] = "out 1";
        p.connections = {{{"chair", 0}, {"chair.eq", 0}}, {{"chair.eq", 0}, {"out", 0}}};
        return d;
    }();
    return device;
}

void run(const Result<engine::Program>& program) {
    if (!program) {
        if (program.error().message.empty())
            std::abort();
        return;
    }
    (void)bool(engine::compile(*program, 48000, {}));
    for (const auto& b : program->blocks)
        if (engine::endOf(b) == engine::End::leaves)
            (void)project::trace(*program, b.id).text();
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    const auto& device = hall();
    const auto layout = engine::layOut(*device.program);
    if (const auto swatch = project::readSwatch(text, "fuzz")) {
        const auto again = project::readSwatch(project::swatchText(*swatch), "again");
        if (!again || !(*again == *swatch))
            std::abort();
        for (const std::vector<std::string>& lanes : {std::vector<std::string>{}, {"chair"}})
            if (const auto in = project::insertSwatch(device, lanes, "", *swatch))
                run(in->program);
    }
    if (const auto chain = project::readChain(text)) {
        run(project::pasteChain(layout, *device.program, {"chair"}, *chain));
        run(project::pasteSettings(layout, *device.program, {"chair"}, *chain));
    }
    if (auto json = project::parseJson(text, "fuzz"))
        if (const auto tool = project::fromJson<project::Tool>(*json)) {
            (void)project::describe(*device.program, *tool);
            run(project::withTools(*device.program, {*tool}));
        }
    return 0;
}
