#include "app/survey/plan_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace loom::app {

// From sand over weld and madder to plum; at night the other way round, dark to light.
QColor mapColour(double part) {
    static const QColor linen[] = {"#EFE6D3", "#E8CF8E", "#D99A4E", "#B4514A", "#6B3358"};
    static const QColor night[] = {"#2A2630", "#553050", "#97484A", "#CE8A4A", "#F2E2A6"};
    const auto& ramp = Theme::get().night() ? night : linen;
    const double at = std::clamp(part, 0.0, 1.0) * 4;
    const int i = std::min(3, static_cast<int>(at));
    const double k = at - i;
    const auto mix = [&](int a, int b) { return qRound(a * (1 - k) + b * k); };
    return {mix(ramp[i].red(), ramp[i + 1].red()), mix(ramp[i].green(), ramp[i + 1].green()),
            mix(ramp[i].blue(), ramp[i + 1].blue())};
}

namespace {

QColor colourOf(const PlanMap& map, float value) {
    if (map.kind == MapKind::loudest)
        return tokens().threads[static_cast<int>(value < 0 ? 0 : value) % 8];
    const double step = project::contourOf(map), held = std::floor(value / step) * step;
    return mapColour((held - map.least) / std::max(map.most - step - map.least, 1e-9));
}

constexpr double farAway = 7; // pixels a metre

// The sign of one kind of device around a point.
void paintSign(QPainter& p, const project::DeviceModel* m, const QPointF& at, double s, bool chosen) {
    const QColor ink = chosen ? tokens().saffron : tokens().ink;
    p.setPen(QPen(ink, px(chosen ? 2.6 : 1.5)));
    p.setBrush(tokens().card);
    if (m && m->loudspeaker) {
        p.drawEllipse(at, s, s);
        p.setBrush(ink);
        p.setPen(Qt::NoPen);
        p.drawEllipse(at, s * 0.4, s * 0.4);
    } else if (m && m->microphone) {
        const QColor red = tokens().threads[0];
        p.setPen(QPen(chosen ? ink : red, px(chosen ? 2.6 : 1.6)));
        if (m->microphone->lobes > 0) {
            p.drawRoundedRect(QRectF(at - QPointF(s * 1.2, s * 1.2), QSizeF(s * 2.4, s * 2.4)), px(3), px(3));
            p.setBrush(red);
            p.setPen(Qt::NoPen);
            for (const int row : {-1, 0, 1})
                for (const int column : {-1, 0, 1})
                    p.drawEllipse(at + QPointF(column * s * 0.65, row * s * 0.65), px(1.4), px(1.4));
        } else {
            p.drawEllipse(at, s * 0.7, s * 0.7);
            p.setBrush(red);
            p.setPen(Qt::NoPen);
            p.drawEllipse(at, px(1.6), px(1.6));
        }
    } else if (m && m->group.rfind("Touch", 0) == 0) {
        p.setBrush(tokens().ink);
        p.drawRoundedRect(QRectF(at - QPointF(s * 0.6, s), QSizeF(s * 1.2, s * 2)), px(2), px(2));
    } else
        p.drawRect(QRectF(at - QPointF(s, s * 0.6), QSizeF(s * 2, s * 1.2)));
}

QString valueText(const PlanMap& map, float value) {
    if (map.kind == MapKind::loudest)
        return value < 0 ? QString() : q(map.names[static_cast<std::size_t>(value)]);
    return map.kind == MapKind::sti ? QString("%1 STI").arg(value, 0, 'f', 2)
                                    : QString("%1 %2").arg(value, 0, 'f', 1).arg(q(map.unit));
}

} // namespace

void PlanView::paintEvent(QPaintEvent*) {
    if (written_.size() > 10000) // figures that were, of rooms that are drawn
        written_.clear();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), tokens().sheet);
    const auto* b = state_.building();
    if (b && items().empty() && !b->backdrops.empty()) { // a drawing alone: rooms are drawn over it
        paintBackdrop(p);
        paintOutlines(p);
    }
    if (!b || items().empty()) {
        paintDrag(p);
        return paintScale(p);
    }
    paintBackdrop(p);
    for (const auto& r : b->rooms) {
        QColor tint = Theme::get().thread(q(r.colour));
        tint.setAlphaF(r.id == state_.room() ? 0.12f : 0.05f);
        p.setPen(Qt::NoPen);
        p.setBrush(tint);
        p.drawPolygon(polygon(r.outline));
    }
    paintMap(p);
    for (const auto& r : b->rooms)
        if (polygon(r.outline).boundingRect().intersects(rect()))
            paintRoom(p, r);
    paintCoverage(p);
    paintThings(p);
    paintOutlines(p);
    for (const auto& r : b->rooms)
        paintRoomName(p, r);
    paintDrag(p);
    paintScale(p);
    paintLegend(p);
    if (hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(2)));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

