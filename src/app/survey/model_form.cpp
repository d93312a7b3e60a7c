#include "app/survey/model_form.h"
#include "app/shell/choice_box.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QDialogButtonBox>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace loom::app {

ModelForm::ModelForm(project::Catalogue& shelf, QWidget* parent)
    : QDialog(parent), shelf_(shelf), model_(project::blankModel("loudspeaker")), kind_(new ChoiceBox),
      form_(new FieldForm([this] { return project::fieldsOf(model_); },
                          [this](const std::string& field, const std::string& value) {
                              const auto error = project::setField(model_, field, value);
                              refresh();
                              if (error)
                                  says_->setText(q(error->text()));
                              return !error;
                          })),
      says_(new QLabel) {
    setObjectName("modelForm");
    setWindowTitle("A model of your own");
    resize(Theme::get().ipx(460), Theme::get().ipx(520));
    auto* box = new QVBoxLayout(this);
    const std::pair<const char*, const char*> kinds[] = {{"Loudspeaker", "loudspeaker"},
                                                         {"Microphone", "microphone"},
                                                         {"Microphone array", "array"},
                                                         {"Something else", "other"}};
    for (const auto& [name, id] : kinds)
        kind_->addItem(name, id);
    kind_->setObjectName("kind");
    kind_->setAccessibleName("Kind of device");
    box->addWidget(kind_);
    box->addWidget(form_, 1);
    says_->setWordWrap(true);
    says_->setObjectName("says");
    box->addWidget(says_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    done_ = buttons->addButton("Put it on the shelf", QDialogButtonBox::AcceptRole);
    done_->setObjectName("toShelf");
    done_->setProperty("main", true);
    for (auto* b : buttons->buttons()) // Enter ends a field, not the form
        static_cast<QPushButton*>(b)->setAutoDefault(false);
    box->addWidget(buttons);
    connect(kind_, &QComboBox::activated, this, [this] {
        auto next = project::blankModel(kind_->currentData().toString().toStdString());
        next.name = model_.name;
        next.maker = model_.maker;
        next.purpose = model_.purpose;
        model_ = std::move(next);
        form_->refresh();
        refresh();
    });
    connect(buttons, &QDialogButtonBox::accepted, this, &ModelForm::finish);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    form_->refresh();
    refresh();
    form_->takeFocus();
}

// What is still missing stands below the fields, and the button waits for it.
void ModelForm::refresh() {
    const auto errors = project::errorsOf(model_, shelf_);
    done_->setEnabled(errors.empty());
    says_->setText(errors.empty() ? "It is kept for all your projects." : q(errors.front().text()));
}

void ModelForm::finish() {
    const auto id = shelf_.add(project::modelText(model_), model_.name);
    if (!id)
        return says_->setText(q(id.error().text()));
    made_ = *id;
    accept();
}

} // namespace loom::app
