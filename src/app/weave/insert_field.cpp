#include "app/weave/insert_field.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/bead.h"
#include "engine/block_kind.h"
#include "program/phrase.h"
#include "program/program_edit.h"
#include <QPainter>

namespace loom::app {
namespace {

QIcon swatchPicture(const project::Swatch& swatch, QSize size, double ratio) {
    QPixmap picture(size * ratio);
    picture.setDevicePixelRatio(ratio);
    picture.fill(Qt::transparent);
    QPainter p(&picture);
    p.setRenderHint(QPainter::Antialiasing);
    const double high = size.height() - 2.0, wide = high * 2.1, y = size.height() / 2.0;
    p.setPen(QPen(tokens().ink2, 1.6));
    const auto& order = swatch.order();
    p.drawLine(QPointF(0, y),
               QPointF(std::min<double>(size.width(), static_cast<double>(order.size()) * (wide + 5)), y));
    double x = 3;
    for (const auto& id : order) {
        BeadLook look{{x, 1, wide, high}, tokens().ink2, high / Theme::get().px(22)};
        look.zoom = std::max(look.zoom, 0.61); // with its picture
        paintBead(p, *swatch.piece.find(id), look);
        x += wide + 5;
    }
    p.end();
    QIcon icon(picture);
    icon.addPixmap(picture, QIcon::Selected); // as it is, not tinted
    return icon;
}

} // namespace

InsertField::InsertField(bool onLane, QWidget* parent, For what)
    : PickList("insert",
               what == For::swap ? "Another block in its place"
               : onLane          ? "eq 3k1 +3 Q2, delay 8ms \u2026 or > where to"
                                 : "source Delegate x8, mixer \u2026",
               what == For::swap ? "Block to swap for" : "Blocks to insert", parent),
      onLane_(onLane), for_(what) {
    if (what == For::insert)
        library_ = project::library();
    list_->setIconSize({Theme::get().ipx(190), Theme::get().ipx(20)});
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
    else {
        fillKinds(words);
        fillSwatches(words);
    }
    if (list_->count() == 0 && for_ == For::insert) // more than the name of a block
        fillUnderstood(words);
    if (!list_->currentItem())
        list_->setCurrentRow(0);
}

void InsertField::fillKinds(const QString& words) {
    for (const bool beads : {true, false}) // what lies on a lane first
        for (const auto& k : engine::blockKinds()) {
            const QString label = q(k.label), id = q(k.id);
            const bool has = label.contains(words, Qt::CaseInsensitive) || id.startsWith(words, Qt::CaseInsensitive);
            if (project::fitsLane(k) != beads || (beads && !onLane_) || !has || (for_ == For::swap && beads != onLane_))
                continue;
            auto* item = new QListWidgetItem(beads || for_ == For::swap ? label : label + "  \u00b7 new", list_);
            item->setData(Qt::UserRole, id);
            item->setToolTip(q(k.purpose));
            if (!words.isEmpty() && !list_->currentItem() &&
                (id.compare(words, Qt::CaseInsensitive) == 0 || label.startsWith(words, Qt::CaseInsensitive)))
                list_->setCurrentItem(item);
        }
}

// By name and notes, each with its chain as it will lie on the lane.
void InsertField::fillSwatches(const QString& words) {
    for (std::size_t i = 0; i < library_.size(); ++i) {
        const auto& swatch = library_[i].swatch;
        const QString label = "Swatch \u00b7 " + q(swatch.name);
        if (!label.contains(words, Qt::CaseInsensitive) && !q(swatch.notes).contains(words, Qt::CaseInsensitive))
            continue;
        auto* item = new QListWidgetItem(label, list_);
        item->setData(Qt::UserRole + 1, static_cast<int>(i));
        item->setToolTip(q(swatch.notes));
        if (swatch.chain())
            item->setIcon(swatchPicture(swatch, list_->iconSize(), devicePixelRatioF()));
        if (!words.isEmpty() && !list_->currentItem() && q(swatch.name).startsWith(words, Qt::CaseInsensitive))
            list_->setCurrentItem(item);
    }
}

// One line a block, with its values as they will be shown; or the word that fits nothing.
void InsertField::fillUnderstood(const QString& phrase) {
    const auto said = project::readPhrase(phrase.toStdString());
    if (!said) {
        list_->addItem(q(said.error().message));
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
    const auto* item = list_->currentItem();
    if (const QVariant number = item ? item->data(Qt::UserRole + 1) : QVariant(); number.isValid() && take) {
        take(library_[number.toUInt()].swatch);
        return void(close());
    }
    if (say(phrase()))
        close();
}

} // namespace loom::app
