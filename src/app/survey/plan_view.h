// The plan: rooms from above with what stands and hangs in them. Chosen, dragged, drawn and walked through by keys.
#pragma once
#include "app/shell/accessible.h"
#include "app/survey/backdrop_view.h"
#include "app/survey/survey_state.h"
#include <QStaticText>
#include <QWidget>
#include <unordered_map>

namespace loom::app {

class Commands;

class PlanView : public QWidget, public Painted {
    Q_OBJECT
  public:
    enum class Tool { choose, room, seats, talker, furniture, wall, device, rack, scale };
    PlanView(SurveyState& state, Commands& commands, QWidget* parent = nullptr);

    void setTool(Tool tool, project::Furniture::Kind furniture = project::Furniture::Kind::table);
    void setModel(const std::string& model); // the tool puts devices of it
    Tool tool() const { return tool_; }
    void fit();                 // the whole building
    void fitRoom();             // the room of the figures
    void zoomBy(double factor); // about the middle
    void zoomBy(double factor, const QPointF& about);
    QPointF toView(const acoustics::Spot& at) const;
    acoustics::Spot toPlan(const QPointF& at) const;
    double scale() const { return scale_; } // pixels a metre
    void chooseDevices();                   // all of the room
    void removeChosen();
    void duplicateChosen();
    void mirrorChosen();
    void copyChosen();
    void paste();
    void askSize(); // a room by typing its size
    BackdropView& backdrop() { return backdrop_; }
    void showOutlines(std::vector<project::DxfOutline> outlines); // of the drawing, before they are rooms

    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  signals:
    void toolChanged();
    void wantsDeck();
    void wantsFile(const QString& file); // that was dropped

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;
    bool event(QEvent*) override; // Tab walks the things, tooltips

  private:
    struct Drag {
        enum class Kind { none, items, band, pan, shape } kind = Kind::none;
        QPointF from, at;
        acoustics::Spot start{};
        bool moved = false;
    };
    const std::vector<project::PlanItem>& items() const;
    void fitTo(const acoustics::Outline& all, double margin);
    const project::Device* deviceOf(const project::PlanItem& item) const;
    std::string hit(const QPointF& at) const;
    acoustics::Spot snapped(const acoustics::Spot& at, Qt::KeyboardModifiers keys) const;
    void finishShape(Qt::KeyboardModifiers keys);
    void put(const acoustics::Spot& at); // what the tool makes, there
    void moveChosen(double dx, double dy);
    void addRoom(acoustics::Outline outline, double height);
    void closePolygon();
    // -- painting (plan_paint.cpp) --
    void paintBackdrop(QPainter& p);
    void paintOutlines(QPainter& p);
    void paintMap(QPainter& p);
    void paintRoom(QPainter& p, const project::Room& r);
    void paintRoomName(QPainter& p, const project::Room& r);
    QPointF nameCorner(const project::Room& r, const QRectF& box, const QSizeF& size) const;
    std::unordered_map<std::string, std::vector<QPointF>> devicesAt_; // those in view, by room, as last painted
    void paintThings(QPainter& p);
    void paintDevice(QPainter& p, const project::Device& d, const QPointF& at, bool chosen);
    void paintCoverage(QPainter& p);
    void paintHealth(QPainter& p, const QPointF& at, const project::HealthWord& word, bool withWord);
    void paintDrag(QPainter& p);
    void paintScale(QPainter& p);
    void paintLegend(QPainter& p);
    QPolygonF polygon(const acoustics::Outline& outline) const;
    std::vector<QLineF> wallsOf(const project::Room& r) const; // without what is open in the wall state

    SurveyState& state_;
    Commands& commands_;
    Tool tool_ = Tool::choose;
    project::Furniture::Kind furniture_ = project::Furniture::Kind::table;
    std::string model_;
    double scale_ = 30;
    QPointF origin_{40, 40}; // of the plan's zero in the view
    Drag drag_;
    acoustics::Outline corners_; // of a room that is drawn corner by corner
    QPointF mouse_;
    std::vector<QRectF> labels_; // names painted so far
    std::vector<QRectF> wallWords_;
    struct Written {
        QStaticText text; // laid out once
        double wide = 0;  // pixels
    };
    const Written& written(QPainter& p, const QString& text, const QFont& font);
    std::map<std::pair<QString, int>, Written> written_; // names, by their text and weight
    QHash<QString, QPixmap> signs_;                      // of devices, by model and size
    mutable std::vector<project::PlanItem> items_;
    mutable std::map<std::string, std::size_t> places_; // of devices in the project, by key
    mutable bool itemsStale_ = true;
    QImage mapImage_;
    QPointF mapCorner_;
    BackdropView backdrop_;
    std::vector<project::DxfOutline> outlines_;
    bool touched_ = false; // zoomed or moved by hand: a resize leaves it
    std::string fitted_;   // the building that was last made to fit
};

// Colour of a value between 0 and 1 on the maps' scale: lightness goes one way only, so that it reads without colours
// too.
QColor mapColour(double part);

} // namespace loom::app
