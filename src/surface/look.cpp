#include "surface/look.h"

namespace loom::project {
namespace {

constexpr double shade = 0.08; // of what is off, from the page towards its ink

void take(std::optional<Colour>& colour, const std::string& text) {
    if (!text.empty())
        if (const auto read = readColour(text))
            colour = *read;
}

Paint paint(const Surface& s, const SurfacePage& page, const Control* c) {
    std::optional<Colour> behind = *readColour(surfaceFill), ink = *readColour(surfaceInk),
                          accent = *readColour(surfaceAccent), edge = Colour{0, 0, 0, 0}, fill;
    Paint p;
    for (const SurfaceLook* l : {&s.look, &page.look}) {
        take(behind, l->fill), take(ink, l->ink), take(accent, l->accent), take(edge, l->edge);
        for (auto [to, from] :
             {std::pair(&p.corner, l->corner), {&p.edgeWidth, l->edgeWidth}, {&p.textSize, l->textSize}})
            if (from >= 0)
                *to = from;
    }
    if (c) {
        take(fill, c->look.fill), take(ink, c->look.ink), take(accent, c->look.accent), take(edge, c->look.edge);
        for (auto [to, from] :
             {std::pair(&p.corner, c->look.corner), {&p.edgeWidth, c->look.edgeWidth}, {&p.textSize, c->look.textSize}})
            if (from >= 0)
                *to = from;
    }
    p.page = *behind;
    p.page.a = 255;
    p.ink = *ink;
    p.fill = fill.value_or(mixed(p.page, p.ink, shade));
    p.edge = *edge;
    p.accent = *accent;
    const Colour dark{0x14, 0x18, 0x1B, 255}, light{0xFF, 0xFD, 0xF8, 255};
    const auto on = over(p.accent, p.page);
    p.onAccent = contrast(on, dark) >= contrast(on, light) ? dark : light;
    return p;
}

} // namespace

Paint paintOf(const Surface& s, const SurfacePage& page) {
    return paint(s, page, nullptr);
}

Paint paintOf(const Surface& s, const SurfacePage& page, const Control& c) {
    return paint(s, page, &c);
}

} // namespace loom::project
