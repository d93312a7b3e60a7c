#include "app/survey/plan_view.h"
#include "app/shell/ask.h"
#include "app/shell/command.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include "dsp/number.h"
#include <QClipboard>
#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QGuiApplication>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QToolTip>
#include <QUrl>
#include <algorithm>
#include <cmath>

namespace loom::app {
namespace {

constexpr double leastScale = 1, mostScale = 400; // pixels a metre
constexpr double grid = 0.1;                      // m; with Alt things lie anywhere
const char* const modelMime = "application/x-nimble-loom-model";

} // namespace

PlanView::PlanView(SurveyState& state, Commands& commands, QWidget* parent)
    : QWidget(parent), state_(state), commands_(commands) {
    setObjectName("plan");
    setAccessibleName("Plan of the building");
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAcceptDrops(true);
    setMinimumSize(200, 120);
    const auto stale = [this] {
        itemsStale_ = true;
        if (const auto* b = state_.building(); b && fitted_ != b->id + state_.session().path().toStdString()) {
            fitted_ = b->id + state_.session().path().toStdString();
            fit();
        }
        update();
    };
    connect(&state, &SurveyState::changed, this, stale);
    connect(&backdrop_, &BackdropView::changed, this, qOverload<>(&QWidget::update));
    connect(&backdrop_, &BackdropView::read, this, [this] {
        if (items().empty() && !touched_)
            fit();
    });
    connect(&state, &SurveyState::computed, this, [this] {
        mapImage_ = {};
        update();
    });
    connect(&Theme::get(), &Theme::changed, this, [this] {
        mapImage_ = {};
        written_.clear();
        signs_.clear();
        update();
    });
}

const std::vector<project::PlanItem>& PlanView::items() const {
    if (std::exchange(itemsStale_, false)) {
        const auto* b = state_.building();
        items_ = b ? project::planItems(state_.session().project(), *b) : std::vector<project::PlanItem>{};
        places_.clear();
        const auto& devices = state_.session().project().devices;
        for (std::size_t i = 0; i < devices.size(); ++i)
            places_["device:" + devices[i].id] = i;
    }
    return items_;
}

const project::Device* PlanView::deviceOf(const project::PlanItem& item) const {
    const auto it = places_.find(item.key);
    const auto& devices = state_.session().project().devices;
    return it != places_.end() && it->second < devices.size() ? &devices[it->second] : nullptr;
}

QPointF PlanView::toView(const acoustics::Spot& at) const {
    return origin_ + QPointF(at[0], at[1]) * scale_;
}

acoustics::Spot PlanView::toPlan(const QPointF& at) const {
    const QPointF p = (at - origin_) / scale_;
    return {p.x(), p.y()};
}

QPolygonF PlanView::polygon(const acoustics::Outline& outline) const {
    QPolygonF p;
    for (const auto& c : outline)
        p << toView(c);
    return p;
}

void PlanView::setTool(Tool tool, project::Furniture::Kind furniture) {
    tool_ = tool;
    furniture_ = furniture;
    corners_.clear();
    setCursor(tool == Tool::choose ? Qt::ArrowCursor : Qt::CrossCursor);
    emit toolChanged();
    update();
}

void PlanView::setModel(const std::string& model) {
    model_ = model;
    setTool(Tool::device);
}

void PlanView::fit() {
    touched_ = false;
    acoustics::Outline all;
    for (const auto& i : items())
        all.insert(all.end(), i.outline.begin(), i.outline.end());
    const auto* b = state_.building();
    if (const auto plan = backdrop_.plan(); all.empty() && plan && b && !b->backdrops.empty()) {
        const auto& below = b->backdrops.front();
        all = acoustics::rectangle({below.x, below.y}, (plan->high.x - plan->low.x) * below.metresPerUnit,
                                   (plan->high.y - plan->low.y) * below.metresPerUnit);
    }
    if (all.empty())
        all = acoustics::rectangle({0, 0}, 20, 12);
    fitTo(all, px(30));
}

// Below stand the scale and the map's legend; where there is little room, less is kept free.
void PlanView::fitTo(const acoustics::Outline& all, double wanted) {
    const auto e = acoustics::extentOf(all);
    const double margin = std::min(wanted, height() * 0.07), foot = std::min(px(46), height() * 0.18);
    scale_ = std::clamp(std::min((width() - 2 * margin) / std::max(e.width(), 1.0),
                                 (height() - margin - foot) / std::max(e.depth(), 1.0)),
                        leastScale, mostScale);
    origin_ = QPointF(width() / 2.0, (height() - foot + margin * 0.5) / 2.0) -
              QPointF(e.least[0] + e.width() / 2, e.least[1] + e.depth() / 2) * scale_;
    update();
}

void PlanView::fitRoom() {
    const auto* b = state_.building();
    const auto space = b ? project::spaceOf(*b, state_.wallState(), state_.room()) : project::Space{};
    acoustics::Outline all;
    for (const auto* r : space.rooms)
        all.insert(all.end(), r->outline.begin(), r->outline.end());
    if (all.empty())
        return fit();
    touched_ = true;
    fitTo(all, px(26));
}

void PlanView::zoomBy(double factor) {
    zoomBy(factor, rect().center());
}

void PlanView::zoomBy(double factor, const QPointF& about) {
    touched_ = true;
    const auto held = toPlan(about);
    scale_ = std::clamp(scale_ * factor, leastScale, mostScale);
    origin_ += about - toView(held);
    update();
}

void PlanView::resizeEvent(QResizeEvent*) {
    if (!touched_)
        fit();
}

// ---- what lies where ----

// Points first, then the smaller areas, rooms last.
std::string PlanView::hit(const QPointF& at) const {
    const auto* room = state_.session().project().room(state_.room());
    if (room && state_.isChosen("room:" + room->id))
        for (std::size_t i = 0; i < room->outline.size(); ++i)
            if (QLineF(toView(room->outline[i]), at).length() < px(8))
                return "corner:" + room->id + "/" + std::to_string(i + 1);
    std::string best;
    double nearest = px(13);
    for (const auto& i : items())
        if (i.outline.empty())
            if (const double d = QLineF(toView(i.at), at).length(); d <= nearest) {
                nearest = d;
                best = i.key;
            }
    if (!best.empty())
        return best;
    const auto spot = toPlan(at);
    for (const auto& i : items())
        if (i.outline.size() == 2 && acoustics::distanceTo(spot, i.outline[0], i.outline[1]) * scale_ < px(6))
            return i.key;
    double smallest = 1e18;
    for (const auto& i : items())
        if (i.outline.size() > 2 && acoustics::contains(i.outline, spot))
            if (const double a = acoustics::areaOf(i.outline); a < smallest) {
                smallest = a;
                best = i.key;
            }
    return best;
}

acoustics::Spot PlanView::snapped(const acoustics::Spot& at, Qt::KeyboardModifiers keys) const {
    if (keys & Qt::AltModifier)
        return at;
    const auto round = [](double v) { return std::round(v / grid) * grid; };
    acoustics::Spot best{round(at[0]), round(at[1])};
    const double reach = px(8) / scale_; // corners of other rooms draw near
    for (const auto& i : items())
        if (i.key.rfind("room:", 0) == 0)
            for (const auto& c : i.outline)
                for (std::size_t d = 0; d < 2; ++d)
                    if (std::abs(c[d] - at[d]) < reach)
                        best[d] = c[d];
    return best;
}

std::vector<PaintedPart> PlanView::paintedParts() const {
    std::vector<PaintedPart> parts;
    for (const auto& i : items()) {
        QRectF r(toView(i.at) - QPointF(10, 10), QSizeF(20, 20));
        if (i.outline.size() > 2)
            r = polygon(i.outline).boundingRect();
        parts.push_back({q(i.name), QString("%1 m, %2 m").arg(i.at[0], 0, 'f', 2).arg(i.at[1], 0, 'f', 2), r,
                         state_.isChosen(i.key)});
    }
    return parts;
}

void PlanView::choosePart(int index) {
    if (index >= 0 && index < static_cast<int>(items().size()))
        state_.choose({items()[static_cast<std::size_t>(index)].key});
}

// ---- making things ----

void PlanView::addRoom(acoustics::Outline outline, double height) {
    const auto& p = state_.session().project();
    std::size_t count = 1;
    for (const auto& b : p.buildings)
        count += b.rooms.size();
    std::string id;
    auto made = project::withRoom(p, std::move(outline), height, "Room " + std::to_string(count), &id);
    if (!made)
        return state_.session().report(made.error());
    if (state_.run(project::setBuildings(std::move(*made), "Draw room"))) {
        state_.setRoom(id);
        state_.choose({"room:" + id});
        setTool(Tool::choose);
        state_.session().report(
            "It has plastered walls, a mineral ceiling and carpet until you say otherwise in the deck.", false);
    }
}

void PlanView::askSize() {
    const auto text = askOne(this, "New room", {"Width x depth, or width x depth x height, in metres", "12 x 8 x 3"});
    if (!text)
        return;
    const auto size = project::readSize(text->toStdString());
    if (!size)
        return state_.session().report(size.error());
    double x = 0, y = 0; // to the right of what is there
    for (const auto& i : items())
        if (i.key.rfind("room:", 0) == 0)
            x = std::max(x, acoustics::extentOf(i.outline).most[0] + 1);
    addRoom(acoustics::rectangle({x, y}, (*size)[0], (*size)[1]), (*size)[2] > 0 ? (*size)[2] : 3);
    fit();
}

void PlanView::closePolygon() {
    if (corners_.size() >= 3)
        addRoom(corners_, 3);
    corners_.clear();
    update();
}

void PlanView::put(const acoustics::Spot& at) {
    const auto& p = state_.session().project();
    const auto* b = state_.building();
    const auto* r = b ? project::roomAt(*b, at) : nullptr;
    if (tool_ == Tool::rack && b) {
        std::string rack;
        state_.run(project::addRack(p, at, &rack));
        state_.choose({rack});
        return setTool(Tool::choose);
    }
    const auto* rackModel = tool_ == Tool::device ? state_.session().models().find(model_) : nullptr;
    if (rackModel && rackModel->mount == "rack" && b)
        for (const auto& k : b->racks) // pressed on a rack: it goes in there
            if (std::hypot(k.x - at[0], k.y - at[1]) < 0.6) {
                auto device = project::rackedDevice(p, k, *rackModel);
                if (!device)
                    return state_.session().report(device.error());
                const std::string id = device->id;
                if (state_.run(project::setDevices({{id, *device}}, "Add " + device->name)))
                    state_.choose({"device:" + id});
                return;
            }
    if (!r)
        return state_.session().report("There is no room there. Draw one first (R), or press inside one.");
    std::string made;
    if (tool_ == Tool::seats) {
        project::Seats s;
        s.rows = 4;
        s.across = 5;
        s.x = at[0];
        s.y = at[1];
        s.pitch = 0.9;
        s.rowPitch = 1.1;
        state_.run(project::addSeats(p, r->id, s, &made));
    } else if (tool_ == Tool::talker)
        state_.run(project::addTalker(p, r->id, at, &made));
    else if (tool_ == Tool::furniture)
        state_.run(project::addFurniture(p, r->id, furniture_, at, &made));
    else if (tool_ == Tool::device) {
        const auto* model = state_.session().models().find(model_);
        if (!model)
            return;
        auto device = project::newDevices(p, r->id, *model, {at}).front();
        made = "device:" + device.id;
        state_.run(project::setDevices({{device.id, device}}, "Add " + device.name));
    }
    if (!made.empty())
        state_.choose({made});
    if (tool_ != Tool::device) // several devices are placed one after the other; Esc ends it
        setTool(Tool::choose);
}

void PlanView::finishShape(Qt::KeyboardModifiers keys) {
    const auto from = drag_.start, to = snapped(toPlan(drag_.at), keys);
    if (tool_ == Tool::wall) {
        auto made = project::addMovableWall(state_.session().project(), from, to);
        made ? void(state_.run(std::move(*made))) : state_.session().report(made.error());
        return setTool(Tool::choose);
    }
    if (tool_ == Tool::scale) {
        const double drawn = std::hypot(to[0] - from[0], to[1] - from[1]);
        const auto said = askOne(this, "Scale of the backdrop", {"This line is, in metres", q(fixedText(drawn, 2))});
        const auto typed = said ? typedNumbers(said->toStdString()) : std::nullopt;
        const double real = typed && typed->size() == 1 ? typed->front() : 0;
        if (said && (real < 0.01 || real > 10000))
            state_.session().report("\"" + said->left(40) + "\" is no length. Type metres from 0.01 to 10000.");
        else if (said && drawn > 0) {
            auto buildings = state_.session().project().buildings;
            buildings.changeEach([&](auto& b) {
                for (auto& d : b.backdrops) // about where the line began
                {
                    d.x = from[0] + (d.x - from[0]) * real / drawn;
                    d.y = from[1] + (d.y - from[1]) * real / drawn;
                    d.metresPerUnit *= real / drawn;
                }
            });
            state_.run(project::setBuildings(std::move(buildings), "Scale the backdrop"));
        }
        return setTool(Tool::choose);
    }
    const double w = std::abs(to[0] - from[0]), d = std::abs(to[1] - from[1]);
    if (w * scale_ > px(12) && d * scale_ > px(12))
        addRoom(acoustics::rectangle({std::min(from[0], to[0]), std::min(from[1], to[1])}, w, d), 3);
}

void PlanView::removeChosen() {
    const auto keys = state_.chosen();
    auto edit = project::removeItems(state_.session().project(), keys);
    const QString what = edit ? q(edit.text) : QString();
    if (state_.run(std::move(edit)))
        state_.session().report(what + ". Ctrl+Z brings it back.", false);
    state_.choose({});
}

void PlanView::duplicateChosen() {
    std::vector<std::string> made;
    if (state_.run(project::duplicateItems(state_.session().project(), state_.chosen(), 0.5, 0.5, &made)))
        state_.choose(made);
}

void PlanView::mirrorChosen() {
    state_.run(project::mirrorItems(state_.session().project(), state_.chosen()));
}

void PlanView::copyChosen() {
    const std::string text = project::clipOf(state_.session().project(), state_.chosen());
    if (text.empty())
        return state_.session().report("Choose rooms, devices, seats or furniture first.");
    QGuiApplication::clipboard()->setText(q(text));
    state_.session().report("Copied. Ctrl+V puts it here or into another project.", false);
}

void PlanView::paste() {
    std::vector<std::string> made;
    const auto at = rect().contains(mouse_.toPoint()) ? snapped(toPlan(mouse_), {}) : toPlan(rect().center());
    const auto* b = state_.building();
    const auto* under = b ? project::roomAt(*b, at) : nullptr;
    auto edit = project::pasteClip(state_.session().project(), QGuiApplication::clipboard()->text().toStdString(),
                                   state_.session().models(), under ? under->id : state_.room(), at, &made);
    if (!edit)
        return state_.session().report(edit.error());
    if (state_.run(std::move(*edit)))
        state_.choose(made);
}

void PlanView::moveChosen(double dx, double dy) {
    state_.run(project::moveItems(state_.session().project(), state_.chosen(), dx, dy));
}

// ---- mouse ----

void PlanView::mousePressEvent(QMouseEvent* e) {
    const QPointF at = e->position();
    drag_ = {Drag::Kind::none, at, at, snapped(toPlan(at), e->modifiers())};
    if (e->button() == Qt::MiddleButton) {
        drag_.kind = Drag::Kind::pan;
        return;
    }
    if (e->button() != Qt::LeftButton)
        return;
    if (tool_ == Tool::room || tool_ == Tool::wall || tool_ == Tool::scale) {
        drag_.kind = Drag::Kind::shape;
        return;
    }
    if (tool_ != Tool::choose)
        return put(drag_.start);
    const std::string key = hit(at);
    if (key.empty()) {
        drag_.kind = Drag::Kind::pan;
        if (!(e->modifiers() & Qt::ControlModifier))
            state_.choose({});
        if (e->modifiers() & Qt::ShiftModifier)
            drag_.kind = Drag::Kind::band;
        return;
    }
    auto keys = state_.chosen();
    if (key.rfind("corner:", 0) == 0)
        keys = {key};
    else if (e->modifiers() & Qt::ControlModifier) {
        const auto it = std::find(keys.begin(), keys.end(), key);
        it == keys.end() ? keys.push_back(key) : void(keys.erase(it));
    } else if (!state_.isChosen(key))
        keys = {key};
    if (key.rfind("corner:", 0) != 0)
        state_.choose(keys);
    // A whole room is dragged only once it was chosen, so that a press inside does not move it by accident.
    drag_.kind = e->modifiers() & Qt::ShiftModifier ? Drag::Kind::band : Drag::Kind::items;
    if (key.rfind("corner:", 0) == 0) {
        corners_ = {};
        state_.choose({"room:" + state_.room()});
    }
}

void PlanView::mouseMoveEvent(QMouseEvent* e) {
    mouse_ = e->position();
    if (drag_.kind == Drag::Kind::none) {
        if (!corners_.empty() || !state_.map().values.empty())
            update();
        return;
    }
    const QPointF before = drag_.at;
    drag_.at = e->position();
    drag_.moved = drag_.moved || (drag_.at - drag_.from).manhattanLength() > px(4);
    touched_ = touched_ || drag_.kind == Drag::Kind::pan;
    if (drag_.kind == Drag::Kind::pan)
        origin_ += drag_.at - before;
    if (drag_.kind == Drag::Kind::items && drag_.moved && state_.mapKind() != MapKind::none) {
        const auto to = snapped(toPlan(drag_.at), e->modifiers());
        state_.preview(project::withMoved(state_.session().project(), state_.chosen(), to[0] - drag_.start[0],
                                          to[1] - drag_.start[1]));
    }
    update();
}

void PlanView::mouseReleaseEvent(QMouseEvent* e) {
    const Drag d = std::exchange(drag_, Drag{});
    drag_.start = d.start;
    drag_.at = d.at;
    const auto to = snapped(toPlan(e->position()), e->modifiers());
    if (d.kind == Drag::Kind::shape) {
        drag_.at = e->position();
        if (d.moved)
            finishShape(e->modifiers());
        else if (tool_ == Tool::room) { // corner by corner; the first one again closes
            if (corners_.size() >= 3 && QLineF(toView(corners_.front()), e->position()).length() < px(10))
                closePolygon();
            else
                corners_.push_back(to);
        }
    } else if (d.kind == Drag::Kind::items && d.moved) {
        const std::string key = hit(d.from);
        auto edit = project::moveItems(state_.session().project(),
                                       key.rfind("corner:", 0) == 0 ? std::vector<std::string>{key} : state_.chosen(),
                                       to[0] - d.start[0], to[1] - d.start[1]);
        state_.run(std::move(edit));
    } else if (d.kind == Drag::Kind::band) {
        const QRectF band = QRectF(d.from, e->position()).normalized();
        std::vector<std::string> keys;
        for (const auto& i : items())
            if (i.outline.size() != 2 && i.key.rfind("room:", 0) != 0 && band.contains(toView(i.at)))
                keys.push_back(i.key);
        state_.choose(keys);
    }
    drag_ = Drag{};
    update();
}

void PlanView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (tool_ == Tool::room && corners_.size() >= 3)
        return closePolygon();
    const std::string key = hit(e->position());
    if (key.rfind("room:", 0) == 0) { // opens it: the room fills the view
        state_.setRoom(key.substr(5));
        fitRoom();
    } else if (!key.empty())
        emit wantsDeck();
}

