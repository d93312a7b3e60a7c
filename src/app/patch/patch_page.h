// The Patch stage: who hears whom, and how it is wired.
#pragma once
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

  signals:
    void wiringShown(bool on);

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    void menu(const QPoint& at, bool wiring);
    PatchState state_;
    Commands& commands_;
    HearView* hears_;
    WireView* wires_;
    QStackedWidget* stack_;
    QLineEdit* phrase_;
    QWidget* chips_;
    FlowLayout* chipRow_;
    QPushButton *hearButton_, *wireButton_, *cut_, *mend_, *offer_, *lay_, *allRooms_;
    QString shownChips_;
    bool wiring_ = false;
};

} // namespace loom::app
