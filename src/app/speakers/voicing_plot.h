// Curves of a voicing: the ways, their sum, without it, the target, phase; corners and bells are dragged on it.
#pragma once
#include "app/shell/accessible.h"
#include "app/speakers/speakers_state.h"
#include <QWidget>

namespace loom::app {

class VoicingPlot : public QWidget, public Painted {
    Q_OBJECT
  public:
    explicit VoicingPlot(SpeakersState& state, QWidget* parent = nullptr);
    void setPhase(bool on);
    bool phase() const { return phase_; }
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    // What can be taken hold of: an edge's corner or a bell.
    struct Handle {
        std::string part, prefix; // "1.eq", "2." (bells); "1.highpass", "" (edges)
        QString name;
        double hz = 0, gain = 0, q = 0;
        int way = -1; // whose colour; -1: of all
        QPointF at{};
        bool bell() const { return !prefix.empty(); }
    };
    std::vector<Handle> handles() const;
    void move(const Handle& h, double hz, double gain, double q);
    QRectF field() const;
    double x(double hz) const;
    double y(double db) const;
    double hzAt(double x) const;
    SpeakersState& state_;
    double most_ = 110; // dB at the top
    bool phase_ = false;
    int held_ = -1;
    bool dragging_ = false;
    QPointF mouse_{-1, -1};
};

QColor colourOfWay(int way);

} // namespace loom::app
