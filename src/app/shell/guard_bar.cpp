#include "app/shell/guard_bar.h"
#include "app/theme/theme.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

namespace loom::app {

GuardBar::GuardBar(Session& session, QWidget* parent) : QFrame(parent), session_(session), text_(new QLabel) {
    setObjectName("guard");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(16, 6, 12, 6);
    text_->setWordWrap(true);
    row->addWidget(text_, 1);
    auto* leave = new QPushButton("Leave it");
    leave->setObjectName("guard.leave");
    auto* change = new QPushButton("Change it all the same   Alt+\u21b5");
    change->setObjectName("guard.change");
    row->addWidget(leave);
    row->addWidget(change);
    connect(leave, &QPushButton::clicked, this, &QWidget::hide);
    connect(change, &QPushButton::clicked, this, &GuardBar::changeAnyway);
    connect(&session, &Session::asked, this, &GuardBar::ask);
    connect(&session, &Session::chosen, this, &QWidget::hide);
    connect(&session, &Session::changed, this, &QWidget::hide);
    connect(&session, &Session::surfacesChanged, this, &QWidget::hide);
    hide();
}

void GuardBar::ask(const QString& what, const QString& why) {
    setStyleSheet(QString("#guard { background: %1; } #guard QLabel { background: transparent; }")
                      .arg(tokens().saffronTint.name()));
    text_->setText(QString("<b>%1</b> %2").arg(what.toHtmlEscaped(), why.toHtmlEscaped()));
    show();
}

void GuardBar::changeAnyway() {
    hide();
    session_.editAnyway();
}

} // namespace loom::app
