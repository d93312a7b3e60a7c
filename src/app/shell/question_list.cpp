#include "app/shell/question_list.h"
#include "app/shell/choice_box.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QVBoxLayout>

namespace loom::app {

QuestionList::QuestionList(QWidget* parent) : QWidget(parent), box_(new QVBoxLayout(this)) {
    box_->setContentsMargins(0, 0, 0, 0);
}

void QuestionList::ask(const std::vector<Question>& questions) {
    while (auto* item = box_->takeAt(0)) {
        item->widget()->deleteLater();
        delete item;
    }
    for (const auto& question : questions) {
        auto* box = new ChoiceBox;
        box->setObjectName(question.name);
        box->setAccessibleName(question.text);
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->addItem(question.text + "  \u25be");
        for (const auto& answer : question.answers)
            box->addItem(q(answer));
        box->setStyleSheet(QString("QComboBox { background: %1; }").arg(tokens().saffronTint.name()));
        connect(box, &QComboBox::activated, this, [this, answered = question.answered](int choice) {
            if (choice > 0) // later, for the box goes with it
                QMetaObject::invokeMethod(
                    this, [answered, choice] { answered(static_cast<std::size_t>(choice - 1)); }, Qt::QueuedConnection);
        });
        box_->addWidget(box);
    }
    setVisible(!questions.empty());
}

QWidget* QuestionList::first() const {
    return box_->count() ? box_->itemAt(0)->widget() : nullptr;
}

} // namespace loom::app
