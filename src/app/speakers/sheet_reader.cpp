#include "app/speakers/sheet_reader.h"
#include "app/shell/choice_box.h"
#include "app/shell/flow_layout.h"
#include "app/shell/question_list.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QCheckBox>
#include <QFileDialog>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QTextBlock>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace loom::app {

SheetReader::SheetReader(QWidget* parent)
    : QWidget(parent), text_(new QPlainTextEdit), table_(new QTableWidget), says_(new QLabel),
      make_(new QPushButton("Make the voicing")), questions_(new QuestionList), say_(new ChoiceBox),
      remember_(new QCheckBox("Remember it for such sheets")) {
    setObjectName("sheetReader");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 8, 12, 8);
    auto* head = new FlowLayout;
    auto* title = new QLabel("Spec sheet");
    title->setStyleSheet("font-weight: bold");
    auto* open = new QPushButton("Open a text or PDF\u2026");
    open->setObjectName("openSheet");
    auto* back = new QPushButton("Back to the curves");
    back->setObjectName("sheetBack");
    make_->setObjectName("makeVoicing");
    make_->setProperty("main", true);
    say_->setObjectName("sayWhat");
    say_->setAccessibleName("What the chosen piece of text is");
    say_->setMaxVisibleItems(20);
    remember_->setObjectName("rememberSheet");
    remember_->setChecked(true);
    remember_->setToolTip("What you said and answered is kept in your library, and reads this maker's next sheet");
    for (QWidget* w : {static_cast<QWidget*>(title), static_cast<QWidget*>(open), static_cast<QWidget*>(say_),
                       static_cast<QWidget*>(back), static_cast<QWidget*>(make_), static_cast<QWidget*>(remember_)})
        head->addWidget(w);
    connect(say_, &QComboBox::activated, this, [this](int i) {
        const auto piece = chosenPiece();
        const auto& all = loudspeaker::meaningsToSay();
        if (piece && i > 0 && i <= static_cast<int>(all.size()))
            say(*piece, all[static_cast<std::size_t>(i - 1)].first);
    });
    box->addLayout(head);
    says_->setWordWrap(true);
    says_->setObjectName("sheetSays");
    box->addWidget(says_);
    box->addWidget(questions_);
    auto* row = new QHBoxLayout;
    text_->setObjectName("sheetText");
    text_->setAccessibleName("Text of the sheet");
    text_->setPlaceholderText("Paste what the maker's sheet says, lines or a table, as it is.");
    text_->setLineWrapMode(QPlainTextEdit::NoWrap);
    text_->setTabChangesFocus(true);
    text_->setMinimumWidth(100);
    table_->setMinimumWidth(100);
    row->addWidget(text_, 1);
    table_->setObjectName("sheetFields");
    table_->setAccessibleName("What was read");
    table_->setColumnCount(5);
    table_->setHorizontalHeaderLabels({"Take", "Line", "Way", "Is read as", "Certain"});
    table_->verticalHeader()->hide();
    table_->setShowGrid(false);
    table_->setFrameShape(QFrame::NoFrame);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->horizontalHeader()->setStretchLastSection(false);
    table_->horizontalHeader()->setSectionResizeMode(3, QHeaderView::Stretch);
    table_->horizontalHeader()->setMinimumSectionSize(30);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    row->addWidget(table_, 1);
    box->addLayout(row, 1);
    connect(text_, &QPlainTextEdit::textChanged, this, [this] {
        pattern_ = {};
        answered_.clear();
        read();
    });
    connect(text_, &QPlainTextEdit::selectionChanged, this, &SheetReader::refresh);
    text_->viewport()->installEventFilter(this);
    connect(back, &QPushButton::clicked, this, &SheetReader::wantsBack);
    connect(make_, &QPushButton::clicked, this, &SheetReader::approved);
    connect(open, &QPushButton::clicked, this, [this] {
        const QString name = QFileDialog::getOpenFileName(
            this, "Open a spec sheet", {}, "Sheets (*.pdf *.txt *.csv *.tsv *.md *.json *.xml);;All files (*)");
        if (!name.isEmpty())
            emit wantsFile(name);
    });
    connect(table_, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
        if (filling_ || item->column() != 0)
            return;
        leftOut_[static_cast<std::size_t>(item->row())] = item->checkState() != Qt::Checked;
        refresh();
    });
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int at) { // the place in the text
        if (at < 0 || at >= static_cast<int>(sheet_.fields.size()))
            return;
        const auto& f = sheet_.fields[static_cast<std::size_t>(at)];
        QTextCursor cursor(text_->document()->findBlockByNumber(static_cast<int>(f.line)));
        text_->setTextCursor(cursor);
    });
    connect(&Theme::get(), &Theme::changed, this, &SheetReader::fill);
    read();
}

