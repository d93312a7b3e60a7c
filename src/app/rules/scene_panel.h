// Scenes of the space: their table, and what the chosen one does to the room.
#pragma once
#include "app/rules/rules_state.h"
#include <QWidget>

class QLabel;

namespace loom::app {

class FieldForm;
class SceneTable;

class ScenePanel : public QWidget {
    Q_OBJECT
  public:
    explicit ScenePanel(RulesState& state, QWidget* parent = nullptr);
    SceneTable* table() { return table_; }

  signals:
    void wants(const QString& command);

  private:
    void refresh();
    RulesState& state_;
    QLabel *title_, *hint_, *figuresTitle_, *figures_;
    SceneTable* table_;
    FieldForm* fields_;
};

} // namespace loom::app
