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

  protected:
    void showEvent(QShowEvent*) override;

  private:
    void rebuild(); // when it is seen
    void addLine(QVBoxLayout* box, const QString& label, const QString& value, int good, const QString& tip = {});
    SurveyState& state_;
    bool stale_ = false;
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
