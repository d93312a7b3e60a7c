// Columns side by side where there is room, one at a time behind tabs where there is not.
#pragma once
#include "app/theme/theme.h"
#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>

namespace loom::app {

class RowOrTabs : public QWidget {
  public:
    static constexpr int never = 1 << 24; // always tabs
    // fromWidth: pixels at 100 % from which there is room for a row.
    explicit RowOrTabs(int fromWidth, QWidget* parent = nullptr)
        : QWidget(parent), from_(fromWidth), tabs_(new QWidget), tabRow_(new QHBoxLayout(tabs_)),
          row_(new QHBoxLayout) {
        auto* box = new QVBoxLayout(this);
        box->setContentsMargins(0, 0, 0, 0);
        tabRow_->setContentsMargins(0, 0, 0, 0);
        tabRow_->addStretch();
        box->addWidget(tabs_);
        box->addLayout(row_, 1);
    }
    void add(const QString& name, QWidget* column, int stretch) {
        auto* tab = new QPushButton(name);
        tab->setCheckable(true);
        tab->setObjectName("tab " + name);
        const auto which = columns_.size();
        connect(tab, &QPushButton::clicked, this, [this, which] {
            shown_ = which;
            place();
        });
        tabRow_->insertWidget(static_cast<int>(which), tab);
        row_->addWidget(column, stretch);
        columns_.emplace_back(tab, column);
        place();
    }

    void show(std::size_t which) { // where there are tabs
        shown_ = which;
        place();
    }
    using QWidget::show;

  protected:
    void resizeEvent(QResizeEvent* e) override {
        QWidget::resizeEvent(e);
        place();
    }

  private:
    void place() {
        const bool narrow = width() < Theme::get().ipx(from_);
        tabs_->setVisible(narrow);
        for (std::size_t i = 0; i < columns_.size(); ++i) {
            columns_[i].first->setChecked(i == shown_);
            columns_[i].second->setVisible(!narrow || i == shown_);
        }
    }
    int from_;
    QWidget* tabs_;
    QHBoxLayout *tabRow_, *row_;
    std::vector<std::pair<QPushButton*, QWidget*>> columns_;
    std::size_t shown_ = 0;
};

} // namespace loom::app