void PlanView::paintBackdrop(QPainter& p) {
    for (const auto& d : state_.building()->backdrops)
        backdrop_.paint(p, state_.session().project(), d, toView({d.x, d.y}), d.metresPerUnit * scale_, rect());
}

void PlanView::paintOutlines(QPainter& p) {
    if (outlines_.empty() || state_.building()->backdrops.empty())
        return;
    const auto& below = state_.building()->backdrops.front();
    QColor tint = tokens().saffron;
    tint.setAlphaF(0.15f);
    for (const auto& o : outlines_) { // their names stand in the drawing
        QPolygonF shape;
        for (const auto& c : o.corners)
            shape << toView({below.x + c[0], below.y + c[1]});
        p.setPen(QPen(tokens().saffron, px(1.5), Qt::DashLine));
        p.setBrush(tint);
        p.drawPolygon(shape);
    }
}

void PlanView::showOutlines(std::vector<project::DxfOutline> outlines) {
    outlines_ = std::move(outlines);
    update();
}

void PlanView::paintMap(QPainter& p) {
    const auto& map = state_.map();
    if (map.values.empty())
        return;
    if (mapImage_.isNull()) { // a pixel a place
        double left = 1e9, top = 1e9, right = -1e9, bottom = -1e9;
        for (const auto& at : map.places) {
            left = std::min(left, at[0]);
            right = std::max(right, at[0]);
            top = std::min(top, at[1]);
            bottom = std::max(bottom, at[1]);
        }
        mapCorner_ = {left - map.step / 2, top - map.step / 2};
        mapImage_ = QImage(qRound((right - left) / map.step) + 1, qRound((bottom - top) / map.step) + 1,
                           QImage::Format_ARGB32_Premultiplied);
        mapImage_.fill(Qt::transparent);
        for (std::size_t i = 0; i < map.places.size() && i < map.values.size(); ++i) {
            const int x = static_cast<int>((map.places[i][0] - mapCorner_.x()) / map.step);
            const int y = static_cast<int>((map.places[i][1] - mapCorner_.y()) / map.step);
            if (mapImage_.valid(x, y))
                mapImage_.setPixelColor(x, y, colourOf(map, map.values[i]));
        }
    }
    p.setOpacity(0.85);
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(QRectF(toView({mapCorner_.x(), mapCorner_.y()}), QSizeF(mapImage_.size()) * map.step * scale_),
                mapImage_);
    p.setOpacity(1);
}

std::vector<QLineF> PlanView::wallsOf(const project::Room& r) const {
    std::vector<QLineF> all;
    const auto* state = state_.wallState();
    for (std::size_t i = 0; i < r.outline.size(); ++i) {
        const auto &a = r.outline[i], &b = r.outline[(i + 1) % r.outline.size()];
        std::vector<std::pair<double, double>> open; // parts of the wall, 0 to 1
        if (state)
            for (const auto& w : state_.building()->walls)
                if (std::find(state->open.begin(), state->open.end(), w.id) != state->open.end())
                    if (const auto part = acoustics::sharedPart(a, b, w.from, w.to))
                        open.push_back(*part);
        std::sort(open.begin(), open.end());
        const QLineF wall(toView(a), toView(b));
        double from = 0;
        for (const auto& [begin, end] : open) {
            if (begin > from)
                all.emplace_back(wall.pointAt(from), wall.pointAt(begin));
            from = std::max(from, end);
        }
        if (from < 1)
            all.emplace_back(wall.pointAt(from), wall.p2());
    }
    return all;
}