void PlanView::wheelEvent(QWheelEvent* e) {
    zoomBy(std::pow(1.0015, e->angleDelta().y()), e->position());
}

// ---- keys ----

// Moving and drawing only; what is done by keys stands with the commands (survey_stage.cpp).
void PlanView::keyPressEvent(QKeyEvent* e) {
    const double step = e->modifiers() & Qt::ShiftModifier ? 0.01 : e->modifiers() & Qt::ControlModifier ? 1 : 0.1;
    switch (e->key()) {
    case Qt::Key_Left:
        return moveChosen(-step, 0);
    case Qt::Key_Right:
        return moveChosen(step, 0);
    case Qt::Key_Up:
        return moveChosen(0, -step);
    case Qt::Key_Down:
        return moveChosen(0, step);
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return corners_.size() >= 3 ? closePolygon() : void(emit wantsDeck());
    case Qt::Key_Escape:
        drag_ = {};
        if (tool_ != Tool::choose)
            return setTool(Tool::choose);
        return state_.choose({});
    default:
        QWidget::keyPressEvent(e);
    }
}

void PlanView::chooseDevices() {
    std::vector<std::string> keys;
    for (const auto& i : items())
        if (i.room == state_.room() && i.key.rfind("device:", 0) == 0)
            keys.push_back(i.key);
    state_.choose(keys);
}

