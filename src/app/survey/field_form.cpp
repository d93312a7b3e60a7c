#include "app/survey/field_form.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QComboBox>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <algorithm>

namespace loom::app {

FieldForm::FieldForm(SurveyState& state, QWidget* parent) : QScrollArea(parent), state_(state) {
    setObjectName("fieldForm");
    setAccessibleName("Fields of what is chosen");
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::NoFocus);
    connect(&state, &SurveyState::changed, this, &FieldForm::rebuild);
    connect(&Theme::get(), &Theme::changed, this, [this] {
        made_.clear();
        rebuild();
    });
    rebuild();
}

std::vector<std::string> FieldForm::keys() const {
    if (!state_.chosen().empty())
        return state_.chosen();
    return state_.room().empty() ? std::vector<std::string>{} : std::vector<std::string>{"room:" + state_.room()};
}

void FieldForm::takeFocus() {
    for (auto* w : findChildren<QLineEdit*>())
        if (w->isVisible())
            return w->setFocus(), w->selectAll();
}

QString FieldForm::shown(const project::PlanField& f) const {
    if (!f.number())
        return q(f.text);
    QString text = QString::number(f.value, 'f', f.digits);
    return text.replace('-', QChar(0x2212)) + (f.unit.empty() ? "" : " " + q(f.unit));
}

void FieldForm::rebuild() {
    const auto all = keys();
    const auto& p = state_.session().project();
    const auto fields = all.empty() ? std::vector<project::PlanField>{} : project::fieldsOf(p, all.front());
    // Where others differ, the field says so.
    std::map<std::string, bool> differs;
    for (std::size_t i = 1; i < all.size() && i < 200; ++i)
        for (const auto& other : project::fieldsOf(p, all[i]))
            for (const auto& f : fields)
                if (f.id == other.id && (f.value != other.value || f.text != other.text))
                    differs[f.id] = true;
    QString made;
    for (const auto& k : all)
        made += q(k) + ' ';
    for (const auto& f : fields)
        made += q(f.id) + '=' + (differs[f.id] ? "~" : shown(f)) + ';';
    if (made == made_)
        return;
    const QString focus = focusWidget() ? focusWidget()->objectName() : QString();
    made_ = made;
    auto* inner = new QWidget;
    inner->setObjectName("inner");
    inner->setStyleSheet("#inner { background: transparent; }");
    auto* grid = new QGridLayout(inner);
    grid->setContentsMargins(0, 0, 8, 0);
    grid->setVerticalSpacing(Theme::get().ipx(3));
    grid->setHorizontalSpacing(Theme::get().ipx(6));
    int row = 0;
    for (const auto& f : fields) {
        auto* label = new QLabel(q(f.label));
        label->setStyleSheet("color: " + tokens().ink2.name());
        grid->addWidget(label, row, 0);
        if (!f.choices.empty()) {
            auto* box = new QComboBox;
            box->setObjectName("field." + q(f.id));
            box->setAccessibleName(q(f.label));
            box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
            box->setMinimumContentsLength(10);
            for (std::size_t i = 0; i < f.choices.size(); ++i)
                box->addItem(q(f.choiceNames[i]), q(f.choices[i]));
            box->setCurrentIndex(differs[f.id] ? -1 : box->findData(q(f.text)));
            connect(box, &QComboBox::activated, this,
                    [this, box, id = f.id](int) { set(id, box->currentData().toString()); });
            grid->addWidget(box, row++, 1);
            continue;
        }
        auto* edit = new QLineEdit(differs[f.id] ? QString("\u2014") : shown(f));
        edit->setObjectName("field." + q(f.id));
        edit->setAccessibleName(q(f.label));
        edit->setProperty("shown", edit->text());
        edit->setProperty("step", f.number() ? (f.digits >= 2 ? 0.1 : f.digits == 1 ? 0.5 : 1.0) : 0.0);
        if (f.number()) {
            edit->setAlignment(Qt::AlignRight);
            edit->setFont(Theme::get().number(11));
        }
        edit->installEventFilter(this);
        connect(edit, &QLineEdit::editingFinished, this, [this, edit, id = f.id] {
            if (edit->text() != edit->property("shown").toString())
                set(id, edit->text());
        });
        grid->addWidget(edit, row++, 1);
    }
    if (fields.empty()) {
        auto* none =
            new QLabel(all.empty() ? "Choose a thing on the plan: its fields open here." : "Drag it on the plan.");
        none->setWordWrap(true);
        grid->addWidget(none, 0, 0, 1, 2);
    }
    grid->setRowStretch(row + 1, 1);
    grid->setColumnStretch(1, 1);
    if (auto* old = takeWidget())
        old->deleteLater(); // one of its fields may be what asked for this
    setWidget(inner);
    if (!focus.isEmpty())
        if (auto* again = inner->findChild<QLineEdit*>(focus))
            again->setFocus();
}

void FieldForm::set(const std::string& field, const QString& value) {
    QString plain = value.trimmed();
    plain.replace(QChar(0x2212), '-');
    auto edit = project::setField(state_.session().project(), keys(), field, plain.toStdString());
    if (!edit) {
        state_.session().report(edit.trouble());
        made_.clear();
        return rebuild(); // the old value stands there again
    }
    state_.run(std::move(*edit));
    if (auto* w = findChild<QLineEdit*>("field." + q(field)))
        w->setProperty("shown", w->text());
    made_.clear();
    rebuild();
}

bool FieldForm::eventFilter(QObject* watched, QEvent* e) {
    if (e->type() != QEvent::KeyPress)
        return QScrollArea::eventFilter(watched, e);
    auto* edit = static_cast<QLineEdit*>(watched);
    const auto* k = static_cast<QKeyEvent*>(e);
    if (k->key() == Qt::Key_Escape) {
        edit->setText(edit->property("shown").toString());
        emit wantsBack();
        return true;
    }
    const double step = edit->property("step").toDouble();
    if (step > 0 && (k->key() == Qt::Key_Up || k->key() == Qt::Key_Down)) {
        const double by = step * (k->modifiers() & Qt::ShiftModifier     ? 0.1
                                  : k->modifiers() & Qt::ControlModifier ? 10
                                                                         : 1);
        const double now = edit->text().section(' ', 0, 0).replace(QChar(0x2212), '-').toDouble();
        set(edit->objectName().mid(6).toStdString(),
            QString::number(now + (k->key() == Qt::Key_Up ? by : -by), 'g', 10));
        return true;
    }
    return QScrollArea::eventFilter(watched, e);
}

} // namespace loom::app
