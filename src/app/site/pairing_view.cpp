#include "app/site/pairing_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollBar>
#include <algorithm>

namespace loom::app {

namespace {
constexpr double cardHigh = 36, cardGap = 5, headHigh = 26;
}

PairingView::PairingView(Fleet& fleet, QWidget* parent) : QAbstractScrollArea(parent), fleet_(fleet) {
    setObjectName("pairing");
    setAccessibleName("Planned and found devices");
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    viewport()->setMouseTracking(true);
    hold_.setSingleShot(true);
    hold_.setInterval(350);
    connect(&hold_, &QTimer::timeout, this, [this] { fleet_.identify(held_, true); });
    connect(verticalScrollBar(), &QScrollBar::valueChanged, viewport(), qOverload<>(&QWidget::update));
    fleet.whenChanged(this, [this] { refresh(); });
    connect(&fleet, &Fleet::metersCame, this, [this] { // how many sound is shown, not how loud
        std::vector<std::size_t> sounding;
        for (const auto* m : std::as_const(fleet_).members())
            sounding.push_back(m->meters.size());
        if (std::exchange(sounding_, sounding) != sounding)
            viewport()->update();
    });
    connect(&Theme::get(), &Theme::changed, this, &PairingView::refresh);
}

QColor PairingView::colourOf(const project::Device& d) const {
    const auto* room = fleet_.session().project().room(d.room);
    return room ? Theme::get().thread(q(room->colour)) : Theme::get().thread("walnut");
}

void PairingView::refresh() {
    build();
    viewport()->update();
}

void PairingView::resizeEvent(QResizeEvent*) {
    place();
    viewport()->update();
}

// Where the cards lie: planned ones left, found ones right, in their order.
void PairingView::place() {
    const double wide = std::min(px(400), viewport()->width() * 0.36), step = px(cardHigh + cardGap);
    double left = px(headHigh), right = left;
    for (auto& c : cards_) {
        double& y = c.found ? right : left;
        c.rect = {c.found ? viewport()->width() - wide - px(14) : px(14), y, wide, px(cardHigh)};
        y += step;
    }
    const int high = static_cast<int>(std::max(left, right) + px(8));
    verticalScrollBar()->setRange(0, std::max(0, high - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(static_cast<int>(step));
}

void PairingView::build() {
    cards_.clear();
    places_.clear();
    pairs_.clear();
    offers_.clear();
    worst_.clear();
    const auto& project = fleet_.session().project();
    const auto found = fleet_.found();
    const auto findings = fleet_.findings();
    std::map<std::string, std::string> standsFor; // serial -> device
    const auto add = [this](const Card& c) {
        places_[{c.id, c.found}] = cards_.size();
        cards_.push_back(c);
    };
    std::map<std::string, std::size_t> rowOf; // serial -> the row its thread would run straight to
    for (const auto& d : project.devices) {
        const auto* model = d.spec();
        if (!model || !model->onSite())
            continue;
        Card c{d.id, false, q(d.name)};
        c.chosen = chosen_.count(d.id) > 0;
        if (!d.serial.empty()) {
            standsFor[d.serial] = d.id;
            rowOf[d.serial] = cards_.size();
        }
        add(c);
    }
    for (const auto& m : site::matches(project, found,
                                       {site::PairBy::serial, site::PairBy::name, site::PairBy::address,
                                        site::PairBy::model, site::PairBy::position})) {
        offers_.push_back({m.device, m.serial});
        if (const auto it = places_.find({m.device, false}); it != places_.end())
            rowOf[m.serial] = it->second;
    }
    for (const auto& f : findings)
        if (f.cure != site::SiteFinding::Cure::replace)
            if (const auto [w, first] = worst_.try_emplace(f.serial, Wrong{f.id(), f.fix()});
                !first && f.fix() && !w->second.fix)
                w->second = {f.id(), f.fix()};
    // Paired ones lie where their thread runs straight, as far as there is room; the others fill up.
    std::vector<const site::DiscoveredDevice*> order;
    order.reserve(found.size());
    for (const auto& f : found)
        order.push_back(&f);
    const auto at = [&](const site::DiscoveredDevice* f) {
        const auto it = rowOf.find(f->serial);
        return it == rowOf.end() ? cards_.size() : it->second;
    };
    std::stable_sort(order.begin(), order.end(), [&](const auto* a, const auto* b) { return at(a) < at(b); });
    for (const auto* f : order) {
        Card c{f->serial, true, q(f->modelName + " \u00b7 " + f->serial)};
        const auto it = standsFor.find(f->serial);
        if (it != standsFor.end())
            c.standsFor = it->second;
        c.chosen = chosenFound_ == f->serial || chosen_.count(c.standsFor);
        add(c);
        if (it != standsFor.end()) {
            const auto* d = project.device(it->second);
            const auto* m = fleet_.member(it->second);
            pairs_.push_back({it->second, f->serial, colourOf(*d), m && m->link.up(), f->sealed});
        }
    }
    place();
}

PairingView::Words PairingView::wordsOf(const Card& c) const {
    if (!c.found) {
        const auto* d = fleet_.session().project().device(c.id);
        return d ? wordsOfPlanned(*d) : Words{};
    }
    const auto& all = fleet_.discovery().found();
    const auto it = all.find(c.id);
    return it == all.end() ? Words{} : wordsOfFound(it->second, c);
}

PairingView::Words PairingView::wordsOfPlanned(const project::Device& d) const {
    const auto* room = fleet_.session().project().room(d.room);
    const auto* model = d.spec();
    return {(room ? q(room->name) : QString("equipment rack")) + " \u00b7 " + q(model ? model->name : d.model),
            d.address.empty() ? QString("no address") : q(d.address), colourOf(d), tokens().ink2};
}

PairingView::Words PairingView::wordsOfFound(const site::DiscoveredDevice& f, const Card& c) const {
    Words w{q(f.address), "", tokens().ink3, tokens().ink2};
    if (!f.name.empty() && f.name != f.modelName)
        w.below = q(f.name) + " \u00b7 " + w.below;
    const auto* m = c.standsFor.empty() ? nullptr : std::as_const(fleet_).member(c.standsFor);
    const auto at = worst_.find(f.serial);
    const auto* wrong = at == worst_.end() ? nullptr : &at->second;
    if (m) {
        const int running = m->runningRevision(), kept = m->keptRevision();
        if (m->link.up() && !m->locked)
            w.below += running < 0 ? QString(" \u00b7 as it left the factory")
                                   : QString(" \u00b7 revision %1 runs, %2")
                                         .arg(running)
                                         .arg(kept < 0    ? QString("none kept")
                                              : m->kept() ? QString("kept")
                                                          : QString("%1 kept").arg(kept));
        const int differ = static_cast<int>(m->rows.size());
        const auto health = fleet_.session().health().find(c.standsFor);
        const auto word = health == fleet_.session().health().end() ? project::HealthWord{} : health->second;
        w.right = m->pressed                            ? QString("button pressed")
                  : !m->link.up()                       ? QString("no line")
                  : m->locked                           ? QString("sealed")
                  : !m->config                          ? QString("reading\u2026")
                  : word.health == project::Health::bad ? q(word.word)
                  : differ > 0                          ? QString(differ == 1 ? "%1 differs" : "%1 differ").arg(differ)
                  : !m->kept()                          ? QString("not kept")
                                                        : QString("same");
        if (fleet_.live() && !m->meters.empty())
            w.right = QString("%1 sound \u00b7 ").arg(m->meters.size()) + w.right;
        w.edge = word.health == project::Health::good  ? tokens().ok
                 : word.health == project::Health::bad ? tokens().fault
                                                       : tokens().caution;
        w.rightColour = word.health == project::Health::bad ? tokens().fault : tokens().ink;
        if (w.right == "same" && wrong && wrong->code == "firmware") {
            w.right = "firmware " + q(f.firmware);
            w.edge = tokens().caution;
        }
    } else {
        w.right = wrong && wrong->fix ? "to fix" : wrong ? "not planned" : "not paired";
        if (wrong && wrong->fix)
            w.edge = w.rightColour = tokens().fault;
    }
    if (wrong && wrong->code == "address-shared") {
        w.below = q(f.address + ", an address that another has too");
        w.edge = w.rightColour = tokens().fault;
        w.right = "to fix";
    }
    if (f.sealed)
        w.below += " \u00b7 sealed";
    w.lit = m && m->pressed;
    return w;
}

const PairingView::Card* PairingView::card(const std::string& id, bool found) const {
    const auto it = places_.find({id, found});
    return it == places_.end() ? nullptr : &cards_[it->second];
}

const PairingView::Card* PairingView::cardAt(const QPointF& at) const {
    const QPointF p = at + QPointF(0, verticalScrollBar()->value());
    for (const auto& c : cards_)
        if (c.rect.adjusted(-px(6), 0, px(6), 0).contains(p))
            return &c;
    return nullptr;
}

QPointF PairingView::plannedEnd(const std::string& device) const {
    const auto* c = card(device, false);
    return c ? QPointF(c->rect.right(), c->rect.center().y() - verticalScrollBar()->value()) : QPointF();
}
QPointF PairingView::foundEnd(const std::string& serial) const {
    const auto* c = card(serial, true);
    return c ? QPointF(c->rect.left(), c->rect.center().y() - verticalScrollBar()->value()) : QPointF();
}

QRectF PairingView::offerRect(const Offer& o) const {
    const auto* c = card(o.device, false);
    return c ? QRectF(c->rect.right() + px(10), c->rect.top() + px(6), px(140), c->rect.height() - px(12)) : QRectF();
}

// ---- painting ----

void PairingView::paintCard(QPainter& p, const Card& c, const Fonts& fonts) const {
    const Words w = wordsOf(c);
    p.setPen(c.chosen ? QPen(tokens().ink, px(1.6)) : QPen(tokens().hair, 1));
    p.setBrush(w.lit ? tokens().saffronTint : tokens().card);
    p.drawRoundedRect(c.rect, px(5), px(5));
    p.fillRect(QRectF(c.rect.left(), c.rect.top() + px(3), px(5), c.rect.height() - px(6)), w.edge);
    p.setFont(c.found ? fonts.strong : fonts.number);
    const double rightWide = p.fontMetrics().horizontalAdvance(w.right) + px(10);
    p.setPen(w.rightColour);
    p.drawText(c.rect.adjusted(0, 0, -px(9), 0), Qt::AlignVCenter | Qt::AlignRight, w.right);
    const QRectF words = c.rect.adjusted(px(13), px(2), -rightWide - px(4), -px(2));
    const auto line = [&](const QString& text, Qt::Alignment at) {
        p.drawText(words, at, p.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(words.width())));
    };
    p.setPen(tokens().ink);
    p.setFont(fonts.name);
    line(c.name, Qt::AlignTop);
    p.setPen(tokens().ink2);
    p.setFont(fonts.below);
    line(w.below, Qt::AlignBottom);
}

void PairingView::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(viewport()->rect(), tokens().sheet);
    p.translate(0, -verticalScrollBar()->value());
    const QRectF seen(0, verticalScrollBar()->value(), viewport()->width(), viewport()->height());
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(12.5, true));
    const double wide = std::min(px(400), viewport()->width() * 0.36);
    p.drawText(QPointF(px(26), px(17)), "Planned");
    p.drawText(QPointF(viewport()->width() - wide, px(17)), "Found on the network");
    for (const auto& t : pairs_) {
        const auto *a = card(t.device, false), *b = card(t.serial, true);
        if (!a || !b)
            continue;
        const QPointF from(a->rect.right(), a->rect.center().y()), to(b->rect.left(), b->rect.center().y());
        if (std::max(from.y(), to.y()) < seen.top() || std::min(from.y(), to.y()) > seen.bottom())
            continue;
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(t.whole ? t.colour : tokens().ink3, px(2.2), t.whole ? Qt::SolidLine : Qt::DashLine));
        QPainterPath path(from);
        const double bend = (to.x() - from.x()) * 0.45;
        path.cubicTo(from + QPointF(bend, 0), to - QPointF(bend, 0), to);
        p.drawPath(path);
        p.setBrush(p.pen().color());
        p.setPen(Qt::NoPen);
        p.drawEllipse(from, px(3.5), px(3.5));
        p.drawEllipse(to, px(3.5), px(3.5));
        if (t.sealed) {
            p.setFont(Theme::get().text(10));
            const QPointF middle = path.pointAtPercent(0.5);
            const QRectF r(middle.x() - px(26), middle.y() - px(9), px(52), px(18));
            p.setPen(QPen(t.colour, 1));
            p.setBrush(tokens().card);
            p.drawRoundedRect(r, px(9), px(9));
            p.setPen(tokens().ink);
            p.drawText(r, Qt::AlignCenter, "sealed");
        }
    }
    for (const auto& o : offers_) {
        const auto* a = card(o.device, false);
        if (!a || !a->rect.intersects(seen))
            continue;
        p.setPen(QPen(tokens().ink3, px(1.4), Qt::DashLine));
        const QPointF from(a->rect.right(), a->rect.center().y());
        p.drawLine(from, from + QPointF(px(8), 0));
        const QRectF r = offerRect(o);
        p.setPen(QPen(tokens().ink3, 1));
        p.setBrush(tokens().card);
        p.drawRoundedRect(r, r.height() / 2, r.height() / 2);
        p.setPen(tokens().ink);
        p.setFont(Theme::get().text(11));
        p.drawText(r, Qt::AlignCenter, q("Join with " + o.serial));
    }
    const auto& theme = Theme::get();
    const Fonts fonts{theme.text(12, true), theme.text(10.5), theme.number(10.5, false), theme.number(10.5, true)};
    for (const auto& c : cards_)
        if (c.rect.intersects(seen))
            paintCard(p, c, fonts);
    if (drag_) {
        p.translate(0, verticalScrollBar()->value());
        p.setPen(QPen(tokens().saffron, px(2.4)));
        p.drawLine(drag_->first, drag_->second);
    }
    if (std::none_of(cards_.begin(), cards_.end(), [](const Card& c) { return c.found; })) {
        p.resetTransform();
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().text(12));
        p.drawText(QRectF(viewport()->width() - wide - px(14), px(headHigh), wide, px(60)),
                   Qt::AlignTop | Qt::TextWordWrap,
                   fleet_.looked() ? "No device has answered yet. Look at power and cables, at the adapter above, or "
                                     "type an address."
                                   : "Nobody looked yet. Looking changes nothing on a device.");
    }
}

