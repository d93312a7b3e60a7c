#include "app/shell/rail.h"
#include "app/parameter_drag.h"
#include "app/theme/theme.h"
#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>

namespace loom::app {

Rail::Rail(QWidget* parent) : QWidget(parent) {
    setObjectName("rail");
    setAccessibleName("Stages");
    setFocusPolicy(Qt::TabFocus);
    setAcceptDrops(true);
    connect(&Theme::get(), &Theme::changed, this, [this] { setFixedWidth(Theme::get().ipx(72)); });
    setFixedWidth(Theme::get().ipx(72));
}

void Rail::setStages(const std::vector<Stage>& stages) {
    for (const auto& s : stages)
        entries_.push_back({s.name, s.icon});
}

QRectF Rail::stageRect(int stage) const {
    return {0, px(4) + px(62) * stage, static_cast<double>(width()), px(58)};
}

void Rail::setCurrent(int stage) {
    current_ = stage;
    setAccessibleDescription(entries_[static_cast<std::size_t>(stage)].name);
    update();
}

void Rail::setFindings(int stage, int count) {
    entries_[static_cast<std::size_t>(stage)].findings = count;
    update();
}

void Rail::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().rail);
    for (int s = 0; s < count(); ++s) {
        const Entry& entry = entries_[static_cast<std::size_t>(s)];
        const QRectF r = stageRect(s);
        const bool here = s == current_;
        if (here) {
            p.fillRect(r, tokens().linen);
            p.fillRect(QRectF(0, r.top(), px(4), r.height()), tokens().threads[0]);
        }
        const QColor c = here ? tokens().ink : tokens().railText;
        p.setPen(QPen(c, px(1.8), Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        p.setBrush(Qt::NoBrush);
        entry.icon(p, QPointF(r.center().x(), r.top() + px(22)));
        p.setPen(c);
        p.setFont(Theme::get().text(11, here));
        p.drawText(QRectF(r.left(), r.top() + px(38), r.width(), px(16)), Qt::AlignCenter, entry.name);
        if (entry.findings > 0) {
            p.setPen(Qt::NoPen);
            p.setBrush(tokens().fault);
            const QPointF at(r.right() - px(16), r.top() + px(12));
            p.drawEllipse(at, px(9), px(9));
            p.setPen(Theme::get().night() ? QColor("#1C1D20") : QColor("#FFFFFF"));
            p.setFont(Theme::get().number(10, true));
            p.drawText(QRectF(at.x() - px(9), at.y() - px(9), px(18), px(18)), Qt::AlignCenter,
                       QString::number(entry.findings));
        }
    }
    if (hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        p.drawRect(stageRect(current_).adjusted(2, 2, -2, -2));
    }
}

void Rail::mousePressEvent(QMouseEvent* e) {
    for (int s = 0; s < count(); ++s)
        if (stageRect(s).contains(e->position()))
            emit chosen(s);
}

void Rail::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasFormat(driveMime))
        e->acceptProposedAction();
}

void Rail::dragMoveEvent(QDragMoveEvent* e) {
    e->ignore(); // it is not let go here
    for (int s = 0; s < count(); ++s)
        if (s != current_ && stageRect(s).contains(e->position()))
            return emit chosen(s);
}

void Rail::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Down || e->key() == Qt::Key_Up)
        emit chosen(qBound(0, current_ + (e->key() == Qt::Key_Down ? 1 : -1), count() - 1));
    else
        QWidget::keyPressEvent(e);
}

} // namespace loom::app
