// The Rules stage: what can happen, the rules that it wakes, and scenes.
#pragma once
#include "app/rules/rules_state.h"
#include <QWidget>

class QLabel;
class QPushButton;
class QScrollArea;

namespace loom::app {

class AccessPanel;
class Commands;
class GapPicker;
class OccasionList;
class OutsidePanel;
class RuleLine;
class RowOrTabs;
class RuleView;
class ScenePanel;

class RulesPage : public QWidget {
    Q_OBJECT
  public:
    RulesPage(Session& session, Commands& commands, QWidget* parent = nullptr);
    RulesState& state() { return state_; }
    RuleView* view() { return view_; }
    RuleLine* line() { return line_; }
    OccasionList* occasions() { return occasions_; }
    ScenePanel* scenes() { return scenes_; }
    OutsidePanel* outside() { return outside_; }
    AccessPanel* access() { return access_; }
    enum class Side { scenes, outside, access };
    void show(Side side);
    void askName();                       // of a new rule
    void askScript();                     // writes one
    void askScene();                      // keeps what is set now
    void openGap();                       // of the chosen line
    void cycle(const std::string& field); // of the chosen rule: the next of its choices

  protected:
    void showEvent(QShowEvent*) override;
    void hideEvent(QHideEvent*) override;

  private:
    void refresh();
    RulesState state_;
    OccasionList* occasions_;
    RuleView* view_;
    RuleLine* line_;
    ScenePanel* scenes_;
    OutsidePanel* outside_;
    AccessPanel* access_;
    RowOrTabs *columns_, *side_;
    GapPicker* picker_;
    QScrollArea* scroll_;
    QLabel* title_;
    Commands& commands_;
};

} // namespace loom::app
