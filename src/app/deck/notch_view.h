// The notches a feedback suppressor has set: where, how deep, and a switch for each that frees it.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace loom::app {

class NotchView : public QWidget {
    Q_OBJECT
  public:
    NotchView(Session& session, const QString& block, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Session& session_;
    QString block_;
};

} // namespace loom::app
