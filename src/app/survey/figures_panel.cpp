#include "app/survey/figures_panel.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "rooms/owned_ports.h"
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace loom::app {

FiguresPanel::FiguresPanel(SurveyState& state, QWidget* parent) : QScrollArea(parent), state_(state) {
    setObjectName("figures");
    setAccessibleName("Figures of the room");
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::NoFocus);
    connect(&state, &SurveyState::changed, this, &FiguresPanel::rebuild);
    connect(&state, &SurveyState::computed, this, &FiguresPanel::rebuild);
    connect(&Theme::get(), &Theme::changed, this, &FiguresPanel::rebuild);
    rebuild();
}

// good: 1 reached, 0 missed, -1 no target. A word says it too, for whoever does not see colours.
void FiguresPanel::addLine(QVBoxLayout* box, const QString& label, const QString& value, int good, const QString& tip) {
    auto* line = new QHBoxLayout;
    line->setSpacing(6);
    auto* dot = new QLabel(good == 1 ? "\u25cf" : good == 0 ? "\u25b2" : "\u00b7");
    dot->setStyleSheet("color: " + (good == 1 ? tokens().ok : good == 0 ? tokens().caution : tokens().ink3).name());
    dot->setFixedWidth(Theme::get().ipx(12));
    dot->setAccessibleName(good == 1 ? "reached" : good == 0 ? "missed" : "");
    auto* name = new QLabel(label);
    name->setWordWrap(true);
    name->setMinimumWidth(1);
    auto* figure = new QLabel(value);
    figure->setFont(Theme::get().number(11, true));
    figure->setStyleSheet("font-family: 'JetBrains Mono'; font-weight: bold");
    figure->setAlignment(Qt::AlignRight | Qt::AlignTop);
    figure->setMinimumWidth(figure->sizeHint().width());
    line->addWidget(dot);
    line->addWidget(name, 1);
    line->addWidget(figure);
    for (auto* w : {dot, name, figure})
        w->setToolTip(tip);
    box->addLayout(line);
}

void FiguresPanel::showEvent(QShowEvent* e) {
    if (stale_)
        rebuild();
    QScrollArea::showEvent(e);
}

