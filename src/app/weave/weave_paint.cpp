// How the weave view paints itself.
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/bead.h"
#include "app/weave/weave_measure.h"
#include "app/weave/weave_view.h"
#include "engine/origin.h"
#include "engine/path_response.h"
#include "model/block_names.h"
#include <QPainter>
#include <QPainterPath>
#include <QtMath>
#include <charconv>

namespace loom::app {

using namespace weave;

QFont WeaveView::text(double size, bool bold) const {
    QFont f = Theme::get().text(size, bold);
    f.setPixelSize(qMax(4, qRound(f.pixelSize() * zoom_)));
    return f;
}

QFont WeaveView::number(double size, bool bold) const {
    QFont f = Theme::get().number(size, bold);
    f.setPixelSize(qMax(4, qRound(f.pixelSize() * zoom_)));
    return f;
}

void WeaveView::paintEvent(QPaintEvent* e) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(e->rect(), tokens().sheet);
    if (!session_.program() || session_.program()->blocks.empty())
        return; // the window offers first steps
    // What lies elsewhere costs nothing.
    paintAll(p, QRectF(e->rect()).adjusted(-px(30), -px(30), px(30), px(30)));
}

void WeaveView::drawOn(QPainter& p) {
    if (!session_.program())
        return;
    drawing_ = true;
    p.setRenderHint(QPainter::Antialiasing);
    paintAll(p, QRectF(QPointF(0, 0), QSizeF(minimumSize())));
    drawing_ = false;
}

void WeaveView::paintAll(QPainter& p, const QRectF& seen) {
    const auto linked = session_.reachedLanes();
    for (const auto& id : linked)
        if (const QRectF r = laneRect(q(id)); !drawing_ && r.intersects(seen)) {
            if (session_.lanes().contains(q(id)))
                p.fillRect(r, tokens().saffronTint);
            else { // edited together with what is chosen
                p.setPen(QPen(tokens().saffron, px(1), Qt::DotLine));
                p.setBrush(Qt::NoBrush);
                p.drawRoundedRect(r.adjusted(1, 1, -1, -1), px(4), px(4));
            }
        }
    paintThreads(p, seen);
    if (!drawing_)
        paintTrace(p);
    paintRefused(p);
    for (const auto& h : layout_.hubs)
        if (hubRect(h).intersects(seen))
            paintHub(p, h, seen);
    for (const auto& g : layout_.groups)
        if (headingRect(g).intersects(seen))
            paintHeading(p, g);
    for (const auto& l : layout_.lanes)
        if (!l.folded && rowY(l.row) > seen.top() && rowY(l.row) < seen.bottom())
            paintLane(p, l);
    if (drawing_)
        return;
    paintTraceSigns(p);
    paintTools(p);
    paintDrag(p);
    paintFlag(p);
}

void WeaveView::paintHeading(QPainter& p, const engine::Layout::Group& g) {
    const QRectF r = headingRect(g);
    const bool source = g.kind == engine::Layout::Kind::source;
    const double textX = source ? px(16) : r.right() - px(labelWidth + 24 + meterWidth_ + 8);
    const double y = r.center().y();
    QPolygonF triangle; // down: open, right: folded
    if (g.folded)
        triangle << QPointF(textX - px(6), y - px(4)) << QPointF(textX + px(1), y) << QPointF(textX - px(6), y + px(4));
    else
        triangle << QPointF(textX - px(7), y - px(3)) << QPointF(textX + px(1), y - px(3))
                 << QPointF(textX - px(3), y + px(4));
    p.setPen(Qt::NoPen);
    p.setBrush(tokens().ink2);
    p.drawPolygon(triangle);
    p.setPen(tokens().ink2);
    p.setFont(text(fromFar() ? 17 : 11, true));
    const QFontMetricsF fm(p.font());
    const QString count = QString(" \u00d7 %1").arg(g.lanes.size());
    const double room = source ? px(labelWidth) : r.right() - textX - px(8);
    p.drawText(QRectF(textX + px(4), r.top(), room + px(60), r.height()), Qt::AlignVCenter,
               fm.elidedText(q(g.name), Qt::ElideRight, room - fm.horizontalAdvance(count)) + count);
    if (!g.folded) {
        p.setPen(QPen(tokens().hair, px(1)));
        const double from = textX + px(10) + std::min(room, fm.horizontalAdvance(q(g.name) + count));
        if (from < r.right())
            p.drawLine(QPointF(from, y), QPointF(r.right(), y));
        return;
    }
    double loudest = -120;
    for (const auto& id : g.lanes)
        if (const auto* lane = layout_.laneOf(id))
            loudest = std::max(loudest, session_.bench().meter(source ? lane->open : engine::PortRef{id, 0}).peakDb);
    if (source)
        paintMeter(p, {px(16 + labelWidth), y - px(3), px(meterWidth_), px(6)}, drawing_ ? -120 : loudest);
    p.setPen(QPen(colourOf(q(g.lanes.front())), px(2)));
    p.setBrush(tokens().card);
    for (const double by : {3.0, 0.0}) // several ends behind each other
        if (const QPointF at = endAt(g.lanes.front()) + QPointF(-px(by), -px(by)); source)
            p.drawEllipse(at, px(4), px(4));
        else
            p.drawRoundedRect(QRectF(at.x() - px(5), at.y() - px(5), px(10), px(10)), px(2), px(2));
}

