#include "app/weave/weave_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/insert_field.h"
#include "app/weave/weave_measure.h"
#include "project/catalogue.h"
#include "project/findings.h"
#include "project/lane_edit.h"
#include "project/phrase.h"
#include "project/program_edit.h"
#include <QAccessible>
#include <QClipboard>
#include <QGuiApplication>
#include <QInputDialog>
#include <QMouseEvent>

namespace loom::app {

using namespace weave;

WeaveView::WeaveView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("weave");
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName("Weave: signal flow");
    connect(&session, &Session::changed, this, [this](const project::Change& c) {
        if (c.kind != project::Change::Kind::value)
            relayOut();
        update();
    });
    connect(&session, &Session::chosen, this, [this] {
        announce();
        update();
    });
    connect(&Theme::get(), &Theme::changed, this, &WeaveView::relayOut);
    relayOut();
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
    if (const auto it = b->texts.find("colour"); it != b->texts.end())
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
    update();
}

// ---- pointing ----

WeaveView::Hit WeaveView::hit(QPointF at) const {
    Hit h;
    const auto* program = session_.program();
    if (!program)
        return h;
    for (const auto& hub : layout_.hubs)
        if (program->find(hub.block)->kind == "matrix")
            for (std::size_t i = 0; i < hub.inRows.size(); ++i)
                for (std::size_t o = 0; o < hub.outRows.size(); ++o)
                    if (QLineF(crossing(q(hub.block), static_cast<int>(i), static_cast<int>(o)), at).length() < px(11))
                        return {Hit::Kind::knot,     q(hub.block),
                                q(hub.block),        static_cast<int>(i),
                                static_cast<int>(o), engine::PortRef{hub.block, static_cast<int>(o)}};
    for (const auto& l : layout_.lanes) {
        const QString end = q(l.end);
        if (QLineF(endPoint(end), at).length() < px(11))
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
    if (e->modifiers() & Qt::ControlModifier)
        toggleLane(press_.lane);
    else if (e->modifiers() & Qt::ShiftModifier)
        chooseUpTo(press_.lane);
    else
        session_.choose(press_.lane, press_.kind == Hit::Kind::bead ? press_.block : QString());
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

// All sources, or all destinations if the chosen lane is one.
void WeaveView::chooseAll() {
    const auto* chosen = layout_.laneOf(session_.lane().toStdString());
    QStringList lanes;
    for (const auto& l : layout_.lanes)
        if (l.source() == (!chosen || chosen->source()))
            lanes << q(l.end);
    session_.chooseLanes(lanes);
}

void WeaveView::copyLane() {
    const auto text = project::copyChain(layout_, *session_.program(), session_.lane().toStdString());
    if (text.empty())
        return session_.report("There are no blocks on this lane to copy.");
    QGuiApplication::clipboard()->setText(q(text));
    session_.report("Copied: Ctrl+V puts the chain on the chosen lanes, Ctrl+Shift+V its settings only.", false);
}

void WeaveView::paste(bool settingsOnly) {
    const auto chain = project::readChain(QGuiApplication::clipboard()->text().toStdString());
    if (!chain)
        return session_.report(q(chain.trouble().text()));
    const auto lanes = session_.laneIds();
    session_.setProgram(
        settingsOnly ? project::pasteSettings(layout_, *session_.program(), lanes, *chain)
                     : project::pasteChain(layout_, *session_.program(), lanes, *chain),
        QString(settingsOnly ? "Paste settings on %1 lanes" : "Paste a chain on %1 lanes").arg(lanes.size()));
}

void WeaveView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton)) {
        pointed_ = hit(e->position());
        hover_ = pointed_.port;
        hoverAt_ = e->position();
        return update();
    }
    if (!dragging_ && (e->position() - pressAt_).manhattanLength() < px(5))
        return;
    if (press_.kind == Hit::Kind::knot && pressLevel_ > -80) {
        const double fine = e->modifiers() & Qt::ShiftModifier ? 0.05 : 0.25;
        const double level = std::round((pressLevel_ + (pressAt_.y() - e->position().y()) / px(1) * fine) * 10) / 10;
        session_.set(press_.block, QString("%1.%2").arg(press_.in + 1).arg(press_.out + 1), qBound(-79.5, level, 12.0),
                     dragging_);
    }
    dragging_ = true;
    dragAt_ = e->position();
    update();
}

