#include "app/talk/mute_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace loom::app {

using namespace project;

namespace {

constexpr const char* does[] = {"sets", "shows", "off"};
constexpr const char* doesWords[] = {"sets it", "shows it", "takes no part"};

} // namespace

MuteView::MuteView(TalkState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("muteView");
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Mute: who sets it and who shows it");
    connect(&state, &TalkState::changed, this, &MuteView::again);
    connect(&state, &TalkState::moved, this, qOverload<>(&QWidget::update));
    connect(&Theme::get(), &Theme::changed, this, &MuteView::again);
}

void MuteView::again() {
    if (!isVisible())
        return;
    setMinimumHeight(sizeHint().height());
    choose(chosen_);
}

void MuteView::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    again();
}

bool MuteView::narrow() const {
    return width() < px(820);
}

double MuteView::rowHeight() const {
    return narrow() ? px(58) : px(36);
}

double MuteView::top() const {
    return narrow() ? px(60) : px(84);
}

double MuteView::nameWidth() const {
    return narrow() ? width() - px(24) : std::min(px(260), width() * 0.27);
}

QSize MuteView::sizeHint() const {
    return {Theme::get().ipx(320), static_cast<int>(top() + rowHeight() * static_cast<double>(board().places.size()) +
                                                    px(60) + px(26) * static_cast<double>(board().cuts.size()))};
}

void MuteView::choose(int place) {
    chosen_ = std::clamp(place, 0, std::max(0, static_cast<int>(board().places.size()) - 1));
    update();
}

QRectF MuteView::pillRect(int place, int which) const {
    const double y = top() + rowHeight() * place + (narrow() ? px(28) : px(5));
    const double left = narrow() ? px(12) : nameWidth() + px(20);
    const double wide[] = {px(66), px(76), px(104)};
    double x = left;
    for (int i = 0; i < which; ++i)
        x += wide[i] + px(4);
    return {x, y, wide[which], px(26)};
}

QRectF MuteView::cutRect() const {
    const double y = top() + rowHeight() * static_cast<double>(board().places.size()) + px(14);
    return {px(220), y, px(190), px(26)};
}

bool MuteView::nothingCuts() const {
    return std::any_of(board().cuts.begin(), board().cuts.end(), [](const auto& c) { return c.blocks.empty(); });
}

void MuteView::cut() {
    const auto space = spaceSaid(state_.project(), state_.space().key, state_.space().state);
    if (space)
        state_.edit(cutFarEnds(state_.project(), *space));
}

void MuteView::put(int place, int which) {
    if (place < 0 || place >= static_cast<int>(board().places.size()))
        return;
    const auto one = board().places[static_cast<std::size_t>(place)];
    choose(place);
    const auto space = spaceSaid(state_.project(), state_.space().key, state_.space().state);
    if (space && one.does != does[which])
        state_.edit(setMutePlace(state_.project(), *space, one.device, one.key, does[which]));
}

