// Painted views tell assistive programs what lies in them, and let them choose it.
#pragma once
#include <QRectF>
#include <QString>
#include <vector>

namespace loom::app {

struct PaintedPart {
    QString name;  // "Delegate 3 · Equaliser"
    QString value; // "on", "−6.0 dB"; may be empty
    QRectF rect;   // in the view
    bool chosen = false;
};

// A widget that paints its parts itself implements this beside QWidget and needs nothing more.
class Painted {
  public:
    virtual ~Painted() = default;
    virtual std::vector<PaintedPart> paintedParts() const = 0;
    virtual void choosePart(int index) = 0; // as a click would
};

// To be called once, after the application object was made.
void installAccessibility();

} // namespace loom::app
