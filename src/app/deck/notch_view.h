// The notches a feedback suppressor has set: where, how deep, and a switch for each that frees it.
#pragma once
#include "app/deck/block_picture.h"

namespace loom::app {

class NotchView : public BlockPicture {
    Q_OBJECT
  public:
    NotchView(Session& session, const QString& block);

  protected:
    void paintEvent(QPaintEvent*) override;
};

} // namespace loom::app
