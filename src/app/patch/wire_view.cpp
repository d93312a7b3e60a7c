#include "app/patch/wire_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "patch/limits.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <algorithm>
#include <cmath>

namespace loom::app {

using namespace project;

namespace {
constexpr double wireRow = 22, wireHead = 26, wireGap = 10, wirePill = 26;
} // namespace

WireView::WireView(PatchState& state, QWidget* parent) : QAbstractScrollArea(parent), state_(state) {
    setObjectName("wires");
    setAccessibleName("How it is wired");
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    const auto again = [this] {
        if (!isVisible())
            return;
        place();
        viewport()->update();
    };
    connect(&state, &PatchState::changed, this, again);
    connect(&state, &PatchState::chosen, viewport(), qOverload<>(&QWidget::update));
    connect(verticalScrollBar(), &QScrollBar::valueChanged, viewport(), qOverload<>(&QWidget::update));
    connect(&Theme::get(), &Theme::changed, this, again);
}

const Device& WireView::device(int n) const {
    return state_.project().devices[static_cast<std::size_t>(n)];
}

QColor WireView::colourOf(int n) const {
    const auto* room = state_.project().room(device(n).room);
    return room ? Theme::get().thread(q(room->colour)) : Theme::get().thread("walnut");
}

void WireView::place() {
    cards_.clear();
    wires_.clear();
    devices_.clear();
    moved_.clear();
    silent_.clear();
    const auto &whole = state_.wired(), &cut = state_.cutWired();
    for (const auto& e : state_.effects())
        if (const auto* before = whole.delivery(e.hearing), *now = cut.delivery(e.hearing); !e.silent)
            for (const auto w : now->wires)
                if (std::find(before->wires.begin(), before->wires.end(), w) == before->wires.end())
                    moved_.insert(w);
    for (const auto& e : state_.effects())
        if (e.silent)
            for (std::size_t n = 0; n < state_.project().devices.size(); ++n)
                if (state_.project().devices[n].id == state_.patched().hearings[e.hearing].device->id)
                    silent_.insert(static_cast<int>(n));
    const double wide = viewport()->width() - px(28), left = px(14);
    const bool two = wide > px(700);
    const double leftWide = two ? wide * 0.56 : wide, rightWide = two ? wide - leftWide - px(16) : wide;
    double y = px(6), right = px(6);
    for (std::size_t n = 0; n < state_.project().devices.size(); ++n)
        if (const auto* m = device(static_cast<int>(n)).spec(); m && m->bridges)
            placeSwitch(static_cast<int>(n), y, left, leftWide);
    double& other = two ? right : y;
    const double otherLeft = two ? left + leftWide + px(16) : left;
    for (std::size_t r = 0; r < whole.rings.size(); ++r)
        placeRing(r, other, otherLeft, rightWide);
    placeRest(other, otherLeft, rightWide);
    const int high = static_cast<int>(std::max(y, right));
    verticalScrollBar()->setRange(0, std::max(0, high - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(static_cast<int>(px(wireRow)));
}

// A switch and what hangs on its sockets, in their order.
void WireView::placeSwitch(int n, double& y, double left, double wide) {
    const auto& d = device(n);
    const auto sockets = socketsOf(d);
    const auto& all = state_.wired().wires;
    std::map<std::string, std::size_t> at; // socket -> cable
    for (std::size_t w = 0; w < all.size(); ++w)
        for (const auto* end : {&all[w].wire->from, &all[w].wire->to})
            if (const auto [id, socket] = endOf(*end); id == d.id)
                at[socket] = w;
    std::vector<std::pair<std::string, std::size_t>> rows;
    for (const auto& s : sockets)
        if (const auto it = at.find(s.name); it != at.end())
            rows.emplace_back(s.name, it->second);
    Card card;
    card.device = n;
    card.title = q(d.name);
    card.words = QString("%1 of %2 sockets").arg(rows.size()).arg(sockets.size());
    for (const auto& u : powerUse(state_.project(), state_.wired()))
        if (u.device == n && u.most > 0)
            card.words += QString(" \u00b7 %1 of %2 W").arg(u.taken, 0, 'f', 0).arg(u.most, 0, 'f', 0);
    const int columns = wide > px(860) && rows.size() > 12 ? 2 : 1,
              lines = (static_cast<int>(rows.size()) + columns - 1) / columns;
    card.rect = {left, y, wide, px(wireHead) + lines * px(wireRow) + px(8)};
    devices_.push_back({n, {left, y, wide, px(wireHead)}});
    for (std::size_t r = 0; r < rows.size(); ++r) {
        const auto& l = all[rows[r].second];
        const int column = static_cast<int>(r) / std::max(1, lines), line = static_cast<int>(r) % std::max(1, lines);
        const double each = (wide - px(12)) / columns;
        wires_.push_back(
            {rows[r].second,
             {left + px(6) + column * each, y + px(wireHead) + line * px(wireRow), each - px(4), px(wireRow)},
             l.from == n ? l.to : l.from});
    }
    cards_.push_back(std::move(card));
    y = cards_.back().rect.bottom() + px(wireGap);
}

void WireView::placeRing(std::size_t ring, double& y, double left, double wide) {
    const auto& r = state_.wired().rings[ring];
    const int n = static_cast<int>(r.devices.size());
    Card card;
    card.ring = static_cast<int>(ring);
    card.title = q(r.name);
    card.words = QString("%1 of %2 slots \u00b7 %3")
                     .arg(r.used)
                     .arg(r.most)
                     .arg(r.closed && !r.crossed ? "closed" : "not closed");
    const double high = px(wireHead) + std::max(px(130), px(wirePill + 14) * (n + 1) / 2.0) + px(20);
    card.rect = {left, y, wide, high};
    const QPointF centre(left + wide / 2, y + px(wireHead) + (high - px(wireHead)) / 2);
    const double pill = std::min(px(150), wide * 0.42), a = wide / 2 - pill / 2 - px(12),
                 b = (high - px(wireHead)) / 2 - px(wirePill / 2 + 10);
    std::vector<QPointF> points;
    for (int i = 0; i < n; ++i) { // round, beginning at the top left
        const double angle = 2 * M_PI * i / n - M_PI * 0.75;
        points.push_back(centre + QPointF(a * std::cos(angle), b * std::sin(angle)));
        devices_.push_back({r.devices[static_cast<std::size_t>(i)],
                            {points.back().x() - pill / 2, points.back().y() - px(wirePill / 2), pill, px(wirePill)},
                            static_cast<int>(ring)});
    }
    const auto at = [&](int d) {
        const auto it = std::find(r.devices.begin(), r.devices.end(), d);
        return points[static_cast<std::size_t>(it - r.devices.begin())];
    };
    for (const auto w : r.wires) {
        const auto& l = state_.wired().wires[w];
        const QPointF from = at(l.from), to = at(l.to), mid = (from + to) / 2;
        wires_.push_back(
            {w, {mid.x() - px(11), mid.y() - px(11), px(22), px(22)}, l.to, static_cast<int>(ring), from, to});
    }
    cards_.push_back(std::move(card));
    y = cards_.back().rect.bottom() + px(wireGap);
}

// Devices with sockets and no cable, and cables that lead to no switch and no ring.
void WireView::placeRest(double& y, double left, double wide) {
    std::set<int> wired;
    std::vector<std::size_t> others;
    for (std::size_t w = 0; w < state_.wired().wires.size(); ++w) {
        const auto& l = state_.wired().wires[w];
        if (l.transport == Transport::network)
            wired.insert({l.from, l.to});
        if (std::none_of(wires_.begin(), wires_.end(), [&](const WirePlace& one) { return one.wire == w; }))
            others.push_back(w);
    }
    if (!others.empty()) {
        Card card;
        card.title = "Other cables";
        card.rect = {left, y, wide, px(wireHead) + others.size() * px(wireRow) + px(8)};
        for (std::size_t r = 0; r < others.size(); ++r)
            wires_.push_back({others[r],
                              {left + px(6), y + px(wireHead) + r * px(wireRow), wide - px(12), px(wireRow)},
                              state_.wired().wires[others[r]].to});
        cards_.push_back(std::move(card));
        y = cards_.back().rect.bottom() + px(wireGap);
    }
    std::vector<int> loose;
    for (std::size_t n = 0; n < state_.project().devices.size(); ++n) {
        const auto* m = device(static_cast<int>(n)).spec();
        if (m && !m->bridges && !wired.count(static_cast<int>(n)) && !socketsOf(device(static_cast<int>(n))).empty())
            loose.push_back(static_cast<int>(n));
    }
    if (loose.empty())
        return;
    Card card;
    card.title = "Without a cable";
    card.words = "drag one onto a switch";
    const int columns = std::max(1, static_cast<int>(wide / px(190)));
    const int lines = (static_cast<int>(loose.size()) + columns - 1) / columns;
    card.rect = {left, y, wide, px(wireHead) + lines * px(wirePill + 4) + px(8)};
    for (std::size_t i = 0; i < loose.size(); ++i) {
        const int column = static_cast<int>(i) % columns, line = static_cast<int>(i) / columns;
        const double each = (wide - px(12)) / columns;
        devices_.push_back(
            {loose[i],
             {left + px(8) + column * each, y + px(wireHead) + line * px(wirePill + 4), each - px(6), px(wirePill)}});
    }
    cards_.push_back(std::move(card));
    y = cards_.back().rect.bottom() + px(wireGap);
}

// ---- where something is ----

QRectF WireView::wireRect(const std::string& id) const {
    for (const auto& w : wires_)
        if (state_.wired().wires[w.wire].wire->id == id)
            return w.rect.translated(0, -verticalScrollBar()->value());
    return {};
}

QRectF WireView::deviceRect(const std::string& id) const {
    for (const auto& d : devices_)
        if (device(d.device).id == id)
            return d.rect.translated(0, -verticalScrollBar()->value());
    return {};
}

int WireView::deviceAt(const QPointF& at, int* ring) const {
    const QPointF p = at + QPointF(0, verticalScrollBar()->value());
    for (const auto& d : devices_)
        if (d.rect.contains(p)) {
            if (ring)
                *ring = d.ring;
            return d.device;
        }
    for (const auto& c : cards_)
        if (c.device >= 0 && c.rect.contains(p))
            return c.device;
    return -1;
}

const WireView::WirePlace* WireView::wireAt(const QPointF& at) const {
    const QPointF p = at + QPointF(0, verticalScrollBar()->value());
    for (const auto& w : wires_)
        if (w.rect.contains(p))
            return &w;
    return nullptr;
}

// ---- painting ----

QColor WireView::stateOf(std::size_t w) const {
    const auto& l = state_.wired().wires[w];
    if (state_.cut().wires.count(l.wire->id))
        return tokens().fault;
    if (moved_.count(w))
        return tokens().caution;
    if (!l.works)
        return tokens().fault;
    return l.busy() > 0.8 ? tokens().fault : tokens().ok;
}

void WireView::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(viewport()->rect(), tokens().sheet);
    if (cards_.empty())
        place();
    const double scroll = verticalScrollBar()->value();
    const QRectF seen = QRectF(viewport()->rect()).translated(0, scroll);
    p.translate(0, -scroll);
    for (const auto& c : cards_) {
        if (!c.rect.intersects(seen))
            continue;
        const bool off = c.device >= 0 && state_.cut().devices.count(device(c.device).id);
        p.setPen(QPen(off ? tokens().fault : tokens().hair, off ? px(1.6) : 1));
        p.setBrush(tokens().card);
        p.drawRoundedRect(c.rect, px(4), px(4));
        const QRectF head(c.rect.left() + px(12), c.rect.top(), c.rect.width() - px(24), px(wireHead));
        p.setPen(off ? tokens().fault : tokens().ink);
        p.setFont(Theme::get().text(12, true));
        p.drawText(head, Qt::AlignLeft | Qt::AlignVCenter, c.title + (off ? " \u00b7 off" : ""));
        p.setFont(Theme::get().number(10.5));
        p.setPen(tokens().ink2);
        p.drawText(head, Qt::AlignRight | Qt::AlignVCenter, c.words);
        if (c.ring >= 0)
            paintRing(p, c);
    }
    for (const auto& w : wires_)
        if (w.ring < 0 && w.rect.intersects(seen))
            paintWire(p, w);
    for (const auto& d : devices_)
        if (d.rect.intersects(seen) && (d.ring >= 0 || !device(d.device).spec()->bridges)) {
            const bool quiet = silent_.count(d.device) > 0;
            p.setPen(QPen(quiet ? tokens().fault : colourOf(d.device), px(1.4)));
            p.setBrush(quiet ? tokens().faultTint : tokens().card);
            p.drawRoundedRect(d.rect, px(4), px(4));
            p.setPen(quiet ? tokens().fault : tokens().ink);
            p.setFont(Theme::get().text(11));
            const QRectF words = d.rect.adjusted(px(7), 0, -px(5), 0);
            p.drawText(
                words, Qt::AlignCenter,
                p.fontMetrics().elidedText(q(device(d.device).name), Qt::ElideRight, static_cast<int>(words.width())));
        }
    p.translate(0, scroll);
    if (drag_.on) {
        p.setPen(QPen(tokens().saffron, px(2.4)));
        p.drawLine(drag_.start, drag_.now);
    }
}

void WireView::paintWire(QPainter& p, const WirePlace& w) const {
    const auto &l = state_.wired().wires[w.wire], &now = state_.cutWired().wires[w.wire];
    const bool chosen = state_.wire() == l.wire->id, cut = state_.cut().wires.count(l.wire->id) > 0;
    if (chosen)
        p.fillRect(w.rect.adjusted(0, px(1), 0, -px(1)), tokens().saffronTint);
    const auto& mine = endOf(w.other == l.to ? l.wire->from : l.wire->to).second;
    const double socketWide = px(46), numberWide = px(54), barWide = px(64), loadWide = px(130);
    double x = w.rect.left() + px(6);
    const auto text = [&](double wide, const QString& words, Qt::Alignment align) {
        p.drawText(QRectF(x, w.rect.top(), wide - px(4), w.rect.height()), align | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(wide - px(4))));
        x += wide;
    };
    p.setFont(Theme::get().number(10));
    p.setPen(tokens().ink2);
    text(socketWide, q(mine), Qt::AlignLeft);
    text(numberWide, l.wire->number.empty() ? q(l.wire->id) : q(l.wire->number), Qt::AlignLeft);
    const QColor state = stateOf(w.wire);
    p.setPen(QPen(state, px(2.2), now.used || cut ? Qt::SolidLine : Qt::DashLine));
    const double mid = w.rect.center().y();
    p.drawLine(QPointF(x, mid), QPointF(x + px(18), mid));
    if (cut) {
        p.drawLine(QPointF(x + px(5), mid - px(5)), QPointF(x + px(13), mid + px(5)));
        p.drawLine(QPointF(x + px(5), mid + px(5)), QPointF(x + px(13), mid - px(5)));
    }
    x += px(24);
    const bool quiet = silent_.count(w.other) > 0;
    p.setFont(Theme::get().text(11, quiet));
    p.setPen(quiet ? tokens().fault : w.other < 0 ? tokens().fault : tokens().ink);
    const QString name =
        w.other < 0 ? QString("nothing") : q(device(w.other).name) + (quiet ? " \u00b7 hears less" : "");
    text(std::max(px(40), w.rect.right() - x - barWide - loadWide), name, Qt::AlignLeft);
    // What it carries, as a bar of what it could.
    const QRectF bar(x, mid - px(3), barWide - px(8), px(6));
    p.setPen(Qt::NoPen);
    p.setBrush(tokens().hair);
    p.drawRoundedRect(bar, px(3), px(3));
    if (now.busy() > 0) {
        p.setBrush(state);
        p.drawRoundedRect(
            QRectF(bar.left(), bar.top(), std::max(px(3), bar.width() * std::min(1.0, now.busy())), bar.height()),
            px(3), px(3));
    }
    x += barWide;
    p.setFont(Theme::get().number(10));
    p.setPen(tokens().ink2);
    text(loadWide,
         cut        ? QString("cut")
         : !l.works ? QString("wrong end")
         : !now.used && now.works
             ? QString("in reserve")
             : QString("%1 of %2 Mbit/s").arg(std::max(now.there, now.back), 0, 'f', 1).arg(l.megabits, 0, 'f', 0),
         Qt::AlignRight);
}

void WireView::paintRing(QPainter& p, const Card& card) const {
    for (const auto& w : wires_) {
        if (w.ring != card.ring)
            continue;
        const auto& l = state_.wired().wires[w.wire];
        const bool cut = state_.cut().wires.count(l.wire->id) > 0, chosen = state_.wire() == l.wire->id;
        QPen pen(stateOf(w.wire), px(chosen ? 4 : 2.4));
        if (cut)
            pen.setDashPattern({2, 3});
        p.setPen(pen);
        p.drawLine(w.from, w.to);
        p.setBrush(chosen ? tokens().saffronTint : tokens().card);
        p.setPen(QPen(stateOf(w.wire), px(1.4)));
        p.drawEllipse(w.rect.center(), px(8), px(8));
        p.setFont(Theme::get().number(9, true));
        p.setPen(cut ? tokens().fault : tokens().ink2);
        p.drawText(w.rect, Qt::AlignCenter, cut ? "\u00d7" : q(l.wire->id.substr(1)));
    }
}

// ---- the hand ----

void WireView::resizeEvent(QResizeEvent*) {
    place();
    viewport()->update();
}

void WireView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    drag_ = {};
    const auto* w = wireAt(e->position());
    if (w)
        state_.chooseWire(state_.wired().wires[w->wire].wire->id);
    const int d = deviceAt(e->position(), &drag_.ring);
    if (w && w->ring < 0 && w->other >= 0) { // the row stands for the device at its end
        drag_.device = w->other;
    } else if (!w && d >= 0) {
        drag_.device = d;
        state_.chooseTaker(device(d).id);
        state_.chooseWire("");
    }
    drag_.start = e->position();
}

