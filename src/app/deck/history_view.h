// What a running block tells of itself: its first figure over the last seconds, and all figures as numbers.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace loom::app {

class HistoryView : public QWidget {
    Q_OBJECT
  public:
    HistoryView(Session& session, const QString& block, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    QString block_;
};

} // namespace loom::app
