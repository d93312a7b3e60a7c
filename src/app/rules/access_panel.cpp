#include "app/rules/access_panel.h"
#include "access/access_edit.h"
#include "app/field_form.h"
#include "app/parameter_drag.h"
#include "app/rules/signal_picker.h"
#include "app/shell/ask.h"
#include "app/shell/choice_box.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "client/fleet.h"
#include <QDragEnterEvent>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

AccessPanel::AccessPanel(RulesState& state, QWidget* parent)
    : QWidget(parent), state_(state), devices_(new ChoiceBox), list_(new QListWidget), hint_(new QLabel),
      picker_(new SignalPicker(state, this)) {
    setAcceptDrops(true);
    fields_ = new FieldForm(
        [this] {
            const auto* one = chosen();
            return one ? allowedFields(state_.project(), device()->id, one->name) : std::vector<Field>{};
        },
        [this](const std::string& field, const std::string& value) {
            const auto* one = chosen();
            if (!one || !state_.edit(setAllowedField(device()->id, one->name, field, value)))
                return false;
            if (field == "name")
                chosen_ = value;
            refresh();
            return true;
        });
    ways_ =
        new FieldForm([this] { return device() ? accessFields(state_.project(), device()->id) : std::vector<Field>{}; },
                      [this](const std::string& field, const std::string& value) {
                          return device() && state_.edit(setAccessField(device()->id, field, value));
                      });
    fields_->setObjectName("allowedFields");
    ways_->setObjectName("accessFields");
    devices_->setObjectName("accessDevice");
    devices_->setAccessibleName("Processor that is asked");
    list_->setObjectName("allowedList");
    list_->setAccessibleName("What is allowed from outside");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 8, 0, 8);
    box->addWidget(hint_);
    box->addWidget(devices_);
    box->addWidget(ways_, 3);
    box->addWidget(list_, 3);
    auto* row = new QGridLayout;
    int at = 0;
    for (const auto& [text, id, command] :
         {std::tuple("Allow\u2026", "allow", "rules.allow"), std::tuple("PIN\u2026", "accessPin", "rules.accessPin")}) {
        auto* b = new QPushButton(text);
        b->setObjectName(id);
        connect(b, &QPushButton::clicked, this, [this, c = QString(command)] { emit wants(c); });
        row->addWidget(b, 0, at++);
    }
    box->addLayout(row);
    box->addWidget(fields_, 3);
    for (QWidget* one : std::initializer_list<QWidget*>{ways_, list_, fields_}) // as high as there is room
        one->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Ignored);
    hint_->setWordWrap(true);
    connect(devices_, &QComboBox::currentIndexChanged, this, [this](int n) {
        const auto all = accessDevices(state_.project());
        if (n >= 0 && static_cast<std::size_t>(n) < all.size())
            chooseDevice(all[static_cast<std::size_t>(n)]->id);
    });
    connect(list_, &QListWidget::currentRowChanged, this, [this](int n) {
        if (const auto* a = access(); a && n >= 0 && static_cast<std::size_t>(n) < a->allowed.size()) {
            chosen_ = a->allowed[static_cast<std::size_t>(n)].name;
            showChosen();
        }
    });
    connect(picker_, &SignalPicker::picked, this, [this](const std::string& path) { allow(path); });
    connect(picker_, &SignalPicker::left, list_, qOverload<>(&QWidget::setFocus));
    connect(&state, &RulesState::changed, this, &AccessPanel::refresh);
    connect(&Theme::get(), &Theme::changed, this, &AccessPanel::refresh);
    refresh();
}

const Device* AccessPanel::device() const {
    const auto all = accessDevices(state_.project());
    for (const auto* d : all)
        if (d->id == device_)
            return d;
    for (const auto* d : all) // one that is asked already is looked at first
        if (state_.project().accessOf(d->id))
            return d;
    return all.empty() ? nullptr : all.front();
}

const Access* AccessPanel::access() const {
    return device() ? state_.project().accessOf(device()->id) : nullptr;
}

