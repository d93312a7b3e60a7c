// The signal flow of one processor as lanes, beads and weaves. Painted; laid out by the core.
#pragma once
#include "app/session.h"
#include "app/shell/accessible.h"
#ifndef Q_MOC_RUN
#include "dsp/units.h"
#include "engine/layout.h"
#endif
#include <QWidget>

namespace loom::app {

class WeaveView : public QWidget, public Painted {
    Q_OBJECT
  public:
    explicit WeaveView(Session& session, QWidget* parent = nullptr);
    QSize sizeHint() const override;

    // Where things lie, for tests and for the insert field. Empty if not there.
    QRectF beadRect(const QString& block) const;
    QRectF laneRect(const QString& end) const;
    QPointF endPoint(const QString& end) const; // the ring or square at a lane's end
    QPointF crossing(const QString& matrix, int in, int out) const;
    void refresh(); // meters

    void renameLane();
    void insertBlock(const QString& begin = {}); // the field to say it in
    bool speak(const QString& phrase);
    void chooseAll();
    void copyLane();
    void paste(bool settingsOnly);
    void removeChosen();
    void moveChosen(int by);
    void muteChosen();
    bool flipMute(const QString& block, const QString& param); // false: there is no such mute
    bool muted(const engine::Block& matrix, int in, int out) const;
    // The port that is listened to or watched for the present choice.
    std::optional<engine::PortRef> chosenPort() const;
    std::optional<engine::PortRef> hovered() const { return hover_; }
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  signals:
    void wantsDeck();
    void wantsListen();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override;
    void resizeEvent(QResizeEvent*) override { relayOut(); }

  private:
    struct Hit {
        enum class Kind { none, lane, bead, end, knot, thread } kind = Kind::none;
        QString lane, block;
        int in = 0, out = 0;
        std::optional<engine::PortRef> port{};
    };
    Hit hit(QPointF p) const;
    void relayOut();
    void announce();
    double rowY(double row) const;
    double beadX(const engine::Layout::Lane& lane, int slot) const;
    double hubX(const engine::Layout::Hub& hub) const;
    QRectF hubRect(const engine::Layout::Hub& hub) const;
    double hubWidth(const engine::Layout::Hub& hub) const;
    const engine::Layout::Hub* hub(const QString& block) const;
    const engine::Block* blockOf(const std::string& id) const;
    const engine::Thread* threadInto(const engine::PortRef& port) const;
    QRectF placeOf(const std::string& bead) const;
    QPointF endAt(const std::string& end) const;
    QPointF outPoint(const engine::PortRef& port) const;
    QPointF inPoint(const engine::PortRef& port) const;
    QColor colourOf(const QString& end) const;
    QColor threadColour(engine::PortRef from) const;
    QString portText(const engine::Block& b) const;
    double crossingLevel(const engine::Block& matrix, int in, int out) const;

    void paintLane(QPainter& p, const engine::Layout::Lane& lane);
    void paintBead(QPainter& p, const engine::Block& block, QRectF r, QColor colour);
    void paintMeter(QPainter& p, QRectF r, double db) const;
    void paintHub(QPainter& p, const engine::Layout::Hub& hub, const QRectF& seen);
    void paintPorts(QPainter& p, const engine::Layout::Hub& hub, const engine::Block& block);
    void paintKnots(QPainter& p, const engine::Layout::Hub& hub, const engine::Block& matrix, const QRectF& seen);
    void paintThreads(QPainter& p, const QRectF& seen);
    void paintFlag(QPainter& p);
    QStringList laneOrder() const;
    void toggleLane(const QString& lane);
    void chooseUpTo(const QString& lane);
    void stepLane(int by, bool further = false);
    void stepBead(int by);

    Session& session_;
    engine::Layout layout_;
    std::unordered_map<std::string, std::size_t> blockNumbers_;
    std::map<engine::PortRef, std::size_t> threadNumbers_; // by where they arrive
    std::vector<double> columnX_;
    std::vector<QLineF> lines_; // of each thread, end to end
    Hit press_;
    QPointF pressAt_, dragAt_;
    double pressLevel_ = 0;
    bool dragging_ = false;
    Hit pointed_; // what the pointer is over
    std::optional<engine::PortRef> hover_;
    QPointF hoverAt_;
    double rowHeight_ = 31, sourceX_ = 0, weaveX_ = 0, weaveWidth_ = 0, destinationX_ = 0;
};

// Frequencies of a curve from 20 Hz to 20 kHz that is drawn so wide, below half the rate; and the curve itself, within
// -range..range dB.
std::vector<double> curveFrequencies(double width, double rate);
QPainterPath responseCurve(const std::vector<dsp::Complex>& h, QRectF r, double range);

} // namespace loom::app
