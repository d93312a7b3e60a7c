#include "app/rules/signal_picker.h"
#include "access/access_edit.h"
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

void SignalPicker::open(const std::string& device, const QRect& where) {
    device_ = device;
    const QSize whole = parentWidget()->size();
    const int w = whole.width() - 8, h = std::min(Theme::get().ipx(300), whole.height() - 8);
    setGeometry(4, std::clamp(where.bottom() + 4, 4, std::max(4, whole.height() - h - 4)), w, h);
    raise();
    show();
}

void SignalPicker::fill() {
    list_->clear();
    const auto& p = state_.project();
    const auto words = words_->text().trimmed().toStdString();
    std::set<std::string> shown;
    const auto add = [&](const Signal& s) {
        if (shown.size() >= mostShown || !isAccessOf(p, device_, s) || !shown.insert(s.path).second)
            return;
        auto* item = new QListWidgetItem(q(s.label), list_);
        item->setData(Qt::UserRole, q(s.path));
        item->setToolTip(q(s.path));
    };
    for (const auto& s : findSignals(p, words, mostFound))
        add(s);
    // Other processors may have as many of these words that its own parameters were not reached.
    for (const auto& d : findDrives(p, words, mostShown, device_))
        if (const auto s = signalOf(p, d.path))
            add(*s);
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
