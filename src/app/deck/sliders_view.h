// The sliders of a graphic equaliser side by side, with the response they make.
#pragma once
#include "app/deck/block_picture.h"
#include "app/shell/accessible.h"

namespace loom::app {

class SlidersView : public BlockPicture, public Painted {
    Q_OBJECT
  public:
    SlidersView(Session& session, const QString& block);
    QString param() const; // of the chosen slider
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  signals:
    void sliderChosen();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    QRectF plot() const;
    int sliderAt(double x) const;
    double gainAt(double y) const;
    double yOf(double gain) const;
    void put(double gain, bool merge);
    int chosen_ = 0;
    bool moved_ = false;
};

} // namespace loom::app
