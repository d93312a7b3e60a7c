#include "app/rules/rehearsal_deck.h"
#include "app/shell/choice_box.h"
#include "app/shell/flow_layout.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "dsp/number.h"
#include "rules/search_words.h"
#include <QComboBox>
#include <QCompleter>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QStringListModel>
#include <QVBoxLayout>
#include <map>
#include <set>

namespace loom::app {

using namespace project;

namespace {

constexpr double dayRowHeight = 22, axisHeight = 22, markHeight = 18;
constexpr std::size_t mostRows = 6, mostMarks = 400, mostWhy = 300;
constexpr int mostOften = 40; // times that a rule wakes on a day before it is routine

// What is drawn as a bar: what happened from outside and has a state.
std::vector<Signal> rowsOf(const Rehearsal& r) {
    std::vector<Signal> all;
    for (const auto& h : r.happened()) {
        if (std::any_of(all.begin(), all.end(), [&](const Signal& s) { return s.path == h.signal; }))
            continue;
        if (auto s = signalOf(r.project(), h.signal); s && !s->pulse && !s->isNumber() && all.size() < mostRows)
            all.push_back(std::move(*s));
    }
    return all;
}

// Rules that wake all the time, as every minute: they would hide the others.
std::set<std::string> routineOf(const Rehearsal& r) {
    std::map<std::string, int> woken;
    std::set<std::string> all;
    for (const auto& e : r.events())
        if (e.kind == RuleEvent::Kind::woke && ++woken[e.rule] > mostOften)
            all.insert(e.rule);
    return all;
}

} // namespace

DayView::DayView(RulesState& state, QWidget* parent) : QWidget(parent), state_(state) {
    setObjectName("dayView");
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("The rehearsed day");
    connect(&state, &RulesState::rehearsed, this, [this] {
        if (!state_.rehearsal())
            looked_.reset();
        update();
    });
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

QSize DayView::sizeHint() const {
    return {Theme::get().ipx(300), Theme::get().ipx(120)};
}

double DayView::left() const {
    return px(120);
}

double DayView::xOf(Millis at) const {
    const double w = width() - left() - px(8);
    return left() + w * static_cast<double>(at) / std::max<double>(1, static_cast<double>(state_.end()));
}

Millis DayView::atX(double x) const {
    const double w = width() - left() - px(8);
    return static_cast<Millis>(std::clamp((x - left()) / w, 0.0, 1.0) * static_cast<double>(state_.end()));
}

void DayView::look(std::optional<Millis> at) {
    looked_ = at;
    update();
    emit lookedChanged();
}

void DayView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const auto* r = state_.rehearsal();
    p.setFont(Theme::get().text(12));
    if (!r) {
        p.setPen(tokens().ink2);
        p.drawText(QRectF(rect()).adjusted(px(4), px(8), -px(8), 0), Qt::TextWordWrap,
                   "Begin a day: time passes faster than real, you press, open walls and let devices go, and see what "
                   "each rule "
                   "does and why. Nothing real is touched.");
        return;
    }
    const Millis hour = 60 * minute, whole = state_.end();
    const double bottom = height() - px(axisHeight);
    // Hours, as many as can be read.
    const double perHour = (width() - left()) / std::max(1.0, static_cast<double>(whole) / static_cast<double>(hour));
    const int every = perHour > px(60) ? 1 : perHour > px(30) ? 2 : perHour > px(15) ? 4 : 8;
    const auto& zone = r->book().zone();
    const auto begin = zone.local(r->begins());
    for (Millis t = (hour - begin.ofDay % hour) % hour; t <= whole; t += hour) {
        const auto h = (begin.ofDay + t) / hour;
        if (h % every != 0)
            continue;
        p.setPen(QPen(tokens().hair, 1));
        p.drawLine(QPointF(xOf(t), 0), QPointF(xOf(t), bottom));
        p.setPen(tokens().ink2);
        p.setFont(Theme::get().number(10));
        p.drawText(QRectF(xOf(t) - px(30), bottom + px(2), px(60), px(18)), Qt::AlignHCenter,
                   QString("%1:00").arg(h % 24, 2, 10, QChar('0')));
    }
    double y = px(2);
    const auto rows = rowsOf(*r);
    for (std::size_t i = 0; i < rows.size() && y + px(dayRowHeight) < bottom - px(markHeight); ++i) {
        p.setFont(Theme::get().text(11, true));
        p.setPen(tokens().ink);
        p.drawText(QRectF(px(4), y, left() - px(10), px(18)), Qt::AlignVCenter,
                   QFontMetricsF(p.font()).elidedText(q(rows[i].label), Qt::ElideRight, left() - px(10)));
        p.setPen(Qt::NoPen);
        p.setBrush(tokens().card);
        p.drawRoundedRect(QRectF(left(), y + px(2), xOf(whole) - left(), px(14)), px(3), px(3));
        const auto course = r->course(rows[i].path);
        const double rest = restingValue(r->project(), rows[i]).value_or(0);
        p.setBrush(tokens().threads[(i + 3) % 8]);
        for (std::size_t k = 0; k < course.size(); ++k) {
            const Millis to = k + 1 < course.size() ? course[k + 1].first : r->now();
            if (std::abs(course[k].second - rest) > 1e-9)
                p.drawRoundedRect(
                    QRectF(xOf(course[k].first), y + px(2), std::max(px(2), xOf(to) - xOf(course[k].first)), px(14)),
                    px(3), px(3));
        }
        y += px(dayRowHeight);
    }
    // What rules did: a mark for each, with its name where there is room.
    double lastEnd = -1e9, markY = y + px(2);
    std::size_t marks = 0;
    const auto routine = routineOf(*r);
    for (const auto& e : r->events()) {
        const bool woke = e.kind == RuleEvent::Kind::woke || e.kind == RuleEvent::Kind::made,
                   bad = e.kind == RuleEvent::Kind::held || e.kind == RuleEvent::Kind::failed ||
                         e.kind == RuleEvent::Kind::missed || e.kind == RuleEvent::Kind::stopped;
        const bool dull = routine.count(e.rule) && e.kind != RuleEvent::Kind::failed;
        if ((!woke && !bad) || dull || ++marks > mostMarks)
            continue;
        const double x = xOf(e.utc - r->begins());
        p.setPen(Qt::NoPen);
        p.setBrush(bad ? tokens().fault : tokens().ok);
        const double rowY = x < lastEnd ? markY + px(markHeight) : markY;
        if (bad) { // told by shape too
            p.setPen(QPen(tokens().fault, px(1.6)));
            p.drawLine(QPointF(x - px(3), rowY + px(4)), QPointF(x + px(3), rowY + px(10)));
            p.drawLine(QPointF(x - px(3), rowY + px(10)), QPointF(x + px(3), rowY + px(4)));
        } else {
            p.drawEllipse(QPointF(x, rowY + px(7)), px(3.5), px(3.5));
        }
        const auto* rule = state_.project().rule(e.rule);
        p.setFont(Theme::get().text(10));
        const auto name = rule ? q(rule->name) : QString();
        const double w = QFontMetricsF(p.font()).horizontalAdvance(name);
        if (x > lastEnd - px(2) && x + px(8) + w < width() && !bad) {
            p.setPen(tokens().ink);
            p.drawText(QRectF(x + px(7), markY, w + px(4), px(14)), Qt::AlignVCenter, name);
            lastEnd = x + px(12) + w;
        }
    }
    const double nowX = xOf(looked_.value_or(r->now()));
    p.setPen(QPen(tokens().saffron, px(2)));
    p.drawLine(QPointF(nowX, 0), QPointF(nowX, bottom));
    if (hasFocus()) {
        p.setPen(QPen(tokens().saffron, px(1)));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
    }
}

void DayView::mousePressEvent(QMouseEvent* e) {
    if (!state_.rehearsal())
        return;
    const auto at = atX(e->position().x());
    if (at > state_.rehearsal()->now()) { // ahead: time goes there
        look({});
        return state_.goTo(at);
    }
    look(at);
}

void DayView::mouseMoveEvent(QMouseEvent* e) {
    if (state_.rehearsal() && (e->buttons() & Qt::LeftButton))
        look(std::min(atX(e->position().x()), state_.rehearsal()->now()));
}

void DayView::keyPressEvent(QKeyEvent* e) {
    const auto* r = state_.rehearsal();
    if (!r || (e->key() != Qt::Key_Left && e->key() != Qt::Key_Right))
        return QWidget::keyPressEvent(e);
    const Millis at = looked_.value_or(r->now()); // from one thing that happened to the next
    std::optional<Millis> to;
    for (const auto& one : r->events()) {
        const Millis t = one.utc - r->begins();
        if (e->key() == Qt::Key_Left ? t < at : t > at) {
            to = t;
            if (e->key() == Qt::Key_Right)
                break;
        }
    }
    look(to ? to : e->key() == Qt::Key_Right ? std::nullopt : looked_);
}

// ---- the deck ----

RehearsalDeck::RehearsalDeck(RulesState& state, QWidget* parent)
    : QWidget(parent), state_(state), title_(new QLabel("Rehearsal")), now_(new QLabel), tests_(new QLabel),
      begins_(new QLineEdit("2026-03-02 08:00")), happens_(new QLineEdit), speed_(new ChoiceBox),
      begin_(new QPushButton("Begin the day")), play_(new QPushButton), end_(new QPushButton("To its end")),
      keep_(new QPushButton("Keep as a test\u2026")), day_(new DayView(state)), why_(new QListWidget),
      side_(new QWidget) {
    setObjectName("rehearsalDeck");
    setAccessibleName("Deck: rehearsal");
    setAutoFillBackground(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(12, 6, 12, 6);
    auto* top = new QWidget;
    auto* row = new FlowLayout;
    top->setLayout(row);
    begins_->setObjectName("rehearsalBegins");
    begins_->setAccessibleName("The rehearsed day begins");
    begins_->setToolTip("Date and time at which the day begins, where the project is");
    begin_->setObjectName("rehearsalBegin");
    begin_->setProperty("main", true);
    play_->setObjectName("rehearsalPlay");
    end_->setObjectName("rehearsalEnd");
    keep_->setObjectName("rehearsalKeep");
    happens_->setObjectName("rehearsalHappens");
    happens_->setPlaceholderText("happens now: a wall opens, a tap is pressed \u2026");
    happens_->setMinimumWidth(Theme::get().ipx(300));
    happens_->setAccessibleName("What happens now");
    speed_->setObjectName("rehearsalSpeed");
    speed_->setAccessibleName("How fast time passes");
    for (const int times : {1, 10, 60, 300, 1000})
        speed_->addItem(QString("%1\u00d7").arg(times), times);
    speed_->setCurrentIndex(2);
    tests_->setObjectName("rehearsalTests");
    for (auto* w : std::initializer_list<QWidget*>{title_, begins_, begin_, play_, speed_, end_, happens_, now_})
        row->addWidget(w);
    box->addWidget(top);
    auto* lower = new QHBoxLayout;
    lower->addWidget(day_, 3);
    auto* why = new QVBoxLayout(side_);
    why->setContentsMargins(0, 0, 0, 0);
    why_->setObjectName("rehearsalWhy");
    why_->setAccessibleName("What happened then, and why");
    why_->setFrameShape(QFrame::NoFrame);
    why_->setWordWrap(true);
    why_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    why_->setResizeMode(QListView::Adjust);
    why->addWidget(why_, 1);
    auto* foot = new QWidget;
    auto* footRow = new FlowLayout;
    foot->setLayout(footRow);
    footRow->addWidget(keep_);
    footRow->addWidget(tests_);
    why->addWidget(foot);
    lower->addWidget(side_, 2);
    box->addLayout(lower, 1);
    connect(begin_, &QPushButton::clicked, this,
            [this] { emit wants(state_.rehearsal() ? "rules.drop" : "rules.rehearse"); });
    connect(play_, &QPushButton::clicked, this, [this] { emit wants("rules.play"); });
    connect(end_, &QPushButton::clicked, this, [this] { emit wants("rules.toEnd"); });
    connect(keep_, &QPushButton::clicked, this, [this] { emit wants("rules.keepTest"); });
    connect(begins_, &QLineEdit::returnPressed, this, [this] { state_.begin(begins()); });
    connect(speed_, &QComboBox::activated, this, [this] {
        if (state_.playing())
            state_.play(times());
    });
    connect(happens_, &QLineEdit::returnPressed, this, [this] {
        if (!happens_->text().trimmed().isEmpty() && state_.happen(happens_->text()))
            happens_->clear();
    });
    auto* words = new QStringListModel(this);
    auto* completer = new QCompleter(words, this);
    completer->setFilterMode(Qt::MatchContains);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    happens_->setCompleter(completer);
    const auto known = [this, words] {
        QStringList all;
        for (const auto& s : happenings(state_.project())) {
            if (s.pulse)
                all << q(s.label);
            else if (s.spec.choices.empty())
                all << q(s.label + " 0.5");
            for (const auto& state : s.spec.choices)
                all << q(s.label + " " + state);
        }
        words->setStringList(all);
    };
    connect(&state, &RulesState::changed, this, known);
    connect(&state, &RulesState::rehearsed, this, &RehearsalDeck::refresh);
    connect(&state, &RulesState::testsDone, this, &RehearsalDeck::refresh);
    connect(day_, &DayView::lookedChanged, this, [this] {
        shownFor_ = {-1, -1};
        fillWhy();
    });
    connect(&Theme::get(), &Theme::changed, this, &RehearsalDeck::refresh);
    known();
    refresh();
}

QString RehearsalDeck::begins() const {
    auto text = begins_->text().trimmed();
    if (text.size() == 10)
        text += " 00:00";
    return text;
}

double RehearsalDeck::times() const {
    return speed_->currentData().toDouble();
}

void RehearsalDeck::takeFocus() {
    (state_.rehearsal() ? static_cast<QWidget*>(happens_) : begin_)->setFocus();
}

void RehearsalDeck::resizeEvent(QResizeEvent* e) {
    QWidget::resizeEvent(e);
    side_->setVisible(width() > Theme::get().ipx(560) || state_.rehearsal());
}

void RehearsalDeck::refresh() {
    QPalette pal = palette();
    pal.setColor(QPalette::Window, tokens().linen);
    setPalette(pal);
    title_->setFont(Theme::get().text(13, true));
    now_->setFont(Theme::get().number(13, true));
    const bool on = state_.rehearsal();
    begin_->setText(on ? "End it" : "Begin the day");
    begins_->setVisible(!on);
    play_->setText(state_.playing() ? "Pause" : "Let time pass");
    for (auto* w : std::initializer_list<QWidget*>{play_, speed_, end_, happens_, now_, keep_})
        w->setVisible(on);
    now_->setText(on ? state_.timeText(state_.rehearsal()->now()) : QString());
    const auto& t = state_.tests();
    tests_->setText(!t || t->hold + t->fail == 0 ? QString()
                    : t->fail == 0
                        ? (t->hold == 1 ? QString("1 test, it holds") : QString("%1 tests, all hold").arg(t->hold))
                        : QString("%1 of %2 tests fail").arg(t->fail).arg(t->hold + t->fail));
    tests_->setToolTip(t ? t->first : QString());
    tests_->setStyleSheet(QString("color: %1").arg((t && t->fail ? tokens().fault : tokens().ok).name()));
    tests_->setFont(Theme::get().text(12, true));
    if (auto* l = title_->parentWidget()->layout()) {
        l->invalidate();
        l->activate();
    }
    fillWhy();
}

// What happened in the moment that is looked at, else lately.
void RehearsalDeck::fillWhy() {
    const auto* r = state_.rehearsal();
    side_->setVisible(r || !tests_->text().isEmpty());
    if (!r) {
        why_->clear();
        return;
    }
    const auto routine = routineOf(*r);
    Millis moment = -1;
    if (day_->looked()) { // the nearest thing that happened until then
        for (const auto& e : r->events())
            if (e.utc - r->begins() <= *day_->looked() + minute && !routine.count(e.rule))
                moment = std::max(moment, e.utc - r->begins());
    }
    const std::pair key{moment, static_cast<Millis>(r->events().size())};
    if (key == shownFor_)
        return;
    shownFor_ = key;
    why_->clear();
    std::vector<const RuleEvent*> list;
    for (const auto& e : r->events())
        if (moment < 0 ? !routine.count(e.rule) || e.kind == RuleEvent::Kind::failed : e.utc - r->begins() == moment)
            list.push_back(&e);
    const std::size_t from = list.size() > mostWhy ? list.size() - mostWhy : 0;
    QString at;
    for (std::size_t i = from; i < list.size(); ++i) {
        const auto& e = *list[i];
        const auto when = state_.timeText(e.utc - r->begins());
        if (std::exchange(at, when) != when) {
            auto* head = new QListWidgetItem(when, why_);
            head->setFont(Theme::get().number(12, true));
        }
        using Kind = RuleEvent::Kind;
        const QString mark =
            e.kind == Kind::held || e.kind == Kind::failed || e.kind == Kind::missed || e.kind == Kind::stopped
                ? "\u2717 "
            : e.kind == Kind::woke || e.kind == Kind::made ? "\u2713 "
            : e.kind == Kind::happened                     ? ""
                                                           : "\u2192 ";
        auto* item = new QListWidgetItem("   " + mark + q(eventText(r->project(), e)), why_);
        item->setFont(Theme::get().text(12));
        if (mark.startsWith(QChar(0x2717)))
            item->setForeground(tokens().fault);
    }
    if (moment < 0)
        why_->scrollToBottom();
}

} // namespace loom::app
