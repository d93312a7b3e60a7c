#include "app/shell/pick_list.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QVBoxLayout>

namespace loom::app {

PickList::PickList(const QString& name, const QString& hint, const QString& fieldName, QWidget* parent)
    : QFrame(parent), words_(new QLineEdit), list_(new QListWidget) {
    setObjectName(name);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(8, 8, 8, 8);
    box->addWidget(words_);
    box->addWidget(list_);
    words_->setPlaceholderText(hint);
    words_->setAccessibleName(fieldName);
    list_->setAccessibleName("What fits");
    list_->setFocusPolicy(Qt::NoFocus);
    connect(words_, &QLineEdit::textChanged, this, [this] { fill(); });
    connect(words_, &QLineEdit::returnPressed, this, [this] { pick(); });
    connect(list_, &QListWidget::itemClicked, this, [this] { pick(); });
    words_->installEventFilter(this);
    hide();
}

void PickList::show() {
    setStyleSheet(QString("#%1 { background: %2; border: 2px solid %3; border-radius: 8px; }")
                      .arg(objectName(), tokens().card.name(), tokens().saffron.name()));
    words_->clear();
    fill();
    QFrame::show();
    raise();
    words_->setFocus();
}

bool PickList::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() == QEvent::FocusOut)
        leave(false);
    if (e->type() != QEvent::KeyPress)
        return QFrame::eventFilter(watched, e);
    const int key = static_cast<QKeyEvent*>(e)->key();
    if (key == Qt::Key_Escape) {
        leave(true);
        return true;
    }
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
        list_->setCurrentRow(qBound(0, list_->currentRow() + (key == Qt::Key_Down ? 1 : -1), list_->count() - 1));
        return true;
    }
    return QFrame::eventFilter(watched, e);
}

} // namespace loom::app
