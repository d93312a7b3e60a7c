#include "app/weave/insert_field.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "engine/block_kind.h"
#include "project/phrase.h"
#include "project/program_edit.h"

namespace loom::app {

InsertField::InsertField(bool onLane, QWidget* parent)
    : PickList("insert", onLane ? "eq 3k1 +3 Q2, delay 8ms \u2026 or > where to" : "source Delegate x8, mixer \u2026",
               "Blocks to insert", parent),
      onLane_(onLane) {
    setAttribute(Qt::WA_DeleteOnClose);
    // As wide as a phrase, where there is room.
    setFixedSize(
        qMin(Theme::get().ipx(560), qMax(Theme::get().ipx(300), parent->visibleRegion().boundingRect().width() / 2)),
        Theme::get().ipx(230));
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setTextElideMode(Qt::ElideRight);
}

void InsertField::open(const QString& begin) {
    show();
    words_->setText(begin);
}

void InsertField::fill() {
    list_->clear();
    const QString words = words_->text().trimmed();
    if (words.startsWith('>'))
        list_->addItem("Routes the chosen lanes; * is any letters, -6 a level");
    else
        fillKinds(words);
    if (list_->count() == 0) // more than the name of a block
        fillUnderstood(words);
    if (!list_->currentItem())
        list_->setCurrentRow(0);
}

void InsertField::fillKinds(const QString& words) {
    for (const bool beads : {true, false}) // what lies on a lane first
        for (const auto& k : engine::blockKinds()) {
            const QString label = q(k.label), id = q(k.id);
            const bool has = label.contains(words, Qt::CaseInsensitive) || id.startsWith(words, Qt::CaseInsensitive);
            if (project::fitsLane(k) != beads || (beads && !onLane_) || !has)
                continue;
            auto* item = new QListWidgetItem(beads ? label : label + "  \u00b7 new", list_);
            item->setData(Qt::UserRole, id);
            item->setToolTip(q(k.purpose));
            if (!words.isEmpty() && !list_->currentItem() &&
                (id.compare(words, Qt::CaseInsensitive) == 0 || label.startsWith(words, Qt::CaseInsensitive)))
                list_->setCurrentItem(item);
        }
}

// One line a block, with its values as they will be shown; or the word that fits nothing.
void InsertField::fillUnderstood(const QString& phrase) {
    const auto said = project::readPhrase(phrase.toStdString());
    if (!said) {
        list_->addItem(q(said.trouble().message));
        return;
    }
    for (const auto& b : *said) {
        const auto& kind = *engine::findKind(b.kind);
        const auto& table = engine::paramTable(kind, engine::fullShape(kind, engine::Block{"x", b.kind, ""}));
        QString line = q(kind.label);
        if (!b.label.empty())
            line += " " + q(b.label);
        if (b.copies > 1)
            line += QString(" \u00d7 %1").arg(b.copies);
        for (const auto& spec : table.specs())
            if (const auto v = b.values.find(spec.id); v != b.values.end())
                line += "  \u00b7 " + q(spec.label) + " " + q(formatValue(spec, v->second));
        list_->addItem(line);
    }
}

QString InsertField::phrase() const {
    const QString words = words_->text().trimmed();
    const auto* item = list_->currentItem();
    const QString kind = item ? item->data(Qt::UserRole).toString() : QString();
    return kind.isEmpty() ? words : kind;
}

void InsertField::pick() {
    if (say(phrase()))
        close();
}

} // namespace loom::app
