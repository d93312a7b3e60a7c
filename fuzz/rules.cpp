// Rules as people and files have them: sentences, whole rules, days, what a device is sent and remembers.
#include "models.h"
#include "rules/rehearsal.h"
#include "rules/rule_edit.h"
#include "rules/rule_pack.h"
#include "rules/sentence.h"
#include <cstdlib>

using namespace loom;
using namespace loom::project;

namespace {

Project someProject() {
    Project p;
    Building b;
    b.id = "house";
    Room r;
    r.id = "oak", r.name = "Oak";
    r.outline = {{0, 0}, {6, 0}, {6, 5}, {0, 5}};
    b.rooms.push_back(r);
    MovableWall w;
    w.id = "fold", w.name = "Fold", w.rooms = {"oak", "oak"};
    b.walls.push_back(w);
    p.buildings.push_back(b);
    Device d;
    d.id = d.name = "box", d.model = "heddle-16", d.room = "oak", d.models = test::models();
    d.program.emplace();
    engine::Block block;
    block.id = "speech", block.kind = "level", block.label = "Speech";
    d.program->blocks.push_back(block);
    p.devices.push_back(d);
    Scene s;
    s.id = s.name = "calm", s.values = {{"box/speech.gain", -20}};
    p.scenes.push_back(s);
    p.place.zone = "UTC";
    return p;
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const Project base = someProject();
    if (size < 2)
        return 0;
    const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
    switch (data[0] % 5) {
    case 0: // what reads is written so that it reads as the same
        for (const auto part : {Part::trigger, Part::condition, Part::action}) {
            if (const auto c = readClause(base, part, text)) {
                const auto again = readClause(base, part, sentenceText(base, part, *c));
                if (!again)
                    std::abort();
            }
        }
        break;
    case 1: // a rule, at work for an hour in which something happens
        if (const auto r = readRule(base, text)) {
            Project p = base;
            p.rules.push_back(*r);
            Rehearsal day(p, 1772323200000);
            day.go(second);
            day.happen("wall:fold", 1);
            day.go(60 * minute);
        }
        break;
    case 2:
        if (const auto day = readDay(base, text, 1772323200000))
            for (const auto& h : *day)
                if (h.at < 0)
                    std::abort();
        break;
    case 3:
        if (const auto pack = unpackRules(text, test::models())) {
            Project p = base;
            (void)bool(adoptRules(p, text));
            RuleRun run(pack->project, pack->share);
            run.start(0, 1772323200000);
            run.advance(minute);
        }
        break;
    default: {
        RuleRun run(base);
        run.restore(text);
        run.start(0, 1772323200000);
        run.advance(60 * minute);
        (void)run.kept();
        break;
    }
    }
    return 0;
}
