#include "app/rules/rule_line.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QListWidget>

namespace loom::app {

using namespace project;

namespace {

// The word that says which part of a rule follows, with its blank.
std::pair<QString, RulePart> partTyped(const QString& text) {
    for (const auto part : {RulePart::when, RulePart::only, RulePart::then, RulePart::otherwise}) {
        const auto word = QString(wordOf(part)) + " ";
        if (text.startsWith(word, Qt::CaseInsensitive))
            return {text.left(word.size()), part};
    }
    if (text.startsWith("if ", Qt::CaseInsensitive))
        return {text.left(3), RulePart::only};
    return {"", RulePart::then};
}

} // namespace

RuleLine::RuleLine(RulesState& state, QWidget* parent)
    : QLineEdit(parent), state_(state), list_(new QListWidget),
      looker_([this](std::vector<Completion> all) { offer(std::move(all)); }) {
    setObjectName("ruleLine");
    setPlaceholderText("when \u2026, only if \u2026, then \u2026, else \u2026");
    setAccessibleName("A line for the chosen rule");
    list_->setObjectName("ruleLineList");
    list_->setAccessibleName("How the line could go on");
    list_->setFocusPolicy(Qt::NoFocus);
    list_->hide();
    soon_.setSingleShot(true);
    soon_.setInterval(60);
    connect(&soon_, &QTimer::timeout, this, &RuleLine::look);
    connect(this, &QLineEdit::textEdited, &soon_, qOverload<>(&QTimer::start));
    connect(list_, &QListWidget::itemClicked, this, [this] { take(list_->currentRow()); });
}

RuleLine::~RuleLine() {
    if (!list_->parent())
        delete list_;
}

void RuleLine::begin(const QString& text) {
    setText(text);
    setFocus();
    look();
}

void RuleLine::look() {
    const auto typed = text();
    const auto [word, part] = partTyped(typed);
    looker_.start([p = state_.project(), word = word.toStdString(), part = part,
                   rest = typed.mid(word.size()).toStdString(), typed = typed.toStdString()](std::stop_token stop) {
        std::vector<Completion> all;
        if (word.empty()) // which part it is to be
            for (const char* one : {"when ", "only if ", "then ", "else "}) {
                const auto low = QString::fromStdString(typed).toLower();
                if (QString(one).startsWith(low) && !low.isEmpty())
                    all.push_back({one, std::string(one) + "\u2026", "", false});
            }
        if (typed.empty())
            for (const char* one : {"when ", "only if ", "then ", "else "})
                all.push_back({one, std::string(one) + "\u2026", "", false});
        if (stop.stop_requested() || typed.empty())
            return all;
        for (auto& c : completionsOf(p, partOf(part), rest, 40)) {
            c.line = word + c.line;
            c.shown = word + c.shown;
            all.push_back(std::move(c));
        }
        return all;
    });
}

void RuleLine::offer(std::vector<Completion> all) {
    if (!hasFocus())
        return;
    offered_ = std::move(all);
    list_->clear();
    if (offered_.empty())
        return list_->hide();
    for (const auto& c : offered_) {
        auto* item = new QListWidgetItem(q(c.shown) + (c.help.empty() ? QString() : "   " + q(c.help)), list_);
        item->setToolTip(q(c.help));
    }
    auto* over = window();
    if (list_->parentWidget() != over)
        list_->setParent(over);
    list_->setStyleSheet(QString("QListWidget { background: %1; border: 2px solid %2; border-radius: 6px; }")
                             .arg(tokens().card.name(), tokens().saffron.name()));
    const int rows = std::min<int>(list_->count(), 8);
    const int h = rows * std::max(list_->sizeHintForRow(0), 1) + 8;
    const auto at = mapTo(over, QPoint(0, 0));
    list_->setGeometry(at.x(), std::max(0, at.y() - h - 2), width(), h);
    list_->show();
    list_->raise();
    list_->setCurrentRow(-1);
}

void RuleLine::take(int row) {
    if (row < 0 || static_cast<std::size_t>(row) >= offered_.size())
        return;
    const auto one = offered_[static_cast<std::size_t>(row)];
    setText(q(one.line));
    setFocus();
    soon_.start();
}

void RuleLine::accept() {
    if (text().trimmed().isEmpty())
        return;
    if (state_.addLine(text())) {
        clear();
        list_->hide();
    }
}

void RuleLine::keyPressEvent(QKeyEvent* e) {
    const int n = list_->isVisible() ? list_->count() : 0;
    switch (e->key()) {
    case Qt::Key_Down:
    case Qt::Key_Up:
        if (n > 0)
            list_->setCurrentRow(std::clamp(list_->currentRow() + (e->key() == Qt::Key_Down ? 1 : -1), 0, n - 1));
        return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (n > 0 && list_->currentRow() >= 0)
            return take(list_->currentRow());
        return accept();
    case Qt::Key_Escape:
        if (n > 0)
            return list_->hide();
        emit wantsBack();
        return;
    default:
        break;
    }
    QLineEdit::keyPressEvent(e);
}

bool RuleLine::focusNextPrevChild(bool next) {
    if (!next || !list_->isVisible() || list_->count() == 0)
        return QLineEdit::focusNextPrevChild(next);
    take(std::max(0, list_->currentRow()));
    return true;
}

void RuleLine::focusInEvent(QFocusEvent* e) {
    QLineEdit::focusInEvent(e);
    soon_.start();
}

void RuleLine::focusOutEvent(QFocusEvent* e) {
    QLineEdit::focusOutEvent(e);
    list_->hide();
}

} // namespace loom::app
