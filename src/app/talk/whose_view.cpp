#include "app/talk/whose_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "model/contact.h"
#include "rooms/owned_ports.h"
#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace loom::app {

using namespace project;

namespace {

constexpr double headHigh = 40, chipHigh = 24, gap = 4, deviceHigh = 20, leastColumn = 160;

} // namespace

WhoseView::WhoseView(TalkState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("whoseView");
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Whose is what: ports and lines by room");
    connect(&state, &TalkState::changed, this, &WhoseView::again);
    connect(&Theme::get(), &Theme::changed, this, &WhoseView::again);
}

void WhoseView::again() {
    if (!isVisible())
        return;
    lay();
    update();
}

void WhoseView::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    again();
}

QString WhoseView::columnName(const std::string& owner) const {
    if (owner.empty())
        return "Nobody";
    QStringList names;
    for (const auto& id : roomsOfOwner(owner)) {
        const auto* r = state_.project().room(id);
        names << (r ? q(r->name) : q(id));
    }
    return names.join(" | ");
}

QSize WhoseView::sizeHint() const {
    return {static_cast<int>(px(leastColumn) * static_cast<double>(std::max<std::size_t>(owners_.size(), 1))),
            static_cast<int>(high_)};
}

// What is free comes last in a column and small; a run of free ports of one sort is one chip each all the same, so that
// each can be given.
void WhoseView::lay() {
    const auto& things = all();
    owners_.clear();
    for (const auto& b : state_.project().buildings)
        for (const auto& r : b.rooms)
            owners_.push_back(r.id);
    for (const auto& joined : joinableRooms(state_.project()))
        if (std::any_of(things.begin(), things.end(), [&](const auto& b) { return b.owner == joined; }) ||
            joined == state_.space().key)
            owners_.push_back(joined);
    owners_.push_back("");
    column_ = std::max(px(leastColumn), width() / static_cast<double>(owners_.size()));
    chips_.assign(things.size(), {});
    heads_.clear();
    order_.clear();
    counts_.assign(owners_.size(), 0);
    free_.assign(owners_.size(), 0);
    high_ = px(headHigh);
    for (std::size_t c = 0; c < owners_.size(); ++c) {
        double y = px(headHigh) + px(4);
        std::string device;
        const double x = column_ * static_cast<double>(c) + px(6), wide = column_ - px(12);
        for (std::size_t i = 0; i < things.size(); ++i) {
            const auto& b = things[i];
            const bool known = b.owner.empty() || std::find(owners_.begin(), owners_.end(), b.owner) != owners_.end();
            if ((known ? b.owner : std::string()) != owners_[c])
                continue;
            ++counts_[c];
            free_[c] += !b.used;
            if (b.device != device) {
                device = b.device;
                const auto* d = state_.project().device(device);
                heads_.emplace_back(QRectF(x, y, wide, px(deviceHigh)), d ? q(d->name) : q(device));
                y += px(deviceHigh);
            }
            chips_[i] = {x, y, wide, px(chipHigh)};
            order_.push_back(static_cast<int>(i));
            y += px(chipHigh) + px(gap);
        }
        high_ = std::max(high_, y + px(8));
    }
    std::erase_if(chosen_, [&](int i) { return i >= static_cast<int>(things.size()); });
    if (current_ >= static_cast<int>(things.size()))
        current_ = -1;
    setMinimumSize(sizeHint());
}

void WhoseView::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    again();
}

QRectF WhoseView::columnRect(const std::string& owner) const {
    const auto it = std::find(owners_.begin(), owners_.end(), owner);
    return it == owners_.end() ? QRectF()
                               : QRectF(column_ * static_cast<double>(it - owners_.begin()), 0, column_,
                                        std::max<double>(high_, height()));
}

QRectF WhoseView::chipRect(const std::string& device, const std::string& port) const {
    for (std::size_t i = 0; i < chips_.size(); ++i)
        if (all()[i].device == device && all()[i].port == port)
            return chips_[i];
    return {};
}

