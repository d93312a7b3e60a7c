#include "app/weave/weave_view.h"
#include "app/theme/theme.h"
#include "app/weave/insert_field.h"
#include "project/findings.h"
#include "project/program_edit.h"
#include <QAccessible>
#include <QInputDialog>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

namespace loom::app {
namespace {

constexpr double labelWidth = 84, meterWidth = 40, beadWidth = 46, beadHeight = 22, beadGap = 8, headHeight = 44;

QString q(const std::string& s) {
    return QString::fromStdString(s);
}

} // namespace

QPainterPath responseCurve(const engine::BlockView& view, double rate, QRectF r, double range) {
    QPainterPath path;
    const int points = qBound(16, static_cast<int>(r.width() / 2), 240);
    for (int i = 0; i <= points; ++i) {
        const double hz = 20 * std::pow(1000.0, static_cast<double>(i) / points);
        const double db = dsp::dbFromGain(std::abs(view.response(0, 0, std::min(hz, rate * 0.49), rate)));
        const double y = r.center().y() - qBound(-range, db, range) / range * r.height() / 2;
        const QPointF p(r.left() + r.width() * i / points, y);
        i == 0 ? path.moveTo(p) : path.lineTo(p);
    }
    return path;
}

WeaveView::WeaveView(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("weave");
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName("Weave: signal flow");
    connect(&session, &Session::changed, this, [this](const project::Change& c) {
        if (c.kind != project::Change::Kind::value)
            relayOut();
        update();
    });
    connect(&session, &Session::chosen, this, [this] {
        announce();
        update();
    });
    connect(&Theme::get(), &Theme::changed, this, &WeaveView::relayOut);
    relayOut();
}

void WeaveView::announce() {
    QString what = session_.lane();
    if (const auto* p = session_.program())
        if (const auto* b = p->find((session_.block().isEmpty() ? session_.lane() : session_.block()).toStdString()))
            what = q(project::blockName(*p, *b));
    setAccessibleDescription(what);
    QAccessibleEvent changed(this, QAccessible::DescriptionChanged);
    QAccessible::updateAccessibility(&changed);
}

void WeaveView::relayOut() {
    layout_ = session_.program() ? engine::layOut(*session_.program()) : engine::Layout{};
    rowHeight_ = px(31);
    const double slot = px(beadWidth + beadGap);
    sourceX_ = px(16 + labelWidth + meterWidth + 20);
    weaveX_ = sourceX_ + std::max(2, layout_.sourceSlots) * slot + px(64);
    weaveWidth_ = 0;
    for (int c = 0; c < layout_.columns; ++c) {
        double widest = 0;
        for (const auto& h : layout_.hubs)
            if (h.column == c)
                widest = std::max(widest, hubWidth(h));
        weaveWidth_ += widest + px(48);
    }
    destinationX_ = weaveX_ + weaveWidth_;
    // What is left over on a wide window goes between weave and destinations, up to a point.
    const double total = destinationX_ + layout_.destinationSlots * slot + px(30 + labelWidth + 24 + meterWidth + 16);
    destinationX_ += qBound(0.0, (parentWidget() ? parentWidget()->width() : 0) - total, px(120));
    const QSize size(
        qCeil(destinationX_ + layout_.destinationSlots * slot + px(30 + labelWidth + 24 + meterWidth + 16)),
        qCeil(rowY(layout_.rows) + px(16)));
    setMinimumSize(size);
    updateGeometry();
    update();
}

QSize WeaveView::sizeHint() const {
    return minimumSize();
}
double WeaveView::rowY(double row) const {
    return px(headHeight) + rowHeight_ * (row + 0.5);
}

double WeaveView::beadX(const engine::Layout::Lane& lane, int slot) const {
    return (lane.source ? sourceX_ : destinationX_) + slot * px(beadWidth + beadGap);
}

double WeaveView::hubWidth(const engine::Layout::Hub& h) const {
    return px(36) + static_cast<double>(std::max<std::size_t>(h.outRows.size(), 2)) * px(30);
}

double WeaveView::hubX(const engine::Layout::Hub& hub) const {
    double x = weaveX_;
    for (int c = 0; c < hub.column; ++c) {
        double widest = 0;
        for (const auto& h : layout_.hubs)
            if (h.column == c)
                widest = std::max(widest, hubWidth(h));
        x += widest + px(48);
    }
    return x;
}

const engine::Layout::Hub* WeaveView::hub(const QString& block) const {
    for (const auto& h : layout_.hubs)
        if (h.block == block.toStdString())
            return &h;
    return nullptr;
}

QRectF WeaveView::beadRect(const QString& block) const {
    const auto* lane = layout_.laneOf(block.toStdString());
    if (!lane)
        return {};
    for (std::size_t i = 0; i < lane->beads.size(); ++i)
        if (lane->beads[i] == block.toStdString())
            return {beadX(*lane, static_cast<int>(i)), rowY(lane->row) - px(beadHeight) / 2, px(beadWidth),
                    px(beadHeight)};
    return {};
}

QRectF WeaveView::laneRect(const QString& end) const {
    for (const auto& l : layout_.lanes)
        if (l.end == end.toStdString()) {
            const double y = rowY(l.row) - rowHeight_ / 2;
            if (l.source)
                return {px(8), y, weaveX_ - px(40), rowHeight_};
            return {destinationX_ - px(24), y, width() - destinationX_ + px(16), rowHeight_};
        }
    return {};
}

QPointF WeaveView::endPoint(const QString& end) const {
    for (const auto& l : layout_.lanes)
        if (l.end == end.toStdString())
            return l.source ? QPointF(sourceX_ - px(12), rowY(l.row))
                            : QPointF(beadX(l, layout_.destinationSlots) + px(4), rowY(l.row));
    return {};
}

QPointF WeaveView::outPoint(const engine::PortRef& port) const {
    if (const auto* h = hub(q(port.block))) {
        const auto o = static_cast<std::size_t>(port.port);
        return {hubX(*h) + px(30) * (port.port + 1), o < h->outRows.size() ? rowY(h->outRows[o]) : 0};
    }
    const QRectF r = beadRect(q(port.block));
    return r.isNull() ? endPoint(q(port.block)) : QPointF(r.right(), r.center().y());
}

QPointF WeaveView::inPoint(const engine::PortRef& port) const {
    if (const auto* h = hub(q(port.block))) {
        const auto i = static_cast<std::size_t>(port.port);
        return {hubX(*h), i < h->inRows.size() ? rowY(h->inRows[i]) : 0};
    }
    const QRectF r = beadRect(q(port.block));
    return r.isNull() ? endPoint(q(port.block)) : QPointF(r.left(), r.center().y());
}

QPointF WeaveView::crossing(const QString& matrix, int in, int out) const {
    const auto* h = hub(matrix);
    if (!h || in >= static_cast<int>(h->inRows.size()))
        return {};
    return {hubX(*h) + px(30) * (out + 1), rowY(h->inRows[static_cast<std::size_t>(in)])};
}

QColor WeaveView::colourOf(const QString& end) const {
    const auto* p = session_.program();
    const auto* b = p ? p->find(end.toStdString()) : nullptr;
    if (!b)
        return tokens().ink2;
    if (const auto it = b->texts.find("colour"); it != b->texts.end())
        return Theme::get().thread(q(it->second));
    if (b->kind != "source" && b->kind != "destination")
        return tokens().ink2;
    const QString port = portText(*b);
    // A thread's colour says where its sound comes from: the room, the far end, the network.
    if (port.startsWith("usb") || port.startsWith("tel"))
        return Theme::get().thread("woad");
    if (port.startsWith("net"))
        return Theme::get().thread("weld");
    const auto* room = session_.project().room(session_.device()->room);
    return Theme::get().thread(room ? q(room->colour) : "madder");
}

QString WeaveView::portText(const engine::Block& b) const {
    const auto it = b.texts.find("port");
    return it == b.texts.end() ? QString("no port") : q(it->second);
}

double WeaveView::crossingLevel(const engine::Block& matrix, int in, int out) const {
    const auto it = matrix.values.find(std::to_string(in + 1) + "." + std::to_string(out + 1));
    return it == matrix.values.end() ? -80 : it->second;
}

// ---- painting ----

void WeaveView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto* program = session_.program();
    if (!program) {
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().text(14));
        p.drawText(rect(), Qt::AlignCenter,
                   "Weave shows the sound of a processor, from its inputs to its outputs.\nOpen a project with a "
                   "processor: Ctrl+O.");
        return;
    }
    const QRectF chosen = laneRect(session_.lane());
    if (!chosen.isNull())
        p.fillRect(chosen, tokens().saffronTint);
    paintThreads(p);
    for (const auto& h : layout_.hubs)
        paintHub(p, h);
    for (const auto& l : layout_.lanes)
        paintLane(p, l);
    if (dragging_ && press_.kind == Hit::Kind::end) {
        p.setPen(QPen(tokens().saffron, px(2), Qt::DashLine));
        p.drawLine(endPoint(press_.lane), dragAt_);
    }
    if (dragging_ && press_.kind == Hit::Kind::bead) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        const QRectF r = beadRect(press_.block);
        p.drawRoundedRect(r.translated(dragAt_.x() - pressAt_.x(), 0), r.height() / 2, r.height() / 2);
    }
    paintFlag(p);
}

