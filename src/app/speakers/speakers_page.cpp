#include "app/speakers/speakers_page.h"
#include "app/shell/ask.h"
#include "app/shell/flow_layout.h"
#include "app/speakers/curve_reader.h"
#include "app/speakers/loads_table.h"
#include "app/speakers/sheet_reader.h"
#include "app/speakers/voicing_plot.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "disk/safe_file.h"
#include "dsp/number.h"
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QStackedWidget>
#include <QStyle>
#include <QVBoxLayout>
#include <algorithm>
#include <map>
#include <set>

namespace loom::app {
namespace {

void emphasise(QPushButton* b, bool main) {
    if (b->property("main").toBool() == main)
        return;
    b->setProperty("main", main);
    b->style()->unpolish(b);
    b->style()->polish(b);
}

QPushButton* button(const QString& text, const char* name, const QString& tip = {}) {
    auto* b = new QPushButton(text);
    b->setObjectName(name);
    b->setToolTip(tip);
    b->setFocusPolicy(Qt::TabFocus);
    return b;
}

} // namespace

SpeakersPage::SpeakersPage(Session& session, QWidget* parent)
    : QWidget(parent), state_(session), work_([this](std::optional<project::Fitted> fitted) {
          fit_->setEnabled(true);
          if (!fitted)
              return;
          if (state_.run(project::withVoicing(state_.project(), fitted->voicing), "Fit bells to the target"))
              state_.session().report(QString("%1 dB r.m.s. from the target before, %2 dB with %3 bells.")
                                          .arg(fitted->fit.before, 0, 'f', 1)
                                          .arg(fitted->fit.after, 0, 'f', 2)
                                          .arg(fitted->fit.bells.size()),
                                      false);
      }),
      opening_([this](const Opened& opened) { takeOpened(opened); }) {
    setObjectName("speakers");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    row->addWidget(left_ = new QWidget);
    auto* middle = new QVBoxLayout;
    middle->setContentsMargins(4, 6, 4, 6);
    middle->setSpacing(4);
    tools_ = new QWidget;
    auto* tools = new FlowLayout(4);
    (new QVBoxLayout(tools_))->addLayout(tools);
    tools_->layout()->setContentsMargins(0, 0, 0, 0);
    curvesButton_ = button("Curves", "curves", "The voicing over frequency; corners and bells are dragged");
    loadsButton_ = button("Outputs and loads", "loads", "What hangs on every output, with its figures");
    phaseButton_ = button("Phase", "phase", "Phase of the sum");
    align_ = button("Align ways", "align", "Delays and polarity with which the ways add up best");
    fit_ = button("Fit bells\u2026", "fit", "Bells of the whole loudspeaker that bring the sum to its target");
    files_ = button("Files", "responses", "Measured or published responses of the ways, the target, FIR filters");
    reachButton_ = button("Reach", "reachButton", "Whom the voicing reaches, and its limits");
    for (auto* b : {curvesButton_, loadsButton_, reachButton_, phaseButton_, align_, fit_, files_})
        tools->addWidget(b);
    middle->addWidget(tools_);
    plot_ = new VoicingPlot(state_);
    loads_ = new LoadsTable(state_);
    reader_ = new SheetReader;
    curve_ = new CurveReader;
    stack_ = new QStackedWidget;
    for (QWidget* w : {static_cast<QWidget*>(plot_), static_cast<QWidget*>(loads_), static_cast<QWidget*>(reader_),
                       static_cast<QWidget*>(curve_)})
        stack_->addWidget(w);
    setAcceptDrops(true);
    middle->addWidget(stack_, 1);
    notes_ = new QLabel;
    notes_->setWordWrap(true);
    middle->addWidget(notes_);
    row->addLayout(middle, 1);
    row->addWidget(right_ = new QWidget);
    buildLeft(left_);
    buildRight(right_);
    phaseButton_->setCheckable(true);
    connect(curvesButton_, &QPushButton::clicked, this, [this] { showView(curvesView); });
    connect(loadsButton_, &QPushButton::clicked, this, [this] { showView(loadsView); });
    connect(reachButton_, &QPushButton::clicked, this, [this] {
        reachShown_ = !reachShown_;
        refresh();
    });
    connect(phaseButton_, &QPushButton::clicked, this, [this] {
        plot_->setPhase(!plot_->phase());
        showView(curvesView);
    });
    connect(align_, &QPushButton::clicked, this, &SpeakersPage::align);
    connect(fit_, &QPushButton::clicked, this, &SpeakersPage::fit);
    auto* menu = new QMenu(files_);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] {
        menu->clear();
        if (const auto* v = state_.voicing())
            for (int w = 0; w < static_cast<int>(v->ways.size()); ++w)
                connect(menu->addAction("Response of " + q(v->ways[static_cast<std::size_t>(w)].name) + "\u2026"),
                        &QAction::triggered, this, [this, w] { openResponse(w); });
        menu->addSeparator();
        if (const auto* v = state_.voicing())
            for (int w = 0; w < static_cast<int>(v->ways.size()); ++w) {
                const auto& way = v->ways[static_cast<std::size_t>(w)];
                connect(menu->addAction("Impedance curve of " + q(way.name) + "\u2026"), &QAction::triggered, this,
                        [this, w] { openImpedance(w); });
                if (project::partOf(*v, std::to_string(w + 1) + ".fir"))
                    connect(menu->addAction("Take the FIR filter out of " + q(way.name)), &QAction::triggered, this,
                            [this, w] { readTaps({}, w); });
                else
                    connect(menu->addAction("FIR filter for " + q(way.name) + "\u2026"), &QAction::triggered, this,
                            [this, w] {
                                const QString file =
                                    QFileDialog::getOpenFileName(this, "Taps or an impulse response", {},
                                                                 "Taps (*.txt *.csv *.wav *.flac);;All files (*)");
                                if (!file.isEmpty())
                                    readTaps(file, w);
                            });
            }
        menu->addSeparator();
        connect(menu->addAction("Target\u2026"), &QAction::triggered, this, [this] { openResponse(-1); });
    });
    files_->setMenu(menu);
    connect(reader_, &SheetReader::approved, this, &SpeakersPage::takeSheet);
    connect(reader_, &SheetReader::wantsFile, this, &SpeakersPage::openFile);
    connect(curve_, &CurveReader::approved, this, &SpeakersPage::takeCurve);
    connect(curve_, &CurveReader::wantsBack, this, [this] { showView(curvesView); });
    connect(reader_, &SheetReader::wantsBack, this, [this] { showView(curvesView); });
    connect(&state_, &SpeakersState::changed, this, &SpeakersPage::refresh);
    connect(&Theme::get(), &Theme::changed, this, &SpeakersPage::sizeUp);
    sizeUp();
}

