#include "app/survey/survey_deck.h"
#include "app/field_form.h"
#include "app/shell/ask.h"
#include "app/survey/device_table.h"
#include "app/survey/rack_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "disk/safe_file.h"
#include "dsp/text.h"
#include "rooms/device_table.h"
#include "rooms/room_copy.h"
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace loom::app {

SurveyDeck::SurveyDeck(SurveyState& state, QWidget* parent)
    : QWidget(parent), state_(state), title_(new QLabel), says_(new QLabel),
      form_(new FieldForm([this] { return project::fieldsOf(state_.session().project(), keys()); },
                          [this](const std::string& field, const std::string& value) { return set(field, value); })),
      table_(new DeviceTable(state)), rack_(new RackView(state)) {
    setObjectName("surveyDeck");
    form_->setObjectName("fieldForm");
    setAccessibleName("Deck: fields and devices");
    setAutoFillBackground(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 4, 12, 4);
    box->setSpacing(4);
    auto* head = new QHBoxLayout;
    head->addWidget(title_);
    head->addWidget(says_, 1);
    const auto button = [&](const QString& text, const QString& name, auto go) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        connect(b, &QPushButton::clicked, this, go);
        head->addWidget(b);
    };
    button("Rename all\u2026", "renameAll", [this] { renameAll(); });
    button("Address all", "addressAll", [this] { addressAll(); });
    button("Copy room\u2026", "copyRoom", [this] { copyRoom(); });
    box->addLayout(head);
    auto* row = new QHBoxLayout;
    row->addWidget(form_);
    row->addWidget(table_, 1);
    row->addWidget(rack_);
    box->addLayout(row, 1);
    connect(form_, &FieldForm::wantsBack, this, &SurveyDeck::wantsBack);
    connect(&state, &SurveyState::changed, this, &SurveyDeck::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SurveyDeck::refresh);
    refresh();
}

// What is chosen on the plan, or the room.
std::vector<std::string> SurveyDeck::keys() const {
    if (!state_.chosen().empty())
        return state_.chosen();
    return state_.room().empty() ? std::vector<std::string>{} : std::vector<std::string>{"room:" + state_.room()};
}

bool SurveyDeck::set(const std::string& field, const std::string& value) {
    auto edit = project::setField(state_.session().project(), keys(), field, value);
    if (!edit)
        state_.session().report(edit.error());
    return edit && state_.run(std::move(*edit));
}

void SurveyDeck::takeFocus() {
    form_->takeFocus();
}

void SurveyDeck::refresh() {
    QPalette pal = palette();
    pal.setColor(QPalette::Window, tokens().linen);
    setPalette(pal);
    form_->setNone(keys().empty() ? "Choose a thing on the plan: its fields open here." : "Drag it on the plan.");
    form_->refresh();
    form_->setFixedWidth(Theme::get().ipx(300));
    rack_->setFixedWidth(Theme::get().ipx(250));
    rack_->setVisible(rack_->rack() != nullptr);
    title_->setStyleSheet(QString("font-weight: bold; font-size: %1px; padding-right: 8px").arg(Theme::get().ipx(13)));
    says_->setStyleSheet("color: " + tokens().ink2.name());
    const auto* r = state_.session().project().room(state_.room());
    const auto& chosen = state_.chosen();
    QString title = r ? q(r->name) : QString("Survey");
    if (chosen.size() == 1) {
        if (const auto* b = state_.building())
            for (const auto& i : project::planItems(state_.session().project(), *b))
                if (i.key == chosen.front())
                    title = q(i.name);
    } else if (chosen.size() > 1)
        title = QString("%1 things").arg(chosen.size());
    title_->setText(title);
    says_->setVisible(Theme::get().percent() <= 130);
    says_->setText(r ? QString("%1 devices \u00b7 names follow %2").arg(table_->rows().rowCount()).arg(q(r->pattern))
                     : QString("Draw a room: its devices stand here."));
}

std::vector<std::string> SurveyDeck::meant() const {
    std::vector<std::string> ids;
    for (const auto& key : state_.chosen())
        if (key.rfind("device:", 0) == 0)
            ids.push_back(key.substr(7));
    if (ids.empty())
        for (int i = 0; i < table_->rows().rowCount(); ++i)
            if (const auto* d = state_.session().project().device(table_->rows().id(i)); d && d->place.rack.empty())
                ids.push_back(d->id);
    return ids;
}