// ---- choosing, drawing threads ----

std::vector<std::string> PairingView::chosen() const {
    std::vector<std::string> all;
    for (const auto& d : fleet_.session().project().devices)
        if (chosen_.count(d.id))
            all.push_back(d.id);
    return all;
}

void PairingView::choose(const std::vector<std::string>& devices) {
    chosen_ = {devices.begin(), devices.end()};
    chosenFound_.clear();
    refresh();
    emit choiceChanged();
}

void PairingView::chooseFound(const std::string& serial) {
    chosen_.clear();
    chosenFound_ = serial;
    for (const auto& t : pairs_)
        if (t.serial == serial)
            chosen_ = {t.device};
    refresh();
    emit choiceChanged();
}

void PairingView::chooseCard(const Card& c, bool more) {
    const std::string id = c.id;
    if (c.found)
        return chooseFound(id);
    auto now = more ? chosen_ : std::set<std::string>{};
    if (more && now.count(id))
        now.erase(id);
    else
        now.insert(id);
    choose({now.begin(), now.end()});
}

void PairingView::mousePressEvent(QMouseEvent* e) {
    const QPointF at = e->position();
    for (const auto& o : offers_)
        if (offerRect(o).translated(0, -verticalScrollBar()->value()).contains(at)) {
            const auto offer = o;
            return fleet_.pair(offer.device, offer.serial);
        }
    const auto* c = cardAt(at);
    if (!c)
        return choose({});
    dragFrom_ = c->id;
    dragFound_ = c->found;
    drag_ = std::pair(c->found ? foundEnd(c->id) : plannedEnd(c->id), at);
    if (c->found) {
        held_ = c->id;
        hold_.start();
    }
    chooseCard(*c, e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier));
}

