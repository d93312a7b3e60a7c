#include "surface/control_kind.h"
#include "surface/icons.h"
#include <algorithm>

namespace loom::project {

namespace {

bool hasPicture(const ControlPictures& p) {
    return !(p.always + p.off + p.on + p.mixed + p.unknown + p.held).empty();
}

} // namespace

bool ControlKind::fits(const Drive& d) const {
    return std::find(drives.begin(), drives.end(), d.kind) != drives.end() && (touch == Touch::none || isSet(d));
}

const ControlKind* findControlKind(const std::string& id) {
    for (const auto& k : controlKinds())
        if (k.id == id)
            return &k;
    return nullptr;
}

const ControlKind& usualKind(const Drive& d) {
    const bool set = isSet(d);
    return *findControlKind(d.kind == Drive::Kind::onOff      ? (set ? "toggle" : "lamp")
                            : d.kind == Drive::Kind::choice   ? (set ? "choice" : "value")
                            : d.kind == Drive::Kind::reading  ? "meter"
                            : d.kind == Drive::Kind::lanes    ? "lamps"
                            : d.kind == Drive::Kind::response ? "response"
                            : d.kind == Drive::Kind::line     ? "dial"
                            : d.kind == Drive::Kind::scene    ? "press"
                            : d.kind == Drive::Kind::cue      ? "press"
                                                              : "fader");
}

std::string labelOf(const Control& c, const Drive* d) {
    if (!c.text.empty() || !d)
        return c.text;
    if (isSignal(*d)) // "Display · Volume" and "Display · Power" stand side by side
        return d->label;
    // What a block is called says who it is; the parameter's own name only adds to it.
    const auto dot = d->label.find(" \u00b7 ");
    return dot == std::string::npos ? d->label : d->label.substr(0, dot);
}

namespace {

// What every kind can have besides its own: a look while it is touched, and pictures below its words.
void dress(const Drawn& d, Sketch& sketch) {
    const auto& touched = d.control.touched;
    auto& marks = sketch.marks;
    const auto colour = [](const std::string& text, Colour& to) {
        if (const auto read = text.empty() ? Result<Colour>(Error{}) : readColour(text))
            to = *read;
    };
    if (!marks.empty() && !(touched.fill + touched.edge).empty()) {
        auto held = std::find_if(marks.begin(), marks.end(),
                                 [](const Mark& m) { return m.when == Mark::When::held && m.part < 0; });
        if (held == marks.end()) {
            Mark m = marks.front();
            m.when = Mark::When::held;
            held = marks.insert(marks.begin() + 1, m);
        }
        colour(touched.fill, held->fill);
        colour(touched.edge, held->edge);
        if (!touched.edge.empty() && held->edgeWidth <= 0)
            held->edgeWidth = touched.edgeWidth > 0 ? touched.edgeWidth : 2;
    }
    if (hasPicture(d.control.pictures)) {
        Mark m;
        m.kind = Mark::Kind::picture;
        m.width = d.width, m.height = d.height;
        if (d.control.kind != "picture") { // on a button: above its words
            const double line = d.label.empty() ? 0 : std::min(d.paint.textSize * 1.4, d.height / 2);
            const double pad = std::min(10.0, std::min(d.width, d.height) / 8);
            m.x = m.y = pad;
            m.width = std::max(1.0, d.width - 2 * pad), m.height = std::max(1.0, d.height - line - 2 * pad);
        }
        const auto words =
            std::find_if(marks.begin(), marks.end(), [](const Mark& one) { return one.kind == Mark::Kind::text; });
        marks.insert(words, m);
    }
}

} // namespace

Sketch sketchOf(const Project& p, const Surface& s, const SurfacePage& page, const Control& c) {
    const auto drive = c.param.empty() ? std::nullopt : controlDrive(p, c.param);
    const Drawn d{
        c.width, c.height, paintOf(s, page, c), labelOf(c, drive ? &*drive : nullptr), c, drive ? &*drive : nullptr};
    if (const auto* kind = findControlKind(c.kind)) {
        auto sketch = kind->sketch(d);
        dress(d, sketch);
        return sketch;
    }
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
    for (const auto when : {Mark::When::off, Mark::When::on, Mark::When::unknown})
        for (auto& m : face(d, 6, 0, d.width - 12, d.height, when == Mark::When::on ? p.onAccent : p.ink)) {
            m.when = when;
            s.marks.push_back(m);
        }
    return s;
}

std::vector<Mark> face(const Drawn& d, double x, double y, double width, double height, const Colour& ink) {
    const double line = d.label.empty() ? 0 : std::min(d.paint.textSize * 1.4, height / 2);
    if (hasPicture(d.control.pictures)) // which stands above the words
        return {label(d, x, y + height - line - 6, width, line, d.label, ink, d.paint.textSize)};
    const double size = std::min({width, height - line - 8, 72.0});
    if (d.control.icon.empty() || size < 8)
        return {label(d, x, y, width, height, d.label, ink, d.paint.textSize)};
    const double top = y + (height - size - line) / 2;
    auto marks = iconMarks(d.control.icon, x + (width - size) / 2, top, size, ink);
    if (line > 0)
        marks.push_back(label(d, x, top + size, width, line, d.label, ink, d.paint.textSize));
    return marks;
}

Mark::Stand standOf(const Control& c, Mark::Stand usual) {
    return c.align == "left"     ? Mark::Stand::left
           : c.align == "right"  ? Mark::Stand::right
           : c.align == "centre" ? Mark::Stand::centre
                                 : usual;
}

} // namespace pieces

} // namespace loom::project
