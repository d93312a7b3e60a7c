#include "app/talk/talk_page.h"
#include "app/shell/ask.h"
#include "app/shell/command.h"
#include "app/shell/flow_layout.h"
#include "app/talk/mix_view.h"
#include "app/talk/mute_view.h"
#include "app/talk/talk_view.h"
#include "app/talk/whose_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "client/fleet.h"
#include "dsp/audio_file.h"
#include <QFileDialog>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace loom::app {

using project::Field;
using project::readNumber;

TalkPage::TalkPage(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), state_(session), view_(new TalkView(state_)), mixes_(new MixView(state_)),
      mutes_(new MuteView(state_)), whose_(new WhoseView(state_)), stack_(new QStackedWidget), commands_(commands),
      chips_(new QWidget), chipRow_(new FlowLayout), says_(new QLabel), first_(new QPushButton("First pass\u2026")),
      prove_(new QPushButton), mute_(new QPushButton), hear_(new QPushButton) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 6, 12, 0);
    box->setSpacing(6);
    auto* top = new QWidget;
    auto* row = new FlowLayout;
    top->setLayout(row);
    for (const auto& [name, id, command] :
         {std::tuple("Conversation", "talkConversation", "talk.conversation"),
          std::tuple("Mixes", "talkMixes", "talk.mixes"), std::tuple("Mute", "talkMute", "talk.mutes"),
          std::tuple("Whose is what", "talkWhose", "talk.whose")}) {
        auto* tab = new QPushButton(name);
        tab->setCheckable(true);
        tab->setObjectName(id);
        connect(tab, &QPushButton::clicked, this, [&commands, c = QString(command)] { commands.run(c); });
        tabs_.push_back(tab);
        row->addWidget(tab);
    }
    chips_->setLayout(chipRow_);
    first_->setObjectName("talkFirstPass");
    prove_->setObjectName("talkProve");
    prove_->setProperty("main", true);
    mute_->setObjectName("talkMuteNow");
    hear_->setObjectName("talkHear");
    for (auto* w : std::initializer_list<QWidget*>{says_, chips_, mute_, hear_, first_, prove_})
        row->addWidget(w);
    box->addWidget(top);
    for (QWidget* one : std::initializer_list<QWidget*>{view_, mixes_, mutes_, whose_}) {
        auto* scroll = new QScrollArea;
        scroll->setWidget(one);
        scroll->setWidgetResizable(true);
        scroll->setFrameShape(QFrame::NoFrame);
        scroll->setFocusPolicy(Qt::NoFocus);
        stack_->addWidget(scroll);
    }
    box->addWidget(stack_, 1);
    connect(first_, &QPushButton::clicked, this, [&commands] { commands.run("talk.firstPass"); });
    connect(prove_, &QPushButton::clicked, this,
            [this, &commands] { commands.run(state_.proving() ? "talk.stop" : "talk.prove"); });
    connect(mute_, &QPushButton::clicked, this, [&commands] { commands.run("talk.mute"); });
    connect(hear_, &QPushButton::clicked, this, [&commands] { commands.run("talk.hear"); });
    const auto menu = [this](auto* of, std::vector<const char*> ids) {
        connect(of, &std::remove_pointer_t<decltype(of)>::wantsMenu, this, [this, ids](const QPoint& at) {
            QMenu all(this);
            for (const char* id : ids)
                commands_.addTo(all, id);
            all.exec(at);
        });
    };
    menu(view_,
         {"talk.group", "talk.firstPass", "talk.allRooms", "talk.prove", "talk.hear", "talk.save", "talk.telephone"});
    menu(mixes_, {"talk.cross", "talk.level", "talk.louder", "talk.quieter"});
    menu(mutes_, {"talk.mute", "talk.cut"});
    menu(whose_, {"talk.give", "talk.latch"});
    connect(&state_, &TalkState::changed, this, &TalkPage::refresh);
    connect(&state_, &TalkState::moved, this, &TalkPage::refresh);
    connect(&player_, &FarPlayer::changed, this, &TalkPage::refresh);
    connect(&Theme::get(), &Theme::changed, this, [this] {
        shownChips_.clear();
        refresh();
    });
    refresh();
}

void TalkPage::show(View view) {
    stack_->setCurrentIndex(static_cast<int>(view));
    refresh();
    focusView();
}

TalkPage::View TalkPage::shown() const {
    return static_cast<View>(stack_->currentIndex());
}

void TalkPage::focusView() {
    QWidget* const all[] = {view_, mixes_, mutes_, whose_};
    all[stack_->currentIndex()]->setFocus();
}

void TalkPage::hear() {
    if (player_.playing())
        return player_.stop();
    auto& bench = state_.session().bench();
    if (view_->live()) { // what it is sent now
        for (const auto& f : state_.talk().farEnds)
            if (const auto* d = state_.session().device(); d && f.device == d->id && !f.destination.empty()) {
                const engine::PortRef at{f.destination, 0};
                const bool was = bench.listening() == at;
                if (const auto why = bench.listen(was ? std::nullopt : std::optional(at)); !why.isEmpty())
                    state_.session().report(why);
                return refresh();
            }
    }
    const auto* proof = state_.proof();
    if (!proof)
        return;
    if (const auto why = player_.play(proof->sent, "what the far end is sent"); !why.isEmpty())
        state_.session().report(why);
}

void TalkPage::hearBefore(bool before) {
    const auto& which = before ? state_.before() : state_.after();
    if (!which)
        return;
    const QString what = before ? "before" : "after";
    if (player_.what() == what)
        return player_.stop();
    if (const auto why = player_.play(which->sent, what); !why.isEmpty())
        state_.session().report(why);
}

