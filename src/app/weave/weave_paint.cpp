// How the weave view paints itself.
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_measure.h"
#include "app/weave/weave_view.h"
#include "engine/path_response.h"
#include "project/findings.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {

using namespace weave;

std::vector<double> curveFrequencies(double width, double rate) {
    const int points = qBound(16, static_cast<int>(width / 2), 240);
    std::vector<double> hz;
    for (int i = 0; i <= points; ++i)
        hz.push_back(std::min(20 * std::pow(1000.0, static_cast<double>(i) / points), rate * 0.49));
    return hz;
}

QPainterPath responseCurve(const std::vector<dsp::Complex>& h, QRectF r, double range) {
    QPainterPath path;
    for (std::size_t i = 0; i < h.size(); ++i) {
        const double db = dsp::dbFromGain(std::abs(h[i]));
        const double y = r.center().y() - qBound(-range, db, range) / range * r.height() / 2;
        const QPointF p(r.left() + r.width() * static_cast<double>(i) / static_cast<double>(h.size() - 1), y);
        i == 0 ? path.moveTo(p) : path.lineTo(p);
    }
    return path;
}

void WeaveView::paintEvent(QPaintEvent* e) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto* program = session_.program();
    if (program && program->blocks.empty()) {
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().text(14));
        p.drawText(rect(), Qt::AlignCenter,
                   "Press / and say what there is:\nsource Delegate x8\ndestination Ceiling x2\n\nThen choose lanes "
                   "(Ctrl+A, Shift+\u2191 \u2193) and go on:\n/ preamp 36 highpass 90 eq 3k1 +3\n> ceiling* -6");
        return;
    }
    if (!program) {
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().text(14));
        p.drawText(rect(), Qt::AlignCenter,
                   "Weave shows the sound of a processor, from its inputs to its outputs.\nOpen a project with a "
                   "processor: Ctrl+O. Or begin a new one: Ctrl+N.");
        return;
    }
    for (const auto& lane : session_.lanes())
        if (layout_.laneOf(lane.toStdString()))
            p.fillRect(laneRect(lane), tokens().saffronTint);
    const QRectF seen =
        QRectF(e->rect()).adjusted(-px(30), -px(30), px(30), px(30)); // what lies elsewhere costs nothing
    paintThreads(p, seen);
    for (const auto& h : layout_.hubs)
        if (hubRect(h).intersects(seen))
            paintHub(p, h, seen);
    for (const auto& l : layout_.lanes)
        if (rowY(l.row) > seen.top() && rowY(l.row) < seen.bottom())
            paintLane(p, l);
    if (dragging_ && press_.kind == Hit::Kind::end) {
        p.setPen(QPen(tokens().saffron, px(2), Qt::DashLine));
        p.drawLine(endPoint(press_.lane), dragAt_);
    }
    if (dragging_ && press_.kind == Hit::Kind::bead) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        const QRectF r = beadRect(press_.block);
        p.drawRoundedRect(r.translated(dragAt_.x() - pressAt_.x(), 0), r.height() / 2, r.height() / 2);
    }
    paintFlag(p);
}

// The colour of its lane, also behind a block that keeps lanes apart; ink where lanes were mixed.
QColor WeaveView::threadColour(engine::PortRef from) const {
    for (int hubs = 0; hubs < 32; ++hubs) {
        if (const auto* lane = layout_.laneOf(from.block))
            return colourOf(q(lane->end));
        const auto* b = blockOf(from.block);
        const auto* kind = b ? engine::findKind(b->kind) : nullptr;
        if (!kind || b->kind == "matrix")
            break;
        const auto shape = engine::fullShape(*kind, *b);
        const std::string name = engine::portName(*kind, shape, false, from.port);
        const engine::Thread* back = nullptr;
        for (int i = 0; i < kind->inputs(shape) && !back; ++i)
            if (engine::portName(*kind, shape, true, i) == name)
                back = threadInto({from.block, i});
        if (!back)
            break;
        from = back->from;
    }
    return tokens().ink2;
}

