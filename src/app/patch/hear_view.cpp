#include "app/patch/hear_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPainterPathStroker>
#include <QScrollBar>
#include <algorithm>

namespace loom::app {

using namespace project;

namespace {
constexpr double hearRow = 24, hearHead = 24, hearGap = 8, hearSlot = 14, hearStep = 17, hearFoot = 18, hearTop = 26;
constexpr int hearAcross = 16;
} // namespace

HearView::HearView(PatchState& state, QWidget* parent) : QAbstractScrollArea(parent), state_(state) {
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

// ---- painting ----

void HearView::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(viewport()->rect(), tokens().sheet);
    const auto& board = state_.board();
    if (offers_.size() != board.offers.size() || takers_.size() != board.takers.size() ||
        dents_.size() != board.threads.size())
        place();
    paintReed(p);
    paintThreads(p);
    const QRectF seen = QRectF(viewport()->rect()).translated(0, top());
    p.save();
    p.translate(0, -top());
    for (std::size_t n = 0; n < offers_.size(); ++n)
        if (offers_[n].card.intersects(seen))
            paintOffers(p, n);
    for (std::size_t n = 0; n < takers_.size(); ++n)
        if (takers_[n].card.intersects(seen))
            paintTaker(p, n);
    p.restore();
    // The heads of the two lists.
    const double side = offers_.empty() ? px(300) : offers_[0].card.width();
    const auto head = [&](const QRectF& r, const QString& name, const QString& what) {
        p.fillRect(r.adjusted(-px(8), 0, px(8), 0), tokens().sheet);
        p.setPen(tokens().ink);
        p.setFont(Theme::get().text(12, true));
        p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, name);
        const double wide = p.fontMetrics().horizontalAdvance(name) + px(10);
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().text(10));
        p.drawText(r.adjusted(wide, 0, 0, 0), Qt::AlignRight | Qt::AlignVCenter, what);
    };
    head({px(14), 0, side, px(hearTop - 3)}, "Offered", "channels \u00b7 heard by");
    head({viewport()->width() - side - px(14), 0, side, px(hearTop - 3)}, "Taken", "inputs of each device");
    if (drag_.on) {
        p.setPen(QPen(tokens().saffron, px(2.4)));
        QPainterPath path(drag_.start);
        const double bend = (drag_.now.x() - drag_.start.x()) * 0.5;
        path.cubicTo(drag_.start + QPointF(bend, 0), drag_.now - QPointF(bend, 0), drag_.now);
        p.setBrush(Qt::NoBrush);
        p.drawPath(path);
    }
    paintNote(p);
}

