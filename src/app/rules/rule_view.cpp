#include "app/rules/rule_view.h"
#include "app/parameter_drag.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "rules/rule_home.h"
#include "rules/sentence.h"
#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>

namespace loom::app {

using namespace project;

namespace {

constexpr double cardMargin = 2, cardInset = 14, ruleRowHeight = 30, ruleChipHeight = 24, ruleHeadHeight = 32,
                 cardGap = 12;

// Of a kind's gaps those that are a value, not a thing, are drawn as such.
bool isValue(Part part, const std::string& kind, const std::string& gap) {
    const auto* k = findClauseKind(part, kind);
    const auto* g = k ? k->gap(gap) : nullptr;
    if (!g)
        return true;
    switch (g->gap) {
    case Gap::state:
    case Gap::change:
    case Gap::seconds:
    case Gap::minutes:
    case Gap::time:
    case Gap::days:
    case Gap::dates:
    case Gap::side:
    case Gap::sun:
    case Gap::text:
    case Gap::number:
        return true;
    default:
        return false;
    }
}

const char* needsWord(Rule::Needs needs) {
    return needs == Rule::Needs::all ? "only if" : needs == Rule::Needs::any ? "if any of" : "unless";
}

const char* againWord(Rule::Again again) {
    return again == Rule::Again::restart  ? "Woken while at it: begins anew"
           : again == Rule::Again::ignore ? "Woken while at it: is not"
                                          : "Woken while at it: once more afterwards";
}

} // namespace

RuleView::RuleView(RulesState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("ruleView");
    setFocusPolicy(Qt::StrongFocus);
    setAcceptDrops(true);
    setAccessibleName("Rules, as sentences");
    const auto again = [this] {
        layOut();
        update();
    };
    connect(&state, &RulesState::changed, this, again);
    connect(&state, &RulesState::chosenChanged, this, [this] {
        update();
        if (const auto* row = chosenRow())
            emit moved(row->rect.toAlignedRect());
    });
    connect(&Theme::get(), &Theme::changed, this, again);
}

QSize RuleView::sizeHint() const {
    return {Theme::get().ipx(360),
            cards_.empty() ? Theme::get().ipx(120) : static_cast<int>(cards_.back().rect.bottom() + px(8))};
}

void RuleView::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    layOut();
}

void RuleView::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    layOut();
}

void RuleView::layOut() {
    if (!isVisible())
        return;
    cards_.clear();
    double y = px(cardMargin);
    for (const auto* r : state_.rules()) {
        Card c;
        lay(c, *r, y);
        cards_.push_back(std::move(c));
        y += px(cardGap);
    }
    setMinimumHeight(sizeHint().height());
    updateGeometry();
}

