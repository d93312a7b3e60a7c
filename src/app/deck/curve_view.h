// The response of a block, true to the sound; an equaliser's bands as handles to drag.
#pragma once
#include "app/session.h"
#include "app/shell/accessible.h"
#ifndef Q_MOC_RUN
#include "program/heard_response.h"
#endif
#include <QPainterPath>
#include <QWidget>

namespace loom::app {

class CurveView : public QWidget, public Painted {
    Q_OBJECT
  public:
    CurveView(Session& session, const QString& block, QWidget* parent = nullptr);
    int band() const { return band_; } // the chosen one, from 1; 0: none
    void chooseBand(int band);
    QPointF handle(int band) const;
    // What is drawn behind the block's own curve: what it is heard through.
    project::Span span() const { return span_; }
    void setSpan(project::Span span);
    void soloBand(); // hears the chosen band alone while the bench runs, or no longer
    void setSpectrum(std::vector<double> bands);
    std::vector<PaintedPart> paintedParts() const override;
    void choosePart(int index) override;

  signals:
    void bandChosen(int band);
    void spanWanted(); // the next one

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    const engine::Block* block() const;
    double read(int band, const char* field) const;
    int bands() const;
    QRectF plot() const;
    double xOf(double hz) const;
    double hzAt(double x) const;
    int bandAt(QPointF p) const;
    Session& session_;
    QString block_;
    int band_ = 0, dragging_ = 0;
    bool moved_ = false;
    void drawCurves(const QRectF& r);
    void drawHeard(QPainter& p, const QRectF& r);
    project::Span span_ = project::Span::block;
    bool stale_ = true; // the path may be another
    QPainterPath heard_;
    QString heardText_;
    std::vector<double> spectrum_;
    // What is drawn, and what of: it is worked out anew only when that changes.
    engine::Block drawn_;
    QRectF drawnIn_;
    std::vector<QPainterPath> curves_; // of each output that differs
    QPainterPath sum_;                 // of several
    std::string tapsName_;
    std::shared_ptr<const dsp::AudioClip> taps_;
};

} // namespace loom::app
