// Who hears whom, as it is painted.
#include "app/patch/hear_measures.h"
#include "app/patch/hear_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace loom::app {

using namespace project;

namespace {

constexpr double leastDb = -60, nearFullDb = -1;

// Of a level's whole length.
double shareOf(double db) {
    return std::clamp(1 - db / leastDb, 0.0, 1.0);
}

QColor levelColour(double db) {
    return db > nearFullDb ? tokens().fault : tokens().ok;
}

} // namespace

void HearView::paintEvent(QPaintEvent*) {
    QPainter p(viewport());
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(viewport()->rect(), tokens().sheet);
    const auto& board = state_.board();
    if (offers_.size() != board.offers.size() || takers_.size() != board.takers.size() ||
        dents_.size() != board.threads.size())
        place();
    paintReed(p);
    paintThreads(p);
    const QRectF seen = QRectF(viewport()->rect()).translated(0, top());
    p.save();
    p.translate(0, -top());
    for (std::size_t n = 0; n < offers_.size(); ++n)
        if (offers_[n].card.intersects(seen))
            paintOffers(p, n);
    for (std::size_t n = 0; n < takers_.size(); ++n)
        if (takers_[n].card.intersects(seen))
            paintTaker(p, n);
    p.restore();
    // The heads of the two lists.
    const double side = offers_.empty() ? px(300) : offers_[0].card.width();
    const auto head = [&](const QRectF& r, const QString& name, const QString& what) {
        p.fillRect(r.adjusted(-px(8), 0, px(8), 0), tokens().sheet);
        p.setPen(tokens().ink);
        p.setFont(Theme::get().text(12, true));
        p.drawText(r, Qt::AlignLeft | Qt::AlignVCenter, name);
        const double wide = p.fontMetrics().horizontalAdvance(name) + px(10);
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().text(10));
        p.drawText(r.adjusted(wide, 0, 0, 0), Qt::AlignRight | Qt::AlignVCenter, what);
    };
    head({px(14), 0, side, px(hearTop - 3)}, "Offered", "channels \u00b7 heard by");
    head({viewport()->width() - side - px(14), 0, side, px(hearTop - 3)}, "Taken", "inputs of each device");
    if (drag_.on) {
        p.setPen(QPen(tokens().saffron, px(2.4)));
        QPainterPath path(drag_.start);
        const double bend = (drag_.now.x() - drag_.start.x()) * 0.5;
        path.cubicTo(drag_.start + QPointF(bend, 0), drag_.now - QPointF(bend, 0), drag_.now);
        p.setBrush(Qt::NoBrush);
        p.drawPath(path);
    }
    paintNote(p);
}

void HearView::paintReed(QPainter& p) {
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().linen);
    p.drawRoundedRect(reed_, px(7), px(7));
    const auto& filter = state_.filter();
    QString name = "All ways", above, below = QString(carried_ == 1 ? "%1 sound" : "%1 sounds").arg(carried_);
    if (filter.transport == Transport::network) {
        const auto& net = state_.network();
        name = "Network";
        int switches = 0;
        for (const auto& d : state_.project().devices)
            if (const auto* m = d.spec(); m && m->bridges) {
                ++switches;
                name = q(d.name.substr(0, d.name.find(" \u00b7 ")));
            }
        if (switches > 1)
            name = QString("%1 switches").arg(switches);
        if (net.busiest)
            above = QString("%1 of %2 Mbit/s")
                        .arg(std::max(net.busiest->there, net.busiest->back), 0, 'f', 0)
                        .arg(net.busiest->megabits, 0, 'f', 0);
        below =
            net.most > 0 ? QString("%1 of %2 flows").arg(net.flows).arg(net.most) : QString("%1 flows").arg(carried_);
    } else if (filter.transport) {
        for (const auto& u : state_.uses())
            if (u.transport == *filter.transport && (filter.ring.empty() || u.name == filter.ring)) {
                name = q(u.name);
                above = QString("%1 of %2 %3")
                            .arg(u.used)
                            .arg(u.most)
                            .arg(u.transport == Transport::ring ? "slots" : "inputs");
            }
    }
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(11, true));
    const auto line = [&](double y, const QString& text) {
        p.drawText(QRectF(reed_.left() - px(20), y, reed_.width() + px(40), px(14)), Qt::AlignCenter, text);
    };
    line(reed_.top() + px(6), name);
    p.setPen(tokens().ink2);
    p.setFont(Theme::get().number(9.5));
    line(reed_.top() + px(21), above);
    line(reed_.bottom() - px(16), below);
    const double wide = reed_.width() - px(28), high = std::clamp(dentOf(1) - dentOf(0) - px(3), 1.0, px(5));
    p.setPen(Qt::NoPen);
    const bool choice = !state_.rows().empty() || !state_.taker().empty();
    std::vector<bool> on(dentList_.size(), !choice);
    const auto& board = state_.board();
    for (std::size_t t = 0; t < board.threads.size() && choice; ++t)
        if (dents_[t] >= 0 && lit(board.threads[t]))
            on[static_cast<std::size_t>(dents_[t])] = true;
    const bool fine = dentOf(1) - dentOf(0) < px(2); // lines side by side: one a pixel
    p.setRenderHint(QPainter::Antialiasing, !fine);
    int painted = -1;
    for (int n = 0; n < capacity_; ++n) {
        const bool lit = n < carried_ && on[static_cast<std::size_t>(n)];
        const int row = static_cast<int>(dentOf(n));
        if (fine && row == painted && !(choice && lit))
            continue;
        painted = row;
        QColor c = n < carried_ ? dentList_[static_cast<std::size_t>(n)].second : tokens().hair;
        if (n < carried_ && !lit)
            c.setAlphaF(0.4f);
        if (fine) {
            p.fillRect(QRectF(reed_.center().x() - wide / 2, row, wide, 1), c);
            continue;
        }
        p.setBrush(c);
        p.drawRoundedRect(QRectF(reed_.center().x() - wide / 2, dentOf(n) - high / 2, wide, high), high / 2, high / 2);
    }
    p.setRenderHint(QPainter::Antialiasing);
}

