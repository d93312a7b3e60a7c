#include "app/surfaces/surface_canvas.h"
#include "app/surfaces/surface_painter.h"
#include "app/surfaces/surface_pictures.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "surface/bundle.h"
#include <QApplication>
#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QUrl>

namespace loom::app {

using namespace project;

namespace {

constexpr double rulerWide = 16, bezel = 10, reachPx = 6, handlePx = 8, leastSize = 8;

} // namespace

SurfaceCanvas::SurfaceCanvas(SurfacesState& state, QWidget* parent)
    : QWidget(parent), state_(state), values_(state.session()) {
    setObjectName("surfaceCanvas");
    setFocusPolicy(Qt::StrongFocus);
    setAcceptDrops(true);
    setMouseTracking(true);
    setAccessibleName("The page of the touch surface");
    setMinimumSize(200, 120);
    connect(&state, &SurfacesState::changed, this, qOverload<>(&QWidget::update));
    connect(&state, &SurfacesState::chosenChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
    connect(&PictureNews::get(), &PictureNews::came, this, qOverload<>(&QWidget::update));
}

double SurfaceCanvas::scale() const {
    const auto* s = state_.surface();
    if (!s)
        return 1;
    const double edge = px(rulerWide + bezel) + px(6);
    return std::max(
        0.02, std::min((width() - edge - px(bezel + 6)) / s->width, (height() - edge - px(bezel + 6)) / s->height));
}

QRectF SurfaceCanvas::screen() const {
    const auto* s = state_.surface();
    if (!s)
        return {};
    const double k = scale(), left = px(rulerWide), top = px(rulerWide);
    const double w = s->width * k, h = s->height * k;
    return {left + (width() - left - w) / 2, top + (height() - top - h) / 2, w, h};
}

QPointF SurfaceCanvas::toView(const QPointF& page) const {
    return screen().topLeft() + page * scale();
}

QPointF SurfaceCanvas::toPage(const QPointF& view) const {
    return (view - screen().topLeft()) / scale();
}

std::vector<const Control*> SurfaceCanvas::touchable() const {
    std::vector<const Control*> all;
    if (const auto* p = state_.page())
        for (const auto& ply : p->plies)
            if (!ply.locked && !ply.hiddenHere)
                for (const auto& c : ply.controls)
                    all.push_back(&c);
    return all;
}

std::string SurfaceCanvas::at(const QPointF& page) const {
    const auto all = touchable();
    for (auto it = all.rbegin(); it != all.rend(); ++it)
        if (QRectF((*it)->x, (*it)->y, (*it)->width, (*it)->height).contains(page))
            return (*it)->id;
    return {};
}

QRectF SurfaceCanvas::boxOf(const std::vector<std::string>& ids) const {
    QRectF all;
    if (const auto* p = state_.page())
        for (const auto& id : ids)
            if (const auto* c = p->control(id))
                all |= QRectF(c->x, c->y, c->width, c->height);
    return all;
}

std::vector<QRectF> SurfaceCanvas::handles(const QRectF& box) const {
    std::vector<QRectF> all;
    const QPointF a = toView(box.topLeft()), b = toView(box.bottomRight()), m = (a + b) / 2;
    const double r = px(handlePx) / 2;
    for (const QPointF& at : {a, QPointF(m.x(), a.y()), QPointF(b.x(), a.y()), QPointF(b.x(), m.y()), b,
                              QPointF(m.x(), b.y()), QPointF(a.x(), b.y()), QPointF(a.x(), m.y())})
        all.emplace_back(at - QPointF(r, r), QSizeF(2 * r, 2 * r));
    return all;
}

void SurfaceCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto* s = state_.surface();
    const auto* page = state_.page();
    if (!s || !page)
        return;
    const QRectF at = screen();
    const double k = scale();
    // Rulers, from which guides are drawn.
    p.setPen(Qt::NoPen);
    p.setBrush(tokens().linen);
    p.drawRect(QRectF(0, 0, width(), px(rulerWide)));
    p.drawRect(QRectF(0, 0, px(rulerWide), height()));
    p.setFont(Theme::get().number(8));
    const double every = k > 0.8 ? 100 : k > 0.3 ? 200 : 500;
    for (const bool across : {true, false})
        for (double v = 0; v <= (across ? s->width : s->height); v += every / 4) {
            const bool labelled = std::fmod(v, every) < 0.5;
            const double place = across ? at.left() + v * k : at.top() + v * k;
            p.setPen(QPen(tokens().ink3, 1));
            const double tick = labelled ? px(7) : px(3);
            across ? p.drawLine(QPointF(place, px(rulerWide) - tick), QPointF(place, px(rulerWide)))
                   : p.drawLine(QPointF(px(rulerWide) - tick, place), QPointF(px(rulerWide), place));
            if (labelled && across)
                p.drawText(QPointF(place + px(2), px(9)), QString::number(v));
        }
    p.setPen(Qt::NoPen);
    p.setBrush(tokens().rail);
    p.drawRoundedRect(at.adjusted(-px(bezel), -px(bezel), px(bezel), px(bezel)), px(12), px(12));
    p.save();
    p.setClipRect(at);
    p.translate(at.topLeft());
    p.scale(k, k);
    p.fillRect(QRectF(0, 0, s->width, s->height), qcolor(paintOf(*s, *page).page));
    SurfaceUse use(state_.project(), s->id, values_);
    for (const auto& ply : page->plies)
        if (!ply.hiddenHere) {
            if (!ply.edge.empty()) {
                const auto box = drawerBox(*s, ply);
                p.fillRect(QRectF(box.x, box.y, box.width, box.height), qcolor(drawerFill(*s, *page, ply)));
            }
            for (const auto& c : ply.controls) {
                p.save();
                p.translate(c.x, c.y);
                paintSketch(p, state_.project(), sketchOf(state_.project(), *s, *page, c), use.shown(c));
                p.restore();
            }
        }
    p.restore();
    // Guides, what is chosen, and what drew it.
    const auto line = [&](bool upright, double v, const QPen& pen) {
        p.setPen(pen);
        upright ? p.drawLine(QPointF(at.left() + v * k, px(rulerWide)), QPointF(at.left() + v * k, height()))
                : p.drawLine(QPointF(px(rulerWide), at.top() + v * k), QPointF(width(), at.top() + v * k));
    };
    for (const double v : page->guidesAcross)
        line(true, v, QPen(tokens().threads[0], px(1), Qt::DashLine));
    for (const double v : page->guidesDown)
        line(false, v, QPen(tokens().threads[0], px(1), Qt::DashLine));
    if (drag_.kind == Drag::Kind::guide)
        line(drag_.upright, drag_.upright ? drag_.at.x() : drag_.at.y(), QPen(tokens().threads[0], px(1.5)));
    p.setBrush(Qt::NoBrush);
    for (const auto& id : state_.chosen())
        if (const auto* c = page->control(id)) {
            const QRectF box(toView({c->x, c->y}), QSizeF(c->width * k, c->height * k));
            p.setPen(QPen(tokens().saffron, px(1.5)));
            p.drawRoundedRect(box.adjusted(-px(2), -px(2), px(2), px(2)), px(4), px(4));
            if (&id == &state_.chosen().front() && state_.chosen().size() > 1) // the leading one is drawn double
                p.drawRoundedRect(box.adjusted(-px(5), -px(5), px(5), px(5)), px(6), px(6));
        }
    if (state_.chosen().size() == 1 && hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(1)));
        p.setBrush(tokens().card);
        for (const auto& h : handles(boxOf(state_.chosen())))
            p.drawRect(h);
    }
    if (drag_.moved && (drag_.kind == Drag::Kind::controls || drag_.kind == Drag::Kind::handle)) {
        if (snap_.across)
            line(true, *snap_.across, QPen(tokens().saffron, px(1)));
        if (snap_.down)
            line(false, *snap_.down, QPen(tokens().saffron, px(1)));
        const QRectF box = boxOf(state_.chosen());
        const QString measure = QString("%1, %2 \u00b7 %3 \u00d7 %4")
                                    .arg(std::lround(box.x()))
                                    .arg(std::lround(box.y()))
                                    .arg(std::lround(box.width()))
                                    .arg(std::lround(box.height()));
        p.setFont(Theme::get().number(10));
        const double wide = p.fontMetrics().horizontalAdvance(measure) + px(12);
        const QPointF corner = toView(box.bottomLeft()) + QPointF(0, px(8));
        const QRectF tag(std::clamp(corner.x(), 0.0, std::max(0.0, width() - wide)),
                         std::min(corner.y(), height() - px(20.0)), wide, px(18));
        p.setPen(Qt::NoPen);
        p.setBrush(tokens().rail);
        p.drawRoundedRect(tag, px(4), px(4));
        p.setPen(tokens().railText);
        p.drawText(tag, Qt::AlignCenter, measure);
    }
    if (drag_.kind == Drag::Kind::band && drag_.moved) {
        p.setPen(QPen(tokens().saffron, px(1), Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(toView(drag_.from), toView(drag_.at)).normalized());
    }
    if (drop_)
        if (const auto* c = page->control(this->at(*drop_))) {
            p.setPen(QPen(tokens().saffron, px(3)));
            p.drawRoundedRect(QRectF(toView({c->x, c->y}), QSizeF(c->width * k, c->height * k)), px(6), px(6));
        }
    if (hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(1.5)));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(at.adjusted(-px(bezel + 2), -px(bezel + 2), px(bezel + 2), px(bezel + 2)), px(13), px(13));
    }
    if (page->plies.empty() ||
        std::all_of(page->plies.begin(), page->plies.end(), [](const auto& ply) { return ply.controls.empty(); })) {
        p.setFont(Theme::get().text(13));
        p.setPen(qcolor(paintOf(*s, *page).ink));
        p.drawText(
            at.adjusted(px(30), 0, -px(30), 0), Qt::AlignCenter | Qt::TextWordWrap,
            "Nothing is on this page yet. Drag what it is to turn from the list on the right, or let a page make "
            "itself.");
    }
}

