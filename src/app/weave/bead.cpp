#include "app/weave/bead.h"
#include "app/deck/remarks.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "engine/path_response.h"
#include <QPainter>

namespace loom::app {
namespace {

QFont zoomed(QFont f, double zoom) {
    f.setPixelSize(qMax(4, qRound(f.pixelSize() * zoom)));
    return f;
}

QString nameOf(const engine::Block& block, const QFontMetrics& fm, double width) {
    const auto* kind = engine::findKind(block.kind);
    return fm.elidedText(q(!block.label.empty() ? block.label
                           : kind               ? kind->label
                                                : block.kind),
                         Qt::ElideRight, static_cast<int>(width));
}

// A spot where it was changed since it was kept; an unequal sign where it went its own way.
void paintMarks(QPainter& p, const BeadLook& look) {
    const auto px = [&](double v) { return Theme::get().px(v) * look.zoom; };
    if (look.changed) {
        p.setPen(QPen(tokens().sheet, px(1)));
        p.setBrush(tokens().saffron);
        p.drawEllipse(look.rect.topRight() + QPointF(-px(5), px(1)), px(3.6), px(3.6));
    }
    if (look.locked) {
        const QPointF at = look.rect.bottomLeft() + QPointF(px(5), -px(1));
        p.setPen(QPen(tokens().sheet, px(1)));
        p.setBrush(tokens().card);
        p.drawEllipse(at, px(6), px(6));
        paintLock(p, at, px(8), tokens().ink);
    }
    if (look.noted) {
        p.setPen(QPen(tokens().sheet, px(1)));
        p.setBrush(tokens().saffron);
        const QPointF at = look.rect.bottomRight() + QPointF(-px(8), -px(3));
        p.drawPolygon(QPolygonF{at, at + QPointF(px(7), 0), at + QPointF(0, px(7))});
    }
    if (look.apart) {
        const QPointF at = look.rect.topLeft() + QPointF(px(5), px(1));
        p.setPen(QPen(tokens().ink, px(1)));
        p.setBrush(tokens().card);
        p.drawEllipse(at, px(6), px(6));
        p.setPen(QPen(tokens().ink, px(1.3)));
        p.drawLine(at + QPointF(-px(3), -px(1.5)), at + QPointF(px(3), -px(1.5)));
        p.drawLine(at + QPointF(-px(3), px(1.5)), at + QPointF(px(3), px(1.5)));
        p.drawLine(at + QPointF(-px(2), px(3.5)), at + QPointF(px(2), -px(3.5)));
    }
}

} // namespace

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

void paintBead(QPainter& p, const engine::Block& block, const BeadLook& look) {
    const QRectF r = look.rect;
    const QColor colour = look.colour;
    const auto px = [&](double v) { return Theme::get().px(v) * look.zoom; };
    const auto number = [&](double size, bool bold) { return zoomed(Theme::get().number(size, bold), look.zoom); };
    const bool known = engine::findKind(block.kind);
    const bool on = !known || engine::BlockView(block).on();
    const double radius = r.height() / 2;
    p.setBrush(on ? tokens().card : tokens().shade);
    const bool asMade = known && block.values.empty(); // nothing was set yet: a fine line
    p.setPen(QPen(on ? colour : tokens().ink2, px(asMade ? 0.9 : 1.8), on ? Qt::SolidLine : Qt::DashLine));
    p.drawRoundedRect(r, radius, radius);
    if (look.chosen) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(tokens().saffron, px(2.4)));
        p.drawRoundedRect(r.adjusted(-px(3), -px(3), px(3), px(3)), radius + px(3), radius + px(3));
    }
    paintMarks(p, look);
    if (look.zoom < 0.6) // from far: only that it is there
        return;
    if (look.named) {
        p.setPen(tokens().ink2);
        p.setFont(number(7, false));
        const QRectF below(r.left() - px(4), r.bottom(), r.width() + px(8), px(9));
        p.drawText(below, Qt::AlignCenter, nameOf(block, p.fontMetrics(), below.width()));
    }
    p.setPen(on ? tokens().ink : tokens().ink2);
    p.setFont(number(10, true));
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
                   muted ? QString("mute")
                         : q(look.spelled ? formatValue(spec, view.look()[view.kind->glyphParam])
                                          : formatShort(spec, view.look()[view.kind->glyphParam])));
        break;
    }
    case engine::Glyph::curve: {
        const QRectF inner = r.adjusted(px(7), px(3), -px(7), -px(3));
        p.setClipRect(inner.adjusted(0, -1, 0, 1));
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(on ? tokens().ink : tokens().ink2, px(1.6)));
        const double rate = look.rate;
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
        paintMeter(p, r.adjusted(px(8), px(8), -px(8), -px(8)), look.meterDb);
        break;
    default:
        p.drawText(r, Qt::AlignCenter, q(view.kind->label).section(' ', 0, 0).left(5));
        break;
    }
}

void paintMeter(QPainter& p, QRectF r, double db) {
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

} // namespace loom::app
