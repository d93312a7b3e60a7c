#include "app/shell/finder.h"
#include "app/parameter_drag.h"
#include "app/theme/theme.h"
#include <QSettings>

namespace loom::app {

Finder::Finder(QWidget* parent)
    : PickList("finder", "A lane, block, value or command; delegate 3 band 2 gain = -3", "Find or do", parent) {
    makeParameterSource(
        list_->viewport(),
        [this] {
            const auto* item = list_->itemAt(list_->viewport()->mapFromGlobal(QCursor::pos()));
            return item ? all_[static_cast<std::size_t>(item->data(Qt::UserRole).toInt())].path : QString();
        },
        Qt::ArrowCursor, [this] { hide(); });
}

void Finder::open(std::vector<Findable> all, const QString& recent) {
    all_ = std::move(all);
    recent_ = recent;
    if (!recent_.isEmpty()) {
        const QStringList lately = QSettings().value(recent_).toStringList();
        const auto rank = [&](const Findable& f) {
            const auto at = lately.indexOf(f.kind + f.text);
            return at < 0 ? lately.size() : at;
        };
        std::stable_sort(all_.begin(), all_.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
    }
    const QSize whole = parentWidget()->size();
    const int width = qMin(Theme::get().ipx(560), whole.width() - 20);
    setGeometry((whole.width() - width) / 2, Theme::get().ipx(48), width,
                qMin(Theme::get().ipx(360), whole.height() - 60));
    show();
}

void Finder::fill() {
    list_->clear();
    const QStringList words = words_->text().section('=', 0, 0).split(' ', Qt::SkipEmptyParts);
    // What has the words in the order they were typed comes first: "delegate 3 band 2" is not "Delegate 2, band 3".
    for (const bool inOrder : {true, false})
        for (std::size_t i = 0; i < all_.size() && list_->count() < 60; ++i) {
            const QString text = all_[i].kind + "   " + all_[i].text;
            bool every = true, ordered = true;
            qsizetype at = 0;
            for (const auto& w : words) {
                every = every && text.contains(w, Qt::CaseInsensitive);
                at = text.indexOf(w, at, Qt::CaseInsensitive);
                ordered = ordered && at >= 0;
                at += w.size();
            }
            if (!every || ordered != inOrder)
                continue;
            auto* item = new QListWidgetItem(text + (all_[i].key.isEmpty() ? QString() : "   " + all_[i].key), list_);
            item->setData(Qt::UserRole, static_cast<int>(i));
        }
    list_->setCurrentRow(0);
}

void Finder::pick() {
    const auto* item = list_->currentItem();
    const QString value = words_->text().contains('=') ? words_->text().section('=', 1).trimmed() : QString();
    hide();
    parentWidget()->setFocus();
    if (!item)
        return;
    const Findable f = all_[static_cast<std::size_t>(item->data(Qt::UserRole).toInt())];
    if (!recent_.isEmpty()) {
        QSettings settings;
        QStringList lately = settings.value(recent_).toStringList();
        lately.removeAll(f.kind + f.text);
        lately.prepend(f.kind + f.text);
        settings.setValue(recent_, lately.mid(0, 12));
    }
    if (!value.isEmpty() && f.set)
        f.set(value);
    else
        f.go();
}

void Finder::leave(bool byKey) {
    hide();
    if (byKey)
        parentWidget()->setFocus();
}

} // namespace loom::app
