#include "surface/icons.h"
#include <algorithm>
#include <sstream>

namespace loom::project {
namespace {

struct Icon {
    IconName name;
    // Strokes on a field of 24 by 24: "L x y x y ..." a line, "P ..." a filled polygon, "O x y w h" a ring,
    // "D x y w h" a disc, "R x y w h corner" a box, "B x y w h corner" a filled box, "A x y w h from sweep" an arc.
    const char* strokes;
};

// Drawn for this product: what people in a room do.
const std::vector<Icon>& all() {
    static const std::vector<Icon> list{
        {{"microphone", "Microphone"}, "R 9 2.5 6 11 3; A 5 4 14 14 90 180; L 12 18 12 21.5; L 8 21.5 16 21.5"},
        {{"microphone-off", "Microphone off"},
         "R 9 2.5 6 11 3; A 5 4 14 14 90 180; L 12 18 12 21.5; L 8 21.5 16 21.5; L 3 3 21 21"},
        {{"loudspeaker", "Loudspeaker"}, "P 3 9 7 9 12 4.5 12 19.5 7 15 3 15; A 9 7 10 10 45 90; A 7 3 16 18 45 90"},
        {{"loudspeaker-off", "Loudspeaker off"}, "P 3 9 7 9 12 4.5 12 19.5 7 15 3 15; L 15 9 21 15; L 21 9 15 15"},
        {{"call", "Call"},
         "L 4 8 4 5 8 5 9.5 10 7.5 11.5; L 7.5 11.5 12.5 16.5; L 12.5 16.5 14 14.5 19 16 19 20 16 20; "
         "L 4 8 16 20"},
        {{"hang-up", "Hang up"}, "L 3 15.5 3 12 7 9 17 9 21 12 21 15.5 16.5 15.5 16 12.5 8 12.5 7.5 15.5 3 15.5"},
        {{"screen", "Screen"}, "R 2.5 4 19 13 1.5; L 8 21 16 21; L 12 17 12 21"},
        {{"blinds", "Blinds"},
         "L 3 3.5 21 3.5; L 4.5 8 19.5 8; L 4.5 12 19.5 12; L 4.5 16 19.5 16; L 17 3.5 17 20.5; D 15.7 "
         "19.5 2.6 2.6"},
        {{"light", "Light"}, "A 5 2.5 14 14 -140 280; L 9.5 15 9.5 18.5 14.5 18.5 14.5 15; L 10 21.5 14 21.5"},
        {{"people", "People"}, "O 8.5 3.5 7 7; A 3.5 13 17 16 -90 180; L 3.5 21 20.5 21"},
        {{"meeting", "Meeting"},
         "R 6 9 12 6 3; D 10.7 3 2.6 2.6; D 10.7 18.4 2.6 2.6; D 1.5 10.7 2.6 2.6; D 19.9 10.7 2.6 2.6"},
        {{"film", "Film"}, "R 3 4.5 18 15 1.5; P 10 8.5 16 12 10 15.5"},
        {{"music", "Music"}, "L 9 17.5 9 5 19 3 19 15.5; D 4.5 15.5 5 4.5; D 14.5 13.5 5 4.5"},
        {{"power", "Power"}, "A 4 4 16 16 35 290; L 12 2.5 12 11"},
        {{"help", "Help"},
         "O 2.5 2.5 19 19; A 8.7 6 6.6 6.6 -90 200; L 14.2 11.6 12 13.2 12 14.6; D 10.9 16.8 2.2 2.2"},
        {{"wall-open", "Wall open"},
         "L 3 3 3 21; L 21 3 21 21; L 5.5 12 10 12; L 7.5 9.5 5.5 12 7.5 14.5; L 14 12 18.5 12; "
         "L 16.5 9.5 18.5 12 16.5 14.5"},
        {{"wall-closed", "Wall closed"}, "L 3 3 3 21; L 21 3 21 21; L 12 3 12 21"},
        {{"camera", "Camera"}, "R 2.5 7 13 10 2; P 17 10.5 21.5 8 21.5 16 17 13.5"},
        {{"lock", "Lock"}, "R 5 10.5 14 10.5 2; A 7.5 3 9 12 -90 180; L 12 14.5 12 17.5"},
        {{"up", "Up"}, "L 5 15 12 8 19 15"},
        {{"down", "Down"}, "L 5 9 12 16 19 9"},
        {{"left", "Left"}, "L 15 5 8 12 15 19"},
        {{"right", "Right"}, "L 9 5 16 12 9 19"},
        {{"home", "To the start"}, "L 3 12 12 4 21 12; L 5.5 10 5.5 20.5 18.5 20.5 18.5 10"},
        {{"more", "More"}, "D 4 10.5 3 3; D 10.5 10.5 3 3; D 17 10.5 3 3"},
        {{"close", "Close"}, "L 5 5 19 19; L 19 5 5 19"},
        {{"tick", "Done"}, "L 4.5 12.5 10 18 19.5 6.5"},
        {{"raise", "Louder"}, "P 3 9 7 9 12 4.5 12 19.5 7 15 3 15; L 15 12 21 12; L 18 9 18 15"},
        {{"lower", "Quieter"}, "P 3 9 7 9 12 4.5 12 19.5 7 15 3 15; L 15 12 21 12"},
    };
    return list;
}

void stroke(std::vector<Mark>& out, const std::string& text, double x, double y, double k, const Colour& ink) {
    std::istringstream in(text);
    std::string kind;
    in >> kind;
    std::vector<double> n;
    for (double v = 0; in >> v;)
        n.push_back(v);
    const double thick = std::max(1.5, 2 * k);
    Mark m;
    m.edgeWidth = thick;
    m.edge = ink;
    const auto box = [&](double grow) {
        m.x = x + n[0] * k - grow, m.y = y + n[1] * k - grow;
        m.width = n[2] * k + 2 * grow, m.height = n[3] * k + 2 * grow;
    };
    if (kind == "L") {
        m.kind = Mark::Kind::line;
        for (std::size_t i = 0; i + 3 < n.size(); i += 2) {
            m.x = x + n[i] * k, m.y = y + n[i + 1] * k;
            m.width = (n[i + 2] - n[i]) * k, m.height = (n[i + 3] - n[i + 1]) * k;
            out.push_back(m);
        }
        return;
    }
    if (kind == "P") {
        m.kind = Mark::Kind::polygon;
        m.fill = ink, m.edgeWidth = 0;
        for (std::size_t i = 0; i + 1 < n.size(); i += 2)
            m.points.push_back({x + n[i] * k, y + n[i + 1] * k});
    } else if (kind == "O") {
        m.kind = Mark::Kind::ellipse;
        box(thick / 2);
    } else if (kind == "D") {
        m.kind = Mark::Kind::ellipse;
        m.fill = ink, m.edgeWidth = 0;
        box(0);
    } else if (kind == "A") {
        m.kind = Mark::Kind::arc;
        box(thick / 2);
        m.from = n[4], m.sweep = n[5];
    } else {
        box(thick / 2);
        m.corner = n[4] * k;
    }
    out.push_back(m);
}

} // namespace

const std::vector<IconName>& iconNames() {
    static const auto names = [] {
        std::vector<IconName> list;
        for (const auto& one : all())
            list.push_back(one.name);
        return list;
    }();
    return names;
}

std::vector<Mark> iconMarks(const std::string& id, double x, double y, double size, const Colour& ink) {
    std::vector<Mark> marks;
    for (const auto& one : all())
        if (id == one.name.id) {
            std::istringstream in(one.strokes);
            for (std::string text; std::getline(in, text, ';');)
                stroke(marks, text, x, y, size / 24, ink);
        }
    return marks;
}

} // namespace loom::project
