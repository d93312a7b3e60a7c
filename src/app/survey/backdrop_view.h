// The drawing below the plan, as it is painted: read and drawn on a thread of its own, so that a plan of half a million
// lines is moved as an empty one.
#pragma once
#include "app/worker.h"
#ifndef Q_MOC_RUN
#include "model/project.h"
#include "rooms/dxf_plan.h"
#endif
#include <QColor>
#include <QImage>
#include <QPixmap>

namespace loom::app {

class BackdropView : public QObject {
    Q_OBJECT
  public:
    explicit BackdropView(QObject* parent = nullptr);
    // `at`: where its left upper corner is in the view; `scale`: pixels a unit of it.
    void paint(QPainter& p, const project::Project& project, const project::Backdrop& backdrop, const QPointF& at,
               double scale, const QRect& view);
    // Of a DXF drawing once it is read; null: another kind, or not yet.
    std::shared_ptr<const project::DxfPlan> plan() const { return plan_; }
    bool isRead() const { return !reading_.busy(); }
    bool busy() const { return reading_.busy() || drawing_.busy(); }

  signals:
    void changed(); // more of it can be painted
    void read();    // plan() is there

  private:
    struct Drawn {
        QImage image;
        QRectF part; // of the drawing, in units from its left upper corner
        double scale = 0;
    };
    void take(const project::Project& project, const project::Backdrop& backdrop);
    static Drawn draw(const project::DxfPlan& plan, const std::vector<std::string>& hidden, QRectF part, double scale,
                      QColor ink, std::stop_token stop);
    void want(const QRectF& part, double scale);
    void forget();
    std::string asset_;
    const char* bytes_ = nullptr; // of the asset that was read
    std::vector<std::string> hidden_;
    QColor ink_;
    std::shared_ptr<const project::DxfPlan> plan_;
    QPixmap pixmap_; // of a picture
    Drawn whole_, sharp_;
    QRectF asked_;
    double askedScale_ = 0;
    Worker<std::shared_ptr<const project::DxfPlan>> reading_;
    Worker<Drawn> drawing_;
};

} // namespace loom::app
