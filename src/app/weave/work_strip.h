// What is at work over the weave and not part of the program: tools, the ear, what is measured, traced or compared. One
// chip each, to take it away; hidden while there is nothing.
#pragma once
#include "app/session.h"
#include <QWidget>

class QPushButton;

namespace loom::app {

class FlowLayout;
class WeaveView;

class WorkStrip : public QWidget {
    Q_OBJECT
  public:
    WorkStrip(Session& session, WeaveView& weave, QWidget* parent = nullptr);
    void refresh();

  signals:
    void wantsSilence(); // the ear is to be taken off

  private:
    QPushButton* addChip(const QString& text, const QString& tip, const std::function<void()>& go);
    Session& session_;
    WeaveView& weave_;
    FlowLayout* row_;
    QString shown_;
};

} // namespace loom::app
