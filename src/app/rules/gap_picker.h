// What could fill a gap of a rule, at the gap: typed, or chosen from a list.
#pragma once
#include "app/rules/rules_state.h"
#include "app/shell/pick_list.h"

namespace loom::app {

class GapPicker : public PickList {
    Q_OBJECT
  public:
    GapPicker(RulesState& state, QWidget* parent);
    void open(const std::string& gap, const QRect& where); // where: in its parent

  signals:
    void left();

  protected:
    void fill() override;
    void pick() override;
    void leave(bool byKey) override;

  private:
    RulesState& state_;
    std::string gap_;
    bool done_ = false;
};

} // namespace loom::app