void RuleView::lay(Card& card, const Rule& r, double& y) {
    const double left = px(cardMargin + cardInset), right = width() - px(cardMargin + cardInset), top = y;
    card.rule = r.id, card.on = r.on;
    card.name = q(r.name.empty() ? r.id : r.name);
    card.onRect = {right - px(34), y + px(9), px(34), px(18)};
    y += px(ruleHeadHeight);
    const QFontMetricsF words(Theme::get().text(12)), thing(Theme::get().text(12, true)),
        value(Theme::get().number(12, true));
    for (const auto part : {RulePart::when, RulePart::only, RulePart::then, RulePart::otherwise}) {
        const auto& list = clausesOf(r, part);
        for (std::size_t i = 0; i < list.size(); ++i) {
            Row row;
            row.line = {part, static_cast<int>(i)};
            row.word = part == RulePart::when ? (i ? "or when" : "when")
                       : part == RulePart::only
                           ? (i ? (r.needs == Rule::Needs::all ? "and" : "or") : needsWord(r.needs))
                           : wordOf(part);
            const double begin = left + px(54), rowTop = y;
            double x = begin;
            for (const auto& piece : sentenceOf(state_.project(), partOf(part), list[i])) {
                Piece one;
                one.text = q(piece.text), one.gap = q(piece.gap), one.wrong = piece.wrong;
                if (piece.gap.empty()) { // words break at blanks
                    for (const auto& word : one.text.split(' ', Qt::SkipEmptyParts)) {
                        const double w = words.horizontalAdvance(word);
                        if (word.startsWith(',') && x > begin) // to what it follows
                            x -= px(6);
                        if (x + w > right && x > begin)
                            x = begin, y += px(ruleRowHeight);
                        row.pieces.push_back({{x, y, w, px(ruleChipHeight)}, word, "", false, false});
                        x += w + px(6);
                    }
                    continue;
                }
                one.value = isValue(partOf(part), list[i].kind, piece.gap);
                const auto& metrics = one.value ? value : thing;
                const double w = std::min(metrics.horizontalAdvance(one.text) + px(18), right - begin);
                if (x + w > right && x > begin)
                    x = begin, y += px(ruleRowHeight);
                one.rect = {x, y, w, px(ruleChipHeight)};
                row.pieces.push_back(std::move(one));
                x += w + px(6);
            }
            y += px(ruleRowHeight);
            row.rect = {px(cardMargin) + px(6), rowTop - px(3), width() - px(2 * cardMargin) - px(12), y - rowTop};
            card.rows.push_back(std::move(row));
        }
    }
    const auto home = homeOf(state_.project(), r);
    const auto* d = state_.project().device(home.device);
    QString foot = r.when.empty() && r.then.empty() ? QString("Type below what it waits for, and what it does.")
                                                    : QString(againWord(r.again));
    if (d)
        foot += QString(" \u00b7 on %1").arg(q(d->name));
    if (!home.others.empty() && state_.project().device(*home.others.begin()))
        foot += QString(", which leads %1").arg(q(state_.project().device(*home.others.begin())->name));
    card.foot = foot;
    y += px(24);
    card.rect = {px(cardMargin), top, width() - px(2 * cardMargin), y - top};
}

void RuleView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    if (cards_.empty()) {
        p.setFont(Theme::get().text(12));
        p.setPen(tokens().ink2);
        p.drawText(QRectF(rect()).adjusted(px(12), px(14), -px(12), 0), Qt::TextWordWrap,
                   state_.occasion()
                       ? "No rule waits for this yet. Type below what is done then, such as: then recall \u2026"
                       : "There is no rule yet. Choose at the left what happens, then type below what is done.");
        return;
    }
    for (const auto& c : cards_) {
        const bool chosen = state_.rule() && state_.rule()->id == c.rule;
        p.setPen(QPen(chosen ? tokens().saffron : tokens().hair, px(chosen ? 1.6 : 1)));
        p.setBrush(tokens().card);
        p.drawRoundedRect(c.rect, px(6), px(6));
        p.setPen(c.on ? tokens().ink : tokens().ink3);
        p.setFont(Theme::get().text(13, true));
        p.drawText(QRectF(c.rect.left() + px(cardInset), c.rect.top(),
                          c.onRect.left() - c.rect.left() - px(cardInset + 8), px(ruleHeadHeight + 4)),
                   Qt::AlignVCenter,
                   QFontMetricsF(p.font()).elidedText(c.name, Qt::ElideRight,
                                                      c.onRect.left() - c.rect.left() - px(cardInset + 8)));
        // At work or not: a switch, told by the place of its knob as well as by colour.
        p.setPen(Qt::NoPen);
        p.setBrush(c.on ? tokens().ok : tokens().ink3);
        p.drawRoundedRect(c.onRect, px(9), px(9));
        p.setBrush(tokens().card);
        p.drawEllipse(QPointF(c.on ? c.onRect.right() - px(9) : c.onRect.left() + px(9), c.onRect.center().y()), px(6),
                      px(6));
        for (const auto& row : c.rows) {
            const bool here = chosen && state_.line() == row.line;
            if (here) {
                p.setPen(Qt::NoPen);
                p.setBrush(tokens().saffronTint);
                p.drawRoundedRect(row.rect, px(4), px(4));
            }
            p.setFont(Theme::get().text(12));
            p.setPen(tokens().ink2);
            if (!row.pieces.empty())
                p.drawText(QRectF(c.rect.left() + px(cardInset), row.pieces[0].rect.top(), px(54), px(ruleChipHeight)),
                           Qt::AlignVCenter, row.word);
            for (const auto& piece : row.pieces) {
                if (piece.gap.isEmpty()) {
                    p.setFont(Theme::get().text(12));
                    p.setPen(tokens().ink2);
                    p.drawText(piece.rect, Qt::AlignVCenter, piece.text);
                    continue;
                }
                const bool at = here && q(state_.gap()) == piece.gap;
                p.setPen(QPen(piece.wrong ? tokens().fault : at ? tokens().saffron : tokens().hair, px(at ? 2 : 1)));
                p.setBrush(piece.wrong ? tokens().faultTint : piece.value ? tokens().saffronTint : tokens().linen);
                p.drawRoundedRect(piece.rect, px(4), px(4));
                p.setFont(piece.value ? Theme::get().number(12, true) : Theme::get().text(12, true));
                p.setPen(piece.wrong ? tokens().fault : c.on ? tokens().ink : tokens().ink2);
                p.drawText(piece.rect.adjusted(px(8), 0, -px(6), 0), Qt::AlignVCenter,
                           QFontMetricsF(p.font()).elidedText(piece.text, Qt::ElideRight, piece.rect.width() - px(14)));
            }
        }
        p.setFont(Theme::get().text(10));
        p.setPen(tokens().ink3);
        const QRectF foot(c.rect.left() + px(cardInset), c.rect.bottom() - px(24), c.rect.width() - px(2 * cardInset),
                          px(20));
        p.drawText(foot, Qt::AlignVCenter, QFontMetricsF(p.font()).elidedText(c.foot, Qt::ElideRight, foot.width()));
        if (chosen && hasFocus() && state_.line().at < 0) {
            p.setPen(QPen(tokens().saffron, px(2)));
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(c.rect.adjusted(px(2), px(2), -px(2), -px(2)), px(5), px(5));
        }
    }
}