void SurfaceCanvas::mousePressEvent(QMouseEvent* e) {
    const auto* page = state_.page();
    if (e->button() != Qt::LeftButton || !page)
        return;
    const QPointF at = toPage(e->position());
    drag_ = {};
    snap_ = {};
    drag_.from = drag_.at = at;
    // A ruler: a new guide.
    if (e->position().y() < px(rulerWide) || e->position().x() < px(rulerWide)) {
        drag_.kind = Drag::Kind::guide;
        drag_.upright = e->position().x() < px(rulerWide);
        return;
    }
    if (state_.chosen().size() == 1) {
        const auto grips = handles(boxOf(state_.chosen()));
        for (std::size_t i = 0; i < grips.size(); ++i)
            if (grips[i].adjusted(-px(3), -px(3), px(3), px(3)).contains(e->position())) {
                drag_.kind = Drag::Kind::handle;
                drag_.handle = static_cast<int>(i);
                drag_.box = boxOf(state_.chosen());
                return;
            }
    }
    const auto id = this->at(at);
    const bool add = e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier);
    if (!id.empty()) {
        auto ids = state_.chosen();
        if (add) {
            if (state_.isChosen(id))
                std::erase(ids, id);
            else
                ids.push_back(id);
            state_.chooseControls(ids);
        } else if (!state_.isChosen(id)) {
            state_.chooseControls({id}, e->modifiers() & Qt::AltModifier);
        } else {
            drag_.clicked = id; // alone, if it is not dragged
        }
        if (state_.isChosen(id)) {
            drag_.kind = Drag::Kind::controls;
            drag_.box = boxOf(state_.chosen());
        }
        return;
    }
    const double near = reachPx / scale();
    for (const bool upright : {true, false}) {
        const auto& guides = upright ? page->guidesAcross : page->guidesDown;
        for (std::size_t i = 0; i < guides.size(); ++i)
            if (std::abs(guides[i] - (upright ? at.x() : at.y())) < near) {
                drag_.kind = Drag::Kind::guide;
                drag_.upright = upright;
                drag_.guide = static_cast<int>(i);
                return;
            }
    }
    if (!add)
        state_.chooseControls({});
    drag_.kind = Drag::Kind::band;
}

