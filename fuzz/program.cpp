// A program as JSON: compiled, run for some frames, laid out, edited.
#include "engine/layout.h"
#include "engine/runner.h"
#include "file/project_json.h"
#include "program/program_edit.h"
#include "schema/json_text.h"
#include <cmath>
#include <cstdlib>

using namespace loom;

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    auto json = project::parseJson(std::string(reinterpret_cast<const char*>(data), size), "fuzz");
    if (!json)
        return 0;
    auto program = project::fromJson<engine::Program>(*json);
    if (!program || program->blocks.size() > 40)
        return 0;
    (void)engine::layOut(*program);
    engine::Runner runner(48000, {});
    if (!runner.load(*program))
        return 0;
    if (auto aligned = project::alignAllLanes(*program, 48000))
        (void)bool(runner.load(*aligned));
    for (int i = 0; i < 4; ++i)
        runner.process({}, engine::maxFrame);
    for (const auto& b : program->blocks) {
        if (const auto* kind = engine::findKind(b.kind)) {
            const engine::BlockView view(b);
            const auto& specs = view.table->specs();
            for (std::size_t i = 0; i < specs.size() && i < 24; ++i)
                (void)bool(runner.set(b.id, specs[i].id, data[i % size] * (specs[i].max - specs[i].min) / 128));
            for (const auto& s : kind->shape)
                if (auto other = project::reshapeBlock(*program, b.id, s.id, s.min + data[0] % 4))
                    (void)bool(runner.load(*other));
        }
        (void)bool(project::alignLanes(*program, b.id, 48000));
        (void)bool(project::insertBlock(*program, "eq", {b.id, 0}));
        (void)bool(project::moveBlock(*program, b.id, 1));
        if (auto less = project::removeBlock(*program, b.id))
            (void)bool(runner.load(*less));
        runner.process({}, 17);
        if (!std::isfinite(runner.meter({b.id, 0}).peakDb))
            std::abort();
    }
    return 0;
}
