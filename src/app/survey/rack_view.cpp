#include "app/survey/rack_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include "findings/room_findings.h"
#include "program/load.h"
#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace loom::app {
namespace {

int unitsOf(const project::Device& d) {
    const auto* m = d.spec();
    return m ? std::max(m->rackUnits, 1) : 1;
}

} // namespace

RackView::RackView(SurveyState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("rackView");
    setAccessibleName("Rack from the front");
    setFocusPolicy(Qt::StrongFocus);
    setAcceptDrops(true);
    connect(&state, &SurveyState::changed, this, qOverload<>(&QWidget::update));
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

const project::Rack* RackView::rack() const {
    const auto* b = state_.building();
    if (!b || state_.chosen().empty())
        return nullptr;
    const std::string& key = state_.chosen().back();
    const auto* d = key.rfind("device:", 0) == 0 ? state_.session().project().device(key.substr(7)) : nullptr;
    for (const auto& k : b->racks)
        if (key == "rack:" + k.id || (d && d->place.rack == k.id))
            return &k;
    return nullptr;
}

std::vector<const project::Device*> RackView::devices() const {
    std::vector<const project::Device*> all;
    const auto* k = rack();
    for (const auto& d : state_.session().project().devices)
        if (k && d.place.rack == k->id)
            all.push_back(&d);
    std::stable_sort(all.begin(), all.end(),
                     [](const auto* a, const auto* b) { return a->place.unit > b->place.unit; });
    return all;
}

QRectF RackView::unitRect(int unit, int units) const {
    const auto* k = rack();
    const double top = px(22), each = (height() - top - px(4)) / std::max(k ? k->units : 1, 1);
    return {px(24), height() - px(4) - each * (unit - 1 + units), width() - px(30), each * units};
}

int RackView::unitAt(const QPointF& at) const {
    const auto* k = rack();
    for (int u = 1; k && u <= k->units; ++u)
        if (unitRect(u).top() <= at.y() && at.y() < unitRect(u).bottom())
            return u;
    return 0;
}

std::vector<PaintedPart> RackView::paintedParts() const {
    std::vector<PaintedPart> parts;
    for (const auto* d : devices())
        parts.push_back({q(d->name), QString("unit %1").arg(d->place.unit), unitRect(d->place.unit, unitsOf(*d)),
                         state_.isChosen("device:" + d->id)});
    return parts;
}

void RackView::choosePart(int index) {
    if (const auto all = devices(); index >= 0 && index < static_cast<int>(all.size()))
        state_.choose({"device:" + all[static_cast<std::size_t>(index)]->id});
}

void RackView::paintEvent(QPaintEvent*) {
    const auto* k = rack();
    if (!k)
        return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const auto load = project::loadOf(state_.session().project(), *k);
    p.setFont(Theme::get().number(10));
    p.setPen(tokens().ink2);
    p.drawText(QRectF(0, 0, width(), px(18)), Qt::AlignLeft,
               QString("%1 of %2 U \u00b7 %3 W \u00b7 %4 W heat")
                   .arg(load.unitsUsed)
                   .arg(load.units)
                   .arg(load.watts)
                   .arg(load.heat));
    p.setPen(QPen(tokens().ink, px(1.6)));
    p.setBrush(tokens().sheet);
    p.drawRect(unitRect(1, k->units));
    p.setFont(Theme::get().number(8));
    for (int u = 1; u <= k->units; ++u) {
        p.setPen(QPen(tokens().hair, 1));
        p.drawLine(unitRect(u).bottomLeft(), unitRect(u).bottomRight());
        if (unitRect(u).height() >= px(9) || u % 5 == 0) {
            p.setPen(tokens().ink2);
            p.drawText(QRectF(0, unitRect(u).top(), px(20), unitRect(u).height()), Qt::AlignRight | Qt::AlignVCenter,
                       QString::number(u));
        }
    }
    for (const auto* d : devices()) {
        const bool chosen = state_.isChosen("device:" + d->id), held = d->id == dragged_ && to_ > 0;
        const QRectF r = unitRect(held ? to_ : d->place.unit, unitsOf(*d)).adjusted(1, 0.5, -1, -0.5);
        p.setPen(QPen(chosen ? tokens().saffron : tokens().ink, px(chosen ? 2 : 1)));
        p.setBrush(tokens().card);
        p.drawRoundedRect(r, 2, 2);
        p.setFont(Theme::get().text(std::min(10.0, r.height() / px(1) - 1)));
        p.setPen(tokens().ink);
        p.drawText(r.adjusted(px(6), 0, -px(4), 0), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(q(d->name), Qt::ElideRight, static_cast<int>(r.width() - px(10))));
    }
}

void RackView::moveTo(const std::string& device, int unit) {
    const auto* d = state_.session().project().device(device);
    const auto* k = rack();
    if (!d || !k || unit < 1 || unit + unitsOf(*d) - 1 > k->units || unit == d->place.unit)
        return;
    project::Place place = d->place;
    place.unit = unit;
    state_.run(project::placeDevices({{d->id, place}}, "Move " + d->name));
}

void RackView::mousePressEvent(QMouseEvent* e) {
    dragged_.clear();
    to_ = 0;
    const int unit = unitAt(e->position());
    for (const auto* d : devices())
        if (unit >= d->place.unit && unit < d->place.unit + unitsOf(*d)) {
            dragged_ = d->id;
            grip_ = unit - d->place.unit;
            state_.choose({"device:" + d->id});
            return;
        }
}

void RackView::mouseMoveEvent(QMouseEvent* e) {
    if (const int unit = unitAt(e->position()); !dragged_.empty() && unit > 0)
        to_ = std::max(1, unit - grip_);
    update();
}

void RackView::mouseReleaseEvent(QMouseEvent*) {
    if (to_ > 0)
        moveTo(dragged_, to_);
    dragged_.clear();
    to_ = 0;
    update();
}

void RackView::keyPressEvent(QKeyEvent* e) {
    if (e->key() != Qt::Key_Up && e->key() != Qt::Key_Down)
        return QWidget::keyPressEvent(e);
    for (const auto* d : devices())
        if (state_.isChosen("device:" + d->id))
            return moveTo(d->id, d->place.unit + (e->key() == Qt::Key_Up ? 1 : -1));
}

void RackView::dragEnterEvent(QDragEnterEvent* e) {
    if (rack() && e->mimeData()->hasFormat("application/x-nimble-loom-model"))
        e->acceptProposedAction();
}

void RackView::dropEvent(QDropEvent* e) {
    const auto* model =
        state_.session().models().find(e->mimeData()->data("application/x-nimble-loom-model").toStdString());
    const auto* k = rack();
    if (!model || !k)
        return;
    auto made = project::rackedDevice(state_.session().project(), *k, *model);
    if (!made)
        return state_.session().report(made.error());
    const std::string id = made->id;
    if (state_.run(project::setDevices({{id, *made}}, "Add " + made->name)))
        state_.choose({"device:" + id});
    e->acceptProposedAction();
}

} // namespace loom::app
