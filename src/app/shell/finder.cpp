#include "app/shell/finder.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

namespace loom::app {

Finder::Finder(QWidget* parent) : QFrame(parent), words_(new QLineEdit), list_(new QListWidget) {
    setObjectName("finder");
    auto* box = new QVBoxLayout(this);
    box->addWidget(words_);
    box->addWidget(list_);
    words_->setPlaceholderText("A lane, block, value or command; delegate 3 band 2 gain = -3");
    words_->setAccessibleName("Find or do");
    list_->setAccessibleName("What was found");
    list_->setFocusPolicy(Qt::NoFocus);
    connect(words_, &QLineEdit::textChanged, this, &Finder::fill);
    connect(words_, &QLineEdit::returnPressed, this, &Finder::pick);
    connect(list_, &QListWidget::itemClicked, this, &Finder::pick);
    words_->installEventFilter(this);
    hide();
}

void Finder::open(std::vector<Findable> all) {
    all_ = std::move(all);
    setStyleSheet(QString("#finder { background: %1; border: 2px solid %2; border-radius: 8px; }")
                      .arg(tokens().card.name(), tokens().saffron.name()));
    const QSize whole = parentWidget()->size();
    const int width = qMin(Theme::get().ipx(560), whole.width() - 20);
    setGeometry((whole.width() - width) / 2, Theme::get().ipx(48), width,
                qMin(Theme::get().ipx(360), whole.height() - 60));
    words_->clear();
    fill();
    show();
    raise();
    words_->setFocus();
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
    if (!value.isEmpty() && f.set)
        f.set(value);
    else
        f.go();
}

bool Finder::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() == QEvent::FocusOut)
        hide();
    if (e->type() != QEvent::KeyPress)
        return QFrame::eventFilter(watched, e);
    const int key = static_cast<QKeyEvent*>(e)->key();
    if (key == Qt::Key_Escape) {
        hide();
        parentWidget()->setFocus();
        return true;
    }
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
        list_->setCurrentRow(qBound(0, list_->currentRow() + (key == Qt::Key_Down ? 1 : -1), list_->count() - 1));
        return true;
    }
    return QFrame::eventFilter(watched, e);
}

} // namespace loom::app
