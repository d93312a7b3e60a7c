#include "app/talk/talk_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

namespace loom::app {

using namespace project;

namespace {

constexpr double openDb = -6; // a lane above is drawn open

QString minus(const QString& number) {
    return QString(number).replace('-', QChar(0x2212));
}
QString figureText(double v, int digits, const QString& unit) {
    if (!std::isfinite(v) || v < -150)
        return QString::fromUtf8("\u2014");
    const double shown = std::round(v * std::pow(10, digits)) / std::pow(10, digits);
    return minus(QString::number(shown == 0 ? 0.0 : shown, 'f', digits)) + (unit.isEmpty() ? "" : " " + unit);
}

QString portOf(const Conversation::Microphone& m) {
    return q(m.input.port);
}

} // namespace

TalkView::TalkView(TalkState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("talkView");
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("The conversation: microphones, and what the far end gets");
    setMouseTracking(true);
    connect(&state, &TalkState::changed, this, [this] {
        drawn_.clear();
        atOnce_.reset();
        setMinimumHeight(sizeHint().height());
        update();
    });
    connect(&state, &TalkState::moved, this, qOverload<>(&QWidget::update));
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

double TalkView::top() const {
    return px(34);
}

bool TalkView::narrow() const {
    return width() <= px(760);
}

double TalkView::rowHeight() const {
    if (narrow())
        return px(30);
    const auto rows = std::max<std::size_t>(state_.talk().microphones.size() + 2, 4);
    const double room = (height() - top() - px(24)) / static_cast<double>(rows);
    return std::clamp(room, px(22), px(36));
}

QSize TalkView::sizeHint() const {
    const auto rows = static_cast<double>(state_.talk().microphones.size()) + 2;
    const auto& c = state_.talk();
    const auto lines = talkFigures().size() + c.farEnds.size() + c.listeners.size() + c.mutePlaces.size();
    const double below = narrow() ? px(180) + px(21) * static_cast<double>(lines) : 0;
    return {Theme::get().ipx(300), static_cast<int>(top() + rows * px(narrow() ? 30 : 26) + px(40) + below)};
}

QRectF TalkView::rowRect(int microphone) const {
    const double right = narrow() ? width() : width() * 0.64;
    return {0, top() + microphone * rowHeight(), right - px(12), rowHeight()};
}

bool TalkView::live() const {
    const auto* d = state_.session().device();
    if (!state_.session().bench().running() || !d)
        return false;
    const auto& groups = state_.talk().groups;
    return std::any_of(groups.begin(), groups.end(), [&](const auto& g) { return g.device == d->id; });
}

void TalkView::paintEvent(QPaintEvent* e) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto& c = state_.talk();
    if (c.empty())
        return;
    const QRectF first = rowRect(0);
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(13, true));
    QString title = c.groups.empty() ? "Microphones" : q(c.groups.front().name);
    const double titleWidth = p.fontMetrics().horizontalAdvance(title) + px(16);
    p.drawText(QRectF(px(4), 0, first.width(), px(30)), Qt::AlignVCenter, title);
    p.setFont(Theme::get().text(11));
    p.setPen(tokens().ink2);
    QString says = "no group: every microphone is always open";
    if (!c.groups.empty())
        if (const auto* d = state_.project().device(c.groups.front().device); d && d->program)
            if (const auto* b = d->program->find(c.groups.front().block)) {
                const engine::BlockView view(*b);
                const auto value = [&](const char* id) {
                    return view.values[static_cast<std::size_t>(view.table->indexOf(id))];
                };
                const int last = static_cast<int>(value("last"));
                says = value("mode") >= 0.5 ? QString("one gain is shared among all")
                                            : QString("at most %1 open \u00b7 %2")
                                                  .arg(value("limit"), 0, 'f', 0)
                                                  .arg(last == 0   ? "all close"
                                                       : last == 1 ? "the latest stays open"
                                                                   : "a chosen one stays open");
            }
    p.drawText(QRectF(px(4) + titleWidth, 0, first.width() - titleWidth, px(30)), Qt::AlignVCenter, says);
    p.drawText(QRectF(px(4), 0, first.width() - px(4), px(30)), Qt::AlignVCenter | Qt::AlignRight,
               live()           ? QString("last %1 s, now at the right").arg(BenchEngine::historySeconds)
               : state_.proof() ? QString("as it was shown, %1 s").arg(state_.proof()->sent.size() / 48000)
                                : QString());
    for (int m = 0; m < static_cast<int>(c.microphones.size()); ++m)
        if (const auto row = rowRect(m); row.intersects(e->rect())) // what is scrolled away costs nothing
            paintRow(p, row, m);
    paintCourses(p);
    if (narrow()) // below
        paintFigures(p, QRectF(px(4), top() + (static_cast<double>(c.microphones.size()) + 2) * rowHeight(),
                               width() - px(8), height()));
    else
        paintFigures(p, QRectF(first.right() + px(24), 0, width() - first.right() - px(28), height()));
}

