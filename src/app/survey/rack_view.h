// A rack from the front: what stands in which unit, and what all of it takes. Devices are dragged to other units.
#pragma once
#include "app/shell/accessible.h"
#include "app/survey/survey_state.h"
#include <QWidget>

namespace loom::app {

class RackView : public QWidget, public Painted {
    Q_OBJECT
  public:
    explicit RackView(SurveyState& state, QWidget* parent = nullptr);
    // The rack that is chosen, or in which a chosen device stands; null: none.
    const project::Rack* rack() const;
    QRectF unitRect(int unit, int units = 1) const; // counted from 1 at the bottom
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    std::vector<const project::Device*> devices() const; // from top to bottom
    int unitAt(const QPointF& at) const;
    void moveTo(const std::string& device, int unit);
    SurveyState& state_;
    std::string dragged_;
    int grip_ = 0, to_ = 0; // unit of the device that was taken hold of; where it is held
};

} // namespace loom::app
