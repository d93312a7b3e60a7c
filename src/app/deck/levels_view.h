// Levels over frequency as a running analyser block tells them: third-octave bars, or fine lines.
#pragma once
#include "app/deck/block_picture.h"

namespace loom::app {

class LevelsView : public BlockPicture {
    Q_OBJECT
  public:
    LevelsView(Session& session, const QString& block);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

  private:
    QRectF plot() const;
    int count() const; // bars or points
    double hzOf(int i) const;
    double level(int i) const; // dB
    bool bars_;
    std::optional<QPointF> pointer_;
};

} // namespace loom::app