void SheetReader::takeFocus() {
    library_ = project::sheetPatterns(); // before something is pasted
    text_->setFocus();
}

void SheetReader::setText(const QString& text) {
    library_ = project::sheetPatterns();
    text_->setPlainText(QString(text).replace('\f', '\n')); // the end of a page
}

bool SheetReader::remembers() const {
    return remember_->isChecked() && !pattern_.empty();
}

void SheetReader::say(const loudspeaker::SheetSpan& piece, const std::string& meaning) {
    const auto words = loudspeaker::wordsAt(sheet_, piece);
    if (words.empty()) {
        says_->setText(
            "There are no words beside it that could be remembered. Type one before it, such as \u201cGain\u201d.");
        return;
    }
    for (auto& [other, list] : pattern_.words)
        std::erase(list, words);
    std::erase_if(pattern_.words, [](const auto& one) { return one.second.empty(); });
    pattern_.words[meaning].push_back(words);
    read();
}

std::optional<loudspeaker::SheetSpan> SheetReader::chosenPiece() const {
    const auto cursor = text_->textCursor();
    if (!cursor.hasSelection())
        return {};
    const auto block = text_->document()->findBlock(cursor.selectionStart());
    const int from = cursor.selectionStart() - block.position(),
              to = std::min(cursor.selectionEnd() - block.position(), static_cast<int>(block.text().size()));
    const auto bytes = [&](int n) { return static_cast<std::size_t>(block.text().left(n).toUtf8().size()); };
    if (to <= from)
        return {};
    return loudspeaker::SheetSpan{static_cast<std::size_t>(block.blockNumber()), bytes(from), bytes(to)};
}

// The piece that the reader made of the place: a field, a limit, what it did not understand.
void SheetReader::choosePieceAt(int position) {
    const auto block = text_->document()->findBlock(position);
    const auto line = static_cast<std::size_t>(block.blockNumber());
    const QByteArray text = block.text().toUtf8();
    const auto at = static_cast<std::size_t>(block.text().left(position - block.position()).toUtf8().size());
    std::optional<loudspeaker::SheetSpan> found;
    const auto take = [&](const loudspeaker::SheetSpan& s) {
        if (s.line == line && at >= s.from && at <= s.to && (!found || s.to - s.from < found->to - found->from))
            found = s;
    };
    for (const auto& f : sheet_.fields)
        take({f.line, f.from, f.to});
    for (const auto* all : {&sheet_.unread, &sheet_.off, &sheet_.forYou})
        for (const auto& s : *all)
            take(s);
    if (!found)
        return;
    const auto letters = [&](std::size_t n) {
        return static_cast<int>(QString::fromUtf8(text.left(static_cast<qsizetype>(n))).size());
    };
    QTextCursor cursor(block);
    cursor.setPosition(block.position() + letters(found->from));
    cursor.setPosition(block.position() + letters(found->to), QTextCursor::KeepAnchor);
    text_->setTextCursor(cursor);
}

bool SheetReader::eventFilter(QObject* of, QEvent* e) {
    if (of == text_->viewport() && e->type() == QEvent::MouseButtonRelease && !text_->textCursor().hasSelection())
        choosePieceAt(text_->textCursor().position());
    return QWidget::eventFilter(of, e);
}

bool SheetReader::ready() const {
    bool any = false;
    for (std::size_t i = 0; i < sheet_.fields.size(); ++i)
        if (!leftOut_[i]) {
            any = true;
            if (!sheet_.fields[i].sure())
                return false;
        }
    return any;
}

void SheetReader::read() {
    const std::string text = text_->toPlainText().toStdString();
    if (pattern_.empty()) {
        sheet_ = loudspeaker::readSheet(text, library_);
        for (const auto& p : library_)
            if (p.name == sheet_.pattern)
                pattern_ = p; // what is said now is added to it
    } else {
        auto mine = pattern_;
        const auto known = loudspeaker::patternOf(loudspeaker::readSheet(text));
        mine.labels = known.labels;
        mine.maker = known.maker;
        sheet_ = loudspeaker::readSheet(text, {mine});
        pattern_.labels = known.labels;
        pattern_.maker = pattern_.maker.empty() ? known.maker : pattern_.maker;
        pattern_.name = pattern_.name.empty() ? known.name : pattern_.name;
    }
    for (const auto& f : std::vector(sheet_.fields)) { // what was answered before stays answered
        const auto it = answered_.find({f.topic, f.line});
        if (it == answered_.end() || f.sure())
            continue;
        for (const auto& q : loudspeaker::questionsOf(sheet_))
            if (sheet_.fields[q.fields.front()].topic == f.topic && q.choices.size() > it->second)
                loudspeaker::answer(sheet_, q, it->second);
    }
    leftOut_.assign(sheet_.fields.size(), false);
    fill();
}