void HearView::paintThreads(QPainter& p) {
    const auto& board = state_.board();
    const bool choice = !state_.rows().empty() || !state_.taker().empty();
    p.setBrush(Qt::NoBrush);
    for (const bool above : {false, true})
        for (std::size_t t = 0; t < board.threads.size(); ++t) {
            const auto& one = board.threads[t];
            const bool bright = choice && lit(one);
            if (dents_[t] < 0 || bright != above)
                continue;
            if (!bright && !inSight(one))
                continue;
            QColor c = dentList_[static_cast<std::size_t>(dents_[t])].second;
            if (!one.runs)
                c = tokens().caution;
            c.setAlphaF(bright ? 1.0f : choice ? 0.28f : 0.7f);
            QPen pen(c, px(bright || static_cast<int>(t) == hovered_ ? 2.8 : 1.3));
            if (!one.runs)
                pen.setDashPattern({5, 4});
            p.setPen(pen);
            p.drawPath(pathOf(one, dentOf(dents_[t])));
        }
}

void HearView::paintOffers(QPainter& p, std::size_t n) {
    const auto& d = state_.board().offers[n];
    const auto& at = offers_[n];
    const QColor colour = colourOf(d.device);
    const bool choice = !state_.rows().empty() || !state_.taker().empty();
    p.setPen(QPen(tokens().hair, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(at.card, px(4), px(4));
    p.fillRect(QRectF(at.card.left(), at.card.top() + 1, px(4), at.card.height() - 2), colour);
    p.setPen(tokens().ink);
    p.setFont(Theme::get().text(12, true));
    const auto words = at.head.adjusted(px(14), px(2), -px(8), 0);
    p.drawText(words, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(q(device(d.device).name), Qt::ElideRight, static_cast<int>(words.width())));
    for (std::size_t r = 0; r < d.rows.size(); ++r) {
        const auto& row = d.rows[r];
        const QRectF full = at.parts[r], box(full.left(), full.top(), full.width(), px(hearRow));
        const bool chosen = state_.isChosen(row.key);
        if (chosen)
            p.fillRect(full.adjusted(px(5), px(1), -px(1), -px(1)), tokens().saffronTint);
        p.setFont(Theme::get().text(10, true));
        const QString heard = row.waits        ? "waits"
                              : row.heard == 1 ? "1 hears it"
                                               : QString("%1 hear it").arg(row.heard);
        const double heardWide = p.fontMetrics().horizontalAdvance(heard) + px(8), countWide = px(40);
        p.setPen(row.waits ? tokens().caution : row.heard ? tokens().ink2 : tokens().ink3);
        p.drawText(box.adjusted(0, 0, -px(14), 0), Qt::AlignRight | Qt::AlignVCenter, heard);
        p.setFont(Theme::get().number(10.5));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(box.right() - px(14) - heardWide - countWide, box.top(), countWide, box.height()),
                   Qt::AlignRight | Qt::AlignVCenter, QString("%1 ch").arg(row.ports.size()));
        p.setFont(Theme::get().number(11, chosen));
        p.setPen(tokens().ink);
        const double nameWide = box.width() - px(30) - heardWide - countWide;
        p.drawText(QRectF(box.left() + px(22), box.top(), nameWide, box.height()), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(q(row.name), Qt::ElideRight, static_cast<int>(nameWide)));
        p.setPen(QPen(chosen ? tokens().saffron : colour, px(1.8)));
        p.setBrush(row.heard && !choice ? colour : tokens().card);
        p.drawEllipse(QPointF(box.right(), box.center().y()), px(4.6), px(4.6));
        if (ear_.knows()) { // its loudest channel
            std::optional<double> most;
            for (const auto& port : row.ports)
                if (const auto db = ear_.level({device(d.device).id, port, false}); db && (!most || *db > *most))
                    most = db;
            if (most)
                p.fillRect(
                    QRectF(box.left() + px(22), box.bottom() - px(3), (box.width() - px(44)) * shareOf(*most), px(2)),
                    levelColour(*most));
        }
        if (full.height() > box.height() + 1) // its channels, to be dragged one by one
            for (int c = 0; c < static_cast<int>(row.ports.size()); ++c) {
                const QRectF cell = channelRect(row.key, c).translated(0, top());
                p.setPen(QPen(colour, 1));
                p.setBrush(tokens().card);
                p.drawRoundedRect(cell, px(3), px(3));
                p.setPen(tokens().ink2);
                p.setFont(Theme::get().number(9));
                p.drawText(cell, Qt::AlignCenter, QString::number(c + 1));
            }
    }
}

void HearView::paintTaker(QPainter& p, std::size_t n) {
    const auto& board = state_.board();
    const auto& d = board.takers[n];
    const auto& at = takers_[n];
    const auto& dev = device(d.device);
    const bool chosen = state_.taker() == dev.id;
    const bool choice = !state_.rows().empty() || !state_.taker().empty();
    if (!d.why.empty()) { // not on the transport
        p.setPen(tokens().ink3);
        p.setFont(Theme::get().text(11));
        p.drawText(at.head.adjusted(px(12), 0, -px(8), 0), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(q(dev.name + ": " + d.why), Qt::ElideRight,
                                              static_cast<int>(at.head.width() - px(20))));
        return;
    }
    p.setPen(chosen ? QPen(tokens().ink, px(1.6)) : QPen(tokens().hair, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(at.card, px(4), px(4));
    p.fillRect(QRectF(at.card.right() - px(4), at.card.top() + 1, px(4), at.card.height() - 2), colourOf(d.device));
    const QString count = QString("%1 of %2").arg(d.used).arg(d.inputs.size());
    p.setFont(Theme::get().number(10.5));
    p.setPen(tokens().ink2);
    const double countWide = p.fontMetrics().horizontalAdvance(count) + px(16);
    p.drawText(at.head.adjusted(0, px(1), -px(12), 0), Qt::AlignRight | Qt::AlignVCenter, count);
    p.setFont(Theme::get().text(12, true));
    p.setPen(tokens().ink);
    p.drawText(at.head.adjusted(px(12), px(1), -countWide, 0), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(q(dev.name), Qt::ElideRight,
                                          static_cast<int>(at.head.width() - countWide - px(12))));
    std::vector<std::string> names;
    for (std::size_t s = 0; s < d.inputs.size(); ++s) {
        const auto& slot = d.inputs[s];
        const QRectF box = at.parts[s];
        if (slot.thread < 0) {
            p.setPen(QPen(tokens().hair, 1));
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(box, px(3), px(3));
            continue;
        }
        const auto& t = board.threads[static_cast<std::size_t>(slot.thread)];
        QColor c = slot.twice    ? tokens().fault
                   : t.from >= 0 ? colourOf(board.offers[static_cast<std::size_t>(t.from)].device)
                                 : tokens().ink3;
        const bool on = !choice || lit(t);
        QColor edge = c;
        c.setAlphaF(on ? 1.0f : 0.38f);
        edge.setAlphaF(on ? 1.0f : 0.5f);
        const auto level = t.runs && ear_.knows() ? ear_.level({dev.id, slot.port, true}) : std::nullopt;
        if (t.runs) {
            if (level)
                c.setAlphaF(c.alphaF() * 0.3f);
            p.setPen(Qt::NoPen);
            p.setBrush(c);
        } else {
            QPen dashed(edge, px(1.2));
            dashed.setDashPattern({2, 2});
            p.setPen(dashed);
            p.setBrush(Qt::NoBrush);
        }
        p.drawRoundedRect(box, px(3), px(3));
        if (level) { // rises in it
            const double high = box.height() * shareOf(*level);
            p.save();
            p.setClipRect(QRectF(box.left(), box.bottom() - high, box.width(), high));
            p.setBrush(*level > nearFullDb ? tokens().fault : edge);
            p.drawRoundedRect(box, px(3), px(3));
            p.restore();
        }
        if (std::find(names.begin(), names.end(), t.name) == names.end())
            names.push_back(t.name);
    }
    QString foot;
    for (const auto& name : names)
        foot += (foot.isEmpty() ? "" : ", ") + q(name);
    p.setFont(Theme::get().number(9.5));
    p.setPen(tokens().ink2);
    const QRectF below(at.card.left() + px(12), at.card.bottom() - px(hearFoot), at.card.width() - px(22),
                       px(hearFoot - 3));
    p.drawText(below, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(foot.isEmpty() ? QString("nothing yet") : foot, Qt::ElideRight,
                                          static_cast<int>(below.width())));
}

// What is under the pointer: a thread's ends, delay, and why it waits; of a port its level and spectrum as well.
void HearView::paintNote(QPainter& p) {
    const auto& board = state_.board();
    if (drag_.on)
        return;
    QString first, second;
    bool good = true;
    if (hovered_ >= 0 && hovered_ < static_cast<int>(board.threads.size())) {
        const auto& t = board.threads[static_cast<std::size_t>(hovered_)];
        first = q(t.name) + " \u2192 " + q(device(board.takers[static_cast<std::size_t>(t.to)].device).name);
        second = !t.runs              ? q(t.why)
                 : t.late             ? QString("%1 ms, too short: packets come later").arg(t.delayMs, 0, 'f', 2)
                 : t.receiver.empty() ? q(specOf(t.transport).name)
                                      : QString("%1 ms").arg(t.delayMs, 0, 'f', 2);
        good = t.runs && !t.late;
    }
    std::vector<double> bands;
    if (pointed_ && ear_.knows()) {
        if (first.isEmpty()) {
            const auto* d = state_.project().device(pointed_->device);
            first = d ? q(d->name) : q(pointed_->device);
        }
        second += (second.isEmpty() ? "" : " \u00b7 ") + q(pointed_->port);
        if (const auto db = ear_.level(*pointed_))
            second += *db <= PatchEar::silent ? QString(": silent")
                                              : QString(": %1 dBFS").arg(*db, 0, 'f', 1).replace('-', u'\u2212');
        bands = ear_.spectrum();
    }
    if (first.isEmpty())
        return;
    p.setFont(Theme::get().text(11, true));
    double wide = p.fontMetrics().horizontalAdvance(first);
    p.setFont(Theme::get().number(10));
    wide = std::max<double>(wide, p.fontMetrics().horizontalAdvance(second)) + px(20);
    if (!bands.empty())
        wide = std::max(wide, px(6.0 * static_cast<double>(bands.size()) + 20));
    const double low = px(38), picture = bands.empty() ? 0 : px(62);
    QRectF box(pointer_ + QPointF(px(14), px(10)), QSizeF(wide, low + picture));
    if (box.right() > viewport()->width())
        box.moveRight(viewport()->width() - 2);
    if (box.bottom() > viewport()->height())
        box.moveBottom(pointer_.y() - px(6));
    p.setPen(QPen(tokens().ink, 1));
    p.setBrush(tokens().card);
    p.drawRoundedRect(box, px(4), px(4));
    const QRectF words(box.left(), box.top(), box.width(), low);
    p.setPen(good ? tokens().ink2 : tokens().caution);
    p.drawText(words.adjusted(px(10), px(18), -px(6), -px(3)), Qt::AlignLeft | Qt::AlignVCenter, second);
    p.setFont(Theme::get().text(11, true));
    p.setPen(tokens().ink);
    p.drawText(words.adjusted(px(10), px(3), -px(6), -px(18)), Qt::AlignLeft | Qt::AlignVCenter, first);
    if (!bands.empty())
        paintSpectrum(p, box.adjusted(px(10), low, -px(10), -px(15)), bands);
}

// Third octaves, 25 Hz to 20 kHz, from -90 to 0 dBFS.
void HearView::paintSpectrum(QPainter& p, const QRectF& in, const std::vector<double>& bands) {
    constexpr double lowest = -90;
    const double step = in.width() / static_cast<double>(bands.size());
    p.setPen(Qt::NoPen);
    for (std::size_t n = 0; n < bands.size(); ++n) {
        const double high = in.height() * std::clamp(1 - bands[n] / lowest, 0.0, 1.0);
        p.fillRect(QRectF(in.left() + step * static_cast<double>(n), in.bottom() - high, step - px(1), high),
                   levelColour(bands[n]));
    }
    p.setPen(QPen(tokens().hair, 1));
    p.drawLine(in.bottomLeft(), in.bottomRight());
    p.setPen(tokens().ink2);
    p.setFont(Theme::get().number(8.5));
    const auto& centres = dsp::thirdOctaveCentres();
    for (const auto& [hz, text] : {std::pair(100.0, "100"), std::pair(1000.0, "1k"), std::pair(10000.0, "10k")})
        for (std::size_t n = 0; n < std::min(centres.size(), bands.size()); ++n)
            if (std::abs(std::log(centres[n] / hz)) < 0.1)
                p.drawText(QRectF(in.left() + step * (static_cast<double>(n) + 0.5) - px(20), in.bottom() + px(1),
                                  px(40), px(11)),
                           Qt::AlignCenter, text);
}

} // namespace loom::app