void SpeakersPage::buildLeft(QWidget* left) {
    auto* box = new QVBoxLayout(left);
    box->setContentsMargins(12, 8, 8, 8);
    auto* title = new QLabel("Voicings");
    title->setStyleSheet("font-weight: bold");
    box->addWidget(title);
    voicings_ = new QListWidget;
    voicings_->setObjectName("voicings");
    voicings_->setAccessibleName("Voicings of this project");
    voicings_->setWordWrap(true);
    voicings_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    box->addWidget(voicings_, 1);
    sheetButton_ = button("From a sheet\u2026", "fromSheet",
                          "Paste or open what the maker says; it is read and shown for approval");
    auto* hand = button("By hand\u2026", "byHand", "An empty voicing of one to four ways");
    auto* library = button("Library and files", "library");
    for (auto* b : {sheetButton_, hand, library})
        box->addWidget(b);
    connect(sheetButton_, &QPushButton::clicked, this, [this] { showView(sheetView); });
    connect(hand, &QPushButton::clicked, this, &SpeakersPage::newByHand);
    connect(voicings_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
        if (item && !filling_)
            state_.choose(item->data(Qt::UserRole).toString().toStdString());
    });
    auto* menu = new QMenu(library);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] {
        menu->clear();
        connect(menu->addAction("Keep this voicing in the library"), &QAction::triggered, this,
                &SpeakersPage::keepInLibrary);
        for (const auto& kept : project::voicingLibrary())
            connect(menu->addAction("Take " + q(kept.name)), &QAction::triggered, this,
                    [this, file = kept.file, name = kept.name] { takeFile(file, "Take " + q(name)); });
        menu->addSeparator();
        const char* const words[] = {"", "this voicing", "this amplifier's set-up", "all amplifiers' set-ups"};
        for (int scope = 1; scope <= 3; ++scope) {
            connect(menu->addAction(QString("Store %1\u2026").arg(words[scope])), &QAction::triggered, this,
                    [this, scope] { askScope(true, scope); });
            connect(menu->addAction(QString(scope == 1   ? "Recall a voicing\u2026"
                                            : scope == 2 ? "Recall a set-up on this amplifier\u2026"
                                                         : "Recall set-ups\u2026")),
                    &QAction::triggered, this, [this, scope] { askScope(false, scope); });
        }
        connect(menu->addAction("Write this voicing as a sheet\u2026"), &QAction::triggered, this,
                &SpeakersPage::askSheet);
        connect(menu->addAction("Store all voicings\u2026"), &QAction::triggered, this, [this] { askScope(true, 4); });
        menu->addSeparator();
        connect(menu->addAction("Remove this voicing"), &QAction::triggered, this, &SpeakersPage::removeVoicing);
    });
    library->setMenu(menu);
}

