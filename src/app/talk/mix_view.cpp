#include "app/talk/mix_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/number.h"
#include "model/block_names.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace loom::app {

using namespace project;

namespace {

constexpr double head = 58, row = 30;
using State = Mixes::Cell::State;

QString level(double db) {
    return QString::number(db, 'f', 1).replace('-', QChar(0x2212));
}

} // namespace

MixView::MixView(TalkState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("mixView");
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Mixes: who hears whom");
    setMouseTracking(true);
    connect(&state, &TalkState::changed, this, &MixView::again);
    connect(&Theme::get(), &Theme::changed, this, &MixView::again);
}

// Mixes are worked out for who looks at them.
void MixView::again() {
    if (!isVisible())
        return;
    setMinimumSize(sizeHint());
    choose(chosen_);
}

void MixView::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    again();
}

double MixView::nameWidth() const {
    return px(188);
}

double MixView::columnWidth() const {
    const auto n = std::max<std::size_t>(mixes().listeners.size(), 1);
    return std::clamp((width() - nameWidth() - px(8)) / static_cast<double>(n), px(78), px(124));
}

QSize MixView::sizeHint() const {
    return {static_cast<int>(nameWidth() + px(78) * static_cast<double>(mixes().listeners.size()) + px(8)),
            static_cast<int>(px(head) + px(row) * static_cast<double>(mixes().talkers.size()) + px(56))};
}

bool MixView::any() const {
    return !mixes().talkers.empty() && !mixes().listeners.empty();
}

void MixView::choose(Cell cell) {
    cell.talker = std::clamp(cell.talker, 0, std::max(0, static_cast<int>(mixes().talkers.size()) - 1));
    cell.listener = std::clamp(cell.listener, 0, std::max(0, static_cast<int>(mixes().listeners.size()) - 1));
    chosen_ = cell;
    emit chosenMoved();
    update();
}

QRectF MixView::cellRect(const Cell& c) const {
    return {nameWidth() + columnWidth() * c.listener, px(head) + px(row) * c.talker, columnWidth(), px(row)};
}

std::optional<MixView::Cell> MixView::at(const QPointF& pos) const {
    const Cell c{static_cast<int>(std::floor((pos.y() - px(head)) / px(row))),
                 static_cast<int>(std::floor((pos.x() - nameWidth()) / columnWidth()))};
    if (c.talker < 0 || c.talker >= static_cast<int>(mixes().talkers.size()) || c.listener < 0 ||
        c.listener >= static_cast<int>(mixes().listeners.size()))
        return {};
    return c;
}

QString MixView::words() const {
    if (!any())
        return {};
    const auto& t = mixes().talkers[static_cast<std::size_t>(chosen_.talker)];
    const auto& l = mixes().listeners[static_cast<std::size_t>(chosen_.listener)];
    const auto& c = mixes().at(static_cast<std::size_t>(chosen_.talker), static_cast<std::size_t>(chosen_.listener));
    QString text = q(t.name) + " in " + q(l.name) + ": ";
    switch (c.state) {
    case State::open:
        text += level(c.db) + " dB";
        break;
    case State::closed:
        text += "closed";
        break;
    case State::own:
        text += c.audible() ? "open: it hears itself" : "left out by itself, it is its own sound";
        break;
    case State::thread:
        text += level(c.db) + " dB by threads; its way is drawn in Weave";
        break;
    case State::apart:
        return text + q(c.why) + " Enter brings it.";
    }
    if (!c.block.empty())
        if (const auto* d = state_.project().device(c.device); d && d->program && d->program->find(c.block))
            text += QString::fromUtf8(" \u00b7 ") + q(d->name) + QString::fromUtf8(" \u00b7 ") +
                    q(blockName(*d->program, *d->program->find(c.block)));
    return text;
}

void MixView::turn() {
    if (!any())
        return;
    const auto t = static_cast<std::size_t>(chosen_.talker), l = static_cast<std::size_t>(chosen_.listener);
    const Mixes now = mixes(); // the edit changes it
    if (now.at(t, l).state == State::apart)
        state_.edit(bringTo(state_.project(), now, t, l));
    else
        state_.edit(setCrossing(state_.project(), now, t, l));
}

