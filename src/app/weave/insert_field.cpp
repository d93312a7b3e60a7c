#include "app/weave/insert_field.h"
#include "app/theme/theme.h"
#include "engine/block_kind.h"
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

namespace loom::app {

InsertField::InsertField(QWidget* parent) : QFrame(parent), words_(new QLineEdit), list_(new QListWidget) {
    setObjectName("insert");
    setAttribute(Qt::WA_DeleteOnClose);
    setStyleSheet(QString("#insert { background: %1; border: 2px solid %2; border-radius: 8px; }")
                      .arg(tokens().card.name(), tokens().saffron.name()));
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(8, 8, 8, 8);
    box->addWidget(words_);
    box->addWidget(list_);
    words_->setPlaceholderText("Block, such as eq or delay");
    words_->setAccessibleName("Block to insert");
    list_->setAccessibleName("Blocks that fit");
    list_->setFocusPolicy(Qt::NoFocus);
    setFixedSize(Theme::get().ipx(280), Theme::get().ipx(210));
    connect(words_, &QLineEdit::textChanged, this, &InsertField::fill);
    connect(words_, &QLineEdit::returnPressed, this, &InsertField::pick);
    connect(list_, &QListWidget::itemClicked, this, &InsertField::pick);
    words_->installEventFilter(this);
    fill({});
}

void InsertField::open() {
    show();
    raise();
    words_->setFocus();
}

void InsertField::fill(const QString& words) {
    list_->clear();
    for (const auto& k : engine::blockKinds()) {
        const QString label = QString::fromStdString(k.label), id = QString::fromStdString(k.id);
        if (!k.channelwise() ||
            !(label.contains(words, Qt::CaseInsensitive) || id.startsWith(words, Qt::CaseInsensitive)))
            continue;
        auto* item = new QListWidgetItem(label, list_);
        item->setData(Qt::UserRole, id);
        item->setToolTip(QString::fromStdString(k.purpose));
        if (!words.isEmpty() &&
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

bool InsertField::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() == QEvent::FocusOut)
        close();
    if (e->type() != QEvent::KeyPress)
        return QFrame::eventFilter(watched, e);
    const int key = static_cast<QKeyEvent*>(e)->key();
    if (key == Qt::Key_Escape) {
        close();
        return true;
    }
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
        list_->setCurrentRow(qBound(0, list_->currentRow() + (key == Qt::Key_Down ? 1 : -1), list_->count() - 1));
        return true;
    }
    return QFrame::eventFilter(watched, e);
}

} // namespace loom::app