void SheetReader::fill() {
    filling_ = true;
    text_->setFont(Theme::get().number(11));
    text_->setStyleSheet(QString("QPlainTextEdit { background: %1; border: 1px solid %2; border-radius: 4px; "
                                 "font-family: 'JetBrains Mono'; font-size: %3px; }")
                             .arg(tokens().card.name(), tokens().hair.name())
                             .arg(Theme::get().ipx(11)));
    table_->setStyleSheet(QString("QTableWidget, QHeaderView { background: transparent; border: 0; } "
                                  "QHeaderView::section { background: transparent; "
                                  "border: 0; border-bottom: 1px solid %1; color: %2; padding: 2px 4px; }")
                              .arg(tokens().hair.name(), tokens().ink2.name()));
    table_->verticalHeader()->setDefaultSectionSize(Theme::get().ipx(24));
    for (const auto& [column, wide] : {std::pair{0, 46}, {1, 40}, {2, 64}, {4, 58}})
        table_->setColumnWidth(column, Theme::get().ipx(wide));
    table_->setRowCount(static_cast<int>(sheet_.fields.size()));
    for (int r = 0; r < table_->rowCount(); ++r) {
        const auto i = static_cast<std::size_t>(r);
        const auto& f = sheet_.fields[i];
        auto* tick = new QTableWidgetItem;
        tick->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable | Qt::ItemIsSelectable);
        tick->setCheckState(leftOut_[i] ? Qt::Unchecked : Qt::Checked);
        table_->setItem(r, 0, tick);
        table_->setItem(r, 1, new QTableWidgetItem(QString::number(f.line + 1)));
        table_->setItem(
            r, 2,
            new QTableWidgetItem(f.way > 0 ? q(sheet_.ways[static_cast<std::size_t>(f.way - 1)]) : QString("all")));
        table_->setItem(r, 3, new QTableWidgetItem(q(loudspeaker::textOf(f)).replace(" -", " \u2212")));
        const double certain = loudspeaker::certaintyOf(f);
        auto* how = new QTableWidgetItem(QString("%1 %").arg(std::round(100 * certain)));
        how->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        if (certain < 0.8)
            how->setForeground(tokens().saffron);
        how->setToolTip("By what the text says itself: its unit, its shape, its way; not by a guess");
        table_->setItem(r, 4, how);
        if (!f.sure())
            table_->item(r, 3)->setBackground(tokens().saffronTint);
    }
    askQuestions();
    filling_ = false;
    mark();
    refresh();
}

void SheetReader::answer(const loudspeaker::SheetQuestion& question, std::size_t choice) {
    const auto& asked = sheet_.fields[question.fields.front()];
    if (pattern_.empty() && pattern_.name.empty()) {
        const auto known = loudspeaker::patternOf(sheet_);
        pattern_.name = known.name;
        pattern_.maker = known.maker;
        pattern_.labels = known.labels;
    }
    loudspeaker::remember(pattern_, asked, choice);
    for (const auto i : question.fields)
        answered_[{sheet_.fields[i].topic, sheet_.fields[i].line}] = choice;
    loudspeaker::answer(sheet_, question, choice);
    leftOut_.assign(sheet_.fields.size(), false);
}

void SheetReader::askQuestions() {
    const auto all = loudspeaker::questionsOf(sheet_);
    constexpr std::size_t shown = 6; // the next ones come as these are answered
    std::vector<QuestionList::Question> open;
    for (std::size_t k = 0; k < std::min(shown, all.size()); ++k) {
        const auto& question = all[k];
        const QString more =
            question.fields.size() > 1 ? QString(" (and %1 alike)").arg(question.fields.size() - 1) : QString();
        open.push_back(
            {QString("ask.%1").arg(k + 1),
             QString("Line %1: ").arg(sheet_.fields[question.fields.front()].line + 1) + q(question.text) + more,
             question.choices, [this, question](std::size_t choice) {
                 answer(question, choice);
                 fill();
             }});
    }
    questions_->ask(open);
}

