// Where everything of a weave lies on the screen.
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_measure.h"
#include "app/weave/weave_view.h"
#include <QScrollArea>
#include <QScrollBar>

namespace loom::app {
using namespace weave;

void WeaveView::relayOut() {
    (void)session_.layout(); // makes it anew where it must
    blockNumbers_.clear();
    threadNumbers_.clear();
    knots_.clear();
    beads_.clear();
    if (const auto* p = session_.program()) {
        for (std::size_t i = 0; i < p->blocks.size(); ++i)
            blockNumbers_.emplace(p->blocks[i].id, i);
        for (std::size_t i = 0; i < p->connections.size(); ++i)
            threadNumbers_.emplace(p->connections[i].to, i);
    }
    // Rows move apart where the page is high enough, up to a point.
    const double rows = std::max(1.0, static_cast<double>(layout_.rows)),
                 high = parentWidget() && !drawing_ ? parentWidget()->height() - px(headHeight + 16) : 0;
    rowHeight_ = std::clamp((high - 1) / (rows + 0.5), px(31), px(43));
    beadWidth_ = beadWidth;
    meterWidth_ = meterWidth;
    double wide = naturalWidth_ = layColumns();
    const double page = parentWidget() && !drawing_ ? parentWidget()->width() - 1 : 0;
    if (page > wide) { // a wide page first lets beads write their values out, and meters grow ...
        int beads = std::max(2, layout_.sourceSlots) + layout_.destinationSlots;
        for (const int most : layout_.gapSlots)
            beads += most;
        const double left = (page - wide) / px(1);
        beadWidth_ += std::min(widestBead - beadWidth, left * 0.5 / beads);
        meterWidth_ += std::min(longestMeter - meterWidth, (left - beads * (beadWidth_ - beadWidth)) * 0.2);
        const double rest = page - layColumns(); // ... the rest goes before and behind the weave
        weaveX_ += rest * 0.3;
        for (auto* all : {&columnX_, &gapX_})
            for (auto& at : *all)
                at += rest * 0.3;
        destinationX_ += rest;
        wide = page;
    }
    const QSize size(qCeil(wide), qCeil(rowY(layout_.rows) + px(16)));
    lines_.clear();
    if (const auto* p = session_.program())
        for (const auto& t : p->connections)
            lines_.push_back({outPoint(t.from), inPoint(t.to)});
    colourThreads();
    setMinimumSize(size);
    updateGeometry();
    update();
}

// Where columns begin with beads and meters as wide as they are now; the width of all of it.
double WeaveView::layColumns() {
    const double slot = px(beadWidth_ + beadGap);
    sourceX_ = px(16 + labelWidth + meterWidth_ + 20);
    weaveX_ = sourceX_ + std::max(2, layout_.sourceSlots) * slot + px(64);
    double x = weaveX_;
    columnX_.clear();
    gapX_.clear();
    for (int c = 0; c <= layout_.columns; ++c) {
        gapX_.push_back(x);
        const int most =
            c < static_cast<int>(layout_.gapSlots.size()) ? layout_.gapSlots[static_cast<std::size_t>(c)] : 0;
        x += most ? most * slot + px(40) : 0;
        if (c == layout_.columns)
            break;
        columnX_.push_back(x);
        double widest = 0;
        for (const auto& h : layout_.hubs)
            if (h.column == c)
                widest = std::max(widest, hubWidth(h));
        x += widest + px(48);
    }
    destinationX_ = x;
    return x + layout_.destinationSlots * slot + px(30 + labelWidth + 24 + meterWidth_ + 16);
}

QSize WeaveView::sizeHint() const {
    return minimumSize();
}
double WeaveView::rowY(double row) const {
    return px(headHeight) + rowHeight_ * (row + 0.5);
}

double WeaveView::beadX(const engine::Layout::Lane& lane, int slot) const {
    const double first = lane.source()        ? sourceX_
                         : lane.destination() ? destinationX_
                                              : gapX_[static_cast<std::size_t>(lane.gap)];
    return first + slot * px(beadWidth_ + beadGap);
}

double WeaveView::hubWidth(const engine::Layout::Hub& h) const {
    if (!engine::isMatrix(*blockOf(h.block)))
        return px(120);
    return px(36) + static_cast<double>(std::max<std::size_t>(h.outRows.size(), 2)) * px(30);
}

double WeaveView::hubX(const engine::Layout::Hub& hub) const {
    return columnX_[static_cast<std::size_t>(hub.column)];
}

const engine::Layout::Hub* WeaveView::hub(const QString& block) const {
    return layout_.hubOf(block.toStdString());
}

// Blocks and threads stay where they are until the layout is made anew.
const engine::Block* WeaveView::blockOf(const std::string& id) const {
    const auto& blocks = session_.program()->blocks;
    const auto it = blockNumbers_.find(id);
    return it != blockNumbers_.end() && it->second < blocks.size() && blocks[it->second].id == id
               ? &blocks[it->second]
               : session_.program()->find(id);
}

const engine::Connection* WeaveView::connectionInto(const engine::PortRef& port) const {
    const auto& connections = session_.program()->connections;
    const auto it = threadNumbers_.find(port);
    return it != threadNumbers_.end() && it->second < connections.size() && connections[it->second].to == port
               ? &connections[it->second]
               : nullptr;
}

QRectF WeaveView::beadRect(const QString& block) const {
    return placeOf(block.toStdString());
}

QRectF WeaveView::placeOf(const std::string& bead) const {
    const auto* lane = layout_.laneOf(bead);
    if (!lane || lane->folded)
        return {};
    for (std::size_t i = 0; i < lane->beads.size(); ++i)
        if (lane->beads[i] == bead)
            return {beadX(*lane, static_cast<int>(i)), rowY(lane->row) - px(beadHeight) / 2, px(beadWidth_),
                    px(beadHeight)};
    return {};
}

QRectF WeaveView::laneRect(const QString& end) const {
    const auto* l = layout_.laneOf(end.toStdString());
    if (l && l->end == end.toStdString() && !l->folded) {
        const double y = rowY(l->row) - rowHeight_ / 2;
        if (l->source())
            return {px(8), y, weaveX_ - px(40), rowHeight_};
        if (!l->destination()) {
            const double from = beadX(*l, 0) - px(10);
            return {from, y, beadX(*l, static_cast<int>(l->beads.size())) + px(2) - from, rowHeight_};
        }
        return {destinationX_ - px(24), y, width() - destinationX_ + px(16), rowHeight_};
    }
    const auto* there = hub(end);
    return there ? hubRect(*there) : QRectF();
}

QRectF WeaveView::headingRect(const engine::Layout::Group& g) const {
    const double y = rowY(g.row) - rowHeight_ / 2, high = rowHeight_;
    if (g.kind == engine::Layout::Kind::source)
        return {px(8), y, weaveX_ - px(40), high};
    return {destinationX_ - px(24), y, width() - destinationX_ + px(16), high};
}

QRectF WeaveView::hubRect(const engine::Layout::Hub& h) const {
    double top = 1e9, bottom = 0;
    for (const auto& rows : {h.inRows, h.outRows})
        for (const double r : rows) {
            top = std::min(top, rowY(r));
            bottom = std::max(bottom, rowY(r));
        }
    if (bottom == 0)
        top = bottom = rowY(0);
    return {hubX(h), top - px(16), hubWidth(h), bottom - top + px(32)};
}

QPointF WeaveView::endPoint(const QString& end) const {
    return endAt(end.toStdString());
}

QPointF WeaveView::endAt(const std::string& end) const {
    const auto* l = layout_.laneOf(end);
    if (!l || !l->isEnd(end))
        return {};
    return l->source() ? QPointF(sourceX_ - px(12), rowY(l->row))
                       : QPointF(beadX(*l, layout_.destinationSlots) + px(4), rowY(l->row));
}

// Of folded lanes everything lies at their end.
std::string WeaveView::laneEnd(const std::string& block) const {
    const auto* lane = layout_.laneOf(block);
    return lane ? lane->end : block;
}

// Where a tool or a trace marks a port: behind the block, or at the end that sound arrives at.
QPointF WeaveView::pointOf(const engine::PortRef& port) const {
    const auto* lane = layout_.laneOf(port.block);
    if (lane && lane->isEnd(port.block))
        return endAt(port.block);
    if (const auto* h = layout_.hubOf(port.block))
        return {hubX(*h) + hubWidth(*h), outPoint(port).y()};
    return outPoint(port);
}

QPointF WeaveView::outPoint(const engine::PortRef& port) const {
    if (const auto* h = layout_.hubOf(port.block)) {
        const auto o = static_cast<std::size_t>(port.port);
        const bool weave = engine::isMatrix(*blockOf(port.block)); // its warps begin at their own x
        return {hubX(*h) + (weave ? px(30) * (port.port + 1) : hubWidth(*h)),
                o < h->outRows.size() ? rowY(h->outRows[o]) : 0};
    }
    const QRectF r = placeOf(port.block);
    return r.isNull() ? endAt(laneEnd(port.block)) : QPointF(r.right(), r.center().y());
}

QPointF WeaveView::inPoint(const engine::PortRef& port) const {
    if (const auto* h = layout_.hubOf(port.block)) {
        const auto i = static_cast<std::size_t>(port.port);
        return {hubX(*h), i < h->inRows.size() ? rowY(h->inRows[i]) : 0};
    }
    const QRectF r = placeOf(port.block);
    return r.isNull() ? endAt(laneEnd(port.block)) : QPointF(r.left(), r.center().y());
}

QPointF WeaveView::crossing(const QString& matrix, int in, int out) const {
    const auto* h = hub(matrix);
    if (!h || in >= static_cast<int>(h->inRows.size()))
        return {};
    return {hubX(*h) + px(30) * (out + 1), rowY(h->inRows[static_cast<std::size_t>(in)])};
}

void WeaveView::setZoom(double zoom) {
    const QPointF middle = QRectF(visibleRegion().boundingRect()).center() / zoom_;
    zoom_ = qBound(0.08, zoom, 2.0);
    relayOut();
    if (auto* area = parentWidget() ? qobject_cast<QScrollArea*>(parentWidget()->parentWidget()) : nullptr) {
        resize(minimumSize().expandedTo(area->viewport()->size()));
        const QPointF at = middle * zoom_;
        area->horizontalScrollBar()->setValue(qRound(at.x() - area->viewport()->width() / 2.0));
        area->verticalScrollBar()->setValue(qRound(at.y() - area->viewport()->height() / 2.0));
    }
    emit zoomed();
}

void WeaveView::zoomToFit() {
    setZoom(fitting());
}

double WeaveView::fitting() const {
    const QSize window = parentWidget() ? parentWidget()->size() : size();
    return std::min({1.0, zoom_ * window.width() / std::max(1.0, naturalWidth_) * 0.999,
                     zoom_ * window.height() / std::max(1.0, px(headHeight + 31 * layout_.rows + 16)) * 0.999});
}

// As much of it as can be read.
void WeaveView::fitNew() {
    const auto* d = session_.device();
    if (!d || !isVisible() || fitted_ == d->id)
        return;
    fitted_ = d->id;
    constexpr double readable = 0.75;
    setZoom(std::max(readable, fitting()));
}

} // namespace loom::app
