#include "app/deck/lane_gains_view.h"
#include "app/bench/bench_engine.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "model/block_names.h"
#include <QPainter>

namespace loom::app {

LaneGainsView::LaneGainsView(Session& session, const QString& block)
    : BlockPicture(session, block, "lanes", "Gain of each lane, and who was open when", {260, 110}) {}

// Who was open when, below each other, the newest at the right: one row a lane.
void LaneGainsView::paintPast(QPainter& p, const QRectF& r, int lanes) {
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().sheet);
    p.drawRect(r);
    const double high = r.height() / lanes, step = r.width() / BenchEngine::historyLength;
    p.setPen(Qt::NoPen);
    for (int l = 0; l < lanes; ++l) {
        const auto& past = session_.bench().history(block_.toStdString(), 1 + l);
        const double x0 = r.right() - step * static_cast<double>(past.size());
        std::size_t from = 0;
        for (std::size_t i = 0; i <= past.size(); ++i) { // stretches of the same state
            const auto state = [&](std::size_t at) { return past[at] > -6; };
            if (i < past.size() && state(i) == state(from))
                continue;
            if (i > from && state(from))
                p.fillRect(QRectF(x0 + step * static_cast<double>(from), r.top() + high * l + 0.5,
                                  step * static_cast<double>(i - from), std::max(1.0, high - 1)),
                           tokens().ok);
            from = i;
        }
    }
    p.setPen(tokens().ink2);
    p.setFont(Theme::get().number(8));
    p.drawText(QRectF(r.left(), r.bottom() + 1, r.width(), px(12)), Qt::AlignVCenter | Qt::AlignLeft,
               QString("open in the last %1 s, lane by lane").arg(BenchEngine::historySeconds));
}

void LaneGainsView::paintEvent(QPaintEvent*) {
    const auto* program = session_.program();
    const auto* b = block();
    if (!b)
        return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const int lanes = engine::BlockView(*b).inputs();
    const double wide = std::min(px(44), width() / static_cast<double>(lanes));
    const double pastHigh = qBound(px(34), px(5) * lanes, height() * 0.45), bottom = height() - px(42) - pastHigh;
    paintPast(p, {px(4), height() - pastHigh - px(13), width() - px(8), pastHigh}, lanes);
    const bool running = session_.bench().running();
    for (int l = 0; l < lanes; ++l) {
        const double db = running ? session_.bench().readout(b->id, 1 + l) : -80;
        const QRectF bar(l * wide + px(4), px(4), wide - px(8), bottom - px(4));
        p.setPen(QPen(tokens().hair, 1));
        p.setBrush(tokens().shade);
        p.drawRoundedRect(bar, px(3), px(3));
        const double part = qBound(0.0, (db + 40) / 40, 1.0);
        const bool open = db > -6;
        p.setPen(Qt::NoPen);
        p.setBrush(open ? tokens().ok : tokens().ink3);
        QRectF fill = bar;
        fill.setTop(bar.bottom() - bar.height() * part);
        p.drawRoundedRect(fill, px(3), px(3));
        const auto* t = program->into({b->id, l});
        const auto* from = t ? program->find(t->from.block.substr(0, t->from.block.find('.'))) : nullptr;
        const QString name = from ? q(project::blockName(*program, *from)) : QString::number(l + 1);
        p.setPen(open ? tokens().ink : tokens().ink2);
        p.setFont(Theme::get().text(9, open));
        p.drawText(QRectF(l * wide, bottom + px(2), wide, px(12)), Qt::AlignCenter,
                   QFontMetricsF(p.font()).elidedText(name, Qt::ElideLeft, wide));
        p.setFont(Theme::get().number(8));
        p.drawText(QRectF(l * wide, bottom + px(13), wide, px(12)), Qt::AlignCenter,
                   !running   ? QString()
                   : db < -79 ? QString("shut")
                              : QString::number(db, 'f', 0).replace('-', QChar(0x2212)));
    }
}

} // namespace loom::app
