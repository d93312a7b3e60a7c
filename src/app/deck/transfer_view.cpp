#include "app/deck/transfer_view.h"
#include "app/theme/theme.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {
namespace {

constexpr double least = -80, most = 0;

QString decibels(double db) {
    return QString::number(db, 'f', 1).replace('-', QChar(0x2212)) + " dB";
}

} // namespace

TransferView::TransferView(Session& session, const QString& block)
    : BlockPicture(session, block, "transfer", "Level out over level in", {150, 120}) {}

void TransferView::paintEvent(QPaintEvent*) {
    const auto* b = block();
    if (!b)
        return;
    const engine::BlockView view(*b);
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double side = std::min<double>(width() - px(2), height() - px(16));
    const QRectF r((width() - side) / 2, 1, side, side);
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().sheet);
    p.drawRect(r);
    const auto at = [&](double in, double out) {
        return QPointF(r.left() + (in - least) / (most - least) * r.width(),
                       r.bottom() - (qBound(least, out, most) - least) / (most - least) * r.height());
    };
    for (const double db : {-60.0, -40.0, -20.0}) {
        p.drawLine(at(db, least), at(db, most));
        p.drawLine(at(least, db), at(most, db));
    }
    p.setPen(QPen(tokens().hair, 1, Qt::DashLine));
    p.drawLine(at(least, least), at(most, most)); // nothing done
    QPainterPath path;
    for (double in = least; in <= most; in += 0.5) {
        const QPointF q = at(in, view.kind->transfer(view.look(), in));
        in == least ? path.moveTo(q) : path.lineTo(q);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(view.on() ? tokens().ink : tokens().ink2, px(2), view.on() ? Qt::SolidLine : Qt::DashLine));
    p.setClipRect(r);
    p.drawPath(path);
    p.setClipping(false);
    auto& bench = session_.bench();
    const double gain = bench.readout(b->id, 0);
    QString text = "gain \u2013";
    if (const auto* t = bench.running() ? session_.program()->into({b->id, 0}) : nullptr) {
        const double in = bench.meter(t->from).peakDb;
        if (in > least) {
            p.setPen(QPen(tokens().card, px(1.5)));
            p.setBrush(tokens().saffron);
            p.drawEllipse(at(qBound(least, in, most), in + gain), px(4), px(4));
        }
        text = "gain " + decibels(gain);
    }
    p.setPen(tokens().ink2);
    p.setFont(Theme::get().number(10));
    p.drawText(QRectF(0, r.bottom() + px(1), width(), px(14)), Qt::AlignCenter, text);
}

} // namespace loom::app