void MuteView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto& b = board();
    // One state for the space, in large letters.
    const auto now = state_.mutedNow();
    const bool disagree = state_.disagree();
    const QRectF banner(px(8), px(6), width() - px(16), px(46));
    p.setPen(QPen(disagree ? tokens().fault : tokens().hair, px(disagree ? 2 : 1)));
    p.setBrush(disagree ? tokens().faultTint : tokens().card);
    p.drawRoundedRect(banner, px(6), px(6));
    p.setPen(Qt::NoPen);
    p.setBrush(disagree ? tokens().fault : !now ? tokens().ink3 : *now ? tokens().caution : tokens().ok);
    p.drawEllipse(QPointF(banner.left() + px(18), banner.center().y()), px(6), px(6));
    p.setFont(Theme::get().text(14, true));
    p.setPen(tokens().ink);
    const QString word = disagree ? QString("%1: its places do not agree").arg(q(state_.space().name))
                         : !now   ? QString("%1: nothing runs that tells").arg(q(state_.space().name))
                         : *now   ? QString("%1 is muted").arg(q(state_.space().name))
                                  : QString("%1 is live").arg(q(state_.space().name));
    p.drawText(banner.adjusted(px(34), 0, 0, narrow() ? -px(18) : 0), Qt::AlignVCenter, word);
    p.setFont(Theme::get().text(11));
    p.setPen(tokens().ink2);
    const auto without = b.withoutNetwork();
    const QString says = !b.any() ? QString("Nothing sets it yet: press First pass, or say below what sets it.")
                         : without.empty() ? QString("Without the network nothing sets it.")
                                           : QString("Without the network %1 still does.").arg(q(without));
    if (narrow())
        p.drawText(banner.adjusted(px(34), px(22), -px(8), 0), Qt::AlignVCenter, says);
    else
        p.drawText(banner.adjusted(px(34), 0, -px(12), 0), Qt::AlignVCenter | Qt::AlignRight, says);
    p.setFont(Theme::get().text(10));
    p.setPen(tokens().ink3);
    if (!narrow()) {
        p.drawText(QRectF(px(12), px(58), nameWidth(), px(22)), Qt::AlignVCenter, "place");
        p.drawText(QRectF(nameWidth() + px(20), px(58), px(250), px(22)), Qt::AlignVCenter,
                   "what it does about the mute");
        p.drawText(QRectF(nameWidth() + px(290), px(58), px(200), px(22)), Qt::AlignVCenter, "hears of the others");
        p.drawText(QRectF(width() - px(130), px(58), px(120), px(22)), Qt::AlignVCenter, "now");
    }
    for (int i = 0; i < static_cast<int>(b.places.size()); ++i)
        paintPlace(p, i);
    double y = top() + rowHeight() * static_cast<double>(b.places.size()) + px(14);
    p.setFont(Theme::get().text(12, true));
    p.setPen(tokens().ink);
    p.drawText(QRectF(px(12), y, px(210), px(26)), Qt::AlignVCenter, "Where its sound is cut");
    if (nothingCuts()) {
        p.setPen(QPen(tokens().ink2, px(1)));
        p.setBrush(tokens().card);
        p.drawRoundedRect(cutRect(), px(5), px(5));
        p.setFont(Theme::get().text(11));
        p.setPen(tokens().ink);
        p.drawText(cutRect(), Qt::AlignCenter, "Put a mute on the way");
    }
    y += px(30);
    p.setFont(Theme::get().text(11));
    for (const auto& c : b.cuts) {
        const auto* d = state_.project().device(c.device);
        p.setPen(c.blocks.empty() ? tokens().fault : tokens().ink);
        p.drawText(QRectF(px(20), y, width() - px(30), px(24)), Qt::AlignVCenter,
                   q(c.farEnd) + QString::fromUtf8(" \u00b7 ") +
                       (c.blocks.empty()
                            ? QString("nothing cuts it: it hears all that is said")
                            : QString("cut in %1, whatever becomes of the network").arg(d ? q(d->name) : q(c.device))));
        y += px(26);
    }
}

