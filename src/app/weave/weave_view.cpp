#include "app/weave/weave_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_measure.h"
#include "model/block_names.h"
#include "program/compare.h"
#include "program/lane_edit.h"
#include "program/links.h"
#include "program/program_edit.h"
#include "program/routes.h"
#include <QAccessible>
#include <QMouseEvent>

namespace loom::app {

using namespace weave;

WeaveView::WeaveView(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), session_(session), commands_(commands), layout_(session.layout()) {
    setObjectName("weave");
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName("Weave: signal flow");
    connect(&session, &Session::atWorkChanged, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::refused, this, [this](const std::vector<std::string>& way) {
        refused_ = way;
        refusedGone_.start(9000); // as long as the words stand below
        update();
    });
    refusedGone_.setSingleShot(true);
    connect(&refusedGone_, &QTimer::timeout, this, [this] {
        refused_.clear();
        update();
    });
    flagGone_.setSingleShot(true);
    connect(&flagGone_, &QTimer::timeout, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::opened, this, [this] { fitted_.clear(); });
    connect(&session, &Session::changed, this, [this](const project::Change& c) {
        noteChanged();
        if (c.kind != project::Change::Kind::value)
            relayOut();
        fitNew();
        retrace();
        update();
    });
    connect(&session, &Session::chosen, this, [this] {
        announce();
        update();
    });
    connect(&Theme::get(), &Theme::changed, this, &WeaveView::relayOut);
    relayOut();
}

// Which beads differ from what was kept.
void WeaveView::noteChanged() {
    changed_.clear();
    const auto* kept = session_.kept();
    const auto* now = session_.program();
    if (!kept || !now)
        return;
    std::unordered_map<std::string_view, const engine::Block*> before;
    for (const auto& b : kept->blocks)
        before.emplace(b.id, &b);
    for (const auto& b : now->blocks) {
        const auto it = before.find(b.id);
        if (it == before.end() || it->second->values != b.values || it->second->kind != b.kind)
            changed_.insert(b.id);
    }
}

void WeaveView::announce() {
    QString what = session_.lane();
    if (const auto* p = session_.program())
        if (const auto* b = p->find((session_.block().isEmpty() ? session_.lane() : session_.block()).toStdString()))
            what = q(project::blockName(*p, *b));
    setAccessibleDescription(what);
    QAccessibleEvent changed(this, QAccessible::DescriptionChanged);
    QAccessible::updateAccessibility(&changed);
}

QColor WeaveView::colourOf(const QString& end) const {
    const auto* b = session_.program() ? blockOf(end.toStdString()) : nullptr;
    if (!b)
        return tokens().ink2;
    if (const auto it = b->marks.find("colour"); it != b->marks.end())
        return Theme::get().thread(q(it->second));
    if (engine::endOf(*b) == engine::End::none)
        return tokens().ink2;
    const QString port = portText(*b);
    // A thread's colour says where its sound comes from: the room, the far end, the network.
    if (port.startsWith("usb") || port.startsWith("tel"))
        return Theme::get().thread("woad");
    if (port.startsWith("net"))
        return Theme::get().thread("weld");
    const auto* room = session_.project().room(session_.device()->room);
    return Theme::get().thread(room ? q(room->colour) : "madder");
}

QString WeaveView::portText(const engine::Block& b) const {
    const auto* kind = engine::findKind(b.kind);
    if (kind && kind->end == engine::End::none)
        return q(kind->label).toLower();
    const auto it = b.texts.find("port");
    return it == b.texts.end() ? QString("no port") : q(it->second);
}

double WeaveView::crossingLevel(const engine::Block& matrix, int in, int out) const {
    const auto it = matrix.values.find(std::to_string(in + 1) + "." + std::to_string(out + 1));
    return it == matrix.values.end() ? -80 : it->second;
}

void WeaveView::refresh() {
    retrace();
    update();
}

// ---- pointing ----

WeaveView::Hit WeaveView::hit(QPointF at) const {
    Hit h;
    const auto* program = session_.program();
    if (!program)
        return h;
    for (const auto& hub : layout_.hubs)
        if (engine::isMatrix(*blockOf(hub.block)) && hubRect(hub).contains(at))
            for (std::size_t i = 0; i < hub.inRows.size(); ++i)
                for (std::size_t o = 0; o < hub.outRows.size(); ++o)
                    if (QLineF(crossing(q(hub.block), static_cast<int>(i), static_cast<int>(o)), at).length() < px(11))
                        return {Hit::Kind::knot,     q(hub.block),
                                q(hub.block),        static_cast<int>(i),
                                static_cast<int>(o), engine::PortRef{hub.block, static_cast<int>(o)}};
    for (const auto& g : layout_.groups)
        if (headingRect(g).contains(at))
            return {Hit::Kind::heading, q(g.lanes.front()), q(g.name), 0, 0, {}};
    for (const auto& l : layout_.lanes) {
        if (l.folded || std::abs(rowY(l.row) - at.y()) > rowHeight_)
            continue;
        const QString end = q(l.end);
        if (l.isEnd(l.end) && QLineF(endPoint(end), at).length() < px(11))
            return {Hit::Kind::end, end, {}, 0, 0, engine::PortRef{l.end, 0}};
        for (const auto& b : l.beads)
            if (beadRect(q(b)).adjusted(-px(3), -px(3), px(3), px(3)).contains(at))
                return {Hit::Kind::bead, end, q(b), 0, 0, engine::PortRef{b, 0}};
        if (laneRect(end).contains(at)) { // on the thread between beads: the sound there
            h = {Hit::Kind::lane, end, {}, 0, 0, engine::PortRef{l.end, 0}};
            for (const auto& b : l.beads)
                if (beadRect(q(b)).right() < at.x())
                    h.port = engine::PortRef{b, 0};
            return h;
        }
    }
    for (const auto& hub : layout_.hubs)
        if (hubRect(hub).adjusted(0, -px(20), 0, 0).contains(at)) // with its name
            return {Hit::Kind::lane, q(hub.block), {}, 0, 0, {}};
    return h;
}

void WeaveView::mousePressEvent(QMouseEvent* e) {
    setFocus(Qt::MouseFocusReason);
    press_ = e->button() == Qt::LeftButton ? hit(e->position()) : Hit{};
    pressAt_ = dragAt_ = e->position();
    dragging_ = false;
    if (const Hit h = hit(e->position()); e->button() == Qt::RightButton && h.kind == Hit::Kind::knot)
        flipMute(h.block, QString("%1.%2.mute").arg(h.in + 1).arg(h.out + 1));
    if (press_.kind == Hit::Kind::knot)
        pressLevel_ = crossingLevel(*session_.program()->find(press_.block.toStdString()), press_.in, press_.out);
    if (press_.kind == Hit::Kind::none)
        return;
    choosePress(press_, e->modifiers());
}

void WeaveView::choosePress(const Hit& at, Qt::KeyboardModifiers keys) {
    if (at.kind == Hit::Kind::heading) {
        for (const auto& g : layout_.groups)
            if (q(g.lanes.front()) == at.lane && q(g.name) == at.block)
                chooseWithGroup(at.lane);
    } else if (keys & Qt::ControlModifier) {
        toggleLane(at.lane);
    } else if (keys & Qt::ShiftModifier) {
        chooseUpTo(at.lane);
    } else if (at.kind != Hit::Kind::end || !session_.lanes().contains(at.lane)) { // several may be about to be routed
        session_.choose(at.lane, at.kind == Hit::Kind::bead ? at.block : QString());
    }
}

// A lane, or all of its group.
void WeaveView::chooseWithGroup(const QString& lane) {
    for (const auto& g : layout_.groups)
        if (std::find(g.lanes.begin(), g.lanes.end(), lane.toStdString()) != g.lanes.end()) {
            QStringList lanes;
            for (const auto& id : g.lanes)
                lanes.prepend(q(id)); // the first is the one that the deck shows
            return session_.chooseLanes(lanes);
        }
    session_.choose(lane);
}

void WeaveView::toggleLane(const QString& lane) {
    QStringList lanes = session_.lanes();
    if (!lanes.removeOne(lane))
        lanes << lane;
    session_.chooseLanes(lanes);
}

// All lanes from the first chosen one to this, in the order they lie in.
void WeaveView::chooseUpTo(const QString& lane) {
    const QStringList order = laneOrder();
    const auto from = order.indexOf(session_.lanes().isEmpty() ? lane : session_.lanes().first()),
               to = order.indexOf(lane);
    if (from < 0 || to < 0)
        return session_.choose(lane);
    QStringList lanes;
    for (auto i = from; i != to; i += to > from ? 1 : -1)
        lanes << order[i];
    session_.chooseLanes(lanes << lane);
}

void WeaveView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton)) {
        pointed_ = hit(e->position());
        hover_ = pointed_.port;
        hoverAt_ = e->position();
        flagGone_.start(6000); // a level that is looked at for longer has its place on a pin
        setToolTip(toolTipAt(pointed_));
        return update();
    }
    if (!dragging_ && (e->position() - pressAt_).manhattanLength() < px(5))
        return;
    if (press_.kind == Hit::Kind::knot && pressLevel_ > -80) {
        const double fine = e->modifiers() & Qt::ShiftModifier ? 0.05 : 0.25;
        const double level = std::round((pressLevel_ + (pressAt_.y() - e->position().y()) / px(1) * fine) * 10) / 10;
        std::map<std::string, double> all; // what is folded into this row moves together
        for (const int in : bundle(press_.block, press_.in))
            all[(press_.block + QString(".%1.%2").arg(in + 1).arg(press_.out + 1)).toStdString()] =
                qBound(-79.5, level, 12.0);
        if (all.size() == 1)
            session_.set(press_.block, QString("%1.%2").arg(press_.in + 1).arg(press_.out + 1),
                         qBound(-79.5, level, 12.0), dragging_);
        else
            session_.setAll(all, "Set levels", dragging_);
    }
    dragging_ = true;
    dragAt_ = e->position();
    update();
}