void PlanView::paintRoom(QPainter& p, const project::Room& r) {
    const bool here = r.id == state_.room(), chosen = state_.isChosen("room:" + r.id);
    const QPolygonF outline = polygon(r.outline);
    p.setBrush(Qt::NoBrush);
    p.setPen(
        QPen(chosen ? tokens().saffron : tokens().ink, px(here ? 3 : 2), Qt::SolidLine, Qt::SquareCap, Qt::MiterJoin));
    for (const auto& wall : wallsOf(r))
        p.drawLine(wall);
    if (!chosen)
        return;
    p.setFont(Theme::get().number(10)); // lengths of the walls, and corners to drag
    for (int i = 0; i < outline.size(); ++i) {
        const QPointF a = outline[i], b = outline[(i + 1) % outline.size()], middle = (a + b) / 2;
        if (QLineF(a, b).length() > px(50)) {
            const QString text = QString("%1 m").arg(QLineF(a, b).length() / scale_, 0, 'f', 2);
            const QRectF at(middle - QPointF(px(28), px(8)), QSizeF(px(56), px(16)));
            p.setPen(QPen(tokens().hair, 1));
            p.setBrush(tokens().card);
            p.drawRoundedRect(at, px(4), px(4));
            p.setPen(tokens().ink);
            p.drawText(at, Qt::AlignCenter, text);
        }
        p.setPen(QPen(tokens().ink, 1));
        p.setBrush(tokens().saffron);
        p.drawRect(QRectF(a - QPointF(px(4), px(4)), QSizeF(px(8), px(8))));
    }
}

// Where a room's name covers no device and no word of a wall, nearest to its upper left corner; else where it covers
// fewest.
QPointF PlanView::nameCorner(const project::Room& r, const QRectF& box, const QSizeF& size) const {
    std::vector<QRectF> taken = wallWords_;
    const double s = std::clamp(scale_ * 0.28, px(3.0), px(7.5));
    if (const auto there = devicesAt_.find(r.id); there != devicesAt_.end())
        for (const auto& at : there->second)
            taken.emplace_back(at.x() - s, at.y() - s, 2 * s, 2 * s);
    const double left = box.left() + px(8), right = box.right() - size.width() - px(8), top = box.top() + px(8),
                 bottom = box.bottom() - size.height() - px(8);
    QPointF best(left, top);
    int fewest = INT_MAX;
    const bool near = box.width() > px(160); // a few of them: there is time to look closely
    const int steps = near ? 12 : 6;         // across
    const double down = px(near ? 3 : 8);
    for (double y = top; y <= std::max(top, bottom) && fewest > 0; y += down)
        for (int i = 0; i <= steps && right >= left && fewest > 0; ++i) {
            const QPointF at(left + (right - left) * i / steps, y);
            const int covered = static_cast<int>(std::count_if(taken.begin(), taken.end(), [&](const QRectF& t) {
                return t.intersects(QRectF(at - QPointF(0, px(4)), size));
            }));
            if (covered < fewest) {
                fewest = covered;
                best = at;
            }
        }
    return best;
}

// Above all else, so that they can be read.
void PlanView::paintRoomName(QPainter& p, const project::Room& r) {
    const QRectF box = polygon(r.outline).boundingRect();
    if (!box.intersects(rect()))
        return;
    const bool named = box.width() > px(70);
    const Written *name = nullptr, *figures = nullptr; // figures only where they fit
    QSizeF label(0, px(18));
    QPointF corner = box.topLeft() + QPointF(px(8), px(8));
    if (named) {
        name = &written(p, q(r.name), Theme::get().text(12, true));
        figures = &written(p,
                           QString("%1 m\u00b2 \u00b7 %2 m high")
                               .arg(acoustics::areaOf(r.outline), 0, 'f', 0)
                               .arg(r.height, 0, 'f', 1),
                           Theme::get().text(10));
        const double most = box.width() - px(30);
        if (figures->wide + px(8) > most)
            figures = nullptr;
        label = {std::min(most, std::max(name->wide, figures ? figures->wide : 0) + px(8)), px(figures ? 32 : 18)};
        corner = nameCorner(r, box, label + QSizeF(px(12), 0));
    }
    p.setPen(Qt::NoPen);
    p.setBrush(Theme::get().thread(q(r.colour)));
    p.drawRect(QRectF(corner, QSizeF(px(4), std::min(label.height() - px(8), box.height() * 0.35))));
    if (named) {
        QColor ground = tokens().sheet; // readable over maps and things
        ground.setAlphaF(0.78f);
        p.setBrush(ground);
        p.drawRoundedRect(QRectF(corner + QPointF(px(6), -px(4)), label + QSizeF(px(6), 0)), px(4), px(4));
        p.setPen(tokens().ink);
        p.setFont(Theme::get().text(12, true));
        if (name->wide <= label.width())
            p.drawStaticText(corner + QPointF(px(10), -px(3)), name->text);
        else
            p.drawText(QRectF(corner + QPointF(px(10), -px(3)), QSizeF(label.width(), px(16))), Qt::AlignLeft,
                       p.fontMetrics().elidedText(q(r.name), Qt::ElideRight, static_cast<int>(label.width())));
        if (figures) {
            p.setPen(tokens().ink2);
            p.setFont(Theme::get().text(10));
            p.drawStaticText(corner + QPointF(px(10), px(12)), figures->text);
        }
        if (const auto& on = state_.session().health(); !on.empty())
            if (const auto how = project::roomHealth(state_.session().project(), r.id, on); !how.word.empty())
                paintHealth(p, corner + QPointF(px(14), label.height() + px(5)), how, true);
    }
}