void WireView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton) || drag_.device < 0)
        return;
    drag_.on = drag_.on || (e->position() - drag_.start).manhattanLength() > px(6);
    drag_.now = e->position();
    viewport()->update();
}

void WireView::mouseReleaseEvent(QMouseEvent* e) {
    const auto drag = std::exchange(drag_, {});
    viewport()->update();
    int ring = -1;
    if (const int to = deviceAt(e->position(), &ring); drag.on && to >= 0 && to != drag.device)
        joinTo(drag.device, to, ring);
}

// Within a ring another order, into a ring one more, else a cable.
void WireView::joinTo(int from, int to, int ring) {
    if (ring < 0) {
        state_.run(layWire(state_.project(), {device(from).id, device(to).id}));
        return;
    }
    std::vector<std::string> order;
    for (const int d : state_.wired().rings[static_cast<std::size_t>(ring)].devices) {
        if (d == from)
            continue;
        order.push_back(device(d).id);
        if (d == to)
            order.push_back(device(from).id);
    }
    state_.run(orderRing(state_.project(), order));
}

void WireView::contextMenuEvent(QContextMenuEvent* e) {
    emit wantsMenu(e->globalPos());
}

void WireView::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Up || e->key() == Qt::Key_Down) {
        int at = -1;
        for (std::size_t n = 0; n < wires_.size(); ++n)
            if (state_.wired().wires[wires_[n].wire].wire->id == state_.wire())
                at = static_cast<int>(n);
        const int count = static_cast<int>(wires_.size()), by = e->key() == Qt::Key_Down ? 1 : -1;
        if (count > 0) {
            const auto& w = wires_[static_cast<std::size_t>(at < 0 ? 0 : std::clamp(at + by, 0, count - 1))];
            state_.chooseWire(state_.wired().wires[w.wire].wire->id);
            auto* bar = verticalScrollBar();
            if (w.rect.top() < bar->value())
                bar->setValue(static_cast<int>(w.rect.top()));
            else if (w.rect.bottom() > bar->value() + viewport()->height())
                bar->setValue(static_cast<int>(w.rect.bottom() - viewport()->height()));
        }
        return;
    }
    if (e->key() == Qt::Key_Escape)
        return state_.chooseWire("");
    QAbstractScrollArea::keyPressEvent(e);
}

std::vector<PaintedPart> WireView::paintedParts() const {
    std::vector<PaintedPart> all;
    for (const auto& w : wires_) {
        const auto& l = state_.wired().wires[w.wire];
        all.push_back(
            {q((l.wire->number.empty() ? l.wire->id : l.wire->number) + ": " + l.wire->from + " to " + l.wire->to),
             state_.cut().wires.count(l.wire->id)
                 ? QString("cut")
                 : QString("%1 of %2 Mbit/s").arg(std::max(l.there, l.back), 0, 'f', 1).arg(l.megabits),
             w.rect.translated(0, -verticalScrollBar()->value()), state_.wire() == l.wire->id});
    }
    return all;
}

void WireView::choosePart(int index) {
    if (index >= 0 && index < static_cast<int>(wires_.size()))
        state_.chooseWire(state_.wired().wires[wires_[static_cast<std::size_t>(index)].wire].wire->id);
}

} // namespace loom::app
