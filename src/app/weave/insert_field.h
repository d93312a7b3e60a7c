// The field that opens at "/": a block with its values for the chosen lanes, new lanes, or a route (program/phrase.h).
// A few letters of one block will do; behind them the list shows what was understood.
#pragma once
#include "app/shell/pick_list.h"
#ifndef Q_MOC_RUN
#include "program/swatch.h"
#endif
#include <functional>

namespace loom::app {

class InsertField : public PickList {
    Q_OBJECT
  public:
    enum class For { insert, swap }; // swap: one block in another's place, no phrases and no swatches
    // onLane: a lane is chosen, blocks of one way in and out fit.
    InsertField(bool onLane, QWidget* parent, For what = For::insert);
    void open(const QString& begin);
    std::function<bool(const QString& phrase)> say; // false: the field stays, with what was typed
    std::function<void(const project::Swatch&)> take;

  protected:
    void fill() override;
    void pick() override;
    void leave(bool) override { close(); }

  private:
    void fillKinds(const QString& words);
    void fillSwatches(const QString& words);
    void fillUnderstood(const QString& phrase);
    QString phrase() const; // with the chosen kind in place of the letters typed for it
    bool onLane_;
    For for_;
    std::vector<project::LibraryEntry> library_;
};

} // namespace loom::app