// The colour of where a sound comes from, also behind blocks that keep lanes apart; ink where lanes were mixed.
void WeaveView::colourThreads() {
    threadColours_.clear();
    if (!session_.program())
        return;
    const auto own = engine::origins(*session_.program());
    std::map<std::string, QColor> known;
    for (const auto& t : session_.program()->connections) {
        const auto it = own.find(t.from);
        if (it == own.end()) {
            threadColours_.push_back(tokens().ink2);
            continue;
        }
        auto c = known.find(it->second);
        if (c == known.end())
            c = known.emplace(it->second, colourOf(q(it->second))).first;
        threadColours_.push_back(c->second);
    }
}

void WeaveView::paintThreads(QPainter& p, const QRectF& seen) {
    const auto& connections = session_.program()->connections;
    for (std::size_t i = 0; i < connections.size() && i < lines_.size(); ++i) {
        const auto& t = connections[i];
        const QPointF a = lines_[i].p1(), b = lines_[i].p2();
        if (std::max(a.y(), b.y()) < seen.top() || std::min(a.y(), b.y()) > seen.bottom() ||
            std::max(a.x(), b.x()) < seen.left() || std::min(a.x(), b.x()) > seen.right())
            continue;
        const QColor c = i < threadColours_.size() ? threadColours_[i] : tokens().ink2;
        p.setPen(QPen(c, px(2)));
        if (engine::isMatrix(*blockOf(t.from.block))) { // a warp leaves its weave at its own row
            p.drawLine(a, {b.x(), a.y()});
            if (std::abs(a.y() - b.y()) > 1) {
                QPainterPath path({b.x() - px(30), a.y()});
                p.setPen(QPen(tokens().sheet, px(4)));
                p.drawLine(QPointF(b.x() - px(30), a.y()), QPointF(b.x(), a.y()));
                p.setPen(QPen(c, px(2)));
                path.cubicTo({b.x() - px(15), a.y()}, {b.x() - px(15), b.y()}, b);
                p.setBrush(Qt::NoBrush);
                p.drawPath(path);
            }
            continue;
        }
        if (std::abs(a.y() - b.y()) < 1) {
            p.drawLine(a, b);
            continue;
        }
        QPainterPath path(a);
        const double bend = std::max(px(20), (b.x() - a.x()) / 2);
        path.cubicTo(a + QPointF(bend, 0), b - QPointF(bend, 0), b);
        p.setBrush(Qt::NoBrush);
        p.drawPath(path);
    }
}