void WeaveView::paintThreads(QPainter& p) {
    for (const auto& t : session_.program()->threads) {
        const auto* from = layout_.laneOf(t.from.block);
        const QPointF a = outPoint(t.from), b = inPoint(t.to);
        QColor c = from ? colourOf(q(from->end)) : tokens().ink2;
        p.setPen(QPen(c, px(2)));
        if (hub(q(t.from.block))) { // a warp leaves its weave at its own row
            p.drawLine(a, {b.x(), a.y()});
            if (std::abs(a.y() - b.y()) > 1) {
                QPainterPath path({b.x() - px(30), a.y()});
                p.setPen(QPen(tokens().sheet, px(4)));
                p.drawLine(QPointF(b.x() - px(30), a.y()), QPointF(b.x(), a.y()));
                p.setPen(QPen(c, px(2)));
                path.cubicTo({b.x() - px(15), a.y()}, {b.x() - px(15), b.y()}, b);
                p.setBrush(Qt::NoBrush);
                p.drawPath(path);
            }
            continue;
        }
        if (std::abs(a.y() - b.y()) < 1) {
            p.drawLine(a, b);
            continue;
        }
        QPainterPath path(a);
        const double bend = std::max(px(20), (b.x() - a.x()) / 2);
        path.cubicTo(a + QPointF(bend, 0), b - QPointF(bend, 0), b);
        p.setBrush(Qt::NoBrush);
        p.drawPath(path);
    }
}

