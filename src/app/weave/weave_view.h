// The signal flow of one processor as lanes, beads and weaves. Painted; laid out by the core.
#pragma once
#include "app/session.h"
#include "app/shell/accessible.h"
#include "app/theme/theme.h"
#ifndef Q_MOC_RUN
#include "engine/layout.h"
#include "program/marks.h"
#include "program/routes.h"
#include "program/swatch.h"
#include "program/trace.h"
#endif
#include <QDeadlineTimer>
#include <QPixmap>
#include <QWidget>
#include <set>

namespace loom::app {

class Commands;
class InsertField;

class WeaveView : public QWidget, public Painted {
    Q_OBJECT
  public:
    WeaveView(Session& session, Commands& commands, QWidget* parent = nullptr);
    QSize sizeHint() const override;

    // Where things lie, for tests and for the insert field. Empty if not there.
    QRectF beadRect(const QString& block) const;
    QRectF laneRect(const QString& end) const;
    QPointF endPoint(const QString& end) const; // the ring or square at a lane's end
    QPointF crossing(const QString& matrix, int in, int out) const;
    QRectF headingRect(const engine::Layout::Group& group) const;
    const engine::Layout& layout() const { return layout_; }
    void refresh(); // meters

    // From far, names and values give way to shapes; from near, beads tell their names.
    double zoom() const { return zoom_; }
    void setZoom(double zoom); // 0.08 .. 2
    void zoomToFit();          // all of it within the window

    // -- what can be done to what is chosen (weave_commands.cpp); it reaches linked lanes too --
    void renameLane();
    void insertBlock(const QString& begin = {}); // the field to say it in
    void swapChosen();                           // the same field, for another block in the chosen one's place
    bool speak(const QString& phrase);
    void chooseAll();
    void copyLane();
    void paste(bool settingsOnly);
    void removeChosen();
    void moveChosen(int by); // a block along its lane
    void moveLanes(int by);
    void muteChosen();
    void colourChosen(const QString& thread); // "" gives them the colour of where they come from again
    void groupChosen();
    void groupAll(project::GroupBy by);
    void foldChosen(bool folded);
    void linkChosen();
    void unlinkChosen();
    void relinkChosen();
    void restoreChosen(bool asKept);
    void noteChosen();
    void protectChosen();
    void keepSwatch();
    void insertSwatch(const project::Swatch& swatch);
    void renameSwatch(const QString& name); // of the user's library
    void removeSwatch(const QString& name);
    void leaveOwnSound(); // mix-minus, for the chosen matrix mixer
    // -- tools at the chosen thread (weave_tools.cpp) --
    void putMute();
    void inject();
    void bridge(); // from the chosen thread first, then to the next one
    void pinChosen();
    void traceChosen(); // from the chosen destination, or no longer
    void clearTools();
    const std::optional<project::Trace>& traced() const { return trace_; }
    bool flipMute(const QString& block, const QString& param); // false: there is no such mute
    bool muted(const engine::Block& matrix, int in, int out) const;
    std::optional<engine::PortRef> hovered() const { return hover_; }
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

    // All of it as a drawing: without the choice, in Linen.
    void drawOn(QPainter& p);

