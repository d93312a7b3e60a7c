#include "app/shell/ask.h"
#include "app/shell/choice_box.h"
#include "app/theme/theme.h"
#include <QApplication>
#include <QEventLoop>
#include <QFrame>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPointer>
#include <QPushButton>

namespace loom::app {
namespace {

// The frame itself. It lives while ask() waits.
class Question : public QFrame {
  public:
    Question(QWidget* over, const QString& title) : QFrame(over->window()), over_(over) {
        setObjectName("ask");
        setAccessibleName(title);
        setStyleSheet(QString("#ask { background: %1; border: 2px solid %2; border-radius: 8px; }")
                          .arg(tokens().card.name(), tokens().saffron.name()));
        box_ = new QVBoxLayout(this);
        box_->setContentsMargins(14, 10, 14, 12);
        auto* head = new QLabel(title);
        head->setStyleSheet("font-weight: bold; background: transparent");
        box_->addWidget(head);
    }
    QVBoxLayout* box() { return box_; }
    void end(bool taken) {
        taken_ = taken;
        loop_.quit();
    }
    // True: it was answered.
    bool wait(QWidget* first) {
        const QPointer<QWidget> before = QApplication::focusWidget(), back = over_;
        adjustSize();
        resize(std::max(width(), Theme::get().ipx(320)), height());
        const QPoint middle = over_->mapTo(window(), over_->rect().center());
        move(std::clamp(middle.x() - width() / 2, 4, std::max(4, parentWidget()->width() - width() - 4)),
             std::clamp(middle.y() - height() / 2, 4, std::max(4, parentWidget()->height() - height() - 4)));
        show();
        raise();
        first->setFocus(Qt::OtherFocusReason);
        const auto elsewhere = connect(qApp, &QApplication::focusChanged, this, [this](QWidget*, QWidget* now) {
            if (now && now != this && !isAncestorOf(now) && !QApplication::activePopupWidget())
                end(false);
        });
        const QPointer<Question> self = this;
        loop_.exec();
        if (!self)
            return false; // the window went meanwhile
        disconnect(elsewhere);
        hide();
        if (before && before->isVisible())
            before->setFocus();
        else if (back)
            back->setFocus();
        return taken_;
    }

  protected:
    void keyPressEvent(QKeyEvent* e) override {
        auto* button = qobject_cast<QPushButton*>(QApplication::focusWidget());
        if (e->key() == Qt::Key_Escape)
            end(false);
        else if (const bool enter = e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter; enter && button)
            button->click();
        else if (enter)
            end(true);
        // Nothing goes on to what lies below.
    }
    void hideEvent(QHideEvent*) override { loop_.quit(); }

  private:
    QWidget* over_;
    QVBoxLayout* box_;
    QEventLoop loop_;
    bool taken_ = false;
};

} // namespace

std::optional<QStringList> ask(QWidget* over, const QString& title, const std::vector<AskLine>& lines) {
    const QPointer<Question> question = new Question(over, title);
    auto* grid = new QGridLayout;
    question->box()->addLayout(grid);
    std::vector<QWidget*> fields;
    const auto take = [question] { question->end(true); };
    for (const auto& line : lines) {
        QWidget* field = nullptr;
        if (line.choices.isEmpty()) {
            auto* text = new QLineEdit(line.text);
            text->selectAll();
            QObject::connect(text, &QLineEdit::returnPressed, question, take);
            field = text;
        } else {
            auto* list = new ChoiceBox;
            list->addItems(line.choices);
            list->setEditable(line.typed);
            const auto at = line.choices.indexOf(line.text);
            list->setCurrentIndex(at < 0 ? 0 : static_cast<int>(at));
            if (line.typed) {
                if (at < 0 && !line.text.isEmpty())
                    list->setEditText(line.text);
                list->lineEdit()->selectAll();
                QObject::connect(list->lineEdit(), &QLineEdit::returnPressed, question, take);
            }
            field = list;
        }
        field->setObjectName(QString("answer%1").arg(fields.size()));
        field->setAccessibleName(line.label);
        field->setMinimumWidth(Theme::get().ipx(260));
        const int row = static_cast<int>(fields.size());
        auto* label = new QLabel(line.label);
        label->setStyleSheet("background: transparent");
        grid->addWidget(label, row * 2, 0);
        grid->addWidget(field, row * 2 + 1, 0);
        fields.push_back(field);
    }
    auto* foot = new QHBoxLayout;
    auto* hint = new QLabel("Esc leaves it");
    hint->setStyleSheet(QString("background: transparent; color: %1").arg(tokens().ink2.name()));
    foot->addWidget(hint, 1);
    auto* done = new QPushButton("Take it  \u21b5");
    done->setObjectName("take");
    done->setProperty("main", true);
    done->setDefault(true);
    QObject::connect(done, &QPushButton::clicked, question, take);
    foot->addWidget(done);
    question->box()->addLayout(foot);
    const bool taken = question->wait(fields.front());
    if (!question)
        return {};
    QStringList answers;
    for (auto* f : fields)
        answers << (qobject_cast<QLineEdit*>(f) ? qobject_cast<QLineEdit*>(f)->text()
                                                : qobject_cast<QComboBox*>(f)->currentText());
    question->deleteLater();
    return taken ? std::optional(answers) : std::nullopt;
}

std::optional<QString> askOne(QWidget* over, const QString& title, const AskLine& line, bool mayBeEmpty) {
    const auto all = ask(over, title, {line});
    if (!all || (all->front().trimmed().isEmpty() && !mayBeEmpty))
        return {};
    return all->front().trimmed();
}

std::size_t placeOf(const QStringList& choices, const QString& answer) {
    return static_cast<std::size_t>(std::max<qsizetype>(choices.indexOf(answer), 0));
}

std::optional<std::size_t> askChoice(QWidget* over, const QString& title, const QString& label,
                                     const QStringList& choices) {
    const auto answer = ask(over, title, {{label, choices.value(0), choices, false}});
    return answer ? std::optional(placeOf(choices, answer->front())) : std::nullopt;
}

std::optional<int> askWhich(QWidget* over, const QString& title, const QString& text, const QStringList& answers) {
    const QPointer<Question> question = new Question(over, title);
    auto* says = new QLabel(text);
    says->setWordWrap(true);
    says->setMinimumWidth(Theme::get().ipx(320));
    says->setStyleSheet("background: transparent");
    question->box()->addWidget(says);
    auto* row = new QHBoxLayout;
    question->box()->addLayout(row);
    std::optional<int> meant;
    QPushButton* first = nullptr;
    for (int i = 0; i < answers.size(); ++i) {
        auto* b = new QPushButton(answers[i]);
        b->setObjectName(QString("answer%1").arg(i));
        b->setProperty("main", i == 0);
        b->setAutoDefault(true);
        QObject::connect(b, &QPushButton::clicked, question, [question, i, &meant] {
            meant = i;
            question->end(true);
        });
        row->addWidget(b);
        first = first ? first : b;
    }
    row->addStretch(1);
    const bool taken = question->wait(first);
    if (question)
        question->deleteLater();
    return taken ? meant : std::nullopt;
}

} // namespace loom::app
