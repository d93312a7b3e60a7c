// A signal, chosen by words from those that a processor has.
#pragma once
#include "app/rules/rules_state.h"
#include "app/shell/pick_list.h"

namespace loom::app {

class SignalPicker : public PickList {
    Q_OBJECT
  public:
    SignalPicker(RulesState& state, QWidget* parent);
    void open(const std::string& device, const QRect& where);

  signals:
    void picked(const std::string& path);
    void left();

  protected:
    void fill() override;
    void pick() override;
    void leave(bool byKey) override;

  private:
    RulesState& state_;
    std::string device_{};
};

} // namespace loom::app
