#include "app/weave/insert_field.h"
#include "app/theme/theme.h"
#include "engine/block_kind.h"

namespace loom::app {

InsertField::InsertField(bool onLane, QWidget* parent)
    : PickList("insert", onLane ? "Block, such as eq or delay" : "Source, destination, mixer \u2026", "Block to insert",
               parent),
      onLane_(onLane) {
    setAttribute(Qt::WA_DeleteOnClose);
    setFixedSize(Theme::get().ipx(300), Theme::get().ipx(230));
}

void InsertField::fill() {
    list_->clear();
    const QString words = words_->text().trimmed();
    for (const bool beads : {true, false}) // what lies on a lane first
        for (const auto& k : engine::blockKinds()) {
            const QString label = QString::fromStdString(k.label), id = QString::fromStdString(k.id);
            const bool fits = label.contains(words, Qt::CaseInsensitive) || id.startsWith(words, Qt::CaseInsensitive);
            if (k.channelwise() != beads || (beads && !onLane_) || !fits)
                continue;
            auto* item = new QListWidgetItem(beads ? label : label + "  \u00b7 new", list_);
            item->setData(Qt::UserRole, id);
            item->setToolTip(QString::fromStdString(k.purpose));
            if (!words.isEmpty() && !list_->currentItem() &&
                (id.compare(words, Qt::CaseInsensitive) == 0 || label.startsWith(words, Qt::CaseInsensitive)))
                list_->setCurrentItem(item);
        }
    if (!list_->currentItem())
        list_->setCurrentRow(0);
}

void InsertField::pick() {
    if (const auto* item = list_->currentItem())
        emit picked(item->data(Qt::UserRole).toString());
    close();
}

} // namespace loom::app
