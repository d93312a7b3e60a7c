#include "app/shell/flow_layout.h"
#include <QWidget>

namespace loom::app {

FlowLayout::~FlowLayout() {
    qDeleteAll(items_);
}

QSize FlowLayout::minimumSize() const {
    QSize size;
    for (const auto* item : items_)
        size = size.expandedTo(item->minimumSize());
    return size;
}

void FlowLayout::setGeometry(const QRect& r) {
    QLayout::setGeometry(r);
    arrange(r, true);
}

int FlowLayout::arrange(const QRect& r, bool place) const {
    int y = r.y(), high = 0, x = r.x();
    QList<std::pair<QLayoutItem*, QRect>> row;
    const auto endRow = [&] { // items of a row lie on one middle line
        for (auto& [item, at] : row)
            if (place)
                item->setGeometry(at.translated(0, y + (high - at.height()) / 2));
        y += row.isEmpty() ? 0 : high + gap_;
        x = r.x();
        high = 0;
        row.clear();
    };
    for (auto* item : items_) {
        if (item->isEmpty())
            continue;
        const QSize size = item->sizeHint().boundedTo({r.width(), QLAYOUTSIZE_MAX});
        if (x + size.width() > r.right() + 1)
            endRow();
        row.append({item, QRect(QPoint(x, 0), size)});
        x += size.width() + gap_;
        high = std::max(high, size.height());
    }
    endRow();
    return std::max(0, y - gap_ - r.y());
}

} // namespace loom::app