void SpeakersPage::buildRight(QWidget* right) {
    auto* box = new QVBoxLayout(right);
    box->setContentsMargins(8, 8, 12, 8);
    auto* title = new QLabel("Whom it reaches");
    title->setStyleSheet("font-weight: bold");
    box->addWidget(title);
    reach_ = new QLabel;
    reach_->setWordWrap(true);
    reach_->setObjectName("reach");
    box->addWidget(reach_);
    loudspeakers_ = new QListWidget;
    loudspeakers_->setObjectName("loudspeakers");
    loudspeakers_->setAccessibleName("Loudspeakers; a tick gives the voicing");
    loudspeakers_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    loudspeakers_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    box->addWidget(loudspeakers_, 1);
    own_ = button("Just for this one", "ownVoicing", "A copy of the voicing for the chosen loudspeaker alone");
    box->addWidget(own_);
    limits_ = new QLabel;
    limits_->setWordWrap(true);
    limits_->setObjectName("limits");
    box->addWidget(limits_);
    connect(own_, &QPushButton::clicked, this, &SpeakersPage::ownVoicing);
    connect(loudspeakers_, &QListWidget::currentItemChanged, this, [this] {
        if (!filling_)
            refresh();
    });
    connect(loudspeakers_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        const std::string id = item->data(Qt::UserRole).toString().toStdString();
        if (filling_ || id.empty() || state_.voicingId().empty())
            return;
        const bool take = item->checkState() == Qt::Checked;
        std::vector<std::string> all{id};
        for (auto* other : loudspeakers_->selectedItems()) // all that are chosen with it
            if (item->isSelected() && other != item && !other->data(Qt::UserRole).toString().isEmpty())
                all.push_back(other->data(Qt::UserRole).toString().toStdString());
        QMetaObject::invokeMethod(
            this,
            [this, all, take] {
                if (!state_.run(project::voiced(state_.project(), all, take ? state_.voicingId() : ""),
                                take ? QString("Give %1 the voicing").arg(all.size())
                                     : QString("Take the voicing from %1").arg(all.size()))) {
                    shownLoudspeakers_.clear();
                    refresh();
                }
            },
            Qt::QueuedConnection);
    });
}

void SpeakersPage::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    refresh();
}

void SpeakersPage::showView(View view) {
    stack_->setCurrentIndex(view);
    refresh();
    takeFocus();
}

void SpeakersPage::takeFocus() {
    if (stack_->currentIndex() == sheetView)
        reader_->takeFocus();
    else if (stack_->currentIndex() == fileView)
        curve_->takeFocus();
    else
        stack_->currentWidget()->setFocus();
}

