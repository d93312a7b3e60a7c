#include "app/shell/rail.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

namespace loom::app {

const QStringList& Rail::stages() {
    static const QStringList names{"Survey", "Weave", "Speakers", "Bench", "Site"};
    return names;
}

Rail::Rail(QWidget* parent) : QWidget(parent), findings_(stages().size(), 0) {
    setObjectName("rail");
    setAccessibleName("Stages");
    setFocusPolicy(Qt::TabFocus);
    connect(&Theme::get(), &Theme::changed, this, [this] { setFixedWidth(Theme::get().ipx(72)); });
    setFixedWidth(Theme::get().ipx(72));
}

QRectF Rail::stageRect(int stage) const {
    return {0, px(4) + px(62) * stage, static_cast<double>(width()), px(58)};
}

void Rail::setCurrent(int stage) {
    current_ = stage;
    setAccessibleDescription(stages()[stage]);
    update();
}

void Rail::setFindings(int stage, int count) {
    findings_[stage] = count;
    update();
}

void Rail::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().rail);
    for (int s = 0; s < stages().size(); ++s) {
        const QRectF r = stageRect(s);
        const bool here = s == current_;
        if (here) {
            p.fillRect(r, tokens().linen);
            p.fillRect(QRectF(0, r.top(), px(4), r.height()), tokens().threads[0]);
        }
        const QColor c = here ? tokens().ink : tokens().railText;
        p.setPen(QPen(c, px(1.8), Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        const QPointF m(r.center().x(), r.top() + px(22));
        if (s == surveyStage) { // rooms from above
            p.setBrush(Qt::NoBrush);
            p.drawPolyline(QPolygonF{m + QPointF(px(-11), px(8)), m + QPointF(px(-11), px(-8)),
                                     m + QPointF(px(11), px(-8)), m + QPointF(px(11), px(3)), m + QPointF(px(1), px(3)),
                                     m + QPointF(px(1), px(8)), m + QPointF(px(-11), px(8))});
        } else if (s == weaveStage) // crossing threads
            for (const double d : {-7.0, 0.0, 7.0}) {
                p.drawLine(m + QPointF(px(-10), px(d)), m + QPointF(px(10), px(d)));
                p.drawLine(m + QPointF(px(d), px(-10)), m + QPointF(px(d), px(10)));
            }
        else if (s == speakersStage) { // a box with two cones
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(QRectF(m + QPointF(px(-7), px(-11)), QSizeF(px(14), px(22))), px(2), px(2));
            p.drawEllipse(m + QPointF(0, px(-5)), px(2.2), px(2.2));
            p.drawEllipse(m + QPointF(0, px(4)), px(4.5), px(4.5));
        } else if (s == siteStage) { // a pin on its ground
            p.setBrush(Qt::NoBrush);
            p.drawEllipse(m + QPointF(0, px(-4)), px(7), px(7));
            p.drawLine(m + QPointF(0, px(3)), m + QPointF(0, px(11)));
            p.drawLine(m + QPointF(px(-6), px(11)), m + QPointF(px(6), px(11)));
        } else { // a pulse of sound
            QPainterPath pulse(m + QPointF(px(-11), 0));
            for (const auto& [x, y] : {std::pair{-5, 0}, {-2, -9}, {3, 8}, {5, 0}, {11, 0}})
                pulse.lineTo(m + QPointF(px(x), px(y)));
            p.setBrush(Qt::NoBrush);
            p.drawPath(pulse);
        }
        p.setFont(Theme::get().text(11, here));
        p.drawText(QRectF(r.left(), r.top() + px(38), r.width(), px(16)), Qt::AlignCenter, stages()[s]);
        if (findings_[s] > 0) {
            p.setPen(Qt::NoPen);
            p.setBrush(tokens().fault);
            const QPointF at(r.right() - px(16), r.top() + px(12));
            p.drawEllipse(at, px(9), px(9));
            p.setPen(Theme::get().night() ? QColor("#1C1D20") : QColor("#FFFFFF"));
            p.setFont(Theme::get().number(10, true));
            p.drawText(QRectF(at.x() - px(9), at.y() - px(9), px(18), px(18)), Qt::AlignCenter,
                       QString::number(findings_[s]));
        }
    }
    if (hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        p.drawRect(stageRect(current_).adjusted(2, 2, -2, -2));
    }
}

void Rail::mousePressEvent(QMouseEvent* e) {
    for (int s = 0; s < stages().size(); ++s)
        if (stageRect(s).contains(e->position()))
            emit chosen(s);
}

void Rail::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Down || e->key() == Qt::Key_Up)
        emit chosen(qBound(0, current_ + (e->key() == Qt::Key_Down ? 1 : -1), static_cast<int>(stages().size()) - 1));
    else
        QWidget::keyPressEvent(e);
}

} // namespace loom::app
