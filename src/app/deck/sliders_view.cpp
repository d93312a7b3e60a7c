#include "app/deck/sliders_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/bead.h"
#include "dsp/graphic.h"
#include "engine/path_response.h"
#include <QMouseEvent>
#include <QPainter>

namespace loom::app {
namespace {

constexpr double range = 12; // dB up and down
const int sliders = static_cast<int>(dsp::graphicNominals().size());

const engine::ParamSpec& specOf(const engine::Block& b, int slider) {
    return engine::BlockView(b).table->specs()[static_cast<std::size_t>(slider) + 1]; // the first switches it on
}

} // namespace

SlidersView::SlidersView(Session& session, const QString& block)
    : BlockPicture(session, block, "sliders", "Third-octave sliders", {31 * 17, 90}) {
    setFocusPolicy(Qt::StrongFocus);
    setToolTip("Drag across to draw a curve; double click sets a slider to 0");
}

QString SlidersView::param() const {
    return block() ? q(specOf(*block(), chosen_).id) : QString();
}

QRectF SlidersView::plot() const {
    return QRectF(rect()).adjusted(1, 1, -1, -px(15));
}

int SlidersView::sliderAt(double x) const {
    return qBound(0, static_cast<int>((x - plot().left()) / plot().width() * sliders), sliders - 1);
}

double SlidersView::gainAt(double y) const {
    const double gain = (plot().center().y() - y) / (plot().height() / 2 - px(4)) * range;
    return std::round(qBound(-range, gain, range) * 2) / 2;
}

double SlidersView::yOf(double gain) const {
    return plot().center().y() - gain / range * (plot().height() / 2 - px(4));
}

void SlidersView::put(double gain, bool merge) {
    session_.set(block_, param(), qBound(-range, gain, range), merge);
}

std::vector<PaintedPart> SlidersView::paintedParts() const {
    std::vector<PaintedPart> parts;
    const double wide = plot().width() / sliders;
    for (int i = 0; block() && i < sliders; ++i) {
        const auto& spec = specOf(*block(), i);
        parts.push_back({q(spec.label),
                         q(formatValue(spec, engine::BlockView(*block()).look()[spec.id])),
                         {plot().left() + wide * i, plot().top(), wide, plot().height()},
                         i == chosen_});
    }
    return parts;
}

void SlidersView::choosePart(int index) {
    chosen_ = qBound(0, index, sliders - 1);
    emit sliderChosen();
    update();
}

void SlidersView::paintEvent(QPaintEvent*) {
    if (!block())
        return;
    const engine::BlockView view(*block());
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF r = plot();
    p.setPen(QPen(hasFocus() ? tokens().saffron : tokens().hair, hasFocus() ? px(2) : 1));
    p.setBrush(tokens().sheet);
    p.drawRoundedRect(r, px(4), px(4));
    p.setPen(QPen(tokens().hair, 1));
    for (const double gain : {-6.0, 0.0, 6.0})
        p.drawLine(QPointF(r.left(), yOf(gain)), QPointF(r.right(), yOf(gain)));
    const double wide = r.width() / sliders;
    p.setFont(Theme::get().number(9));
    for (int i = 0; i < sliders; ++i) {
        const double gain = view.look()[specOf(*block(), i).id], x = r.left() + wide * (i + 0.5);
        const bool here = i == chosen_;
        p.setPen(QPen(tokens().hair, px(3), Qt::SolidLine, Qt::FlatCap));
        p.drawLine(QPointF(x, r.top() + px(4)), QPointF(x, r.bottom() - px(4)));
        p.setPen(QPen(tokens().threads[0], px(3), view.on() ? Qt::SolidLine : Qt::DotLine, Qt::FlatCap));
        p.drawLine(QPointF(x, yOf(0)), QPointF(x, yOf(gain)));
        p.setPen(QPen(here ? tokens().ink : tokens().threads[0], px(1.4)));
        p.setBrush(here ? tokens().saffron : tokens().card);
        p.drawRoundedRect(QRectF(x - px(6), yOf(gain) - px(3.5), px(12), px(7)), px(2), px(2));
        if (i % 3 == 2 || here) { // one name an octave, and that of the chosen one
            if (!here && std::abs(i - chosen_) < 2)
                continue;
            p.setPen(here ? tokens().ink : tokens().ink2);
            const QString name = q(specOf(*block(), i).label).remove(" Hz").replace(" kHz", "k");
            p.drawText(QRectF(x - px(24), r.bottom() + px(1), px(48), px(13)), Qt::AlignCenter, name);
        }
    }
    // What the sliders make, at the places where they stand: a third of an octave is as wide as a slider.
    const auto hz = curveFrequencies(r.width(), session_.device()->rate);
    const auto h = engine::blockResponse(*block(), 0, 0, hz, session_.device()->rate, {});
    QPainterPath curve;
    const double first = dsp::graphicNominals().front();
    for (std::size_t i = 0; i < h.size(); ++i) {
        const QPointF at(r.left() + wide * (0.5 + 3 * std::log2(hz[i] / first)),
                         yOf(qBound(-range, 20 * std::log10(std::abs(h[i]) + 1e-9), range)));
        i == 0 ? curve.moveTo(at) : curve.lineTo(at);
    }
    p.setClipRect(r);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(view.on() ? tokens().ink : tokens().ink2, px(1.6), view.on() ? Qt::SolidLine : Qt::DashLine));
    p.drawPath(curve);
}

void SlidersView::mousePressEvent(QMouseEvent* e) {
    moved_ = false;
    choosePart(sliderAt(e->position().x()));
}

// Dragging draws across the sliders; a press alone only chooses one.
void SlidersView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton))
        return;
    choosePart(sliderAt(e->position().x()));
    put(gainAt(e->position().y()), moved_);
    moved_ = true;
}

void SlidersView::mouseReleaseEvent(QMouseEvent*) {
    session_.endDrag();
}

void SlidersView::mouseDoubleClickEvent(QMouseEvent*) {
    put(0, false);
}

void SlidersView::wheelEvent(QWheelEvent* e) {
    if (!block() || !hasFocus())
        return e->ignore();
    const double now = engine::BlockView(*block()).look()[param().toStdString()];
    put(now + (e->angleDelta().y() > 0 ? 0.5 : -0.5), true);
    e->accept();
}

void SlidersView::keyPressEvent(QKeyEvent* e) {
    if (!block())
        return;
    const double now = engine::BlockView(*block()).look()[param().toStdString()];
    const double step = e->modifiers() & Qt::ShiftModifier ? 0.1 : e->modifiers() & Qt::ControlModifier ? 3 : 0.5;
    switch (e->key()) {
    case Qt::Key_Left:
        return choosePart(chosen_ - 1);
    case Qt::Key_Right:
        return choosePart(chosen_ + 1);
    case Qt::Key_Up:
        return put(now + step, true);
    case Qt::Key_Down:
        return put(now - step, true);
    case Qt::Key_0:
        return put(0, false);
    default:
        QWidget::keyPressEvent(e);
    }
}

} // namespace loom::app
