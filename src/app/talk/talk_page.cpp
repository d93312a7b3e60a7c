#include "app/talk/talk_page.h"
#include "app/shell/command.h"
#include "app/shell/flow_layout.h"
#include "app/talk/talk_view.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/audio_file.h"
#include <QFileDialog>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace loom::app {

TalkPage::TalkPage(Session& session, Commands& commands, QWidget* parent)
    : QWidget(parent), state_(session), view_(new TalkView(state_)), chips_(new QWidget), chipRow_(new FlowLayout),
      says_(new QLabel), first_(new QPushButton("First pass\u2026")), prove_(new QPushButton) {
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 6, 12, 0);
    box->setSpacing(6);
    auto* top = new QWidget;
    auto* row = new FlowLayout;
    top->setLayout(row);
    chips_->setLayout(chipRow_);
    first_->setObjectName("talkFirstPass");
    prove_->setObjectName("talkProve");
    prove_->setProperty("main", true);
    for (auto* w : std::initializer_list<QWidget*>{says_, chips_, first_, prove_})
        row->addWidget(w);
    box->addWidget(top);
    auto* scroll = new QScrollArea;
    scroll->setWidget(view_);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    box->addWidget(scroll, 1);
    connect(first_, &QPushButton::clicked, this, [&commands] { commands.run("talk.firstPass"); });
    connect(prove_, &QPushButton::clicked, this,
            [this, &commands] { commands.run(state_.proving() ? "talk.stop" : "talk.prove"); });
    connect(view_, &TalkView::wantsMenu, this, [this, &commands](const QPoint& at) {
        QMenu menu(this);
        for (const char* id : {"talk.firstPass", "talk.prove", "talk.save"})
            commands.addTo(menu, id);
        menu.exec(at);
    });
    connect(&state_, &TalkState::changed, this, &TalkPage::refresh);
    connect(&state_, &TalkState::moved, this, &TalkPage::refresh);
    connect(&Theme::get(), &Theme::changed, this, [this] {
        shownChips_.clear();
        refresh();
    });
    refresh();
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
    says_->setText(here.key.empty()
                       ? QString()
                       : "<b>" + q(here.name).toHtmlEscaped() + "</b>" +
                             QString(" · %1 in %2 \u00b7 %3")
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
    prove_->setText(state_.proving() ? QString("Cancel (%1 %)").arg(100 * state_.progress(), 0, 'f', 0)
                                     : QString("What the far end gets"));
    for (auto* b : {first_, prove_})
        b->setVisible(!here.key.empty());
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