void WeaveView::paintLane(QPainter& p, const engine::Layout::Lane& lane) {
    const auto& end = *blockOf(lane.end);
    const QString id = q(lane.end);
    const double y = rowY(lane.row);
    const bool chosen = session_.lane() == id && !drawing_;
    if (lane.kind == engine::Layout::Kind::inner) {
        QColor colour = tokens().ink2;
        if (const auto it = threadNumbers_.find({lane.end, 0}); it != threadNumbers_.end())
            colour = it->second < threadColours_.size() ? threadColours_[it->second] : colour;
        for (const auto& b : lane.beads)
            paintBeadOf(p, b, colour);
        if (chosen && session_.block().isEmpty() && hasFocus()) {
            p.setPen(QPen(tokens().saffron, px(2)));
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(laneRect(id), px(4), px(4));
        }
        return;
    }
    const double textX = lane.source() ? px(16) : endPoint(id).x() + px(14);
    const QColor colour = colourOf(id);
    if (!fromFar()) {
        p.setPen(tokens().ink);
        p.setFont(text(12, chosen));
        const QFontMetricsF fm(p.font());
        p.drawText(QRectF(textX, y - px(14), px(labelWidth), px(15)), Qt::AlignVCenter,
                   fm.elidedText(q(end.label.empty() ? end.id : end.label), Qt::ElideRight, px(labelWidth)));
        p.setPen(tokens().ink2);
        p.setFont(number(9));
        p.drawText(QRectF(textX, y + px(1), px(labelWidth), px(12)), Qt::AlignVCenter, portText(end));
        if (end.marks.count("link")) { // two rings, one in the other
            p.setPen(QPen(tokens().ink2, px(1.3)));
            p.setBrush(Qt::NoBrush);
            const QPointF at(textX + px(labelWidth - 14), y + px(7));
            p.drawEllipse(at, px(4), px(3));
            p.drawEllipse(at + QPointF(px(5), 0), px(4), px(3));
        }
    } else { // the name alone, as large as the row allows
        p.setPen(tokens().ink);
        p.setFont(text(17, chosen));
        p.drawText(QRectF(textX, y - px(14), px(labelWidth + meterWidth_), px(28)), Qt::AlignVCenter,
                   QFontMetricsF(p.font()).elidedText(q(end.label.empty() ? end.id : end.label), Qt::ElideRight,
                                                      px(labelWidth + (lane.source() ? 0 : meterWidth_))));
    }
    const engine::PortRef level = lane.source() ? lane.open : engine::PortRef{lane.end, 0};
    if (!fromFar() || lane.source())
        paintMeter(p, {textX + px(labelWidth), y - px(3), px(meterWidth_), px(6)},
                   drawing_ ? -120 : session_.bench().meter(level).peakDb);
    // the end itself: a ring where sound comes in, a square where it goes out
    p.setPen(QPen(colour, px(2)));
    p.setBrush(tokens().card);
    const QPointF at = endPoint(id);
    if (lane.source())
        p.drawEllipse(at, px(4), px(4));
    else
        p.drawRoundedRect(QRectF(at.x() - px(5), at.y() - px(5), px(10), px(10)), px(2), px(2));
    if (chosen && session_.block().isEmpty() && hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(QRectF(textX - px(6), y - px(15), px(labelWidth + meterWidth_) + px(12), px(30)), px(4),
                          px(4));
    }
    for (const auto& b : lane.beads)
        paintBeadOf(p, b, colour);
}

void WeaveView::paintBeadOf(QPainter& p, const std::string& id, QColor colour) {
    const auto& block = *blockOf(id);
    BeadLook look{placeOf(id), colour, zoom_, session_.device()->rate};
    look.chosen = session_.block() == q(id) && !drawing_;
    look.changed = changed_.count(id) > 0;
    look.apart = block.marks.count("apart") > 0;
    for (const auto& [key, text] : block.marks) {
        look.locked = look.locked || key.rfind("protect", 0) == 0;
        look.noted = look.noted || key.rfind("note", 0) == 0;
    }
    look.named = zoom_ >= 1.25 || drawing_;
    look.spelled = beadWidth_ >= widestBead - 6;
    look.meterDb = drawing_ ? -120 : session_.bench().meter({id, 0}).peakDb;
    const auto* kind = engine::findKind(block.kind);
    if (drawing_ || (kind && kind->glyph == engine::Glyph::meter))
        return paintBead(p, block, look);
    // What has not changed is stamped.
    if (beads_.size() > 2000)
        beads_.clear();
    Stamp& stamp = beads_[id];
    const int marks = look.chosen | look.changed << 1 | look.apart << 2 | look.locked << 3 | look.noted << 4;
    const double margin = qCeil(px(10)), ratio = devicePixelRatioF();
    if (stamp.picture.isNull() || stamp.values != block.values || stamp.colour != colour || stamp.marks != marks) {
        const QRectF rect = look.rect;
        stamp = {QPixmap((rect.size() + QSizeF(2 * margin, 2 * margin)).toSize() * ratio), block.values, colour, marks};
        stamp.picture.setDevicePixelRatio(ratio);
        stamp.picture.fill(Qt::transparent);
        QPainter on(&stamp.picture);
        on.setRenderHint(QPainter::Antialiasing);
        look.rect.moveTopLeft({margin + rect.x() - qFloor(rect.x()), margin + rect.y() - qFloor(rect.y())});
        paintBead(on, block, look);
        look.rect = rect;
    }
    p.drawPixmap(QPointF(qFloor(look.rect.x()) - margin, qFloor(look.rect.y()) - margin), stamp.picture);
}

