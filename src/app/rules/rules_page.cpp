#include "app/rules/rules_page.h"
#include "app/rules/access_panel.h"
#include "app/rules/gap_picker.h"
#include "app/rules/occasion_list.h"
#include "app/rules/outside_panel.h"
#include "app/rules/rule_line.h"
#include "app/rules/rule_view.h"
#include "app/rules/scene_panel.h"
#include "app/shell/ask.h"
#include "app/shell/command.h"
#include "app/shell/row_or_tabs.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "rules/script.h"
#include <QDialog>
#include <QDialogButtonBox>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

namespace {

// What has no room is scrolled downwards.
QScrollArea* scrollIn(QScrollArea* area, QWidget* inside) {
    area->setWidget(inside);
    area->setWidgetResizable(true);
    area->setFrameShape(QFrame::NoFrame);
    area->setFocusPolicy(Qt::NoFocus);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->viewport()->setAutoFillBackground(false);
    inside->setAutoFillBackground(false);
    return area;
}

} // namespace

RulesPage::RulesPage(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), state_(session), occasions_(new OccasionList(state_)), view_(new RuleView(state_)),
      line_(new RuleLine(state_)), scenes_(new ScenePanel(state_)), outside_(new OutsidePanel(state_)),
      access_(new AccessPanel(state_)), columns_(new RowOrTabs(940)), side_(new RowOrTabs(RowOrTabs::never)),
      picker_(new GapPicker(state_, this)), scroll_(new QScrollArea), title_(new QLabel), commands_(commands) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 8, 12, 0);
    occasions_->setMinimumWidth(Theme::get().ipx(180));
    columns_->add("What happens", occasions_, 2);
    auto* middle = new QWidget;
    auto* m = new QVBoxLayout(middle);
    m->setContentsMargins(0, 0, 0, 8);
    m->addWidget(title_);
    scrollIn(scroll_, view_);
    m->addWidget(scroll_, 1);
    m->addWidget(line_);
    columns_->add("Rules", middle, 5);
    side_->add("Scenes", scenes_, 1);
    side_->add("Outside devices", scrollIn(new QScrollArea, outside_), 1);
    side_->add("From outside", scrollIn(new QScrollArea, access_), 1);
    columns_->add("Scenes and outside", side_, 3);
    box->addWidget(columns_, 1);
    // In a narrow window what was chosen is seen at once.
    connect(occasions_->list(), &QListWidget::itemActivated, this, [this] { columns_->show(1); });
    connect(occasions_->list(), &QListWidget::itemClicked, this, [this] { columns_->show(1); });
    picker_->raise();
    connect(view_, &RuleView::wantsGap, this, [this](const std::string& gap, const QRect& where) {
        picker_->open(gap, {view_->mapTo(this, where.topLeft()), where.size()});
    });
    connect(picker_, &GapPicker::left, view_, qOverload<>(&QWidget::setFocus));
    connect(view_, &RuleView::moved, this,
            [this](const QRect& to) { scroll_->ensureVisible(to.center().x(), to.center().y(), 0, to.height()); });
    connect(view_, &RuleView::wantsMenu, this, [this](const QPoint& at) {
        QMenu menu(this);
        for (const char* id : {"rules.fill", "rules.toggle", "rules.needs", "rules.again", "rules.lineUp",
                               "rules.lineDown", "rules.copy", "rules.remove"})
            commands_.addTo(menu, id);
        menu.exec(at);
    });
    connect(view_, &RuleView::wantsLine, this, [this](const QString& text) { line_->begin(text); });
    connect(line_, &RuleLine::wantsBack, view_, qOverload<>(&QWidget::setFocus));
    connect(outside_, &OutsidePanel::wants, this, [this](const QString& id) { commands_.run(id); });
    connect(access_, &AccessPanel::wants, this, [this](const QString& id) { commands_.run(id); });
    connect(scenes_, &ScenePanel::wants, this, [this](const QString& id) { commands_.run(id); });
    connect(&state_, &RulesState::changed, this, &RulesPage::refresh);
    connect(&Theme::get(), &Theme::changed, this, &RulesPage::refresh);
    refresh();
}

void RulesPage::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    state_.setSeen(true);
}

void RulesPage::hideEvent(QHideEvent* e) {
    QWidget::hideEvent(e);
    state_.setSeen(false);
}

void RulesPage::refresh() {
    title_->setFont(Theme::get().text(13, true));
    const auto n = state_.rules().size();
    title_->setText(
        QString("%1 <span style='font-weight:400;font-size:11px;color:%2'>%3</span>")
            .arg(state_.occasion() ? "When " + q(state_.occasion()->label).toHtmlEscaped() : QString("All rules"),
                 tokens().ink2.name(),
                 n == 0   ? QString("no rule")
                 : n == 1 ? QString("1 rule")
                          : QString("%1 rules, from top to bottom").arg(n)));
    title_->setWordWrap(true);
}

