#include "app/shell/main_window.h"
#include "app/deck/deck.h"
#include "app/shell/ask.h"
#include "app/shell/finder.h"
#include "app/shell/findings_panel.h"
#include "app/shell/findings_watch.h"
#include "app/shell/first_steps.h"
#include "app/shell/guard_bar.h"
#include "app/shell/rail.h"
#include "app/shell/room_chips.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QApplication>
#include <QCloseEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QSystemTrayIcon>

namespace loom::app {

MainWindow::MainWindow() {
    setObjectName("main");
    setWindowTitle("Nimble Loom");
    watch_ = new FindingsWatch(session_, this);
    deck_ = new Deck(session_);
    rail_ = new Rail;
    pages_ = new QStackedWidget;
    decks_ = new QStackedWidget;
    said_ = new QLabel;
    said_->setWordWrap(true);
    said_->hide();
    split_ = new QSplitter(Qt::Vertical);
    auto* upper = new QWidget;
    auto* upperRow = new QHBoxLayout(upper);
    upperRow->setContentsMargins(0, 0, 0, 0);
    upperRow->setSpacing(0);
    upperRow->addWidget(pages_, 1);
    upperRow->addWidget(panel_ = new FindingsPanel(session_));
    split_->addWidget(upper);
    split_->addWidget(decks_);
    split_->setStretchFactor(0, 1);
    split_->setChildrenCollapsible(false);
    split_->setHandleWidth(2);
    auto* middle = new QHBoxLayout;
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    middle->addWidget(rail_);
    middle->addWidget(split_, 1);
    buildTopBar();
    auto* centre = new QWidget;
    auto* all = new QVBoxLayout(centre);
    all->setContentsMargins(0, 0, 0, 0);
    all->setSpacing(0);
    all->addWidget(top_);
    all->addLayout(middle, 1);
    all->addWidget(guard_ = new GuardBar(session_));
    all->addWidget(said_);
    setCentralWidget(centre);
    finder_ = new Finder(this);
    firstSteps_ = new FirstSteps(commands_, pages_);

    connect(rail_, &Rail::chosen, this, [this](int stage) { showStage(all_[static_cast<std::size_t>(stage)].id); });
    connect(panel_, &FindingsPanel::wantsPlace, this, &MainWindow::goTo);
    connect(panel_, &FindingsPanel::wantsBack, this, &MainWindow::showFindings);
    connect(deck_, &Deck::wantsBack, this, [this] { stage().focus(); });
    connect(watch_, &FindingsWatch::changed, this, &MainWindow::refreshFindings);
    connect(&commands_, &Commands::refused, this, [this](const QString& why) { session_.report(why); });
    connect(&session_, &Session::fileChanged, this, &MainWindow::refresh);
    connect(&session_, &Session::changed, this, &MainWindow::offerFirstSteps);
    connect(&session_, &Session::surfacesChanged, this, &MainWindow::offerFirstSteps);
    connect(&session_, &Session::opened, this, [this] { firstSteps_->comeBack(); });
    connect(&session_, &Session::said, this, [this](const QString& text, bool bad) {
        said_->setText(text);
        said_->setStyleSheet(QString("background: %1; color: %2; padding: 6px 16px; font-weight: bold")
                                 .arg((bad ? tokens().faultTint : tokens().saffronTint).name(),
                                      (bad ? tokens().fault : tokens().ink).name()));
        said_->show();
        saidGone_.start(bad ? 9000 : 4000);
    });
    saidGone_.setSingleShot(true);
    connect(&saidGone_, &QTimer::timeout, said_, &QWidget::hide);
    connect(&Theme::get(), &Theme::changed, this, [this] {
        applyTheme();
        sizeDeck();
    });
    addCommands();
    takeStages();
    applyTheme();
    resize(1280, 800);
    sizeDeck();
    showStage(all_.front().id);
}

// The views go before the session they look at: a field that loses the focus still commits what was typed. Decks go
// first: they look at what pages hold.
MainWindow::~MainWindow() {
    delete finder_;
    while (decks_->count())
        delete decks_->widget(0);
    delete takeCentralWidget();
}

void MainWindow::takeStages() {
    for (const auto& make : stageMakers())
        all_.push_back(make(*this));
    std::stable_sort(all_.begin(), all_.end(), [](const auto& a, const auto& b) { return a.order < b.order; });
    rail_->setStages(all_);
    decks_->addWidget(deck_);
    for (auto& s : all_) {
        pages_->addWidget(s.page);
        if (s.deck)
            decks_->addWidget(s.deck);
        const auto show = [this, id = s.id] { showStage(id); };
        commands_.add(Command("go." + s.id, "Go to " + s.name, show).on(QString("Ctrl+%1").arg(s.order % 10)));
        for (auto& c : s.commands)
            commands_.add(std::move(c), show);
        s.commands.clear();
    }
}

void MainWindow::buildTopBar() {
    top_ = new QWidget;
    top_->setObjectName("top");
    top_->setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(top_);
    row->setContentsMargins(16, 2, 12, 2);
    auto* names = new QVBoxLayout;
    names->setSpacing(0);
    names->addWidget(name_ = new QLabel);
    names->addWidget(file_ = new QLabel);
    row->addLayout(names);
    row->addSpacing(16);
    row->addWidget(rooms_ = new RoomChips);
    row->addStretch(1);
    row->addWidget(find_ = new QPushButton("Find or do\u2026   Ctrl+K"));
    row->addWidget(state_ = new QLabel);
    row->addWidget(findings_ = new QPushButton);
    find_->setObjectName("find");
    connect(rooms_, &RoomChips::chosen, this, [this](const std::string& room) { goTo({.room = room}); });
    connect(find_, &QPushButton::clicked, this, &MainWindow::find);
    connect(findings_, &QPushButton::clicked, this, &MainWindow::showFindings);
}

const Stage& MainWindow::stage() const {
    return all_[static_cast<std::size_t>(qMax(0, pages_->currentIndex()))];
}

// Where something is dealt with: the stage that is named for it, else the last one in the order of the work that has
// it.
void MainWindow::goTo(const Target& place) {
    const auto shows = [&](const Stage& s, bool named) {
        if ((s.name == place.stage) != named || !s.show || !s.show(place))
            return false;
        showStage(s.id);
        return true;
    };
    for (const bool named : {true, false})
        for (auto s = all_.rbegin(); s != all_.rend(); ++s)
            if (shows(*s, named))
                return;
}

void MainWindow::offer(std::vector<Findable> list) {
    finder_->open(std::move(list));
}

// Commands, and what every stage finds.
void MainWindow::find() {
    std::vector<Findable> all;
    for (const auto& c : commands_.all())
        all.push_back({"do", c.text, keysText(c), [this, id = c.id] { commands_.run(id); }});
    for (const auto& s : all_)
        if (s.find)
            s.find(all);
    for (const auto& f : watch_->found())
        all.push_back({"finding", q(f.place + ": " + f.reason), "",
                       [this, place = Target{q(f.stage()), f.device, f.block}] { goTo(place); }});
    finder_->open(std::move(all), "recent");
}

void MainWindow::applyTheme() {
    setStyleSheet(Theme::get().sheet());
    top_->setStyleSheet(QString("#top { background: %1; }").arg(tokens().card.name()));
    top_->setMinimumHeight(Theme::get().ipx(44));
    name_->setStyleSheet(QString("font-weight: bold; font-size: %1px").arg(Theme::get().ipx(13)));
    file_->setStyleSheet(QString("color: %1; font-size: %2px").arg(tokens().ink2.name()).arg(Theme::get().ipx(11)));
    refresh();
    refreshFindings();
}

// The deck grows with the text, but the stage keeps the larger half.
void MainWindow::sizeDeck() {
    const int deck = qMin(Theme::get().ipx(240), height() * 46 / 100);
    split_->setSizes({height() - top_->height() - deck, deck});
}

void MainWindow::refresh() {
    const auto& p = session_.project();
    name_->setText(
        name_->fontMetrics().elidedText(q(p.name), Qt::ElideRight, qMax(Theme::get().ipx(110), width() / 4)));
    name_->setToolTip(q(p.name));
    const QString file = session_.path().isEmpty() ? "not saved yet" : QFileInfo(session_.path()).fileName();
    file_->setText(file + (session_.path().isEmpty() ? ""
                           : session_.readingOnly()  ? " \u00b7 reading only"
                           : session_.dirty()        ? " \u00b7 changed"
                                                     : " \u00b7 saved"));
    refreshState();
    refreshRooms();
    offerFirstSteps();
    emit refreshed();
}

void MainWindow::refreshState() {
    StateWord word{"Drafting", tokens().ink3};
    for (const auto& s : all_)
        if (const auto said = s.state ? s.state() : std::nullopt)
            word = *said;
    state_->setText(QString("<span style='color:%1'>\u25cf</span> %2").arg(word.dot.name(), word.text));
}

void MainWindow::refreshRooms() {
    rooms_->show(session_.project(), stage().room ? stage().room() : "");
}

void MainWindow::refreshFindings() {
    int fix = 0, note = 0;
    const auto& found = watch_->found();
    for (const auto& f : found)
        if (!f.dismissed())
            (f.severity() == project::Severity::fix ? fix : note)++;
    if (panel_->isVisible())
        panel_->show(found);
    findings_->setText(fix + note == 0 ? QString("no findings")
                                       : QString("%1 to fix \u00b7 %2 to note").arg(fix).arg(note));
    findings_->setStyleSheet(
        fix ? QString("background: %1; color: %2; border: 0").arg(tokens().faultTint.name(), tokens().fault.name())
            : QString("border: 0; background: transparent"));
    for (std::size_t i = 0; i < all_.size(); ++i)
        rail_->setFindings(static_cast<int>(i),
                           static_cast<int>(std::count_if(found.begin(), found.end(), [&](const auto& f) {
                               return !f.dismissed() && q(f.stage()) == all_[i].name;
                           })));
}

void MainWindow::beat() {
    if (stage().beat)
        stage().beat();
}

void MainWindow::showStage(const QString& id) {
    const auto it = std::find_if(all_.begin(), all_.end(), [&](const auto& s) { return s.id == id; });
    if (it == all_.end())
        return;
    if (pages_->currentWidget() != it->page)
        firstSteps_->comeBack();
    pages_->setCurrentWidget(it->page);
    rail_->setCurrent(static_cast<int>(it - all_.begin()));
    if (it->deck)
        decks_->setCurrentWidget(it->deck);
    decks_->setVisible(it->deck);
    if (it->shown)
        it->shown();
    refresh();
    it->focus();
}

void MainWindow::stepTaken() {
    firstSteps_->goAway(stage().name);
}

void MainWindow::offerFirstSteps() {
    firstSteps_->offer(stage().name, stage().empty ? stage().empty() : QString(), stage().firstSteps);
}

// Opens the list of findings, or closes it.
void MainWindow::showFindings() {
    const bool open = !panel_->isVisible();
    panel_->setVisible(open);
    if (!open)
        return stage().focus();
    refreshFindings();
    panel_->takeFocus();
}

void MainWindow::alarm(const QString& text) {
    if (isActiveWindow())
        return; // the bar at the bottom says it
    QApplication::alert(this);
    if (!QSystemTrayIcon::isSystemTrayAvailable())
        return;
    auto* tray = findChild<QSystemTrayIcon*>();
    if (!tray)
        tray = new QSystemTrayIcon(windowIcon(), this);
    tray->show();
    tray->showMessage("Nimble Loom", text, QSystemTrayIcon::Warning);
}

bool MainWindow::mayLeave() {
    if (!session_.dirty())
        return true;
    const auto answer = askWhich(this, "Unsaved changes", "The project was changed since it was saved.",
                                 {"Save", "Throw the changes away", "Stay here"});
    if (answer == 0) {
        commands_.run("save");
        return !session_.dirty();
    }
    return answer == 1;
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!mayLeave())
        return e->ignore();
    session_.bench().stop();
    session_.discard(); // saved, or not wanted
    QSettings settings;
    settings.setValue("textScale", Theme::get().percent());
    settings.setValue("night", Theme::get().night());
    settings.setValue("deck", split_->saveState());
    settings.setValue("stage", stage().id);
}

} // namespace loom::app
