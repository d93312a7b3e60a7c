// The declarations of what stands in buildings (model/rooms.h).
#include "acoustics/polygon.h"
#include "catalogue/materials.h"
#include "dsp/number.h"
#include "model/describe.h"
#include "model/room_faces.h"

namespace loom::schema {

using namespace project;

namespace {

constexpr double far = 10000; // m: nothing lies further out

// Where something is on the plan. `what`: "Middle ", or nothing.
template <class T> void addSpot(Type<T>& t, const char* what) {
    t.add("x", &T::x).range(-far, far).label(*what ? std::string(what) + "x" : "x", "m").always();
    t.add("y", &T::y).range(-far, far).label(*what ? std::string(what) + "y" : "y", "m").always();
}

template <class T> void addTurn(Type<T>& t) {
    t.add("turn", &T::turn).range(-360, 360).label("Turned by", "°", 0).always();
}

std::string bandsMust(double min, double max) {
    return print("must be eight numbers, 63 Hz to 8 kHz, from %g to %g", min, max);
}

constexpr const char* spotMust = "must be a place in metres such as [3.5, 2]";

Type<Seats> seatsType() {
    Type<Seats> t("seats", "Seats drawn as one: rows behind each other, or a horseshoe that opens downwards");
    const auto horseshoe = [](const Seats& s) { return s.shape == Seats::Shape::horseshoe; };
    const auto rows = [](const Seats& s) { return s.shape == Seats::Shape::rows; };
    t.add("id", &Seats::id).id();
    t.add("rows", &Seats::rows)
        .range(1, 200)
        .label("Rows")
        .labelOf([horseshoe](const Seats& s) { return horseshoe(s) ? "Arcs" : "Rows"; })
        .help("rows, or arcs of a horseshoe")
        .always();
    t.add("across", &Seats::across).range(1, 200).label("Seats in each").help("seats in each").always();
    t.add("pitch", &Seats::pitch).range(0.2, 20).label("Seat to seat", "m").when(rows).help("seat to seat, m").always();
    t.add("radius", &Seats::radius)
        .range(0.2, 100)
        .label("Radius", "m")
        .when(horseshoe)
        .writtenIf(horseshoe)
        .help("of the inner arc, m");
    t.add("rowPitch", &Seats::rowPitch).range(0.2, 20).label("Row to row", "m").help("row to row, m").always();
    addSpot(t, "Middle ");
    addTurn(t);
    t.add("ear", &Seats::ear)
        .range(0, 5)
        .typed(0.3, 3)
        .label("Ears above the floor", "m")
        .help("height of the ears above the floor there, m")
        .always();
    t.add("shape", &Seats::shape).choices({"rows", "horseshoe"}).named({"Rows", "Horseshoe"}).label("Shape").always();
    t.add("talks", &Seats::talks).label("People speak there").help("people speak from these seats");
    t.extra(&Seats::extra);
    return t;
}

Type<Talker> talkerType() {
    Type<Talker> t("talker", "Who speaks, and where");
    t.add("id", &Talker::id).id();
    t.add("name", &Talker::name).label("Name").always();
    addSpot(t, "");
    t.add("z", &Talker::z).range(0, 50).typed(0.3, 50).label("Mouth at", "m").help("height of the mouth, m").always();
    t.add("level", &Talker::level)
        .range(20, 120)
        .label("Level at 1 m", "dB(A)", 0)
        .help("dB(A) at 1 m; 60 is normal effort (IEC 60268-16)")
        .always();
    t.extra(&Talker::extra);
    return t;
}

Type<Furniture> furnitureType() {
    Type<Furniture> t("piece", "Furniture, doors and raised floors: a rectangle around (x, y)");
    const auto stage = [](const Furniture& p) { return p.kind == Furniture::Kind::stage; };
    t.add("id", &Furniture::id).id();
    t.add("kind", &Furniture::kind).choices({"table", "lectern", "screen", "door", "stage"}).always();
    t.add("label", &Furniture::label).label("Name");
    addSpot(t, "Middle ");
    t.add("width", &Furniture::width).range(0.01, 200).label("Width", "m").always();
    t.add("depth", &Furniture::depth).range(0.01, 200).label("Depth", "m").always();
    addTurn(t);
    t.add("height", &Furniture::height)
        .range(0, 20)
        .label("Height", "m")
        .labelOf([stage](const Furniture& p) { return stage(p) ? "Front edge" : "Height"; })
        .help("of a stage: its front edge, m")
        .always();
    t.add("rise", &Furniture::rise)
        .range(0, 20)
        .label("Rises by", "m")
        .when(stage)
        .help("of a stage: how much higher its far edge is, m");
    t.extra(&Furniture::extra);
    return t;
}

Type<Noise> noiseType() {
    Type<Noise> t("noise", "Background noise: a curve, or its octave bands");
    const auto bands = [](const Noise& n) { return n.kind == Noise::Kind::bands; };
    t.add("kind", &Noise::kind).choices({"nc", "nr", "bands"}).always();
    t.add("value", &Noise::value)
        .range(0, 130)
        .typed(10, 70)
        .label("Background noise", "", 0)
        .formId("noise")
        .when([bands](const Noise& n) { return !bands(n); })
        .writtenIf([bands](const Noise& n) { return !bands(n); })
        .help("of the curve");
    t.add("bands", &Noise::bands)
        .range(-20, 140)
        .must(bandsMust(-20, 140))
        .writtenIf(bands)
        .help("dB SPL, 63 Hz to 8 kHz");
    t.form([bands](const Noise& now) {
        std::vector<FieldOf<Noise>> all;
        for (std::size_t b = 0; bands(now) && b < acoustics::bandHz.size(); ++b) {
            const std::string hz = std::to_string(static_cast<int>(acoustics::bandHz[b]));
            FieldOf<Noise> f{{"noise " + hz, "Noise at " + hz + " Hz", "dB", 0, -20, 140, 1}};
            f.number = [b](const Noise& n) { return n.bands[b]; };
            f.setNumber = [b](Noise& n, double v) { n.bands[b] = v; };
            all.push_back(f);
        }
        return all;
    });
    t.extra(&Noise::extra);
    return t;
}

Type<Targets> targetsType() {
    Type<Targets> t("targets", "What a room has to reach");
    t.add("level", &Targets::level)
        .range(30, 120)
        .label("Wanted at the seats", "dB(A)", 0)
        .help("dB(A) of speech at the seats")
        .always();
    t.add("within3", &Targets::within3)
        .range(0, 1)
        .label("Seats wanted within ±3 dB", "%", 0)
        .shownTimes(100)
        .help("share of seats within ±3 dB of their mean")
        .always();
    t.add("sti", &Targets::sti).range(0, 1).label("Clarity wanted", "STI").help("at the worst seat").always();
    t.add("toNoise", &Targets::toNoise)
        .range(-40, 80)
        .label("Talkers over noise", "dB", 0)
        .help("talkers: direct sound over noise at their microphone, dB")
        .always();
    t.add("toReverberant", &Targets::toReverberant)
        .range(-40, 80)
        .label("Talkers over reverberation", "dB", 0)
        .help("and over the reverberant sound, dB")
        .always();
    t.extra(&Targets::extra);
    return t;
}

// How the noise of a room is said; what the curve said is where its bands begin.
FieldOf<Room> noiseCurveField() {
    return choiceField<Room>(
        "noiseCurve", "Noise by", {"nc", "nr", "bands"}, {"NC curve", "NR curve", "octave"},
        [](const Room& r) {
            return r.noise.kind == Noise::Kind::nr ? "nr" : r.noise.kind == Noise::Kind::bands ? "bands" : "nc";
        },
        [](Room& r, const std::string& v) {
            if (v == "bands" && r.noise.kind != Noise::Kind::bands)
                r.noise.bands = noiseBands(r.noise);
            r.noise.kind = v == "nr" ? Noise::Kind::nr : v == "bands" ? Noise::Kind::bands : Noise::Kind::nc;
        });
}

// Width and depth: stretched; what stands inside keeps its place from the corner.
FieldOf<Room> sizeField() {
    FieldOf<Room> f{{"size", "Size, width x depth"}};
    f.text = [](const Room& r) {
        const auto e = acoustics::extentOf(r.outline);
        return print("%.2f x %.2f", e.width(), e.depth());
    };
    f.setText = [](Room& r, const std::string& v) {
        const auto wanted = readSize(v);
        const auto e = acoustics::extentOf(r.outline);
        if (wanted && e.width() > 0 && e.depth() > 0)
            for (auto& c : r.outline)
                c = {e.least[0] + (c[0] - e.least[0]) * (*wanted)[0] / e.width(),
                     e.least[1] + (c[1] - e.least[1]) * (*wanted)[1] / e.depth()};
    };
    f.check = [](const std::string& v) -> std::optional<Error> {
        const auto read = readSize(v);
        return read ? std::nullopt : std::optional(read.error());
    };
    return f;
}

FieldOf<Room> finishField(const std::string& surface, const std::string& label, bool mayFollow) {
    FieldOf<Room> f{{"finish " + surface, label}};
    if (mayFollow) {
        f.look.choices.push_back("");
        f.look.choiceNames.push_back("as all walls");
    }
    for (const auto& m : materials()) {
        f.look.choices.push_back(m.id);
        f.look.choiceNames.push_back(m.name);
    }
    f.text = [surface](const Room& r) {
        const auto it = r.finishes.find(surface);
        return it != r.finishes.end()           ? it->second
               : surface.rfind("wall ", 0) == 0 ? ""
                                                : finishOf(r, surface == "walls" ? "wall 1" : surface).id;
    };
    f.setText = [surface](Room& r, const std::string& v) {
        v.empty() ? void(r.finishes.erase(surface)) : void(r.finishes[surface] = v);
    };
    return f;
}

Type<Room> roomType() {
    Type<Room> t("room", "A room, as it is built and furnished");
    const auto drawn = [](const Room& r) { return !r.outline.empty(); };
    t.add("id", &Room::id).id();
    t.add("name", &Room::name).label("Name").needed();
    t.add("colour", &Room::colour).help("a thread's name: madder, weld, lichen, teal, woad, plum, rose, walnut");
    t.add("outline", &Room::outline).range(-far, far).must(spotMust).help("corners in turn, m");
    t.form([](const Room&) { return std::vector{sizeField()}; });
    t.add("height", &Room::height).range(0, 200).typed(1.5, 60).label("Height", "m").writtenIf(drawn);
    t.form([](const Room&) { return std::vector{noiseCurveField()}; });
    t.add("noise", &Room::noise).writtenIf(drawn);
    t.add("people", &Room::people)
        .range(0, 1)
        .label("Seats taken", "%", 0)
        .shownTimes(100)
        .writtenIf(drawn)
        .help("share of the seats that are taken while it is used");
    t.add("celsius", &Room::celsius).range(-20, 50).label("Temperature", "°C", 0).writtenIf(drawn);
    t.add("humidity", &Room::humidity).range(1, 100).label("Humidity", "%", 0).writtenIf(drawn);
    t.add("targets", &Room::targets).writtenIf(drawn);
    t.add("pattern", &Room::pattern).label("Names of devices").help("of new devices' names");
    t.add("subnet", &Room::subnet).label("Addresses from").help("where new addresses come from: 10.20.4.0/24");
    t.add("finishes", &Room::finishes).help("`floor`, `ceiling`, `walls`, `wall 3` → a material's id");
    t.form([](const Room& r) {
        std::vector all{finishField("floor", "Floor", false), finishField("ceiling", "Ceiling", false),
                        finishField("walls", "All walls", false)};
        for (std::size_t i = 1; i <= r.outline.size(); ++i)
            all.push_back(finishField("wall " + std::to_string(i), "Wall " + std::to_string(i), true));
        return all;
    });
    t.add("seats", &Room::seats);
    t.add("talkers", &Room::talkers);
    t.add("pieces", &Room::furniture);
    t.extra(&Room::extra);
    return t;
}

Type<MovableWall> wallType() {
    Type<MovableWall> t("wall", "A wall between two rooms that folds away");
    t.add("id", &MovableWall::id).id();
    t.add("name", &MovableWall::name).label("Name").always();
    t.add("from", &MovableWall::from).range(-far, far).must(spotMust).needed();
    t.add("to", &MovableWall::to).range(-far, far).must(spotMust).needed();
    t.add("rooms", &MovableWall::rooms)
        .items(2, 2)
        .must("must name the two rooms that the wall divides")
        .needed()
        .help("ids of the two rooms it divides");
    t.extra(&MovableWall::extra);
    return t;
}

Type<WallState> stateType() {
    Type<WallState> t("state", "A wall state: which movable walls are open");
    t.add("id", &WallState::id).id();
    t.add("name", &WallState::name).always();
    t.add("open", &WallState::open).always().help("ids of movable walls");
    t.extra(&WallState::extra);
    return t;
}

Type<Rack> rackType() {
    Type<Rack> t("rack", "A rack on the plan");
    t.add("id", &Rack::id).id();
    t.add("name", &Rack::name).label("Name").always();
    t.add("room", &Rack::room).help("id of the room it stands in");
    t.add("units", &Rack::units).range(1, 60).label("Units").always();
    addSpot(t, "");
    t.extra(&Rack::extra);
    return t;
}

Type<Backdrop> backdropType() {
    Type<Backdrop> t("backdrop", "A drawing below the plan");
    t.add("asset", &Backdrop::asset).needed().help("one of the project's files");
    t.add("x", &Backdrop::x).range(-far, far).help("of its left upper corner, m").always();
    t.add("y", &Backdrop::y).range(-far, far).always();
    t.add("metresPerUnit", &Backdrop::metresPerUnit)
        .range(1e-6, 1000)
        .help("a unit: a pixel, or the file's own")
        .always();
    t.add("hidden", &Backdrop::hidden).help("layers of a DXF drawing that are not drawn");
    t.extra(&Backdrop::extra);
    return t;
}

Type<Building> buildingType() {
    Type<Building> t("building", "A storey with its rooms");
    t.add("id", &Building::id).id();
    t.add("name", &Building::name).always();
    t.add("rooms", &Building::rooms).always();
    t.add("walls", &Building::walls);
    t.add("states", &Building::states);
    t.add("racks", &Building::racks);
    t.add("backdrops", &Building::backdrops);
    t.extra(&Building::extra);
    return t;
}

Type<Place> placeType() {
    Type<Place> t("place", "Where a device is: on the plan, or in a rack");
    const auto free = [](const Place& p) { return p.placed && p.rack.empty(); };
    const auto shown = [](const Place& p) { return p.rack.empty(); };
    t.add("x", &Place::x).range(-far, far).label("x", "m").when(shown).writtenIf(free);
    t.add("y", &Place::y).range(-far, far).label("y", "m").when(shown).writtenIf(free);
    t.add("z", &Place::z).setting().range(-100, 200).label("Height", "m").when(shown).writtenIf(free);
    t.add("turn", &Place::turn).range(-360, 360).writtenIf(free).help("degrees, 0 along x, turning towards y");
    t.add("tilt", &Place::tilt)
        .setting()
        .range(-90, 90)
        .writtenIf(free)
        .help("degrees up; a ceiling loudspeaker has -90");
    t.add("rack", &Place::rack).help("id of a rack, with");
    t.add("unit", &Place::unit)
        .range(0, 60)
        .writtenIf([](const Place& p) { return !p.rack.empty(); })
        .help("its lowest unit, counted from 1 at the bottom");
    t.add("placed", &Place::placed).defaultFrom([](const Place&) { return true; }).help("false: kept, but not placed");
    t.extra(&Place::extra);
    return t;
}

} // namespace

LOOM_TYPE(Seats, seatsType)
LOOM_TYPE(Talker, talkerType)
LOOM_TYPE(Furniture, furnitureType)
LOOM_TYPE(Noise, noiseType)
LOOM_TYPE(Targets, targetsType)
LOOM_TYPE(Room, roomType)
LOOM_TYPE(MovableWall, wallType)
LOOM_TYPE(WallState, stateType)
LOOM_TYPE(Rack, rackType)
LOOM_TYPE(Backdrop, backdropType)
LOOM_TYPE(Building, buildingType)
LOOM_TYPE(Place, placeType)

} // namespace loom::schema