void SpeakersPage::sizeUp() {
    large_ = Theme::get().percent() > 130;
    left_->setFixedWidth(Theme::get().ipx(large_ ? 150 : 176));
    right_->setFixedWidth(Theme::get().ipx(large_ ? 190 : 220));
    refresh();
}

// Rooms as headings, their loudspeakers below; a tick has the voicing, others say which they have.
void SpeakersPage::fillLoudspeakers() {
    const auto& p = state_.project();
    const std::string now = state_.voicingId();
    struct Row {
        QString text, id; // no id: a heading
        bool has = false;
    };
    std::vector<Row> rows;
    std::map<std::string, std::vector<const project::Device*>> byRoom; // "" for those without one
    std::set<std::string> reached;
    for (const auto& d : p.devices)
        if (const auto* m = d.spec(); m && m->loudspeaker) {
            const std::string room = p.room(d.room) ? d.room : "";
            byRoom[room].push_back(&d);
            if (!now.empty() && d.voicing == now)
                reached.insert(room);
        }
    std::vector<std::pair<std::string, std::string>> rooms; // id and name
    for (const auto& b : p.buildings)
        for (const auto& r : b.rooms)
            rooms.emplace_back(r.id, r.name);
    rooms.emplace_back("", "no room");
    std::stable_partition(rooms.begin(), rooms.end(), [&](const auto& room) { return reached.count(room.first) > 0; });
    QString key = q(now) + QString::number(Theme::get().percent()) + (Theme::get().night() ? "n" : "d");
    for (const auto& [id, name] : rooms) {
        if (!byRoom.count(id))
            continue;
        rows.push_back({q(name), {}});
        for (const auto* d : byRoom[id]) {
            const auto* v = p.voicing(d->voicing);
            const bool has = v && v->id == now;
            rows.push_back({q(d->name) + (v && !has ? "  (" + q(v->name) + ")" : QString()), q(d->id), has});
        }
    }
    for (const auto& row : rows)
        key += row.id + '\t' + row.text + (row.has ? '+' : '-');
    if (key == shownLoudspeakers_)
        return;
    shownLoudspeakers_ = key;
    const auto* chosen = loudspeakers_->currentItem();
    const QString held = chosen ? chosen->data(Qt::UserRole).toString() : QString();
    loudspeakers_->clear();
    loudspeakers_->setStyleSheet("QListWidget { background: transparent; border: 0; }");
    for (const auto& row : rows) {
        auto* item = new QListWidgetItem(row.text, loudspeakers_);
        if (row.id.isEmpty()) {
            item->setFlags(Qt::NoItemFlags);
            item->setForeground(tokens().ink2);
            item->setFont(Theme::get().text(10, true));
            continue;
        }
        item->setData(Qt::UserRole, row.id);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable |
                       (now.empty() ? Qt::NoItemFlags : Qt::ItemIsUserCheckable));
        if (!now.empty())
            item->setCheckState(row.has ? Qt::Checked : Qt::Unchecked);
        if (row.id == held)
            loudspeakers_->setCurrentItem(item);
    }
}

