// Levels over frequency as a running analyser block tells them: third-octave bars, or fine lines.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace loom::app {

class LevelsView : public QWidget {
    Q_OBJECT
  public:
    LevelsView(Session& session, const QString& block, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

  private:
    QRectF plot() const;
    int count() const; // bars or points
    double hzOf(int i) const;
    double level(int i) const; // dB
    Session& session_;
    QString block_;
    bool bars_;
    std::optional<QPointF> pointer_;
};

} // namespace loom::app