void HearView::paintReed(QPainter& p) {
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().linen);
    p.drawRoundedRect(reed_, px(7), px(7));
    const auto& filter = state_.filter();
    QString name = "All ways", above, below = QString(carried_ == 1 ? "%1 sound" : "%1 sounds").arg(carried_);
    if (filter.transport == Transport::network) {
        const auto& net = state_.network();
        name = "Network";
        int switches = 0;
        for (const auto& d : state_.project().devices)
            if (const auto* m = d.spec(); m && m->bridges) {
                ++switches;
                name = q(d.name.substr(0, d.name.find(" \u00b7 ")));
            }
        if (switches > 1)
            name = QString("%1 switches").arg(switches);
        if (net.busiest)
            above = QString("%1 of %2 Mbit/s")
                        .arg(std::max(net.busiest->there, net.busiest->back), 0, 'f', 0)
                        .arg(net.busiest->megabits, 0, 'f', 0);
        below =
            net.most > 0 ? QString("%1 of %2 flows").arg(net.flows).arg(net.most) : QString("%1 flows").arg(carried_);
    } else if (filter.transport) {
        for (const auto& u : state_.uses())
            if (u.transport == *filter.transport && (filter.ring.empty() || u.name == filter.ring)) {
                name = q(u.name);
                above = QString("%1 of %2 %3")
                            .arg(u.used)
                            .arg(u.most)
                            .arg(u.transport == Transport::ring ? "slots" : "inputs");
            }
    }
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(11, true));
    const auto line = [&](double y, const QString& text) {
        p.drawText(QRectF(reed_.left() - px(20), y, reed_.width() + px(40), px(14)), Qt::AlignCenter, text);
    };
    line(reed_.top() + px(6), name);
    p.setPen(tokens().ink2);
    p.setFont(Theme::get().number(9.5));
    line(reed_.top() + px(21), above);
    line(reed_.bottom() - px(16), below);
    const double wide = reed_.width() - px(28), high = std::clamp(dentOf(1) - dentOf(0) - px(3), 1.0, px(5));
    p.setPen(Qt::NoPen);
    const bool choice = !state_.rows().empty() || !state_.taker().empty();
    std::vector<bool> on(dentList_.size(), !choice);
    const auto& board = state_.board();
    for (std::size_t t = 0; t < board.threads.size() && choice; ++t)
        if (dents_[t] >= 0 && lit(board.threads[t]))
            on[static_cast<std::size_t>(dents_[t])] = true;
    const bool fine = dentOf(1) - dentOf(0) < px(2); // lines side by side: one a pixel
    p.setRenderHint(QPainter::Antialiasing, !fine);
    int painted = -1;
    for (int n = 0; n < capacity_; ++n) {
        const bool lit = n < carried_ && on[static_cast<std::size_t>(n)];
        const int row = static_cast<int>(dentOf(n));
        if (fine && row == painted && !(choice && lit))
            continue;
        painted = row;
        QColor c = n < carried_ ? dentList_[static_cast<std::size_t>(n)].second : tokens().hair;
        if (n < carried_ && !lit)
            c.setAlphaF(0.4f);
        if (fine) {
            p.fillRect(QRectF(reed_.center().x() - wide / 2, row, wide, 1), c);
            continue;
        }
        p.setBrush(c);
        p.drawRoundedRect(QRectF(reed_.center().x() - wide / 2, dentOf(n) - high / 2, wide, high), high / 2, high / 2);
    }
    p.setRenderHint(QPainter::Antialiasing);
}

void HearView::paintThreads(QPainter& p) {
    const auto& board = state_.board();
    const bool choice = !state_.rows().empty() || !state_.taker().empty();
    p.setBrush(Qt::NoBrush);
    for (const bool above : {false, true})
        for (std::size_t t = 0; t < board.threads.size(); ++t) {
            const auto& one = board.threads[t];
            const bool bright = choice && lit(one);
            if (dents_[t] < 0 || bright != above)
                continue;
            if (!bright && !inSight(one))
                continue;
            QColor c = dentList_[static_cast<std::size_t>(dents_[t])].second;
            if (!one.runs)
                c = tokens().caution;
            c.setAlphaF(bright ? 1.0f : choice ? 0.28f : 0.7f);
            QPen pen(c, px(bright || static_cast<int>(t) == hovered_ ? 2.8 : 1.3));
            if (!one.runs)
                pen.setDashPattern({5, 4});
            p.setPen(pen);
            p.drawPath(pathOf(one, dentOf(dents_[t])));
        }
}

