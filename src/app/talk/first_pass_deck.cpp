#include "app/talk/first_pass_deck.h"
#include "app/field_form.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "talk/talk_fields.h"
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

namespace loom::app {

using project::setTalkField;
using project::talkFields;

FirstPassDeck::FirstPassDeck(TalkState& state, QWidget* parent)
    : QWidget(parent), state_(state), title_(new QLabel), words_(new QLabel), rest_(new QLabel), list_(new QTreeWidget),
      take_(new QPushButton), drop_(new QPushButton("Not now")), compare_(new QPushButton), before_(new QPushButton),
      after_(new QPushButton) {
    setObjectName("talkDeck");
    setAccessibleName("Deck: what a first pass proposes");
    setAutoFillBackground(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 6, 12, 6);
    auto* head = new QHBoxLayout;
    head->addWidget(title_);
    words_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    head->addWidget(words_, 1);
    for (auto* b : {compare_, before_, after_, take_, drop_})
        head->addWidget(b);
    box->addLayout(head);
    take_->setObjectName("firstPassTake");
    take_->setProperty("main", true);
    drop_->setObjectName("firstPassDrop");
    list_->setObjectName("firstPassList");
    list_->setAccessibleName("Proposals");
    list_->setRootIsDecorated(false);
    list_->setIndentation(0);
    list_->setColumnCount(3);
    list_->setHeaderHidden(true);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(1, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(2, QHeaderView::ResizeToContents);
    list_->header()->setStretchLastSection(false);
    box->addWidget(list_, 1);
    form_ = new FieldForm([this] { return talkFields(state_.project(), state_.talk(), group(), state_.microphone()); },
                          [this](const std::string& field, const std::string& value) {
                              return state_.edit(setTalkField(state_.project(), state_.talk(), group(),
                                                              state_.microphone(), field, value));
                          });
    form_->setObjectName("talkFields");
    form_->setMaximumWidth(Theme::get().ipx(620));
    box->addWidget(form_, 1);
    box->addStretch();
    rest_->setWordWrap(true);
    box->addWidget(rest_);
    connect(list_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item, int) {
        if (!filling_)
            state_.tick(item->data(0, Qt::UserRole).toString().toStdString(), item->checkState(0) == Qt::Checked);
    });
    connect(take_, &QPushButton::clicked, this, [this] { emit wants("talk.take"); });
    compare_->setObjectName("firstPassCompare");
    before_->setObjectName("firstPassBefore");
    after_->setObjectName("firstPassAfter");
    connect(compare_, &QPushButton::clicked, this,
            [this] { state_.comparing() ? state_.stopComparing() : void(emit wants("talk.compare")); });
    connect(before_, &QPushButton::clicked, this, [this] { emit wants("talk.before"); });
    connect(after_, &QPushButton::clicked, this, [this] { emit wants("talk.after"); });
    connect(&state_, &TalkState::moved, this, [this] { state_.planning() ? refresh() : refreshButtons(); });
    connect(drop_, &QPushButton::clicked, &state_, &TalkState::dropPlan);
    connect(&state_, &TalkState::changed, this, &FirstPassDeck::refresh);
    connect(&Theme::get(), &Theme::changed, this, &FirstPassDeck::refresh);
    refresh();
}

int FirstPassDeck::group() const {
    const auto& c = state_.talk();
    const int m = state_.microphone();
    if (m >= 0 && m < static_cast<int>(c.microphones.size()) && c.microphones[static_cast<std::size_t>(m)].group >= 0)
        return c.microphones[static_cast<std::size_t>(m)].group;
    return c.groups.empty() ? -1 : 0;
}

void FirstPassDeck::sayPlaying(const QString& what) {
    playing_ = what;
    refreshButtons();
}

// What the far end gets before and after, in a figure and to be heard.
void FirstPassDeck::refreshButtons() {
    const auto& pass = state_.pass();
    const bool any = pass && !pass->proposals.empty();
    compare_->setVisible(any);
    compare_->setText(state_.comparing() ? QString("Cancel (%1 %)").arg(100 * state_.progress(), 0, 'f', 0)
                                         : QString("Compare before and after"));
    compare_->setEnabled(state_.comparing() || state_.tickedCount() > 0);
    const auto say = [&](QPushButton* b, const std::optional<TalkState::Heard>& heard, const QString& word) {
        b->setVisible(any && heard);
        if (!heard)
            return;
        const auto echo = heard->figures.find("echo");
        const QString figure =
            echo == heard->figures.end()
                ? QString()
                : QString(", echo %1 dB").arg(QString::number(echo->second, 'f', 0).replace('-', QChar(0x2212)));
        b->setText(playing_ == word ? QString("Stop") : QString("Hear %1%2").arg(word, figure));
    };
    say(before_, state_.before(), "before");
    say(after_, state_.after(), "after");
}

void FirstPassDeck::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    refresh();
}

