#include "app/deck/lane_gains_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "project/findings.h"
#include <QPainter>

namespace loom::app {

LaneGainsView::LaneGainsView(Session& session, const QString& block)
    : BlockPicture(session, block, "lanes", "Gain of each lane", {260, 110}) {}

void LaneGainsView::paintEvent(QPaintEvent*) {
    const auto* program = session_.program();
    const auto* b = block();
    if (!b)
        return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const int lanes = engine::BlockView(*b).inputs();
    const double wide = std::min(px(44), width() / static_cast<double>(lanes)), bottom = height() - px(26);
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