void TalkView::paintRow(QPainter& p, const QRectF& row, int m) {
    const auto& c = state_.talk();
    const auto& mic = c.microphones[static_cast<std::size_t>(m)];
    if (m == state_.microphone() || state_.microphones().count(m)) {
        p.fillRect(row, tokens().saffronTint);
        if (hasFocus() && m == state_.microphone()) {
            p.setPen(QPen(tokens().saffron, px(1)));
            p.setBrush(Qt::NoBrush);
            p.drawRect(row.adjusted(0.5, 0.5, -0.5, -0.5));
        }
    }
    const QRectF name(row.left() + px(8), row.top(), px(150), row.height());
    p.setFont(Theme::get().text(12, m == state_.microphone()));
    p.setPen(tokens().ink);
    const bool two = row.height() >= px(30);
    p.drawText(two ? QRectF(name.left(), name.top() + px(1), name.width(), name.height() * 0.55) : name,
               Qt::AlignLeft | (two ? Qt::AlignBottom : Qt::AlignVCenter),
               p.fontMetrics().elidedText(q(mic.name), Qt::ElideRight, static_cast<int>(name.width())));
    QString below = portOf(mic);
    if (!mic.role.empty())
        below += QString::fromUtf8(" \u00b7 ") + q(roleName(mic.role)).toLower();
    if (mic.source.empty())
        below += QString::fromUtf8(" \u00b7 no program takes it");
    if (two) {
        p.setFont(Theme::get().number(9));
        p.setPen(mic.source.empty() ? tokens().fault : tokens().ink3);
        p.drawText(QRectF(name.left(), name.top() + name.height() * 0.55, px(226), name.height() * 0.42),
                   Qt::AlignLeft | Qt::AlignTop, below);
    }
    paintLane(p, row, m);
}

// Below the microphones: how many are open at once, and what is sent, or how much echo is taken away.
void TalkView::paintCourses(QPainter& p) {
    const auto& c = state_.talk();
    const auto n = static_cast<int>(c.microphones.size());
    if (live() || !atOnce_) {
        std::vector<double> open;
        for (int m = 0; m < n; ++m) {
            const auto gains = gainsOf(m);
            if (open.size() < gains.size())
                open.resize(gains.size());
            for (std::size_t i = 0; i < gains.size(); ++i)
                open[i] += gains[i] > openDb;
        }
        double most = 1;
        for (const double v : open)
            most = std::max(most, v);
        std::vector<double> shares;
        const auto step = std::max<std::size_t>(1, open.size() / 1000); // as fine as it can be seen
        for (std::size_t i = 0; i < open.size(); i += step)
            shares.push_back(open[i] / most);
        atOnce_ = {std::move(shares), {open.empty() ? 0 : open.back(), most}};
    }
    if (!atOnce_->first.empty())
        paintCourse(p, rowRect(n).adjusted(0, px(4), 0, px(4)), "open at once",
                    QString("%1, at most %2").arg(atOnce_->second[0], 0, 'f', 0).arg(atOnce_->second[1], 0, 'f', 0),
                    tokens().ink, atOnce_->first);
    const auto below = rowRect(n + 1).adjusted(0, px(4), 0, px(4));
    if (const auto* proof = state_.proof(); proof && !live()) {
        std::vector<double> levels;
        constexpr std::size_t piece = 9600;
        double power = 0;
        for (std::size_t i = 0; (i + 1) * piece <= proof->sent.size(); ++i) {
            double sum = 0;
            for (std::size_t k = i * piece; k < (i + 1) * piece; ++k)
                sum += static_cast<double>(proof->sent[k]) * proof->sent[k];
            power = std::max(power, sum / piece);
            levels.push_back((10 * std::log10(std::max(sum / piece, 1e-9)) + 70) / 60);
        }
        paintCourse(p, below, "far end is sent", figureText(10 * std::log10(std::max(power, 1e-9)), 0, "dBFS"),
                    Theme::get().thread("woad"), levels);
    } else if (live()) {
        for (const auto& mic : c.microphones) {
            if (mic.echo.empty())
                continue;
            const auto& taken = state_.session().bench().history(mic.echo, 0);
            std::vector<double> shares;
            for (const float v : taken)
                shares.push_back(v / 60.0);
            paintCourse(p, below, "echo taken away", taken.empty() ? QString() : figureText(taken.back(), 0, "dB"),
                        tokens().ok, shares);
            break;
        }
    }
}

