// The stages at the left, in the order of the work, each with its count of findings.
#pragma once
#include "app/shell/stage.h"
#include <QWidget>

namespace loom::app {

class Rail : public QWidget {
    Q_OBJECT
  public:
    explicit Rail(QWidget* parent = nullptr);
    void setStages(const std::vector<Stage>& stages); // names and icons are taken over
    void setCurrent(int stage);
    int current() const { return current_; }
    void setFindings(int stage, int count);
    QRectF stageRect(int stage) const;

  signals:
    void chosen(int stage);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override; // what is dragged over a stage turns to it
    void dragMoveEvent(QDragMoveEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    struct Entry {
        QString name;
        std::function<void(QPainter&, QPointF)> icon;
        int findings = 0;
    };
    int count() const { return static_cast<int>(entries_.size()); }
    std::vector<Entry> entries_;
    int current_ = 0;
};

} // namespace loom::app