void SurfaceCanvas::mouseMoveEvent(QMouseEvent* e) {
    if (drag_.kind == Drag::Kind::none)
        return;
    const QPointF at = toPage(e->position());
    if (!drag_.moved && (toView(at) - toView(drag_.from)).manhattanLength() < QApplication::startDragDistance())
        return;
    drag_.moved = true;
    dragTo(at, e->modifiers());
    drag_.at = at;
    update();
}

void SurfaceCanvas::dragTo(const QPointF& at, Qt::KeyboardModifiers keys) {
    const auto* s = state_.surface();
    const auto* page = state_.page();
    const double reach = keys & Qt::AltModifier ? 0 : reachPx / scale();
    if (drag_.kind == Drag::Kind::controls) {
        QPointF by = at - drag_.from;
        if (keys & Qt::ShiftModifier)
            std::abs(by.x()) > std::abs(by.y()) ? by.setY(0) : by.setX(0);
        QRectF box = drag_.box.translated(std::round(by.x()), std::round(by.y()));
        snap_ =
            reach > 0 ? snapTo(*s, *page, state_.chosen(), box.x(), box.y(), box.width(), box.height(), reach) : Snap{};
        const QRectF now = boxOf(state_.chosen());
        const double dx = box.x() + snap_.dx - now.x(), dy = box.y() + snap_.dy - now.y();
        if (dx != 0 || dy != 0)
            state_.edit(moveControls(state_.place(), state_.chosen(), dx, dy, true));
    } else if (drag_.kind == Drag::Kind::handle) {
        QRectF box = drag_.box;
        const int h = drag_.handle;
        QPointF to(std::round(at.x()), std::round(at.y()));
        snap_ = reach > 0 ? snapTo(*s, *page, state_.chosen(), to.x(), to.y(), 0, 0, reach) : Snap{};
        to += QPointF(snap_.dx, snap_.dy);
        if (h == 0 || h == 6 || h == 7)
            box.setLeft(std::min(to.x(), box.right() - leastSize));
        if (h == 2 || h == 3 || h == 4)
            box.setRight(std::max(to.x(), box.left() + leastSize));
        if (h == 0 || h == 1 || h == 2)
            box.setTop(std::min(to.y(), box.bottom() - leastSize));
        if (h == 4 || h == 5 || h == 6)
            box.setBottom(std::max(to.y(), box.top() + leastSize));
        state_.edit(
            resizeControl(state_.place(), state_.chosen().front(), box.x(), box.y(), box.width(), box.height(), true));
    }
}

