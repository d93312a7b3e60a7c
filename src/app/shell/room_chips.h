// A chip a room, in its colour, in the top bar.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace loom::app {

class RoomChips : public QWidget {
    Q_OBJECT
  public:
    explicit RoomChips(QWidget* parent = nullptr);
    void show(const project::Project& project, const std::string& here); // `here`: the room that is worked in, or ""

  signals:
    void chosen(const std::string& room);

  private:
    QString shown_;
};

} // namespace loom::app
