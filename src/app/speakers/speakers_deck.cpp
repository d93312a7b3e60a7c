#include "app/speakers/speakers_deck.h"
#include "app/field_form.h"
#include "app/speakers/voicing_plot.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

namespace loom::app {

SpeakersDeck::SpeakersDeck(SpeakersState& state, QWidget* parent)
    : QWidget(parent), state_(state), title_(new QLabel), reach_(new QLabel), row_(new QHBoxLayout) {
    setObjectName("speakersDeck");
    setAccessibleName("Deck: fields of the voicing and its ways");
    setAutoFillBackground(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 4, 12, 4);
    auto* head = new QHBoxLayout;
    head->addWidget(title_);
    reach_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    head->addWidget(reach_, 1);
    reach_->setObjectName("deckReach");
    box->addLayout(head);
    box->addLayout(row_, 1);
    connect(&state, &SpeakersState::changed, this, &SpeakersDeck::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SpeakersDeck::refresh);
    refresh();
}

void SpeakersDeck::takeFocus() {
    if (!forms_.empty())
        forms_.front()->takeFocus();
}

void SpeakersDeck::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    refresh();
}

void SpeakersDeck::refresh() {
    if (!isVisible()) // it is filled when it is shown
        return;
    QPalette pal = palette();
    pal.setColor(QPalette::Window, tokens().linen);
    setPalette(pal);
    const auto* v = state_.voicing();
    title_->setStyleSheet(QString("font-weight: bold; font-size: %1px; padding-right: 8px").arg(Theme::get().ipx(13)));
    reach_->setStyleSheet("color: " + tokens().ink2.name());
    title_->setText(v ? q(v->name) : QString("Speakers"));
    reach_->setText(v ? state_.reachText() : QString("A voicing's fields stand here once there is one."));
    const std::size_t wanted = v ? v->ways.size() + 1 : 0;
    while (columns_.size() > wanted) {
        columns_.back()->deleteLater();
        columns_.pop_back();
        forms_.pop_back();
    }
    while (columns_.size() < wanted) {
        const int way = static_cast<int>(columns_.size()) - 1;
        auto* column = new QWidget;
        auto* box = new QVBoxLayout(column);
        box->setContentsMargins(0, 0, 0, 0);
        box->setSpacing(2);
        auto* name = new QLabel;
        name->setObjectName("wayName");
        auto* form = new FieldForm(
            [this, way] {
                return state_.voicing() ? project::fieldsOf(*state_.voicing(), way) : std::vector<project::Field>{};
            },
            [this, way](const std::string& field, const std::string& value) {
                return state_.setField(way, field, value);
            });
        form->setObjectName(QString("way.%1").arg(way + 1));
        connect(form, &FieldForm::wantsBack, this, &SpeakersDeck::wantsBack);
        box->addWidget(name);
        box->addWidget(form, 1);
        column->setSizePolicy(QSizePolicy::Ignored,
                              QSizePolicy::Preferred); // the window may be narrower than they like
        row_->addWidget(column, 1);
        columns_.push_back(column);
        forms_.push_back(form);
    }
    for (std::size_t i = 0; i < columns_.size(); ++i) {
        auto* name = columns_[i]->findChild<QLabel*>("wayName");
        name->setText(i == 0 ? QString("Whole loudspeaker") : q(v->ways[i - 1].name));
        name->setStyleSheet(
            QString("font-weight: bold; border-bottom: 2px solid %1")
                .arg((i == 0 || v->ways.size() == 1 ? tokens().ink : colourOfWay(static_cast<int>(i) - 1)).name()));
        forms_[i]->refresh();
    }
}

} // namespace loom::app