void HearView::paintOffers(QPainter& p, std::size_t n) {
    const auto& d = state_.board().offers[n];
    const auto& at = offers_[n];
    const QColor colour = colourOf(d.device);
    const bool choice = !state_.rows().empty() || !state_.taker().empty();
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(at.card, px(4), px(4));
    p.fillRect(QRectF(at.card.left(), at.card.top() + 1, px(4), at.card.height() - 2), colour);
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(12, true));
    const auto words = at.head.adjusted(px(14), px(2), -px(8), 0);
    p.drawText(words, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(q(device(d.device).name), Qt::ElideRight, static_cast<int>(words.width())));
    for (std::size_t r = 0; r < d.rows.size(); ++r) {
        const auto& row = d.rows[r];
        const QRectF full = at.parts[r], box(full.left(), full.top(), full.width(), px(hearRow));
        const bool chosen = state_.isChosen(row.key);
        if (chosen)
            p.fillRect(full.adjusted(px(5), px(1), -px(1), -px(1)), tokens().saffronTint);
        p.setFont(Theme::get().text(10, true));
        const QString heard = row.waits        ? "waits"
                              : row.heard == 1 ? "1 hears it"
                                               : QString("%1 hear it").arg(row.heard);
        const double heardWide = p.fontMetrics().horizontalAdvance(heard) + px(8), countWide = px(40);
        p.setPen(row.waits ? tokens().caution : row.heard ? tokens().ink2 : tokens().ink3);
        p.drawText(box.adjusted(0, 0, -px(14), 0), Qt::AlignRight | Qt::AlignVCenter, heard);
        p.setFont(Theme::get().number(10.5));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(box.right() - px(14) - heardWide - countWide, box.top(), countWide, box.height()),
                   Qt::AlignRight | Qt::AlignVCenter, QString("%1 ch").arg(row.ports.size()));
        p.setFont(Theme::get().number(11, chosen));
        p.setPen(tokens().ink);
        const double nameWide = box.width() - px(30) - heardWide - countWide;
        p.drawText(QRectF(box.left() + px(22), box.top(), nameWide, box.height()), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(q(row.name), Qt::ElideRight, static_cast<int>(nameWide)));
        p.setPen(QPen(chosen ? tokens().saffron : colour, px(1.8)));
        p.setBrush(row.heard && !choice ? colour : tokens().card);
        p.drawEllipse(QPointF(box.right(), box.center().y()), px(4.6), px(4.6));
        if (full.height() > box.height() + 1) // its channels, to be dragged one by one
            for (int c = 0; c < static_cast<int>(row.ports.size()); ++c) {
                const QRectF cell = channelRect(row.key, c).translated(0, top());
                p.setPen(QPen(colour, 1));
                p.setBrush(tokens().card);
                p.drawRoundedRect(cell, px(3), px(3));
                p.setPen(tokens().ink2);
                p.setFont(Theme::get().number(9));
                p.drawText(cell, Qt::AlignCenter, QString::number(c + 1));
            }
    }
}

