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
    void buildCommands();
    void addCommand(const QString& text, const QString& key, std::function<void()> go);
    void applyTheme();
    void sizeDeck();
    void refreshState();
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
    Deck* deck_;
    Finder* finder_;
    FindingsPanel* panel_;
    FindingsWatch* watch_;
    WorkStrip* strip_;
    QPushButton* zoom_;
    project::Load load1_{}, load2_{}; // before and after the last change of structure
    QSplitter* split_;
    QWidget* top_;
    QLabel *name_, *file_, *state_, *device_, *load_, *said_;
    QPushButton *find_, *findings_, *room_, *run_;
    QTimer ticks_, saidGone_;
    std::vector<Command> commands_;
};

} // namespace loom::app