void PairingView::mouseMoveEvent(QMouseEvent* e) {
    if (!drag_)
        return;
    if ((e->position() - drag_->second).manhattanLength() > px(6))
        hold_.stop();
    drag_->second = e->position();
    viewport()->update();
}

void PairingView::mouseReleaseEvent(QMouseEvent* e) {
    const bool held = !held_.empty() && !hold_.isActive();
    hold_.stop();
    const std::string was = std::exchange(held_, "");
    const auto drag = std::exchange(drag_, {});
    viewport()->update();
    const auto* c = cardAt(e->position());
    if (drag && c && c->found != dragFound_)
        return fleet_.pair(c->found ? dragFrom_ : c->id, c->found ? c->id : dragFrom_);
    if (held && !was.empty())
        fleet_.identify(was, false);
}

void PairingView::chooseAll() {
    std::vector<std::string> every;
    for (const auto& c : cards_)
        if (!c.found)
            every.push_back(c.id);
    choose(every);
}

void PairingView::keyPressEvent(QKeyEvent* e) {
    std::vector<const Card*> all;
    int at = -1;
    for (const auto& c : cards_) {
        if (c.chosen && at < 0 && (c.found ? chosenFound_ == c.id : true))
            at = static_cast<int>(all.size());
        all.push_back(&c);
    }
    const int last = static_cast<int>(all.size()) - 1;
    if (all.empty())
        return QAbstractScrollArea::keyPressEvent(e);
    const auto go = [&](int to) {
        const Card c = *all[static_cast<std::size_t>(std::clamp(to, 0, last))];
        const int top = static_cast<int>(c.rect.top()), bottom = static_cast<int>(c.rect.bottom());
        auto* bar = verticalScrollBar();
        bar->setValue(std::clamp(bar->value(), bottom - viewport()->height(), top - Theme::get().ipx(headHigh)));
        chooseCard(c, false);
    };
    if (e->key() == Qt::Key_Down)
        go(at + 1);
    else if (e->key() == Qt::Key_Up)
        go(at < 0 ? last : at - 1);
    else if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Right) {
        const bool found = e->key() == Qt::Key_Right;
        for (std::size_t i = 0; i < all.size(); ++i)
            if (all[i]->found == found)
                return go(static_cast<int>(i));
    } else if (e->key() == Qt::Key_Return && at >= 0) { // joins what is offered
        for (const auto& o : offers_)
            if (o.device == all[static_cast<std::size_t>(at)]->id ||
                o.serial == all[static_cast<std::size_t>(at)]->id) {
                const auto offer = o;
                return fleet_.pair(offer.device, offer.serial);
            }
    } else {
        QAbstractScrollArea::keyPressEvent(e);
    }
}

std::vector<PaintedPart> PairingView::paintedParts() const {
    std::vector<PaintedPart> parts;
    for (const auto& c : cards_) {
        const Words w = wordsOf(c);
        parts.push_back({(c.found ? "Found: " : "Planned: ") + c.name, w.below + " \u00b7 " + w.right,
                         c.rect.translated(0, -verticalScrollBar()->value()), c.chosen});
    }
    return parts;
}

void PairingView::choosePart(int index) {
    if (index >= 0 && index < static_cast<int>(cards_.size()))
        chooseCard(Card(cards_[static_cast<std::size_t>(index)]), false);
}

} // namespace loom::app