  signals:
    void zoomed();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void showEvent(QShowEvent*) override { QTimer::singleShot(0, this, &WeaveView::fitNew); } // once it is laid out
    void keyPressEvent(QKeyEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    bool event(QEvent*) override;
    void resizeEvent(QResizeEvent*) override { relayOut(); }

  private:
    struct Hit {
        enum class Kind { none, lane, bead, end, knot, heading } kind = Kind::none;
        QString lane, block;
        int in = 0, out = 0;
        std::optional<engine::PortRef> port{};
    };
    Hit hit(QPointF p) const;
    void relayOut();
    double layColumns();
    QRectF freeOfNames(const QSizeF& size) const;
    double fitting() const; // the zoom at which all of it is seen, 1 at most
    void fitNew();          // a processor that comes into view for the first time
    void announce();
    double px(double at100) const { return loom::app::px(at100) * zoom_; } // of this view: with its zoom
    QFont text(double size, bool bold = false) const;
    QFont number(double size, bool bold = false) const;
    bool fromFar() const { return zoom_ < 0.6; }
    double rowY(double row) const;
    double beadX(const engine::Layout::Lane& lane, int slot) const;
    double hubX(const engine::Layout::Hub& hub) const;
    QRectF hubRect(const engine::Layout::Hub& hub) const;
    double hubWidth(const engine::Layout::Hub& hub) const;
    const engine::Layout::Hub* hub(const QString& block) const;
    const engine::Block* blockOf(const std::string& id) const;
    const engine::Connection* connectionInto(const engine::PortRef& port) const;
    QRectF placeOf(const std::string& bead) const;
    QPointF endAt(const std::string& end) const;
    QPointF outPoint(const engine::PortRef& port) const;
    QPointF inPoint(const engine::PortRef& port) const;
    QColor colourOf(const QString& end) const;
    void colourThreads();
    QString portText(const engine::Block& b) const;
    double crossingLevel(const engine::Block& matrix, int in, int out) const;

    void paintAll(QPainter& p, const QRectF& seen);
    void paintLane(QPainter& p, const engine::Layout::Lane& lane);
    void paintHeading(QPainter& p, const engine::Layout::Group& group);
    void paintBeadOf(QPainter& p, const std::string& id, QColor colour);
    void paintDrag(QPainter& p);
    void paintTrace(QPainter& p);
    void paintRefused(QPainter& p);
    void paintWay(QPainter& p, const QPointF& from, const QPointF& to);
    void paintTraceSigns(QPainter& p);
    void paintTools(QPainter& p);
    void paintHub(QPainter& p, const engine::Layout::Hub& hub, const QRectF& seen);
    void paintPorts(QPainter& p, const engine::Layout::Hub& hub, const engine::Block& block);
    void paintKnots(QPainter& p, const engine::Layout::Hub& hub, const engine::Block& matrix, const QRectF& seen);
    static std::vector<double> crossingLevels(const engine::Block& matrix, std::size_t ins, std::size_t outs);
    void knot(QPainter& p, QPointF at, double radius, const QColor& fill, const QColor& edge);
    void paintThreads(QPainter& p, const QRectF& seen);
    void paintFlag(QPainter& p);
    QStringList laneOrder() const;
    void chooseWithGroup(const QString& lane);
    void choosePress(const Hit& at, Qt::KeyboardModifiers keys);
    void dropBeads(const Hit& at, bool copy);
    void dropRoute(const Hit& at, bool toOne);
    std::vector<project::Route> routePairs(const Hit& at) const;
    std::vector<int> bundle(const QString& matrix, int in) const; // inputs that lie in one row
    std::vector<std::string> chosenEnds() const;
    std::vector<std::string> actedOn() const; // blocks a command on the choice reaches
    QString toolTipAt(const Hit& at) const;
    double headingX(const Hit& heading) const; // of its triangle
    QString nameOf(const std::string& block) const;
    void openField(InsertField* field, const QString& begin);
    bool swapFor(const std::string& kind);
    void noteChanged();
    void retrace();
    std::vector<std::string> refused_; // a loop that was asked for, drawn for some seconds
    QTimer refusedGone_;
    std::optional<engine::PortRef> toolPort() const;
    std::string laneEnd(const std::string& block) const;
    QPointF pointOf(const engine::PortRef& port) const;
    void toggleLane(const QString& lane);
    void chooseUpTo(const QString& lane);
    void stepLane(int by, bool further = false);
    void stepBead(int by);

    Session& session_;
    Commands& commands_;
    const engine::Layout& layout_; // the session's
    std::vector<QColor> threadColours_;
    std::map<std::tuple<QRgb, QRgb, int>, QPixmap> knots_;
    struct Stamp { // a bead as it was drawn, and of what
        QPixmap picture;
        std::map<std::string, double> values;
        QColor colour;
        int marks;
    };
    std::unordered_map<std::string, Stamp> beads_;
    std::set<std::string> changed_; // blocks that differ from what was kept
    std::optional<project::Trace> trace_;
    std::string tracedEnd_;
    std::map<engine::PortRef, std::pair<double, QDeadlineTimer>> heard_; // peaks along it
    std::optional<engine::PortRef> bridgeFrom_, menuPort_;
    bool drawing_ = false; // on paper
    std::unordered_map<std::string, std::size_t> blockNumbers_;
    std::map<engine::PortRef, std::size_t> threadNumbers_; // by where they arrive
    std::vector<double> columnX_, gapX_;
    double zoom_ = 1;
    double naturalWidth_ = 0;                 // what it takes at this zoom without being spread
    std::string fitted_;                      // the processor that was fitted to the page
    double beadWidth_ = 46, meterWidth_ = 40; // at 100 %; more on a wide page
    std::vector<QLineF> lines_;               // of each thread, end to end
    Hit press_;
    QPointF pressAt_, dragAt_;
    double pressLevel_ = 0;
    bool dragging_ = false;
    Hit pointed_; // what the pointer is over
    std::optional<engine::PortRef> hover_;
    QPointF hoverAt_;
    QTimer flagGone_; // the flag at the pointer stands as long as this runs
    double rowHeight_ = 31, sourceX_ = 0, weaveX_ = 0, destinationX_ = 0;
};

} // namespace loom::app
