#include "app/shell/first_steps.h"
#include "app/shell/command.h"
#include "app/theme/theme.h"
#include <QEvent>
#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>

namespace loom::app {

FirstSteps::FirstSteps(Commands& commands, QWidget* over)
    : QFrame(over), commands_(commands), title_(new QLabel), why_(new QLabel) {
    setObjectName("firstSteps");
    setAccessibleName("First steps");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(20, 16, 20, 18);
    box->setSpacing(8);
    box->addWidget(title_);
    box->addWidget(why_);
    why_->setWordWrap(true);
    over->installEventFilter(this);
    hide();
}

void FirstSteps::offer(const QString& stage, const QString& why, const QStringList& steps) {
    if (why.isEmpty() || taken_ == stage)
        return hide();
    const QString made = stage + why + steps.join(' ') + QString::number(Theme::get().percent()) + tokens().card.name();
    if (made != shown_) {
        shown_ = made;
        setStyleSheet(QString("#firstSteps { background: %1; border: 1px solid %2; border-radius: 10px; } #firstSteps "
                              "QLabel { background: transparent; }")
                          .arg(tokens().card.name(), tokens().hair.name()));
        title_->setText(stage);
        title_->setStyleSheet(QString("font-weight: bold; font-size: %1px").arg(Theme::get().ipx(16)));
        why_->setText(why);
        why_->setStyleSheet("color: " + tokens().ink2.name());
        delete buttons_;
        layout()->addWidget(buttons_ = new QWidget);
        auto* box = new QVBoxLayout(buttons_);
        box->setContentsMargins(0, 6, 0, 0);
        for (const auto& id : steps) {
            const auto* command = commands_.find(id);
            if (!command || (command->hindered && !command->hindered().isEmpty()))
                continue;
            const QString keys = keysText(*command);
            auto* b = new QPushButton(keys.isEmpty() ? command->text : command->text + "   " + keys);
            b->setObjectName("step." + id);
            b->setProperty("main", box->isEmpty());
            connect(b, &QPushButton::clicked, this, [this, id, stage] {
                goAway(stage);
                commands_.run(id);
            });
            box->addWidget(b);
        }
    }
    show();
    raise();
    lie();
    QTimer::singleShot(0, this, &FirstSteps::lie); // once its buttons know how high they are
}

void FirstSteps::lie() {
    const int wide = qMin(Theme::get().ipx(340), parentWidget()->width() - 16);
    setFixedWidth(wide);
    layout()->activate();
    resize(wide, qMax(layout()->totalHeightForWidth(wide), layout()->totalMinimumSize().height()));
    move((parentWidget()->width() - width()) / 2, qMax(8, (parentWidget()->height() - height()) / 2));
}

bool FirstSteps::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() == QEvent::Resize || e->type() == QEvent::Show)
        QTimer::singleShot(0, this, &FirstSteps::lie);
    return QFrame::eventFilter(watched, e);
}

} // namespace loom::app