int WhoseView::at(const QPointF& pos) const {
    for (std::size_t i = 0; i < chips_.size(); ++i)
        if (chips_[i].contains(pos))
            return static_cast<int>(i);
    return -1;
}

int WhoseView::columnAt(const QPointF& pos) const {
    const int c = static_cast<int>(pos.x() / std::max(column_, 1.0));
    return c >= 0 && c < static_cast<int>(owners_.size()) ? c : -1;
}

std::optional<std::pair<std::string, std::string>> WhoseView::contact() const {
    if (chosen_.size() != 1)
        return {};
    const auto& b = all()[static_cast<std::size_t>(*chosen_.begin())];
    return b.kind == Belonging::Kind::contact && b.input ? std::optional(std::pair(b.device, b.port)) : std::nullopt;
}

void WhoseView::give(const std::string& owner) {
    std::vector<std::pair<std::string, std::string>> ports;
    for (const int i : chosen_)
        if (all()[static_cast<std::size_t>(i)].owner != owner)
            ports.emplace_back(all()[static_cast<std::size_t>(i)].device, all()[static_cast<std::size_t>(i)].port);
    if (!ports.empty())
        state_.edit(giveTo(state_.project(), ports, owner));
}

void WhoseView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const int target = drag_ ? columnAt(*drag_) : -1;
    for (std::size_t c = 0; c < owners_.size(); ++c) {
        const QRectF column(column_ * static_cast<double>(c), 0, column_, height());
        if (static_cast<int>(c) == target)
            p.fillRect(column, tokens().saffronTint);
        p.setPen(QPen(tokens().hair, 1));
        if (c > 0)
            p.drawLine(column.topLeft(), column.bottomLeft());
        const auto rooms = roomsOfOwner(owners_[c]);
        double x = column.left() + px(12);
        for (const auto& id : rooms) {
            const auto* r = state_.project().room(id);
            p.setPen(Qt::NoPen);
            p.setBrush(Theme::get().thread(r ? q(r->colour) : "walnut"));
            p.drawEllipse(QPointF(x, px(13)), px(4), px(4));
            x += px(11);
        }
        p.setFont(Theme::get().text(12, true));
        p.setPen(owners_[c].empty() ? tokens().ink2 : tokens().ink);
        p.drawText(QRectF(x, px(2), column.right() - x - px(4), px(22)), Qt::AlignVCenter,
                   p.fontMetrics().elidedText(columnName(owners_[c]), Qt::ElideRight,
                                              static_cast<int>(column.right() - x - px(4))));
        p.setFont(Theme::get().text(10));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(column.left() + px(8), px(22), column.width() - px(12), px(16)), Qt::AlignVCenter,
                   owners_[c].empty() ? QString("%1 free").arg(free_[c])
                   : free_[c] > 0     ? QString("%1, %2 of them unused").arg(counts_[c]).arg(free_[c])
                                      : QString::number(counts_[c]));
    }
    p.setFont(Theme::get().text(10));
    for (const auto& [at, name] : heads_) {
        p.setPen(tokens().ink3);
        p.drawText(at, Qt::AlignVCenter,
                   p.fontMetrics().elidedText(name, Qt::ElideRight, static_cast<int>(at.width())));
    }
    const auto& things = all();
    for (std::size_t i = 0; i < chips_.size() && i < things.size(); ++i) {
        const auto& b = things[i];
        if (chips_[i].isEmpty())
            continue;
        const bool is = chosen_.count(static_cast<int>(i)) > 0;
        const auto lies = is && drag_ && pressed_ ? chips_[i].translated(*drag_ - *pressed_) : chips_[i];
        p.setPen(is ? QPen(tokens().saffron, px(1.6))
                    : QPen(tokens().hair, px(1), b.used ? Qt::SolidLine : Qt::DashLine));
        p.setBrush(is ? tokens().saffronTint : b.used ? tokens().card : tokens().sheet);
        p.drawRoundedRect(lies, px(5), px(5));
        const QString port = b.port.empty()
                                 ? QString("array")
                                 : q(b.port) + (!b.input && b.port.rfind("out", 0) != 0 ? QString(" out") : QString());
        p.setFont(Theme::get().number(10, b.used));
        p.setPen(b.used ? tokens().ink : tokens().ink2);
        p.drawText(lies.adjusted(px(7), 0, -px(4), 0), Qt::AlignVCenter, port);
        p.setFont(Theme::get().text(10));
        p.setPen(tokens().ink2);
        const double left = px(72);
        QString says = q(b.name);
        if (b.kind == Belonging::Kind::contact && b.used)
            says = says.section(' ', 0, 0);
        if (says.isEmpty())
            says = "free";
        p.drawText(lies.adjusted(left, 0, -px(6), 0), Qt::AlignVCenter | Qt::AlignRight,
                   p.fontMetrics().elidedText(says, Qt::ElideRight, static_cast<int>(lies.width() - left - px(8))));
    }
}

