// Choice: a button for each, side by side or one below the other as its box is.
#include "surface/control_kind.h"

namespace loom::project::choice_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    constexpr double gap = 4;
    Sketch s;
    const auto& p = d.paint;
    std::vector<std::string> names = d.drive ? d.drive->spec.choices : std::vector<std::string>{};
    if (names.empty())
        names = {d.label.empty() ? "no choice" : d.label};
    const double n = static_cast<double>(names.size());
    const bool down = d.height > d.width;
    const double wide = down ? d.width : (d.width - gap * (n - 1)) / n,
                 high = down ? (d.height - gap * (n - 1)) / n : d.height;
    for (std::size_t i = 0; i < names.size(); ++i) {
        const double x = down ? 0 : static_cast<double>(i) * (wide + gap),
                     y = down ? static_cast<double>(i) * (high + gap) : 0;
        Mark key = box(d, p.fill), is = box(d, p.accent, Mark::When::chosen);
        for (Mark* m : {&key, &is})
            m->x = x, m->y = y, m->width = wide, m->height = high, m->part = static_cast<int>(i);
        auto name = label(d, x + 4, y, wide - 8, high, names[i], p.ink, p.textSize), on = name;
        on.fill = p.onAccent, on.when = Mark::When::chosen, on.part = static_cast<int>(i);
        on.stand = name.stand = standOf(d.control, Mark::Stand::centre);
        s.marks.insert(s.marks.end(), {key, name, is, on});
    }
    s.parts = static_cast<int>(names.size());
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "choice", k.label = "Choice", k.purpose = "A button for each that can be chosen";
    k.drives = {Drive::Kind::choice};
    k.needed = true;
    k.width = 420, k.height = 64;
    k.touch = Touch::pick;
    k.role = "radiogroup";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::choice_control