void MixView::setLevel(double db) {
    if (!any())
        return;
    const Mixes now = mixes();
    state_.edit(setCrossing(state_.project(), now, static_cast<std::size_t>(chosen_.talker),
                            static_cast<std::size_t>(chosen_.listener), db));
}

void MixView::step(double db) {
    if (!any())
        return;
    const auto& c = mixes().at(static_cast<std::size_t>(chosen_.talker), static_cast<std::size_t>(chosen_.listener));
    if (c.state == State::open)
        setLevel(std::clamp(c.db + db, -79.0, 12.0));
}

void MixView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto& m = mixes();
    if (!any()) {
        p.setFont(Theme::get().text(12));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(px(8), px(8), width() - px(16), px(60)), Qt::TextWordWrap,
                   m.talkers.empty() ? "No program takes a microphone of this room yet: First pass gives each a lane."
                                     : "Nobody listens yet: First pass makes the mixes of this room.");
        return;
    }
    const double bottom = px(head) + px(row) * static_cast<double>(m.talkers.size());
    p.setFont(Theme::get().text(11));
    p.setPen(tokens().ink3);
    p.drawText(QRectF(px(8), px(4), nameWidth() - px(16), px(head) - px(10)), Qt::AlignBottom, "is heard by");
    for (std::size_t l = 0; l < m.listeners.size(); ++l) {
        const auto x = nameWidth() + columnWidth() * (static_cast<double>(l) + 0.5);
        p.setPen(QPen(tokens().hair, px(1.5)));
        p.drawLine(QPointF(x, px(head) - px(4)), QPointF(x, bottom));
        const QRectF at(x - columnWidth() / 2 + px(3), px(2), columnWidth() - px(6), px(head) - px(8));
        p.setFont(Theme::get().text(11, chosen_.listener == static_cast<int>(l)));
        p.setPen(tokens().ink);
        p.drawText(QRectF(at.left(), at.top(), at.width(), at.height() - px(16)),
                   Qt::AlignHCenter | Qt::AlignBottom | Qt::TextWordWrap, q(m.listeners[l].name));
        p.setFont(Theme::get().text(9));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(at.left(), at.bottom() - px(15), at.width(), px(14)), Qt::AlignHCenter,
                   nameOf(m.listeners[l].kind));
    }
    for (std::size_t t = 0; t < m.talkers.size(); ++t) {
        const auto& talker = m.talkers[t];
        const auto y = px(head) + px(row) * (static_cast<double>(t) + 0.5);
        p.setPen(QPen(tokens().hair, px(1.5)));
        p.drawLine(QPointF(nameWidth() - px(6), y),
                   QPointF(nameWidth() + columnWidth() * static_cast<double>(m.listeners.size()), y));
        p.setFont(Theme::get().text(12, chosen_.talker == static_cast<int>(t)));
        p.setPen(tokens().ink);
        const QRectF name(px(8), y - px(row) / 2, nameWidth() - px(20), px(row));
        const QString also = talker.kind == Mixes::Talker::Kind::farEnd ? "far end"
                             : talker.role.empty()                      ? QString()
                                                                        : q(roleName(talker.role)).toLower();
        const auto side = also.isEmpty() ? 0 : p.fontMetrics().horizontalAdvance(also) + px(6);
        p.drawText(name, Qt::AlignVCenter,
                   p.fontMetrics().elidedText(q(talker.name), Qt::ElideRight, static_cast<int>(name.width() - side)));
        p.setFont(Theme::get().text(10));
        p.setPen(tokens().ink2);
        p.drawText(name, Qt::AlignVCenter | Qt::AlignRight, also);
        for (std::size_t l = 0; l < m.listeners.size(); ++l)
            paintCell(p, {static_cast<int>(t), static_cast<int>(l)});
    }
    p.setFont(Theme::get().text(11));
    p.setPen(tokens().ink2);
    p.drawText(QRectF(px(8), bottom + px(6), width() - px(16), px(46)), Qt::TextWordWrap, words());
}

