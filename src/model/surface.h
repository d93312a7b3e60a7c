// Touch surfaces: what people in a room see and press. Lengths are pixels of the surface, from the left and the top of
// the page.
#pragma once
#include "engine/result.h"
#include "engine/shared.h"
#include "schema/extra.h"
#include <array>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace loom::project {

// Colours are "#RRGGBB", "#RRGGBBAA" or "none"; "" and numbers below 0 are as what lies around it has them: a control
// as its page, a page as its surface, a surface as tokens of its own (surface/look.h).
struct SurfaceLook {
    std::string fill{}, edge{}, ink{}, accent{}; // accent: of what is on, and of a fader's travel
    double corner = -1, edgeWidth = -1, textSize = -1;
    schema::Extra extra{};
    bool operator==(const SurfaceLook&) const = default;
};

// Files of the project that a control shows instead of its own look, by what holds; "": none for that.
struct ControlPictures {
    std::string always{}, off{}, on{}, mixed{}, unknown{}, held{};
    schema::Extra extra{};
    bool operator==(const ControlPictures&) const = default;
};

// Something that is seen or pressed.
struct Control {
    std::string id, kind, name{};
    double x = 0, y = 0, width = 120, height = 64;
    std::string param{}; // what it shows and sets: a path as of rules/control_drive.h; "": nothing
    std::string text{};  // its label; "": what the parameter is called
    std::string page{};  // a page that pressing it opens
    std::string ply{};   // a ply of its page that pressing it opens or closes
    SurfaceLook look{};
    SurfaceLook touched{}; // while a finger is on it: fill, edge, ink; what is left out as its kind has it
    ControlPictures pictures{};
    std::string icon{};                  // one of ours, surface/icons.h; "": none
    std::string shape{};                 // of a shape: "rectangle", "ellipse", "line", "triangle", "diamond", "polygon"
    std::string corners{};               // of a polygon: "0 0, 100 20, 50 100", percent of its box
    std::string align{};                 // of its text: "left", "centre", "right"; "" as its kind has it
    std::optional<double> low{}, high{}; // narrower than the parameter's own range
    int digits = -1;                     // of numbers; -1: as the parameter has it
    double value = 1;                    // what a button sets
    std::string shown{}, enabled{};      // conditions, rules/condition.h; "": always
    bool through = false;                // a press goes on to what lies below
    bool confirm = false;                // asks before it does anything
    bool locked = false;                 // stays where it is on the page
    std::string group{};                 // controls of one group are chosen together
    schema::Extra extra{};
    bool operator==(const Control&) const = default;
};

// A stacked part of a page.
struct Ply {
    std::string id, name;
    bool locked = false;      // its controls are not touched while editing
    bool hiddenHere = false;  // while editing; devices never hear of it
    bool closed = false;      // at the start, in use
    std::string shown{};      // a condition under which it is open
    std::string comes{};      // how it opens: "" at once, "fade", "slide" from its edge
    std::string edge{};       // a drawer at that edge of the page: "left", "right", "top", "bottom"; "": it is none
    double extent = 320;      // of a drawer, from its edge
    bool outside = false;     // a press beside it closes it
    double closesAfter = 0;   // s, of nobody touching it; 0: it stays
    SurfaceLook look{};       // of a drawer, and what its controls inherit
    List<Control> controls{}; // from back to front
    schema::Extra extra{};
    bool operator==(const Ply&) const = default;
};

struct SurfacePage {
    std::string id, name;
    std::vector<std::string> roles{}; // who may open it; none: anyone
    SurfaceLook look{};
    std::vector<double> guidesAcross{}, guidesDown{}; // x of upright ones, y of level ones
    List<Ply> plies{};                                // from back to front
    schema::Extra extra{};
    const Control* control(const std::string& id) const; // null: none
    bool operator==(const SurfacePage&) const = default;
};

// Somebody who may do more; the PIN lives in the device alone.
struct SurfaceRole {
    std::string id, name;
    schema::Extra extra{};
    bool operator==(const SurfaceRole&) const = default;
};

struct Surface {
    std::string id, name;
    std::string device{}; // the touch surface that it is for; "": none yet
    int width = 1280, height = 800;
    double millimetres = 0; // across its screen; 0: not known
    std::string start{};    // the page it begins with; "": the first
    double idleSeconds = 0; // until it goes back there; 0: never
    std::vector<SurfaceRole> roles{};
    SurfaceLook look{};
    List<SurfacePage> pages{};
    schema::Extra extra{};
    const SurfacePage* page(const std::string& id) const; // null: none
    bool operator==(const Surface&) const = default;
};

// 3 to 60 corners; error: what it lacks.
Result<std::vector<std::array<double, 2>>> readCorners(const std::string& text);

inline constexpr std::size_t mostSurfaces = 500, mostPages = 200, mostPlies = 100, mostOnPage = 2000;

} // namespace loom::project