const AllowedSignal* AccessPanel::chosen() const {
    const auto* a = access();
    const auto* one = a ? a->find(chosen_) : nullptr;
    return one ? one : a && !a->allowed.empty() ? &a->allowed.front() : nullptr;
}

void AccessPanel::chooseDevice(const std::string& id) {
    device_ = id;
    refresh();
}

void AccessPanel::refresh() {
    const auto all = accessDevices(state_.project());
    {
        const QSignalBlocker quiet(devices_), still(list_);
        devices_->clear();
        for (const auto* d : all) {
            devices_->addItem(q(d->name));
            if (d == device())
                devices_->setCurrentIndex(devices_->count() - 1);
        }
        devices_->setVisible(all.size() > 1);
        list_->clear();
        const auto* a = access();
        const auto* now = chosen();
        for (std::size_t i = 0; a && i < a->allowed.size(); ++i) {
            const auto& one = a->allowed[i];
            const auto s = signalOf(state_.project(), one.signal);
            list_->addItem(q(one.name) + "\n" + (s ? q(s->label) : QString("not there any more")) +
                           (s && s->pulse ? ", given"
                            : one.sets    ? ", known and set"
                                          : ", known") +
                           (one.role.empty() ? QString() : ", PIN of " + q(one.role)));
            if (&one == now)
                list_->setCurrentRow(static_cast<int>(i));
        }
        list_->setVisible(list_->count() > 0);
    }
    hint_->setFont(Theme::get().text(11));
    const int line = list_->fontMetrics().lineSpacing();
    list_->setMinimumHeight(5 * line);
    for (auto* form : {ways_, fields_})
        form->setMinimumHeight(6 * line);
    hint_->setText(all.empty()
                       ? "There is no processor with a program yet that could be asked from outside."
                       : "Programs and controllers of others know and set what is allowed here, by these names, "
                         "and nothing else.");
    ways_->setVisible(device());
    ways_->refresh();
    showChosen();
}

void AccessPanel::showChosen() {
    fields_->setVisible(chosen());
    fields_->refresh();
}

void AccessPanel::allow() {
    if (!device())
        return;
    picker_->open(device()->id, {list_->mapTo(this, QPoint()), QSize(1, 1)});
}

void AccessPanel::allow(const std::string& signal) {
    if (!device())
        return;
    const auto of = device()->id;
    if (!state_.edit(allowSignal(state_.project(), of, signal, true)))
        return;
    if (const auto* a = access(); a && !a->allowed.empty())
        chosen_ = a->allowed.back().name;
    refresh();
}

void AccessPanel::forbid() {
    if (const auto* one = chosen())
        state_.edit(forbidSignal(state_.project(), device()->id, one->name));
}

void AccessPanel::setPin() {
    const auto* a = access();
    auto& session = state_.session();
    const auto roles = a ? accessRoles(*a) : std::set<std::string>{};
    if (roles.empty())
        return session.report("Nothing asks for a PIN yet: say whose, with what is allowed.");
    auto* fleet = session.fleet();
    const auto* m = fleet ? fleet->member(a->id) : nullptr;
    if (!m || !m->link.up() || m->locked)
        return session.report(
            "The processor is not reached and open. Pair it at Site first; a PIN lives in devices alone.");
    QStringList names;
    for (const auto& r : roles)
        names << q(r);
    const auto which = names.size() == 1 ? std::optional<std::size_t>(0) : askChoice(this, "PIN of", "Role", names);
    if (!which)
        return;
    const auto role = names[static_cast<qsizetype>(*which)];
    if (const auto pin = askOne(this, "PIN of " + role + ", 4 to 12 digits; nothing takes it away", {"PIN", ""}, true))
        fleet->setPin(a->id, accessPins, role.toStdString(), pin->trimmed().toStdString());
}

void AccessPanel::dragEnterEvent(QDragEnterEvent* e) {
    if (device() && e->mimeData()->hasFormat(driveMime))
        e->acceptProposedAction();
}

void AccessPanel::dropEvent(QDropEvent* e) {
    for (const auto& path : parametersIn(*e->mimeData()))
        allow(path.toStdString());
    e->acceptProposedAction();
}

} // namespace loom::app
