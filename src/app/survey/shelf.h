// The shelf: all models of devices, found by a word, a use or a figure; dragged onto the plan, or chosen to be put
// there.
#pragma once
#include "app/survey/survey_state.h"
#include <QLineEdit>
#include <QListWidget>

namespace loom::app {

class Shelf : public QWidget {
    Q_OBJECT
  public:
    explicit Shelf(SurveyState& state, QWidget* parent = nullptr);
    void takeFocus();
    void fill(); // anew, from the catalogue and the project

  signals:
    void picked(const QString& model); // to be put on the plan
    void wantsFile();                  // a model file of one's own
    void wantsForm();                  // for a model of one's own

  private:
    std::map<std::string, int> counts() const; // how many of each model the project has
    std::map<std::string, int> counts_{};      // as listed
    SurveyState& state_;
    QLineEdit* words_;
    QListWidget* list_;
};

// Whether a model has all the words, in its name, maker, use, purpose, group or as a figure ("poe", "103 dB").
bool modelFits(const project::DeviceModel& model, const QString& words);

} // namespace loom::app
