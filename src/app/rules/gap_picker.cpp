#include "app/rules/gap_picker.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "rules/sentence.h"

namespace loom::app {

using namespace project;

GapPicker::GapPicker(RulesState& state, QWidget* parent)
    : PickList("gapPicker", "Type, or choose", "What fills the gap", parent), state_(state) {}

void GapPicker::open(const std::string& gap, const QRect& where) {
    gap_ = gap;
    done_ = false;
    const QSize whole = parentWidget()->size();
    const int w = std::min(Theme::get().ipx(340), whole.width() - 8),
              h = std::min(Theme::get().ipx(260), whole.height() - 8);
    const int x = std::clamp(where.left(), 4, std::max(4, whole.width() - w - 4));
    int y = where.bottom() + 4;
    if (y + h > whole.height()) // above it where there is more room
        y = std::max(4, std::min(y, whole.height() - h - 4));
    setGeometry(x, y, w, h);
    show();
}

void GapPicker::fill() {
    list_->clear();
    const auto* r = state_.rule();
    const auto* c = state_.clause();
    const auto add = [this](const QString& text, const QString& value, const QString& help) {
        auto* item = new QListWidgetItem(help.isEmpty() ? text : text + "   " + help, list_);
        item->setData(Qt::UserRole, value);
    };
    const auto typed = words_->text().trimmed();
    if (r && !c) {
        if (gap_ == "name" && typed.isEmpty())
            add(q(r->name), q(r->name), "as it is");
    } else if (c) {
        const auto part = partOf(state_.line().part);
        if (const auto* kind = findClauseKind(part, c->kind)) {
            for (const auto& one : gapChoices(state_.project(), *kind, *c, gap_, typed.toStdString(), 40))
                add(q(one.text), q(one.value), q(one.help));
            if (typed.isEmpty() && !kind->needs(gap_) && !(*c)[gap_].empty())
                add("leave it out", "", "");
        }
    }
    // A value that is in no list is typed and taken with Enter.
    list_->setCurrentRow(typed.isEmpty() ? -1 : 0);
}

void GapPicker::pick() {
    const auto* item = list_->currentItem();
    const auto typed = words_->text().trimmed();
    if (!item && typed.isEmpty())
        return leave(true);
    // What is typed is taken as it is where it can be; else what is chosen in the list.
    QString value = typed;
    if (const auto* c = state_.clause()) {
        const bool good = !typed.isEmpty() &&
                          bool(withGap(state_.project(), partOf(state_.line().part), *c, gap_, typed.toStdString()));
        if (!good && item)
            value = item->data(Qt::UserRole).toString();
    } else if (item && typed.isEmpty()) {
        value = item->data(Qt::UserRole).toString();
    }
    done_ = true;
    hide();
    state_.fill(gap_, value);
    emit left();
}

void GapPicker::leave(bool) {
    if (!isVisible() || done_)
        return;
    hide();
    emit left();
}

} // namespace loom::app
