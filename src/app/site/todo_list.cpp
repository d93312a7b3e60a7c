#include "app/site/todo_list.h"
#include "app/shell/ask.h"
#include "app/text.h"
#include "app/theme/style.h"
#include "app/theme/theme.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace loom::app {

using Cure = site::SiteFinding::Cure;

TodoList::TodoList(Fleet& fleet, QWidget* parent)
    : QWidget(parent), fleet_(fleet),
      table_(new SiteTable({"", "What is wrong", "What cures it"}, "todo", "What is wrong on site")) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    none_ = new QLabel;
    box->addWidget(none_);
    box->addWidget(table_, 1);
    box->addStretch(0);
    fleet.whenChanged(this, [this] { refresh(); });
    connect(&Theme::get(), &Theme::changed, this, [this] {
        made_ = "-";
        refresh();
    });
}

int TodoList::toFix() const {
    return static_cast<int>(std::count_if(findings_.begin(), findings_.end(), [](const auto& f) { return f.fix(); }));
}

void TodoList::refresh() {
    findings_ = fleet_.findings();
    std::stable_sort(findings_.begin(), findings_.end(),
                     [](const auto& a, const auto& b) { return a.fix() > b.fix(); });
    QString made = fleet_.looked() ? "looked\n" : "";
    for (const auto& f : findings_)
        made += q(f.id() + f.device + f.serial + f.address + f.reason) + '\n';
    if (made == made_)
        return;
    made_ = made;
    none_->setVisible(findings_.empty());
    none_->setText(fleet_.looked() ? "Nothing is wrong on this network."
                                   : "Look for devices first: what is wrong will be listed here, with its cure.");
    applyStyle(none_, "color: " + tokens().ink2.name());
    table_->setVisible(!findings_.empty());
    table_->fill(0, {}); // takes the buttons away as well
    table_->dress({64, 0, Theme::get().percent() > 130 ? 240 : 300}, 34);
    table_->fill(count(), [rows = findings_](int row, int column) { // of its own: the list may be another at any time
        const auto& f = rows[static_cast<std::size_t>(row)];
        return column == 0   ? SiteCell{f.fix() ? "to fix" : "to note", f.fix() ? tokens().fault : tokens().ink2}
               : column == 1 ? SiteCell{q(f.reason + " " + f.remedy)}
                             : SiteCell{};
    });
    for (int i = 0; i < count(); ++i) {
        const auto f = findings_[static_cast<std::size_t>(i)];
        auto* cell = new QWidget;
        auto* row = new QHBoxLayout(cell);
        row->setContentsMargins(2, 2, 2, 2);
        const auto add = [&](const QString& text, const QString& name, auto go) {
            auto* b = new QPushButton(text);
            b->setObjectName(name);
            b->setAccessibleName(text + ": " + q(f.reason));
            connect(b, &QPushButton::clicked, this, go, Qt::QueuedConnection); // the row may go with it
            row->addWidget(b);
        };
        const QString key = q(f.id() + "." + (f.serial.empty() || f.cure == Cure::replace ? f.device : f.serial));
        if (f.cure == Cure::readdress) {
            if (!f.address.empty())
                add(q("Give it " + f.address), "cure." + key, [this, f] { fleet_.cure(f); });
            add("Another\u2026", "other." + key, [this, f] { otherAddress(f); });
        } else if (f.cure == Cure::replace) {
            add(q("Let " + f.serial + " replace it"), "cure." + key, [this, f] { fleet_.cure(f); });
        } else if (f.cure == Cure::add) {
            add("Put it into the plan", "cure." + key, [this, f] { fleet_.cure(f); });
        } else if (f.cure == Cure::firmware) {
            add("Bring up to date", "cure." + key, [this, f] { fleet_.cure(f); });
            add("Later\u2026", "later." + key, [this, f] { later(f); });
        } else {
            add("Look again", "cure." + key, [this, f] { fleet_.cure(f); });
        }
        row->addStretch(1);
        table_->setIndexWidget(table_->model()->index(i, 2), cell);
    }
    emit changed();
}

void TodoList::otherAddress(const site::SiteFinding& f) {
    if (const auto text =
            askOne(this, "Another address", {q("Address for " + f.serial + ", in numbers"), q(f.address)}))
        fleet_.readdress(f.serial, text->toStdString());
}

// A finding that is left: with a reason, in the project, so that the next one knows.
void TodoList::later(const site::SiteFinding& f) {
    if (const auto why = askOne(this, "Leave it for later", {"Why it waits", "not while the room is in use"}))
        fleet_.session().edit(project::leaveFinding({f.id(), f.device, "", why->toStdString()}));
}

} // namespace loom::app
