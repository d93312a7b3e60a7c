// The frame: top bar, rail, stage, deck, and the commands. It holds no knowledge of what a stage shows.
#pragma once
#include "app/session.h"
#ifndef Q_MOC_RUN
#include "project/findings.h"
#endif
#include <QMainWindow>
#include <functional>

class QLabel;
class QPushButton;
class QScrollArea;
class QSplitter;
class QStackedWidget;

namespace loom::app {

class BenchPage;
class Deck;
class Finder;
class FindingsPanel;
class FindingsWatch;
class Rail;
class SitePage;
class SpeakersDeck;
class SpeakersPage;
class SurveyDeck;
class SurveyPage;
struct Findable;
class WeaveView;
class WorkStrip;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow();
    ~MainWindow() override;
    Session& session() { return session_; }
    WeaveView* weave() { return weave_; }
    SitePage* site() { return site_; }
    SurveyPage* survey() { return survey_; }
    SurveyDeck* surveyDeck() { return surveyDeck_; }
    SpeakersPage* speakers() { return speakers_; }
    void showStage(int stage);
    void showStage(const QString& name);
    void toggleBench();
    void alignChosen();
    void find();
    // Ready-made for pictures: a lane and a bead chosen.
    void refreshNow() { tick(); }

  protected:
    void closeEvent(QCloseEvent*) override;

  private:
    struct Command {
        QString text;
        QString key;
        std::function<void()> go;
    };
    void buildTopBar();
    void buildCommands();       // commands.cpp
    void addSurveyCommands();   // survey_commands.cpp
    void addSpeakersCommands(); // speakers_commands.cpp
    void addSiteCommands();
    void findOnSite(std::vector<Findable>& all);
    void findSpeakers(std::vector<Findable>& all);
    void findOnPlan(std::vector<Findable>& all);
    void showOnPlan(const std::string& id);
    void addCommand(const QString& text, const QString& key, std::function<void()> go);
    void applyTheme();
    void sizeDeck();
    void alarm(const QString& text); // for people who look elsewhere
    void refreshState();
    void refreshRooms();
    void refreshFindings();
    void tick();
    void benchIsReady(const std::optional<Trouble>& trouble);
    void newProject();
    void openFile();
    void saveFileAs();
    void listen();
    void record();
    void showFindings();
    void goTo(const QString& block);
    void goToPlace(const QString& device, const QString& block);
    void saveDrawing(bool pdf);
    void chooseColour();
    void compare();
    QString loadText();
    bool mayLeave();

    Session session_;
    Rail* rail_;
    QStackedWidget* stages_;
    WeaveView* weave_;
    BenchPage* bench_;
    SitePage* site_;
    SurveyPage* survey_;
    SurveyDeck* surveyDeck_;
    SpeakersPage* speakers_;
    SpeakersDeck* speakersDeck_;
    QStackedWidget* lower_; // the decks
    Deck* deck_;
    Finder* finder_;
    FindingsPanel* panel_;
    FindingsWatch* watch_;
    WorkStrip* strip_;
    QPushButton *zoom_, *processor_;
    project::Load load1_{}, load2_{}; // before and after the last change of structure
    QSplitter* split_;
    QWidget* top_;
    QLabel *name_, *file_, *state_, *device_, *load_, *said_;
    QPushButton *find_, *findings_, *run_;
    QWidget* rooms_; // chips
    QString roomsShown_;
    QTimer ticks_, saidGone_;
    std::vector<Command> commands_;
};

} // namespace loom::app