void WeaveView::paintLane(QPainter& p, const engine::Layout::Lane& lane) {
    const auto* program = session_.program();
    const auto& end = *program->find(lane.end);
    const QString id = q(lane.end);
    const double y = rowY(lane.row), textX = lane.source ? px(16) : endPoint(id).x() + px(14);
    const QColor colour = colourOf(id);
    const bool chosen = session_.lane() == id;
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(12, chosen));
    const QFontMetricsF fm(p.font());
    p.drawText(QRectF(textX, y - px(14), px(labelWidth), px(15)), Qt::AlignVCenter,
               fm.elidedText(q(end.label.empty() ? end.id : end.label), Qt::ElideRight, px(labelWidth)));
    p.setPen(tokens().ink2);
    p.setFont(Theme::get().number(9));
    p.drawText(QRectF(textX, y + px(1), px(labelWidth), px(12)), Qt::AlignVCenter, portText(end));
    const engine::PortRef level = lane.source ? lane.open : engine::PortRef{lane.end, 0};
    paintMeter(p, {textX + px(labelWidth), y - px(3), px(meterWidth), px(6)}, session_.bench().meter(level).peakDb);
    // the end itself: a ring where sound comes in, a square where it goes out
    p.setPen(QPen(colour, px(2)));
    p.setBrush(tokens().card);
    const QPointF at = endPoint(id);
    if (lane.source)
        p.drawEllipse(at, px(4), px(4));
    else
        p.drawRoundedRect(QRectF(at.x() - px(5), at.y() - px(5), px(10), px(10)), px(2), px(2));
    if (chosen && session_.block().isEmpty() && hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(QRectF(textX - px(6), y - px(15), px(labelWidth + meterWidth) + px(12), px(30)), px(4),
                          px(4));
    }
    for (const auto& b : lane.beads)
        paintBead(p, *program->find(b), beadRect(q(b)), colour);
}

