// Asks at the foot of the window before something protected is changed: what it is, why it is protected, and whether it
// is meant.
#pragma once
#include "app/session.h"
#include <QFrame>

class QLabel;

namespace loom::app {

class GuardBar : public QFrame {
    Q_OBJECT
  public:
    explicit GuardBar(Session& session, QWidget* parent = nullptr);
    void changeAnyway();

  private:
    void ask(const QString& what, const QString& why);
    Session& session_;
    QLabel* text_;
};

} // namespace loom::app
