// The Talk stage: conversations.
#pragma once
#include "app/talk/talk_state.h"
#include <QWidget>

class QLabel;
class QPushButton;

namespace loom::app {

class Commands;
class FlowLayout;
class TalkView;

class TalkPage : public QWidget {
    Q_OBJECT
  public:
    TalkPage(Session& session, Commands& commands, QWidget* parent = nullptr);
    TalkState& state() { return state_; }
    TalkView* view() { return view_; }
    void beat();       // sound runs
    void saveFarEnd(); // into a WAV file
    QString nothingShown() const;

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    TalkState state_;
    TalkView* view_;
    QWidget* chips_;
    FlowLayout* chipRow_;
    QLabel* says_;
    QPushButton *first_, *prove_;
    QString shownChips_;
};

} // namespace loom::app
