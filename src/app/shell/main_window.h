// The frame: top bar, rail, stage, deck, find-or-do. It knows of stages what their declarations say (stage.h).
#pragma once
#include "app/session.h"
#include "app/shell/stage.h"
#include "program/ports.h"
#include <QMainWindow>

class QLabel;
class QPushButton;
class QSplitter;
class QStackedWidget;

namespace loom::app {

class Deck;
class Finder;
class FindingsPanel;
class FindingsWatch;
class FirstSteps;
class GuardBar;
class Rail;
class RoomChips;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow();
    ~MainWindow() override;

    // -- for stages --
    Session& session() { return session_; }
    Commands& commands() { return commands_; }
    FindingsWatch& watch() { return *watch_; }
    Deck& deck() { return *deck_; }                           // the editors of blocks; several stages show it
    const std::vector<Stage>& stages() const { return all_; } // in the order of the work
    const Stage& stage() const;                               // in view
    void showStage(const QString& id);
    void goTo(const Target& place);
    void offer(std::vector<Findable> list); // one of these is to be picked
    void refresh();                         // the top bar; a stage's word or room has changed
    void refreshState();                    // what the stages say of the whole
    void refreshRooms();                    // a stage is in another room
    void stepTaken();                       // somebody began to fill the empty page: what it offers goes
    void beat();                            // sound runs: meters in view move
    void alarm(const QString& text);        // for people who look elsewhere

  signals:
    void refreshed();

  protected:
    void closeEvent(QCloseEvent*) override;

  private:
    void buildTopBar();
    void takeStages();
    void addCommands(); // of files, steps and looks (window_commands.cpp)
    void find();
    void newProject();
    void openFile();
    void saveFileAs();
    bool mayLeave(); // asks what becomes of unsaved work
    void applyTheme();
    void sizeDeck();
    void refreshFindings();
    void offerFirstSteps();
    void showFindings();

    Session session_;
    Commands commands_{this};
    std::vector<Stage> all_;
    Rail* rail_;
    QStackedWidget *pages_, *decks_;
    Deck* deck_;
    Finder* finder_;
    FirstSteps* firstSteps_;
    GuardBar* guard_;
    FindingsPanel* panel_;
    FindingsWatch* watch_;
    RoomChips* rooms_;
    QSplitter* split_;
    QWidget* top_;
    QLabel *name_, *file_, *state_, *said_;
    QPushButton *find_, *findings_;
    QTimer saidGone_;
};

} // namespace loom::app
