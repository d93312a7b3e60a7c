// One parameter as a field: takes what people type, steps by wheel and arrows, gives the old value back on Esc.
#pragma once
#include "app/session.h"
#include <QLineEdit>

namespace loom::app {

class ValueField : public QLineEdit {
    Q_OBJECT
  public:
    const engine::ParamSpec* spec() const; // null: the block is gone
    // The parameter must exist. Reads and writes it through the session.
    ValueField(Session& session, const QString& block, const QString& param, QWidget* parent = nullptr);
    QString param() const { return param_; }
    void refresh();

  protected:
    void keyPressEvent(QKeyEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void focusOutEvent(QFocusEvent*) override;

  private:
    double value() const;
    void commit();
    void step(double steps);
    Session& session_;
    QString block_, param_;
};

} // namespace loom::app
