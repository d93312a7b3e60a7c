#include "app/field_form.h"
#include "app/shell/choice_box.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/number.h"
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>

namespace loom::app {

FieldForm::FieldForm(Read read, Write write, QWidget* parent)
    : QScrollArea(parent), read_(std::move(read)), write_(std::move(write)) {
    setAccessibleName("Fields of what is chosen");
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::NoFocus);
    connect(&Theme::get(), &Theme::changed, this, [this] {
        made_.clear();
        refresh();
    });
}

void FieldForm::takeFocus() {
    for (auto* w : findChildren<QLineEdit*>())
        if (w->isVisible())
            return w->setFocus(), w->selectAll();
}

QString FieldForm::shown(const project::Field& f) const {
    if (f.mixed)
        return "\u2014";
    if (!f.number())
        return q(f.text);
    QString text = QString::number(f.value, 'f', f.digits);
    return text.replace('-', QChar(0x2212)) + (f.unit.empty() ? "" : " " + q(f.unit));
}

QWidget* FieldForm::editorOf(const project::Field& f) {
    if (!f.choices.empty()) {
        auto* box = new ChoiceBox;
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(6);
        for (std::size_t i = 0; i < f.choices.size(); ++i)
            box->addItem(q(f.choiceNames[i]), q(f.choices[i]));
        box->setCurrentIndex(f.mixed ? -1 : box->findData(q(f.text)));
        connect(box, &QComboBox::activated, this,
                [this, box, id = f.id](int) { set(id, box->currentData().toString()); });
        return box;
    }
    auto* edit = new QLineEdit(shown(f));
    edit->setCursorPosition(0); // where it is too long, its beginning is seen
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
    return edit;
}

void FieldForm::refresh() {
    const auto fields = read_();
    QString made;
    for (const auto& f : fields)
        made += q(f.id) + '=' + shown(f) + '/' + QString::number(f.choices.size()) + ';';
    if (made == made_ && widget())
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
        auto* editor = editorOf(f);
        editor->setObjectName("field." + q(f.id));
        editor->setAccessibleName(q(f.label));
        grid->addWidget(label, row, 0);
        grid->addWidget(editor, row++, 1);
    }
    if (fields.empty()) {
        auto* none = new QLabel(none_);
        none->setWordWrap(true);
        grid->addWidget(none, 0, 0, 1, 2);
    }
    grid->setRowStretch(row + 1, 1);
    grid->setColumnStretch(1, 1);
    if (auto* old = takeWidget())
        old->deleteLater(); // one of its fields may be what asked for this
    setWidget(inner);
    if (!focus.isEmpty())
        if (auto* again = inner->findChild<QWidget*>(focus))
            again->setFocus();
}

void FieldForm::set(const std::string& field, const QString& value) {
    QString plain = value.trimmed();
    plain.replace(QChar(0x2212), '-');
    write_(field, plain.toStdString());
    if (auto* w = findChild<QLineEdit*>("field." + q(field)))
        w->setProperty("shown", w->text());
    made_.clear(); // refused: the old value stands there again
    refresh();
}

bool FieldForm::eventFilter(QObject* watched, QEvent* e) {
    auto* edit = qobject_cast<QLineEdit*>(watched); // a scroll area watches what it holds as well
    if (!edit || e->type() != QEvent::KeyPress)
        return QScrollArea::eventFilter(watched, e);
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
        const double now = typedNumber(edit->text().toStdString()).value;
        set(edit->objectName().mid(6).toStdString(),
            QString::number(now + (k->key() == Qt::Key_Up ? by : -by), 'g', 10));
        return true;
    }
    return QScrollArea::eventFilter(watched, e);
}

} // namespace loom::app
