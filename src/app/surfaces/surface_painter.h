// Draws what the core sketched of a page; knows no kind of control.
#pragma once
#ifndef Q_MOC_RUN
#include "surface/use.h"
#endif
#include <QColor>

class QPainter;
class QRectF;

namespace loom::app {

QColor qcolor(const project::Colour& colour);
// With the painter's origin at the control's corner, in pixels of the surface.
// project: whose pictures are shown.
void paintSketch(QPainter& p, const project::Project& project, const project::Sketch& sketch,
                 const project::Shown& shown);
// A whole page as it is in use, with what lies behind its controls.
void paintPage(QPainter& p, const project::Project& project, const project::SurfaceUse& use);

} // namespace loom::app
