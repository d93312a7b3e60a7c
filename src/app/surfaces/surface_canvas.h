// The page as it is made: controls are chosen, dragged, sized, dropped on and drawn to guides.
#pragma once
#include "app/parameter_drag.h"
#include "app/shell/accessible.h"
#include "app/surfaces/here_values.h"
#include "app/surfaces/surfaces_state.h"
#ifndef Q_MOC_RUN
#include "surface/arrange.h"
#endif
#include <QWidget>

namespace loom::app {

inline constexpr const char* controlMime = "application/x-nimble-loom-control"; // a kind

class SurfaceCanvas : public QWidget, public Painted {
    Q_OBJECT
  public:
    explicit SurfaceCanvas(SurfacesState& state, QWidget* parent = nullptr);
    QPointF toView(const QPointF& page) const;
    QPointF toPage(const QPointF& view) const;
    double scale() const;
    // The foremost control there that may be touched while editing; "": none.
    std::string at(const QPointF& page) const;
    void nudge(double dx, double dy);
    void chooseAll();
    void addGuide(bool upright); // in the middle
    void removeGuides();

    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  signals:
    void wantsMenu(const QPoint& at);
    void wantsDeck();
    void wantsFile(const QString& path); // a surface that was dropped

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dragMoveEvent(QDragMoveEvent*) override;
    void dragLeaveEvent(QDragLeaveEvent*) override;
    void dropEvent(QDropEvent*) override;
    bool event(QEvent*) override; // Tab walks the controls

  private:
    struct Drag {
        enum class Kind { none, controls, handle, band, guide } kind = Kind::none;
        QPointF from, at; // on the page
        QRectF box;       // of what is dragged, as it began
        int handle = -1;  // 0..7 from the left upper corner clockwise
        bool moved = false;
        bool upright = false; // of a guide
        int guide = -1;       // its number; -1: a new one
        std::string clicked{};
    };
    QRectF screen() const; // of the surface, in the view
    QRectF boxOf(const std::vector<std::string>& ids) const;
    std::vector<QRectF> handles(const QRectF& box) const; // in the view
    void dragTo(const QPointF& page, Qt::KeyboardModifiers keys);
    void setGuides(const QPointF& page);
    std::vector<const project::Control*> touchable() const; // from back to front
    SurfacesState& state_;
    HereValues values_;
    Drag drag_{};
    project::Snap snap_{};
    std::optional<QPointF> drop_{}; // on the page, while something is dragged over it
};

} // namespace loom::app