void WeaveView::mouseReleaseEvent(QMouseEvent* e) {
    const bool dragged = dragging_;
    dragging_ = false;
    session_.endDrag();
    const Hit over = hit(e->position());
    if (press_.kind == Hit::Kind::knot && !dragged && pressLevel_ <= -80) {
        std::map<std::string, double> all;
        for (const int in : bundle(press_.block, press_.in))
            all[(press_.block + QString(".%1.%2").arg(in + 1).arg(press_.out + 1)).toStdString()] = 0;
        session_.setAll(all, "Route");
    }
    if (press_.kind == Hit::Kind::heading && !dragged && e->position().x() < headingX(press_) + px(10))
        foldChosen(!layout_.laneOf(press_.lane.toStdString())->folded);
    if (press_.kind == Hit::Kind::end && !dragged && !(e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier)))
        session_.choose(press_.lane);
    if ((press_.kind == Hit::Kind::bead || press_.kind == Hit::Kind::lane) && dragged)
        dropBeads(over, e->modifiers() & Qt::ControlModifier);
    if (press_.kind == Hit::Kind::end && dragged)
        dropRoute(over, e->modifiers() & Qt::AltModifier);
    press_ = {};
    update();
}

double WeaveView::headingX(const Hit& heading) const {
    for (const auto& g : layout_.groups)
        if (q(g.lanes.front()) == heading.lane && q(g.name) == heading.block)
            return g.kind == engine::Layout::Kind::source
                       ? px(16)
                       : headingRect(g).right() - px(labelWidth + 24 + meterWidth_ + 8);
    return 0;
}