void WeaveView::paintThreads(QPainter& p, const QRectF& seen) {
    const auto& threads = session_.program()->threads;
    for (std::size_t i = 0; i < threads.size() && i < lines_.size(); ++i) {
        const auto& t = threads[i];
        const QPointF a = lines_[i].p1(), b = lines_[i].p2();
        if (std::max(a.y(), b.y()) < seen.top() || std::min(a.y(), b.y()) > seen.bottom() ||
            std::max(a.x(), b.x()) < seen.left() || std::min(a.x(), b.x()) > seen.right())
            continue;
        const QColor c = threadColour(t.from);
        p.setPen(QPen(c, px(2)));
        if (blockOf(t.from.block)->kind == "matrix") { // a warp leaves its weave at its own row
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
    const double y = rowY(lane.row), textX = lane.source() ? px(16) : endPoint(id).x() + px(14);
    const QColor colour = colourOf(id);
    const bool chosen = session_.lane() == id;
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(12, chosen));
    const QFontMetricsF fm(p.font());
    p.drawText(QRectF(textX, y - px(14), px(labelWidth), px(15)), Qt::AlignVCenter,
               fm.elidedText(q(end.label.empty() ? end.id : end.label), Qt::ElideRight, px(labelWidth)));
    p.setPen(tokens().ink2);
    p.setFont(Theme::get().number(9));
    p.drawText(QRectF(textX, y + px(1), px(labelWidth), px(12)), Qt::AlignVCenter, portText(end));
    const engine::PortRef level = lane.source() ? lane.open : engine::PortRef{lane.end, 0};
    paintMeter(p, {textX + px(labelWidth), y - px(3), px(meterWidth), px(6)}, session_.bench().meter(level).peakDb);
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
        p.drawRoundedRect(QRectF(textX - px(6), y - px(15), px(labelWidth + meterWidth) + px(12), px(30)), px(4),
                          px(4));
    }
    for (const auto& b : lane.beads)
        paintBead(p, *blockOf(b), beadRect(q(b)), colour);
}

void WeaveView::paintBead(QPainter& p, const engine::Block& block, QRectF r, QColor colour) {
    const bool known = engine::findKind(block.kind);
    const bool chosen = session_.block() == q(block.id);
    const bool on = !known || engine::BlockView(block).on();
    const double radius = r.height() / 2;
    p.setBrush(on ? tokens().card : tokens().shade);
    p.setPen(QPen(on ? colour : tokens().ink2, px(1.6), on ? Qt::SolidLine : Qt::DashLine));
    p.drawRoundedRect(r, radius, radius);
    if (chosen) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(tokens().saffron, px(2.4)));
        p.drawRoundedRect(r.adjusted(-px(3), -px(3), px(3), px(3)), radius + px(3), radius + px(3));
    }
    p.setPen(on ? tokens().ink : tokens().ink2);
    p.setFont(Theme::get().number(10, true));
    if (!known)
        return p.drawText(r, Qt::AlignCenter, "?");
    const engine::BlockView view(block);
    switch (view.kind->glyph) {
    case engine::Glyph::number: {
        const auto& spec = view.table->specs()[view.table->indexOf(view.kind->glyphParam)];
        const int mute = view.table->indexOf("mute");
        const bool muted = mute >= 0 && view.values[mute] >= 0.5;
        if (muted)
            p.setPen(tokens().fault);
        p.drawText(r, Qt::AlignCenter,
                   muted ? QString("mute") : q(formatShort(spec, view.look()[view.kind->glyphParam])));
        break;
    }
    case engine::Glyph::curve: {
        const QRectF inner = r.adjusted(px(7), px(3), -px(7), -px(3));
        p.setClipRect(inner.adjusted(0, -1, 0, 1));
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(on ? tokens().ink : tokens().ink2, px(1.6)));
        const double rate = session_.device()->rate;
        const auto hz = curveFrequencies(inner.width(), rate);
        for (int out = 0; out < (view.kind->channelwise() ? 1 : view.outputs()); ++out)
            p.drawPath(responseCurve(engine::blockResponse(block, 0, out, hz, rate), inner, 12));
        p.setClipping(false);
        break;
    }
    case engine::Glyph::transfer: { // out over in, from -60 to 0 dB
        const QRectF inner = r.adjusted(px(13), px(3), -px(13), -px(3));
        QPainterPath line;
        for (double in = -60; in <= 0; in += 2) {
            const double out = qBound(-60.0, view.kind->transfer(view.look(), in), 0.0);
            const QPointF at(inner.left() + (in + 60) / 60 * inner.width(),
                             inner.bottom() - (out + 60) / 60 * inner.height());
            in == -60 ? line.moveTo(at) : line.lineTo(at);
        }
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(on ? tokens().ink : tokens().ink2, px(1.6)));
        p.drawPath(line);
        break;
    }
    case engine::Glyph::meter:
        paintMeter(p, r.adjusted(px(8), px(8), -px(8), -px(8)), session_.bench().meter({block.id, 0}).peakDb);
        break;
    default:
        p.drawText(r, Qt::AlignCenter, q(view.kind->label).section(' ', 0, 0).left(5));
        break;
    }
}

void WeaveView::paintMeter(QPainter& p, QRectF r, double db) const {
    p.setPen(Qt::NoPen);
    p.setBrush(tokens().shade);
    p.drawRoundedRect(r, r.height() / 2, r.height() / 2);
    const double part = qBound(0.0, (db + 60) / 60, 1.0);
    if (part <= 0)
        return;
    p.setBrush(db > -1 ? tokens().fault : db > -9 ? tokens().caution : tokens().ok);
    p.drawRoundedRect(QRectF(r.left(), r.top(), std::max(r.height(), r.width() * part), r.height()), r.height() / 2,
                      r.height() / 2);
}

