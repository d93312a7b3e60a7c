// The Patch stage: who hears whom, and how it is wired.
#pragma once
#include "app/patch/patch_ear.h"
#include "app/patch/patch_state.h"
#include <QWidget>

class QHBoxLayout;
class QLineEdit;
class QPushButton;
class QStackedWidget;

namespace loom::app {

class FlowLayout;
class HearView;
class WireView;
class Commands;

class PatchPage : public QWidget {
    Q_OBJECT
  public:
    PatchPage(Session& session, Commands& commands, QWidget* parent = nullptr);
    PatchState& state() { return state_; }
    PatchEar& ear() { return ear_; }
    HearView* hears() { return hears_; }
    WireView* wires() { return wires_; }
    QLineEdit* phrase() { return phrase_; }
    bool wiring() const { return wiring_; }
    void showWiring(bool on);
    void takeFocus();

    // -- what is done here; all of it in find-or-do --
    void offer();      // asks for device, name and outputs
    void addChoice();  // another stream that the chosen receiver can switch to; asks which
    void lay();        // asks from where to where
    void orderRing();  // asks for the order
    void dropDevice(); // all that the chosen device hears; listed first
    void cutHere();
    void relieve();   // the chosen cable, over the ring; asks how
    void bring();     // the chosen port to this computer
    void bringPort(); // any port; asks which
    void giveBack();
    bool brought() const { return ear_.brought() || bridged_; }
    void announced(); // what others announce; asks which to take
    void paste();     // a description on the clipboard
    void takeDescription(const QString& file, const QString& text);

  signals:
    void wiringShown(bool on);

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    void menu(const QPoint& at, bool wiring);
    const project::Device* deviceToHear();
    void takeStream(const stream::Description& description);
    void sayBrought();
    PatchState state_;
    PatchEar ear_;
    Commands& commands_;
    HearView* hears_;
    WireView* wires_;
    QStackedWidget* stack_;
    QLineEdit* phrase_;
    QWidget* chips_;
    FlowLayout* chipRow_;
    QPushButton *hearButton_, *wireButton_, *cut_, *mend_, *offer_, *lay_, *allRooms_, *back_;
    std::optional<project::Tool> bridged_{}; // a port is brought to an output
    QString shownChips_;
    bool wiring_ = false;
};

} // namespace loom::app
