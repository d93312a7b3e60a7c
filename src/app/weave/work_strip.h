// What is at work over the weave and not part of the program: tools, the ear, what is measured, traced or compared. One
// chip each, to take it away; hidden while there is nothing.
#pragma once
#include "app/session.h"
#include <QWidget>

class QPushButton;
class QScrollArea;

namespace loom::app {

class WeaveView;

class WorkStrip : public QWidget {
    Q_OBJECT
  public:
    WorkStrip(Session& session, WeaveView& weave, QWidget* parent = nullptr);
    void refresh();

  signals:
    void wantsSilence(); // the ear is to be taken off

  protected:
    bool eventFilter(QObject*, QEvent*) override; // the wheel moves the row

  private:
    Session& session_;
    WeaveView& weave_;
    QScrollArea* area_; // one row, however many there are: the weave keeps its room
    QPushButton* clear_;
    QString shown_;
};

} // namespace loom::app