void WeaveView::paintHub(QPainter& p, const engine::Layout::Hub& h, const QRectF& seen) {
    const auto& block = *blockOf(h.block);
    const QRectF box = hubRect(h);
    const bool chosen = session_.lane() == q(h.block);
    p.setPen(QPen(chosen ? tokens().saffron : tokens().hair, px(chosen ? 2 : 1)));
    QColor cloth = tokens().shade;
    cloth.setAlphaF(0.75f);
    p.setBrush(cloth);
    p.drawRoundedRect(box, px(6), px(6));
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(12, true));
    p.drawText(QRectF(box.left(), box.top() - px(20), box.width(), px(18)), Qt::AlignVCenter,
               q(project::blockName(*session_.program(), block)));
    if (block.kind == "matrix")
        paintKnots(p, h, block, seen);
    else if (engine::findKind(block.kind))
        paintPorts(p, h, block);
}

// What arrives and leaves at which row, by name, and the block's own small curve between.
void WeaveView::paintPorts(QPainter& p, const engine::Layout::Hub& h, const engine::Block& block) {
    const engine::BlockView view(block);
    const QRectF box = hubRect(h).adjusted(px(6), 0, -px(6), 0);
    p.setFont(Theme::get().number(9));
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

void WeaveView::paintKnots(QPainter& p, const engine::Layout::Hub& h, const engine::Block& matrix, const QRectF& seen) {
    const double right = hubX(h) + hubWidth(h) - px(6);
    std::vector<QColor> colours;
    for (std::size_t i = 0; i < h.inRows.size(); ++i) { // wefts
        const auto* t = threadInto({h.block, static_cast<int>(i)});
        const auto* lane = t ? layout_.laneOf(t->from.block) : nullptr;
        colours.push_back(lane ? colourOf(q(lane->end)) : tokens().ink3);
        p.setPen(QPen(colours.back(), px(1.6), t ? Qt::SolidLine : Qt::DashLine));
        p.drawLine(QPointF(hubX(h), rowY(h.inRows[i])), QPointF(right, rowY(h.inRows[i])));
    }
    for (std::size_t o = 0; o < h.outRows.size(); ++o) { // warps, from their lowest knot to the row they leave at
        const double x = hubX(h) + px(30) * static_cast<double>(o + 1);
        double low = rowY(h.outRows[o]), high = low;
        for (std::size_t i = 0; i < h.inRows.size(); ++i)
            if (crossingLevel(matrix, static_cast<int>(i), static_cast<int>(o)) > -80)
                low = std::max(low, rowY(h.inRows[i])), high = std::min(high, rowY(h.inRows[i]));
        p.setPen(QPen(tokens().ink2, px(1.6)));
        p.drawLine(QPointF(x, high), QPointF(x, low));
        p.drawLine(QPointF(x, rowY(h.outRows[o])), QPointF(right + px(6), rowY(h.outRows[o])));
    }
    p.setFont(Theme::get().number(8, true));
    for (std::size_t i = 0; i < h.inRows.size(); ++i)
        for (std::size_t o = 0; o < h.outRows.size(); ++o) {
            if (rowY(h.inRows[i]) < seen.top() || rowY(h.inRows[i]) > seen.bottom())
                break;
            const double level = crossingLevel(matrix, static_cast<int>(i), static_cast<int>(o));
            const QPointF at = crossing(q(h.block), static_cast<int>(i), static_cast<int>(o));
            p.setPen(QPen(tokens().sheet, px(1)));
            if (level <= -80) {
                p.setBrush(tokens().sheet);
                p.setPen(QPen(colours[i], px(1)));
                p.drawEllipse(at, px(2.2), px(2.2));
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
            p.setBrush(colours[i]);
            p.drawEllipse(at, radius, radius);
            p.setPen(Theme::get().night() ? QColor("#1C1D20") : QColor("#FFFDF8"));
            p.drawText(QRectF(at.x() - px(14), at.y() - px(7), px(28), px(14)), Qt::AlignCenter,
                       QString::number(level, 'f', 0).replace('-', QChar(0x2212)));
        }
}

void WeaveView::paintFlag(QPainter& p) {
    if (!hover_ || !session_.bench().running() || dragging_)
        return;
    const auto reading = session_.bench().meter(*hover_);
    const auto bands = session_.bench().spectrum(*hover_);
    const double high = px(bands.empty() ? 22 : 66);
    QRectF r(hoverAt_ + QPointF(px(14), -high - px(8)), QSizeF(px(168), high));
    r.moveRight(std::min(r.right(), static_cast<double>(width()) - px(4)));
    r.moveTop(std::max(r.top(), px(2)));
    p.setPen(QPen(tokens().saffron, px(1.4)));
    p.setBrush(tokens().card);
    p.drawRoundedRect(r, px(6), px(6));
    p.setPen(tokens().ink);
    p.setFont(Theme::get().number(10, true));
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