void FirstPassDeck::refresh() {
    if (!isVisible())
        return;
    filling_ = true;
    QPalette pal = palette();
    pal.setColor(QPalette::Window, tokens().linen);
    setPalette(pal);
    const auto& pass = state_.pass();
    title_->setFont(Theme::get().text(13, true));
    const bool any = pass && !pass->proposals.empty();
    const auto& passes = state_.passes();
    if (state_.planning()) {
        title_->setText("First pass");
        words_->setText("working out what is missing \u2026 " + state_.planned());
    } else if (passes) {
        title_->setText("First pass of all rooms");
        words_->setText(passes->proposals == 0
                            ? QString("Nothing is left to propose.")
                            : QString("%1 proposals in %2 rooms. Nothing is changed yet; %3 were set by hand and stay.")
                                  .arg(passes->proposals)
                                  .arg(passes->spaces)
                                  .arg(passes->byHand));
    } else if (!pass) {
        title_->setText("First pass");
        words_->setText(
            "Press First pass to see what this room still needs for a call. Nothing is changed by looking.");
    } else if (!any) {
        title_->setText(QString("First pass of %1").arg(q(pass->name)));
        words_->setText("Nothing is left to propose.");
    } else {
        title_->setText(QString("First pass: %1 for %2")
                            .arg(pass->proposals.size() == 1 ? QString("one proposal")
                                                             : QString("%1 proposals").arg(pass->proposals.size()),
                                 q(pass->name)));
        words_->setText("Nothing is changed yet. What was set by hand is not ticked.");
    }
    const bool everywhere = passes && passes->proposals > 0;
    take_->setVisible(any || everywhere);
    drop_->setVisible(pass || passes || state_.planning());
    drop_->setText(state_.planning() ? "Cancel" : "Not now");
    const auto n = everywhere ? passes->proposals : state_.tickedCount();
    take_->setText(everywhere ? QString("Do all %1").arg(n) : QString("Do the %1 ticked").arg(n));
    take_->setEnabled(n > 0);
    list_->setVisible(any);
    const bool fields = !pass && !passes && !state_.planning();
    form_->setVisible(fields);
    if (fields) {
        const int g = group(), m = state_.microphone();
        const auto& c = state_.talk();
        if (g >= 0 || m >= 0) {
            title_->setText(g >= 0 ? q(c.groups[static_cast<std::size_t>(g)].name)
                                   : q(c.microphones[static_cast<std::size_t>(m)].name));
            words_->setText(m >= 0 && g >= 0 ? "and " + q(c.microphones[static_cast<std::size_t>(m)].name) +
                                                   ". First pass proposes what this room still needs."
                                             : QString("First pass proposes what this room still needs."));
        }
        form_->refresh();
    }
    refreshButtons();
    // The same proposals keep their place; only ticks move.
    QStringList ids, now;
    if (any)
        for (const auto& one : pass->proposals)
            ids += q(one.id);
    for (int i = 0; i < list_->topLevelItemCount(); ++i)
        now += list_->topLevelItem(i)->data(0, Qt::UserRole).toString();
    if (ids != now) {
        list_->clear();
        for (int i = 0; i < ids.size(); ++i) {
            const auto& one = pass->proposals[static_cast<std::size_t>(i)];
            auto* item = new QTreeWidgetItem(list_);
            item->setData(0, Qt::UserRole, ids[i]);
            item->setText(0, q(one.text));
            item->setText(1, q(one.reason));
            item->setText(2, one.byHand ? "by hand" : q(one.extent));
            for (int column = 0; column < 2; ++column)
                item->setToolTip(column, item->text(column));
            if (one.byHand)
                item->setForeground(2, tokens().caution);
            item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        }
        if (list_->topLevelItemCount() > 0)
            list_->setCurrentItem(list_->topLevelItem(0));
    }
    for (int i = 0; i < list_->topLevelItemCount(); ++i)
        list_->topLevelItem(i)->setCheckState(0, state_.ticked(ids[i].toStdString()) ? Qt::Checked : Qt::Unchecked);
    QStringList cannot;
    for (const auto& why : pass ? pass->cannot : passes ? passes->cannot : std::vector<std::string>{})
        cannot += q(why);
    if (cannot.size() > 5)
        cannot = cannot.mid(0, 5) + QStringList{QString("and %1 more").arg(cannot.size() - 5)};
    rest_->setText(cannot.join("\n"));
    rest_->setVisible(!cannot.isEmpty());
    filling_ = false;
}

} // namespace loom::app
