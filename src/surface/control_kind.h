// The declaration of a kind of control. Each lives in src/surface/controls/NAME.cpp, as all of namespace NAME_control
// with declare(); CMake makes the list.
#pragma once
#include "rules/control_drive.h"
#include "surface/look.h"
#include "surface/sketch.h"
#include <functional>

namespace loom::project {

// What a finger does to it.
enum class Touch {
    none,   // it is only seen
    slide,  // goes to where the finger is on its track
    turn,   // moves with the finger, up and to the right is more
    toggle, // on, off
    press,  // sets a value, or opens a page or ply
    hold,   // on while it is held
    pick,   // its parts are the choices
    step,   // its parts are one step less, and one more
    unfold, // the choices are shown in a list over the page
    type,   // a number is typed on keys over the page
    dial,   // its parts are keys of a telephone
};

struct Drawn {
    double width, height;
    Paint paint;
    std::string label;
    const Control& control;
    const Drive* drive; // null: it has none, or it is gone
};

struct ControlKind {
    std::string id, label, purpose;
    std::vector<Drive::Kind> drives{}; // what it may be driven from; none: nothing
    bool needed = false;               // without it, it does nothing
    double width = 120, height = 64;   // as it begins
    Touch touch = Touch::none;
    const char* role = "img"; // WAI-ARIA
    bool clock = false;       // shows the time of day
    int lately = 0;           // so many positions of the last seconds are its series
    std::function<Sketch(const Drawn&)> sketch{};
    bool fits(const Drive& drive) const;
};

const std::vector<ControlKind>& controlKinds();
const ControlKind* findControlKind(const std::string& id); // null: none
// The kind that suits a drive best: the first of the list that fits.
const ControlKind& usualKind(const Drive& drive);

// "Speech · level" without what all have in common with the page; of a control its own text, if it has one.
std::string labelOf(const Control& control, const Drive* drive);
// As it is drawn; a kind that is not known is an empty box that says so.
Sketch sketchOf(const Project& project, const Surface& surface, const SurfacePage& page, const Control& control);

// -- pieces that several kinds are made of --
namespace pieces {
Mark box(const Drawn& d, const Colour& fill, Mark::When when = Mark::When::always);
Mark label(const Drawn& d, double x, double y, double width, double height, const std::string& text, const Colour& ink,
           double size, bool bold = true);
Sketch button(const Drawn& d); // lit while it is on, half while it is held
// What stands on a button in a box of it: its icon, if it has one, and its words.
std::vector<Mark> face(const Drawn& d, double x, double y, double width, double height, const Colour& ink);
Mark::Stand standOf(const Control& control, Mark::Stand usual);
} // namespace pieces

} // namespace loom::project
