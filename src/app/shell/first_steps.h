// What an empty page offers: what belongs here, and the commands that bring it, as buttons.
#pragma once
#include <QFrame>

class QLabel;

namespace loom::app {

class Commands;

// Lies over the middle of the stages' pages while the stage in view is empty. A step that was taken sends it away until
// the stage is shown again: what the step begins needs the page.
class FirstSteps : public QFrame {
    Q_OBJECT
  public:
    FirstSteps(Commands& commands, QWidget* over);
    // `why`: what is missing; empty: nothing is, and it hides. steps: ids of commands, the first one first.
    void offer(const QString& stage, const QString& why, const QStringList& steps);
    void goAway(const QString& stage) { // it is being filled
        taken_ = stage;
        hide();
    }
    void comeBack() { taken_.clear(); } // the stage came into view

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void lie(); // where it belongs
    Commands& commands_;
    QLabel *title_, *why_;
    QWidget* buttons_ = nullptr;
    QString shown_, taken_; // what it was made from; the stage of which a step was taken
};

} // namespace loom::app