// Understood: on a tint; asked: on saffron; not understood: dashed below.
void SheetReader::mark() {
    QList<QTextEdit::ExtraSelection> all;
    const auto add = [&](std::size_t line, std::size_t from, std::size_t to, const QTextCharFormat& format) {
        const auto block = text_->document()->findBlockByNumber(static_cast<int>(line));
        if (!block.isValid())
            return;
        const QByteArray bytes = block.text().toUtf8();
        const auto letters = [&](std::size_t n) {
            return QString::fromUtf8(bytes.left(static_cast<qsizetype>(n))).size();
        };
        QTextEdit::ExtraSelection one;
        one.cursor = QTextCursor(block);
        one.cursor.setPosition(block.position() + static_cast<int>(letters(from)));
        one.cursor.setPosition(block.position() + static_cast<int>(letters(to)), QTextCursor::KeepAnchor);
        one.format = format;
        all << one;
    };
    QTextCharFormat understood, asked, unread;
    QColor tint = tokens().ok;
    tint.setAlphaF(0.22f);
    understood.setBackground(tint);
    asked.setBackground(tokens().saffronTint);
    asked.setUnderlineStyle(QTextCharFormat::SingleUnderline);
    asked.setUnderlineColor(tokens().saffron);
    unread.setUnderlineStyle(QTextCharFormat::DashUnderline);
    unread.setUnderlineColor(tokens().fault);
    unread.setForeground(tokens().ink2);
    for (const auto& f : sheet_.fields)
        add(f.line, f.from, f.to, f.sure() ? understood : asked);
    QTextCharFormat off; // told, never applied
    off.setFontStrikeOut(true);
    off.setForeground(tokens().ink2);
    for (const auto& u : sheet_.off)
        add(u.line, u.from, u.to, off);
    QTextCharFormat told;
    told.setUnderlineStyle(QTextCharFormat::SingleUnderline);
    for (const auto& l : sheet_.limits)
        add(l.where.line, l.where.from, l.where.to, told);
    for (const auto& u : sheet_.forYou)
        add(u.line, u.from, u.to, asked);
    for (const auto& u : sheet_.unread)
        add(u.line, u.from, u.to, unread);
    text_->setExtraSelections(all);
}

void SheetReader::refresh() {
    make_->setEnabled(ready());
    remember_->setVisible(!pattern_.empty());
    const auto piece = chosenPiece();
    const QString words = piece ? q(loudspeaker::wordsAt(sheet_, *piece)) : QString();
    say_->clear();
    say_->addItem(words.isEmpty() ? QString("Press on a piece to say what it is")
                                  : "\u201c" + words + "\u201d is\u2026");
    if (!words.isEmpty())
        for (const auto& [name, label] : loudspeaker::meaningsToSay())
            say_->addItem(q(label));
    say_->setEnabled(!words.isEmpty());
    const auto asked =
        std::count_if(sheet_.fields.begin(), sheet_.fields.end(), [](const auto& f) { return !f.sure(); });
    QString says =
        sheet_.lines.empty() ? QString("Paste a sheet, open one, or drop its file here; some lie in demo/sheets.")
        : sheet_.fields.empty()
            ? QString("Nothing was understood. Fields begin with a word such as HPF, PEQ, delay, impedance, power.")
            : QString("%1 fields were read").arg(sheet_.fields.size());
    if (!sheet_.fields.empty()) {
        says += asked ? QString(", %1 of them ask for something").arg(asked) : QString();
        says += sheet_.unread.empty()
                    ? QString(".")
                    : QString("; %1 places were not understood and are marked.").arg(sheet_.unread.size());
    }
    for (std::size_t k = 0; k < std::min<std::size_t>(sheet_.notes.size(), 3); ++k)
        says += " " + q(sheet_.notes[k]);
    if (!sheet_.pattern.empty())
        says += " Read as you said of " + q(sheet_.pattern) + ".";
    if (!sheet_.off.empty())
        says += QString(" Off: %1, struck through.").arg(sheet_.off.size());
    if (!sheet_.limits.empty())
        says += QString(" Limits of the maker's: %1; the lower of them and of what follows from the powers holds.")
                    .arg(sheet_.limits.size());
    says_->setText(says);
}

void SheetReader::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape)
        emit wantsBack();
    else
        QWidget::keyPressEvent(e);
}

} // namespace loom::app
