#include "app/speakers/voicing_plot.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "engine/block_kind.h"
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace loom::app {
namespace {

constexpr double range = 48; // dB from top to bottom

double levelOf(const dsp::Complex& h) {
    return 20 * std::log10(std::max(std::abs(h), 1e-9));
}

double valueOf(const engine::Block& b, const std::string& param) {
    const engine::BlockView view(b);
    const int i = view.table->indexOf(param);
    return i < 0 ? 0 : view.values[static_cast<std::size_t>(i)];
}

QString hertz(double v) {
    return v >= 1000 ? QString("%1 kHz").arg(v / 1000, 0, 'g', 4) : QString("%1 Hz").arg(v, 0, 'g', 4);
}

} // namespace

QColor colourOfWay(int way) {
    static constexpr int connections[] = {4, 0, 2, 5};
    return tokens().threads[connections[std::clamp(way, 0, 3)]];
}

VoicingPlot::VoicingPlot(SpeakersState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("voicingPlot");
    setAccessibleName("Curves of the voicing");
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(100);
    connect(&state, &SpeakersState::changed, this, qOverload<>(&QWidget::update));
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void VoicingPlot::setPhase(bool on) {
    phase_ = on;
    update();
}

QRectF VoicingPlot::field() const {
    return QRectF(rect()).adjusted(px(44), px(10), -px(phase_ ? 44 : 14), -px(24));
}

double VoicingPlot::x(double hz) const {
    return field().left() + field().width() * std::log(hz / 20) / std::log(1000.0);
}

double VoicingPlot::hzAt(double x) const {
    return std::clamp(20 * std::exp((x - field().left()) / field().width() * std::log(1000.0)), 20.0, 20000.0);
}

double VoicingPlot::y(double db) const {
    return field().top() + field().height() * (most_ - db) / range;
}

std::vector<VoicingPlot::Handle> VoicingPlot::handles() const {
    std::vector<Handle> all;
    const auto* v = state_.voicing();
    if (!v)
        return all;
    const auto& c = state_.curves();
    const auto levelAt = [&](const std::vector<dsp::Complex>& h, double hz) {
        const auto i = std::lower_bound(c.hz.begin(), c.hz.end(), hz) - c.hz.begin();
        return levelOf(
            h[static_cast<std::size_t>(std::min<std::ptrdiff_t>(i, static_cast<std::ptrdiff_t>(h.size()) - 1))]);
    };
    for (const auto& part : project::partsOf(*v)) {
        const auto& b = *project::partOf(*v, part);
        const int way = part == "whole" ? -1 : part[0] - '1';
        const auto& curve = way < 0 ? c.sum : c.ways[static_cast<std::size_t>(way)];
        const QString whose =
            way < 0 || v->ways.size() == 1 ? QString() : q(v->ways[static_cast<std::size_t>(way)].name) + " \u00b7 ";
        if ((b.kind == "highpass" || b.kind == "lowpass") && valueOf(b, "on") >= 0.5) {
            Handle h{part, "", whose + (b.kind == "highpass" ? "High-pass" : "Low-pass"), valueOf(b, "corner"), 0,
                     0,    way};
            h.at = {x(h.hz), y(levelAt(curve, h.hz))};
            all.push_back(h);
        } else if (b.kind == "eq")
            for (int n = 1; n <= static_cast<int>(project::mostBells); ++n) {
                const std::string at = std::to_string(n) + ".";
                if (valueOf(b, at + "on") < 0.5)
                    continue;
                Handle h{part,
                         at,
                         whose + QString("Bell %1").arg(n),
                         valueOf(b, at + "hz"),
                         valueOf(b, at + "gain"),
                         valueOf(b, at + "q"),
                         way};
                h.at = {x(h.hz), y(levelAt(curve, h.hz))};
                all.push_back(h);
            }
    }
    return all;
}

void VoicingPlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const auto* v = state_.voicing();
    const auto& c = state_.curves();
    if (v) {
        double top = -200;
        for (std::size_t i = 0; i < c.hz.size(); ++i)
            top = std::max({top, levelOf(c.sum[i]), levelOf(c.without[i])});
        if (!dragging_)
            most_ = std::ceil((top + 3) / 6) * 6;
    }
    const QRectF r = field();
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(r, px(4), px(4));
    if (!v) {
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().text(14));
        p.drawText(r, Qt::AlignCenter | Qt::TextWordWrap,
                   "Here loudspeakers are voiced and protected.\n\nPress \u201cFrom a sheet\u201d and paste what the "
                   "maker says.");
        return;
    }
    p.setFont(Theme::get().number(9));
    for (const double hz : {20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000}) {
        p.setPen(QPen(tokens().hair, 1));
        p.drawLine(QPointF(x(hz), r.top()), QPointF(x(hz), r.bottom()));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(x(hz) - px(24), r.bottom() + px(4), px(48), px(14)), Qt::AlignCenter,
                   hz >= 1000 ? QString("%1k").arg(hz / 1000) : QString::number(hz));
    }
    for (double db = most_; db >= most_ - range; db -= 6) {
        p.setPen(QPen(tokens().hair, 1));
        p.drawLine(QPointF(r.left(), y(db)), QPointF(r.right(), y(db)));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(0, y(db) - px(7), px(40), px(14)), Qt::AlignRight | Qt::AlignVCenter,
                   db == most_ ? QString("%1 dB").arg(db) : QString::number(db));
    }
    p.save();
    p.setClipRect(r);
    const auto line = [&](const auto& valueAt, const QColor& colour, double wide, Qt::PenStyle style) {
        QPolygonF points;
        for (std::size_t i = 0; i < c.hz.size(); ++i)
            points << QPointF(x(c.hz[i]), y(std::max(valueAt(i), most_ - 3 * range)));
        p.setPen(QPen(colour, px(wide), style));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(points);
    };
    line([&](std::size_t i) { return levelOf(c.without[i]); }, tokens().ink3, 1.2, Qt::DashLine);
    if (!c.target.empty())
        line([&](std::size_t i) { return c.target[i]; }, tokens().saffron, 2, Qt::DotLine);
    if (v->ways.size() > 1)
        for (std::size_t w = 0; w < c.ways.size(); ++w)
            line([&](std::size_t i) { return levelOf(c.ways[w][i]); }, colourOfWay(static_cast<int>(w)), 1.8,
                 Qt::SolidLine);
    line([&](std::size_t i) { return levelOf(c.sum[i]); }, tokens().ink, 2.6, Qt::SolidLine);
    if (phase_) { // of the sum, from -180 to 180 degrees over the height
        p.setPen(QPen(tokens().threads[3], px(1)));
        QPointF last;
        for (std::size_t i = 0; i < c.hz.size(); ++i) {
            const double deg = std::arg(c.sum[i]) * 180 / 3.14159265358979;
            const QPointF at(x(c.hz[i]), r.center().y() - r.height() * deg / 360);
            if (i > 0 && std::abs(at.y() - last.y()) < r.height() / 2)
                p.drawLine(last, at);
            last = at;
        }
    }
    p.restore();
    if (phase_) {
        p.setPen(tokens().threads[3]);
        for (const int deg : {180, 90, 0, -90, -180})
            p.drawText(QRectF(r.right() + px(4), r.center().y() - r.height() * deg / 360 - px(7), px(40), px(14)),
                       Qt::AlignLeft | Qt::AlignVCenter, QString("%1\u00b0").arg(deg).replace('-', QChar(0x2212)));
    }
    // Legend.
    QPointF at(r.left() + px(12), r.top() + px(14));
    p.setFont(Theme::get().text(11));
    const auto legend = [&](const QString& text, const QColor& colour, Qt::PenStyle style, double wide) {
        p.setPen(QPen(colour, px(wide), style));
        p.drawLine(at, at + QPointF(px(20), 0));
        p.setPen(tokens().ink2);
        p.drawText(at + QPointF(px(25), px(4)), text);
        at.rx() += px(38) + p.fontMetrics().horizontalAdvance(text);
    };
    legend("sum", tokens().ink, Qt::SolidLine, 2.6);
    if (v->ways.size() > 1)
        for (std::size_t w = 0; w < v->ways.size(); ++w)
            legend(q(v->ways[w].name).toLower(), colourOfWay(static_cast<int>(w)), Qt::SolidLine, 1.8);
    legend("without voicing", tokens().ink3, Qt::DashLine, 1.2);
    if (!c.target.empty())
        legend("target", tokens().saffron, Qt::DotLine, 2);
    if (phase_)
        legend("phase of the sum", tokens().threads[3], Qt::SolidLine, 1);
    const auto all = handles();
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto& h = all[i];
        if (!r.adjusted(-2, -2, 2, 2).contains(h.at))
            continue;
        const bool held = static_cast<int>(i) == held_;
        const QColor colour = h.way < 0 || v->ways.size() == 1 ? tokens().ink : colourOfWay(h.way);
        p.setPen(QPen(held ? tokens().saffron : colour, px(held ? 2.4 : 1.6)));
        p.setBrush(held ? tokens().saffronTint : tokens().card);
        if (h.bell())
            p.drawEllipse(h.at, px(5), px(5));
        else
            p.drawRect(QRectF(h.at - QPointF(px(4.5), px(4.5)), QSizeF(px(9), px(9))));
    }
    if (held_ >= 0 && held_ < static_cast<int>(all.size())) { // above all handles
        const auto& h = all[static_cast<std::size_t>(held_)];
        const QString text =
            h.name + " " + hertz(h.hz) +
            (h.bell() ? QString("  %1 dB  Q %2").arg(h.gain, 0, 'f', 1).arg(h.q, 0, 'f', 2).replace('-', QChar(0x2212))
                      : QString());
        p.setFont(Theme::get().number(11, true));
        const double wide = p.fontMetrics().horizontalAdvance(text) + px(14);
        QRectF box(h.at + QPointF(px(10), -px(28)), QSizeF(wide, px(20)));
        box.moveLeft(std::min(box.left(), r.right() - wide));
        box.moveTop(std::max(box.top(), r.top() + px(22)));
        p.setPen(QPen(tokens().saffron, 1));
        p.setBrush(tokens().saffronTint);
        p.drawRoundedRect(box, px(4), px(4));
        p.setPen(tokens().ink);
        p.drawText(box, Qt::AlignCenter, text);
    }
    if (held_ < 0 && r.contains(mouse_)) { // the sum under the mouse
        const double hz = hzAt(mouse_.x());
        const auto i = static_cast<std::size_t>(
            std::min<std::ptrdiff_t>(std::lower_bound(c.hz.begin(), c.hz.end(), hz) - c.hz.begin(),
                                     static_cast<std::ptrdiff_t>(c.hz.size()) - 1));
        p.setFont(Theme::get().number(10));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(r.right() - px(200), r.bottom() - px(20), px(192), px(16)), Qt::AlignRight,
                   QString("%1: %2 dB").arg(hertz(c.hz[i])).arg(levelOf(c.sum[i]), 0, 'f', 1));
    }
    if (hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

void VoicingPlot::move(const Handle& h, double hz, double gain, double q) {
    hz = std::clamp(std::round(hz * 10) / 10, 20.0, 20000.0);
    if (h.bell())
        state_.setPart(h.part,
                       {{h.prefix + "hz", hz},
                        {h.prefix + "gain", std::clamp(std::round(gain * 10) / 10, -24.0, 24.0)},
                        {h.prefix + "q", std::clamp(std::round(q * 100) / 100, 0.1, 40.0)}},
                       "Move " + h.name, true);
    else
        state_.setPart(h.part, {{"corner", hz}}, "Move " + h.name, true);
}

void VoicingPlot::mousePressEvent(QMouseEvent* e) {
    setFocus();
    held_ = -1;
    const auto all = handles();
    double nearest = px(12);
    for (std::size_t i = 0; i < all.size(); ++i)
        if (const double d = QLineF(all[i].at, e->position()).length(); d < nearest) {
            nearest = d;
            held_ = static_cast<int>(i);
        }
    dragging_ = held_ >= 0;
    mouse_ = e->position();
    update();
}

void VoicingPlot::mouseMoveEvent(QMouseEvent* e) {
    const auto all = handles();
    if (dragging_ && held_ >= 0 && held_ < static_cast<int>(all.size())) {
        const auto& h = all[static_cast<std::size_t>(held_)];
        const double gain = h.gain - (e->position().y() - mouse_.y()) * range / field().height();
        move(h, h.hz * hzAt(e->position().x()) / hzAt(mouse_.x()), gain, h.q);
    }
    mouse_ = e->position();
    update();
}

void VoicingPlot::mouseReleaseEvent(QMouseEvent*) {
    if (dragging_)
        state_.session().endDrag();
    dragging_ = false;
    update();
}

void VoicingPlot::wheelEvent(QWheelEvent* e) {
    const auto all = handles();
    if (held_ < 0 || held_ >= static_cast<int>(all.size()) || !all[static_cast<std::size_t>(held_)].bell())
        return e->ignore();
    const auto& h = all[static_cast<std::size_t>(held_)];
    move(h, h.hz, h.gain, h.q * (e->angleDelta().y() > 0 ? 1.1 : 1 / 1.1));
}

// Page keys choose a handle, arrows move it, [ and ] make it wider or narrower.
void VoicingPlot::keyPressEvent(QKeyEvent* e) {
    const auto all = handles();
    const int count = static_cast<int>(all.size());
    const bool finer = e->modifiers() & Qt::ShiftModifier;
    if ((e->key() == Qt::Key_PageDown || e->key() == Qt::Key_PageUp) && count > 0) {
        held_ = (held_ + (e->key() == Qt::Key_PageDown ? 1 : count - 1) +
                 (held_ < 0 && e->key() == Qt::Key_PageUp ? 1 : 0)) %
                count;
        return update();
    }
    if (held_ < 0 || held_ >= count)
        return QWidget::keyPressEvent(e);
    const auto& h = all[static_cast<std::size_t>(held_)];
    const double step = std::exp2(finer ? 1.0 / 48 : 1.0 / 12), db = finer ? 0.1 : 0.5;
    switch (e->key()) {
    case Qt::Key_Left:
        return move(h, h.hz / step, h.gain, h.q);
    case Qt::Key_Right:
        return move(h, h.hz * step, h.gain, h.q);
    case Qt::Key_Up:
        return h.bell() ? move(h, h.hz, h.gain + db, h.q) : void();
    case Qt::Key_Down:
        return h.bell() ? move(h, h.hz, h.gain - db, h.q) : void();
    case Qt::Key_BracketLeft:
        return h.bell() ? move(h, h.hz, h.gain, h.q / 1.1) : void();
    case Qt::Key_BracketRight:
        return h.bell() ? move(h, h.hz, h.gain, h.q * 1.1) : void();
    case Qt::Key_Delete:
        if (h.bell()) {
            state_.setField(h.way, "bell." + h.prefix.substr(0, h.prefix.size() - 1), "");
            held_ = -1;
        }
        return;
    case Qt::Key_Escape:
        held_ = -1;
        return update();
    default:
        QWidget::keyPressEvent(e);
    }
}

std::vector<PaintedPart> VoicingPlot::paintedParts() const {
    std::vector<PaintedPart> parts;
    const auto all = handles();
    for (std::size_t i = 0; i < all.size(); ++i)
        parts.push_back({all[i].name + " " + hertz(all[i].hz),
                         all[i].bell() ? QString("%1 dB, Q %2").arg(all[i].gain).arg(all[i].q) : QString(),
                         QRectF(all[i].at - QPointF(8, 8), QSizeF(16, 16)), static_cast<int>(i) == held_});
    return parts;
}

void VoicingPlot::choosePart(int index) {
    held_ = index;
    update();
}

} // namespace loom::app
