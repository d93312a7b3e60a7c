// The Talk stage: conversations.
#pragma once
#include "app/talk/far_player.h"
#include "app/talk/talk_state.h"
#include <QWidget>

class QLabel;
class QPushButton;
class QStackedWidget;

namespace loom::app {

class Commands;
class FlowLayout;
class MixView;
class MuteView;
class TalkView;
class WhoseView;

class TalkPage : public QWidget {
    Q_OBJECT
  public:
    TalkPage(Session& session, Commands& commands, QWidget* parent = nullptr);
    TalkState& state() { return state_; }
    TalkView* view() { return view_; }
    MixView* mixes() { return mixes_; }
    MuteView* mutes() { return mutes_; }
    WhoseView* whose() { return whose_; }
    enum class View { conversation, mixes, mute, whose };
    void show(View view);
    View shown() const;
    void focusView();
    FarPlayer& player() { return player_; }
    void hear();                  // what the far end was sent, or no longer
    void hearBefore(bool before); // of a comparison
    void askLevel();              // of the chosen crossing
    void askOwner();              // of the chosen ports
    void askLatch();              // which wall's latch hangs on the chosen contact
    void askNumber(bool keys);    // to dial, or keys to send
    void askSecret();             // of the lines' account: goes to the device and nowhere else
    void telephone();             // what can be done with the line, as a menu
    void beat();                  // sound runs
    void saveFarEnd();            // into a WAV file
    QString nothingShown() const;

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    TalkState state_;
    TalkView* view_;
    MixView* mixes_;
    MuteView* mutes_;
    WhoseView* whose_;
    QStackedWidget* stack_;
    std::vector<QPushButton*> tabs_;
    FarPlayer player_;
    Commands& commands_;
    QWidget* chips_;
    FlowLayout* chipRow_;
    QLabel* says_;
    QPushButton *first_, *prove_, *mute_, *hear_;
    QString shownChips_;
};

} // namespace loom::app
