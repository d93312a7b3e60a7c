#include "app/site/knob_grid.h"
#include "app/shell/choice_box.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "rooms/plan_items.h"
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>

namespace loom::app {

using project::KnobUse;

KnobGrid::KnobGrid(Fleet& fleet, QWidget* parent)
    : QWidget(parent), fleet_(fleet), next_(new ChoiceBox), learn_(new QPushButton("Turn the knob now")),
      grid_(new QGridLayout(this)) {
    setObjectName("knobs");
    grid_->setContentsMargins(0, 0, 0, 0);
    grid_->setHorizontalSpacing(6);
    grid_->setVerticalSpacing(3);
    next_->setObjectName("knobTarget");
    next_->setAccessibleName("Parameter for the next knob that is turned");
    next_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    next_->setMinimumContentsLength(16);
    learn_->setObjectName("turnNow");
    learn_->setCheckable(true);
    learn_->setToolTip("Choose a parameter, press this, then turn a knob on the board: the knob takes the parameter");
    grid_->addWidget(next_, 0, 0, 1, 2);
    grid_->addWidget(learn_, 0, 2, 1, 3);
    connect(learn_, &QPushButton::toggled, this, [this](bool on) {
        learn_->setText(on ? "Waiting: turn it on the board" : "Turn the knob now");
        if (on)
            fleet_.session().report(
                "Turn a knob or press a button on the board: it takes " + next_->currentText() + ".", false);
    });
    connect(&fleet, &Fleet::turned, this,
            [this](const std::string& device, const std::string& knob) { turned(q(device), q(knob)); });
}

bool KnobGrid::waiting() const {
    return learn_->isChecked();
}

const project::Device* KnobGrid::device() const {
    return fleet_.session().project().device(device_);
}

KnobUse KnobGrid::useOf(const std::string& id) const {
    const auto* d = device();
    const auto set = d ? project::setUpOf(*d) : project::SetUp{};
    const auto it = set.find(id);
    const auto use = it == set.end() ? Result<KnobUse>(KnobUse{}) : project::readKnob(it->second);
    return use ? *use : KnobUse{};
}

void KnobGrid::show(const std::string& device) {
    if (device != device_ && learn_->isChecked())
        learn_->setChecked(false);
    device_ = device;
    const auto* d = this->device();
    const auto* m = d ? d->spec() : nullptr;
    setVisible(m && m->knobs + m->buttons > 0);
    if (!isVisibleTo(parentWidget()))
        return;
    if (built_ != m->id)
        build(*m);
    refresh();
}

void KnobGrid::build(const project::DeviceModel& model) {
    built_ = model.id;
    for (auto& r : rows_)
        for (QWidget* w : {static_cast<QWidget*>(r.name), static_cast<QWidget*>(r.target),
                           static_cast<QWidget*>(r.travel), static_cast<QWidget*>(r.from), static_cast<QWidget*>(r.to)})
            w->deleteLater();
    rows_.clear();
    for (const auto& s : project::setUpOf(model)) {
        if (!project::isControl(s.id))
            continue;
        const int at = static_cast<int>(rows_.size()) + 1;
        Row r{s.id, new QLabel(q(s.label)), new ChoiceBox, new ChoiceBox, new QLineEdit, new QLineEdit};
        r.target->setObjectName(q(s.id + " target"));
        r.travel->setObjectName(q(s.id + " travel"));
        r.from->setObjectName(q(s.id + " from"));
        r.to->setObjectName(q(s.id + " to"));
        r.target->setAccessibleName(q(s.label + ": parameter"));
        r.travel->setAccessibleName(q(s.label + ": travel"));
        r.from->setAccessibleName(q(s.label + " fully left"));
        r.to->setAccessibleName(q(s.label + " fully right"));
        r.from->setToolTip("Fully left");
        r.to->setToolTip("Fully right");
        r.target->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        r.target->setMinimumContentsLength(12);
        r.travel->addItems({"as the parameter", "evenly", "by ratio"});
        for (auto* e : {r.from, r.to})
            e->setMinimumWidth(Theme::get().ipx(64));
        int column = 0;
        for (QWidget* w : {static_cast<QWidget*>(r.name), static_cast<QWidget*>(r.target),
                           static_cast<QWidget*>(r.from), static_cast<QWidget*>(r.to), static_cast<QWidget*>(r.travel)})
            grid_->addWidget(w, at, column++);
        connect(r.target, &QComboBox::activated, this,
                [this, r](int i) { choose(r, r.target->itemData(i).toString().toStdString()); });
        connect(r.travel, &QComboBox::activated, this, [this, r] { edit(r); });
        for (auto* e : {r.from, r.to})
            connect(e, &QLineEdit::editingFinished, this, [this, r] { edit(r); });
        rows_.push_back(r);
    }
    grid_->setColumnStretch(1, 3);
    grid_->setColumnStretch(2, 1);
    grid_->setColumnStretch(3, 1);
    grid_->setColumnStretch(4, 1);
}

void KnobGrid::refresh() {
    const auto* d = device();
    filling_ = true;
    auto targets = d && d->program ? project::knobTargets(*d->program) : std::vector<project::KnobTarget>{};
    const auto same = [](const auto& a, const auto& b) { return a.path == b.path && a.label == b.label; };
    if (!std::equal(targets.begin(), targets.end(), targets_.begin(), targets_.end(), same)) {
        targets_ = std::move(targets);
        const auto fill = [this](QComboBox* box) {
            box->clear();
            for (const auto& t : targets_)
                box->addItem(q(t.label), q(t.path));
        };
        fill(next_);
        for (auto& r : rows_) {
            fill(r.target);
            r.target->insertItem(0, "nothing", "");
        }
    }
    learn_->setEnabled(!targets_.empty());
    for (auto& r : rows_) {
        const auto use = useOf(r.id);
        int at = r.target->findData(q(use.path));
        if (r.target->count() == 0 || (at < 0 && !use.path.empty())) { // acts on what is not there any more
            r.target->addItem(q(use.path.empty() ? "nothing" : use.path + " (not there)"), q(use.path));
            at = r.target->count() - 1;
        }
        r.target->setCurrentIndex(std::max(at, 0));
        const auto it =
            std::find_if(targets_.begin(), targets_.end(), [&](const auto& t) { return t.path == use.path; });
        const bool any = it != targets_.end();
        for (QWidget* w : {static_cast<QWidget*>(r.from), static_cast<QWidget*>(r.to), static_cast<QWidget*>(r.travel)})
            w->setEnabled(any);
        r.travel->setCurrentIndex(static_cast<int>(use.travel));
        const auto put = [&](QLineEdit* e, double v) {
            const auto text = any ? q(engine::formatValue(it->spec, v)) : QString();
            if (!e->hasFocus() && e->text() != text)
                e->setText(text);
        };
        put(r.from, use.from);
        put(r.to, use.to);
    }
    filling_ = false;
}

bool KnobGrid::assign(const std::string& id, const KnobUse& use) {
    auto edit = project::setField(fleet_.session().project(), {"device:" + device_}, id, project::knobText(use));
    if (!edit) {
        fleet_.session().report(edit.error());
        return false;
    }
    return !*edit || fleet_.session().edit(std::move(*edit));
}

void KnobGrid::choose(const Row& row, const std::string& path) {
    const auto it = std::find_if(targets_.begin(), targets_.end(), [&](const auto& t) { return t.path == path; });
    if (path.empty() || it != targets_.end())
        assign(row.id, path.empty() ? KnobUse{} : it->whole());
    refresh();
}

void KnobGrid::edit(const Row& row) {
    auto use = useOf(row.id);
    const auto it = std::find_if(targets_.begin(), targets_.end(), [&](const auto& t) { return t.path == use.path; });
    if (filling_ || it == targets_.end())
        return;
    const auto before = use;
    for (auto [e, end] : {std::pair{row.from, &use.from}, std::pair{row.to, &use.to}}) {
        if (e->text() == q(engine::formatValue(it->spec, *end)))
            continue; // what is shown is rounded: it was not typed
        const auto v = engine::parseValue(it->spec, e->text().toStdString());
        if (!v) {
            fleet_.session().report(v.error());
            e->setText(q(engine::formatValue(it->spec, *end)));
            return;
        }
        *end = *v;
    }
    use.travel = static_cast<KnobUse::Travel>(row.travel->currentIndex());
    if (use == before)
        return refresh();
    const auto* d = device();
    if (const auto good = d && d->program ? project::checkKnob(use, *d->program) : Result<Done>(Done{}); !good)
        fleet_.session().report(good.error());
    else
        assign(row.id, use);
    refresh();
}

void KnobGrid::turned(const QString& device, const QString& knob) {
    if (device.toStdString() != device_ || !isVisible())
        return;
    const auto it = std::find_if(rows_.begin(), rows_.end(), [&](const Row& r) { return q(r.id) == knob; });
    if (it == rows_.end())
        return;
    if (!learn_->isChecked()) {
        fleet_.session().report(it->name->text() + " was turned.", false);
        return;
    }
    learn_->setChecked(false);
    const auto path = next_->currentData().toString().toStdString();
    choose(*it, path);
    fleet_.session().report(it->name->text() + " moves " + next_->currentText() + ". Try it to tell the board.", false);
}

} // namespace loom::app
