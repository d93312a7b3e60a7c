// How it is wired: switches with their cables, rings in their order, what each carries; cables are drawn and cut here.
#pragma once
#include "app/patch/patch_state.h"
#include "app/shell/accessible.h"
#include <QAbstractScrollArea>

namespace loom::app {

class WireView : public QAbstractScrollArea, public Painted {
    Q_OBJECT
  public:
    explicit WireView(PatchState& state, QWidget* parent = nullptr);
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;
    QRectF wireRect(const std::string& id) const;   // in the viewport; empty: not there
    QRectF deviceRect(const std::string& id) const; // where cables to it begin

  signals:
    void wantsMenu(const QPoint& at);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;

  private:
    struct WirePlace {
        std::size_t wire;
        QRectF rect;
        int other; // the device at its far end
        int ring = -1;
        QPointF from{}, to{}; // of a ring
    };
    struct DevicePlace {
        int device;
        QRectF rect;
        int ring = -1;
    };
    struct Card {
        QRectF rect;
        int device = -1; // a switch
        int ring = -1;
        QString title, words;
    };
    void place();
    void placeSwitch(int device, double& y, double left, double wide);
    void placeRing(std::size_t ring, double& y, double left, double wide);
    void placeRest(double& y, double left, double wide);
    const project::Device& device(int n) const;
    QColor colourOf(int n) const;
    int deviceAt(const QPointF& at, int* ring = nullptr) const;
    const WirePlace* wireAt(const QPointF& at) const;
    void paintWire(QPainter& p, const WirePlace& w) const;
    void paintRing(QPainter& p, const Card& card) const;
    QColor stateOf(std::size_t wire) const;  // of a cable, with what is cut
    void joinTo(int from, int to, int ring); // ring: that `to` was taken in; -1: none

    PatchState& state_;
    std::vector<Card> cards_;
    std::vector<WirePlace> wires_;
    std::vector<DevicePlace> devices_;
    std::set<std::size_t> moved_; // cables that carry more than before the cut
    std::set<int> silent_;        // devices that hear no more
    struct {
        int device = -1, ring = -1;
        bool on = false;
        QPointF start, now;
    } drag_;
};

} // namespace loom::app