void FiguresPanel::rebuild() {
    stale_ = !isVisible();
    if (stale_ && widget())
        return; // when it is seen
    setFixedWidth(Theme::get().ipx(258));
    auto* inner = new QWidget;
    inner->setObjectName("inner");
    inner->setStyleSheet("#inner { background: transparent; }");
    auto* box = new QVBoxLayout(inner);
    box->setContentsMargins(12, 8, 12, 8);
    box->setSpacing(Theme::get().ipx(4));
    const auto& result = state_.result();
    const auto* room = state_.session().project().room(state_.room());
    const auto bold = [&](const QString& text) {
        auto* l = new QLabel(text);
        l->setWordWrap(true);
        l->setStyleSheet("font-weight: bold");
        box->addWidget(l);
    };
    const auto quiet = [&](const QString& text) {
        auto* l = new QLabel(text);
        l->setWordWrap(true);
        l->setStyleSheet("color: " + tokens().ink2.name());
        box->addWidget(l);
        return l;
    };
    if (!room) {
        bold("Figures");
        quiet("They stand here once there is a room.");
    } else if (!result.figures) {
        bold(q(room->name));
        quiet(state_.busy() ? "Being worked out\u2026" : "Draw its outline, then they stand here.");
    } else {
        const auto& f = *result.figures;
        bold(q(f.name) + (f.rooms.size() > 1 ? ", joined" : ""));
        quiet(QString("%1 m\u00b2 \u00b7 %2 m\u00b3 \u00b7 %3 seats")
                  .arg(f.floorArea, 0, 'f', 0)
                  .arg(f.volume, 0, 'f', 0)
                  .arg(f.seats));
        const auto middle = [](const acoustics::Bands& b) { return (b[3] + b[4]) / 2; };
        addLine(box, "Reverberation, 0.5\u20131 kHz", QString("%1 s").arg(middle(f.eyring), 0, 'f', 2), -1,
                "Eyring's formula with the air. Sabine's gives " + QString::number(middle(f.sabine), 'f', 2) + " s.");
        if (middle(result.images) > 0)
            addLine(
                box, "the same by image sources", QString("%1 s").arg(middle(result.images), 0, 'f', 2), -1,
                "T20 of a box of the room's size. Where absorption is uneven this is longer, and nearer to what will "
                "be measured; the guide says which to trust when.");
        addLine(box, "Room noise", QString("%1 dB(A)").arg(f.noiseA, 0, 'f', 0), -1);
        if (f.predicted) {
            const auto& t = room->targets;
            addLine(box, QString("Seats within \u00b13 dB (%1 %)").arg(t.within3 * 100, 0, 'f', 0),
                    QString("%1 %").arg(f.levels.within3 * 100, 0, 'f', 0), f.levels.within3 >= t.within3,
                    QString("Direct sound in the octave of 2 kHz, from %1 to %2 dB")
                        .arg(f.levels.least, 0, 'f', 1)
                        .arg(f.levels.most, 0, 'f', 1));
            addLine(box, QString("Clarity, worst seat (%1)").arg(t.sti, 0, 'f', 2),
                    QString("%1 STI").arg(f.worstSti, 0, 'f', 2), f.worstSti >= t.sti,
                    "At " + q(f.worstSeat) + QString("; C50 there %1 dB").arg(f.worstClarity, 0, 'f', 1));
            addLine(box, QString("Headroom at %1 dB(A)").arg(t.level, 0, 'f', 0),
                    QString("%1%2 dB").arg(f.headroom >= 0 ? "+" : "\u2212").arg(std::abs(f.headroom), 0, 'f', 1),
                    f.headroom >= 0);
            addLine(box, "Arrival spread, worst seat", QString("%1 ms").arg(f.farthestDelay * 1000, 0, 'f', 0),
                    f.farthestDelay < 0.03,
                    "Between loudspeakers that are about as loud there; above 30 ms it is an echo.");
        }
        if (!result.loops.empty())
            addLine(box, "Gain before feedback",
                    QString("%1%2 dB")
                        .arg(result.loops.front().spareDb >= 0 ? "+" : "\u2212")
                        .arg(std::abs(result.loops.front().spareDb), 0, 'f', 1),
                    result.loops.front().spareDb >= 0,
                    q(result.loops.front().microphone) +
                        QString(" would ring first, at %1 Hz. What is left until then; 6 dB of margin are taken off.")
                            .arg(result.loops.front().hz, 0, 'f', 0));
        if (!f.heard.empty()) {
            QStringList missed;
            for (const auto& h : f.heard)
                if (!h.good)
                    missed << q(h.voice);
            addLine(box, "Talkers picked up well", QString("%1 of %2").arg(f.talkersHeard).arg(f.heard.size()),
                    missed.isEmpty(), missed.isEmpty() ? QString() : "Not: " + missed.join(", "));
        }
        bold("Reverberation and noise");
        box->addWidget(new BandChart(state_));
    }
    if (const auto* b = state_.building(); b && room) {
        const auto ports = project::portsText(
            project::portsOf(state_.session().project(), project::spaceOf(*b, state_.wallState(), state_.room())));
        if (!ports.empty()) {
            bold("Ports of its own");
            QStringList lines;
            for (const auto& line : ports)
                lines << q(line);
            constexpr int most = 6;
            const int rest = static_cast<int>(lines.size()) - most;
            auto* said = quiet(lines.mid(0, most).join("\n") + (rest > 0 ? QString("\nand of %1 more").arg(rest) : ""));
            said->setObjectName("ports");
            said->setToolTip(lines.join("\n"));
        }
    }
    if (const auto* b = state_.building(); b && !b->states.empty()) {
        bold("Wall states");
        auto* row = new FlowLayout(4);
        box->addLayout(row);
        for (const auto& s : b->states) {
            auto* button = new QPushButton(q(s.name));
            button->setObjectName("state." + q(s.id));
            const bool here = state_.wallState() ? state_.wallState()->id == s.id : s.open.empty();
            button->setProperty("main", here);
            button->setCheckable(true);
            button->setChecked(here);
            connect(button, &QPushButton::clicked, this, [this, id = s.id] { state_.setWallState(id); });
            row->addWidget(button);
        }
    }
    if (!result.suggestions.empty())
        bold("Suggestions");
    for (std::size_t i = 0; i < result.suggestions.size(); ++i) {
        auto* what = new QLabel(q(result.suggestions[i].text) + ".");
        what->setWordWrap(true);
        box->addWidget(what);
        quiet(q(result.suggestions[i].why));
        auto* apply = new QPushButton("Apply");
        apply->setAccessibleName("Apply: " + q(result.suggestions[i].text));
        apply->setObjectName(QString("suggestion.%1").arg(i + 1));
        apply->setToolTip("Applies it; Ctrl+Z takes it back");
        connect(apply, &QPushButton::clicked, this, [this, i] { state_.applySuggestion(i); });
        box->addWidget(apply);
    }
    if (state_.busy()) {
        auto* stop = new QPushButton("Working it out\u2026 stop");
        stop->setObjectName("stopWork");
        connect(stop, &QPushButton::clicked, this, [this] { state_.cancel(); });
        box->addWidget(stop);
    }
    box->addStretch(1);
    if (auto* old = takeWidget())
        old->deleteLater();
    setWidget(inner);
}

