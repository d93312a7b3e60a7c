// The field that opens at "/": type a few letters of a block, Enter puts it on the chosen lane; blocks that start or
// end a lane, and matrix mixers, come as lanes and weaves of their own.
#pragma once
#include "app/shell/pick_list.h"

namespace loom::app {

class InsertField : public PickList {
    Q_OBJECT
  public:
    InsertField(bool onLane, QWidget* parent); // onLane: a lane is chosen, blocks of one way in and out fit
    void open() { show(); }

  signals:
    void picked(const QString& kind);

  protected:
    void fill() override;
    void pick() override;
    void leave(bool) override { close(); }

  private:
    bool onLane_;
};

} // namespace loom::app