void WeaveView::mouseReleaseEvent(QMouseEvent* e) {
    const bool dragged = dragging_;
    dragging_ = false;
    session_.endDrag();
    if (press_.kind == Hit::Kind::knot && !dragged && pressLevel_ <= -80)
        session_.set(press_.block, QString("%1.%2").arg(press_.in + 1).arg(press_.out + 1), 0);
    if (press_.kind == Hit::Kind::bead && dragged) {
        const double places = (e->position().x() - pressAt_.x()) / px(beadWidth + beadGap);
        const int by = static_cast<int>(std::lround(places));
        for (int i = 0; i < std::abs(by); ++i)
            moveChosen(by > 0 ? 1 : -1);
    }
    if (press_.kind == Hit::Kind::end && dragged) {
        const Hit to = hit(e->position());
        const auto* a = layout_.laneOf(press_.lane.toStdString());
        const auto* b = to.lane.isEmpty() ? nullptr : layout_.laneOf(to.lane.toStdString());
        if (a && b && a->source() != b->source()) {
            const auto& from = a->source() ? *a : *b;
            const auto& dest = a->source() ? *b : *a;
            const auto* p = session_.program();
            session_.setProgram(project::route(*p, from.end, dest.end),
                                "Route " + q(p->find(from.end)->label) + " to " + q(p->find(dest.end)->label));
        }
    }
    press_ = {};
    update();
}

void WeaveView::mouseDoubleClickEvent(QMouseEvent* e) {
    const Hit h = hit(e->position());
    if (h.kind == Hit::Kind::knot) // takes the crossing away again
        session_.set(h.block, QString("%1.%2").arg(h.in + 1).arg(h.out + 1), -80);
}

bool WeaveView::flipMute(const QString& block, const QString& param) {
    const auto* b = session_.program()->find(block.toStdString());
    if (!b || !engine::findKind(b->kind) || engine::BlockView(*b).table->indexOf(param.toStdString()) < 0)
        return false;
    session_.set(block, param, engine::BlockView(*b).look()[param.toStdString()] >= 0.5 ? 0 : 1);
    return true;
}

