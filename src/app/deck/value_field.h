// One parameter as a field: takes what people type, steps by wheel and arrows, gives the old value back on Esc. Shows
// what differs from the default (bold), from what was kept (a spot) and from the linked lanes (an unequal sign).
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
    void focusInEvent(QFocusEvent*) override;
    void focusOutEvent(QFocusEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void paintEvent(QPaintEvent*) override;

  private:
    double value() const;
    double valueIn(const engine::Block& block) const;
    void noteMarks();
    void flipApart();
    QString rangeText() const; // of several lanes whose values differ; "" where they agree
    void commit();
    void step(double steps);
    Session& session_;
    QString block_, param_;
    bool apart_ = false;   // went its own way
    bool changed_ = false; // since it was kept
    bool locked_ = false;  // protected, by itself or with its block
    bool noted_ = false;
};

} // namespace loom::app