// A bead, or with the lane's name its whole chain, along the lane or to another one.
void WeaveView::dropBeads(const Hit& at, bool copy) {
    const auto* from = layout_.laneOf(press_.lane.toStdString());
    const auto* to = layout_.laneOf(at.lane.toStdString());
    if (!from || at.kind == Hit::Kind::knot)
        return;
    if (press_.kind == Hit::Kind::bead && (!to || to == from)) {
        const int by = static_cast<int>(std::lround((dragAt_.x() - pressAt_.x()) / px(beadWidth_ + beadGap)));
        for (int i = 0; i < std::abs(by); ++i)
            moveChosen(by > 0 ? 1 : -1);
        return;
    }
    if (!to || to == from)
        return;
    std::vector<std::string> beads = from->beads;
    if (press_.kind == Hit::Kind::bead)
        beads = {press_.block.toStdString()};
    if (beads.empty())
        return session_.report("There are no blocks on this lane to move.");
    const double slot = (dragAt_.x() - beadX(*to, 0)) / px(beadWidth_ + beadGap);
    const int place = press_.kind == Hit::Kind::bead ? qBound(0, qRound(slot), static_cast<int>(to->beads.size()))
                                                     : static_cast<int>(to->beads.size());
    const QString lane = q(to->end);
    auto moved = project::moveBeads(layout_, *session_.program(), beads, to->end, place, copy);
    if (!moved)
        return session_.report(q(moved.error().text()));
    if (session_.setProgram(moved->program, QString(copy ? "Copy %1 to %2" : "Move %1 to %2")
                                                .arg(beads.size() == 1 ? nameOf(beads[0]) : QString("a chain"),
                                                     nameOf(lane.toStdString()))))
        session_.choose(lane, q(moved->beads.front()));
}

