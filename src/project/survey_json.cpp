#include "project/survey_json.h"
#include <cmath>

namespace loom::project {
namespace {

using nlohmann::json;

constexpr double far = 10000; // m: nothing lies further out
const char* const pieceKinds[] = {"table", "lectern", "screen", "door", "stage"};
const char* const seatShapes[] = {"rows", "horseshoe"};
const char* const noiseKinds[] = {"nc", "nr", "bands"};

template <class Kind, std::size_t n> Kind readKind(Reader& r, const char* key, const char* const (&names)[n]) {
    const std::string word = r.text(key);
    if (word.empty())
        return Kind{};
    std::string all;
    for (std::size_t i = 0; i < n; ++i) {
        if (word == names[i])
            return static_cast<Kind>(i);
        all += (i ? ", " : "") + std::string(names[i]);
    }
    r.fail(key, "must be one of " + all);
    return Kind{};
}

// Reads each object of a list with a reader of its own.
template <class F> void eachObject(Reader& r, const char* key, F f) {
    r.each(key, [&](const json& j, const std::string& place) {
        Reader inner(j, place);
        f(inner);
        if (inner.failed())
            r.take(inner.trouble());
    });
}

room::Spot readSpot(Reader& r, const json& j, const std::string& place) {
    const auto good = [](const json& v) { return v.is_number() && std::abs(v.get<double>()) <= far; };
    if (j.is_array() && j.size() == 2 && good(j[0]) && good(j[1]))
        return {j[0].get<double>(), j[1].get<double>()};
    r.take({"must be a place in metres such as [3.5, 2]", place, ""});
    return {};
}

room::Spot readSpot(Reader& r, const char* key) {
    const json* j = r.find(key, true);
    return j ? readSpot(r, *j, r.place() + "/" + key) : room::Spot{};
}

std::vector<std::string> readTexts(Reader& r, const char* key) {
    std::vector<std::string> all;
    r.each(key, [&](const json& j, const std::string& place) {
        if (!j.is_string() || j.get_ref<const std::string&>().size() > maxTextLength)
            return r.take({"must be a text of at most 4096 letters", place, ""});
        all.push_back(j.get<std::string>());
    });
    return all;
}

Seats readSeats(Reader& r) {
    Seats s;
    s.id = r.id(), s.shape = readKind<Seats::Shape>(r, "shape", seatShapes);
    s.x = r.number("x", 0, -far, far), s.y = r.number("y", 0, -far, far), s.turn = r.number("turn", 0, -360, 360);
    s.rows = static_cast<int>(r.number("rows", 1, 1, 200)), s.across = static_cast<int>(r.number("across", 1, 1, 200));
    s.pitch = r.number("pitch", s.pitch, 0.2, 20), s.rowPitch = r.number("rowPitch", s.rowPitch, 0.2, 20);
    s.radius = r.number("radius", s.radius, 0.2, 100), s.ear = r.number("ear", s.ear, 0, 5);
    s.talks = r.flag("talks", false);
    return s;
}

json seatsJson(const Seats& s) {
    json j = {{"id", s.id},
              {"shape", seatShapes[static_cast<int>(s.shape)]},
              {"x", s.x},
              {"y", s.y},
              {"turn", s.turn},
              {"rows", s.rows},
              {"across", s.across},
              {"pitch", s.pitch},
              {"rowPitch", s.rowPitch},
              {"ear", s.ear}};
    if (s.shape == Seats::Shape::horseshoe)
        j["radius"] = s.radius;
    if (s.talks)
        j["talks"] = true;
    return j;
}

Piece readPiece(Reader& r) {
    Piece p;
    p.id = r.id(), p.label = r.text("label"), p.kind = readKind<Piece::Kind>(r, "kind", pieceKinds);
    p.x = r.number("x", 0, -far, far), p.y = r.number("y", 0, -far, far), p.turn = r.number("turn", 0, -360, 360);
    p.width = r.number("width", p.width, 0.01, 200), p.depth = r.number("depth", p.depth, 0.01, 200);
    p.height = r.number("height", p.height, 0, 20), p.rise = r.number("rise", 0, 0, 20);
    return p;
}

json pieceJson(const Piece& p) {
    json j = {{"id", p.id},       {"kind", pieceKinds[static_cast<int>(p.kind)]},
              {"x", p.x},         {"y", p.y},
              {"turn", p.turn},   {"width", p.width},
              {"depth", p.depth}, {"height", p.height}};
    addText(j, "label", p.label);
    if (p.rise > 0)
        j["rise"] = p.rise;
    return j;
}

void readNoise(Reader& r, Noise& n) {
    n.kind = readKind<Noise::Kind>(r, "kind", noiseKinds);
    n.value = r.number("value", n.value, 0, 130);
    n.bands = readBands(r, "bands", n.bands, -20, 140);
}

void readTargets(Reader& r, Targets& t) {
    t.level = r.number("level", t.level, 30, 120), t.sti = r.number("sti", t.sti, 0, 1);
    t.within3 = r.number("within3", t.within3, 0, 1), t.toNoise = r.number("toNoise", t.toNoise, -40, 80);
    t.toReverberant = r.number("toReverberant", t.toReverberant, -40, 80);
}

template <class F> void readObject(Reader& r, const char* key, F f) {
    if (const json* j = r.find(key, false)) {
        Reader inner(*j, r.place() + "/" + key);
        f(inner);
        if (inner.failed())
            r.take(inner.trouble());
    }
}

json noiseJson(const Noise& n) {
    json j = {{"kind", noiseKinds[static_cast<int>(n.kind)]}};
    if (n.kind == Noise::Kind::bands)
        j["bands"] = n.bands;
    else
        j["value"] = n.value;
    return j;
}

json targetsJson(const Targets& t) {
    return {{"level", t.level},
            {"sti", t.sti},
            {"within3", t.within3},
            {"toNoise", t.toNoise},
            {"toReverberant", t.toReverberant}};
}

} // namespace

room::Bands readBands(Reader& r, const char* key, const room::Bands& def, double min, double max) {
    const json* j = r.find(key, false);
    if (!j)
        return def;
    room::Bands b{};
    bool good = j->is_array() && j->size() == b.size();
    for (std::size_t i = 0; good && i < b.size(); ++i) {
        good = (*j)[i].is_number() && (*j)[i].get<double>() >= min && (*j)[i].get<double>() <= max;
        b[i] = good ? (*j)[i].get<double>() : 0;
    }
    if (!good)
        r.fail(key,
               "must be eight numbers, 63 Hz to 8 kHz, from " + std::to_string(min) + " to " + std::to_string(max));
    return b;
}

Room readRoom(Reader& r) {
    Room room;
    room.id = r.id(), room.name = r.text("name"), room.colour = r.text("colour");
    r.each("outline", [&](const json& j, const std::string& place) { room.outline.push_back(readSpot(r, j, place)); });
    room.height = r.number("height", room.height, 0, 200);
    r.fields("finishes", [&](const std::string& key, const json& v) {
        if (!v.is_string() || v.get_ref<const std::string&>().size() > maxTextLength)
            r.fail("finishes/" + key, "must be the id of a material");
        else
            room.finishes[key] = v.get<std::string>();
    });
    room.people = r.number("people", room.people, 0, 1);
    room.celsius = r.number("celsius", room.celsius, -20, 50);
    room.humidity = r.number("humidity", room.humidity, 1, 100);
    readObject(r, "noise", [&](Reader& n) { readNoise(n, room.noise); });
    readObject(r, "targets", [&](Reader& t) { readTargets(t, room.targets); });
    eachObject(r, "seats", [&](Reader& s) { room.seats.push_back(readSeats(s)); });
    eachObject(r, "talkers", [&](Reader& t) {
        room.talkers.push_back({t.id(), t.text("name"), t.number("x", 0, -far, far), t.number("y", 0, -far, far),
                                t.number("z", 1.2, 0, 50), t.number("level", 60, 20, 120)});
    });
    eachObject(r, "pieces", [&](Reader& p) { room.pieces.push_back(readPiece(p)); });
    if (const std::string pattern = r.text("pattern"); !pattern.empty())
        room.pattern = pattern;
    room.subnet = r.text("subnet");
    room.extra = r.rest();
    return room;
}

json toJson(const Room& room) {
    json j = {{"id", room.id}, {"name", room.name}};
    addText(j, "colour", room.colour);
    if (!room.outline.empty()) {
        j["outline"] = room.outline;
        j["height"] = room.height;
        addMap(j, "finishes", room.finishes);
        j["people"] = room.people;
        j["celsius"] = room.celsius, j["humidity"] = room.humidity;
        j["noise"] = noiseJson(room.noise);
        j["targets"] = targetsJson(room.targets);
    }
    for (const auto& s : room.seats)
        j["seats"].push_back(seatsJson(s));
    for (const auto& t : room.talkers)
        j["talkers"].push_back(
            {{"id", t.id}, {"name", t.name}, {"x", t.x}, {"y", t.y}, {"z", t.z}, {"level", t.level}});
    for (const auto& p : room.pieces)
        j["pieces"].push_back(pieceJson(p));
    if (room.pattern != Room{}.pattern)
        j["pattern"] = room.pattern;
    addText(j, "subnet", room.subnet);
    addExtra(j, room.extra);
    return j;
}

Building readBuilding(Reader& r) {
    Building b;
    b.id = r.id(), b.name = r.text("name");
    eachObject(r, "rooms", [&](Reader& room) { b.rooms.push_back(readRoom(room)); });
    eachObject(r, "walls", [&](Reader& w) {
        b.walls.push_back({w.id(), w.text("name"), readSpot(w, "from"), readSpot(w, "to"), readTexts(w, "rooms")});
        if (b.walls.back().rooms.size() != 2)
            w.fail("rooms", "must name the two rooms that the wall divides");
    });
    eachObject(r, "states", [&](Reader& s) { b.states.push_back({s.id(), s.text("name"), readTexts(s, "open")}); });
    eachObject(r, "racks", [&](Reader& k) {
        b.racks.push_back({k.id(), k.text("name"), k.text("room"), static_cast<int>(k.number("units", 42, 1, 60)),
                           k.number("x", 0, -far, far), k.number("y", 0, -far, far)});
    });
    eachObject(r, "backdrops", [&](Reader& d) {
        b.backdrops.push_back({d.text("asset", true), d.number("x", 0, -far, far), d.number("y", 0, -far, far),
                               d.number("metresPerUnit", 0.01, 1e-6, 1000)});
    });
    b.extra = r.rest();
    return b;
}

json toJson(const Building& b) {
    json j = {{"id", b.id}, {"name", b.name}, {"rooms", json::array()}};
    for (const auto& r : b.rooms)
        j["rooms"].push_back(toJson(r));
    for (const auto& w : b.walls)
        j["walls"].push_back({{"id", w.id}, {"name", w.name}, {"from", w.from}, {"to", w.to}, {"rooms", w.rooms}});
    for (const auto& s : b.states)
        j["states"].push_back({{"id", s.id}, {"name", s.name}, {"open", s.open}});
    for (const auto& k : b.racks) {
        json rack = {{"id", k.id}, {"name", k.name}, {"units", k.units}, {"x", k.x}, {"y", k.y}};
        addText(rack, "room", k.room);
        j["racks"].push_back(rack);
    }
    for (const auto& d : b.backdrops)
        j["backdrops"].push_back({{"asset", d.asset}, {"x", d.x}, {"y", d.y}, {"metresPerUnit", d.metresPerUnit}});
    addExtra(j, b.extra);
    return j;
}

Place readPlace(Reader& r) {
    Place p;
    p.placed = true;
    p.x = r.number("x", 0, -far, far), p.y = r.number("y", 0, -far, far), p.z = r.number("z", 0, -100, 200);
    p.turn = r.number("turn", 0, -360, 360), p.tilt = r.number("tilt", 0, -90, 90);
    p.rack = r.text("rack"), p.unit = static_cast<int>(r.number("unit", 0, 0, 60));
    return p;
}

json toJson(const Place& p) {
    if (!p.rack.empty())
        return {{"rack", p.rack}, {"unit", p.unit}};
    return {{"x", p.x}, {"y", p.y}, {"z", p.z}, {"turn", p.turn}, {"tilt", p.tilt}};
}

} // namespace loom::project