void SurfaceCanvas::setGuides(const QPointF& at) {
    const bool upright = drag_.upright;
    const double v = std::round(upright ? at.x() : at.y());
    const auto* s = state_.surface();
    const bool off = v < 0 || v > (upright ? s->width : s->height); // dragged away
    const int which = drag_.guide;
    if (off && which < 0)
        return;
    state_.edit(changePage(state_.place(),
                           off         ? "Take out a guide"
                           : which < 0 ? "New guide"
                                       : "Move a guide",
                           [=](SurfacePage& p) -> std::optional<Error> {
                               auto& all = upright ? p.guidesAcross : p.guidesDown;
                               if (which < 0)
                                   all.push_back(v);
                               else if (off)
                                   all.erase(all.begin() + which);
                               else
                                   all[static_cast<std::size_t>(which)] = v;
                               return {};
                           }));
}

void SurfaceCanvas::mouseReleaseEvent(QMouseEvent* e) {
    const QPointF at = toPage(e->position());
    const auto drag = drag_;
    if (drag.kind == Drag::Kind::guide)
        setGuides(at);
    drag_ = {};
    snap_ = {};
    state_.session().endDrag();
    if (drag.kind == Drag::Kind::band && drag.moved) {
        const QRectF band = QRectF(drag.from, at).normalized();
        auto ids =
            e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier) ? state_.chosen() : std::vector<std::string>{};
        for (const auto* c : touchable())
            if (band.intersects(QRectF(c->x, c->y, c->width, c->height)) &&
                std::find(ids.begin(), ids.end(), c->id) == ids.end())
                ids.push_back(c->id);
        state_.chooseControls(ids);
    } else if (drag.kind == Drag::Kind::controls && !drag.moved && !drag.clicked.empty() &&
               !(e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier))) {
        state_.chooseControls({drag.clicked}, e->modifiers() & Qt::AltModifier);
    }
    update();
}

void SurfaceCanvas::mouseDoubleClickEvent(QMouseEvent*) {
    if (state_.leading())
        emit wantsDeck();
}

void SurfaceCanvas::nudge(double dx, double dy) {
    if (!state_.chosen().empty())
        state_.edit(moveControls(state_.place(), state_.chosen(), dx, dy, true));
}

void SurfaceCanvas::chooseAll() {
    std::vector<std::string> ids;
    for (const auto* c : touchable())
        ids.push_back(c->id);
    state_.chooseControls(ids);
}

void SurfaceCanvas::addGuide(bool upright) {
    if (const auto* s = state_.surface()) {
        drag_.upright = upright;
        drag_.guide = -1;
        setGuides({s->width / 2.0, s->height / 2.0});
        drag_ = {};
    }
}

void SurfaceCanvas::removeGuides() {
    state_.edit(changePage(state_.place(), "Take out the guides", [](SurfacePage& p) -> std::optional<Error> {
        p.guidesAcross.clear();
        p.guidesDown.clear();
        return {};
    }));
}