// What is pointed at in a weave, or the chosen bead; a chosen lane: where it enters or leaves a matrix mixer.
void WeaveView::muteChosen() {
    if (pointed_.kind == Hit::Kind::knot)
        return void(flipMute(pointed_.block, QString("%1.%2.mute").arg(pointed_.in + 1).arg(pointed_.out + 1)));
    if (!session_.block().isEmpty() && flipMute(session_.block(), "mute"))
        return;
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    for (const auto& t : session_.program()->threads)
        if (lane && lane->source() && t.from == lane->open &&
            flipMute(q(t.to.block), QString("in.%1.mute").arg(t.to.port + 1)))
            return;
    const auto* into = lane && !lane->source() ? session_.program()->into(lane->open) : nullptr;
    if (!into || !flipMute(q(into->from.block), QString("out.%1.mute").arg(into->from.port + 1)))
        session_.report("Nothing to mute there: point at a crossing, or choose a level or a lane of a matrix mixer.");
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
        const auto& end = *program->find(l.end);
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
        if (at++ == index)
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

void WeaveView::keyPressEvent(QKeyEvent* e) {
    const bool control = e->modifiers() & Qt::ControlModifier;
    switch (e->key()) {
    case Qt::Key_Down:
    case Qt::Key_Up:
        stepLane(e->key() == Qt::Key_Down ? 1 : -1, e->modifiers() & Qt::ShiftModifier);
        break;
    case Qt::Key_Left:
        control ? moveChosen(-1) : stepBead(-1);
        break;
    case Qt::Key_Right:
        control ? moveChosen(1) : stepBead(1);
        break;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        removeChosen();
        break;
    case Qt::Key_Slash:
        insertBlock();
        break;
    case Qt::Key_Greater: // "> ceiling*"
        insertBlock("> ");
        break;
    case Qt::Key_A:
        control ? chooseAll() : QWidget::keyPressEvent(e);
        break;
    case Qt::Key_C:
        control ? copyLane() : QWidget::keyPressEvent(e);
        break;
    case Qt::Key_V:
        control ? paste(e->modifiers() & Qt::ShiftModifier) : QWidget::keyPressEvent(e);
        break;
    case Qt::Key_M:
        muteChosen();
        break;
    case Qt::Key_F2:
        renameLane();
        break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        emit wantsDeck();
        break;
    case Qt::Key_Space:
        emit wantsListen();
        break;
    case Qt::Key_Escape:
        session_.choose({});
        break;
    default:
        QWidget::keyPressEvent(e);
    }
}

QStringList WeaveView::laneOrder() const {
    QStringList order;
    for (const auto& l : layout_.lanes)
        if (l.source())
            order << q(l.end);
    for (const auto& h : layout_.hubs)
        order << q(h.block);
    for (const auto& l : layout_.lanes)
        if (!l.source())
            order << q(l.end);
    return order;
}

void WeaveView::stepLane(int by, bool further) {
    const QStringList order = laneOrder();
    if (order.isEmpty())
        return;
    const auto at = order.indexOf(session_.lane());
    const auto next = at < 0 ? (by > 0 ? 0 : order.size() - 1) : (at + by + order.size()) % order.size();
    further ? chooseUpTo(order[next]) : session_.choose(order[next]);
}

void WeaveView::stepBead(int by) {
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    if (!lane)
        return;
    int at = -1;
    for (std::size_t i = 0; i < lane->beads.size(); ++i)
        if (q(lane->beads[i]) == session_.block())
            at = static_cast<int>(i);
    at = qBound(-1, at + by, static_cast<int>(lane->beads.size()) - 1);
    session_.choose(q(lane->end), at < 0 ? QString() : q(lane->beads[static_cast<std::size_t>(at)]));
}

std::optional<engine::PortRef> WeaveView::chosenPort() const {
    if (session_.lane().isEmpty())
        return {};
    if (!session_.block().isEmpty())
        return engine::PortRef{session_.block().toStdString(), 0};
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    if (lane && lane->source())
        return lane->open;
    return engine::PortRef{session_.lane().toStdString(), 0};
}

void WeaveView::insertBlock(const QString& begin) {
    if (!session_.program())
        return session_.report("There is no processor to put a block into. Open a project first.");
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    const QRectF r = lane ? laneRect(session_.lane()) : visibleRegion().boundingRect();
    auto* field = new InsertField(lane != nullptr, this);
    field->move(QPointF(!lane || lane->source() ? sourceX_ + px(40) : destinationX_ - px(60),
                        std::max(0.0, std::min(lane ? r.bottom() : r.top() + px(20), height() - px(240))))
                    .toPoint());
    field->say = [this](const QString& phrase) { return speak(phrase); };
    connect(field, &QObject::destroyed, this, [this] { setFocus(); });
    field->open(begin);
}

// False: it was not understood, and nothing was done.
bool WeaveView::speak(const QString& phrase) {
    const bool one = session_.lanes().size() == 1;
    auto spoken = project::speak(*session_.device(), session_.laneIds(), one ? session_.block().toStdString() : "",
                                 phrase.toStdString());
    if (!spoken) {
        session_.report(q(spoken.trouble().text()));
        return false;
    }
    const QString here = session_.lane();
    if (!session_.setProgram(spoken->program, q(spoken->text)))
        return false;
    QStringList lanes;
    for (const auto& l : spoken->lanes)
        lanes << q(l);
    if (!lanes.isEmpty())
        session_.chooseLanes(lanes);
    else if (!spoken->block.empty())
        session_.choose(here, q(spoken->block));
    return true;
}

// The chosen bead, of every lane that is chosen; or the lanes.
void WeaveView::removeChosen() {
    if (!session_.program() || session_.lane().isEmpty())
        return;
    std::vector<std::string> gone = session_.laneIds();
    if (!session_.block().isEmpty()) {
        gone = project::counterparts(layout_, *session_.program(), gone, session_.block().toStdString());
        gone.push_back(session_.block().toStdString());
    }
    QString text = QString("Remove %1 blocks").arg(gone.size());
    if (gone.size() == 1)
        text = "Remove " + q(project::blockName(*session_.program(), *session_.program()->find(gone[0])));
    Result<engine::Program> p = *session_.program();
    for (const auto& id : gone)
        if (p)
            p = project::removeBlock(*p, id);
    session_.setProgram(p, text);
}

void WeaveView::moveChosen(int by) {
    if (session_.block().isEmpty())
        return;
    const auto& b = *session_.program()->find(session_.block().toStdString());
    session_.setProgram(project::moveBlock(*session_.program(), b.id, by),
                        "Move " + q(project::blockName(*session_.program(), b)));
}

void WeaveView::renameLane() {
    const QString id = session_.block().isEmpty() ? session_.lane() : session_.block();
    const auto* b = session_.program() ? session_.program()->find(id.toStdString()) : nullptr;
    if (!b)
        return;
    const bool several = session_.block().isEmpty() && session_.lanes().size() > 1;
    bool good = false;
    const QString name = QInputDialog::getText(
                             this, "Rename", several ? "Name of the lanes; {n} counts them" : "Name", QLineEdit::Normal,
                             q(project::blockName(*session_.program(), *b)) + (several ? " {n}" : ""), &good)
                             .trimmed()
                             .left(80);
    if (!good || name.isEmpty())
        return;
    session_.setProgram(project::renameBlocks(*session_.program(),
                                              several ? session_.laneIds() : std::vector<std::string>{b->id},
                                              name.toStdString()),
                        "Rename to " + name);
}

} // namespace loom::app
