// The fields of what is chosen on the plan, or of the room; what is typed goes to all that are chosen.
#pragma once
#include "app/survey/survey_state.h"
#include <QScrollArea>

class QGridLayout;

namespace loom::app {

class FieldForm : public QScrollArea {
    Q_OBJECT
  public:
    explicit FieldForm(SurveyState& state, QWidget* parent = nullptr);
    std::vector<std::string> keys() const; // whose fields they are
    void takeFocus();

  signals:
    void wantsBack();

  protected:
    bool eventFilter(QObject*, QEvent*) override; // Esc gives the old value back; up and down step

  private:
    void rebuild();
    void set(const std::string& field, const QString& value);
    QString shown(const project::PlanField& field) const; // "—" where those that are chosen differ
    SurveyState& state_;
    QString made_; // what the form was built from
};

} // namespace loom::app
