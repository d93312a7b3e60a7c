// The space of the figures from the side: ceiling heights, stages, and at which height things hang. Dragging changes
// heights.
#pragma once
#include "app/shell/accessible.h"
#include "app/survey/survey_state.h"
#include <QWidget>

namespace loom::app {

class SideView : public QWidget, public Painted {
    Q_OBJECT
  public:
    explicit SideView(SurveyState& state, QWidget* parent = nullptr);
    QPointF toView(double along, double up) const;
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    struct Thing {
        std::string key, name;
        double x, z;
    };
    std::vector<Thing> things() const; // devices and talkers of the space
    project::Space space() const;
    void setHeight(double z); // of the chosen devices and talkers
    SurveyState& state_;
    std::string dragged_;
    double dragTo_ = 0;
    bool moved_ = false;
};

} // namespace loom::app
