// What a dynamics block does to a steady level: out over in, both in dBFS, with a point where the sound is now.
#pragma once
#include "app/deck/block_picture.h"

namespace loom::app {

class TransferView : public BlockPicture {
    Q_OBJECT
  public:
    TransferView(Session& session, const QString& block);

  protected:
    void paintEvent(QPaintEvent*) override;
};

} // namespace loom::app