// A list of what would be done, before it is.
bool SurveyDeck::approve(const QString& title, const std::vector<project::Renewal>& list) {
    if (list.empty()) {
        state_.session().report("Nothing has to change.", false);
        return false;
    }
    QDialog dialog(this);
    dialog.setObjectName("approve");
    dialog.setWindowTitle(title);
    dialog.resize(Theme::get().ipx(620), Theme::get().ipx(380));
    auto* box = new QVBoxLayout(&dialog);
    box->addWidget(new QLabel(QString("%1 changes; one undo takes them all back.").arg(list.size())));
    auto* table = new QTableWidget(static_cast<int>(list.size()), 3);
    table->setHorizontalHeaderLabels({"What", "Now", "Then"});
    table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    table->verticalHeader()->hide();
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    for (int i = 0; i < table->rowCount(); ++i) {
        const auto& l = list[static_cast<std::size_t>(i)];
        const std::string texts[] = {l.what, l.before, l.after};
        for (int c = 0; c < 3; ++c)
            table->setItem(i, c, new QTableWidgetItem(q(texts[c])));
    }
    box->addWidget(table);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    auto* good = buttons->addButton(title, QDialogButtonBox::AcceptRole);
    good->setDefault(true);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    box->addWidget(buttons);
    return dialog.exec() == QDialog::Accepted;
}

void SurveyDeck::renameAll() {
    const auto* r = state_.session().project().room(state_.room());
    const auto pattern = askOne(this, "Rename devices",
                                {"Pattern of {room}, {use}, {model} and {n}", r ? q(r->pattern) : "{room} {use} {n}"});
    if (!pattern)
        return;
    const auto next = project::renamed(state_.session().project(), meant(), pattern->toStdString());
    if (approve("Rename them", next.list))
        state_.run(project::setDevices(next.devices, "Rename devices"));
}

void SurveyDeck::addressAll() {
    const auto next = project::addressed(state_.session().project(), meant(), "", false);
    if (approve("Give these addresses", next.list))
        state_.run(project::setDevices(next.devices, "Address devices"));
}

void SurveyDeck::takeTable(const QString& text) {
    const auto then =
        project::devicesOfTable(state_.session().project(), state_.session().models(), text.toStdString());
    if (!then)
        return state_.session().report(then.error());
    if (!approve("Take them", then->list))
        return;
    if (then->empty())
        return state_.session().report("Nothing of it could be taken.");
    std::vector<std::string> keys;
    for (const auto& [id, device] : then->devices)
        keys.push_back("device:" + id);
    const std::string what =
        then->buildings ? "Seats of a table" : QString("%1 devices of a table").arg(keys.size()).toStdString();
    if (state_.run(then->edit(what)))
        state_.choose(keys);
}

void SurveyDeck::openTable() {
    const QString name =
        QFileDialog::getOpenFileName(this, "Devices of a table", {}, "Tables (*.csv *.tsv *.txt);;All files (*)");
    if (name.isEmpty())
        return;
    const auto text = project::readWhole(name.toStdString(), project::maxTableBytes);
    text ? takeTable(QString::fromStdString(utf8Of(*text))) : state_.session().report(text.error());
}

void SurveyDeck::copyRoom() {
    const auto& p = state_.session().project();
    const auto* r = p.room(state_.room());
    if (!r)
        return state_.session().report("Choose the room to copy on the plan.");
    const auto said = askOne(this, "Copy room", {"Name of the copy", q(r->name) + " 2"});
    if (!said)
        return;
    const QString& name = *said;
    auto copy = project::copyRoom(p, r->id, p, name.toStdString());
    if (!copy)
        return state_.session().report(copy.error());
    auto list = copy->renewed.list;
    list.insert(list.begin(), {"", "room", r->name, name.toStdString()});
    if (!approve("Copy it", list))
        return;
    const std::string id = copy->room;
    if (state_.run(project::editBetween(p, project::withCopy(p, *copy), "Copy room"))) {
        state_.setRoom(id);
        state_.choose({"room:" + id});
    }
}

void SurveyDeck::copySettings() {
    for (const auto& key : state_.chosen())
        if (const auto* d = key.rfind("device:", 0) == 0 ? state_.session().project().device(key.substr(7)) : nullptr) {
            held_ = *d;
            return state_.session().report(
                "Settings of " + q(d->name) + " are held. Choose others of its model and paste them.", false);
        }
    state_.session().report("Choose a device first.");
}

void SurveyDeck::pasteSettings() {
    if (!held_)
        return state_.session().report("No settings are held. Choose a device and copy its settings (Ctrl+C).");
    std::vector<std::string> to;
    for (const auto& key : state_.chosen())
        if (key.rfind("device:", 0) == 0)
            to.push_back(key.substr(7));
    auto changed = project::pasteDevice(state_.session().project(), *held_, to);
    changed ? void(state_.run(project::setDevices(*changed, "Paste settings of " + held_->name)))
            : state_.session().report(changed.error());
}

void SurveyDeck::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape)
        emit wantsBack();
    else
        QWidget::keyPressEvent(e);
}

} // namespace loom::app
