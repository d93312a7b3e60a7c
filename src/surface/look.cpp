#include "surface/look.h"
#include <algorithm>

namespace loom::project {
namespace {

constexpr double shade = 0.08; // of what is off, from the page towards its ink

void take(std::optional<Colour>& colour, const std::string& text) {
    if (!text.empty())
        if (const auto read = readColour(text))
            colour = *read;
}

bool hasLook(const Ply& ply) {
    return !ply.edge.empty() || !(ply.look == SurfaceLook{});
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
    // A drawer's own look is what lies on it inherits; its fill is the drawer's.
    const bool any =
        c && std::any_of(page.plies.begin(), page.plies.end(), [](const Ply& ply) { return hasLook(ply); });
    for (const auto& ply : any ? page.plies : List<Ply>{})
        if (hasLook(ply) && std::any_of(ply.controls.begin(), ply.controls.end(),
                                        [&](const Control& one) { return one.id == c->id; })) {
            take(ink, ply.look.ink), take(accent, ply.look.accent);
            if (!ply.edge.empty())
                behind = mixed(*behind, *ink, 2 * shade);
            take(behind, ply.look.fill);
            take(edge, ply.look.edge);
            for (auto [to, from] : {std::pair(&p.corner, ply.look.corner),
                                    {&p.edgeWidth, ply.look.edgeWidth},
                                    {&p.textSize, ply.look.textSize}})
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

Colour drawerFill(const Surface& s, const SurfacePage& page, const Ply& ply) {
    const auto p = paintOf(s, page);
    auto colour = std::optional<Colour>(mixed(p.page, p.ink, 2 * shade));
    take(colour, ply.look.fill);
    return *colour;
}

Paint paintOf(const Surface& s, const SurfacePage& page, const Control& c) {
    return paint(s, page, &c);
}

} // namespace loom::project
