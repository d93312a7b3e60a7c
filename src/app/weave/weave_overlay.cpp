// What lies over a weave for a while: what is dragged, a trace, a loop that was refused, tools, the level at the
// pointer.
#include "app/bench/bench_engine.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_measure.h"
#include "app/weave/weave_view.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {

using namespace weave;

// What hangs at the pointer.
void WeaveView::paintDrag(QPainter& p) {
    if (bridgeFrom_) {
        p.setPen(QPen(tokens().saffron, px(2), Qt::DotLine));
        p.drawLine(pointOf(*bridgeFrom_), hoverAt_);
    }
    if (!dragging_)
        return;
    p.setBrush(Qt::NoBrush);
    const Hit over = hit(dragAt_);
    if (press_.kind == Hit::Kind::end) {
        p.setPen(QPen(tokens().saffron, px(2), Qt::DashLine));
        const auto pairs = routePairs(over);
        for (const auto& [from, to] : pairs)
            p.drawLine(endAt(from), endAt(to));
        if (pairs.empty())
            p.drawLine(endPoint(press_.lane), dragAt_);
        return;
    }
    if (press_.kind != Hit::Kind::bead && press_.kind != Hit::Kind::lane)
        return;
    const auto* lane = layout_.laneOf(press_.lane.toStdString());
    if (!lane)
        return;
    p.setPen(QPen(tokens().saffron, px(2)));
    if (over.lane != press_.lane && layout_.laneOf(over.lane.toStdString()))
        p.drawRoundedRect(laneRect(over.lane), px(4), px(4));
    for (const auto& id : lane->beads) {
        const QRectF r = beadRect(q(id));
        if (press_.kind == Hit::Kind::lane || q(id) == press_.block)
            p.drawRoundedRect(r.translated(dragAt_ - pressAt_), r.height() / 2, r.height() / 2);
    }
}

// The way back from a destination; a cross and the reason where the sound is lost.
void WeaveView::paintTrace(QPainter& p) {
    if (!trace_ || trace_->steps.empty())
        return;
    p.setBrush(Qt::NoBrush);
    for (std::size_t i = 1; i < trace_->steps.size(); ++i) {
        const bool heard = trace_->lostAt < 0 || static_cast<int>(i) > trace_->lostAt;
        const QPointF a = pointOf(trace_->steps[i].at), b = pointOf(trace_->steps[i - 1].at);
        QColor c = tokens().saffron;
        c.setAlphaF(0.75f);
        p.setPen(QPen(c, px(heard ? 7 : 3), heard ? Qt::SolidLine : Qt::DotLine, Qt::RoundCap));
        paintWay(p, a, b);
    }
}

void WeaveView::paintWay(QPainter& p, const QPointF& a, const QPointF& b) {
    QPainterPath way(a);
    const double bend = std::max(px(12), std::abs(b.x() - a.x()) / 2);
    std::abs(a.y() - b.y()) < 1 ? way.lineTo(b) : way.cubicTo(a + QPointF(bend, 0), b - QPointF(bend, 0), b);
    p.drawPath(way);
}

// The loop that a refused route would have closed. Blocks of tools, which have no place here, are passed over.
void WeaveView::paintRefused(QPainter& p) {
    std::vector<QPointF> points;
    for (const auto& id : refused_)
        if (blockOf(id))
            points.push_back(pointOf({id, 0}));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(tokens().fault, px(4), Qt::DashLine, Qt::RoundCap));
    for (std::size_t i = 1; i < points.size(); ++i)
        paintWay(p, points[i - 1], points[i]);
}

void WeaveView::paintTraceSigns(QPainter& p) {
    if (!trace_ || trace_->steps.empty())
        return;
    p.setFont(number(9, true));
    for (const auto& step : trace_->steps) { // levels along the way, where they are known
        if (!step.db)
            continue;
        const QString level = *step.db < -99 ? QString(QChar(0x2212)) + QChar(0x221E)
                                             : QString::number(*step.db, 'f', 0).replace('-', QChar(0x2212));
        const auto* lane = layout_.laneOf(step.at.block);
        const bool names = lane && lane->destination() && lane->isEnd(step.at.block); // its name lies right of it
        const QPointF at = pointOf(step.at) - QPointF(names ? px(14) : 0, 0);
        const QRectF box(at.x() - px(15), at.y() - px(21), px(30), px(11));
        p.setPen(Qt::NoPen);
        p.setBrush(tokens().card);
        p.drawRoundedRect(box, px(4), px(4));
        p.setPen(tokens().ink);
        p.drawText(box, Qt::AlignCenter, level);
    }
    if (trace_->lostAt < 0)
        return;
    const auto& lost = trace_->steps[static_cast<std::size_t>(trace_->lostAt)];
    const QPointF at = pointOf(lost.at);
    p.setPen(QPen(tokens().card, px(2)));
    p.setBrush(tokens().fault);
    p.drawEllipse(at, px(9), px(9));
    p.setPen(QPen(tokens().card, px(2.4)));
    p.drawLine(at + QPointF(-px(4), -px(4)), at + QPointF(px(4), px(4)));
    p.drawLine(at + QPointF(-px(4), px(4)), at + QPointF(px(4), -px(4)));
    p.setFont(text(12, true));
    const QString says = q(lost.name + ": " + lost.lost);
    QRectF flag = QFontMetricsF(p.font()).boundingRect(QRectF(0, 0, px(300), px(200)), Qt::TextWordWrap, says);
    flag = flag.adjusted(-px(10), -px(6), px(10), px(6));
    flag.moveTopLeft(at + QPointF(px(6), px(14)));
    flag.moveRight(std::min(flag.right(), static_cast<double>(width()) - px(6)));
    flag.moveBottom(std::min(flag.bottom(), static_cast<double>(height()) - px(6)));
    p.setPen(QPen(tokens().fault, px(1.6)));
    p.setBrush(tokens().card);
    p.drawRoundedRect(flag, px(6), px(6));
    p.setPen(tokens().ink);
    p.drawText(flag.adjusted(px(10), px(6), -px(10), -px(6)), Qt::TextWordWrap, says);
}

