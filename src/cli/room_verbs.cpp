#include "cli/room_verbs.h"
#include "catalogue/catalogue.h"
#include "catalogue/materials.h"
#include "cli/open.h"
#include "cli/shelf.h"
#include "cli/verb.h"
#include "disk/safe_file.h"
#include "dsp/number.h"
#include "findings/room_findings.h"
#include "program/routes.h"
#include "rooms/device_table.h"
#include "rooms/maps.h"
#include "rooms/plan_items.h"
#include "rooms/room_copy.h"
#include "rooms/room_edit.h"
#include <CLI/CLI.hpp>
#include <cstdio>

namespace loom::cli {
namespace room_verbs { // of this file

using namespace project;
using nlohmann::json;

struct Call {
    std::string file, room, state, name, text, model, by, out, other;
    double value = 0, step = 0.5, x = 0, y = 0;
    std::string kind{}; // of map
    int band = 5;
    bool asJson = false, all = false;
};

// The room that is meant, by id or name, with its building; none: the first.
struct Chosen {
    const Building* building = nullptr;
    const Room* room = nullptr;
    const WallState* state = nullptr;
};
Result<Chosen> chosen(const Project& p, const Call& c) {
    for (const auto& b : p.buildings)
        for (const auto& r : b.rooms)
            if (c.room.empty() || r.id == c.room || r.name == c.room) {
                Chosen found{&b, &r, nullptr};
                for (const auto& s : b.states)
                    if (s.id == c.state || s.name == c.state)
                        found.state = &s;
                if (!c.state.empty() && !found.state)
                    return Error{"there is no such wall state", c.state, "loomctl rooms lists them."};
                return found;
            }
    return Error{"there is no such room", c.room, "loomctl rooms lists them."};
}

// Both together: the pointers of the one lead into the other, also after it was moved.
struct Opened {
    Project project;
    Chosen at;
};
Result<Opened> openRoom(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return p.error();
    Opened o{std::move(*p), {}};
    auto at = chosen(o.project, c);
    if (!at)
        return at.error();
    o.at = *at;
    return Result<Opened>(std::move(o));
}

json figuresJson(const SpaceModel& m, const SpaceFigures& f, const std::vector<LoopFigure>& loops) {
    json j = {{"space", f.name},
              {"rooms", f.rooms},
              {"volume", f.volume},
              {"floorArea", f.floorArea},
              {"seats", f.seats},
              {"loudspeakers", f.loudspeakers},
              {"microphones", f.microphones},
              {"bands", acoustics::bandHz},
              {"sabine", f.sabine},
              {"eyring", f.eyring},
              {"noise", f.noise},
              {"noiseA", f.noiseA},
              {"meanAbsorption", m.reverberation.absorption},
              {"criticalDistance1k", acoustics::criticalDistance(1, m.reverberation.constant[4])}};
    if (!f.wallState.empty())
        j["wallState"] = f.wallState;
    if (f.predicted)
        j["reproduction"] = {
            {"meanLevelA", f.meanA},          {"leastLevel2k", f.levels.least}, {"mostLevel2k", f.levels.most},
            {"within3", f.levels.within3},    {"worstSti", f.worstSti},         {"worstSeat", f.worstSeat},
            {"clarityThere", f.worstClarity}, {"headroom", f.headroom},         {"drive", f.drive},
            {"spread", f.farthestDelay}};
    for (const auto& l : loops)
        j["loops"].push_back({{"microphone", l.microphone}, {"spare", l.spareDb}, {"limit", l.limitDb}, {"hz", l.hz}});
    for (const auto& h : f.heard)
        j["talkers"].push_back({{"name", h.voice},
                                {"microphone", h.microphone},
                                {"distance", h.pickUp.distance},
                                {"toNoise", h.pickUp.toNoise},
                                {"toReverberant", h.pickUp.toReverberant},
                                {"good", h.good}});
    return j;
}

int survey(const Call& c) {
    auto opened = openRoom(c);
    if (!opened)
        return fail(opened.error());
    auto* p = &opened->project;
    const auto* at = &opened->at;
    const auto m = modelOf(*p, spaceOf(*at->building, at->state, at->room->id), at->state);
    if (m.rooms.empty())
        return fail({"has no outline yet", at->room->name, "Draw it in Survey, or give it a size with new-room."});
    const auto f = figuresOf(m);
    const auto loops = loopsOf(m, 1);
    if (c.asJson)
        return say(figuresJson(m, f, loops));
    std::printf("%s%s%s: %.0f m3, %.0f m2, %d seats\n", f.name.c_str(), f.wallState.empty() ? "" : ", ",
                f.wallState.c_str(), f.volume, f.floorArea, f.seats);
    std::printf("  reverberation, 500 Hz and 1 kHz   %.2f s (Sabine %.2f s)\n", m.reverberation.middle(f.eyring),
                m.reverberation.middle(f.sabine));
    std::printf("  noise                             %.0f dB(A)\n", f.noiseA);
    if (f.predicted) {
        std::printf("  seats within ±3 dB at 2 kHz       %.0f %%\n", f.levels.within3 * 100);
        std::printf("  speech clarity, worst seat        %.2f STI (%s)\n", f.worstSti, f.worstSeat.c_str());
        std::printf("  headroom of the loudspeakers      %.1f dB\n", f.headroom);
    }
    if (!loops.empty())
        std::printf("  gain before feedback, to spare    %.1f dB (%s, %.0f Hz)\n", loops.front().spareDb,
                    loops.front().microphone.c_str(), loops.front().hz);
    if (!f.heard.empty())
        std::printf("  talkers picked up well            %d of %zu\n", f.talkersHeard, f.heard.size());
    return 0;
}

int map(const Call& c) {
    auto opened = openRoom(c);
    if (!opened)
        return fail(opened.error());
    auto* p = &opened->project;
    const auto* at = &opened->at;
    if (!(c.step >= 0.05 && c.step <= 20))
        return fail({"must be 0.05 to 20 m", "--step", ""});
    const auto m = modelOf(*p, spaceOf(*at->building, at->state, at->room->id), at->state);
    const auto places = mapPoints(m, c.step);
    if (places.size() > 200000)
        return fail(
            {"makes " + std::to_string(places.size()) + " places", "--step", "200,000 at most: take a larger step."});
    if (!c.kind.empty()) {
        const auto map = mapOf(m, mapSpec(c.kind)->kind, c.band, c.step);
        std::printf("x,y,%s %s\n", c.kind.c_str(), map.unit.c_str());
        for (std::size_t i = 0; i < map.values.size(); ++i)
            std::printf("%.3f,%.3f,%.3f\n", map.places[i][0], map.places[i][1], map.values[i]);
        return 0;
    }
    const acoustics::Prediction prediction(m.field(m.neededDrive()));
    const auto values = acoustics::mapOf(prediction, places);
    std::printf("x,y,level dB(A),direct dB(A),C50 dB,STI,loudspeaker\n");
    for (std::size_t i = 0; i < places.size(); ++i)
        std::printf("%.3f,%.3f,%.2f,%.2f,%.2f,%.3f,%s\n", places[i][0], places[i][1], values[i].totalA,
                    values[i].directA, values[i].clarity, values[i].sti,
                    values[i].loudest < 0 ? ""
                                          : m.loudspeakers[static_cast<std::size_t>(values[i].loudest)].name.c_str());
    return 0;
}

int rooms(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    json j = json::array();
    for (const auto& b : p->buildings)
        for (const auto& r : b.rooms) {
            int devices = 0;
            for (const auto& d : p->devices)
                devices += d.room == r.id;
            json states = json::array();
            for (const auto& s : b.states)
                states.push_back(s.id);
            j.push_back({{"id", r.id},
                         {"name", r.name},
                         {"building", b.id},
                         {"floorArea", acoustics::areaOf(r.outline)},
                         {"height", r.height},
                         {"seats", seatsOf(r).size()},
                         {"devices", devices},
                         {"wallStates", states}});
        }
    if (c.asJson)
        return say(j);
    for (const auto& r : j)
        std::printf("%-16s %-24s %6.1f m2  %3d seats  %3d devices\n", r["id"].get<std::string>().c_str(),
                    r["name"].get<std::string>().c_str(), r["floorArea"].get<double>(), r["seats"].get<int>(),
                    r["devices"].get<int>());
    return 0;
}

int newRoom(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto size = readSize(c.text);
    if (!size)
        return fail(size.error());
    std::string id;
    auto buildings = withRoom(*p, acoustics::rectangle({c.x, c.y}, (*size)[0], (*size)[1]),
                              (*size)[2] > 0 ? (*size)[2] : 3, c.name, &id);
    if (!buildings)
        return fail(buildings.error());
    const int code = saveEdit(*p, setBuildings(std::move(*buildings), "New room"), c.file);
    if (code == 0)
        std::printf("%s\n", id.c_str());
    return code;
}

int fields(const Call& c) {
    const auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto all = fieldsOf(*p, c.name);
    if (all.empty())
        return fail({"there is no such thing on the plan", c.name,
                     "room:ID, device:ID, rack:ID, wall:ID, seats:ROOM/ID, talker:ROOM/ID or piece:ROOM/ID."});
    json j;
    for (const auto& f : all) {
        if (f.number())
            j[f.id] = f.value;
        else
            j[f.id] = f.text;
    }
    if (c.asJson)
        return say(j);
    for (const auto& f : all)
        std::printf("%-18s %s%s%s\n", f.id.c_str(), f.number() ? fixedText(f.value, f.digits).c_str() : f.text.c_str(),
                    f.unit.empty() ? "" : " ", f.unit.c_str());
    return 0;
}

int setFieldOf(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    auto edit = setField(*p, {c.name}, c.by, c.text);
    if (!edit)
        return fail(edit.error());
    return *edit ? saveEdit(*p, *edit, c.file) : 0;
}

int grid(const Call& c) {
    auto opened = openRoom(c);
    if (!opened)
        return fail(opened.error());
    auto* p = &opened->project;
    const auto* at = &opened->at;
    const auto* model = shelf().find(c.model);
    if (!model)
        return fail({"there is no such model", c.model, "loomctl models lists the shelf."});
    const auto wish = readGrid(c.text);
    if (!wish)
        return fail(wish.error());
    const auto spots = ceilingSpots(*at->room, *model, wish->by, wish->value);
    if (!spots)
        return fail(spots.error());
    std::map<std::string, std::optional<Device>> devices;
    for (auto& d : newDevices(*p, at->room->id, *model, *spots))
        devices[d.id] = d;
    std::printf("%zu\n", devices.size());
    return saveEdit(*p, setDevices(std::move(devices), "Ceiling grid"), c.file);
}

int addDevice(const Call& c) {
    auto opened = openRoom(c);
    if (!opened)
        return fail(opened.error());
    auto* p = &opened->project;
    const auto* at = &opened->at;
    const auto* model = shelf().find(c.model);
    if (!model)
        return fail({"there is no such model", c.model, "loomctl models lists the shelf."});
    auto made = newDevices(*p, at->room->id, *model, {{c.x, c.y}});
    const std::string id = made.front().id;
    const int code = saveEdit(*p, setDevices({{id, made.front()}}, "Add " + model->name), c.file);
    if (code == 0)
        std::printf("%s\n", id.c_str());
    return code;
}

int showRenewed(Project& p, const Renewed& r, const Call& c, const char* what) {
    for (const auto& l : r.list)
        std::printf("%s: %s \"%s\" -> \"%s\"\n", l.device.c_str(), l.what.c_str(), l.before.c_str(), l.after.c_str());
    return r.devices.empty() ? 0 : saveEdit(p, setDevices(r.devices, what), c.file);
}

std::vector<std::string> devicesIn(const Project& p, const Call& c) {
    std::vector<std::string> ids;
    for (const auto& d : p.devices)
        if (c.room.empty() || d.room == c.room)
            ids.push_back(d.id);
    return ids;
}

int rename(const Call& c) {
    auto p = loadProject(c.file, shelf());
    return p ? showRenewed(*p, renamed(*p, devicesIn(*p, c), c.text), c, "Rename devices") : fail(p.error());
}

int address(const Call& c) {
    auto p = loadProject(c.file, shelf());
    return p ? showRenewed(*p, addressed(*p, devicesIn(*p, c), c.text, c.all), c, "Address devices") : fail(p.error());
}

int copy(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    auto to = c.other.empty() ? p : loadProject(c.other, shelf());
    if (!to)
        return fail(to.error());
    auto made = copyRoom(*p, c.room, *to, c.name);
    if (!made)
        return fail(made.error());
    for (const auto& l : made->renewed.list)
        std::printf("%s: %s \"%s\" -> \"%s\"\n", l.device.c_str(), l.what.c_str(), l.before.c_str(), l.after.c_str());
    return saveEdit(*to, editBetween(*to, withCopy(*to, *made), "Copy room"), c.other.empty() ? c.file : c.other);
}

int suggest(const Call& c) {
    auto opened = openRoom(c);
    if (!opened)
        return fail(opened.error());
    auto* p = &opened->project;
    const auto* at = &opened->at;
    const auto all = suggestionsOf(*p, at->room->id, at->state);
    for (std::size_t i = 0; i < all.size(); ++i)
        std::printf("%zu  %s. %s\n", i + 1, all[i].text.c_str(), all[i].why.c_str());
    if (c.value < 1)
        return 0;
    if (c.value > static_cast<double>(all.size()))
        return fail({"there is no suggestion of that number", "--apply", ""});
    const auto& s = all[static_cast<std::size_t>(c.value) - 1];
    return saveEdit(*p, setDevices(s.devices, s.text), c.file);
}

int models(const Call& c) {
    json j = json::array();
    for (const auto& m : shelf().all())
        j.push_back({{"id", m.id}, {"name", m.name}, {"maker", m.maker}, {"group", m.group}, {"purpose", m.purpose}});
    if (c.asJson)
        return say(j);
    for (const auto& m : shelf().all())
        std::printf("%-14s %-14s %s\n", m.id.c_str(), m.name.c_str(), m.purpose.c_str());
    return 0;
}

int addModelFile(const Call& c) {
    const auto text = readWhole(c.file, 1 << 20);
    if (!text)
        return fail(text.error());
    const auto id = shelf().add(*text, c.file);
    if (!id)
        return fail(id.error());
    std::printf("%s\n", id->c_str());
    return 0;
}

int listMaterials(const Call& c) {
    json j = json::array();
    for (const auto& m : materials())
        j.push_back({{"id", m.id}, {"name", m.name}, {"absorption", m.absorption}, {"source", m.source}});
    if (c.asJson)
        return say(j);
    for (const auto& m : materials())
        std::printf("%-16s %s\n", m.id.c_str(), m.name.c_str());
    return 0;
}

// Devices or seats of a list from a spreadsheet: what it would do is said; --take does it.
int deviceTable(const Call& c) {
    auto p = loadProject(c.file, shelf());
    if (!p)
        return fail(p.error());
    const auto text = readWhole(c.text, maxTableBytes);
    if (!text)
        return fail(text.error());
    const auto then = devicesOfTable(*p, shelf(), *text);
    if (!then)
        return fail(then.error());
    json list = json::array();
    for (const auto& l : then->list) {
        list.push_back(json{{"device", l.device}, {"what", l.what}, {"before", l.before}, {"after", l.after}});
        if (!c.asJson)
            std::printf("%s: %s%s%s\n", l.what.c_str(), l.before.c_str(), l.before.empty() ? "" : " -> ",
                        l.after.c_str());
    }
    if (c.all && !then->empty())
        if (const int wrong =
                saveEdit(*p, then->edit(then->buildings ? "Seats of a table" : "Devices of a table"), c.file))
            return wrong;
    return c.asJson ? say({{"list", list}, {"taken", c.all}}) : 0;
}

} // namespace room_verbs

void addRoomVerbs(CLI::App& app, std::function<int()>& action) {
    using namespace room_verbs;
    static Call call; // lives as long as the program
    const auto verb = [&](const char* name, const char* does, const char* example, int (*go)(const Call&)) {
        return addVerb(app, action, call, name, does, example, go);
    };
    const auto file = [](CLI::App* v) { v->add_option("FILE", call.file, "Project file or folder")->required(); };
    const auto room = [](CLI::App* v, bool needed) {
        auto* o = v->add_option("ROOM", call.room, "Room, by id or name");
        if (needed)
            o->required();
    };
    const auto state = [](CLI::App* v) {
        v->add_option("--state", call.state, "Wall state; without it all walls are closed");
    };
    const auto withJson = [](CLI::App* v) { v->add_flag("--json", call.asJson, "Answer as JSON"); };
    const auto place = [](CLI::App* v) {
        v->add_option("--x", call.x, "Metres");
        v->add_option("--y", call.y, "Metres");
    };

    auto* v = verb("rooms", "The rooms of a project", "loomctl rooms demo/marram-point", rooms);
    file(v);
    withJson(v);

    v = verb("survey", "Will it work: reverberation, levels, clarity, gain before feedback, pick-up",
             "loomctl survey demo/marram-point tern --state joined", survey);
    file(v);
    room(v, false);
    state(v);
    withJson(v);

    v = verb("map", "Level, clarity and speech index over the floor, as CSV",
             "loomctl map demo/marram-point council --step 0.5", map);
    file(v);
    room(v, false);
    state(v);
    v->add_option("--step", call.step, "Metres between places");
    std::vector<std::string> kinds;
    for (const auto& one : mapSpecs())
        kinds.push_back(one.id);
    v->add_option("--kind", call.kind, "One map alone, as Survey draws it")->check(CLI::IsMember(kinds));
    v->add_option("--octave", call.band, "Of the map of one octave: 0 is 63 Hz, 7 is 8 kHz")->check(CLI::Range(0, 7));

    v = verb("new-room", "A rectangular room", "loomctl new-room hall.loom \"Tern Room\" \"12 x 8 x 3.2\"", newRoom);
    file(v);
    v->add_option("NAME", call.name, "What it is called")->required();
    v->add_option("SIZE", call.text, "Width x depth x height in metres")->required();
    place(v);

    v = verb("fields", "The fields of a room, device, rack, seats ... with their values",
             "loomctl fields demo/marram-point room:council", fields);
    file(v);
    withJson(v);
    v->add_option("THING", call.name, "room:ID, device:ID, rack:ID, seats:ROOM/ID ...")->required();

    v = verb("set-field", "One field of a thing on the plan",
             "loomctl set-field hall.loom room:tern \"finish floor\" carpet", setFieldOf);
    file(v);
    v->add_option("THING", call.name, "room:ID, device:ID, rack:ID, seats:ROOM/ID ...")->required();
    v->add_option("FIELD", call.by, "As \"fields\" lists them")->required();
    v->add_option("VALUE", call.text, "Its value")->required();

    v = verb("add-device", "A device of the shelf in a room", "loomctl add-device hall.loom tern canopy-8 --x 4 --y 5",
             addDevice);
    file(v);
    room(v, true);
    v->add_option("MODEL", call.model, "Model id")->required();
    place(v);

    v = verb("ceiling-grid", "Loudspeakers in the ceiling, evenly",
             "loomctl ceiling-grid hall.loom tern bobbin-c6 \"2.5 m\"", grid);
    file(v);
    room(v, true);
    v->add_option("MODEL", call.model, "Model id")->required();
    v->add_option("GRID", call.text, "How many (6), how far apart (2.5 m), or how much they overlap (30 %)")
        ->required();

    v = verb("rename-devices", "Names by a pattern", "loomctl rename-devices hall.loom \"{room} {use} {n}\" tern",
             rename);
    file(v);
    v->add_option("PATTERN", call.text, "{room}, {use}, {model}, {n}")->required();
    room(v, false);

    v = verb("address-devices", "Free addresses for devices that have none, a bad one or another's",
             "loomctl address-devices hall.loom 10.20.4.0/24 tern", address);
    file(v);
    v->add_option("SUBNET", call.text, "Where they come from; empty: the room's");
    room(v, false);
    v->add_flag("--all", call.all, "For every device");

    v = verb("device-table", "Devices of a list from a spreadsheet, matched by its heads",
             "loomctl device-table hall.loom devices.csv --take", deviceTable);
    file(v);
    v->add_option("TABLE", call.text, "CSV, or text with tabs; the first row names the columns")->required();
    v->add_flag("--take", call.all, "Does it; else it is only said");
    withJson(v);

    v = verb("copy-room", "A room with its devices and programs, names and addresses renewed",
             "loomctl copy-room hall.loom tern \"Dunlin Room\" --to other.loom", copy);
    file(v);
    room(v, true);
    v->add_option("NAME", call.name, "Of the copy")->required();
    v->add_option("--to", call.other, "Another project");

    v = verb("suggest", "What would bring a room nearer its targets", "loomctl suggest hall.loom tern --apply 1",
             suggest);
    file(v);
    room(v, true);
    state(v);
    v->add_option("--apply", call.value, "Number of the one to apply");

    v = verb("models", "The shelf: all models of devices", "loomctl models", models);
    withJson(v);
    v = verb("add-model", "Takes a model file onto your shelf", "loomctl add-model my-loudspeaker.json", addModelFile);
    v->add_option("FILE", call.file, "JSON, docs/format.md")->required();
    v = verb("materials", "Materials of surfaces with their absorption", "loomctl materials --json", listMaterials);
    withJson(v);
}

} // namespace loom::cli