void WeaveView::paintBead(QPainter& p, const engine::Block& block, QRectF r, QColor colour) {
    const bool known = engine::findKind(block.kind);
    const bool chosen = session_.block() == q(block.id);
    const bool on = !known || engine::BlockView(block).on();
    const double radius = r.height() / 2;
    p.setBrush(on ? tokens().card : tokens().shade);
    p.setPen(QPen(on ? colour : tokens().ink2, px(1.6), on ? Qt::SolidLine : Qt::DashLine));
    p.drawRoundedRect(r, radius, radius);
    if (chosen) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(tokens().saffron, px(2.4)));
        p.drawRoundedRect(r.adjusted(-px(3), -px(3), px(3), px(3)), radius + px(3), radius + px(3));
    }
    p.setPen(on ? tokens().ink : tokens().ink2);
    p.setFont(Theme::get().number(10, true));
    if (!known)
        return p.drawText(r, Qt::AlignCenter, "?");
    const engine::BlockView view(block);
    switch (view.kind->glyph) {
    case engine::Glyph::number: {
        const auto& spec = view.table->specs()[view.table->indexOf(view.kind->glyphParam)];
        const int mute = view.table->indexOf("mute");
        const bool muted = mute >= 0 && view.values[mute] >= 0.5;
        if (muted)
            p.setPen(tokens().fault);
        p.drawText(r, Qt::AlignCenter,
                   muted ? QString("mute") : q(formatShort(spec, view.look()[view.kind->glyphParam])));
        break;
    }
    case engine::Glyph::curve: {
        const QRectF inner = r.adjusted(px(7), px(3), -px(7), -px(3));
        p.setClipRect(inner.adjusted(0, -1, 0, 1));
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(on ? tokens().ink : tokens().ink2, px(1.6)));
        p.drawPath(responseCurve(view, session_.device()->rate, inner, 12));
        p.setClipping(false);
        break;
    }
    case engine::Glyph::meter:
        paintMeter(p, r.adjusted(px(8), px(8), -px(8), -px(8)), session_.bench().meter({block.id, 0}).peakDb);
        break;
    default:
        p.drawText(r, Qt::AlignCenter, q(view.kind->label).left(5));
        break;
    }
}

void WeaveView::paintMeter(QPainter& p, QRectF r, double db) const {
    p.setPen(Qt::NoPen);
    p.setBrush(tokens().shade);
    p.drawRoundedRect(r, r.height() / 2, r.height() / 2);
    const double part = qBound(0.0, (db + 60) / 60, 1.0);
    if (part <= 0)
        return;
    p.setBrush(db > -1 ? tokens().fault : db > -9 ? tokens().caution : tokens().ok);
    p.drawRoundedRect(QRectF(r.left(), r.top(), std::max(r.height(), r.width() * part), r.height()), r.height() / 2,
                      r.height() / 2);
}

