// Columns side by side where there is room, one below the other where there is not; scrolls then.
#pragma once
#include "app/theme/theme.h"
#include <QBoxLayout>
#include <QScrollArea>

namespace loom::app {

class RowOrStack : public QScrollArea {
  public:
    // fromWidth: pixels at 100 % from which there is room for a row.
    explicit RowOrStack(int fromWidth, QWidget* parent = nullptr)
        : QScrollArea(parent), from_(fromWidth), inside_(new QWidget),
          row_(new QBoxLayout(QBoxLayout::LeftToRight, inside_)) {
        row_->setContentsMargins(0, 2, 0, 0);
        row_->setSpacing(Theme::get().ipx(16));
        setWidget(inside_);
        setWidgetResizable(true);
        setFrameShape(QFrame::NoFrame);
        setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        inside_->setAutoFillBackground(false);
        viewport()->setAutoFillBackground(false);
    }
    void add(QLayout* column, int stretch) {
        auto* holder = new QWidget;
        column->setContentsMargins(0, 0, 0, 0);
        holder->setLayout(column);
        row_->addWidget(holder, stretch);
    }
    bool stacked() const { return row_->direction() == QBoxLayout::TopToBottom; }

  protected:
    void resizeEvent(QResizeEvent* event) override {
        QScrollArea::resizeEvent(event);
        row_->setDirection(width() < Theme::get().ipx(from_) ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
    }

  private:
    int from_;
    QWidget* inside_;
    QBoxLayout* row_;
};

} // namespace loom::app
