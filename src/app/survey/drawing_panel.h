// What a DXF drawing below the plan holds: its units, its layers, and the outlines that may become rooms.
#pragma once
#ifndef Q_MOC_RUN
#include "rooms/dxf_plan.h"
#endif
#include "app/worker.h"
#include <QFrame>
#include <memory>

class QLabel;
class QListWidget;
class QPushButton;

namespace loom::app {

class ChoiceBox;
class SurveyState;

class DrawingPanel : public QFrame {
    Q_OBJECT
  public:
    explicit DrawingPanel(SurveyState& state, QWidget* parent = nullptr);
    void show(std::shared_ptr<const project::DxfPlan> plan); // beside the plan, filled
    std::vector<project::DxfOutline> chosen() const;         // outlines with a tick, named as they stand there
    bool ready() const { return !finding_.busy(); }
    void makeRooms();

  signals:
    void changed(); // other outlines are chosen
    void closed();

  protected:
    void keyPressEvent(QKeyEvent*) override;

  private:
    void fill();
    void findOutlines();
    void fillOutlines();
    const project::Backdrop* backdrop() const;
    SurveyState& state_;
    std::shared_ptr<const project::DxfPlan> plan_;
    std::vector<project::DxfOutline> outlines_;
    QLabel *says_, *unitSays_;
    ChoiceBox* units_;
    QListWidget *layers_, *rooms_;
    QPushButton *make_, *close_;
    bool filling_ = false;
    Worker<std::vector<project::DxfOutline>> finding_;
};

} // namespace loom::app
