// The one description of how a control is drawn and where it is pressed; whoever draws (the window, a browser) follows
// it and knows no kind of control. Lengths are pixels from the control's own corner.
#pragma once
#include "model/colour.h"
#include <array>
#include <set>
#include <string>
#include <vector>

namespace loom::project {

// A length that moves with the control's position t, 0 to 1.
struct Along {
    double at = 0, by = 0;
    Along(double start, double moves = 0) : at(start), by(moves) {}
    double operator()(double t) const { return at + by * t; }
};

// What a control shows now.
struct Shown {
    bool known = false, enabled = true;
    double t = 0;                 // its position
    std::string text{};           // the value
    bool on = false;              // a switch, a button whose value holds, a line in a call
    bool mixed = false;           // a scene of which some holds
    int chosen = -1;              // a choice
    std::set<int> held{};         // parts that fingers are on; 0 where it has none
    std::vector<double> series{}; // positions of many: lanes, what was lately, a response; below 0: not known
    std::string picture{};        // the file of the project that it shows; "": none
    bool operator==(const Shown&) const = default;
};

struct Mark {
    // A curve goes through the series, from left to right; its fill lies below it. A picture is shown whole, in the
    // middle of its box.
    enum class Kind { rectangle, ellipse, polygon, line, arc, text, curve, picture };
    // While what is so: the value is on, off, or not known; its part is the one that is chosen, or held down.
    enum class When { always, on, off, unknown, known, chosen, held };
    enum class Stand { left, centre, right };
    Kind kind = Kind::rectangle;
    Along x = 0, y = 0, width = 0, height = 0; // of a line: from (x, y) by (width, height)
    std::vector<std::array<double, 2>> points{};
    Along from = 0, sweep = 0; // of an arc within the box: degrees clockwise from the top
    double corner = 0;
    Colour fill{0, 0, 0, 0}, edge{0, 0, 0, 0}; // of a text: fill
    double edgeWidth = 0;
    std::string text{}; // "{value}" stands for the value; one line, or broken where the box ends
    double size = 16;
    bool bold = false, figures = false; // figures: in the type of numbers
    Stand stand = Stand::centre;
    When when = When::always;
    int part = -1; // a press within it means this one; -1: the control as a whole
    int of = -1;   // follows this one of the series; -1: the control's own position and value
};

// Whether a mark is drawn, and where along its way it stands.
bool isDrawn(const Mark& mark, const Shown& shown);
double positionFor(const Mark& mark, const Shown& shown);

// Where a finger sets a position: along the line from (x0, y0), which is 0, to (x1, y1), which is 1.
struct Track {
    double x0 = 0, y0 = 0, x1 = 0, y1 = 0;
    double at(double x, double y) const; // 0 to 1
};

struct Sketch {
    std::vector<Mark> marks{};
    Track track{};
    int parts = 0; // that are pressed each for itself
    // The foremost part there; -1: none.
    int partAt(double x, double y) const;
};

} // namespace loom::project