void WeaveView::paintHub(QPainter& p, const engine::Layout::Hub& h, const QRectF& seen) {
    const auto& block = *blockOf(h.block);
    const QRectF box = hubRect(h);
    const bool chosen = session_.lane() == q(h.block) && !drawing_;
    p.setPen(QPen(chosen ? tokens().saffron : tokens().hair, px(chosen ? 2 : 1)));
    QColor cloth = tokens().shade;
    cloth.setAlphaF(0.75f);
    p.setBrush(cloth);
    p.drawRoundedRect(box, px(6), px(6));
    p.setPen(tokens().ink);
    p.setFont(text(fromFar() ? 17 : 12, true));
    p.drawText(QRectF(box.left(), box.top() - px(20), box.width(), px(18)), Qt::AlignVCenter,
               q(project::blockName(*session_.program(), block)));
    if (engine::isMatrix(block))
        paintKnots(p, h, block, seen);
    else if (engine::findKind(block.kind))
        paintPorts(p, h, block);
}

// What arrives and leaves at which row, by name, and the block's own small curve between.
void WeaveView::paintPorts(QPainter& p, const engine::Layout::Hub& h, const engine::Block& block) {
    const engine::BlockView view(block);
    const QRectF box = hubRect(h).adjusted(px(6), 0, -px(6), 0);
    p.setFont(number(9));
    p.setPen(tokens().ink2);
    for (const bool input : {true, false}) {
        const auto& rows = input ? h.inRows : h.outRows;
        for (std::size_t i = 0; i < rows.size() && rows.size() > 1; ++i)
            p.drawText(QRectF(box.left(), rowY(rows[i]) - px(8), box.width(), px(16)),
                       Qt::AlignVCenter | (input ? Qt::AlignLeft : Qt::AlignRight),
                       q(engine::portName(*view.kind, view.shape, input, static_cast<int>(i))));
    }
    if (view.kind->picture != engine::Picture::curve)
        return;
    const QRectF inner = QRectF(box.left(), box.center().y() - px(14), box.width() - px(50), px(28));
    const double rate = session_.device()->rate;
    const auto hz = curveFrequencies(inner.width(), rate);
    p.setPen(QPen(view.on() ? tokens().ink : tokens().ink2, px(1.6)));
    p.setBrush(Qt::NoBrush);
    p.setClipRect(inner);
    for (int out = 0; out < view.outputs(); ++out)
        p.drawPath(responseCurve(engine::blockResponse(block, 0, out, hz, rate), inner, 12));
    p.setClipping(false);
}

bool WeaveView::muted(const engine::Block& matrix, int in, int out) const {
    const std::string i = std::to_string(in + 1), o = std::to_string(out + 1);
    for (const auto& id : {i + "." + o + ".mute", "in." + i + ".mute", "out." + o + ".mute"})
        if (const auto it = matrix.values.find(id); it != matrix.values.end() && it->second >= 0.5)
            return true;
    return false;
}

// The level of each crossing, row by row; -80 where none is open.
std::vector<double> WeaveView::crossingLevels(const engine::Block& matrix, std::size_t ins, std::size_t outs) {
    std::vector<double> levels(ins * outs, -80);
    for (const auto& [param, value] : matrix.values) {
        std::size_t in = 0, out = 0;
        const char *begin = param.data(), *end = begin + param.size();
        const auto [dot, bad] = std::from_chars(begin, end, in);
        if (bad != std::errc() || dot == end || *dot != '.')
            continue;
        const auto [rest, worse] = std::from_chars(dot + 1, end, out);
        if (worse == std::errc() && rest == end && in >= 1 && in <= ins && out >= 1 && out <= outs)
            levels[(in - 1) * outs + out - 1] = value;
    }
    return levels;
}

// Many are alike: each look is drawn once and stamped from then on, but not on paper.
void WeaveView::knot(QPainter& p, QPointF at, double radius, const QColor& fill, const QColor& edge) {
    const auto draw = [&](QPainter& on, QPointF middle) {
        on.setPen(QPen(edge, px(1)));
        on.setBrush(fill);
        on.drawEllipse(middle, radius, radius);
    };
    if (drawing_)
        return draw(p, at);
    const double ratio = devicePixelRatioF();
    QPixmap& stamp = knots_[{fill.rgba(), edge.rgba(), qRound(radius * 20)}];
    const int size = 2 * qCeil(radius + px(1)) + 1;
    if (stamp.isNull()) {
        stamp = QPixmap(QSize(size, size) * ratio);
        stamp.setDevicePixelRatio(ratio);
        stamp.fill(Qt::transparent);
        QPainter on(&stamp);
        on.setRenderHint(QPainter::Antialiasing);
        draw(on, {size / 2.0, size / 2.0});
    }
    p.drawPixmap(QPointF(qRound(at.x() - size / 2.0), qRound(at.y() - size / 2.0)), stamp);
}

