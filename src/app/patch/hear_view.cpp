#include "app/patch/hear_view.h"
#include "app/patch/hear_measures.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QDropEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainterPath>
#include <QPainterPathStroker>
#include <QScrollBar>
#include <algorithm>

namespace loom::app {

using namespace project;

HearView::HearView(PatchState& state, PatchEar& ear, QWidget* parent)
    : QAbstractScrollArea(parent), state_(state), ear_(ear) {
    setObjectName("hears");
    setAccessibleName("Who hears whom");
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    viewport()->setMouseTracking(true);
    const auto again = [this] {
        if (!isVisible())
            return;
        place();
        viewport()->update();
    };
    connect(&state, &PatchState::changed, this, again);
    connect(&state, &PatchState::chosen, this, again);
    connect(&ear, &PatchEar::levels, this, [this] {
        if (isVisible())
            viewport()->update();
    });
    setAcceptDrops(true);
    viewport()->setAcceptDrops(true);
    connect(verticalScrollBar(), &QScrollBar::valueChanged, viewport(), qOverload<>(&QWidget::update));
    connect(&Theme::get(), &Theme::changed, this, again);
}

double HearView::top() const {
    return verticalScrollBar()->value();
}

const Device& HearView::device(int n) const {
    return state_.project().devices[static_cast<std::size_t>(n)];
}

QColor HearView::colourOf(int n) const {
    const auto* room = state_.project().room(device(n).room);
    return room ? Theme::get().thread(q(room->colour)) : Theme::get().thread("walnut");
}

// Where everything lies, from the top of all; the reed stays in view.
void HearView::place() {
    const auto& board = state_.board();
    const double wide = viewport()->width(), side = std::clamp(wide * 0.27, px(200), px(310)), left = px(14);
    offers_.clear();
    takers_.clear();
    double y = px(hearTop);
    for (const auto& d : board.offers) {
        Place at;
        at.head = {left, y, side, px(hearHead)};
        double rowY = at.head.bottom();
        for (const auto& row : d.rows) {
            const bool open = state_.isChosen(row.key) && row.ports.size() > 1;
            const double high = px(hearRow) + (open ? px(hearStep + 4) * std::ceil(row.ports.size() / 12.0) : 0);
            at.parts.push_back({left, rowY, side, high});
            rowY += high;
        }
        at.card = {left, y, side, rowY - y + px(4)};
        offers_.push_back(std::move(at));
        y = offers_.back().card.bottom() + px(hearGap);
    }
    double high = y;
    y = px(hearTop);
    const double right = wide - side - px(14);
    // As many as fit into the card, but no more than a rack unit's worth in a row.
    const int across = std::clamp(static_cast<int>((side - px(20)) / px(hearStep)), 4, hearAcross);
    for (const auto& d : board.takers) {
        Place at;
        at.head = {right, y, side, px(hearHead)};
        const int n = static_cast<int>(d.inputs.size()), lines = (n + across - 1) / across;
        for (int s = 0; s < n; ++s) {
            const int line = s / across;
            at.parts.push_back({right + px(12) + (s % across) * px(hearStep),
                                at.head.bottom() + line * px(hearStep + 1), px(hearSlot), px(hearSlot)});
        }
        at.card = {right, y, side, px(hearHead) + lines * px(hearStep + 1) + px(d.why.empty() ? hearFoot : 2)};
        takers_.push_back(std::move(at));
        y = takers_.back().card.bottom() + px(hearGap);
    }
    high = std::max(high, y);
    verticalScrollBar()->setRange(0, std::max(0, static_cast<int>(high) - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(static_cast<int>(px(hearRow)));

    // A dent for each stream or lead that is on its way.
    reed_ = {wide / 2 - px(46), px(30), px(92), std::max(px(80), viewport()->height() - px(44))};
    dents_.assign(board.threads.size(), -1);
    dentList_.clear();
    std::map<std::pair<int, int>, int> dentAt;
    for (std::size_t t = 0; t < board.threads.size(); ++t)
        if (const auto& one = board.threads[t]; one.from >= 0)
            if (const auto [it, fresh] = dentAt.try_emplace({one.from, one.row}, static_cast<int>(dentAt.size()));
                fresh)
                dentList_.push_back({0, {}});
    int next = 0;
    for (auto& [key, number] : dentAt) { // in the order of the rows
        number = next;
        dentList_[static_cast<std::size_t>(next)] = {
            key.first, colourOf(board.offers[static_cast<std::size_t>(key.first)].device)};
        ++next;
    }
    for (std::size_t t = 0; t < board.threads.size(); ++t)
        if (const auto& one = board.threads[t]; one.from >= 0)
            dents_[t] = dentAt.at({one.from, one.row});
    carried_ = static_cast<int>(dentList_.size());
    capacity_ = carried_;
    if (state_.filter().transport == Transport::network)
        capacity_ = std::max(carried_, state_.network().most);
}

double HearView::dentOf(int dent) const {
    const double from = reed_.top() + px(38), high = reed_.height() - px(60);
    const double step = std::min(px(11.3), high / std::max(1, capacity_));
    return from + (dent + 0.5) * step;
}

// ---- where something is ----

QRectF HearView::rowRect(const std::string& key) const {
    const auto& board = state_.board();
    for (std::size_t n = 0; n < std::min(offers_.size(), board.offers.size()); ++n)
        for (std::size_t r = 0; r < board.offers[n].rows.size(); ++r)
            if (board.offers[n].rows[r].key == key)
                return offers_[n].parts[r].translated(0, -top());
    return {};
}

QRectF HearView::channelRect(const std::string& key, int channel) const {
    const QRectF row = rowRect(key);
    if (row.isEmpty() || row.height() <= px(hearRow) + 1)
        return {};
    const int line = channel / 12;
    return {row.left() + px(16) + (channel % 12) * px(hearStep + 4), row.top() + px(hearRow) + line * px(hearStep + 4),
            px(hearSlot + 4), px(hearSlot)};
}

QRectF HearView::offersRect(const std::string& id) const {
    const auto& board = state_.board();
    for (std::size_t n = 0; n < std::min(offers_.size(), board.offers.size()); ++n)
        if (device(board.offers[n].device).id == id)
            return offers_[n].head.translated(0, -top());
    return {};
}

QRectF HearView::takerRect(const std::string& id) const {
    const auto& board = state_.board();
    for (std::size_t n = 0; n < std::min(takers_.size(), board.takers.size()); ++n)
        if (device(board.takers[n].device).id == id)
            return takers_[n].head.translated(0, -top());
    return {};
}

QRectF HearView::slotRect(const std::string& id, const std::string& port) const {
    const auto& board = state_.board();
    for (std::size_t n = 0; n < std::min(takers_.size(), board.takers.size()); ++n)
        if (device(board.takers[n].device).id == id)
            for (std::size_t s = 0; s < board.takers[n].inputs.size(); ++s)
                if (board.takers[n].inputs[s].port == port)
                    return takers_[n].parts[s].translated(0, -top());
    return {};
}

HearView::Hit HearView::hitAt(const QPointF& at) const {
    const auto& board = state_.board();
    const QPointF p = at + QPointF(0, top());
    Hit hit;
    for (std::size_t n = 0; n < std::min(takers_.size(), board.takers.size()); ++n)
        if (takers_[n].card.contains(p)) {
            hit.taker = static_cast<int>(n);
            for (std::size_t s = 0; s < takers_[n].parts.size(); ++s)
                if (takers_[n].parts[s].adjusted(-px(1.5), -px(2), px(1.5), px(2)).contains(p))
                    hit.slot = static_cast<int>(s);
            return hit;
        }
    for (std::size_t n = 0; n < std::min(offers_.size(), board.offers.size()); ++n)
        if (offers_[n].card.adjusted(0, 0, px(10), 0).contains(p)) {
            hit.offers = static_cast<int>(n);
            for (std::size_t r = 0; r < offers_[n].parts.size(); ++r)
                if (p.y() >= offers_[n].parts[r].top() && p.y() < offers_[n].parts[r].bottom()) {
                    hit.row = static_cast<int>(r);
                    const auto& row = board.offers[n].rows[r];
                    for (int c = 0; c < static_cast<int>(row.ports.size()); ++c)
                        if (channelRect(row.key, c).contains(at))
                            hit.channel = c;
                }
            return hit;
        }
    QPainterPathStroker wide;
    wide.setWidth(px(7));
    for (std::size_t t = 0; t < board.threads.size(); ++t)
        if (dents_[t] >= 0 && inSight(board.threads[t])) {
            const auto path = pathOf(board.threads[t], dentOf(dents_[t]));
            if (path.boundingRect().adjusted(-4, -4, 4, 4).contains(at) && wide.createStroke(path).contains(at))
                hit.thread = static_cast<int>(t);
        }
    return hit;
}

QPointF HearView::rowEnd(const BoardThread& t) const {
    if (t.from < 0)
        return {};
    const auto& r = offers_[static_cast<std::size_t>(t.from)].parts[static_cast<std::size_t>(t.row)];
    return {r.right(), r.top() + px(hearRow / 2) - top()};
}

QPointF HearView::takerEnd(const BoardThread& t) const {
    const auto& at = takers_[static_cast<std::size_t>(t.to)];
    return {at.card.left(), (at.parts.empty() ? at.head.center().y() : at.parts[0].center().y()) - top()};
}

QPainterPath HearView::pathOf(const BoardThread& t, double dent) const {
    const QPointF a = rowEnd(t) + QPointF(px(6), 0), b{reed_.left(), dent}, c{reed_.right(), dent}, d = takerEnd(t);
    const auto curve = [](QPainterPath& path, QPointF from, QPointF to) {
        const double bend = (to.x() - from.x()) * 0.5;
        path.cubicTo(from + QPointF(bend, 0), to - QPointF(bend, 0), to);
    };
    QPainterPath path(a);
    curve(path, a, b);
    path.lineTo(c);
    curve(path, c, d);
    return path;
}

bool HearView::inSight(const BoardThread& t) const {
    const auto seen = [this](double y) { return y >= 0 && y <= viewport()->height(); };
    return seen(rowEnd(t).y()) || seen(takerEnd(t).y());
}

bool HearView::lit(const BoardThread& t) const {
    const auto& board = state_.board();
    if (!state_.thread().empty())
        return t.receiver == state_.thread() || (t.receiver.empty() && t.lead == state_.thread());
    if (!state_.taker().empty())
        return device(board.takers[static_cast<std::size_t>(t.to)].device).id == state_.taker();
    return t.from >= 0 &&
           state_.isChosen(board.offers[static_cast<std::size_t>(t.from)].rows[static_cast<std::size_t>(t.row)].key);
}

// ---- the hand ----

void HearView::resizeEvent(QResizeEvent*) {
    place();
    viewport()->update();
}

void HearView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    drag_ = {};
    const auto& board = state_.board();
    const Hit hit = hitAt(e->position());
    const bool more = e->modifiers() & Qt::ControlModifier;
    if (hit.row >= 0) {
        const auto& key =
            board.offers[static_cast<std::size_t>(hit.offers)].rows[static_cast<std::size_t>(hit.row)].key;
        drag_.from = hit;
        drag_.start = e->position();
        if (more || !state_.isChosen(key))
            state_.chooseRow(key, more);
        else if (e->button() == Qt::LeftButton && hit.channel < 0 && !state_.thread().empty())
            state_.chooseRow(key);
    } else if (hit.offers >= 0) {
        drag_.from = hit;
        drag_.start = e->position();
    } else if (hit.taker >= 0) {
        const auto& d = board.takers[static_cast<std::size_t>(hit.taker)];
        const int thread = hit.slot < 0 ? -1 : d.inputs[static_cast<std::size_t>(hit.slot)].thread;
        const std::string slot = hit.slot < 0 ? "" : d.inputs[static_cast<std::size_t>(hit.slot)].port;
        if (thread >= 0)
            state_.chooseThread(board.threads[static_cast<std::size_t>(thread)], slot);
        else
            state_.chooseTaker(device(d.device).id);
    } else if (hit.thread >= 0) {
        state_.chooseThread(board.threads[static_cast<std::size_t>(hit.thread)]);
    } else {
        state_.chooseRow("");
    }
}

void HearView::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    if (e->buttons() & Qt::LeftButton && drag_.from.offers >= 0) {
        drag_.on = drag_.on || (e->position() - drag_.start).manhattanLength() > px(6);
        drag_.now = e->position();
        viewport()->update();
        return;
    }
    const Hit hit = hitAt(e->position());
    int thread = hit.thread;
    if (hit.slot >= 0)
        thread = state_.board()
                     .takers[static_cast<std::size_t>(hit.taker)]
                     .inputs[static_cast<std::size_t>(hit.slot)]
                     .thread;
    point(hit);
    if (std::exchange(hovered_, thread) != thread || thread >= 0 || pointed_)
        viewport()->update();
}

// What is under the pointer has its spectrum shown.
void HearView::point(const Hit& hit) {
    const auto& board = state_.board();
    pointed_.reset();
    if (hit.slot >= 0) {
        const auto& taker = board.takers[static_cast<std::size_t>(hit.taker)];
        const auto& slot = taker.inputs[static_cast<std::size_t>(hit.slot)];
        if (slot.thread >= 0)
            pointed_ = PatchEar::Place{device(taker.device).id, slot.port, true};
    } else if (hit.row >= 0) {
        const auto& offers = board.offers[static_cast<std::size_t>(hit.offers)];
        const auto& row = offers.rows[static_cast<std::size_t>(hit.row)];
        if (const auto n = static_cast<std::size_t>(std::max(hit.channel, 0)); n < row.ports.size())
            pointed_ = PatchEar::Place{device(offers.device).id, row.ports[n], false};
    }
    ear_.look(ear_.knows() ? pointed_ : std::nullopt);
}

void HearView::mouseReleaseEvent(QMouseEvent* e) {
    const auto drag = std::exchange(drag_, {});
    viewport()->update();
    if (!drag.on)
        return;
    const auto& board = state_.board();
    const Hit to = hitAt(e->position());
    if (to.taker < 0)
        return;
    const auto& taker = board.takers[static_cast<std::size_t>(to.taker)];
    const std::string device_ = device(taker.device).id,
                      slot = to.slot < 0 ? "" : taker.inputs[static_cast<std::size_t>(to.slot)].port;
    const auto& offers = board.offers[static_cast<std::size_t>(drag.from.offers)];
    if (drag.from.row < 0) {
        state_.sendAll(device(offers.device).id, device_);
        return;
    }
    const auto& row = offers.rows[static_cast<std::size_t>(drag.from.row)];
    if (drag.from.channel >= 0 && slot.empty())
        state_.session().report("Drop a single channel onto an input.");
    else if (drag.from.channel >= 0)
        state_.sendChannel(row.key, drag.from.channel, device_, slot);
    else
        state_.send(device_, slot);
}

void HearView::leaveEvent(QEvent*) {
    point({});
    hovered_ = -1;
    viewport()->update();
}

void HearView::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls() || e->mimeData()->hasText())
        e->acceptProposedAction();
}