void WeaveView::paintHub(QPainter& p, const engine::Layout::Hub& h) {
    const auto& block = *session_.program()->find(h.block);
    double top = 1e9, bottom = 0;
    for (const auto& rows : {h.inRows, h.outRows})
        for (const double r : rows)
            top = std::min(top, rowY(r)), bottom = std::max(bottom, rowY(r));
    if (bottom == 0)
        top = bottom = rowY(0);
    const QRectF box(hubX(h), top - px(16), hubWidth(h), bottom - top + px(32));
    const bool chosen = session_.lane() == q(h.block);
    p.setPen(QPen(chosen ? tokens().saffron : tokens().hair, px(chosen ? 2 : 1)));
    QColor cloth = tokens().shade;
    cloth.setAlphaF(0.75f);
    p.setBrush(cloth);
    p.drawRoundedRect(box, px(6), px(6));
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(12, true));
    p.drawText(QRectF(box.left(), box.top() - px(20), box.width(), px(18)), Qt::AlignVCenter,
               q(project::blockName(*session_.program(), block)));
    if (block.kind == "matrix")
        paintKnots(p, h, block);
}

void WeaveView::paintKnots(QPainter& p, const engine::Layout::Hub& h, const engine::Block& matrix) {
    const auto* program = session_.program();
    const double right = hubX(h) + hubWidth(h) - px(6);
    std::vector<QColor> colours;
    for (std::size_t i = 0; i < h.inRows.size(); ++i) { // wefts
        const auto* t = program->into({h.block, static_cast<int>(i)});
        const auto* lane = t ? layout_.laneOf(t->from.block) : nullptr;
        colours.push_back(lane ? colourOf(q(lane->end)) : tokens().ink3);
        p.setPen(QPen(colours.back(), px(1.6), t ? Qt::SolidLine : Qt::DashLine));
        p.drawLine(QPointF(hubX(h), rowY(h.inRows[i])), QPointF(right, rowY(h.inRows[i])));
    }
    for (std::size_t o = 0; o < h.outRows.size(); ++o) { // warps, from their lowest knot to the row they leave at
        const double x = hubX(h) + px(30) * static_cast<double>(o + 1);
        double low = rowY(h.outRows[o]), high = low;
        for (std::size_t i = 0; i < h.inRows.size(); ++i)
            if (crossingLevel(matrix, static_cast<int>(i), static_cast<int>(o)) > -80)
                low = std::max(low, rowY(h.inRows[i])), high = std::min(high, rowY(h.inRows[i]));
        p.setPen(QPen(tokens().ink2, px(1.6)));
        p.drawLine(QPointF(x, high), QPointF(x, low));
        p.drawLine(QPointF(x, rowY(h.outRows[o])), QPointF(right + px(6), rowY(h.outRows[o])));
    }
    p.setFont(Theme::get().number(8, true));
    for (std::size_t i = 0; i < h.inRows.size(); ++i)
        for (std::size_t o = 0; o < h.outRows.size(); ++o) {
            const double level = crossingLevel(matrix, static_cast<int>(i), static_cast<int>(o));
            const QPointF at = crossing(q(h.block), static_cast<int>(i), static_cast<int>(o));
            p.setPen(QPen(tokens().sheet, px(1)));
            if (level <= -80) {
                p.setBrush(tokens().sheet);
                p.setPen(QPen(colours[i], px(1)));
                p.drawEllipse(at, px(2.2), px(2.2));
                continue;
            }
            const double radius = px(qBound(5.0, 10 + level / 6, 12.0));
            p.setBrush(colours[i]);
            p.drawEllipse(at, radius, radius);
            p.setPen(Theme::get().night() ? QColor("#1C1D20") : QColor("#FFFDF8"));
            p.drawText(QRectF(at.x() - px(14), at.y() - px(7), px(28), px(14)), Qt::AlignCenter,
                       QString::number(level, 'f', 0).replace('-', QChar(0x2212)));
        }
}

