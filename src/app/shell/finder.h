// Find or do: every command, lane, block, parameter and finding by a few typed letters; "gain = -3" sets a value.
#pragma once
#include "app/shell/pick_list.h"
#include <functional>
#include <vector>

namespace loom::app {

struct Findable {
    QString kind, text, key;                   // "command", "Run the bench", "F5"
    std::function<void()> go{};                // what choosing it does
    std::function<void(const QString&)> set{}; // parameters: takes what stands behind "="
    QString path{};                            // as what it can be dragged from the list; "": it cannot
};

class Finder : public PickList {
    Q_OBJECT
  public:
    explicit Finder(QWidget* parent);
    // What was picked lately comes first, remembered under `recent`; without a name the list is taken as it comes.
    void open(std::vector<Findable> all, const QString& recent = {});

  protected:
    void fill() override;
    void pick() override;
    void leave(bool byKey) override;

  private:
    QString recent_;
    std::vector<Findable> all_;
};

} // namespace loom::app