void HearView::dragMoveEvent(QDragMoveEvent* e) {
    e->acceptProposedAction();
}

// A description of a stream, as a file or as text.
void HearView::dropEvent(QDropEvent* e) {
    const auto urls = e->mimeData()->urls();
    emit wantsDescription(urls.isEmpty() ? QString() : urls[0].toLocalFile(), e->mimeData()->text());
}

void HearView::contextMenuEvent(QContextMenuEvent* e) {
    emit wantsMenu(e->globalPos());
}

// Up and down go through the rows, or through what the chosen device hears; right and left change the side.
void HearView::keyPressEvent(QKeyEvent* e) {
    switch (e->key()) {
    case Qt::Key_Up:
        return move(-1);
    case Qt::Key_Down:
        return move(1);
    case Qt::Key_Right:
        if (state_.taker().empty() && !state_.board().takers.empty()) {
            for (const auto& t : state_.board().threads) // to who hears it
                if (lit(t))
                    return state_.chooseThread(t);
            state_.chooseTaker(device(state_.board().takers[0].device).id);
        }
        return;
    case Qt::Key_Left:
        if (!state_.rows().empty())
            state_.chooseRow(std::string(state_.rows().back()));
        else if (!state_.board().offers.empty() && !state_.board().offers[0].rows.empty())
            state_.chooseRow(state_.board().offers[0].rows[0].key);
        return;
    case Qt::Key_Escape:
        return state_.chooseRow("");
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_Greater:
        emit wantsPhrase();
        return;
    default:
        QAbstractScrollArea::keyPressEvent(e);
    }
}

