#include "app/deck/history_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "engine/block_kind.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {
namespace {

QString figure(const engine::Readout& r, double value) {
    if (value <= dsp::silenceDb + 1)
        return QString(QChar(0x2013));
    const bool counts = r.unit.empty() && r.max - r.min > 2;
    const QString number = QString::number(value, 'f',
                                           counts               ? 0
                                           : r.max - r.min <= 2 ? 2
                                                                : 1)
                               .replace('-', QChar(0x2212));
    return r.unit.empty() ? number : number + " " + q(r.unit);
}

} // namespace

HistoryView::HistoryView(Session& session, const QString& block)
    : BlockPicture(session, block, "history", "What the block does, over the last seconds", {170, 80}) {
    const auto& readouts = engine::BlockView(*this->block()).kind->readouts;
    setAccessibleName(q(readouts.front().label) + " over the last seconds");
    const int rows = (static_cast<int>(readouts.size()) + 1) / 2;
    setMinimumSize(Theme::get().ipx(readouts.size() > 1 ? 320 : 170), Theme::get().ipx(80 + 15 * rows));
}

void HistoryView::paintEvent(QPaintEvent*) {
    const auto* b = block();
    if (!b)
        return;
    const engine::BlockView view(*b);
    const auto& readouts = view.kind->readouts;
    const auto& first = readouts.front();
    const auto& past = session_.bench().history(b->id);
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const int columns = readouts.size() > 1 ? 2 : 1, rows = static_cast<int>((readouts.size() + 1) / 2);
    const QRectF r(px(30), px(4), width() - px(34), height() - px(24) - px(15) * rows);
    const auto yOf = [&](double v) {
        return r.bottom() - (qBound(first.min, v, first.max) - first.min) / (first.max - first.min) * r.height();
    };
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().sheet);
    p.drawRect(r);
    p.setFont(Theme::get().number(9));
    for (const double v : {first.min, (first.min + first.max) / 2, first.max}) {
        p.setPen(QPen(tokens().hair, 1));
        p.drawLine(QPointF(r.left(), yOf(v)), QPointF(r.right(), yOf(v)));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(0, qBound(0.0, yOf(v) - px(7), r.bottom() - px(12)), px(27), px(14)),
                   Qt::AlignRight | Qt::AlignVCenter, QString::number(v).replace('-', QChar(0x2212)));
    }
    p.setClipRect(r.adjusted(-1, -1, 1, 1));
    QPainterPath line;
    const double step = r.width() / (BenchEngine::historyLength - 1);
    for (std::size_t i = 0; i < past.size(); ++i) { // the newest at the right
        const QPointF at(r.right() - step * static_cast<double>(past.size() - 1 - i),
                         yOf(static_cast<double>(past[i])));
        i ? line.lineTo(at) : line.moveTo(at);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(tokens().threads[4], px(1.6)));
    p.drawPath(line);
    p.setClipping(false);
    p.setPen(tokens().ink2);
    p.drawText(QRectF(r.left(), r.bottom() + px(1), r.width(), px(14)), Qt::AlignCenter,
               session_.bench().running() ? QString("the last %1 s").arg(BenchEngine::historySeconds)
                                          : QString("F5 runs the bench"));
    for (std::size_t i = 0; i < readouts.size(); ++i) {
        const double wide = (width() - px(8)) / static_cast<double>(columns);
        const QRectF cell(px(4) + (wide + px(4)) * static_cast<double>(i % static_cast<std::size_t>(columns)),
                          r.bottom() + px(17) + px(15) * static_cast<double>(i / static_cast<std::size_t>(columns)),
                          wide - px(10), px(15));
        p.setFont(Theme::get().text(10));
        p.setPen(tokens().ink2);
        p.drawText(cell, Qt::AlignLeft | Qt::AlignVCenter, q(readouts[i].label));
        p.setFont(Theme::get().number(10, true));
        p.setPen(tokens().ink);
        p.drawText(cell, Qt::AlignRight | Qt::AlignVCenter,
                   session_.bench().running()
                       ? figure(readouts[i], static_cast<double>(session_.bench().readout(b->id, static_cast<int>(i))))
                       : QString(QChar(0x2013)));
    }
}

} // namespace loom::app
