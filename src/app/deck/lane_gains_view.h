// The lanes of an automatic mixer: a bar each for the gain it has, full when open, with the names of what arrives.
#pragma once
#include "app/deck/block_picture.h"

namespace loom::app {

class LaneGainsView : public BlockPicture {
    Q_OBJECT
  public:
    LaneGainsView(Session& session, const QString& block);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    void paintPast(QPainter& p, const QRectF& r, int lanes);
};

} // namespace loom::app
