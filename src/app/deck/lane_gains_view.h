// The lanes of an automatic mixer: a bar each for the gain it has, full when open, with the names of what arrives.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace loom::app {

class LaneGainsView : public QWidget {
    Q_OBJECT
  public:
    LaneGainsView(Session& session, const QString& block, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    QString block_;
};

} // namespace loom::app
