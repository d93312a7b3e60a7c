// A field to type in with a list of what fits below it: up and down choose, Enter takes, Esc leaves.
#pragma once
#include <QFrame>
#include <QLineEdit>
#include <QListWidget>

namespace loom::app {

class PickList : public QFrame {
    Q_OBJECT
  public:
    PickList(const QString& name, const QString& hint, const QString& fieldName, QWidget* parent);

  protected:
    virtual void fill() = 0; // puts what fits the words into the list
    virtual void pick() = 0; // takes the current item
    virtual void leave(bool byKey) = 0;
    void show(); // with empty words
    bool eventFilter(QObject*, QEvent*) override;
    QLineEdit* words_;
    QListWidget* list_;
};

} // namespace loom::app
