#include "app/shell/findings_panel.h"
#include "app/shell/choice_box.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

FindingsPanel::FindingsPanel(Session& session, QWidget* parent)
    : QFrame(parent), session_(session), title_(new QLabel), room_(new ChoiceBox), stage_(new ChoiceBox),
      list_(new QListWidget), because_(new QLineEdit), leave_(new QPushButton),
      go_(new QPushButton("Go there  \u21b5")) {
    setObjectName("findings");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 8, 12, 8);
    auto* head = new QHBoxLayout;
    head->addWidget(title_, 1);
    auto* close = new QPushButton("\u2715");
    close->setAccessibleName("Close the findings");
    close->setToolTip("Close  Ctrl+J");
    head->addWidget(close);
    box->addLayout(head);
    auto* filters = new QHBoxLayout;
    filters->addWidget(room_, 1);
    filters->addWidget(stage_, 1);
    box->addLayout(filters);
    box->addWidget(list_, 1);
    because_->setPlaceholderText("Leave it, because \u2026");
    because_->setAccessibleName("Reason to leave the finding as it is");
    because_->setMaxLength(2000);
    box->addWidget(because_);
    auto* foot = new QHBoxLayout;
    foot->addWidget(leave_);
    foot->addStretch(1);
    foot->addWidget(go_);
    box->addLayout(foot);
    room_->setAccessibleName("Findings of which room");
    stage_->setAccessibleName("Findings of which stage");
    list_->setAccessibleName("Findings");
    list_->setWordWrap(true);
    list_->setTextElideMode(Qt::ElideNone);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setSpacing(3);
    go_->setProperty("main", true);
    connect(close, &QPushButton::clicked, this, &FindingsPanel::wantsBack);
    connect(room_, &QComboBox::activated, this, &FindingsPanel::fill);
    connect(stage_, &QComboBox::activated, this, &FindingsPanel::fill);
    connect(list_, &QListWidget::currentRowChanged, this, &FindingsPanel::noteChoice);
    const auto go = [this] {
        if (const auto* f = chosen())
            emit wantsPlace({q(f->stage()), f->device, f->block});
    };
    connect(list_, &QListWidget::itemActivated, this, go);
    connect(go_, &QPushButton::clicked, this, go);
    connect(leave_, &QPushButton::clicked, this, &FindingsPanel::leave);
    connect(because_, &QLineEdit::returnPressed, this, &FindingsPanel::leave);
    hide();
}

void FindingsPanel::show(const std::vector<project::Finding>& found) {
    found_ = found;
    using Name = std::function<std::string(const project::Finding&)>;
    for (const auto& [box, all, name] : {std::tuple{room_, "All rooms", Name(&project::Finding::room)},
                                         std::tuple{stage_, "All stages", Name(&project::Finding::stage)}}) {
        const QString was = box->currentText();
        QStringList there;
        for (const auto& f : found_)
            if (!there.contains(q(name(f))))
                there << q(name(f));
        there.sort();
        box->clear();
        box->addItem(all);
        box->addItems(there);
        box->setCurrentIndex(qMax(0, box->findText(was)));
    }
    fill();
}

void FindingsPanel::fill() {
    const int was = list_->currentRow();
    setStyleSheet(QString("#findings { background: %1; border-left: 1px solid %2; }")
                      .arg(tokens().sheet.name(), tokens().hair.name()));
    setFixedWidth(qMin(Theme::get().ipx(330), window()->width() * 45 / 100));
    list_->clear();
    int fix = 0, note = 0;
    for (const bool left : {false, true})
        for (const auto severity : {project::Severity::fix, project::Severity::note})
            for (std::size_t i = 0; i < found_.size(); ++i) {
                const auto& f = found_[i];
                if (f.dismissed() != left || f.severity() != severity)
                    continue;
                if (!left)
                    (severity == project::Severity::fix ? fix : note)++;
                if ((room_->currentIndex() > 0 && q(f.room) != room_->currentText()) ||
                    (stage_->currentIndex() > 0 && q(f.stage()) != stage_->currentText()))
                    continue;
                const QString word = left ? "Left" : severity == project::Severity::fix ? "Fix" : "Note";
                auto* item = new QListWidgetItem(word + " \u00b7 " + q(f.place) + "\n" + q(f.reason) + " " +
                                                     (left ? "Left, because: " + q(f.because) : q(f.remedy)),
                                                 list_);
                item->setData(Qt::UserRole, static_cast<int>(i));
                if (severity == project::Severity::fix && !left)
                    item->setForeground(tokens().fault);
                else if (left)
                    item->setForeground(tokens().ink2);
            }
    title_->setText(fix + note == 0 ? QString("<b>Nothing to fix, nothing to note</b>")
                                    : QString("<b>%1 to fix \u00b7 %2 to note</b>").arg(fix).arg(note));
    list_->setCurrentRow(qMin(was, list_->count() - 1)); // -1 where there is none
    noteChoice();
}

const project::Finding* FindingsPanel::chosen() const {
    const auto* item = list_->currentItem();
    return item ? &found_[item->data(Qt::UserRole).toUInt()] : nullptr;
}

void FindingsPanel::noteChoice() {
    const auto* f = chosen();
    for (QWidget* w : {static_cast<QWidget*>(because_), static_cast<QWidget*>(leave_), static_cast<QWidget*>(go_)})
        w->setVisible(f != nullptr);
    if (!f)
        return;
    because_->setVisible(!f->dismissed());
    leave_->setText(f->dismissed() ? "Take it up again" : "Leave it");
}

void FindingsPanel::leave() {
    const auto* f = chosen();
    if (!f)
        return;
    const QString why = because_->text().trimmed();
    if (!f->dismissed() && why.isEmpty()) {
        because_->setFocus();
        return session_.report("Say why first: whoever comes after you will want to know.");
    }
    const project::DismissedFinding left{f->id(), f->device, f->block, f->dismissed() ? "" : why.toStdString()};
    because_->clear();
    session_.edit(project::leaveFinding(left));
    list_->setFocus();
}

void FindingsPanel::takeFocus() {
    list_->setFocus();
}

void FindingsPanel::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape)
        emit wantsBack();
    else
        QFrame::keyPressEvent(e);
}

} // namespace loom::app
