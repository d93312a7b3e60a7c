// What a running block tells of itself: its first figure over the last seconds, and all figures as numbers.
#pragma once
#include "app/deck/block_picture.h"

namespace loom::app {

class HistoryView : public BlockPicture {
    Q_OBJECT
  public:
    HistoryView(Session& session, const QString& block);

  protected:
    void paintEvent(QPaintEvent*) override;
};

} // namespace loom::app
