// A signal, chosen by words from those that a processor has.
#pragma once
#include "app/rules/rules_state.h"
#include "app/shell/pick_list.h"
#include <functional>

namespace loom::app {

class SignalPicker : public PickList {
    Q_OBJECT
  public:
    SignalPicker(RulesState& state, QWidget* parent);
    using Fits = std::function<bool(const project::Signal&)>;
    void open(Fits fits, const QRect& where);

  signals:
    void picked(const std::string& path);
    void left();

  protected:
    void fill() override;
    void pick() override;
    void leave(bool byKey) override;

  private:
    RulesState& state_;
    Fits fits_{};
};

} // namespace loom::app