// Circles of what ceiling loudspeakers cover and microphones reach, for those that are chosen.
void PlanView::paintCoverage(QPainter& p) {
    const auto& project = state_.session().project();
    for (const auto& key : state_.chosen()) {
        const auto* d = key.rfind("device:", 0) == 0 ? project.device(key.substr(7)) : nullptr;
        const auto* m = d ? d->spec() : nullptr;
        const auto* r = d ? project.room(d->room) : nullptr;
        if (!m || !r)
            continue;
        const double ear = r->seats.empty() ? 1.2 : r->seats.front().ear;
        p.setBrush(Qt::NoBrush);
        if (m->loudspeaker && d->place.tilt < -80) {
            const double radius = (d->place.z - ear) *
                                  std::tan(std::min(m->loudspeaker->horizontal[5], 170.0) / 2 * 3.14159265 / 180) *
                                  scale_;
            p.setPen(QPen(tokens().threads[0], px(1.6)));
            p.drawEllipse(toView({d->place.x, d->place.y}), radius, radius);
        } else if (m->loudspeaker) {
            const double half = std::min(m->loudspeaker->horizontal[5], 340.0) / 2, reach = px(90);
            const QRectF box(toView({d->place.x, d->place.y}) - QPointF(reach, reach), QSizeF(2 * reach, 2 * reach));
            p.setPen(QPen(tokens().threads[0], px(1.6)));
            p.drawPie(box, qRound(-(d->place.turn + half) * 16), qRound(2 * half * 16));
        }
    }
}

