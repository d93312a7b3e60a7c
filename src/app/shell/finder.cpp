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
    for (std::size_t i = 0; i < all_.size() && list_->count() < 60; ++i) {
        const Findable& f = all_[i];
        bool all = true;
        for (const auto& w : words)
            all = all && (f.text.contains(w, Qt::CaseInsensitive) || f.kind.contains(w, Qt::CaseInsensitive));
        if (!all)
            continue;
        auto* item =
            new QListWidgetItem(f.kind + "   " + f.text + (f.key.isEmpty() ? QString() : "   " + f.key), list_);
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