// Which lane would be routed to which destination if it were let go here: several chosen lanes go to as many
// destinations in order.
std::vector<project::Route> WeaveView::routePairs(const Hit& at) const {
    return project::draggedRoutes(layout_, press_.lane.toStdString(), at.lane.toStdString(), session_.laneIds());
}

void WeaveView::dropRoute(const Hit& at, bool toOne) {
    auto routes = routePairs(at);
    if (routes.empty())
        return;
    if (toOne)
        routes = project::allToOne(layout_, routes, session_.laneIds());
    std::vector<std::string> from, to;
    for (const auto& [a, b] : routes) {
        from.push_back(a);
        to.push_back(b);
    }
    session_.setProgram(toOne ? project::routeAll(*session_.program(), from, {to.front()}, 0)
                              : project::routeInOrder(*session_.program(), from, to, 0),
                        from.size() == 1 ? "Route " + nameOf(from[0]) + " to " + nameOf(to[0])
                                         : QString("Route %1 lanes").arg(from.size()));
}

std::vector<int> WeaveView::bundle(const QString& matrix, int in) const {
    std::vector<int> all;
    if (const auto* h = hub(matrix))
        for (std::size_t i = 0; i < h->inRows.size(); ++i)
            if (h->inRows[i] == h->inRows[static_cast<std::size_t>(in)])
                all.push_back(static_cast<int>(i));
    return all;
}

// What a bead keeps to itself, said when the pointer rests on it.
QString WeaveView::toolTipAt(const Hit& at) const {
    if (at.kind != Hit::Kind::bead)
        return at.kind == Hit::Kind::heading ? QString("Choose the group; the triangle folds it") : QString();
    const auto* b = blockOf(at.block.toStdString());
    if (!b)
        return {};
    QStringList lines{nameOf(b->id)};
    const auto* kind = engine::findKind(b->kind);
    const auto labels = [&](const std::vector<std::string>& params) {
        QStringList all;
        const engine::BlockView view(*b);
        for (const auto& id : params)
            if (const int i = view.table->indexOf(id); i >= 0 && all.size() < 8)
                all << q(view.table->specs()[static_cast<std::size_t>(i)].label);
        return all.join(", ");
    };
    if (kind)
        lines << (b->values.empty() ? QString("as it was made")
                                    : QString("%1 values differ from the default").arg(b->values.size()));
    if (const auto* kept = session_.kept(); kind && kept)
        if (const auto changed = project::changedSince(*b, *kept); !changed.empty())
            lines << "changed since kept: " + labels(changed);
    if (const auto apart = project::apartOf(*b); kind && !apart.empty())
        lines << "apart from the linked lanes: " + labels(apart);
    return lines.join('\n');
}

void WeaveView::wheelEvent(QWheelEvent* e) {
    if (!(e->modifiers() & Qt::ControlModifier))
        return QWidget::wheelEvent(e);
    setZoom(zoom_ * (e->angleDelta().y() > 0 ? 1.1 : 1 / 1.1));
    e->accept();
}

void WeaveView::mouseDoubleClickEvent(QMouseEvent* e) {
    const Hit h = hit(e->position());
    if (h.kind == Hit::Kind::knot) // takes the crossing away again
        session_.set(h.block, QString("%1.%2").arg(h.in + 1).arg(h.out + 1), -80);
}

void WeaveView::leaveEvent(QEvent*) {
    pointed_ = {};
    hover_.reset();
    update();
}

// ---- for assistive programs ----

