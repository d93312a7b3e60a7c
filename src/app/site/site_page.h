// The Site stage: find devices, pair them with the planned ones, settle where they differ, try, keep, seal, watch.
#pragma once
#include "app/site/fleet.h"
#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QSplitter;
class QStackedWidget;

namespace loom::app {

class DevicePanel;
class DifferencesTable;
class HealthBoard;
class LogPanel;
class PairingView;
class SealPanel;
class TodoList;

class SitePage : public QWidget {
    Q_OBJECT
  public:
    enum Panel { todoPanel, differencesPanel, devicePanel, sealPanel, healthPanel, logPanel };
    explicit SitePage(Session& session, QWidget* parent = nullptr);
    ~SitePage() override;
    Fleet& fleet() { return fleet_; }
    PairingView* pairing() { return pairing_; }
    DifferencesTable* differences() { return differences_; }
    HealthBoard* health() { return health_; }
    DevicePanel* device() { return device_; }
    void showPanel(int panel);

    // What commands do: on the chosen devices, else on all that are paired.
    std::vector<std::string> meant() const;
    void look(); // on the adapter or range that is set
    void pairAll();
    void swapChosen();
    void unpairChosen();
    void identifyChosen(bool tone = false);
    void pairByPosition(); // what is left of a model, in the order of the plan and of the addresses
    void encryptSound();
    void saveImage();
    void tryNow();
    void keep();
    void goBack(); // to the revision kept before the one that runs
    void takeFromDevice();
    void powerCycle();
    void setLive(bool on);
    void addAllFound();
    QString stateWord() const; // for the top bar
    bool anyUp() const;
    QWidget* first() const; // what has the focus first

  signals:
    void stateChanged();

  protected:
    void resizeEvent(QResizeEvent*) override { shareHeight(); }

  private:
    void refresh();
    void showProgress();
    void openPanel(int panel);
    void shareHeight(); // between cards and panel, by the size of the text
    void ask();         // which adapter, the first time
    std::optional<site::Subnet> range() const;
    Session& session_;
    Fleet fleet_;
    QComboBox* range_;
    QLineEdit* address_;
    QLabel *summary_, *title_, *question_;
    QWidget *asking_, *working_;
    QSplitter* split_;
    PairingView* pairing_;
    QStackedWidget* panels_;
    std::vector<QPushButton*> tabs_;
    TodoList* todo_;
    DifferencesTable* differences_;
    DevicePanel* device_;
    SealPanel* seal_;
    HealthBoard* health_;
    LogPanel* log_;
    QPushButton *look_, *pair_, *rest_, *try_, *keep_, *take_, *back_, *live_, *cycle_, *cancel_;
    QProgressBar* progress_;
    std::vector<std::string> shown_{}; // in the panels of what is chosen
    QString told_{};                   // the state word the window knows
    bool byHand_ = false;              // a panel was opened by hand: it stays
};

} // namespace loom::app
