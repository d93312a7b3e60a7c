#include "app/deck/deck.h"
#include "app/deck/card.h"
#include "app/deck/remarks.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "engine/layout.h"
#include "model/block_names.h"
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QScrollArea>
#include <QTimer>
#include <set>

namespace loom::app {
namespace {

constexpr int gap = 6; // between two cards

} // namespace

Deck::Deck(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), title_(new QLabel), path_(new QLabel), scroll_(new QScrollArea) {
    setObjectName("deck");
    setAccessibleName("Deck: editors for what is chosen");
    setAutoFillBackground(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 4, 12, 4);
    box->setSpacing(4);
    auto* head = new QHBoxLayout;
    head->addWidget(title_);
    head->addWidget(path_, 1);
    box->addLayout(head);
    box->addWidget(scroll_, 1);
    scroll_->setWidgetResizable(true);
    scroll_->viewport()->setAutoFillBackground(false);
    scroll_->setFocusPolicy(Qt::NoFocus);
    connect(&session, &Session::chosen, this, &Deck::rebuild);
    connect(&session, &Session::changed, this,
            [this](const project::Change& c) { c.kind == project::Change::Kind::value ? refresh() : rebuild(); });
    connect(&Theme::get(), &Theme::changed, this, [this] {
        shown_.clear();
        rebuild();
    });
    rebuild();
}

void Deck::rebuild() {
    QPalette pal = palette();
    pal.setColor(QPalette::Window, tokens().linen);
    setPalette(pal);
    QStringList blocks;
    QString title = "Deck", path = "Choose a lane above: its blocks open here, side by side.";
    const auto* program = session_.program();
    if (program && !session_.lane().isEmpty()) {
        const auto& layout = session_.layout();
        const auto* lane = layout.laneOf(session_.lane().toStdString());
        const auto& end = *program->find(session_.lane().toStdString());
        title = q(project::blockName(*program, end));
        path = "/ adds a block \u00b7 Ctrl+\u2190 \u2192 moves it \u00b7 Del removes it \u00b7 Space listens";
        if (session_.lanes().size() > 1)
            path = QString("and %1 more \u00b7 what you set here goes to all %2 lanes \u00b7 / adds to all")
                       .arg(session_.lanes().size() - 1)
                       .arg(session_.lanes().size());
        if (const auto more = session_.reachedLanes().size() - static_cast<std::size_t>(session_.lanes().size());
            lane && more > 0)
            path =
                QString("linked \u00b7 what you set here goes to %1 more lanes \u00b7 Ctrl+B in a field breaks it away")
                    .arg(more);
        if (lane)
            for (const auto& b : lane->beads)
                blocks << q(b);
        else
            path = engine::isMatrix(end)
                       ? QString("type or drag levels \u00b7 M mutes \u00b7 press a name to mute its line")
                   : engine::findKind(end.kind) ? q(engine::findKind(end.kind)->purpose)
                                                : QString("made by a later version; kept, and silent");
        if (!lane || lane->isEnd(session_.lane().toStdString()))
            blocks << session_.lane();
        if (lane && lane->source())
            blocks.move(blocks.size() - 1, 0);
    }
    title_->setText(title);
    title_->setStyleSheet(QString("font-weight: bold; font-size: %1px; padding-right: 8px").arg(Theme::get().ipx(13)));
    path_->setText(path);
    path_->setStyleSheet("color: " + tokens().ink2.name());
    QString key = program && blocks.size() == 1 ? QString::number(program->connections.size()) : QString();
    for (const auto& id : blocks) { // what a card is made from: another port, file or channel count makes another card
        const auto& b = *program->find(id.toStdString());
        key += '\n' + id + ' ' + q(b.label);
        for (const auto& [name, text] : b.texts)
            key += ' ' + q(text);
        for (const auto& [name, count] : b.shape)
            key += ' ' + QString::number(count);
        key += remarksText(b);
    }
    if (key != shown_) {
        shown_ = key;
        auto* row = new QWidget;
        row->setObjectName("row");
        row->setStyleSheet("#row { background: transparent; }");
        auto* line = new QHBoxLayout(row);
        line->setContentsMargins(0, 0, 0, 0);
        line->setSpacing(gap);
        cards_.clear();
        for (const auto& b : blocks) {
            cards_.push_back(new Card(session_, b));
            line->addWidget(cards_.back(), cards_.back()->wide() ? 1 : 0);
        }
        if (std::none_of(cards_.begin(), cards_.end(), [](const Card* c) { return c->wide(); }))
            line->addStretch(1);
        if (auto* old = scroll_->takeWidget())
            old->deleteLater(); // one of its widgets may be what asked for the change
        scroll_->setWidget(row);
    }
    refresh();
    markChosen();
}

void Deck::refresh() {
    for (auto* c : cards_)
        c->refresh();
}

// A chain is seen whole: where there is no room for all of every card, the widest that are not chosen become narrow.
void Deck::arrange() {
    const int room = scroll_->viewport()->width(), least = Theme::get().ipx(88), usual = Theme::get().ipx(132);
    int total = gap * (static_cast<int>(cards_.size()) - 1);
    std::vector<Card*> others;
    for (auto* c : cards_) {
        total += c->fullWidth();
        if (c->block() != session_.block() && c->fullWidth() > usual)
            others.push_back(c);
    }
    std::stable_sort(others.begin(), others.end(), [](auto* a, auto* b) { return a->fullWidth() > b->fullWidth(); });
    std::set<Card*> narrow;
    int rest = total; // without those that are narrow
    for (auto* c : others) {
        if (rest + static_cast<int>(narrow.size()) * usual <= room)
            break;
        narrow.insert(c);
        rest -= c->fullWidth();
    }
    const int each = narrow.empty() ? 0 : std::clamp((room - rest) / static_cast<int>(narrow.size()), least, usual);
    for (auto* c : cards_) {
        const bool small = narrow.count(c) > 0;
        c->setNarrow(small);
        small ? c->setFixedWidth(each) : (c->setMinimumWidth(0), c->setMaximumWidth(Theme::get().ipx(900)));
    }
}

void Deck::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    arrange();
}

void Deck::markChosen() {
    arrange();
    for (auto* c : cards_) {
        c->setChosen(c->block() == session_.block());
        if (c->block() == session_.block()) // after the layout has settled
            QTimer::singleShot(0, c, [this, c] { scroll_->ensureWidgetVisible(c, 20, 0); });
    }
}

void Deck::refreshMeters() {
    for (auto* c : cards_)
        c->refreshMeters();
}

void Deck::takeFocus() {
    for (auto* c : cards_)
        if (c->block() == session_.block() || (session_.block().isEmpty() && c == cards_.front()))
            return c->takeFocus();
}

void Deck::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape)
        emit wantsBack();
    else
        QWidget::keyPressEvent(e);
}

} // namespace loom::app