void WeaveView::paintKnots(QPainter& p, const engine::Layout::Hub& h, const engine::Block& matrix, const QRectF& seen) {
    const double right = hubX(h) + hubWidth(h) - px(6);
    const auto levels = crossingLevels(matrix, h.inRows.size(), h.outRows.size());
    std::vector<QColor> colours;
    for (std::size_t i = 0; i < h.inRows.size(); ++i) { // wefts
        const auto at = threadNumbers_.find({h.block, static_cast<int>(i)});
        const bool t = at != threadNumbers_.end() && at->second < threadColours_.size();
        colours.push_back(t ? threadColours_[at->second] : tokens().ink3);
        if (rowY(h.inRows[i]) < seen.top() || rowY(h.inRows[i]) > seen.bottom())
            continue;
        p.setPen(QPen(colours.back(), px(1.6), t ? Qt::SolidLine : Qt::DashLine));
        p.drawLine(QPointF(hubX(h), rowY(h.inRows[i])), QPointF(right, rowY(h.inRows[i])));
    }
    for (std::size_t o = 0; o < h.outRows.size(); ++o) { // warps, from their lowest knot to the row they leave at
        const double x = hubX(h) + px(30) * static_cast<double>(o + 1);
        double low = rowY(h.outRows[o]), high = low;
        for (std::size_t i = 0; i < h.inRows.size(); ++i)
            if (levels[i * h.outRows.size() + o] > -80) {
                low = std::max(low, rowY(h.inRows[i]));
                high = std::min(high, rowY(h.inRows[i]));
            }
        p.setPen(QPen(tokens().ink2, px(1.6)));
        p.drawLine(QPointF(x, high), QPointF(x, low));
        p.drawLine(QPointF(x, rowY(h.outRows[o])), QPointF(right + px(6), rowY(h.outRows[o])));
    }
    p.setFont(number(8, true));
    for (std::size_t i = 0; i < h.inRows.size(); ++i)
        for (std::size_t o = 0; o < h.outRows.size(); ++o) {
            if (i > 0 && h.inRows[i] == h.inRows[i - 1]) // folded: the first of them stands for all
                break;
            if (rowY(h.inRows[i]) < seen.top() || rowY(h.inRows[i]) > seen.bottom())
                break;
            const double level = levels[i * h.outRows.size() + o];
            const QPointF at(hubX(h) + px(30) * static_cast<double>(o + 1), rowY(h.inRows[i]));
            if (at.x() < seen.left() || at.x() > seen.right())
                continue;
            if (level <= -80) {
                knot(p, at, px(2.2), tokens().sheet, colours[i]);
                continue;
            }
            const double radius = px(qBound(5.0, 10 + level / 6, 12.0));
            if (muted(matrix, static_cast<int>(i), static_cast<int>(o))) { // its level waits
                p.setBrush(tokens().sheet);
                p.setPen(QPen(colours[i], px(1.4), Qt::DashLine));
                p.drawEllipse(at, radius, radius);
                p.setPen(QPen(tokens().fault, px(1.8)));
                p.drawLine(at + QPointF(-px(4), px(4)), at + QPointF(px(4), -px(4)));
                continue;
            }
            knot(p, at, radius, colours[i], tokens().sheet);
            if (fromFar())
                continue;
            p.setPen(Theme::get().night() ? QColor("#1C1D20") : QColor("#FFFDF8"));
            bool alike = true; // of what is folded into this row
            for (std::size_t j = i + 1; j < h.inRows.size() && h.inRows[j] == h.inRows[i]; ++j)
                alike = alike && levels[j * h.outRows.size() + o] == level;
            p.drawText(QRectF(at.x() - px(14), at.y() - px(7), px(28), px(14)), Qt::AlignCenter,
                       alike ? QString::number(level, 'f', 0).replace('-', QChar(0x2212)) : QString(QChar(0x2014)));
        }
}

} // namespace loom::app
