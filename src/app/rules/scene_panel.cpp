#include "app/rules/scene_panel.h"
#include "app/field_form.h"
#include "app/rules/scene_table.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/number.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

using namespace project;

ScenePanel::ScenePanel(RulesState& state, QWidget* parent)
    : QWidget(parent), state_(state), title_(new QLabel), hint_(new QLabel), figuresTitle_(new QLabel),
      figures_(new QLabel), table_(new SceneTable(state)) {
    fields_ = new FieldForm(
        [this] {
            std::vector<Field> some;
            if (const auto* s = state_.scene())
                for (const auto& f : sceneFields(*s))
                    if (f.id != "room")
                        some.push_back(f);
            return some;
        },
        [this](const std::string& field, const std::string& value) {
            const auto* s = state_.scene();
            return s && state_.edit(setSceneField(s->id, field, value));
        });
    fields_->setObjectName("sceneFields");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 8);
    box->addWidget(title_);
    box->addWidget(table_, 3);
    box->addWidget(hint_);
    auto* row = new QHBoxLayout;
    for (const auto& [text, id, command] : {std::tuple("Keep now as a scene\u2026", "keepScene", "rules.keepScene"),
                                            std::tuple("Recall", "recallScene", "rules.recall")}) {
        auto* b = new QPushButton(text);
        b->setObjectName(id);
        connect(b, &QPushButton::clicked, this, [this, c = QString(command)] { emit wants(c); });
        row->addWidget(b);
    }
    box->addLayout(row);
    box->addWidget(fields_, 2);
    box->addWidget(figuresTitle_);
    box->addWidget(figures_);
    hint_->setWordWrap(true);
    figures_->setWordWrap(true);
    figures_->setObjectName("sceneFigures");
    connect(&state, &RulesState::changed, this, &ScenePanel::refresh);
    connect(&state, &RulesState::chosenChanged, this, &ScenePanel::refresh);
    connect(&Theme::get(), &Theme::changed, this, &ScenePanel::refresh);
    refresh();
}

void ScenePanel::refresh() {
    const auto* room = state_.project().room(state_.room());
    title_->setFont(Theme::get().text(13, true));
    title_->setText(room ? QString("Scenes of %1").arg(q(room->name)) : QString("Scenes"));
    const bool any = !state_.scenes().empty();
    table_->setVisible(any);
    fields_->setVisible(state_.scene());
    fields_->refresh();
    hint_->setFont(Theme::get().text(11));
    hint_->setText(
        any ? "Coloured: differs from now. Type a value; Del leaves the parameter alone."
            : "A scene keeps what several parameters are set to, and sets them together. There is none here yet.");
    figuresTitle_->setFont(Theme::get().text(13, true));
    figuresTitle_->setText("What it does to the room");
    const auto& f = state_.figures();
    QStringList lines;
    if (f && !f->space.empty()) {
        if (f->level)
            lines << QString("level at the seats <b>%1</b>")
                         .arg(q(f->levelThen ? print("%.1f \u2192 %.1f dB(A)", *f->level, *f->levelThen)
                                             : std::string("silent")));
        if (f->spare && f->spareThen) {
            const bool bad = *f->spareThen < 0;
            lines << QString("gain before feedback, spare <span style='color:%1'><b>%2</b></span>")
                         .arg((bad ? tokens().fault : tokens().ok).name(),
                              q(print("%+.1f \u2192 %+.1f dB", *f->spare, *f->spareThen)));
        }
    }
    constexpr std::size_t mostTwice = 3;
    for (std::size_t i = 0; f && i < f->twice.size() && i < mostTwice; ++i) {
        const auto& t = f->twice[i];
        lines << QString("<b>%1</b> is heard twice: over %2, and %3 dB lower over %4")
                     .arg(q(t.talker).toHtmlEscaped(), q(t.first).toHtmlEscaped())
                     .arg(t.lower, 0, 'f', 1)
                     .arg(q(t.second).toHtmlEscaped());
    }
    if (f && f->twice.size() > mostTwice)
        lines << QString("and %1 more are").arg(f->twice.size() - mostTwice);
    figuresTitle_->setVisible(!lines.isEmpty());
    figures_->setText(lines.join("<br>"));
}

} // namespace loom::app