void HearView::move(int by) {
    const auto& board = state_.board();
    const auto step = [&](int at, int count) {
        return at < 0 ? (by > 0 ? 0 : count - 1) : std::clamp(at + by, 0, count - 1);
    };
    if (!state_.taker().empty()) { // threads that arrive, in the order of the devices
        int at = -1;
        for (std::size_t t = 0; t < board.threads.size(); ++t)
            if (lit(board.threads[t]) && (at < 0 || !state_.thread().empty()))
                at = static_cast<int>(t);
        if (!board.threads.empty()) {
            const auto& t = board.threads[static_cast<std::size_t>(step(at, static_cast<int>(board.threads.size())))];
            state_.chooseThread(t);
            bring(takers_[static_cast<std::size_t>(t.to)].card);
        }
        return;
    }
    std::vector<std::pair<std::string, QRectF>> rows;
    int at = -1;
    for (std::size_t n = 0; n < board.offers.size(); ++n)
        for (std::size_t r = 0; r < board.offers[n].rows.size(); ++r) {
            if (!state_.rows().empty() && board.offers[n].rows[r].key == state_.rows().back())
                at = static_cast<int>(rows.size());
            rows.emplace_back(board.offers[n].rows[r].key, offers_[n].parts[r]);
        }
    if (rows.empty())
        return;
    const auto& [key, rect] = rows[static_cast<std::size_t>(step(at, static_cast<int>(rows.size())))];
    state_.chooseRow(key);
    bring(rect);
}

