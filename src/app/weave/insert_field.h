// The field that opens at "/" on a lane: type a few letters of a block, Enter puts it there.
#pragma once
#include <QFrame>

class QLineEdit;
class QListWidget;

namespace loom::app {

class InsertField : public QFrame {
    Q_OBJECT
  public:
    explicit InsertField(QWidget* parent);
    void open();

  signals:
    void picked(const QString& kind);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void fill(const QString& words);
    void pick();
    QLineEdit* words_;
    QListWidget* list_;
};

} // namespace loom::app
