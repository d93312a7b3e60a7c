// A bead: one block as it lies on a lane, with a small true picture of its setting.
#pragma once
#ifndef Q_MOC_RUN
#include "dsp/units.h"
#include "engine/block_kind.h"
#endif
#include <QPainterPath>
#include <QWidget>

namespace loom::app {

// How a bead is drawn besides its setting.
struct BeadLook {
    QRectF rect;
    QColor colour;
    double zoom = 1;
    double rate = 48000;
    double meterDb = -120; // for beads that show a level
    bool chosen = false;
    bool changed = false; // since it was kept
    bool apart = false;   // a value broke away from the linked lanes
    bool locked = false;  // it, or one of its values, is protected
    bool noted = false;   // it, or one of its values, has a note
    bool spelled = false; // wide enough for a value with its unit
    bool named = false;   // large enough for its name below
};
void paintBead(QPainter& p, const engine::Block& block, const BeadLook& look);
void paintMeter(QPainter& p, QRectF r, double db);

// Frequencies of a curve from 20 Hz to 20 kHz that is drawn so wide, below half the rate; and the curve itself, within
// -range..range dB.
std::vector<double> curveFrequencies(double width, double rate);
QPainterPath responseCurve(const std::vector<dsp::Complex>& h, QRectF r, double range);

} // namespace loom::app