void PlanView::paintThings(QPainter& p) {
    const bool small = scale_ < 9;
    for (const auto& r : state_.building()->rooms) {
        if (!polygon(r.outline).boundingRect().adjusted(-50, -50, 50, 50).intersects(rect()))
            continue;
        for (const auto& f : r.furniture) {
            const bool chosen = state_.isChosen("piece:" + r.id + "/" + f.id);
            const QPolygonF shape = polygon(project::cornersOf(f));
            QColor fill = f.kind == project::Furniture::Kind::stage ? tokens().shade : tokens().card;
            fill.setAlphaF(0.75f);
            p.setBrush(f.kind == project::Furniture::Kind::door ? tokens().sheet : fill);
            p.setPen(QPen(chosen ? tokens().saffron : tokens().ink2, px(chosen ? 2.4 : 1.2)));
            p.drawPolygon(shape);
            if (const QRectF box = shape.boundingRect(); box.width() > px(44) && box.height() > px(12)) {
                p.setFont(Theme::get().text(10));
                p.setPen(tokens().ink2);
                p.drawText(box, Qt::AlignCenter, q(f.label));
            }
        }
        for (const auto& s : r.seats) {
            if (scale_ < farAway)
                break;
            const bool chosen = state_.isChosen("seats:" + r.id + "/" + s.id);
            const double size = std::clamp(scale_ * 0.16, 1.5, px(7));
            p.setPen(QPen(chosen ? tokens().saffron : tokens().ink2, px(chosen ? 2 : 1)));
            QColor fill = tokens().card;
            fill.setAlphaF(0.8f);
            p.setBrush(s.talks ? QBrush(tokens().saffronTint) : QBrush(fill));
            QPainterPath all;
            for (const auto& seat : project::seatsOf(r, s))
                if (const QPointF at = toView({seat.ear[0], seat.ear[1]}); rect().contains(at.toPoint()))
                    all.addEllipse(at, size, size);
            p.drawPath(all);
        }
        for (const auto& t : r.talkers) {
            const QPointF at = toView({t.x, t.y});
            const bool chosen = state_.isChosen("talker:" + r.id + "/" + t.id);
            p.setPen(QPen(chosen ? tokens().saffron : tokens().ink, px(chosen ? 2.4 : 1.4)));
            p.setBrush(tokens().saffronTint);
            QPainterPath mouth(at + QPointF(-px(7), px(5))); // a speaking mouth
            mouth.quadTo(at + QPointF(0, -px(14)), at + QPointF(px(7), px(5)));
            mouth.closeSubpath();
            p.drawPath(mouth);
        }
    }
    wallWords_.clear();
    for (const auto& w : state_.building()->walls) {
        const auto* state = state_.wallState();
        const bool open = state && std::find(state->open.begin(), state->open.end(), w.id) != state->open.end();
        p.setPen(QPen(state_.isChosen("wall:" + w.id) ? tokens().saffron : tokens().caution, px(open ? 2 : 4),
                      open ? Qt::DashLine : Qt::SolidLine, Qt::FlatCap));
        p.drawLine(toView(w.from), toView(w.to));
        const QString word = open ? "wall open" : "wall closed";
        p.setFont(Theme::get().text(10, true));
        const QPointF middle = toView({(w.from[0] + w.to[0]) / 2, (w.from[1] + w.to[1]) / 2});
        const double wide = p.fontMetrics().horizontalAdvance(word) + px(14);
        const QRectF at(middle - QPointF(wide / 2, px(9)), QSizeF(wide, px(18)));
        if (scale_ > 12) {
            p.setPen(QPen(tokens().caution, px(1.4)));
            p.setBrush(tokens().card);
            p.drawRoundedRect(at, px(9), px(9));
            p.setPen(tokens().ink);
            p.drawText(at, Qt::AlignCenter, word);
            wallWords_.push_back(at);
        }
    }
    for (const auto& k : state_.building()->racks) {
        const QPointF at = toView({k.x, k.y});
        p.setPen(QPen(state_.isChosen("rack:" + k.id) ? tokens().saffron : tokens().ink, px(1.6)));
        p.setBrush(tokens().rail);
        const double s = std::max(0.3 * scale_, px(6));
        p.drawRect(QRectF(at - QPointF(s, s), QSizeF(2 * s, 2 * s)));
        if (!small) {
            p.setPen(tokens().ink);
            p.setFont(Theme::get().text(10));
            p.drawText(QRectF(at.x() - px(40), at.y() + s + px(1), px(80), px(14)), Qt::AlignCenter, q(k.name));
        }
    }
    labels_.clear();
    const QRectF seen = QRectF(rect()).adjusted(-30, -30, 30, 30);
    for (auto& [room, there] : devicesAt_)
        there.clear();
    const std::string* room = nullptr; // many of one stand beside each other
    std::vector<QPointF>* there = nullptr;
    QList<QRectF> dots; // from far away a device is a dot
    for (const auto& i : items()) {
        const QPointF at = toView(i.at);
        if (i.key[0] != 'd' || !seen.contains(at))
            continue;
        if (!room || *room != i.room) {
            room = &i.room;
            there = &devicesAt_[i.room];
        }
        there->push_back(at);
        const bool chosen = !state_.chosen().empty() && state_.isChosen(i.key);
        if (scale_ < farAway && !chosen)
            dots << QRectF(at - QPointF(1.2, 1.2), QSizeF(2.4, 2.4));
        else if (const auto* d = deviceOf(i))
            paintDevice(p, *d, at, chosen);
    }
    p.setPen(Qt::NoPen);
    p.setBrush(tokens().ink);
    p.setRenderHint(QPainter::Antialiasing, false);
    p.drawRects(dots);
    p.setRenderHint(QPainter::Antialiasing);
}