void WhoseView::mousePressEvent(QMouseEvent* e) {
    const int i = at(e->position());
    if (i < 0) {
        chosen_.clear();
        return update();
    }
    if (e->modifiers() & Qt::ControlModifier) {
        if (!chosen_.insert(i).second)
            chosen_.erase(i);
    } else if (e->modifiers() & Qt::ShiftModifier && current_ >= 0) {
        const auto from = std::find(order_.begin(), order_.end(), current_),
                   to = std::find(order_.begin(), order_.end(), i);
        for (auto it = std::min(from, to); it != order_.end() && it <= std::max(from, to); ++it)
            chosen_.insert(*it);
    } else if (!chosen_.count(i)) {
        chosen_ = {i};
    }
    current_ = i;
    pressed_ = e->button() == Qt::LeftButton ? std::optional(e->position()) : std::nullopt;
    update();
}

void WhoseView::mouseMoveEvent(QMouseEvent* e) {
    if (!pressed_ || (e->position() - *pressed_).manhattanLength() < QApplication::startDragDistance())
        return;
    drag_ = e->position();
    update();
}

void WhoseView::mouseReleaseEvent(QMouseEvent* e) {
    const bool dragged = drag_.has_value();
    pressed_.reset();
    drag_.reset();
    if (const int c = columnAt(e->position()); dragged && c >= 0)
        give(owners_[static_cast<std::size_t>(c)]);
    update();
}

void WhoseView::keyPressEvent(QKeyEvent* e) {
    if (order_.empty())
        return QWidget::keyPressEvent(e);
    auto it = std::find(order_.begin(), order_.end(), current_);
    const auto n = static_cast<std::ptrdiff_t>(order_.size());
    std::ptrdiff_t place = it == order_.end() ? -1 : it - order_.begin();
    switch (e->key()) {
    case Qt::Key_Down:
        ++place;
        break;
    case Qt::Key_Up:
        --place;
        break;
    case Qt::Key_Left:
    case Qt::Key_Right: { // the next column that has any
        const auto owner =
            place < 0 ? std::string() : all()[static_cast<std::size_t>(order_[static_cast<std::size_t>(place)])].owner;
        const int step = e->key() == Qt::Key_Right ? 1 : -1;
        while (place + step >= 0 && place + step < n) {
            place += step;
            if (all()[static_cast<std::size_t>(order_[static_cast<std::size_t>(place)])].owner != owner)
                break;
        }
        break;
    }
    default:
        return QWidget::keyPressEvent(e);
    }
    place = std::clamp<std::ptrdiff_t>(place, 0, n - 1);
    current_ = order_[static_cast<std::size_t>(place)];
    if (e->modifiers() & Qt::ShiftModifier)
        chosen_.insert(current_);
    else
        chosen_ = {current_};
    update();
}

void WhoseView::contextMenuEvent(QContextMenuEvent* e) {
    if (const int i = at(e->pos()); i >= 0 && !chosen_.count(i)) {
        chosen_ = {i};
        current_ = i;
        update();
    }
    emit wantsMenu(e->globalPos());
}

} // namespace loom::app