void HearView::bring(const QRectF& r) {
    auto* bar = verticalScrollBar();
    if (r.top() - px(hearTop) < bar->value())
        bar->setValue(static_cast<int>(r.top() - px(hearTop)));
    else if (r.bottom() > bar->value() + viewport()->height())
        bar->setValue(static_cast<int>(r.bottom() - viewport()->height()));
}

// ---- for assistive programs ----

std::vector<PaintedPart> HearView::paintedParts() const {
    const auto& board = state_.board();
    std::vector<PaintedPart> all;
    for (std::size_t n = 0; n < std::min(offers_.size(), board.offers.size()); ++n)
        for (std::size_t r = 0; r < board.offers[n].rows.size(); ++r) {
            const auto& row = board.offers[n].rows[r];
            all.push_back({q(device(board.offers[n].device).name + " \u00b7 " + row.name),
                           QString("%1 channels, heard by %2").arg(row.ports.size()).arg(row.heard),
                           offers_[n].parts[r].translated(0, -top()), state_.isChosen(row.key)});
        }
    for (std::size_t n = 0; n < std::min(takers_.size(), board.takers.size()); ++n) {
        const auto& d = board.takers[n];
        all.push_back({q(device(d.device).name),
                       d.why.empty() ? QString("%1 of %2 inputs taken").arg(d.used).arg(d.inputs.size()) : q(d.why),
                       takers_[n].card.translated(0, -top()), state_.taker() == device(d.device).id});
    }
    return all;
}

void HearView::choosePart(int index) {
    const auto& board = state_.board();
    for (const auto& d : board.offers)
        for (const auto& row : d.rows)
            if (index-- == 0)
                return state_.chooseRow(row.key);
    if (index >= 0 && index < static_cast<int>(board.takers.size()))
        state_.chooseTaker(device(board.takers[static_cast<std::size_t>(index)].device).id);
}

} // namespace loom::app
