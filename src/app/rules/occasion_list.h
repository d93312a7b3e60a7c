// What can happen, with how many rules each wakes.
#pragma once
#include "app/rules/rules_state.h"
#include <QWidget>

class QLineEdit;
class QListWidget;

namespace loom::app {

class OccasionList : public QWidget {
    Q_OBJECT
  public:
    explicit OccasionList(RulesState& state, QWidget* parent = nullptr);
    QListWidget* list() { return list_; }
    QLineEdit* field() { return field_; }
    void fill();

  private:
    RulesState& state_;
    QLineEdit* field_;
    QListWidget* list_;
    std::vector<project::Occasion> shown_{};
    QTimer soon_;
    bool filling_ = false;
};

} // namespace loom::app