void RulesPage::show(Side side) {
    side_->show(static_cast<int>(side));
    columns_->show(2);
}

void RulesPage::askName() {
    const auto name = askOne(
        view_, state_.occasion() ? "A rule for when " + q(state_.occasion()->label) : QString("A rule"), {"Name"});
    if (name)
        state_.addRule(*name);
    line_->setFocus();
}

void RulesPage::openGap() {
    const auto* r = state_.rule();
    if (!r)
        return;
    if (state_.line().at < 0) {
        const auto where = view_->ruleRect(r->id);
        return picker_->open("name", {view_->mapTo(this, where.topLeft().toPoint()), QSize(200, Theme::get().ipx(32))});
    }
    if (state_.gap().empty())
        view_->moveAlong(1);
    const auto where = view_->gapRect(r->id, state_.line(), state_.gap());
    if (!where.isNull())
        picker_->open(state_.gap(), {view_->mapTo(this, where.topLeft().toPoint()), where.size().toSize()});
}

void RulesPage::cycle(const std::string& field) {
    const auto* r = state_.rule();
    if (!r)
        return;
    for (const auto& f : ruleFields(*r))
        if (f.id == field && !f.choices.empty()) {
            std::size_t at = 0;
            for (std::size_t i = 0; i < f.choices.size(); ++i)
                if (f.choices[i] == f.text)
                    at = i;
            state_.edit(setRuleField(r->id, field, f.choices[(at + 1) % f.choices.size()]));
        }
}

void RulesPage::askScene() {
    // What the scenes here set, else what the chosen rule does.
    std::set<std::string> paths;
    for (const auto* s : state_.scenes())
        for (const auto& [path, _] : s->values)
            paths.insert(path);
    if (paths.empty() && state_.rule())
        for (const auto* list : {&state_.rule()->then, &state_.rule()->otherwise})
            for (const auto& c : *list)
                if (findTarget(state_.project(), c["signal"]))
                    paths.insert(c["signal"]);
    const auto words = ask(
        scenes_, "A scene of what is set now",
        {{"Name"},
         {paths.empty() ? "Parameters that have all these words" : "And parameters that have all these words", ""}});
    if (!words || words->value(0).trimmed().isEmpty())
        return;
    const auto typed = words->value(1).trimmed();
    if (!typed.isEmpty())
        for (const auto& d : findDrives(state_.project(), typed.toStdString(), 400))
            if (isValue(d))
                paths.insert(d.path);
    state_.keepScene(words->value(0).trimmed(), {paths.begin(), paths.end()});
}

void RulesPage::askScript() {
    QStringList names{"A new one"};
    for (const auto& s : state_.project().scripts)
        names << q(s.name);
    const auto which =
        names.size() == 1 ? std::optional<std::size_t>(0) : askChoice(view_, "Scripts in Lua", "Write", names);
    if (!which)
        return;
    std::string id,
        text = "-- get(path), set(path, value, seconds), act(\"recall Film\"), wait(seconds), note(text), keep\n";
    if (*which > 0) {
        const auto& s = state_.project().scripts[*which - 1];
        id = s.id, text = s.text;
    }
    std::optional<QString> name;
    if (id.empty() && !(name = askOne(view_, "A script", {"Name"})))
        return;
    QDialog dialog(this);
    dialog.setObjectName("scriptDialog");
    dialog.setWindowTitle(id.empty() ? *name : names[static_cast<int>(*which)]);
    auto* box = new QVBoxLayout(&dialog);
    auto* edit = new QPlainTextEdit(q(text));
    edit->setObjectName("scriptText");
    edit->setFont(Theme::get().number(13));
    edit->setAccessibleName("The script");
    auto* wrong = new QLabel;
    wrong->setWordWrap(true);
    wrong->setStyleSheet(QString("color: %1").arg(tokens().fault.name()));
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Save | QDialogButtonBox::Cancel);
    box->addWidget(edit, 1);
    box->addWidget(wrong);
    box->addWidget(buttons);
    connect(edit, &QPlainTextEdit::textChanged, &dialog,
            [edit, wrong] { wrong->setText(q(scriptError(edit->toPlainText().toStdString()))); });
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    dialog.resize(Theme::get().ipx(640), Theme::get().ipx(420));
    if (dialog.exec() != QDialog::Accepted)
        return;
    const auto now = edit->toPlainText().toStdString();
    state_.edit(id.empty() ? addScript(state_.project(), name->toStdString(), now)
                           : setScript(state_.project(), id, now));
}

} // namespace loom::app