void SpeakersPage::refresh() {
    if (!isVisible()) // it is filled when it is shown
        return;
    filling_ = true;
    const auto& p = state_.project();
    const auto* v = state_.voicing();
    voicings_->clear();
    voicings_->setStyleSheet("QListWidget { background: transparent; border: 0; } QListWidget::item { padding: 3px; }");
    for (const auto& one : p.voicings) {
        const auto reached = project::reachOf(p, one.id).size();
        auto* item = new QListWidgetItem(
            q(one.name) + QString("\n%1 %2 \u00b7 %3")
                              .arg(one.ways.size())
                              .arg(one.ways.size() == 1 ? "way" : "ways")
                              .arg(reached == 0 ? QString("no loudspeaker yet")
                                                : QString("%1 %2").arg(reached).arg(reached == 1 ? "loudspeaker"
                                                                                                 : "loudspeakers")),
            voicings_);
        item->setData(Qt::UserRole, q(one.id));
        if (one.id == state_.voicingId())
            voicings_->setCurrentItem(item);
    }
    fillLoudspeakers();
    reach_->setText(v ? state_.reachText() : QString("A voicing says what loudspeakers bear and how they sound."));
    reach_->setStyleSheet("color: " + tokens().ink2.name());
    const auto* chosen = loudspeakers_->currentItem();
    const auto* d = chosen ? p.device(chosen->data(Qt::UserRole).toString().toStdString()) : nullptr;
    own_->setEnabled(d && v && d->voicing == v->id && project::reachOf(p, v->id).size() > 1);
    QStringList limits;
    for (const auto& f : state_.outputs())
        if (v && f.voicing == v->name && f.protection && limits.size() < 4)
            limits << QString("%1 %2: %3")
                          .arg(q(p.device(f.amplifier)->name), q(f.port),
                               f.limited ? QString("%1 V peak, %2 V for long")
                                               .arg(f.protection->peak.volts, 0, 'f', 0)
                                               .arg(f.protection->thermal.volts, 0, 'f', 0)
                                         : QString("no limiter works"));
    limits_->setText(limits.isEmpty() ? QString() : "<b>Limits at the outputs</b><br>" + limits.join("<br>"));
    limits_->setVisible(!limits.isEmpty() && !large_);
    const int view = stack_->currentIndex();
    emphasise(curvesButton_, view == curvesView);
    emphasise(loadsButton_, view == loadsView);
    emphasise(sheetButton_, view == sheetView || (!v && view == curvesView));
    phaseButton_->setChecked(plot_->phase());
    emphasise(phaseButton_, plot_->phase() && view == curvesView);
    for (auto* b : {align_, fit_, files_, phaseButton_})
        b->setVisible(view == curvesView);
    align_->setEnabled(v && v->ways.size() > 1);
    fit_->setEnabled(v && !work_.busy());
    files_->setEnabled(v);
    right_->setVisible(view == curvesView && (!large_ || reachShown_));
    const bool wide = large_ && (view == sheetView || view == fileView || (view == curvesView && reachShown_));
    left_->setVisible(view != loadsView && !wide); // the table wants the room
    reachButton_->setVisible(large_ && view == curvesView);
    emphasise(reachButton_, reachShown_);
    tools_->setVisible(view != sheetView && view != fileView);
    QStringList notes;
    if (view == curvesView)
        for (const auto& n : state_.curves().notes)
            notes << q(n);
    notes_->setText(notes.mid(0, 3).join("  "));
    notes_->setStyleSheet("color: " + tokens().ink2.name());
    notes_->setVisible(!notes.isEmpty());
    filling_ = false;
}

// ---- what is done ----

void SpeakersPage::newByHand() {
    QStringList counts;
    for (std::size_t n = 1; n <= project::mostWays; ++n)
        counts << QString::number(n);
    const auto said =
        ask(this, "A voicing by hand", {{"Name"}, {"Ways, each with an amplifier of its own", "1", counts, false}});
    const QString name = said ? said->front().trimmed() : QString();
    if (name.isEmpty())
        return;
    const int ways = said->back().toInt();
    const auto id = project::freeVoicingId(state_.project(), name.toStdString());
    if (state_.run(project::withVoicing(state_.project(), project::newVoicing(id, name.toStdString(), ways)),
                   "New voicing " + name)) {
        state_.choose(id);
        showView(curvesView);
    }
}