QRectF TalkView::laneRect(const QRectF& row) const {
    return {row.left() + px(284), row.top() + px(4), row.width() - px(284), row.height() - px(8)};
}

// Gains of a microphone over time, oldest first: of the bench, else of what was proved.
std::vector<float> TalkView::gainsOf(int m) const {
    const auto& mic = state_.talk().microphones[static_cast<std::size_t>(m)];
    if (live() && mic.group >= 0) {
        const auto& history = state_.session().bench().history(
            state_.talk().groups[static_cast<std::size_t>(mic.group)].block, 1 + mic.lane);
        return {history.begin(), history.end()};
    }
    if (const auto* proof = live() ? nullptr : state_.proof())
        for (const auto& l : proof->lanes)
            if (l.name == mic.name)
                return l.db;
    return {};
}

TalkView::Drawn TalkView::drawnOf(const std::vector<float>& gains) const {
    Drawn all;
    const double n = static_cast<double>(gains.size());
    for (std::size_t i = 0; i < gains.size();) {
        if (gains[i] <= openDb) {
            ++i;
            continue;
        }
        const auto from = i;
        while (i < gains.size() && gains[i] > openDb)
            ++i;
        all.stretches.emplace_back(static_cast<double>(from) / n, static_cast<double>(i - from) / n);
    }
    if (!gains.empty())
        all.last = gains.back();
    return all;
}

const TalkView::Drawn& TalkView::drawn(int m) {
    if (live())
        return drawn_[m] = drawnOf(gainsOf(m));
    const auto it = drawn_.find(m);
    return it != drawn_.end() ? it->second : drawn_[m] = drawnOf(gainsOf(m));
}

// A line over the same time as the lanes, from 0 (below) to 1.
void TalkView::paintCourse(QPainter& p, const QRectF& row, const QString& name, const QString& now,
                           const QColor& colour, const std::vector<double>& values) {
    p.setFont(Theme::get().text(11));
    p.setPen(tokens().ink2);
    p.drawText(QRectF(px(8), row.top(), px(180), row.height()), Qt::AlignVCenter, name);
    p.setFont(Theme::get().number(11, true));
    p.setPen(tokens().ink);
    p.drawText(QRectF(px(150), row.top(), px(126), row.height()), Qt::AlignVCenter | Qt::AlignRight, now);
    if (values.size() < 2)
        return;
    const auto lane = laneRect(row);
    QPolygonF line;
    for (std::size_t i = 0; i < values.size(); ++i)
        line << QPointF(lane.left() + lane.width() * static_cast<double>(i) / static_cast<double>(values.size() - 1),
                        lane.bottom() - lane.height() * std::clamp(values[i], 0.0, 1.0));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(colour, px(1.4)));
    p.drawPolyline(line);
}

void TalkView::paintLane(QPainter& p, const QRectF& row, int m) {
    const auto& c = state_.talk();
    const auto& mic = c.microphones[static_cast<std::size_t>(m)];
    const QRectF lane = laneRect(row);
    p.setPen(Qt::NoPen);
    p.setBrush(tokens().shade);
    p.drawRoundedRect(lane, px(4), px(4));
    const auto& shown = drawn(m);
    if (live() && mic.group >= 0) { // level beside the name, as it is now
        const auto& g = c.groups[static_cast<std::size_t>(mic.group)];
        const auto* comes = state_.session().program()->into({g.block, mic.lane}); // as the group hears it
        const auto db = state_.session().bench().meter(comes ? comes->from : engine::PortRef{mic.source, 0}).peakDb;
        const QRectF meter(row.left() + px(160), row.center().y() - px(3), px(56), px(6));
        p.setBrush(tokens().hair);
        p.drawRoundedRect(meter, px(3), px(3));
        p.setBrush(tokens().ok);
        p.drawRoundedRect(
            QRectF(meter.left(), meter.top(), meter.width() * std::clamp((db + 60) / 60, 0.02, 1.0), meter.height()),
            px(3), px(3));
    }
    if (shown.last) {
        const double now = *shown.last;
        p.setFont(Theme::get().number(10, now > openDb));
        p.setPen(now > openDb ? tokens().ink : tokens().ink3);
        p.drawText(QRectF(row.left() + px(218), row.top(), px(60), row.height()), Qt::AlignVCenter | Qt::AlignRight,
                   figureText(now, 0, "dB"));
        p.setPen(Qt::NoPen);
    }
    p.setBrush(Theme::get().thread("madder"));
    for (const auto& [from, length] : shown.stretches)
        p.drawRoundedRect(QRectF(lane.left() + lane.width() * from, lane.top(),
                                 std::max(px(1.5), lane.width() * length), lane.height()),
                          px(2), px(2));
}

