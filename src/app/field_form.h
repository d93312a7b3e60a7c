// A form made of fields, whatever they are of: what is typed goes back where they came from.
#pragma once
#ifndef Q_MOC_RUN
#include "schema/field.h"
#endif
#include <QScrollArea>

class QGridLayout;

namespace loom::app {

class FieldForm : public QScrollArea {
    Q_OBJECT
  public:
    using Read = std::function<std::vector<project::Field>()>;
    // False: it was refused (and said why); the old value stands there again.
    using Write = std::function<bool(const std::string& field, const std::string& value)>;
    FieldForm(Read read, Write write, QWidget* parent = nullptr);
    void setNone(const QString& text) { none_ = text; } // what stands there without fields
    void refresh();                                     // the things or their values may have changed
    void takeFocus();

  signals:
    void wantsBack();

  protected:
    bool eventFilter(QObject*, QEvent*) override; // Esc gives the old value back; up and down step

  private:
    void set(const std::string& field, const QString& value);
    QString shown(const project::Field& field) const; // "—" where those that are chosen differ
    QWidget* editorOf(const project::Field& field);
    Read read_;
    Write write_;
    QString none_, made_; // what the form was built from
};

} // namespace loom::app