std::vector<PaintedPart> WeaveView::paintedParts() const {
    std::vector<PaintedPart> parts;
    const auto* program = session_.program();
    if (!program)
        return parts;
    for (const auto& l : layout_.lanes) {
        const auto& end = *blockOf(l.end);
        if (l.isEnd(l.end))
            parts.push_back({q(project::blockName(*program, end)), portText(end), laneRect(q(l.end)),
                             session_.lane() == q(l.end) && session_.block().isEmpty()});
        for (const auto& id : l.beads) {
            const auto& b = *program->find(id);
            const bool known = engine::findKind(b.kind);
            parts.push_back({q(project::blockName(*program, b)),
                             !known                      ? "unknown"
                             : engine::BlockView(b).on() ? "on"
                                                         : "off",
                             beadRect(q(id)), session_.block() == q(id)});
        }
    }
    for (const auto& h : layout_.hubs) {
        const auto& b = *program->find(h.block);
        parts.push_back({q(project::blockName(*program, b)), {}, hubRect(h), session_.lane() == q(h.block)});
    }
    return parts;
}

void WeaveView::choosePart(int index) {
    const auto parts = paintedParts();
    if (index < 0 || index >= static_cast<int>(parts.size()))
        return;
    int at = 0;
    for (const auto& l : layout_.lanes) { // in the order of paintedParts()
        if (l.isEnd(l.end) && at++ == index)
            return session_.choose(q(l.end));
        for (const auto& id : l.beads)
            if (at++ == index)
                return session_.choose(q(l.end), q(id));
    }
    session_.choose(q(layout_.hubs[static_cast<std::size_t>(index - at)].block));
}

// ---- keys ----

bool WeaveView::event(QEvent* e) {
    if (e->type() == QEvent::KeyPress) {
        auto* k = static_cast<QKeyEvent*>(e);
        if (k->key() == Qt::Key_Tab || k->key() == Qt::Key_Backtab) {
            stepLane(k->key() == Qt::Key_Tab ? 1 : -1);
            return true;
        }
    }
    return QWidget::event(e);
}

// Walking only; what is done by keys stands with the commands (weave_stage.cpp).
void WeaveView::keyPressEvent(QKeyEvent* e) {
    const bool shift = e->modifiers() & Qt::ShiftModifier;
    switch (e->key()) {
    case Qt::Key_Down:
        return stepLane(1, shift);
    case Qt::Key_Up:
        return stepLane(-1, shift);
    case Qt::Key_Left:
        return stepBead(-1);
    case Qt::Key_Right:
        return stepBead(1);
    case Qt::Key_Escape: // what hangs at the pointer or lies over the picture first
        if (bridgeFrom_ || trace_) {
            bridgeFrom_.reset();
            trace_.reset();
            emit session_.atWorkChanged();
            return update();
        }
        return session_.choose({});
    default:
        QWidget::keyPressEvent(e);
    }
}

QStringList WeaveView::laneOrder() const {
    QStringList order;
    // From left to right: sources, inner lanes and hubs by column, destinations; of a folded group its first lane.
    std::set<std::string> folded;
    const auto add = [&](engine::Layout::Kind kind, int gap) {
        for (const auto& l : layout_.lanes)
            if (l.kind == kind && (kind != engine::Layout::Kind::inner || l.gap == gap) &&
                !(l.folded && !folded.insert(l.group).second))
                order << q(l.end);
    };
    add(engine::Layout::Kind::source, 0);
    for (int c = 0; c <= layout_.columns; ++c) {
        add(engine::Layout::Kind::inner, c);
        for (const auto& h : layout_.hubs)
            if (h.column == c)
                order << q(h.block);
    }
    folded.clear();
    add(engine::Layout::Kind::destination, 0);
    return order;
}

void WeaveView::stepLane(int by, bool further) {
    const QStringList order = laneOrder();
    if (order.isEmpty())
        return;
    const auto at = order.indexOf(session_.lane());
    const auto next = at < 0 ? (by > 0 ? 0 : order.size() - 1) : (at + by + order.size()) % order.size();
    const auto* lane = layout_.laneOf(order[next].toStdString());
    further                ? chooseUpTo(order[next])
    : lane && lane->folded ? chooseWithGroup(order[next])
                           : session_.choose(order[next]);
}

void WeaveView::stepBead(int by) {
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    if (!lane)
        return;
    int at = -1;
    for (std::size_t i = 0; i < lane->beads.size(); ++i)
        if (q(lane->beads[i]) == session_.block())
            at = static_cast<int>(i);
    const int least = lane->kind == engine::Layout::Kind::inner ? 0 : -1; // an inner lane is its beads
    at = qBound(least, at + by, static_cast<int>(lane->beads.size()) - 1);
    session_.choose(q(lane->end), at < 0 ? QString() : q(lane->beads[static_cast<std::size_t>(at)]));
}

} // namespace loom::app
