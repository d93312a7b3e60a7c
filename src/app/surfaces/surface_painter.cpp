#include "app/surfaces/surface_painter.h"
#include "app/surfaces/surface_pictures.h"
#include "app/text.h"
#include "surface/over.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {

using namespace project;

QColor qcolor(const Colour& c) {
    return {c.r, c.g, c.b, c.a};
}

namespace {

// Through the series, with a gap where something is not known; filled below.
void paintCurve(QPainter& p, const Mark& m, const QRectF& box, const std::vector<double>& series) {
    QPainterPath line, below;
    bool on = false;
    double lastX = 0;
    const auto drop = [&] {
        if (std::exchange(on, false))
            below.lineTo(lastX, box.bottom()), below.closeSubpath();
    };
    for (std::size_t i = 0; i < series.size(); ++i) {
        const double x =
            box.left() +
            (series.size() > 1 ? box.width() * static_cast<double>(i) / static_cast<double>(series.size() - 1) : 0);
        const double y = box.bottom() - box.height() * series[i];
        if (series[i] < 0) {
            drop();
            continue;
        }
        if (on) {
            line.lineTo(x, y), below.lineTo(x, y);
        } else {
            line.moveTo(x, y);
            below.moveTo(x, box.bottom());
            below.lineTo(x, y);
        }
        on = true;
        lastX = x;
    }
    drop();
    if (m.fill.a > 0)
        p.fillPath(below, qcolor(m.fill));
    p.strokePath(line, QPen(qcolor(m.edge), m.edgeWidth, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin));
}

void paintPicture(QPainter& p, const Project& project, const QRectF& box, const std::string& name) {
    const double k = p.worldTransform().m11() * p.device()->devicePixelRatioF();
    const auto image = pictureAt(project, name, QSizeF(box.width() * k, box.height() * k).toSize());
    if (image.isNull())
        return;
    // As large as it is; one of another size, until its own has come, as large as it will be.
    const QSizeF whole = QSizeF(image.size()).scaled(box.size() * k, Qt::KeepAspectRatio);
    const bool own = std::abs(whole.width() - image.width()) <= 1 && std::abs(whole.height() - image.height()) <= 1;
    QRectF at({0, 0}, (own ? QSizeF(image.size()) : whole) / k);
    at.moveCenter(box.center());
    p.drawImage(at, image);
}

QFont fontOf(const Mark& m, double size) {
    QFont f(m.figures ? "JetBrains Mono" : "Manrope");
    f.setPixelSize(std::max(1, static_cast<int>(std::lround(size))));
    f.setWeight(m.bold ? QFont::Bold : m.figures ? QFont::Normal : QFont::Medium);
    return f;
}

// As a browser does it (draw.js): a word that is wider than its box makes the letters smaller, as far as can be read;
// lines are broken only where the box has room for two and the text has none; else it is cut at its end.
void paintText(QPainter& p, const Mark& m, const QRectF& box, const Shown& s) {
    constexpr double smallest = 0.6;
    QString text = q(m.text);
    text.replace("{value}", q(s.text));
    QFont f = fontOf(m, m.size);
    QFontMetricsF metrics(f);
    const auto words = text.split(' ', Qt::SkipEmptyParts);
    double longest = 0;
    for (const auto& word : words)
        longest = std::max(longest, metrics.horizontalAdvance(word));
    if (longest > box.width() && box.width() > 0) {
        f = fontOf(m, std::floor(m.size * std::max(smallest, box.width() / longest)));
        metrics = QFontMetricsF(f);
    }
    QStringList lines{text};
    if (metrics.horizontalAdvance(text) > box.width() && box.height() >= 2 * metrics.height()) {
        lines.clear();
        QString line;
        for (const auto& word : words) {
            const QString longer = line.isEmpty() ? word : line + " " + word;
            if (!line.isEmpty() && metrics.horizontalAdvance(longer) > box.width())
                lines << std::exchange(line, word);
            else
                line = longer;
        }
        lines << line;
    }
    p.setFont(f);
    p.setPen(qcolor(m.fill));
    double y = box.top() + (box.height() - metrics.height() * lines.size()) / 2 + metrics.ascent();
    for (auto& line : lines) {
        line = metrics.elidedText(line, Qt::ElideRight, box.width() + 0.5);
        const double wide = metrics.horizontalAdvance(line);
        const double x = m.stand == Mark::Stand::left    ? box.left()
                         : m.stand == Mark::Stand::right ? box.right() - wide
                                                         : box.left() + (box.width() - wide) / 2;
        p.drawText(QPointF(x, y), line);
        y += metrics.height();
    }
}

} // namespace

void paintSketch(QPainter& p, const Project& project, const Sketch& sketch, const Shown& s) {
    for (const auto& m : sketch.marks) {
        if (!isDrawn(m, s))
            continue;
        const double t = positionFor(m, s);
        const QRectF box(m.x(t), m.y(t), m.width(t), m.height(t));
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
                      static_cast<int>(std::lround((90 - m.from(t)) * 16)),
                      -static_cast<int>(std::lround(m.sweep(t) * 16)));
            break;
        case Mark::Kind::text:
            paintText(p, m, box, s);
            break;
        case Mark::Kind::curve:
            paintCurve(p, m, box, s.series);
            break;
        case Mark::Kind::picture:
            paintPicture(p, project, box, s.picture);
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
        if (use.isOpen(ply)) {
            if (!ply.edge.empty()) {
                const auto box = drawerBox(*s, ply);
                p.fillRect(QRectF(box.x, box.y, box.width, box.height), qcolor(drawerFill(*s, *page, ply)));
            }
            for (const auto& c : ply.controls)
                if (use.seen(c)) {
                    const auto shown = use.shown(c);
                    p.save();
                    p.translate(c.x, c.y);
                    if (!shown.enabled)
                        p.setOpacity(0.45);
                    paintSketch(p, project, sketchOf(project, *s, *page, c), shown);
                    p.restore();
                }
        }
    if (const auto over = use.over())
        paintSketch(p, project, *over, use.overShown());
    if (!use.said().empty())
        paintSketch(p, project, wordsOver(*s, paintOf(*s, *page), use.said()), {});
}

} // namespace loom::app
