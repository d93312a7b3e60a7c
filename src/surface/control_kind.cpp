#include "surface/control_kind.h"
#include <algorithm>

namespace loom::project {

bool ControlKind::fits(const Drive& d) const {
    return std::find(drives.begin(), drives.end(), d.kind) != drives.end();
}

const ControlKind* findControlKind(const std::string& id) {
    for (const auto& k : controlKinds())
        if (k.id == id)
            return &k;
    return nullptr;
}

const ControlKind& usualKind(const Drive& d) {
    return *findControlKind(d.kind == Drive::Kind::onOff     ? "toggle"
                            : d.kind == Drive::Kind::choice  ? "choice"
                            : d.kind == Drive::Kind::reading ? "meter"
                                                             : "fader");
}

std::string labelOf(const Control& c, const Drive* d) {
    if (!c.text.empty() || !d)
        return c.text;
    // What a block is called says who it is; the parameter's own name only adds to it.
    const auto dot = d->label.find(" \u00b7 ");
    return dot == std::string::npos ? d->label : d->label.substr(0, dot);
}

Sketch sketchOf(const Project& p, const Surface& s, const SurfacePage& page, const Control& c) {
    const auto drive = c.param.empty() ? std::nullopt : driveOf(p, c.param);
    const Drawn d{
        c.width, c.height, paintOf(s, page, c), labelOf(c, drive ? &*drive : nullptr), c, drive ? &*drive : nullptr};
    if (const auto* kind = findControlKind(c.kind))
        return kind->sketch(d);
    Sketch none;
    none.marks = {pieces::box(d, d.paint.fill),
                  pieces::label(d, 0, 0, c.width, c.height, c.kind + "?", d.paint.ink, d.paint.textSize)};
    return none;
}

namespace pieces {

Mark box(const Drawn& d, const Colour& fill, Mark::When when) {
    Mark m;
    m.width = d.width, m.height = d.height;
    m.corner = std::min({d.paint.corner, d.width / 2, d.height / 2});
    m.fill = fill;
    m.edge = d.paint.edge;
    m.edgeWidth = d.paint.edge.a > 0 ? d.paint.edgeWidth : 0;
    m.when = when;
    return m;
}

Mark label(const Drawn& d, double x, double y, double width, double height, const std::string& text, const Colour& ink,
           double size, bool bold) {
    Mark m;
    m.kind = Mark::Kind::text;
    m.x = x, m.y = y, m.width = std::max(0.0, width), m.height = std::max(0.0, height);
    m.text = text;
    m.fill = ink;
    m.size = size;
    m.bold = bold;
    m.stand = standOf(d.control, Mark::Stand::centre);
    return m;
}

Sketch button(const Drawn& d) {
    Sketch s;
    const auto& p = d.paint;
    s.marks = {box(d, p.fill), box(d, p.accent, Mark::When::on),
               box(d, mixed(p.fill, p.accent, 0.6), Mark::When::held)};
    for (const auto when : {Mark::When::off, Mark::When::on, Mark::When::unknown}) {
        auto name =
            label(d, 6, 0, d.width - 12, d.height, d.label, when == Mark::When::on ? p.onAccent : p.ink, p.textSize);
        name.when = when;
        s.marks.push_back(name);
    }
    return s;
}

Mark::Stand standOf(const Control& c, Mark::Stand usual) {
    return c.align == "left"     ? Mark::Stand::left
           : c.align == "right"  ? Mark::Stand::right
           : c.align == "centre" ? Mark::Stand::centre
                                 : usual;
}

} // namespace pieces

} // namespace loom::project
