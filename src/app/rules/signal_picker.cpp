#include "app/rules/signal_picker.h"
#include "app/text.h"
#include "app/theme/theme.h"

namespace loom::app {

using namespace project;

namespace {

constexpr std::size_t mostShown = 60, mostFound = 400;

} // namespace

SignalPicker::SignalPicker(RulesState& state, QWidget* parent)
    : PickList("signalPicker", "Type a room, a block, a parameter", "A signal of the processor", parent),
      state_(state) {
    hide();
}

void SignalPicker::open(Fits fits, const QRect& where) {
    fits_ = std::move(fits);
    const QSize whole = parentWidget()->size();
    const int w = whole.width() - 8, h = std::min(Theme::get().ipx(300), whole.height() - 8);
    setGeometry(4, std::clamp(where.bottom() + 4, 4, std::max(4, whole.height() - h - 4)), w, h);
    raise();
    show();
}

void SignalPicker::fill() {
    list_->clear();
    std::size_t shown = 0;
    for (const auto& s : findSignals(state_.project(), words_->text().trimmed().toStdString(), mostFound)) {
        if (!fits_(s))
            continue;
        auto* item = new QListWidgetItem(q(s.label), list_);
        item->setData(Qt::UserRole, q(s.path));
        item->setToolTip(q(s.path));
        if (++shown >= mostShown)
            break;
    }
    list_->setCurrentRow(0);
}

void SignalPicker::pick() {
    const auto* item = list_->currentItem();
    if (!item)
        return;
    const auto path = item->data(Qt::UserRole).toString().toStdString();
    hide();
    emit left();
    emit picked(path);
}

void SignalPicker::leave(bool) {
    if (!isVisible())
        return;
    hide();
    emit left();
}

} // namespace loom::app
