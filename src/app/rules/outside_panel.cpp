#include "app/rules/outside_panel.h"
#include "app/field_form.h"
#include "app/shell/ask.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "disk/safe_file.h"
#include "outside/outside_edit.h"
#include "rules/rule_home.h"
#include <QFileDialog>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

OutsidePanel::OutsidePanel(RulesState& state, QWidget* parent)
    : QWidget(parent), state_(state), list_(new QListWidget), hint_(new QLabel), knows_(new QLabel) {
    fields_ = new FieldForm(
        [this] {
            const auto* d = chosen();
            return d ? outsideFields(state_.project(), *d) : std::vector<Field>{};
        },
        [this](const std::string& field, const std::string& value) {
            const auto* d = chosen();
            return d && state_.edit(setOutsideField(d->id, field, value));
        });
    fields_->setObjectName("outsideFields");
    list_->setObjectName("outsideList");
    list_->setAccessibleName("Outside devices");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 8, 0, 8);
    box->addWidget(hint_);
    box->addWidget(list_, 2);
    auto* row = new QGridLayout;
    int at = 0;
    for (const auto& [text, id, command] :
         {std::tuple("Add\u2026", "addOutside", "rules.outside"),
          std::tuple("From a description\u2026", "describeOutside", "rules.describe")}) {
        auto* b = new QPushButton(text);
        b->setObjectName(id);
        connect(b, &QPushButton::clicked, this, [this, c = QString(command)] { emit wants(c); });
        row->addWidget(b, 0, at++);
    }
    box->addLayout(row);
    box->addWidget(fields_, 2);
    box->addWidget(knows_);
    for (QWidget* one : std::initializer_list<QWidget*>{list_, fields_}) // as high as there is room
        one->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Ignored);
    for (auto* label : {hint_, knows_})
        label->setWordWrap(true);
    knows_->setObjectName("outsideKnows");
    connect(list_, &QListWidget::currentRowChanged, this, [this](int n) {
        if (n < 0 || static_cast<std::size_t>(n) >= state_.project().outside.size())
            return;
        chosen_ = state_.project().outside[static_cast<std::size_t>(n)].id;
        showChosen();
    });
    connect(&state, &RulesState::changed, this, &OutsidePanel::refresh);
    connect(&Theme::get(), &Theme::changed, this, &OutsidePanel::refresh);
    refresh();
}

const OutsideDevice* OutsidePanel::chosen() const {
    const auto& p = state_.project();
    const auto* d = p.outsideDevice(chosen_);
    return d ? d : p.outside.empty() ? nullptr : &p.outside[0];
}

void OutsidePanel::choose(const std::string& id) {
    chosen_ = id;
    refresh();
}

void OutsidePanel::refresh() {
    const auto& p = state_.project();
    const QSignalBlocker quiet(list_);
    list_->clear();
    int current = -1;
    for (const auto& d : p.outside) {
        const auto* kind = p.outsideKind(d.kind);
        auto* item = new QListWidgetItem(q(d.name) + "\n" + (kind ? q(kind->name) : q(d.kind)) + ", " +
                                         (d.address.empty() ? QString("no address yet") : q(d.address)));
        list_->addItem(item);
        if (chosen() && chosen()->id == d.id)
            current = list_->count() - 1;
    }
    list_->setCurrentRow(current);
    list_->setVisible(!p.outside.empty());
    hint_->setFont(Theme::get().text(11));
    list_->setMinimumHeight(list_->fontMetrics().lineSpacing() * 5);
    fields_->setMinimumHeight(list_->fontMetrics().lineSpacing() * 7);
    hint_->setText("Displays, projectors, blinds: whatever has a language of its own. What they are, rules know; what "
                   "they can be told, rules set.");
    showChosen();
}

void OutsidePanel::showChosen() {
    const auto* d = chosen();
    fields_->setVisible(d);
    knows_->setVisible(d);
    fields_->refresh();
    if (!d)
        return;
    const auto& p = state_.project();
    const auto by = processorOf(p, *d);
    const auto* box = p.device(by);
    QStringList told, set, said;
    const auto prefix = outsidePrefix + d->id + "/";
    for (const auto& s : happenings(p))
        if (s.path == prefix + outsideThere)
            told << "whether it answers";
        else if (s.path.rfind(prefix, 0) == 0)
            (s.pulse      ? said
             : s.settable ? set
                          : told)
                << q(s.label.substr(std::min(s.label.size(), d->name.size() + 4)));
    QString text = box ? q(box->name) + " talks to it." : QString("No processor talks to it.");
    if (!set.isEmpty())
        text += "<br>Set and told: <b>" + set.join("</b>, <b>") + "</b>";
    if (!said.isEmpty())
        text += "<br>Said: <b>" + said.join("</b>, <b>") + "</b>";
    if (told.removeAll(QString()), !told.isEmpty())
        text += "<br>Told: <b>" + told.join("</b>, <b>") + "</b>";
    knows_->setFont(Theme::get().text(12));
    knows_->setText(text);
}

bool OutsidePanel::put(const OutsideKind& kind) {
    const bool serial = kind.link == OutsideKind::Link::serial, wake = kind.link == OutsideKind::Link::wake;
    const auto said = ask(this, q(kind.name),
                          {{"Name"},
                           {serial ? "Serial line, as in /dev/ttyS0"
                            : wake ? "Hardware address, as in 00:11:22:33:44:55"
                                   : "Address, as in 192.0.2.40"}});
    if (!said)
        return false;
    const auto name = (*said)[0].trimmed().toStdString();
    const auto room = state_.room().find('+') == std::string::npos ? state_.room() : std::string();
    if (!state_.edit(addOutside(state_.project(), name, kind, room, (*said)[1].trimmed().toStdString())))
        return false;
    choose(state_.project().outside[state_.project().outside.size() - 1].id);
    return true;
}

void OutsidePanel::add() {
    std::vector<OutsideKind> kinds;
    for (const auto& k : state_.project().outsideKinds)
        kinds.push_back(k);
    for (const auto& k : shippedOutsideKinds())
        if (!state_.project().outsideKind(k.id))
            kinds.push_back(k);
    QStringList names;
    for (const auto& k : kinds)
        names << q(k.name);
    if (const auto which = askChoice(this, "An outside device", "What it is", names))
        (void)put(kinds[*which]);
}

void OutsidePanel::describe() {
    const auto file = QFileDialog::getOpenFileName(window(), "A description of a kind of outside device", {},
                                                   "Descriptions (*.json)");
    if (file.isEmpty())
        return;
    const auto text = readWhole(file.toStdString(), 1u << 20);
    const auto kind =
        text ? readOutsideKind(*text, file.section('/', -1).toStdString()) : Result<OutsideKind>(text.error());
    if (!kind)
        return state_.session().report(q(kind.error().text()), true);
    (void)put(*kind);
}

void OutsidePanel::takeOut() {
    if (const auto* d = chosen())
        state_.edit(removeOutside(state_.project(), d->id));
}

} // namespace loom::app