// Shapes say what a thing does: a ring gives sound, dots take it in, a slab is touched, a block works.
void PlanView::paintDevice(QPainter& p, const project::Device& d, const QPointF& at, bool chosen) {
    const auto* m = d.spec();
    const double s = std::clamp(scale_ * 0.28, px(3.0), px(7.5));
    // Signs are drawn once and stamped: thousands of them pass in a frame.
    auto& stamp = signs_[q(d.model) + (chosen ? "*" : "") + QString::number(qRound(s * 8))];
    if (stamp.isNull()) {
        const double side = std::ceil(s * 3 + 8), ratio = devicePixelRatioF();
        stamp = QPixmap(QSizeF(side * ratio, side * ratio).toSize());
        stamp.setDevicePixelRatio(ratio);
        stamp.fill(Qt::transparent);
        QPainter sign(&stamp);
        sign.setRenderHint(QPainter::Antialiasing);
        paintSign(sign, m, QPointF(side / 2, side / 2), s, chosen);
    }
    const double side = stamp.width() / stamp.devicePixelRatio();
    p.drawPixmap(at - QPointF(side / 2, side / 2), stamp);
    if (const auto& on = state_.session().health(); !on.empty())
        if (const auto it = on.find(d.id); it != on.end())
            paintHealth(p, at + QPointF(s, -s), it->second, chosen || scale_ > 60);
    if (m && m->loudspeaker && d.place.tilt > -80) { // the way it looks
        const double a = d.place.turn * 3.14159265 / 180;
        p.setPen(QPen(chosen ? tokens().saffron : tokens().ink, px(2)));
        p.drawLine(at + QPointF(std::cos(a), std::sin(a)) * s, at + QPointF(std::cos(a), std::sin(a)) * s * 1.9);
    }
    if (scale_ < 24 && !chosen)
        return;
    const auto& held = written(p, q(d.name).left(28), Theme::get().text(10));
    const double wide = held.wide + px(6);
    const QRectF label(at.x() - wide / 2, at.y() + s + px(2), wide, px(14));
    if (!chosen) // names that would lie on one another are left out; the pointer tells them
        for (const auto& other : labels_)
            if (other.intersects(label))
                return;
    labels_.push_back(label);
    QColor ground = tokens().sheet;
    ground.setAlphaF(0.78f);
    p.fillRect(label, ground);
    p.setPen(tokens().ink);
    p.drawStaticText(QPointF(label.left() + px(3), label.top()), held.text);
}

// The text in this font, which the painter has from here on.
const PlanView::Written& PlanView::written(QPainter& p, const QString& text, const QFont& font) {
    p.setFont(font);
    auto& held = written_[{text, font.weight()}];
    if (held.wide <= 0) {
        held.text = QStaticText(text);
        held.text.setTextFormat(Qt::PlainText);
        held.text.setPerformanceHint(QStaticText::AggressiveCaching);
        held.text.prepare(p.transform(), font);
        held.wide = p.fontMetrics().horizontalAdvance(text);
    }
    return held;
}

// A dot in the colour of the state, and its word: colour alone says nothing.
void PlanView::paintHealth(QPainter& p, const QPointF& at, const project::HealthWord& how, bool withWord) {
    const QColor c = how.health == project::Health::good  ? tokens().ok
                     : how.health == project::Health::bad ? tokens().fault
                                                          : tokens().caution;
    if (withWord) {
        p.setFont(Theme::get().text(10, true));
        const QRectF box(at + QPointF(-px(7), -px(8)),
                         QSizeF(p.fontMetrics().horizontalAdvance(q(how.word)) + px(22), px(16)));
        p.setPen(QPen(c, px(1.2)));
        p.setBrush(tokens().card);
        p.drawRoundedRect(box, px(8), px(8));
        p.setPen(tokens().ink);
        p.drawText(box.adjusted(px(15), 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft, q(how.word));
    }
    p.setPen(QPen(tokens().card, px(1)));
    p.setBrush(c);
    p.drawEllipse(at, px(4), px(4));
}

void PlanView::paintDrag(QPainter& p) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(tokens().saffron, px(2), Qt::DashLine));
    if (drag_.kind == Drag::Kind::shape && drag_.moved) {
        const auto to = snapped(toPlan(drag_.at), {});
        if (tool_ != Tool::room)
            p.drawLine(toView(drag_.start), toView(to));
        else {
            p.drawRect(QRectF(toView(drag_.start), toView(to)).normalized());
            p.setPen(tokens().ink);
            p.setFont(Theme::get().number(11, true));
            p.drawText(drag_.at + QPointF(px(14), px(20)), QString("%1 \u00d7 %2 m")
                                                               .arg(std::abs(to[0] - drag_.start[0]), 0, 'f', 2)
                                                               .arg(std::abs(to[1] - drag_.start[1]), 0, 'f', 2));
        }
    }
    if (!corners_.empty()) {
        QPolygonF line = polygon(corners_);
        line << mouse_;
        p.drawPolyline(line);
        for (const auto& c : corners_)
            p.drawEllipse(toView(c), px(4), px(4));
    }
    if (drag_.kind == Drag::Kind::band)
        p.drawRect(QRectF(drag_.from, drag_.at).normalized());
    if (drag_.kind == Drag::Kind::items && drag_.moved) {
        const auto to = snapped(toPlan(drag_.at), {});
        const double dx = to[0] - drag_.start[0], dy = to[1] - drag_.start[1];
        for (const auto& i : items())
            if (state_.isChosen(i.key)) {
                if (i.outline.size() > 2)
                    p.drawPolygon(polygon(i.outline).translated(QPointF(dx, dy) * scale_));
                else
                    p.drawEllipse(toView({i.at[0] + dx, i.at[1] + dy}), px(9), px(9));
            }
        p.setPen(tokens().ink);
        p.setFont(Theme::get().number(11, true));
        p.drawText(drag_.at + QPointF(px(14), px(20)), QString("%1, %2 m").arg(dx, 0, 'f', 2).arg(dy, 0, 'f', 2));
    }
}