void MixView::paintCell(QPainter& p, const Cell& cell) {
    const auto& c = mixes().at(static_cast<std::size_t>(cell.talker), static_cast<std::size_t>(cell.listener));
    const auto& talker = mixes().talkers[static_cast<std::size_t>(cell.talker)];
    const auto at = cellRect(cell);
    const QRectF knot(at.center().x() - px(27), at.center().y() - px(10), px(54), px(20));
    const bool here = cell == chosen_;
    if (here) {
        p.setPen(hasFocus() ? QPen(tokens().saffron, px(2)) : QPen(tokens().hair, px(1)));
        p.setBrush(tokens().saffronTint);
        p.drawRoundedRect(at.adjusted(px(3), px(1), -px(3), -px(1)), px(4), px(4));
    }
    p.setFont(Theme::get().number(10, true));
    switch (c.state) {
    case State::open:
    case State::thread: {
        const auto colour = Theme::get().thread(talker.kind == Mixes::Talker::Kind::microphone ? "madder"
                                                : talker.kind == Mixes::Talker::Kind::farEnd   ? "woad"
                                                                                               : "walnut");
        p.setPen(c.state == State::thread ? QPen(colour, px(1.5)) : QPen(Qt::NoPen));
        p.setBrush(c.state == State::thread ? tokens().card : colour);
        p.drawRoundedRect(knot, px(10), px(10));
        p.setPen(c.state == State::thread ? tokens().ink : tokens().sheet);
        p.drawText(knot, Qt::AlignCenter, level(c.db));
        break;
    }
    case State::closed:
        p.setPen(QPen(over_ == cell || here ? tokens().ink3 : tokens().hair, px(1.2)));
        p.setBrush(tokens().sheet);
        p.drawEllipse(at.center(), px(5), px(5));
        break;
    case State::own:
        p.setFont(Theme::get().text(9));
        p.setPen(Qt::NoPen);
        p.setBrush(c.audible() ? tokens().faultTint : tokens().shade);
        p.drawRoundedRect(knot, px(3), px(3));
        p.setPen(c.audible() ? tokens().fault : tokens().ink2);
        p.drawText(knot, Qt::AlignCenter, c.audible() ? "hears itself" : "own");
        break;
    case State::apart:
        p.setFont(Theme::get().text(9));
        p.setPen(QPen(tokens().ink3, px(1), Qt::DashLine));
        p.setBrush(tokens().sheet);
        p.drawRoundedRect(knot, px(3), px(3));
        p.setPen(tokens().ink2);
        p.drawText(knot, Qt::AlignCenter, "bring");
        break;
    }
}

void MixView::mousePressEvent(QMouseEvent* e) {
    const auto cell = at(e->position());
    if (!cell)
        return;
    choose(*cell);
    if (e->button() == Qt::LeftButton)
        turn();
}

void MixView::mouseMoveEvent(QMouseEvent* e) {
    if (const auto cell = at(e->position()); cell != over_) {
        over_ = cell;
        update();
    }
}

void MixView::leaveEvent(QEvent*) {
    over_.reset();
    update();
}

void MixView::keyPressEvent(QKeyEvent* e) {
    Cell to = chosen_;
    switch (e->key()) {
    case Qt::Key_Down:
        ++to.talker;
        break;
    case Qt::Key_Up:
        --to.talker;
        break;
    case Qt::Key_Right:
        ++to.listener;
        break;
    case Qt::Key_Left:
        --to.listener;
        break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return turn();
    default:
        return QWidget::keyPressEvent(e);
    }
    choose(to);
}

void MixView::contextMenuEvent(QContextMenuEvent* e) {
    if (const auto cell = at(e->pos()))
        choose(*cell);
    emit wantsMenu(e->globalPos());
}

bool MixView::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(e);
        if (const auto cell = at(help->pos())) {
            const auto before = std::exchange(chosen_, *cell);
            QToolTip::showText(help->globalPos(), words(), this);
            chosen_ = before;
        } else {
            QToolTip::hideText();
        }
        return true;
    }
    return QWidget::event(e);
}

} // namespace loom::app