// Tools at work: where they are, as a small sign each.
void WeaveView::paintTools(QPainter& p) {
    const auto& bench = session_.bench();
    const auto sign = [&](const engine::PortRef& at, const QString& word, const QColor& c, double row) {
        p.setFont(number(8, true));
        const double w = QFontMetricsF(p.font()).horizontalAdvance(word) + px(10);
        const QRectF r(pointOf(at).x() - w / 2, pointOf(at).y() + px(7) + row * px(14), w, px(13));
        p.setPen(QPen(tokens().card, px(1)));
        p.setBrush(c);
        p.drawRoundedRect(r, px(4), px(4));
        p.setPen(tokens().card);
        p.drawText(r, Qt::AlignCenter, word);
    };
    std::map<engine::PortRef, int> rows;
    for (const auto& t : session_.tools()) {
        const bool mute = t.kind == project::Tool::Kind::mute;
        if (t.kind == project::Tool::Kind::bridge) {
            p.setPen(QPen(tokens().saffron, px(2.4), Qt::DashLine));
            p.setBrush(Qt::NoBrush);
            const QPointF a = pointOf(t.from), b = pointOf(t.at);
            QPainterPath way(a);
            way.cubicTo(a + QPointF(px(40), px(30)), b + QPointF(-px(40), px(30)), b);
            p.drawPath(way);
        }
        sign(t.at,
             mute                                    ? "muted"
             : t.kind == project::Tool::Kind::inject ? q(t.signal).section(' ', 0, 0)
                                                     : "bridge",
             mute ? tokens().fault : tokens().caution, rows[t.at]++);
    }
    for (const auto& at : bench.pins()) {
        const double db = bench.meter(at).peakDb;
        sign(at, db < -99 ? QString("silent") : QString::number(db, 'f', 1).replace('-', QChar(0x2212)) + " dBFS",
             tokens().rail, rows[at]++);
    }
    if (const auto at = bench.listening())
        sign(*at, "ear", tokens().ok, rows[*at]++);
}

// Beside the pointer, on the side where it covers least of what is written.
QRectF WeaveView::freeOfNames(const QSizeF& size) const {
    std::vector<QRectF> names;
    for (const auto& l : layout_.lanes)
        if (!l.folded && (l.source() || l.destination())) {
            const double x = l.source() ? px(16) : endAt(l.end).x() + px(14);
            names.emplace_back(x, rowY(l.row) - px(14), px(labelWidth), px(28));
        }
    for (const auto& h : layout_.hubs)
        names.push_back(hubRect(h).adjusted(0, -px(20), 0, 0));
    QRectF best;
    double least = 1e18;
    for (const QPointF& by :
         {QPointF(px(14), -size.height() - px(8)), QPointF(px(14), px(14)),
          QPointF(-size.width() - px(14), -size.height() - px(8)), QPointF(-size.width() - px(14), px(14))}) {
        QRectF r(hoverAt_ + by, size);
        r.moveRight(std::min(r.right(), static_cast<double>(width()) - px(4)));
        r.moveLeft(std::max(r.left(), px(2)));
        r.moveTop(std::clamp(r.top(), px(2), std::max(px(2), height() - size.height() - px(2))));
        double covered = r.contains(hoverAt_) ? 1e12 : 0;
        for (const auto& n : names)
            if (const QRectF common = n.intersected(r); !common.isEmpty())
                covered += common.width() * common.height();
        if (covered < least) {
            least = covered;
            best = r;
        }
    }
    return best;
}

void WeaveView::paintFlag(QPainter& p) {
    if (!hover_ || !session_.bench().running() || dragging_ || trace_ || !flagGone_.isActive())
        return;
    const auto reading = session_.bench().meter(*hover_);
    const auto bands = session_.bench().spectrum(*hover_);
    const double high = px(bands.empty() ? 22 : 66);
    const QRectF r = freeOfNames(QSizeF(px(168), high));
    p.setPen(QPen(tokens().saffron, px(1.4)));
    p.setBrush(tokens().card);
    p.drawRoundedRect(r, px(6), px(6));
    p.setPen(tokens().ink);
    p.setFont(number(10, true));
    const auto say = [](double db) {
        return db < -99 ? QString("silent") : QString::number(db, 'f', 1).replace('-', QChar(0x2212)) + " dBFS";
    };
    p.drawText(r.adjusted(px(8), px(4), -px(8), 0), Qt::AlignTop, "peak " + say(reading.peakDb));
    const QRectF s = r.adjusted(px(8), px(22), -px(8), -px(6));
    for (std::size_t b = 0; b < bands.size(); ++b) {
        const double part = qBound(0.0, (bands[b] + 80) / 80, 1.0), w = s.width() / static_cast<double>(bands.size());
        p.fillRect(
            QRectF(s.left() + w * static_cast<double>(b), s.bottom() - s.height() * part, w * 0.8, s.height() * part),
            tokens().saffron);
    }
}

} // namespace loom::app