void HearView::paintTaker(QPainter& p, std::size_t n) {
    const auto& board = state_.board();
    const auto& d = board.takers[n];
    const auto& at = takers_[n];
    const auto& dev = device(d.device);
    const bool chosen = state_.taker() == dev.id;
    const bool choice = !state_.rows().empty() || !state_.taker().empty();
    if (!d.why.empty()) { // not on the transport
        p.setPen(tokens().ink3);
        p.setFont(Theme::get().text(11));
        p.drawText(at.head.adjusted(px(12), 0, -px(8), 0), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(q(dev.name + ": " + d.why), Qt::ElideRight,
                                              static_cast<int>(at.head.width() - px(20))));
        return;
    }
    p.setPen(chosen ? QPen(tokens().ink, px(1.6)) : QPen(tokens().hair, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(at.card, px(4), px(4));
    p.fillRect(QRectF(at.card.right() - px(4), at.card.top() + 1, px(4), at.card.height() - 2), colourOf(d.device));
    const QString count = QString("%1 of %2").arg(d.used).arg(d.inputs.size());
    p.setFont(Theme::get().number(10.5));
    p.setPen(tokens().ink2);
    const double countWide = p.fontMetrics().horizontalAdvance(count) + px(16);
    p.drawText(at.head.adjusted(0, px(1), -px(12), 0), Qt::AlignRight | Qt::AlignVCenter, count);
    p.setFont(Theme::get().text(12, true));
    p.setPen(tokens().ink);
    p.drawText(at.head.adjusted(px(12), px(1), -countWide, 0), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(q(dev.name), Qt::ElideRight,
                                          static_cast<int>(at.head.width() - countWide - px(12))));
    std::vector<std::string> names;
    for (std::size_t s = 0; s < d.inputs.size(); ++s) {
        const auto& slot = d.inputs[s];
        const QRectF box = at.parts[s];
        if (slot.thread < 0) {
            p.setPen(QPen(tokens().hair, 1));
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(box, px(3), px(3));
            continue;
        }
        const auto& t = board.threads[static_cast<std::size_t>(slot.thread)];
        QColor c = slot.twice    ? tokens().fault
                   : t.from >= 0 ? colourOf(board.offers[static_cast<std::size_t>(t.from)].device)
                                 : tokens().ink3;
        const bool on = !choice || lit(t);
        QColor edge = c;
        c.setAlphaF(on ? 1.0f : 0.38f);
        edge.setAlphaF(on ? 1.0f : 0.5f);
        if (t.runs) {
            p.setPen(Qt::NoPen);
            p.setBrush(c);
        } else {
            QPen dashed(edge, px(1.2));
            dashed.setDashPattern({2, 2});
            p.setPen(dashed);
            p.setBrush(Qt::NoBrush);
        }
        p.drawRoundedRect(box, px(3), px(3));
        if (std::find(names.begin(), names.end(), t.name) == names.end())
            names.push_back(t.name);
    }
    QString foot;
    for (const auto& name : names)
        foot += (foot.isEmpty() ? "" : ", ") + q(name);
    p.setFont(Theme::get().number(9.5));
    p.setPen(tokens().ink2);
    const QRectF below(at.card.left() + px(12), at.card.bottom() - px(hearFoot), at.card.width() - px(22),
                       px(hearFoot - 3));
    p.drawText(below, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(foot.isEmpty() ? QString("nothing yet") : foot, Qt::ElideRight,
                                          static_cast<int>(below.width())));
}

// What is under the pointer: a thread's ends, delay, and why it waits.
void HearView::paintNote(QPainter& p) {
    const auto& board = state_.board();
    if (hovered_ < 0 || hovered_ >= static_cast<int>(board.threads.size()) || drag_.on)
        return;
    const auto& t = board.threads[static_cast<std::size_t>(hovered_)];
    const auto& taker = device(board.takers[static_cast<std::size_t>(t.to)].device);
    const QString first = q(t.name) + " \u2192 " + q(taker.name);
    QString second = !t.runs              ? q(t.why)
                     : t.late             ? QString("%1 ms, too short: packets come later").arg(t.delayMs, 0, 'f', 2)
                     : t.receiver.empty() ? q(specOf(t.transport).name)
                                          : QString("%1 ms").arg(t.delayMs, 0, 'f', 2);
    p.setFont(Theme::get().text(11, true));
    double wide = p.fontMetrics().horizontalAdvance(first);
    p.setFont(Theme::get().number(10));
    wide = std::max<double>(wide, p.fontMetrics().horizontalAdvance(second)) + px(20);
    QRectF box(pointer_ + QPointF(px(14), px(10)), QSizeF(wide, px(38)));
    if (box.right() > viewport()->width())
        box.moveRight(viewport()->width() - 2);
    if (box.bottom() > viewport()->height())
        box.moveBottom(pointer_.y() - px(6));
    p.setPen(QPen(tokens().ink, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(box, px(4), px(4));
    p.setPen(t.runs && !t.late ? tokens().ink2 : tokens().caution);
    p.drawText(box.adjusted(px(10), px(18), -px(6), -px(3)), Qt::AlignLeft | Qt::AlignVCenter, second);
    p.setFont(Theme::get().text(11, true));
    p.setPen(tokens().ink);
    p.drawText(box.adjusted(px(10), px(3), -px(6), -px(18)), Qt::AlignLeft | Qt::AlignVCenter, first);
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
        if (thread >= 0)
            state_.chooseThread(board.threads[static_cast<std::size_t>(thread)]);
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
    if (std::exchange(hovered_, thread) != thread || thread >= 0)
        viewport()->update();
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
    if (std::exchange(hovered_, -1) >= 0)
        viewport()->update();
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