void WeaveView::paintFlag(QPainter& p) {
    if (!hover_ || !session_.bench().running() || dragging_)
        return;
    const auto reading = session_.bench().meter(*hover_);
    const auto bands = session_.bench().spectrum(*hover_);
    QRectF r(hoverAt_ + QPointF(px(14), -px(74)), QSizeF(px(168), px(66)));
    r.moveRight(std::min(r.right(), static_cast<double>(width()) - px(4)));
    r.moveTop(std::max(r.top(), px(2)));
    p.setPen(QPen(tokens().saffron, px(1.4)));
    p.setBrush(tokens().card);
    p.drawRoundedRect(r, px(6), px(6));
    p.setPen(tokens().ink);
    p.setFont(Theme::get().number(10, true));
    const auto say = [](double db) {
        return db < -99 ? QString("silent") : QString::number(db, 'f', 1).replace('-', QChar(0x2212)) + " dBFS";
    };
    p.drawText(r.adjusted(px(8), px(4), -px(8), 0), Qt::AlignTop, "peak " + say(reading.peakDb));
    const QRectF s = r.adjusted(px(8), px(22), -px(8), -px(6));
    for (std::size_t b = 0; b < bands.size(); ++b) {
        const double part = qBound(0.0, (bands[b] + 80) / 80, 1.0), w = s.width() / static_cast<double>(bands.size());
        p.fillRect(
            QRectF(s.left() + w * static_cast<double>(b), s.bottom() - s.height() * part, w * 0.8, s.height() * part),
            tokens().saffron);
    }
}

void WeaveView::refresh() {
    update();
}

// ---- pointing ----

WeaveView::Hit WeaveView::hit(QPointF at) const {
    Hit h;
    const auto* program = session_.program();
    if (!program)
        return h;
    for (const auto& hub : layout_.hubs)
        if (program->find(hub.block)->kind == "matrix")
            for (std::size_t i = 0; i < hub.inRows.size(); ++i)
                for (std::size_t o = 0; o < hub.outRows.size(); ++o)
                    if (QLineF(crossing(q(hub.block), static_cast<int>(i), static_cast<int>(o)), at).length() < px(11))
                        return {Hit::Kind::knot,     q(hub.block),
                                q(hub.block),        static_cast<int>(i),
                                static_cast<int>(o), engine::PortRef{hub.block, static_cast<int>(o)}};
    for (const auto& l : layout_.lanes) {
        const QString end = q(l.end);
        if (QLineF(endPoint(end), at).length() < px(11))
            return {Hit::Kind::end, end, {}, 0, 0, engine::PortRef{l.end, 0}};
        for (const auto& b : l.beads)
            if (beadRect(q(b)).adjusted(-px(3), -px(3), px(3), px(3)).contains(at))
                return {Hit::Kind::bead, end, q(b), 0, 0, engine::PortRef{b, 0}};
        if (laneRect(end).contains(at)) { // on the thread between beads: the sound there
            h = {Hit::Kind::lane, end, {}, 0, 0, l.source ? engine::PortRef{l.end, 0} : engine::PortRef{l.end, 0}};
            for (const auto& b : l.beads)
                if (beadRect(q(b)).right() < at.x())
                    h.port = engine::PortRef{b, 0};
            return h;
        }
    }
    for (const auto& hub : layout_.hubs)
        if (QRectF(hubX(hub), px(headHeight) - px(20), hubWidth(hub), height()).contains(at))
            return {Hit::Kind::lane, q(hub.block), {}, 0, 0, {}};
    return h;
}

void WeaveView::mousePressEvent(QMouseEvent* e) {
    setFocus(Qt::MouseFocusReason);
    press_ = e->button() == Qt::LeftButton ? hit(e->position()) : Hit{};
    pressAt_ = dragAt_ = e->position();
    dragging_ = false;
    if (press_.kind == Hit::Kind::knot)
        pressLevel_ = crossingLevel(*session_.program()->find(press_.block.toStdString()), press_.in, press_.out);
    if (press_.kind != Hit::Kind::none)
        session_.choose(press_.lane, press_.kind == Hit::Kind::bead ? press_.block : QString());
}