double TalkView::card(QPainter& p, const QRectF& at, const QString& title, const QString& right, const QColor& dot) {
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(at, px(6), px(6));
    p.setFont(Theme::get().text(12, true));
    p.setPen(tokens().ink);
    const QRectF head(at.left() + px(12), at.top() + px(6), at.width() - px(24), px(20));
    p.drawText(head, Qt::AlignVCenter, title);
    p.setFont(Theme::get().text(11));
    const double wide = p.fontMetrics().horizontalAdvance(right);
    p.drawText(head, Qt::AlignVCenter | Qt::AlignRight, right);
    if (!right.isEmpty()) {
        p.setPen(Qt::NoPen);
        p.setBrush(dot);
        p.drawEllipse(QPointF(head.right() - wide - px(9), head.center().y()), px(4), px(4));
    }
    return head.bottom();
}

void TalkView::paintFigures(QPainter& p, QRectF at) {
    const auto& c = state_.talk();
    p.setFont(Theme::get().text(13, true));
    p.setPen(tokens().ink);
    p.drawText(QRectF(at.left(), at.top(), at.width(), px(30)), Qt::AlignVCenter, "What the far end gets");
    double y = at.top() + px(34);
    const auto* record = state_.kept();
    const double line = px(21);
    // The figures, with their targets.
    std::vector<const TalkFigure*> shown;
    for (const auto& f : talkFigures())
        if (record && record->figures.count(f.id))
            shown.push_back(&f);
    const double high = px(34) + line * static_cast<double>(std::max<std::size_t>(shown.size(), 1)) + px(6);
    const QString state = state_.proving() ? QString("running, %1 %").arg(100 * state_.progress(), 0, 'f', 0)
                          : !record        ? QString("not shown yet")
                          : state_.stale() ? QString("stale: the design moved on")
                                           : QString("shown");
    const auto far = std::find_if(c.farEnds.begin(), c.farEnds.end(),
                                  [](const auto& f) { return !f.source.empty() && !f.destination.empty(); });
    const QString name = far == c.farEnds.end() ? "No far end" : q(far->name + " \u00b7 " + far->port);
    double row = card(p, QRectF(at.left(), y, at.width(), high), name, state,
                      state_.proving() || state_.stale() ? tokens().caution
                      : record                           ? tokens().ok
                                                         : tokens().ink3);
    if (shown.empty()) {
        p.setFont(Theme::get().text(11));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(at.left() + px(12), row, at.width() - px(24), line), Qt::AlignVCenter,
                   far == c.farEnds.end() ? "Nobody far away is heard here: First pass proposes one."
                                          : "Run it: speech through the room tells what they hear.");
    }
    for (const auto* f : shown) {
        const double v = record->figures.at(f->id);
        const bool good = meets(*f, v);
        const QRectF cell(at.left() + px(12), row, at.width() - px(24), line);
        p.setFont(Theme::get().text(11));
        p.setPen(tokens().ink);
        p.drawText(cell, Qt::AlignVCenter,
                   p.fontMetrics().elidedText(f->label, Qt::ElideRight, static_cast<int>(cell.width() * 0.5)));
        p.setFont(Theme::get().number(11, true));
        p.drawText(QRectF(cell.left(), cell.top(), cell.width() * 0.72, cell.height()),
                   Qt::AlignVCenter | Qt::AlignRight, figureText(v, f->digits, f->unit));
        p.setPen(Qt::NoPen);
        p.setBrush(good ? tokens().ok : tokens().fault);
        p.drawEllipse(QPointF(cell.left() + cell.width() * 0.72 + px(12), cell.center().y()), px(4), px(4));
        p.setFont(Theme::get().text(10));
        p.setPen(good ? tokens().ink2 : tokens().fault);
        p.drawText(
            QRectF(cell.left() + cell.width() * 0.72 + px(22), cell.top(), cell.width(), cell.height()),
            Qt::AlignVCenter,
            QString("%1 %2").arg(f->most ? "at most" : "at least", minus(QString::number(f->target, 'f', f->digits))));
        row += line;
    }
    y += high + px(10);
    // Who listens, and what mutes together.
    const auto lines = [&](const QString& title, const std::vector<std::pair<QString, QString>>& all) {
        if (all.empty() || y + px(30) > at.bottom())
            return;
        p.setFont(Theme::get().text(12, true));
        p.setPen(tokens().ink);
        p.drawText(QRectF(at.left(), y, at.width(), px(22)), Qt::AlignVCenter, title);
        y += px(24);
        for (const auto& [what, says] : all) {
            if (y + px(20) > at.bottom())
                return;
            p.setFont(Theme::get().text(11));
            p.setPen(tokens().ink);
            p.drawText(QRectF(at.left() + px(12), y, at.width() * 0.5, px(20)), Qt::AlignVCenter, what);
            p.setPen(tokens().ink2);
            p.drawText(QRectF(at.left() + at.width() * 0.52, y, at.width() * 0.46, px(20)), Qt::AlignVCenter, says);
            y += px(20);
        }
        y += px(8);
    };
    std::vector<std::pair<QString, QString>> far2, listens, mutes;
    for (const auto& f : c.farEnds)
        far2.emplace_back(q(f.name), q(f.port) + (!state_.lineNow(f.device, f.port).isEmpty()
                                                      ? QString::fromUtf8(" \u00b7 ") + state_.lineNow(f.device, f.port)
                                                  : f.source.empty()      ? ", is not heard"
                                                  : f.destination.empty() ? ", hears nothing"
                                                  : f.mutes.empty()       ? ", nothing mutes it"
                                                                          : QString()));
    for (const auto& l : c.listeners)
        if (l.kind != Conversation::Listener::Kind::farEnd)
            listens.emplace_back(q(l.name), QString(nameOf(l.kind)));
    for (const auto& m : c.mutePlaces)
        mutes.emplace_back(q(m.name), m.sets ? "sets and shows it" : m.shows ? "shows it" : "takes no part");
    lines("Far ends", far2);
    lines("In the room", listens);
    lines("Mute", mutes);
}