BandChart::BandChart(SurveyState& state) : state_(state) {
    setMinimumHeight(Theme::get().ipx(112));
    setAccessibleName("Reverberation time and noise by octave");
}

void BandChart::paintEvent(QPaintEvent*) {
    const auto& figures = state_.result().figures;
    if (!figures)
        return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(Theme::get().number(9));
    const double side = p.fontMetrics().horizontalAdvance("10.0 s") + px(4); // the labels are never cut
    const QRectF r = QRectF(rect()).adjusted(side, px(4), -px(26), -px(18));
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().sheet);
    p.drawRoundedRect(r, px(4), px(4));
    const double most =
        std::max(0.5, std::ceil(*std::max_element(figures->eyring.begin() + 1, figures->eyring.end()) * 2) / 2);
    const auto x = [&](std::size_t b) { return r.left() + r.width() * (static_cast<double>(b) - 0.5) / 7; };
    const auto line = [&](const acoustics::Bands& values, double low, double high, const QColor& c,
                          Qt::PenStyle style) {
        p.setPen(QPen(c, px(1.8), style));
        QPolygonF points;
        for (std::size_t b = 1; b < 8; ++b)
            if (values[b] != 0)
                points << QPointF(x(b),
                                  r.bottom() - r.height() * std::clamp((values[b] - low) / (high - low), 0.0, 1.0));
        p.drawPolyline(points);
    };
    line(figures->eyring, 0, most, tokens().threads[7], Qt::SolidLine);
    line(state_.result().images, 0, most, tokens().threads[7], Qt::DotLine);
    line(figures->noise, 0, 60, tokens().threads[4], Qt::DashLine);
    p.setPen(tokens().ink2);
    for (std::size_t b = 1; b < 8; ++b)
        p.drawText(QRectF(x(b) - px(16), r.bottom() + px(3), px(32), px(13)), Qt::AlignCenter,
                   acoustics::bandHz[b] >= 1000 ? QString("%1k").arg(acoustics::bandHz[b] / 1000)
                                                : QString::number(acoustics::bandHz[b]));
    p.setPen(tokens().threads[7]);
    p.drawText(QRectF(0, r.top() - px(2), side - px(3), px(13)), Qt::AlignRight, QString("%1 s").arg(most, 0, 'f', 1));
    p.drawText(QRectF(0, r.bottom() - px(12), side - px(3), px(13)), Qt::AlignRight, "0");
    p.setPen(tokens().threads[4]);
    p.drawText(QRectF(r.right() + px(3), r.top() - px(2), px(26), px(13)), Qt::AlignLeft, "60");
    p.drawText(QRectF(r.right() + px(3), r.bottom() - px(12), px(26), px(13)), Qt::AlignLeft, "dB");
}

} // namespace loom::app