void SpeakersPage::takeSheet() {
    std::vector<std::string> over;
    auto v = project::voicingFrom(reader_->sheet(), reader_->leftOut(), "new", &over);
    if (v.name == "new")
        v.name = "Voicing";
    v.id = project::freeVoicingId(state_.project(), v.name);
    if (!state_.run(project::withVoicing(state_.project(), v), "Voicing of a sheet: " + q(v.name)))
        return;
    state_.choose(v.id);
    showView(curvesView);
    QString kept;
    if (reader_->remembers()) {
        const auto done = project::keepPattern(reader_->pattern());
        if (!done)
            return state_.session().report(done.error());
        kept = " What you said is kept for " +
               (reader_->pattern().maker.empty() ? QString("sheets like this")
                                                 : "sheets of " + q(reader_->pattern().maker)) +
               ".";
    }
    if (!over.empty())
        state_.session().report("Left out: " + q(over.front()) + kept);
    else
        state_.session().report(q(v.name) + " is made. Now tick the loudspeakers that have it." + kept, false);
}

void SpeakersPage::removeVoicing() {
    if (state_.voicing())
        state_.run(project::withoutVoicing(state_.project(), state_.voicingId()),
                   "Remove " + q(state_.voicing()->name));
}

void SpeakersPage::ownVoicing() {
    const auto* item = loudspeakers_->currentItem();
    const std::string id = item ? item->data(Qt::UserRole).toString().toStdString() : "";
    if (id.empty())
        return state_.session().report("Choose the loudspeaker first, in the list at the right.");
    std::string made;
    if (state_.run(project::withOwnVoicing(state_.project(), id, &made),
                   "A voicing of its own for " + q(state_.project().device(id)->name)))
        state_.choose(made);
}

void SpeakersPage::align() {
    if (!state_.voicing())
        return state_.session().report("Choose a voicing first.");
    const auto a = project::withAlignment(state_.project(), *state_.voicing());
    if (!a)
        return state_.session().report(a.error());
    QStringList found;
    for (const auto& f : a->found)
        found << QString("%1 ms%2, %3 dB gained")
                     .arg(f.delayMs, 0, 'f', 2)
                     .arg(f.inverted ? ", turned round" : "")
                     .arg(f.gainedDb, 0, 'f', 1)
                     .replace('-', QChar(0x2212));
    if (state_.run(project::withVoicing(state_.project(), a->voicing), "Align ways"))
        state_.session().report("Each way against the one below: " + found.join("; ") + ".", false);
}

void SpeakersPage::fit() {
    const auto* v = state_.voicing();
    if (!v)
        return state_.session().report("Choose a voicing first.");
    const auto said = askOne(this, "Fit bells", {"From, to (Hz), and how many bells at most", "120 12000 8"});
    if (!said)
        return;
    const QString& text = *said;
    const auto numbers = typedNumbers(text.toStdString()).value_or(std::vector<double>{});
    const double from = numbers.size() > 1 ? numbers[0] : 0, to = numbers.size() > 1 ? numbers[1] : 0;
    const int bells = numbers.size() > 2 ? static_cast<int>(qBound(0.0, numbers[2], 1000.0)) : 8;
    if (numbers.size() < 2 || numbers.size() > 3 || bells < 1 || bells > static_cast<int>(project::mostBells))
        return state_.session().report("\"" + text.left(40) +
                                       "\" was not understood. Type 120 12000 8: from, to, and one to eight bells.");
    if (const auto probe = project::withFit(state_.project(), *v, from, to, 1,
                                            [] {
                                                std::stop_source s;
                                                s.request_stop();
                                                return s.get_token();
                                            }());
        !probe)
        return state_.session().report(probe.error());
    fit_->setEnabled(false);
    work_.start([copy = state_.project(), voicing = *v, from, to,
                 bells](std::stop_token stop) -> std::optional<project::Fitted> {
        auto f = project::withFit(copy, voicing, from, to, bells, std::move(stop));
        return f ? std::optional(*f) : std::nullopt;
    });
}

void SpeakersPage::keepInLibrary() {
    if (!state_.voicing())
        return state_.session().report("Choose a voicing first.");
    const auto kept = project::keepVoicing(state_.project(), state_.voicingId(), false);
    kept ? state_.session().report(q(state_.voicing()->name) + " is in your library now, for all projects.", false)
         : state_.session().report(kept.error());
}

void SpeakersPage::bringInStep() {
    state_.run(state_.project(), "Bring voicings in step");
}

} // namespace loom::app