void TalkView::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    setMinimumHeight(sizeHint().height()); // another width may need another height
}

void TalkView::mousePressEvent(QMouseEvent* e) {
    for (int m = 0; m < static_cast<int>(state_.talk().microphones.size()); ++m)
        if (rowRect(m).contains(e->position())) {
            auto all = state_.microphones();
            if (e->modifiers() & Qt::ControlModifier) {
                if (!all.insert(m).second)
                    all.erase(m);
                return state_.chooseMicrophones(all);
            }
            if (e->modifiers() & Qt::ShiftModifier && state_.microphone() >= 0) {
                for (int i = std::min(m, state_.microphone()); i <= std::max(m, state_.microphone()); ++i)
                    all.insert(i);
                return state_.chooseMicrophones(all);
            }
            if (e->button() == Qt::RightButton && all.count(m))
                return;
            return state_.chooseMicrophone(m);
        }
}

void TalkView::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Down || e->key() == Qt::Key_Up) {
        const int to = std::max(0, state_.microphone() + (e->key() == Qt::Key_Down ? 1 : -1));
        if (!(e->modifiers() & Qt::ShiftModifier))
            return state_.chooseMicrophone(to);
        auto all = state_.microphones();
        all.insert(to);
        const auto grown = all;
        state_.chooseMicrophone(to);
        return state_.chooseMicrophones(grown);
    }
    QWidget::keyPressEvent(e);
}

void TalkView::contextMenuEvent(QContextMenuEvent* e) {
    emit wantsMenu(e->globalPos());
}

bool TalkView::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(e);
        for (int m = 0; m < static_cast<int>(state_.talk().microphones.size()); ++m)
            if (rowRect(m).contains(help->pos())) {
                const auto& mic = state_.talk().microphones[static_cast<std::size_t>(m)];
                QString text = q(mic.name) + "\n" + q(mic.input.device + "/" + mic.input.port);
                text += mic.echo.empty() ? "\nNo echo canceller" : "\nEcho taken away by " + q(mic.echo);
                if (const auto* proof = state_.proof())
                    for (const auto& t : proof->talkers)
                        if (t.microphone == mic.name)
                            text += QString("\n%1: %2 dBFS at the far end, STI %3 (%4 in the room)")
                                        .arg(q(t.name), minus(QString::number(t.levelDb, 'f', 1)))
                                        .arg(t.sti, 0, 'f', 2)
                                        .arg(t.roomSti, 0, 'f', 2);
                QToolTip::showText(help->globalPos(), text, this);
                return true;
            }
        QToolTip::hideText();
        return true;
    }
    return QWidget::event(e);
}

} // namespace loom::app