void TalkPage::askLevel() {
    const auto text = askOne(mixes_, mixes_->words(), {"Level in dB"});
    if (!text)
        return;
    Field f{"level", "Level", "dB", 0, -80, 12, 1};
    const auto db = readNumber(f, text->toStdString());
    db ? mixes_->setLevel(*db) : state_.session().report(db.error());
}

void TalkPage::askOwner() {
    QStringList names;
    for (const auto& owner : whose_->owners())
        names << whose_->columnName(owner);
    if (const auto which = askChoice(whose_, "Whose is it", "Give it to", names))
        whose_->give(whose_->owners()[*which]);
}

void TalkPage::askLatch() {
    const auto contact = whose_->contact();
    if (!contact)
        return;
    QStringList names{"Nothing"};
    std::vector<std::string> ids{""};
    for (const auto& b : state_.project().buildings)
        for (const auto& w : b.walls)
            names << q(w.name), ids.push_back(w.id);
    if (const auto which = askChoice(whose_, q(contact->second), "The latch of", names))
        state_.edit(project::setLatch(state_.project(), contact->first, contact->second, ids[*which]));
}

void TalkPage::askNumber(bool keys) {
    const auto text = askOne(view_, keys ? "Keys to send" : "Number to dial", {keys ? "Digits, * and #" : "Number"});
    if (text)
        state_.call(keys ? "keys" : "dial", text->toStdString());
}

void TalkPage::askSecret() {
    const auto* line = state_.line();
    if (!line)
        return;
    const auto text = askOne(view_, "Secret of the line's account: it is kept in the device alone", {"Secret"}, true);
    if (text)
        state_.session().fleet()->setLineSecret(line->device, text->toStdString());
}

void TalkPage::telephone() {
    QMenu menu(this);
    for (const char* id :
         {"talk.dial", "talk.answer", "talk.hold", "talk.resume", "talk.keys", "talk.hangUp", "talk.secret"})
        commands_.addTo(menu, id);
    menu.exec(mapToGlobal(rect().center()));
}

void TalkPage::beat() {
    if (view_->live())
        view_->update();
}

QString TalkPage::nothingShown() const {
    return const_cast<TalkPage*>(this)->state_.proof() ? QString() : "Run it first: What the far end gets.";
}

void TalkPage::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    refresh();
}

void TalkPage::refresh() {
    if (!isVisible())
        return;
    const auto& here = state_.space();
    const auto& c = state_.talk();
    const auto n = c.microphones.size();
    says_->setText(here.key.empty() ? QString()
                                    : QString("%1 in %2 \u00b7 %3")
                                          .arg(n == 1 ? QString("1 microphone") : QString("%1 microphones").arg(n),
                                               c.groups.empty()       ? QString("no group")
                                               : c.groups.size() == 1 ? QString("one group")
                                                                      : QString("%1 groups").arg(c.groups.size()),
                                               c.farEnds.size() == 1 ? QString("1 far end")
                                                                     : QString("%1 far ends").arg(c.farEnds.size())));
    says_->updateGeometry();
    if (auto* row = says_->parentWidget()->layout()) {
        row->invalidate();
        row->activate();
    }
    for (std::size_t i = 0; i < tabs_.size(); ++i)
        tabs_[i]->setChecked(static_cast<int>(i) == stack_->currentIndex());
    const bool conversation = shown() == View::conversation, mute = shown() == View::mute;
    const auto muted = mute ? state_.mutedNow() : std::nullopt;
    mute_->setVisible(mute && !here.key.empty());
    mute_->setText(muted && *muted ? "Live again" : "Mute now");
    const bool listening = view_->live() && state_.session().bench().listening().has_value();
    hear_->setVisible(conversation && (state_.proof() || view_->live()));
    hear_->setText(player_.playing() || listening ? "Stop" : "Hear it as the far end");
    prove_->setText(state_.proving() ? QString("Cancel (%1 %)").arg(100 * state_.progress(), 0, 'f', 0)
                                     : QString("What the far end gets"));
    for (auto* b : {first_, prove_})
        b->setVisible(conversation && !here.key.empty());
    chips_->setVisible(shown() != View::whose);
    QString chips;
    for (const auto& one : state_.choices()) // single rooms are chosen in the top bar
        if (one.key.find('+') != std::string::npos)
            chips += q(one.name + "|" + one.state) + (one == here ? "*;" : ";");
    if (std::exchange(shownChips_, chips) == chips)
        return;
    while (auto* item = chipRow_->takeAt(0)) {
        item->widget()->deleteLater();
        delete item;
    }
    for (const auto& one : state_.choices()) {
        if (one.key.find('+') == std::string::npos)
            continue;
        auto* b = new QPushButton(q(one.name));
        b->setCheckable(true);
        b->setChecked(one == here);
        b->setObjectName("talkSpace " + q(one.key));
        connect(b, &QPushButton::clicked, this, [this, one] {
            shownChips_.clear();
            state_.choose(one.key, one.state);
            refresh();
        });
        chipRow_->addWidget(b);
        b->show();
    }
    chips_->updateGeometry();
}

void TalkPage::saveFarEnd() {
    const auto* proof = state_.proof();
    if (!proof)
        return;
    const auto path = QFileDialog::getSaveFileName(this, "What the far end was sent", "far-end.wav", "WAV (*.wav)");
    if (path.isEmpty())
        return;
    dsp::AudioClip clip;
    clip.rate = 48000;
    clip.channels = {proof->sent};
    std::string error;
    dsp::writeWav(path.toStdString(), clip, error) ? state_.session().report("Saved " + path + ".", false)
                                                   : state_.session().report(q(error));
}

} // namespace loom::app
