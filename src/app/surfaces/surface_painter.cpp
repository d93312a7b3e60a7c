#include "app/surfaces/surface_painter.h"
#include "app/text.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {

using namespace project;

QColor qcolor(const Colour& c) {
    return {c.r, c.g, c.b, c.a};
}

namespace {

bool holds(const Mark& m, const SurfaceUse::Shown& s) {
    switch (m.when) {
    case Mark::When::always:
        return true;
    case Mark::When::on:
        return s.known && s.on;
    case Mark::When::off:
        return s.known && !s.on;
    case Mark::When::unknown:
        return !s.known;
    case Mark::When::known:
        return s.known;
    case Mark::When::chosen:
        return s.known && s.chosen == m.part;
    case Mark::When::held:
        return s.held.count(std::max(m.part, 0)) > 0;
    }
    return true;
}

void paintText(QPainter& p, const Mark& m, const QRectF& box, const SurfaceUse::Shown& s) {
    QString text = q(m.text);
    text.replace("{value}", q(s.text));
    QFont f(m.figures ? "JetBrains Mono" : "Manrope");
    f.setPixelSize(std::max(1, static_cast<int>(std::lround(m.size))));
    f.setWeight(m.bold ? QFont::Bold : m.figures ? QFont::Normal : QFont::Medium);
    p.setFont(f);
    p.setPen(qcolor(m.fill));
    const auto across = m.stand == Mark::Stand::left    ? Qt::AlignLeft
                        : m.stand == Mark::Stand::right ? Qt::AlignRight
                                                        : Qt::AlignHCenter;
    const QFontMetricsF metrics(f);
    // Broken only where its box has room for two lines and the text has none.
    if (metrics.horizontalAdvance(text) > box.width() && box.height() >= 2 * metrics.height())
        return p.drawText(box, static_cast<int>(across) | Qt::AlignVCenter | Qt::TextWordWrap, text);
    p.drawText(box, static_cast<int>(across) | Qt::AlignVCenter | Qt::TextSingleLine,
               metrics.elidedText(text, Qt::ElideRight, box.width() + 0.5));
}

} // namespace

void paintSketch(QPainter& p, const Sketch& sketch, const SurfaceUse::Shown& s) {
    for (const auto& m : sketch.marks) {
        if (!holds(m, s))
            continue;
        const QRectF box(m.x(s.t), m.y(s.t), m.width(s.t), m.height(s.t));
        p.setPen(m.edgeWidth > 0 && m.edge.a > 0
                     ? QPen(qcolor(m.edge), m.edgeWidth, Qt::SolidLine, Qt::RoundCap, Qt::MiterJoin)
                     : QPen(Qt::NoPen));
        p.setBrush(m.fill.a > 0 ? QBrush(qcolor(m.fill)) : QBrush(Qt::NoBrush));
        const double in = p.pen().style() == Qt::NoPen ? 0 : m.edgeWidth / 2; // the edge lies within the box
        switch (m.kind) {
        case Mark::Kind::rectangle:
            p.drawRoundedRect(box.adjusted(in, in, -in, -in), m.corner, m.corner);
            break;
        case Mark::Kind::ellipse:
            p.drawEllipse(box.adjusted(in, in, -in, -in));
            break;
        case Mark::Kind::polygon: {
            QPolygonF corners;
            for (const auto& c : m.points)
                corners << QPointF(c[0], c[1]);
            p.drawPolygon(corners);
            break;
        }
        case Mark::Kind::line:
            p.drawLine(box.topLeft(), box.bottomRight());
            break;
        case Mark::Kind::arc: // Qt counts from three o'clock, the other way round, in sixteenths
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(qcolor(m.edge), m.edgeWidth, Qt::SolidLine, Qt::RoundCap));
            p.drawArc(box.adjusted(m.edgeWidth / 2, m.edgeWidth / 2, -m.edgeWidth / 2, -m.edgeWidth / 2),
                      static_cast<int>(std::lround((90 - m.from(s.t)) * 16)),
                      -static_cast<int>(std::lround(m.sweep(s.t) * 16)));
            break;
        case Mark::Kind::text:
            paintText(p, m, box, s);
            break;
        }
    }
}

void paintPage(QPainter& p, const Project& project, const SurfaceUse& use) {
    const auto* s = use.surface();
    const auto* page = use.page();
    if (!s || !page)
        return;
    p.fillRect(QRectF(0, 0, s->width, s->height), qcolor(paintOf(*s, *page).page));
    for (const auto& ply : page->plies)
        if (use.isOpen(ply))
            for (const auto& c : ply.controls)
                if (use.seen(c)) {
                    const auto shown = use.shown(c);
                    p.save();
                    p.translate(c.x, c.y);
                    if (!shown.enabled)
                        p.setOpacity(0.45);
                    paintSketch(p, sketchOf(project, *s, *page, c), shown);
                    p.restore();
                }
}

} // namespace loom::app
