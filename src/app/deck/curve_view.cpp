#include "app/deck/curve_view.h"
#include "app/bench/bench_engine.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/bead.h"
#include "engine/path_response.h"
#include "program/render.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace loom::app {
namespace {
constexpr double range = 18; // dB up and down
}

CurveView::CurveView(Session& session, const QString& block, QWidget* parent)
    : QWidget(parent), session_(session), block_(block) {
    setObjectName("curve." + block);
    setAccessibleName("Response");
    setMinimumSize(Theme::get().ipx(bands() ? 300 : 180), Theme::get().ipx(56));
    if (bands())
        setFocusPolicy(Qt::StrongFocus);
    for (int b = bands(); b >= 1; --b)
        if (read(b, "on") >= 0.5)
            band_ = b;
    connect(&session, &Session::changed, this, [this] {
        stale_ = true;
        if (span_ != project::Span::block)
            update();
    });
}

void CurveView::setSpan(project::Span span) {
    span_ = span;
    stale_ = true;
    update();
}

void CurveView::drawHeard(QPainter& p, const QRectF& r) {
    if (stale_ || drawnIn_ != r) {
        stale_ = false;
        heard_ = {};
        heardText_.clear();
        engine::Resources resources;
        resources.clip = [this](const std::string& name, double at) {
            return project::clipOf(session_.project().assets, name, at);
        };
        const double rate = session_.device()->rate;
        const auto hz = curveFrequencies(std::min(r.width(), 240.0), rate);
        const auto heard = project::heardResponse(session_.layout(), *session_.program(), block_.toStdString(), span_,
                                                  hz, rate, resources);
        if (heard) {
            heard_ = responseCurve(heard->h, r, range);
            const auto spec = engine::levelParam("", "", -200, 200, 0);
            heardText_ =
                span_ == project::Span::chain
                    ? "its chain"
                    : QString("%1 (0 dB here: %2)").arg(q(heard->text), q(engine::formatValue(spec, heard->levelDb)));
        } else {
            heardText_ = q(heard.error().message);
        }
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(tokens().threads[4], px(1.8)));
    p.drawPath(heard_);
    p.setFont(Theme::get().number(9, true));
    p.drawText(r.adjusted(px(6), px(2), -px(6), 0), Qt::AlignLeft | Qt::AlignTop, heardText_);
}

void CurveView::soloBand() {
    bool was = false;
    for (const auto& t : session_.tools())
        if (t.kind == project::Tool::Kind::solo && t.at.block == block_.toStdString()) {
            session_.takeTool(t.number);
            was = was || std::abs(t.hz - (band_ ? read(band_, "hz") : 0)) < 1e-6;
        }
    if (!was && band_) {
        project::Tool solo{project::Tool::Kind::solo, {block_.toStdString(), 0}};
        solo.hz = read(band_, "hz");
        solo.octaves = std::clamp(2 / std::log(2.0) * std::asinh(1 / (2 * read(band_, "q"))), 0.5, 4.0);
        session_.putTool(solo);
    }
}

const engine::Block* CurveView::block() const {
    return session_.program() ? session_.program()->find(block_.toStdString()) : nullptr;
}

int CurveView::bands() const {
    const auto* b = block();
    return b && b->kind == "eq" ? engine::BlockView(*b).shape.at("bands") : 0;
}

double CurveView::read(int band, const char* field) const {
    return engine::BlockView(*block()).look()[std::to_string(band) + "." + field];
}

QRectF CurveView::plot() const {
    return QRectF(rect()).adjusted(1, 1, -1, -px(14));
}
double CurveView::xOf(double hz) const {
    return plot().left() + plot().width() * std::log(hz / 20) / std::log(1000.0);
}
double CurveView::hzAt(double x) const {
    return 20 * std::pow(1000.0, (x - plot().left()) / plot().width());
}

QPointF CurveView::handle(int band) const {
    const double gain = read(band, "kind") >= 3 ? 0 : read(band, "gain");
    return {xOf(read(band, "hz")), plot().center().y() - qBound(-range, gain, range) / range * plot().height() / 2};
}

void CurveView::chooseBand(int band) {
    band_ = band;
    emit bandChosen(band);
    update();
}

