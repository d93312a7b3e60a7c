// Dial pad: keys, what was typed or how the line is, call and hang up.
#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project::dial_control {
namespace {

Sketch sketch(const Drawn& d) {
    using namespace pieces;
    constexpr double gap = 6;
    static constexpr const char* keys[] = {"1", "2", "3", "4", "5", "6", "7", "8", "9", "*", "0", "#"};
    Sketch s;
    const auto& p = d.paint;
    const double head = std::max(p.textSize * 2.2, d.height / 7);
    const double w = std::max(1.0, (d.width - 4 * gap) / 3), h = std::max(1.0, (d.height - head - 6 * gap) / 5);
    s.marks.push_back(box(d, p.fill));
    auto shown = label(d, gap + 4, gap, d.width - 2 * gap - 8, head, "{value}", p.ink, p.textSize * 1.2, false);
    shown.figures = true;
    s.marks.push_back(shown);
    const auto key = [&](int part, double x, double y, double wide, const std::string& words, const Colour& fill,
                         const Colour& ink, Mark::When when) {
        Mark back = box(d, fill);
        back.x = x, back.y = y, back.width = wide, back.height = h, back.part = part, back.edgeWidth = 0;
        back.when = when;
        Mark held = back;
        held.fill = p.accent, held.when = Mark::When::held;
        auto name = label(d, x, y, wide, h, words, ink, std::min(p.textSize * 1.3, h * 0.6));
        name.stand = Mark::Stand::centre, name.when = when;
        s.marks.insert(s.marks.end(), {back, held, name});
    };
    const auto plain = mixed(p.fill, p.ink, 0.14);
    for (int i = 0; i < 12; ++i)
        key(i, gap + (i % 3) * (w + gap), head + 2 * gap + (i / 3) * (h + gap), w, keys[i], plain, p.ink,
            Mark::When::always);
    const double y = head + 2 * gap + 4 * (h + gap);
    for (const auto when : {Mark::When::off, Mark::When::unknown, Mark::When::on})
        key(12, gap, y, 2 * w + gap, when == Mark::When::on ? "Hang up" : "Call",
            when == Mark::When::on ? Colour{0xA6, 0x3D, 0x40, 255} : p.accent,
            when == Mark::When::on ? Colour{255, 255, 255, 255} : p.onAccent, when);
    key(13, gap + 2 * (w + gap), y, w, "\u2190", plain, p.ink, Mark::When::always);
    s.parts = 14;
    return s;
}

} // namespace

ControlKind declare() {
    ControlKind k;
    k.id = "dial", k.label = "Dial pad", k.purpose = "Keys of a telephone line: dial, call, hang up";
    k.drives = {Drive::Kind::line};
    k.needed = true;
    k.width = 260, k.height = 380;
    k.touch = Touch::dial;
    k.role = "group";
    k.sketch = sketch;
    return k;
}

} // namespace loom::project::dial_control
