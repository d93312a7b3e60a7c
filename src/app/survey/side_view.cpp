#include "app/survey/side_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace loom::app {

SideView::SideView(SurveyState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("sideView");
    setAccessibleName("The room from the side");
    setFocusPolicy(Qt::StrongFocus);
    connect(&state, &SurveyState::changed, this, qOverload<>(&QWidget::update));
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

project::Space SideView::space() const {
    const auto* b = state_.building();
    return b ? project::spaceOf(*b, state_.wallState(), state_.room()) : project::Space{};
}

std::vector<SideView::Thing> SideView::things() const {
    std::vector<Thing> all;
    const auto s = space();
    for (const auto* r : s.rooms)
        for (const auto& t : r->talkers)
            all.push_back({"talker:" + r->id + "/" + t.id, t.name, t.x, t.z});
    for (const auto& d : state_.session().project().devices)
        if (d.place.placed && d.place.rack.empty() && s.has(d.room))
            all.push_back({"device:" + d.id, d.name, d.place.x, d.place.z});
    return all;
}

// The whole length of the space, and its height with a metre above.
QPointF SideView::toView(double along, double up) const {
    acoustics::Outline all;
    double top = 3;
    for (const auto* r : space().rooms) {
        all.insert(all.end(), r->outline.begin(), r->outline.end());
        top = std::max(top, r->height);
    }
    const auto e = acoustics::extentOf(all);
    const double scale = std::min((width() - px(110)) / std::max(e.width(), 1.0), (height() - px(60)) / (top + 0.4));
    return {width() / 2.0 + (along - e.least[0] - e.width() / 2) * scale, height() - px(32) - up * scale};
}

std::vector<PaintedPart> SideView::paintedParts() const {
    std::vector<PaintedPart> parts;
    for (const auto& t : things())
        parts.push_back({q(t.name), QString("%1 m high").arg(t.z, 0, 'f', 2),
                         QRectF(toView(t.x, t.z) - QPointF(8, 8), QSizeF(16, 16)), state_.isChosen(t.key)});
    return parts;
}

void SideView::choosePart(int index) {
    if (const auto all = things(); index >= 0 && index < static_cast<int>(all.size()))
        state_.choose({all[static_cast<std::size_t>(index)].key});
}

void SideView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto s = space();
    if (s.rooms.empty()) {
        p.setPen(tokens().ink2);
        p.drawText(rect(), Qt::AlignCenter, "Draw a room on the plan first (E goes back to it).");
        return;
    }
    p.setFont(Theme::get().number(10));
    for (const auto* r : s.rooms) {
        const auto e = acoustics::extentOf(r->outline);
        const QRectF box(toView(e.least[0], r->height), toView(e.most[0], 0));
        QColor tint = Theme::get().thread(q(r->colour));
        tint.setAlphaF(0.1f);
        p.setBrush(tint);
        p.setPen(QPen(tokens().ink, px(2.4)));
        p.drawRect(box);
        for (const auto& f : r->furniture)
            if (f.kind == project::Furniture::Kind::stage) {
                const auto reach = acoustics::extentOf(project::cornersOf(f));
                p.setBrush(tokens().shade);
                p.setPen(QPen(tokens().ink2, px(1.2)));
                p.drawRect(QRectF(toView(reach.least[0], f.height + f.rise), toView(reach.most[0], 0)));
            }
        if (!r->seats.empty()) { // the height of the ears
            p.setPen(QPen(tokens().caution, px(1), Qt::DashLine));
            p.drawLine(toView(e.least[0], r->seats[0].ear), toView(e.most[0], r->seats[0].ear));
            p.setPen(tokens().ink2);
            p.drawText(toView(e.least[0], r->seats[0].ear) + QPointF(px(6), -px(3)),
                       QString("ears %1 m").arg(r->seats[0].ear, 0, 'f', 2));
        }
        p.setPen(tokens().ink);
        p.drawText(QRectF(box.left(), box.bottom() + px(6), box.width(), px(16)), Qt::AlignCenter,
                   QString("%1 \u00b7 %2 m").arg(q(r->name)).arg(e.width(), 0, 'f', 2));
        p.drawText(QRectF(box.right() - px(54), box.top() - px(18), px(60), px(16)), Qt::AlignRight,
                   QString("%1 m").arg(r->height, 0, 'f', 2));
    }
    for (const auto& t : things()) {
        const bool chosen = state_.isChosen(t.key);
        const double z = chosen && moved_ ? dragTo_ : t.z;
        const QPointF at = toView(t.x, z);
        p.setPen(QPen(chosen ? tokens().saffron : tokens().ink, px(chosen ? 2.4 : 1.4)));
        p.setBrush(t.key[0] == 't' ? tokens().saffronTint : tokens().card);
        p.drawEllipse(at, px(5), px(5));
        if (chosen) {
            p.setPen(tokens().ink);
            p.drawText(at + QPointF(px(9), -px(5)), QString("%1 \u00b7 %2 m").arg(q(t.name)).arg(z, 0, 'f', 2));
        }
    }
    if (hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

void SideView::setHeight(double z) {
    auto edit =
        project::setField(state_.session().project(), state_.chosen(), "z", QString::number(z, 'f', 2).toStdString());
    edit ? void(state_.run(std::move(*edit))) : state_.session().report(edit.error());
}

void SideView::mousePressEvent(QMouseEvent* e) {
    dragged_.clear();
    moved_ = false;
    double nearest = px(10);
    for (const auto& t : things())
        if (const double d = QLineF(toView(t.x, t.z), e->position()).length(); d < nearest) {
            nearest = d;
            dragged_ = t.key;
            dragTo_ = t.z;
        }
    if (dragged_.empty())
        return state_.choose({});
    if (!state_.isChosen(dragged_))
        state_.choose({dragged_});
}

void SideView::mouseMoveEvent(QMouseEvent* e) {
    if (dragged_.empty())
        return;
    const double perMetre = toView(0, 0).y() - toView(0, 1).y();
    dragTo_ = std::max(0.0, std::round((toView(0, 0).y() - e->position().y()) / perMetre * 20) / 20);
    moved_ = true;
    update();
}

void SideView::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(moved_, false) && !dragged_.empty())
        setHeight(dragTo_);
    dragged_.clear();
    update();
}

void SideView::keyPressEvent(QKeyEvent* e) {
    if (e->key() != Qt::Key_Up && e->key() != Qt::Key_Down)
        return QWidget::keyPressEvent(e);
    for (const auto& t : things())
        if (state_.isChosen(t.key)) {
            const double step = e->modifiers() & Qt::ShiftModifier ? 0.01 : 0.05;
            return setHeight(std::max(0.0, t.z + (e->key() == Qt::Key_Up ? step : -step)));
        }
}

} // namespace loom::app