void MuteView::paintPlace(QPainter& p, int i) {
    const auto& one = board().places[static_cast<std::size_t>(i)];
    const QRectF row(px(4), top() + rowHeight() * i, width() - px(8), rowHeight());
    if (i == chosen_) {
        p.fillRect(row, tokens().saffronTint);
        if (hasFocus()) {
            p.setPen(QPen(tokens().saffron, px(1)));
            p.setBrush(Qt::NoBrush);
            p.drawRect(row.adjusted(0.5, 0.5, -0.5, -0.5));
        }
    }
    const double line = narrow() ? px(26) : row.height();
    p.setFont(Theme::get().text(12, true));
    p.setPen(tokens().ink);
    const QRectF name(px(12), row.top(), nameWidth() - px(4), line);
    p.drawText(name, Qt::AlignVCenter,
               p.fontMetrics().elidedText(q(one.name), Qt::ElideRight,
                                          static_cast<int>(name.width() - px(narrow() ? 190 : 84))));
    p.setFont(Theme::get().text(10));
    p.setPen(tokens().ink2);
    p.drawText(narrow() ? name.adjusted(0, 0, -px(96), 0) : name, Qt::AlignVCenter | Qt::AlignRight, q(one.kind));
    if (one.key != "cut") {
        for (int k = 0; k < 3; ++k) {
            const auto pill = pillRect(i, k);
            const bool is = one.does == does[k], may = k > 0 || one.maySet;
            p.setPen(is ? QPen(tokens().ink, px(1.4)) : QPen(tokens().hair, px(1)));
            p.setBrush(is ? (k == 2 ? tokens().shade : tokens().card) : tokens().sheet);
            p.drawRoundedRect(pill, px(13), px(13));
            p.setFont(Theme::get().text(10, is));
            p.setPen(!may ? tokens().ink3 : is ? tokens().ink : tokens().ink2);
            p.drawText(pill, Qt::AlignCenter, may ? doesWords[k] : "cannot");
        }
    } else {
        p.setFont(Theme::get().text(11));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(pillRect(i, 0).left(), pillRect(i, 0).top(), px(250), px(26)), Qt::AlignVCenter,
                   "cuts the sound");
    }
    p.setFont(Theme::get().text(11));
    p.setPen(tokens().ink2);
    const double hears = narrow() ? pillRect(i, 2).right() + px(10) : nameWidth() + px(290);
    const double nowX = narrow() ? width() - px(92) : width() - px(130);
    p.drawText(QRectF(hears, pillRect(i, 0).top(), nowX - hears - px(8), px(26)), Qt::AlignVCenter,
               QString(nameOf(one.line)) +
                   (!narrow() && one.cuts && one.key == "self" ? ", and is silent itself" : ""));
    const auto now = one.does == "off" ? std::nullopt : state_.mutedNow(one.device, one.key);
    p.setPen(now ? Qt::NoPen : QPen(tokens().ink3, px(1)));
    p.setBrush(!now ? QBrush(Qt::NoBrush) : *now ? QBrush(tokens().caution) : QBrush(tokens().ok));
    const double dotY = narrow() ? row.top() + px(13) : row.center().y();
    p.drawEllipse(QPointF(nowX + px(6), dotY), px(5), px(5));
    p.setFont(Theme::get().text(11, now.has_value()));
    p.setPen(now ? tokens().ink : tokens().ink3);
    p.drawText(QRectF(nowX + px(18), dotY - px(12), px(100), px(24)), Qt::AlignVCenter,
               !now   ? "unknown"
               : *now ? "muted"
                      : "live");
}

void MuteView::mousePressEvent(QMouseEvent* e) {
    if (nothingCuts() && cutRect().contains(e->position()))
        return cut();
    for (int i = 0; i < static_cast<int>(board().places.size()); ++i) {
        for (int k = 0; k < 3; ++k)
            if (e->button() == Qt::LeftButton && pillRect(i, k).contains(e->position()) &&
                board().places[static_cast<std::size_t>(i)].key != "cut")
                return put(i, k);
        if (QRectF(0, top() + rowHeight() * i, width(), rowHeight()).contains(e->position()))
            choose(i);
    }
}

void MuteView::keyPressEvent(QKeyEvent* e) {
    if (board().places.empty())
        return QWidget::keyPressEvent(e);
    const auto& one = board().places[static_cast<std::size_t>(chosen_)];
    const int now = one.does == "sets" ? 0 : one.does == "shows" ? 1 : 2;
    switch (e->key()) {
    case Qt::Key_Down:
        return choose(chosen_ + 1);
    case Qt::Key_Up:
        return choose(chosen_ - 1);
    case Qt::Key_Left:
        return put(chosen_, std::max(one.maySet ? 0 : 1, now - 1));
    case Qt::Key_Right:
        return put(chosen_, std::min(2, now + 1));
    default:
        QWidget::keyPressEvent(e);
    }
}

void MuteView::contextMenuEvent(QContextMenuEvent* e) {
    emit wantsMenu(e->globalPos());
}

} // namespace loom::app
