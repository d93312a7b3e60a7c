// The Weave stage: which processor, what it takes of it, the weave itself, and what is at work over it.
#pragma once
#include "app/session.h"
#ifndef Q_MOC_RUN
#include "program/load.h"
#endif
#ifndef Q_MOC_RUN
#endif
#include <QWidget>

class QLabel;
class QPushButton;

namespace loom::app {

class Commands;
class WeaveView;
class WorkStrip;

class WeavePage : public QWidget {
    Q_OBJECT
  public:
    WeavePage(Session& session, Commands& commands, QWidget* parent = nullptr);
    WeaveView* weave() { return weave_; }
    void refresh();

  private:
    QString loadText();
    Session& session_;
    WeaveView* weave_;
    WorkStrip* strip_;
    QLabel *device_, *load_;
    QPushButton *processor_, *zoom_, *run_;
    project::Load before_{}, now_{}; // of the last change of structure
};

} // namespace loom::app