void SurfaceCanvas::keyPressEvent(QKeyEvent* e) {
    const double by = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
    if (e->modifiers() & (Qt::ControlModifier | Qt::AltModifier))
        return QWidget::keyPressEvent(e);
    switch (e->key()) {
    case Qt::Key_Left:
        return nudge(-by, 0);
    case Qt::Key_Right:
        return nudge(by, 0);
    case Qt::Key_Up:
        return nudge(0, -by);
    case Qt::Key_Down:
        return nudge(0, by);
    case Qt::Key_Escape:
        return state_.chooseControls({});
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (state_.leading())
            emit wantsDeck();
        return;
    default:
        QWidget::keyPressEvent(e);
    }
}

bool SurfaceCanvas::event(QEvent* e) {
    if (e->type() == QEvent::KeyPress) {
        auto* k = static_cast<QKeyEvent*>(e);
        const bool back = k->key() == Qt::Key_Backtab;
        if (k->key() == Qt::Key_Tab || back) {
            const auto all = touchable();
            if (!all.empty()) {
                std::size_t i = 0;
                while (i < all.size() && (state_.chosen().empty() || all[i]->id != state_.chosen().front()))
                    ++i;
                const auto n = all.size();
                // Past the last one the focus goes on.
                if (i < n && ((back && i == 0) || (!back && i + 1 == n))) {
                    state_.chooseControls({});
                    return QWidget::event(e);
                }
                state_.chooseControls({all[i >= n ? (back ? n - 1 : 0) : back ? i - 1 : i + 1]->id}, true);
                return true;
            }
        }
    }
    return QWidget::event(e);
}

void SurfaceCanvas::contextMenuEvent(QContextMenuEvent* e) {
    const auto id = at(toPage(e->pos()));
    if (!id.empty() && !state_.isChosen(id))
        state_.chooseControls({id});
    emit wantsMenu(e->globalPos());
}

void SurfaceCanvas::dragEnterEvent(QDragEnterEvent* e) {
    const auto* m = e->mimeData();
    if (state_.page() && (m->hasFormat(driveMime) || m->hasFormat(controlMime) || m->hasUrls() || m->hasImage()))
        e->acceptProposedAction();
}

void SurfaceCanvas::dragMoveEvent(QDragMoveEvent* e) {
    drop_ = !e->mimeData()->hasFormat(controlMime) ? std::optional(toPage(e->position())) : std::nullopt;
    e->acceptProposedAction();
    update();
}

void SurfaceCanvas::dragLeaveEvent(QDragLeaveEvent*) {
    drop_.reset();
    update();
}

void SurfaceCanvas::dropEvent(QDropEvent* e) {
    drop_.reset();
    const QPointF at = toPage(e->position());
    if (e->mimeData()->hasFormat(controlMime)) {
        state_.add(e->mimeData()->data(controlMime).toStdString(), "", at);
    } else if (e->mimeData()->hasFormat(driveMime)) {
        const auto paths = parametersIn(*e->mimeData());
        const auto on = this->at(at);
        const auto* c = state_.page()->control(on);
        const auto* kind = c ? findControlKind(c->kind) : nullptr;
        const auto first = paths.isEmpty() ? std::string() : paths.first().toStdString();
        if (paths.size() == 1 && c && kind && !kind->drives.empty() && !isBundle(first)) // driven from this from now on
            state_.edit(driveFrom(state_.project(), state_.place(), {on}, first)), state_.chooseControls({on}, true);
        else
            state_.put(paths, at);
    } else if (const auto files = e->mimeData()->urls();
               files.size() == 1 && files.first().toLocalFile().endsWith(".json")) {
        emit wantsFile(files.first().toLocalFile());
    } else {
        takePictures(state_, *e->mimeData(), at, this->at(at));
    }
    e->acceptProposedAction();
    setFocus();
    update();
}

std::vector<PaintedPart> SurfaceCanvas::paintedParts() const {
    std::vector<PaintedPart> all;
    for (const auto* c : touchable()) {
        const auto drive = controlDrive(state_.project(), c->param);
        const auto* kind = findControlKind(c->kind);
        const auto label = labelOf(*c, drive ? &*drive : nullptr);
        all.push_back({(kind ? q(kind->label) : q(c->kind)) + (label.empty() ? QString() : " \u00b7 " + q(label)),
                       drive ? q(drive->label) : QString(),
                       QRectF(toView({c->x, c->y}), QSizeF(c->width, c->height) * scale()), state_.isChosen(c->id)});
    }
    return all;
}

void SurfaceCanvas::choosePart(int index) {
    const auto all = touchable();
    if (index >= 0 && index < static_cast<int>(all.size()))
        state_.chooseControls({all[static_cast<std::size_t>(index)]->id}, true);
}

} // namespace loom::app