void PlanView::paintScale(QPainter& p) {
    double metres = 1;
    for (const double m : {0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0})
        if (m * scale_ < px(150))
            metres = m;
    const QPointF at(px(16), height() - px(20));
    p.setPen(QPen(tokens().ink, px(2)));
    p.drawLine(at, at + QPointF(metres * scale_, 0));
    p.setFont(Theme::get().number(10));
    p.setPen(tokens().ink2);
    p.drawText(QRectF(at.x(), at.y() + px(2), px(30), px(14)), Qt::AlignLeft, "0");
    p.drawText(QRectF(at.x() + metres * scale_ - px(30), at.y() + px(2), px(60), px(14)), Qt::AlignCenter,
               QString("%1 m").arg(metres));
}

// The colour scale, and the value under the mouse.
void PlanView::paintLegend(QPainter& p) {
    const auto& map = state_.map();
    if (map.values.empty())
        return;
    p.setFont(Theme::get().number(10));
    if (map.kind != MapKind::loudest) {
        const double wide = px(200), step = project::contourOf(map);
        const int steps = std::max(1, qRound((map.most - map.least) / step));
        const QPointF at(width() - wide - px(34), height() - px(26));
        for (int i = 0; i < steps; ++i)
            p.fillRect(QRectF(at.x() + wide * i / steps, at.y(), wide / steps + 1, px(9)),
                       colourOf(map, static_cast<float>(map.least + (i + 0.5) * step)));
        p.setPen(tokens().ink);
        const int digits = map.kind == MapKind::sti ? 2 : 0;
        for (const double part : {0.0, 0.5, 1.0})
            p.drawText(QRectF(at.x() + wide * part - px(30), at.y() + px(10), px(60), px(14)), Qt::AlignCenter,
                       QString::number(map.least + (map.most - map.least) * part, 'f', digits));
        p.drawText(QRectF(at.x(), at.y() - px(16), wide, px(14)), Qt::AlignLeft, q(map.unit));
    }
    if (!rect().contains(mouse_.toPoint()))
        return;
    const auto spot = toPlan(mouse_);
    for (std::size_t i = 0; i < map.places.size() && i < map.values.size(); ++i)
        if (std::abs(map.places[i][0] - spot[0]) <= map.step / 2 &&
            std::abs(map.places[i][1] - spot[1]) <= map.step / 2) {
            const QString text = valueText(map, map.values[i]);
            const QRectF r(mouse_ + QPointF(px(12), -px(26)),
                           QSizeF(p.fontMetrics().horizontalAdvance(text) + px(14), px(20)));
            p.setPen(QPen(tokens().saffron, 1));
            p.setBrush(tokens().saffronTint);
            p.drawRoundedRect(r, px(4), px(4));
            p.setPen(tokens().ink);
            return p.drawText(r, Qt::AlignCenter, text);
        }
}

} // namespace loom::app
