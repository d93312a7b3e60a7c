// The deck of Talk: what a first pass proposes, each with its reason and a tick.
#pragma once
#include "app/talk/talk_state.h"
#include <QWidget>

class QLabel;
class QPushButton;
class QTreeWidget;

namespace loom::app {

class FirstPassDeck : public QWidget {
    Q_OBJECT
  public:
    explicit FirstPassDeck(TalkState& state, QWidget* parent = nullptr);

  signals:
    void wantsTake();

  private:
    void refresh();
    TalkState& state_;
    QLabel *title_, *words_, *rest_;
    QTreeWidget* list_;
    QPushButton *take_, *drop_;
    bool filling_ = false;
};

} // namespace loom::app