std::vector<PaintedPart> CurveView::paintedParts() const {
    std::vector<PaintedPart> parts;
    const auto* b = block();
    const int count = b ? bands() : 0;
    for (int band = 1; band <= count; ++band) {
        const engine::BlockView view(*b);
        const auto say = [&](const char* field) {
            const std::string id = std::to_string(band) + "." + field;
            return QString::fromStdString(
                formatValue(view.table->specs()[static_cast<std::size_t>(view.table->indexOf(id))], view.look()[id]));
        };
        const QPointF at = handle(band);
        parts.push_back({"Band " + QString::number(band) + ", " + say("kind") + ", " + say("on"),
                         say("hz") + ", " + say("gain") + ", " + say("q"),
                         {at.x() - px(8), at.y() - px(8), px(16), px(16)},
                         band == band_});
    }
    return parts;
}

void CurveView::choosePart(int index) {
    if (index >= 0 && index < bands())
        chooseBand(index + 1);
}

void CurveView::setSpectrum(std::vector<double> bands) {
    spectrum_ = std::move(bands);
    update();
}

void CurveView::drawCurves(const QRectF& r) {
    const auto& b = *block();
    if (drawn_ == b && drawnIn_ == r && !curves_.empty())
        return;
    drawn_ = b;
    drawnIn_ = r;
    curves_.clear();
    sum_.clear();
    const auto* kind = engine::findKind(b.kind);
    const double rate = session_.device()->rate;
    engine::Resources resources;
    if (kind->tapResponse)
        resources.clip = [this](const std::string& name, double at) {
            if (name != tapsName_) {
                taps_ = project::clipOf(session_.project().assets, name, at);
                tapsName_ = name;
            }
            return taps_;
        };
    const auto hz = curveFrequencies(r.width(), rate);
    std::vector<dsp::Complex> all(hz.size(), 0.0);
    const int outputs = kind->channelwise() ? 1 : engine::BlockView(b).outputs();
    for (int out = 0; out < outputs; ++out) {
        const auto h = engine::blockResponse(b, 0, out, hz, rate, resources);
        for (std::size_t i = 0; i < h.size(); ++i)
            all[i] += h[i];
        curves_.push_back(responseCurve(h, r, range));
    }
    if (outputs > 1)
        sum_ = responseCurve(all, r, range);
}

void CurveView::paintEvent(QPaintEvent*) {
    const auto* b = block();
    if (!b)
        return;
    const engine::BlockView view(*b);
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF r = plot();
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().sheet);
    p.drawRoundedRect(r, px(4), px(4));
    p.setClipRect(r);
    const double w = r.width() / 30;
    for (std::size_t i = 0; i < spectrum_.size(); ++i) { // what is heard there now, behind the curve
        const double part = qBound(0.0, (spectrum_[i] + 90) / 90, 1.0);
        QColor c = tokens().saffron;
        c.setAlphaF(0.35f);
        p.fillRect(QRectF(xOf(25 * std::pow(10, static_cast<double>(i) / 10)) - w / 2, r.bottom() - r.height() * part,
                          w * 0.85, r.height() * part),
                   c);
    }
    p.setPen(QPen(tokens().hair, 1));
    for (const double hz : {31.5, 63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, 16000.0})
        p.drawLine(QPointF(xOf(hz), r.top()), QPointF(xOf(hz), r.bottom()));
    p.drawLine(QPointF(r.left(), r.center().y()), QPointF(r.right(), r.center().y()));
    drawCurves(r);
    const QPainterPath& curve = curves_.size() > 1 ? sum_ : curves_[0];
    QPainterPath area = curve;
    area.lineTo(r.right(), r.center().y());
    area.lineTo(r.left(), r.center().y());
    QColor tint = tokens().saffron;
    tint.setAlphaF(0.16f);
    if (bands())
        p.fillPath(area, tint);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(view.on() ? tokens().ink : tokens().ink2, px(1.8), view.on() ? Qt::SolidLine : Qt::DashLine));
    p.drawPath(curve);
    for (std::size_t i = 0; curves_.size() > 1 && i < curves_.size(); ++i) { // bands of a crossover, below their sum
        p.setPen(QPen(tokens().threads[i % std::size(tokens().threads)], px(1.4)));
        p.drawPath(curves_[i]);
    }
    if (span_ != project::Span::block)
        drawHeard(p, r);
    p.setClipping(false);
    p.setFont(Theme::get().number(9));
    p.setPen(tokens().ink2);
    if (curves_.size() > 1)
        p.drawText(r.adjusted(px(6), px(2), 0, 0), Qt::AlignLeft | Qt::AlignTop, "bands, and their sum");
    const bool wide = r.width() > px(260);
    for (const auto& [hz, text] :
         {std::pair{63.0, "63"}, {250.0, "250"}, {1000.0, "1k"}, {4000.0, "4k"}, {16000.0, "16k"}})
        if (wide || hz == 63 || hz == 1000 || hz == 16000)
            p.drawText(QRectF(std::min(xOf(hz) - px(20), r.right() - px(32)), r.bottom() + px(1), px(40), px(13)),
                       Qt::AlignCenter, text);
    p.setFont(Theme::get().number(9, true));
    for (int n = 1; n <= bands(); ++n) {
        const bool on = read(n, "on") >= 0.5;
        if (!on && n != band_)
            continue;
        p.setPen(QPen(tokens().threads[0], px(1.6), on ? Qt::SolidLine : Qt::DashLine));
        p.setBrush(n == band_ ? tokens().threads[0] : tokens().card);
        p.drawEllipse(handle(n), px(8), px(8));
        p.setPen(n == band_ ? tokens().card : tokens().ink);
        p.drawText(QRectF(handle(n).x() - px(8), handle(n).y() - px(8), px(16), px(16)), Qt::AlignCenter,
                   QString::number(n));
    }
    if (hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(r, px(4), px(4));
    }
}