void WeaveView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton)) {
        hover_ = hit(e->position()).port;
        hoverAt_ = e->position();
        return update();
    }
    if (!dragging_ && (e->position() - pressAt_).manhattanLength() < px(5))
        return;
    if (press_.kind == Hit::Kind::knot && pressLevel_ > -80) {
        const double fine = e->modifiers() & Qt::ShiftModifier ? 0.05 : 0.25;
        const double level = std::round((pressLevel_ + (pressAt_.y() - e->position().y()) / px(1) * fine) * 10) / 10;
        session_.set(press_.block, QString("%1.%2").arg(press_.in + 1).arg(press_.out + 1), qBound(-79.5, level, 12.0),
                     dragging_);
    }
    dragging_ = true;
    dragAt_ = e->position();
    update();
}

void WeaveView::mouseReleaseEvent(QMouseEvent* e) {
    const bool dragged = dragging_;
    dragging_ = false;
    session_.endDrag();
    if (press_.kind == Hit::Kind::knot && !dragged && pressLevel_ <= -80)
        session_.set(press_.block, QString("%1.%2").arg(press_.in + 1).arg(press_.out + 1), 0);
    if (press_.kind == Hit::Kind::bead && dragged) {
        const double places = (e->position().x() - pressAt_.x()) / px(beadWidth + beadGap);
        const int by = static_cast<int>(std::lround(places));
        for (int i = 0; i < std::abs(by); ++i)
            moveChosen(by > 0 ? 1 : -1);
    }
    if (press_.kind == Hit::Kind::end && dragged) {
        const Hit to = hit(e->position());
        const auto* a = layout_.laneOf(press_.lane.toStdString());
        const auto* b = to.lane.isEmpty() ? nullptr : layout_.laneOf(to.lane.toStdString());
        if (a && b && a->source != b->source) {
            const auto& from = a->source ? *a : *b;
            const auto& dest = a->source ? *b : *a;
            const auto* p = session_.program();
            session_.setProgram(project::route(*p, from.end, dest.end),
                                "Route " + q(p->find(from.end)->label) + " to " + q(p->find(dest.end)->label));
        }
    }
    press_ = {};
    update();
}

void WeaveView::mouseDoubleClickEvent(QMouseEvent* e) {
    const Hit h = hit(e->position());
    if (h.kind == Hit::Kind::knot) // takes the crossing away again
        session_.set(h.block, QString("%1.%2").arg(h.in + 1).arg(h.out + 1), -80);
}

void WeaveView::leaveEvent(QEvent*) {
    hover_.reset();
    update();
}

// ---- keys ----

bool WeaveView::event(QEvent* e) {
    if (e->type() == QEvent::KeyPress) {
        auto* k = static_cast<QKeyEvent*>(e);
        if (k->key() == Qt::Key_Tab || k->key() == Qt::Key_Backtab) {
            stepLane(k->key() == Qt::Key_Tab ? 1 : -1);
            return true;
        }
    }
    return QWidget::event(e);
}

void WeaveView::keyPressEvent(QKeyEvent* e) {
    const bool control = e->modifiers() & Qt::ControlModifier;
    switch (e->key()) {
    case Qt::Key_Down:
        stepLane(1);
        break;
    case Qt::Key_Up:
        stepLane(-1);
        break;
    case Qt::Key_Left:
        control ? moveChosen(-1) : stepBead(-1);
        break;
    case Qt::Key_Right:
        control ? moveChosen(1) : stepBead(1);
        break;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        removeChosen();
        break;
    case Qt::Key_Slash:
        insertBlock();
        break;
    case Qt::Key_F2:
        renameLane();
        break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        emit wantsDeck();
        break;
    case Qt::Key_Space:
        emit wantsListen();
        break;
    case Qt::Key_Escape:
        session_.choose({});
        break;
    default:
        QWidget::keyPressEvent(e);
    }
}