bool PlanView::event(QEvent* e) {
    if (e->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(e)->key();
        if ((key == Qt::Key_Tab || key == Qt::Key_Backtab) && !items().empty()) {
            const auto& all = items();
            const auto it = std::find_if(all.begin(), all.end(), [&](const auto& i) { return state_.isChosen(i.key); });
            const auto n = static_cast<std::ptrdiff_t>(all.size());
            const auto at =
                it == all.end() ? (key == Qt::Key_Tab ? 0 : n - 1) : it - all.begin() + (key == Qt::Key_Tab ? 1 : -1);
            if (at < 0 || at >= n)
                return QWidget::event(e); // leaves the plan
            state_.choose({all[static_cast<std::size_t>(at)].key});
            return true;
        }
    }
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        const std::string key = hit(help->pos());
        for (const auto& i : items())
            if (i.key == key && key.rfind("device:", 0) == 0) {
                const auto* d = state_.session().project().device(key.substr(7));
                const auto* m = d->spec();
                QToolTip::showText(help->globalPos(),
                                   q(d->name + " \u00b7 " + (m ? m->name : d->model) +
                                     (d->address.empty() ? "" : " \u00b7 " + d->address)) +
                                       QString(" \u00b7 %1 m high").arg(d->place.z, 0, 'f', 2),
                                   this);
                return true;
            }
    }
    return QWidget::event(e);
}

