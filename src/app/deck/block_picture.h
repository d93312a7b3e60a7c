// A picture in a card of what a running block does; repainted as the sound goes on.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace loom::app {

class BlockPicture : public QWidget {
    Q_OBJECT
  public:
    // `what` is the picture's own part of the object name: "transfer.chair.compressor".
    BlockPicture(Session& session, const QString& block, const QString& what, const QString& says, QSize least);

  protected:
    const engine::Block* block() const; // null: it is gone
    Session& session_;
    const QString block_;
};

} // namespace loom::app
