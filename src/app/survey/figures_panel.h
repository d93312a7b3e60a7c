// Beside the plan: the figures of a space against its targets, its bands, wall states, and suggestions to apply.
#pragma once
#include "app/survey/survey_state.h"
#include <QScrollArea>

class QVBoxLayout;

namespace loom::app {

class FiguresPanel : public QScrollArea {
    Q_OBJECT
  public:
    explicit FiguresPanel(SurveyState& state, QWidget* parent = nullptr);

  private:
    void rebuild();
    void addLine(QVBoxLayout* box, const QString& label, const QString& value, int good, const QString& tip = {});
    SurveyState& state_;
};

// Reverberation time and noise over the octaves.
class BandChart : public QWidget {
    Q_OBJECT
  public:
    explicit BandChart(SurveyState& state);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    SurveyState& state_;
};

} // namespace loom::app