// ---- hands ----

QRectF RuleView::ruleRect(const std::string& rule) const {
    for (const auto& c : cards_)
        if (c.rule == rule)
            return c.rect;
    return {};
}

QRectF RuleView::switchRect(const std::string& rule) const {
    for (const auto& c : cards_)
        if (c.rule == rule)
            return c.onRect;
    return {};
}

QRectF RuleView::gapRect(const std::string& rule, RulesState::Line line, const std::string& gap) const {
    for (const auto& c : cards_)
        for (const auto& row : c.rows)
            if (c.rule == rule && row.line == line)
                for (const auto& piece : row.pieces)
                    if (piece.gap == q(gap))
                        return piece.rect;
    return {};
}

const RuleView::Row* RuleView::chosenRow() const {
    for (const auto& c : cards_)
        if (state_.rule() && c.rule == state_.rule()->id)
            for (const auto& row : c.rows)
                if (row.line == state_.line())
                    return &row;
    return nullptr;
}

void RuleView::turn() {
    if (const auto* r = state_.rule())
        state_.edit(turnRule(r->id, !r->on));
}

void RuleView::mousePressEvent(QMouseEvent* e) {
    const auto at = e->position();
    for (const auto& c : cards_) {
        if (!c.rect.contains(at))
            continue;
        if (c.onRect.contains(at)) {
            state_.choose(c.rule);
            return turn();
        }
        for (const auto& row : c.rows) {
            if (!row.rect.contains(at))
                continue;
            for (const auto& piece : row.pieces)
                if (!piece.gap.isEmpty() && piece.rect.contains(at)) {
                    state_.choose(c.rule, row.line, piece.gap.toStdString());
                    if (e->button() == Qt::LeftButton)
                        emit wantsGap(piece.gap.toStdString(), piece.rect.toAlignedRect());
                    return;
                }
            return state_.choose(c.rule, row.line);
        }
        return state_.choose(c.rule);
    }
}

void RuleView::mouseDoubleClickEvent(QMouseEvent* e) {
    for (const auto& c : cards_) // the name, in place
        if (c.rect.contains(e->position()) && e->position().y() < c.rect.top() + px(ruleHeadHeight) &&
            !c.onRect.contains(e->position()))
            emit wantsGap("name",
                          QRectF(c.rect.left(), c.rect.top(), c.rect.width(), px(ruleHeadHeight)).toAlignedRect());
}

