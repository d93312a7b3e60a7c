// A small project for tests of rules: two rooms that a wall divides, a processor of theirs, a button, a knob.
#pragma once
#ifndef Q_MOC_RUN
#include "model/describe.h"
#include "models.h"
#include "rules/rehearsal.h"
#include "rules/rule_edit.h"
#include "rules/sentence.h"
#endif
#include "test.h"

namespace loom::test {

inline project::Project rulesProject() {
    using namespace project;
    Project p;
    Building b;
    b.id = b.name = "house";
    for (const char* id : {"oak", "elm"}) {
        Room r;
        r.id = id, r.name = *id == 'o' ? "Oak Room" : "Elm Room";
        r.outline = {{0, 0}, {6, 0}, {6, 5}, {0, 5}};
        b.rooms.push_back(r);
    }
    MovableWall w;
    w.id = "fold", w.name = "Oak | Elm", w.rooms = {"oak", "elm"};
    b.walls.push_back(w);
    p.buildings.push_back(b);
    const auto device = [&](const char* id, const char* name, const char* model, const char* room) -> Device& {
        Device d;
        d.id = id, d.name = name, d.model = model, d.room = room, d.models = models();
        p.devices.push_back(d);
        return *p.device(id);
    };
    auto& box = device("box", "Box", "heddle-16", "oak");
    box.program.emplace();
    for (const auto& [id, kind] :
         {std::pair("speech", "level"), {"music", "level"}, {"cut", "mute"}, {"tape", "player"}, {"tone", "eq"}}) {
        engine::Block block;
        block.id = id, block.kind = kind, block.label = std::string(1, static_cast<char>(id[0] - 32)) + (id + 1);
        if (block.kind == "player")
            block.texts = {{"file", "gong.wav"}, {"file.2", "closing.wav"}};
        box.program->blocks.push_back(block);
    }
    device("oak-tap", "Oak tap", "tap", "oak");
    device("dial", "Dial", "dial", "oak");
    p.place.zone = "Europe/Berlin";
    return p;
}

inline project::Clause said(const project::Project& p, project::Part part, const std::string& text) {
    const auto c = project::readClause(p, part, text);
    if (!c)
        qWarning("%s: %s", text.c_str(), c.error().text().c_str());
    return c ? *c : project::Clause{};
}

// A rule from lines: "when ...", "only if ...", "then ...", "else ...".
inline project::Rule& addRule(project::Project& p, const std::string& id, const std::string& lines) {
    auto r = project::readRule(p, id + "\n" + lines);
    if (!r)
        qFatal("%s: %s", id.c_str(), r.error().text().c_str());
    r->id = id;
    p.rules.push_back(*r);
    return *p.rule(id);
}

} // namespace loom::test