void PlanView::contextMenuEvent(QContextMenuEvent* e) {
    const std::string key = hit(e->pos());
    if (!key.empty() && !state_.isChosen(key))
        state_.choose({key});
    QMenu menu(this);
    menu.setObjectName("planMenu");
    if (!state_.chosen().empty()) {
        connect(menu.addAction("Edit in the deck\tEnter"), &QAction::triggered, this, &PlanView::wantsDeck);
        for (const char* id : {"copy", "duplicate", "mirror", "remove"})
            commands_.addTo(menu, QString("survey.") + id);
        menu.addSeparator();
    }
    for (const char* id : {"paste", "deviceTable", "deviceTableFile", "room", "roomBySize", "seats", "talker", "wall",
                           "whole", "fitRoom"})
        commands_.addTo(menu, QString("survey.") + id);
    menu.exec(e->globalPos());
}

// ---- from the shelf ----

void PlanView::dragEnterEvent(QDragEnterEvent* e) {
    const auto urls = e->mimeData()->urls();
    if (e->mimeData()->hasFormat(modelMime) || (urls.size() == 1 && urls.first().isLocalFile()))
        e->acceptProposedAction();
}

void PlanView::dropEvent(QDropEvent* e) {
    if (!e->mimeData()->hasFormat(modelMime)) {
        e->acceptProposedAction();
        emit wantsFile(e->mimeData()->urls().value(0).toLocalFile());
        return;
    }
    const Tool held = tool_;
    model_ = e->mimeData()->data(modelMime).toStdString();
    tool_ = Tool::device;
    put(snapped(toPlan(e->position()), e->modifiers()));
    setTool(held == Tool::device ? Tool::device : Tool::choose);
    setFocus();
    e->acceptProposedAction();
}

} // namespace loom::app
