// A row of widgets that breaks into further rows where the width is not enough, as at large text.
#pragma once
#include <QLayout>
#include <QStyle>

namespace loom::app {

class FlowLayout : public QLayout {
  public:
    explicit FlowLayout(int spacing = 6) : gap_(spacing) { setContentsMargins(0, 0, 0, 0); }
    ~FlowLayout() override;
    void addItem(QLayoutItem* item) override { items_.append(item); }
    int count() const override { return static_cast<int>(items_.size()); }
    QLayoutItem* itemAt(int i) const override { return items_.value(i); }
    QLayoutItem* takeAt(int i) override { return i >= 0 && i < count() ? items_.takeAt(i) : nullptr; }
    Qt::Orientations expandingDirections() const override { return {}; }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override { return arrange({0, 0, width, 0}, false); }
    QSize sizeHint() const override { return minimumSize(); }
    QSize minimumSize() const override;
    void setGeometry(const QRect& r) override;

  private:
    int arrange(const QRect& r, bool place) const; // height that was needed
    QList<QLayoutItem*> items_;
    int gap_;
};

} // namespace loom::app