int CurveView::bandAt(QPointF at) const {
    int best = 0;
    double nearest = px(14);
    for (int n = 1; n <= bands(); ++n) {
        const double d = QLineF(handle(n), at).length();
        if ((read(n, "on") >= 0.5 || n == band_) && d < nearest) {
            nearest = d;
            best = n;
        }
    }
    return best;
}

void CurveView::mousePressEvent(QMouseEvent* e) {
    dragging_ = bandAt(e->position());
    moved_ = false;
    if (dragging_)
        chooseBand(dragging_);
}

void CurveView::mouseMoveEvent(QMouseEvent* e) {
    if (!dragging_ || !(e->buttons() & Qt::LeftButton))
        return;
    const QString band = QString::number(dragging_);
    const double gain = (plot().center().y() - e->position().y()) / (plot().height() / 2) * range;
    session_.set(block_, band + ".hz", qBound(20.0, hzAt(e->position().x()), 20000.0), moved_);
    moved_ = true;
    if (read(dragging_, "kind") < 3)
        session_.set(block_, band + ".gain", std::round(qBound(-range, gain, range) * 10) / 10, true);
}

void CurveView::mouseReleaseEvent(QMouseEvent*) {
    dragging_ = 0;
    session_.endDrag();
}

void CurveView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (bandAt(e->position()))
        return;
    for (int n = 1; n <= bands(); ++n)
        if (read(n, "on") < 0.5) { // the first free band goes where it was asked for
            const QString band = QString::number(n);
            const double gain = (plot().center().y() - e->position().y()) / (plot().height() / 2) * range;
            session_.set(block_, band + ".hz", qBound(20.0, hzAt(e->position().x()), 20000.0));
            session_.set(block_, band + ".gain", std::round(gain * 2) / 2);
            return chooseBand(n);
        }
    session_.report("All bands of this equaliser are in use.");
}

void CurveView::wheelEvent(QWheelEvent* e) {
    if (!band_)
        return e->ignore();
    const double q = read(band_, "q") * std::pow(2.0, e->angleDelta().y() > 0 ? 0.1 : -0.1);
    session_.set(block_, QString("%1.q").arg(band_), qBound(0.1, q, 40.0), true);
    e->accept();
}

void CurveView::keyPressEvent(QKeyEvent* e) {
    const double fine = e->modifiers() & Qt::ShiftModifier ? 0.2 : 1;
    const QString band = QString::number(band_);
    if (e->key() >= Qt::Key_1 && e->key() <= Qt::Key_9 && e->key() - Qt::Key_0 <= bands())
        return chooseBand(e->key() - Qt::Key_0);
    if (e->key() == Qt::Key_C && bands())
        return emit spanWanted();
    if (!band_)
        return QWidget::keyPressEvent(e);
    switch (e->key()) {
    case Qt::Key_S:
        return soloBand();
    case Qt::Key_Up:
        session_.set(block_, band + ".gain", qMin(24.0, read(band_, "gain") + 0.5 * fine), true);
        break;
    case Qt::Key_Down:
        session_.set(block_, band + ".gain", qMax(-24.0, read(band_, "gain") - 0.5 * fine), true);
        break;
    case Qt::Key_Right:
        session_.set(block_, band + ".hz", qMin(20000.0, read(band_, "hz") * std::pow(2, fine / 12)), true);
        break;
    case Qt::Key_Left:
        session_.set(block_, band + ".hz", qMax(20.0, read(band_, "hz") / std::pow(2, fine / 12)), true);
        break;
    default:
        QWidget::keyPressEvent(e);
    }
}

} // namespace loom::app
