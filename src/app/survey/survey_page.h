// Survey: the shelf, the plan with its tools and maps, and the figures.
#pragma once
#include "app/survey/survey_state.h"
#include "app/worker.h"
#ifndef Q_MOC_RUN
#include "rooms/backdrop_edit.h"
#endif
#include <QWidget>

class QPushButton;

namespace loom::app {

class Commands;
class DrawingPanel;
class FiguresPanel;
class PlanView;
class Shelf;
class SideView;

class SurveyPage : public QWidget {
    Q_OBJECT
  public:
    SurveyPage(Session& session, Commands& commands, QWidget* parent = nullptr);
    SurveyState& state() { return state_; }
    PlanView* plan() { return plan_; }
    SideView* side() { return side_; }
    Shelf* shelf() { return shelf_; }
    void ceilingGrid(); // asks for the model, and by what
    void openBackdrop();
    void readBackdrop(const QString& file);
    void removeBackdrop();
    void showDrawing(); // units, layers and outlines of the DXF drawing below
    DrawingPanel* drawing() { return drawing_; }
    bool reading() const { return reading_.busy(); }
    void addModelFile();
    void readModelFile(const QString& file);
    void makeModel(); // by a form
    void takeFocus();
    void showSide(bool on); // from the side instead of from above

  private:
    std::string below() const; // the building that a drawing goes below
    void takeDrawing(const std::string& file, const project::Asset& content, const Result<project::DxfPlan>& plan);
    void refresh();
    void buildCompact();
    void modelAdded(const std::string& id);
    void sizeUp(); // what has room at this text scale
    SurveyState state_;
    Shelf* shelf_;
    PlanView* plan_;
    SideView* side_;
    FiguresPanel* figures_;
    DrawingPanel* drawing_;
    QWidget *wide_, *maps_, *compact_; // the tools and maps; at large text both are menus
    QPushButton *shelfButton_, *figuresButton_, *sideButton_;
    std::vector<std::pair<QPushButton*, int>> toolButtons_; // and the PlanView::Tool
    std::vector<std::pair<QPushButton*, MapKind>> mapButtons_;
    Worker<std::tuple<std::string, project::Asset, Result<project::DxfPlan>>> reading_;
};

} // namespace loom::app