void WeaveView::stepLane(int by) {
    QStringList order;
    for (const auto& l : layout_.lanes)
        if (l.source)
            order << q(l.end);
    for (const auto& h : layout_.hubs)
        order << q(h.block);
    for (const auto& l : layout_.lanes)
        if (!l.source)
            order << q(l.end);
    if (order.isEmpty())
        return;
    const auto at = order.indexOf(session_.lane());
    const auto next = at < 0 ? (by > 0 ? 0 : order.size() - 1) : (at + by + order.size()) % order.size();
    session_.choose(order[next]);
}

void WeaveView::stepBead(int by) {
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    if (!lane)
        return;
    int at = -1;
    for (std::size_t i = 0; i < lane->beads.size(); ++i)
        if (q(lane->beads[i]) == session_.block())
            at = static_cast<int>(i);
    at = qBound(-1, at + by, static_cast<int>(lane->beads.size()) - 1);
    session_.choose(q(lane->end), at < 0 ? QString() : q(lane->beads[static_cast<std::size_t>(at)]));
}

std::optional<engine::PortRef> WeaveView::chosenPort() const {
    if (session_.lane().isEmpty())
        return {};
    if (!session_.block().isEmpty())
        return engine::PortRef{session_.block().toStdString(), 0};
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    if (lane && lane->source)
        return lane->open;
    return engine::PortRef{session_.lane().toStdString(), 0};
}

void WeaveView::insertBlock() {
    const auto* lane = layout_.laneOf(session_.lane().toStdString());
    if (!lane)
        return session_.report("Choose a lane first, then / puts a block on it.");
    engine::PortRef after =
        session_.block().isEmpty() ? lane->open : engine::PortRef{session_.block().toStdString(), 0};
    if (!lane->source && session_.block().isEmpty())
        after = {lane->end, 0};
    const QRectF r = laneRect(session_.lane());
    auto* field = new InsertField(this);
    field->move(
        QPointF(lane->source ? sourceX_ + px(40) : destinationX_ - px(60), std::min(r.bottom(), height() - px(220)))
            .toPoint());
    connect(field, &InsertField::picked, this, [this, after](const QString& kind) {
        auto made = project::insertBlock(*session_.program(), kind.toStdString(), after);
        if (!made)
            return session_.report(q(made.trouble().text()));
        const QString here = session_.lane();
        const auto* declared = engine::findKind(kind.toStdString());
        if (session_.setProgram(made->program, "Insert " + q(declared->label) + " on " +
                                                   q(session_.program()->find(here.toStdString())->label)))
            session_.choose(here, q(made->block));
    });
    connect(field, &QObject::destroyed, this, [this] { setFocus(); });
    field->open();
}

void WeaveView::removeChosen() {
    const QString what = session_.block().isEmpty() ? session_.lane() : session_.block();
    const auto* b = session_.program() ? session_.program()->find(what.toStdString()) : nullptr;
    if (b)
        session_.setProgram(project::removeBlock(*session_.program(), b->id),
                            "Remove " + q(project::blockName(*session_.program(), *b)));
}

void WeaveView::moveChosen(int by) {
    if (session_.block().isEmpty())
        return;
    const auto& b = *session_.program()->find(session_.block().toStdString());
    session_.setProgram(project::moveBlock(*session_.program(), b.id, by),
                        "Move " + q(project::blockName(*session_.program(), b)));
}

void WeaveView::renameLane() {
    const QString id = session_.block().isEmpty() ? session_.lane() : session_.block();
    const auto* b = session_.program() ? session_.program()->find(id.toStdString()) : nullptr;
    if (!b)
        return;
    bool good = false;
    const QString name = QInputDialog::getText(this, "Rename", "Name", QLineEdit::Normal,
                                               q(project::blockName(*session_.program(), *b)), &good);
    if (!good || name.trimmed().isEmpty())
        return;
    engine::Program p = *session_.program();
    p.find(id.toStdString())->label = name.trimmed().left(80).toStdString();
    session_.setProgram(p, "Rename to " + name.trimmed().left(80));
}

} // namespace loom::app
