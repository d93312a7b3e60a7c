// Find or do: every command, lane, block, parameter and finding by a few typed letters; "gain = -3" sets a value.
#pragma once
#include <QFrame>
#include <functional>
#include <vector>

class QLineEdit;
class QListWidget;

namespace loom::app {

struct Findable {
    QString kind, text, key;                   // "command", "Run the bench", "F5"
    std::function<void()> go{};                // what choosing it does
    std::function<void(const QString&)> set{}; // parameters: takes what stands behind "="
};

class Finder : public QFrame {
    Q_OBJECT
  public:
    explicit Finder(QWidget* parent);
    void open(std::vector<Findable> all);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void fill();
    void pick();
    QLineEdit* words_;
    QListWidget* list_;
    std::vector<Findable> all_;
};

} // namespace loom::app
