#include "surface/over.h"
#include <algorithm>
#include <cmath>

namespace loom::project {
namespace {

constexpr double gap = 6, pad = 12;

Mark boxOf(double x, double y, double w, double h, const Colour& fill, double corner) {
    Mark m;
    m.x = x, m.y = y, m.width = w, m.height = h;
    m.fill = fill;
    m.corner = std::min({corner, w / 2, h / 2});
    return m;
}

Mark words(double x, double y, double w, double h, const std::string& text, const Colour& ink, double size) {
    Mark m;
    m.kind = Mark::Kind::text;
    m.x = x, m.y = y, m.width = w, m.height = h;
    m.text = text;
    m.fill = ink;
    m.size = size;
    m.bold = true;
    return m;
}

struct OverPlace {
    double x, y;
};
// Below its control, else above it, else where it fits.
OverPlace beside(const Surface& s, const Control& c, double w, double h) {
    OverPlace p{c.x, c.y + c.height + gap};
    if (p.y + h > s.height && c.y - gap - h >= 0)
        p.y = c.y - gap - h;
    p.x = std::clamp(p.x, 0.0, std::max(0.0, s.width - w));
    p.y = std::clamp(p.y, 0.0, std::max(0.0, s.height - h));
    return p;
}

Mark panel(const OverPlace& at, double w, double h, const Paint& p) {
    Mark m = boxOf(at.x, at.y, w, h, mixed(p.page, p.ink, 0.14), p.corner);
    m.edge = mixed(p.page, p.ink, 0.5), m.edgeWidth = 1;
    return m;
}

} // namespace

Sketch choicesOver(const Surface& s, const Paint& p, const Control& c, const std::vector<std::string>& choices) {
    Sketch out;
    const double row = std::max(48.0, p.textSize * 2.6);
    const int n = static_cast<int>(choices.size());
    const int most = std::max(1, static_cast<int>((s.height - 2 * gap) / (row + gap)));
    const int columns = std::max(1, (n + most - 1) / most), rows = (n + columns - 1) / std::max(1, columns);
    const double wide = std::min(std::max(c.width, 200.0), (s.width - gap) / columns - gap);
    const double w = columns * (wide + gap) + gap, h = rows * (row + gap) + gap;
    const auto at = beside(s, c, w, h);
    out.marks.push_back(panel(at, w, h, p));
    for (int i = 0; i < n; ++i) {
        const double x = at.x + gap + (i / rows) * (wide + gap), y = at.y + gap + (i % rows) * (row + gap);
        Mark key = boxOf(x, y, wide, row, mixed(p.page, p.ink, 0.2), p.corner), is = key, held = key;
        key.part = is.part = held.part = i;
        is.fill = p.accent, is.when = Mark::When::chosen;
        held.fill = mixed(p.page, p.accent, 0.6), held.when = Mark::When::held;
        auto name = words(x + 8, y, wide - 16, row, choices[static_cast<std::size_t>(i)], p.ink, p.textSize);
        auto on = name;
        on.fill = p.onAccent, on.when = Mark::When::chosen, on.part = i;
        out.marks.insert(out.marks.end(), {key, name, is, on, held});
        auto pressed = name;
        pressed.when = Mark::When::held, pressed.part = i;
        out.marks.push_back(pressed);
    }
    out.parts = n;
    return out;
}

Sketch numberOver(const Surface& s, const Paint& p, const Control& c, const std::string& range) {
    Sketch out;
    const double key = 60, w = std::min<double>(s.width, 3 * key + 2 * gap + 2 * pad + 24), head = 64;
    const double wide = (w - 2 * pad - 2 * gap) / 3, h = head + 5 * (key + gap) + pad;
    const auto at = beside(s, c, w, h);
    out.marks.push_back(panel(at, w, h, p));
    auto typed = words(at.x + pad, at.y + 4, w - 2 * pad, 36, "{value}", p.ink, 24);
    typed.figures = true;
    auto limits = words(at.x + pad, at.y + 38, w - 2 * pad, 22, range, p.ink, 13);
    limits.bold = false;
    out.marks.insert(out.marks.end(), {typed, limits});
    static constexpr const char* signs[] = {"1", "2",      "3", "4", "5",      "6",      "7",  "8",
                                            "9", "\u2212", "0", ".", "\u2190", "Cancel", "Set"};
    for (int i = 0; i < 15; ++i) {
        const double x = at.x + pad + (i % 3) * (wide + gap), y = at.y + head + (i / 3) * (key + gap);
        Mark back = boxOf(x, y, wide, key, i == 14 ? p.accent : mixed(p.page, p.ink, 0.24), p.corner), held = back;
        back.part = held.part = i;
        held.fill = mixed(p.page, p.accent, 0.6), held.when = Mark::When::held;
        out.marks.insert(out.marks.end(), {back, held,
                                           words(x, y, wide, key, signs[i], i == 14 ? p.onAccent : p.ink,
                                                 i == 13 ? p.textSize * 0.9 : 20)});
    }
    out.parts = 15;
    return out;
}

Sketch wordsOver(const Surface& s, const Paint& p, const std::string& said) {
    Sketch out;
    const double h = std::max(56.0, p.textSize * 3.2);
    Mark back = boxOf(gap, gap, s.width - 2 * gap, h, p.ink, p.corner);
    auto text = words(gap + pad, gap, s.width - 2 * (gap + pad), h, said, p.page, p.textSize * 1.1);
    out.marks = {back, text};
    return out;
}

} // namespace loom::project
