// Devices with a language of their own: what they are, where they are reached, what rules know of them.
#pragma once
#include "app/rules/rules_state.h"
#include <QWidget>

class QLabel;
class QListWidget;

namespace loom::app {

class FieldForm;

class OutsidePanel : public QWidget {
    Q_OBJECT
  public:
    explicit OutsidePanel(RulesState& state, QWidget* parent = nullptr);
    QListWidget* list() { return list_; }
    const project::OutsideDevice* chosen() const; // null: there is none
    void choose(const std::string& id);
    void add();      // asks what and where
    void describe(); // from a description in JSON
    void takeOut();

  signals:
    void wants(const QString& command);

  private:
    void refresh();
    void showChosen();
    bool put(const project::OutsideKind& kind);
    RulesState& state_;
    QListWidget* list_;
    QLabel *hint_, *knows_;
    FieldForm* fields_;
    std::string chosen_{};
};

} // namespace loom::app