void RuleView::moveOver(int by) {
    std::vector<std::pair<std::string, RulesState::Line>> all;
    int at = -1;
    for (const auto& c : cards_) {
        const bool here = state_.rule() && state_.rule()->id == c.rule;
        if (here && state_.line().at < 0)
            at = static_cast<int>(all.size());
        all.emplace_back(c.rule, RulesState::Line{});
        for (const auto& row : c.rows) {
            if (here && row.line == state_.line())
                at = static_cast<int>(all.size());
            all.emplace_back(c.rule, row.line);
        }
    }
    if (all.empty())
        return;
    const auto& [rule, line] = all[static_cast<std::size_t>(std::clamp(at + by, 0, static_cast<int>(all.size()) - 1))];
    state_.choose(rule, line);
}

void RuleView::moveAlong(int by) {
    const auto* row = chosenRow();
    if (!row)
        return;
    QStringList gaps;
    for (const auto& piece : row->pieces)
        if (!piece.gap.isEmpty())
            gaps << piece.gap;
    if (gaps.isEmpty() || !state_.rule())
        return;
    const auto at = static_cast<int>(gaps.indexOf(q(state_.gap())));
    const int to = at < 0 ? (by > 0 ? 0 : static_cast<int>(gaps.size()) - 1)
                          : std::clamp(at + by, 0, static_cast<int>(gaps.size()) - 1);
    state_.choose(state_.rule()->id, row->line, gaps[to].toStdString());
}

void RuleView::keyPressEvent(QKeyEvent* e) {
    switch (e->key()) {
    case Qt::Key_Down:
        return moveOver(1);
    case Qt::Key_Up:
        return moveOver(-1);
    case Qt::Key_Right:
        return moveAlong(1);
    case Qt::Key_Left:
        return moveAlong(-1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (const auto* row = chosenRow(); row && state_.gap().empty())
            moveAlong(1);
        if (const auto* row = chosenRow())
            for (const auto& piece : row->pieces)
                if (piece.gap == q(state_.gap()) && !piece.gap.isEmpty())
                    return emit wantsGap(state_.gap(), piece.rect.toAlignedRect());
        return;
    default:
        QWidget::keyPressEvent(e);
    }
}

void RuleView::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasFormat(driveMime))
        e->acceptProposedAction();
}

void RuleView::dragMoveEvent(QDragMoveEvent* e) {
    const bool over =
        std::any_of(cards_.begin(), cards_.end(), [&](const auto& c) { return c.rect.contains(e->position()); });
    over ? e->acceptProposedAction() : e->ignore();
}

void RuleView::dropEvent(QDropEvent* e) {
    const auto paths = parametersIn(*e->mimeData());
    const auto signal = paths.isEmpty() ? std::nullopt : signalOf(state_.project(), paths.front().toStdString());
    if (!signal)
        return state_.session().report("Rules hear and set single values: drag one of its fields.");
    e->acceptProposedAction();
    for (const auto& c : cards_) {
        if (!c.rect.contains(e->position()))
            continue;
        for (const auto& row : c.rows)
            for (const auto& piece : row.pieces)
                if (!piece.gap.isEmpty() && piece.rect.contains(e->position())) {
                    state_.choose(c.rule, row.line, piece.gap.toStdString());
                    state_.fill(piece.gap.toStdString(), q(signal->path));
                    return;
                }
        state_.choose(c.rule);
        emit wantsLine(signal->pulse      ? "when " + q(signal->label) + " "
                       : signal->settable ? "then set " + q(signal->label) + " to "
                                          : "when " + q(signal->label) + " ");
        return;
    }
}

void RuleView::contextMenuEvent(QContextMenuEvent* e) {
    emit wantsMenu(e->globalPos());
}

std::vector<PaintedPart> RuleView::paintedParts() const {
    std::vector<PaintedPart> all;
    for (const auto& c : cards_) {
        const bool chosen = state_.rule() && state_.rule()->id == c.rule;
        all.push_back({c.name, c.on ? "at work" : "switched off", c.rect, chosen && state_.line().at < 0});
        for (const auto& row : c.rows) {
            QString text = row.word;
            for (const auto& piece : row.pieces)
                text += " " + piece.text;
            all.push_back({text, "", row.rect, chosen && state_.line() == row.line});
        }
    }
    return all;
}

void RuleView::choosePart(int index) {
    int i = 0;
    for (const auto& c : cards_) {
        if (i++ == index)
            return state_.choose(c.rule);
        for (const auto& row : c.rows)
            if (i++ == index)
                return state_.choose(c.rule, row.line);
    }
}

} // namespace loom::app
