// Rooms as they are built, furnished and equipped: what Survey draws and the room layer computes with. Lengths in
// metres; x to the right and y downwards on the plan, z up from the floor of the building's storey; angles in degrees,
// 0 along x, turning towards y.
#pragma once
#include "acoustics/bands.h"
#include "acoustics/polygon.h"
#include "engine/result.h"
#include "engine/shared.h"
#include "schema/extra.h"
#include <map>
#include <string>
#include <vector>

namespace loom::project {

using Extra = schema::Extra; // fields of a later version, as JSON text; they survive a round trip

// Seats drawn as one: rows behind each other, or a horseshoe that opens downwards. (x, y) is its middle.
struct Seats {
    enum class Shape { rows, horseshoe };
    std::string id;
    Shape shape = Shape::rows;
    double x = 0, y = 0, turn = 0;
    int rows = 1, across = 1;            // horseshoe: `across` seats on each of `rows` arcs
    double pitch = 0.6, rowPitch = 0.95; // along a row, from row to row
    double radius = 2.5;                 // of the inner arc
    double ear = 1.2;                    // height of the ears above the floor there
    bool talks = false;                  // people speak from these seats: each is a talker
    Extra extra{};
    bool operator==(const Seats&) const = default;
};

struct Talker {
    std::string id, name;
    double x = 0, y = 0, z = 1.2; // mouth
    double level = 60;            // dB(A) at 1 m; 60: normal effort (IEC 60268-16)
    Extra extra{};
    bool operator==(const Talker&) const = default;
};

// Furniture, doors and raised floors: a rectangle around (x, y).
struct Furniture {
    enum class Kind { table, lectern, screen, door, stage };
    std::string id, label;
    Kind kind = Kind::table;
    double x = 0, y = 0, width = 1.6, depth = 0.8, turn = 0;
    double height = 0.75; // of a stage: its front edge
    double rise = 0;      // of a stage: how much higher its far edge is
    Extra extra{};
    bool operator==(const Furniture&) const = default;
};

struct Noise {
    enum class Kind { nc, nr, bands };
    Kind kind = Kind::nc;
    double value = 30;        // of the curve
    acoustics::Bands bands{}; // dB SPL, Kind::bands
    Extra extra{};
    bool operator==(const Noise&) const = default;
};

// What a room has to reach.
struct Targets {
    double level = 68;     // dB(A) speech at the seats
    double sti = 0.60;     // at the worst seat
    double within3 = 0.90; // share of seats within +-3 dB of their mean
    double toNoise = 10;   // talkers: direct sound over noise at their microphone, dB
    double toReverberant = -3;
    Extra extra{};
    bool operator==(const Targets&) const = default;
};

// A drawing below the plan: one of the project's files, turned into metres by two points.
struct Backdrop {
    std::string asset;
    double x = 0, y = 0, metresPerUnit = 0.01; // of its left upper corner; a unit: a pixel, or the file's own
    std::vector<std::string> hidden{};         // layers of a DXF drawing that are not drawn
    Extra extra{};
    bool operator==(const Backdrop&) const = default;
};

struct MovableWall {
    std::string id, name;
    acoustics::Spot from{}, to{};
    std::vector<std::string> rooms{}; // the two it divides
    Extra extra{};
    bool operator==(const MovableWall&) const = default;
};

struct WallState {
    std::string id, name;
    std::vector<std::string> open{}; // movable walls
    Extra extra{};
    bool operator==(const WallState&) const = default;
};

struct Rack {
    std::string id, name, room{};
    int units = 42;
    double x = 0, y = 0;
    Extra extra{};
    bool operator==(const Rack&) const = default;
};

// Where a device is.
struct Place {
    double x = 0, y = 0, z = 0, turn = 0, tilt = 0; // tilt: degrees up; a ceiling loudspeaker looks down with -90
    std::string rack{};                             // or in a rack ...
    int unit = 0;                                   // ... with its lowest unit counted from 1 at the bottom
    bool placed = false;
    Extra extra{};
    bool operator==(const Place&) const = default;
};

struct Room {
    std::string id, name;
    std::string colour{}; // a thread's name: madder, weld, lichen, teal, woad, plum, rose, walnut
    acoustics::Outline outline{};
    double height = 3;
    std::map<std::string, std::string> finishes{}; // "floor", "ceiling", "walls", "wall 3" -> a material's id
    double people = 0.5;                           // share of the seats that are taken while it is used
    double celsius = 20, humidity = 50;
    Noise noise{};
    Targets targets{};
    std::vector<Seats> seats{};
    std::vector<Talker> talkers{};
    std::vector<Furniture> furniture{};
    std::string pattern = "{room} {use} {n}"; // names of new devices
    std::string subnet{};                     // "10.20.4.0/24": where new addresses come from
    Extra extra{};
    bool operator==(const Room&) const = default;
};

struct Building {
    std::string id, name;
    List<Room> rooms{};
    std::vector<MovableWall> walls{};
    std::vector<WallState> states{};
    std::vector<Rack> racks{};
    std::vector<Backdrop> backdrops{};
    Extra extra{};
    bool operator==(const Building&) const = default;
};

// Octave levels of a room's background noise, dB SPL.
acoustics::Bands noiseBands(const Noise& noise);
// "12 x 8", "12x8x3.2", "12 8 m": width, depth and, if told, height in metres.
Result<std::array<double, 3>> readSize(const std::string& text);

} // namespace loom::project
