#include "app/shell/main_window.h"
#include "app/bench/bench_page.h"
#include "app/deck/deck.h"
#include "app/shell/finder.h"
#include "app/shell/findings_panel.h"
#include "app/shell/findings_watch.h"
#include "app/shell/rail.h"
#include "app/site/site_page.h"
#include "app/speakers/loads_table.h"
#include "app/speakers/speakers_deck.h"
#include "app/speakers/speakers_page.h"
#include "app/speakers/voicing_plot.h"
#include "app/survey/device_table.h"
#include "app/survey/plan_view.h"
#include "app/survey/survey_deck.h"
#include "app/survey/survey_page.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_print.h"
#include "app/weave/weave_view.h"
#include "app/weave/work_strip.h"
#include "engine/latency.h"
#include "project/catalogue.h"
#include "project/findings.h"
#include "project/program_edit.h"
#include "project/swatch.h"
#include <QCloseEvent>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QShortcut>
#include <QSplitter>
#include <QStackedWidget>
#include <QStandardPaths>

namespace loom::app {
MainWindow::MainWindow() {
    setObjectName("main");
    setWindowTitle("Nimble Loom");
    weave_ = new WeaveView(session_);
    bench_ = new BenchPage(session_);
    site_ = new SitePage(session_);
    deck_ = new Deck(session_);
    survey_ = new SurveyPage(session_);
    surveyDeck_ = new SurveyDeck(survey_->state());
    speakers_ = new SpeakersPage(session_);
    speakersDeck_ = new SpeakersDeck(speakers_->state());
    lower_ = new QStackedWidget;
    lower_->addWidget(deck_);
    lower_->addWidget(surveyDeck_);
    lower_->addWidget(speakersDeck_);
    rail_ = new Rail;
    stages_ = new QStackedWidget;
    said_ = new QLabel;
    said_->setWordWrap(true);
    said_->hide();

    auto* weavePage = new QWidget;
    auto* weaveBox = new QVBoxLayout(weavePage);
    weaveBox->setContentsMargins(0, 0, 0, 0);
    auto* weaveHead = new QHBoxLayout;
    weaveHead->setContentsMargins(16, 8, 16, 0);
    weaveHead->addWidget(device_ = new QLabel, 1);
    device_->setMinimumWidth(80); // the buttons beside it come first
    weaveHead->addWidget(processor_ = new QPushButton("Processor"));
    processor_->setObjectName("processor");
    processor_->setToolTip("Which of the project's processors is woven here");
    auto* processors = new QMenu(processor_);
    connect(processors, &QMenu::aboutToShow, this, [this, processors] {
        processors->clear();
        for (const auto& d : session_.project().devices)
            if (d.program)
                connect(processors->addAction(q(d.name)), &QAction::triggered, this,
                        [this, id = d.id] { session_.work(id); });
    });
    processor_->setMenu(processors);
    weaveHead->addWidget(load_ = new QLabel);
    weaveHead->addWidget(zoom_ = new QPushButton);
    zoom_->setFocusPolicy(Qt::NoFocus);
    zoom_->setToolTip("Whole weave (0) or life size (1); + and \u2212 or Ctrl and the wheel zoom");
    connect(zoom_, &QPushButton::clicked, this, [this] {
        weave_->zoom() < 1 ? weave_->setZoom(1) : weave_->zoomToFit();
        weave_->setFocus();
    });
    weaveHead->addWidget(run_ = new QPushButton);
    weaveBox->addLayout(weaveHead);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setWidget(weave_);
    weaveBox->addWidget(scroll, 1);
    weaveBox->addWidget(strip_ = new WorkStrip(session_, *weave_));
    connect(strip_, &WorkStrip::wantsSilence, this, &MainWindow::listen);
    connect(&session_, &Session::atWorkChanged, this, &MainWindow::refreshState);
    connect(weave_, &WeaveView::zoomed, this, &MainWindow::refreshState);
    stages_->addWidget(survey_);
    stages_->addWidget(weavePage);
    stages_->addWidget(speakers_);
    stages_->addWidget(bench_);
    stages_->addWidget(site_);

    split_ = new QSplitter(Qt::Vertical);
    auto* upper = new QWidget;
    auto* upperRow = new QHBoxLayout(upper);
    upperRow->setContentsMargins(0, 0, 0, 0);
    upperRow->setSpacing(0);
    upperRow->addWidget(stages_, 1);
    upperRow->addWidget(panel_ = new FindingsPanel(session_));
    connect(panel_, &FindingsPanel::wantsPlace, this, &MainWindow::goToPlace);
    connect(panel_, &FindingsPanel::wantsBack, this, &MainWindow::showFindings);
    split_->addWidget(upper);
    split_->addWidget(lower_);
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
    all->addWidget(said_);
    setCentralWidget(centre);
    finder_ = new Finder(this);

    connect(rail_, &Rail::chosen, this, qOverload<int>(&MainWindow::showStage));
    connect(run_, &QPushButton::clicked, this, &MainWindow::toggleBench);
    connect(bench_, &BenchPage::wantsRun, this, &MainWindow::toggleBench);
    connect(bench_, &BenchPage::wantsListen, this, &MainWindow::listen);
    connect(bench_, &BenchPage::wantsRecord, this, &MainWindow::record);
    connect(site_, &SitePage::stateChanged, this, &MainWindow::refreshState);
    connect(&site_->fleet(), &Fleet::alarm, this, [this](const std::string& text) { alarm(q(text)); });
    connect(weave_, &WeaveView::wantsListen, this, &MainWindow::listen);
    connect(weave_, &WeaveView::wantsDeck, deck_, &Deck::takeFocus);
    connect(deck_, &Deck::wantsBack, this, [this] { weave_->setFocus(); });
    connect(&survey_->state(), &SurveyState::changed, this, &MainWindow::refreshRooms);
    connect(survey_->plan(), &PlanView::wantsDeck, surveyDeck_, &SurveyDeck::takeFocus);
    connect(speakersDeck_, &SpeakersDeck::wantsBack, this, [this] { speakers_->takeFocus(); });
    connect(surveyDeck_, &SurveyDeck::wantsBack, this, [this] { survey_->plan()->setFocus(); });
    watch_ = new FindingsWatch(session_, this);
    connect(watch_, &FindingsWatch::changed, this, &MainWindow::refreshFindings);
    connect(&session_, &Session::fileChanged, this, &MainWindow::refreshState);
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
    connect(&ticks_, &QTimer::timeout, this, &MainWindow::tick);
    ticks_.start(40);
    connect(&Theme::get(), &Theme::changed, this, [this] {
        applyTheme();
        sizeDeck();
    });
    buildCommands();
    applyTheme();
    refreshState();
    resize(1280, 800);
    sizeDeck();
    showStage(weaveStage);
}

// The views go before the session they look at: a field that loses the focus still commits what was typed.
MainWindow::~MainWindow() {
    delete finder_;
    delete surveyDeck_; // it looks at the state that Survey holds
    delete speakersDeck_;
    delete takeCentralWidget();
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
    row->addWidget(rooms_ = new QWidget);
    row->addStretch(1);
    row->addWidget(find_ = new QPushButton("Find or do\u2026   Ctrl+K"));
    row->addWidget(state_ = new QLabel);
    row->addWidget(findings_ = new QPushButton);
    rooms_->setAccessibleName("Rooms");
    auto* chips = new QHBoxLayout(rooms_);
    chips->setContentsMargins(0, 0, 0, 0);
    chips->setSpacing(4);
    find_->setObjectName("find");
    connect(find_, &QPushButton::clicked, this, &MainWindow::find);
    connect(findings_, &QPushButton::clicked, this, &MainWindow::showFindings);
}

// Where a finding is dealt with: an amplifier's output, a block, or a thing on the plan.
void MainWindow::goToPlace(const QString& device, const QString& block) {
    const auto* d = session_.project().device(device.toStdString());
    const int output = speakers_->loads()->rows().rowOf(device.toStdString(), block.toStdString());
    if (output >= 0) {
        showStage(speakersStage);
        speakers_->showView(SpeakersPage::loadsView);
        speakers_->loads()->selectRow(output);
    } else
        d && d->program && !block.isEmpty() ? goTo(block) : showOnPlan(device.toStdString());
}

void MainWindow::alignChosen() {
    const QString block = session_.block().isEmpty() ? session_.lane() : session_.block();
    block.isEmpty() ? session_.report("Choose a block at which lanes meet.") : session_.align(block);
}

void MainWindow::applyTheme() {
    setStyleSheet(Theme::get().sheet());
    top_->setStyleSheet(QString("#top { background: %1; }").arg(tokens().card.name()));
    top_->setMinimumHeight(Theme::get().ipx(44));
    name_->setStyleSheet(QString("font-weight: bold; font-size: %1px").arg(Theme::get().ipx(13)));
    file_->setStyleSheet(QString("color: %1; font-size: %2px").arg(tokens().ink2.name()).arg(Theme::get().ipx(11)));
    load_->setStyleSheet(
        QString("font-family: 'JetBrains Mono'; color: %1; padding-right: 12px").arg(tokens().ink2.name()));
    refreshState();
    refreshFindings();
}

// The deck grows with the text, but the stage keeps the larger half.
void MainWindow::sizeDeck() {
    const int deck = qMin(Theme::get().ipx(240), height() * 46 / 100);
    split_->setSizes({height() - top_->height() - deck, deck});
}

void MainWindow::refreshState() {
    const auto& p = session_.project();
    name_->setText(
        name_->fontMetrics().elidedText(q(p.name), Qt::ElideRight, qMax(Theme::get().ipx(110), width() / 4)));
    name_->setToolTip(q(p.name));
    const QString file = session_.path().isEmpty() ? "not saved yet" : QFileInfo(session_.path()).fileName();
    file_->setText(file + (session_.path().isEmpty() ? ""
                           : session_.readingOnly()  ? " \u00b7 reading only"
                           : session_.dirty()        ? " \u00b7 changed"
                                                     : " \u00b7 saved"));
    const bool running = session_.bench().running();
    QString word = site_->stateWord();
    if (word.isEmpty())
        word = running ? "Bench running" : "Drafting";
    const QColor dot = running ? tokens().saffron : site_->anyUp() ? tokens().ok : tokens().ink3;
    state_->setText(QString("<span style='color:%1'>\u25cf</span> %2").arg(dot.name(), word));
    const bool preparing = session_.bench().preparing();
    run_->setText(preparing ? "Getting ready\u2026" : running ? "Stop  F5" : "Run the bench  F5");
    run_->setProperty("main", !running);
    run_->style()->unpolish(run_);
    run_->style()->polish(run_);
    const auto* d = session_.device();
    refreshRooms();
    if (!d) {
        device_->clear(), load_->clear();
        return;
    }
    int ins = 0, outs = 0;
    for (const auto& b : d->program->blocks)
        ins += engine::endOf(b) == engine::End::arrives, outs += engine::endOf(b) == engine::End::leaves;
    const auto& devices = session_.project().devices;
    processor_->setVisible(
        std::count_if(devices.begin(), devices.end(), [](const auto& one) { return one.program.has_value(); }) > 1);
    device_->setText(QString("<b>%1</b> &nbsp; <span style='color:%2'>%3 kHz \u00b7 %4 in \u00b7 %5 out</span>")
                         .arg(q(d->name), tokens().ink2.name())
                         .arg(d->rate / 1000)
                         .arg(ins)
                         .arg(outs));
    load_->setText(loadText());
    zoom_->setText(QString("%1 %").arg(qRound(weave_->zoom() * 100)));
    strip_->refresh();
}

// A chip a room, in its colour: it opens the room on the plan.
void MainWindow::refreshRooms() {
    const auto& p = session_.project();
    const std::string here = survey_->state().room();
    const bool onPlan = stages_->currentIndex() == surveyStage;
    QString key =
        QString::number(Theme::get().percent()) + (Theme::get().night() ? "n" : "l") + (onPlan ? q(here) : QString());
    std::vector<const project::Room*> rooms;
    for (const auto& b : p.buildings)
        for (const auto& r : b.rooms)
            rooms.push_back(&r), key += '|' + q(r.id + r.name + r.colour);
    if (std::exchange(roomsShown_, key) == key)
        return;
    while (auto* item = rooms_->layout()->takeAt(0)) {
        item->widget()->hide(); // at once, whoever runs the loop
        item->widget()->deleteLater();
        delete item;
    }
    const std::size_t most = Theme::get().percent() > 160   ? 1
                             : Theme::get().percent() > 120 ? 2
                                                            : 5; // the others are found by find-or-do
    for (std::size_t i = 0; i < std::min(most, rooms.size()); ++i) {
        auto* chip = new QPushButton(q(rooms[i]->name));
        chip->setObjectName("room." + q(rooms[i]->id));
        chip->setFocusPolicy(Qt::NoFocus);
        QPixmap disc(Theme::get().ipx(10), Theme::get().ipx(10));
        disc.fill(Qt::transparent);
        QPainter paint(&disc);
        paint.setRenderHint(QPainter::Antialiasing);
        paint.setPen(Qt::NoPen);
        paint.setBrush(Theme::get().thread(q(rooms[i]->colour)));
        paint.drawEllipse(disc.rect());
        paint.end();
        chip->setIcon(disc);
        chip->setProperty("main", onPlan && rooms[i]->id == here);
        connect(chip, &QPushButton::clicked, this, [this, id = rooms[i]->id] {
            showOnPlan(id);
            survey_->plan()->fitRoom();
        });
        rooms_->layout()->addWidget(chip);
    }
    if (rooms.size() > most)
        rooms_->layout()->addWidget(new QLabel(QString("+%1").arg(rooms.size() - most)));
}

// What the program takes of its processor, and by how much the last change moved that.
QString MainWindow::loadText() {
    const auto& d = *session_.device();
    const auto load = project::loadOf(d);
    const double latency = 1000.0 * engine::longestLatency(*d.program, d.rate) / d.rate;
    if (load.work != load2_.work || load.memory != load2_.memory)
        load1_ = std::exchange(load2_, load);
    load2_ = load;
    if (load.workBudget <= 0)
        return {};
    const auto percent = [](double used, double of) { return QString::number(100 * used / of, 'f', 0) + " %"; };
    const auto moved = [&](double from, double to, double of) {
        const double by = 100 * (to - from) / of;
        return from <= 0 || std::abs(by) < 0.05
                   ? QString()
                   : QString(" (%1%2)").arg(by > 0 ? "+" : QString(QChar(0x2212))).arg(std::abs(by), 0, 'f', 1);
    };
    const QString work = percent(load.work, load.workBudget) + moved(load1_.work, load2_.work, load.workBudget);
    const QString memory =
        percent(load.memory, load.memoryBudget) + moved(load1_.memory, load2_.memory, load.memoryBudget);
    QStringList dear;
    for (const auto& k : project::dearest(d, 5))
        dear << QString("%1 \u00d7 %2: %3")
                    .arg(k.count)
                    .arg(q(engine::findKind(k.kind)->label), percent(k.work, load.workBudget));
    load_->setToolTip(QString("What the program takes of its processor, and by how much the last change moved "
                              "it.\nInputs %1 of %2, outputs "
                              "%3 of %4, longest latency %5 ms.\nWhat takes most work:\n%6")
                          .arg(load.inputs)
                          .arg(load.inputPorts)
                          .arg(load.outputs)
                          .arg(load.outputPorts)
                          .arg(latency, 0, 'f', 1)
                          .arg(dear.join("\n")));
    return QString(Theme::get().percent() > 150 ? "%1  %2  %3 ms" // room for the button
                                                : "work %1   memory %2   latency %3 ms")
        .arg(work, memory)
        .arg(latency, 0, 'f', 1);
}

void MainWindow::refreshFindings() {
    int fix = 0, note = 0;
    const auto& found = watch_->found();
    for (const auto& f : found)
        if (!f.left())
            (f.severity == project::Severity::fix ? fix : note)++;
    if (panel_->isVisible())
        panel_->show(found);
    findings_->setText(fix + note == 0 ? QString("no findings")
                                       : QString("%1 to fix \u00b7 %2 to note").arg(fix).arg(note));
    findings_->setStyleSheet(
        fix ? QString("background: %1; color: %2; border: 0").arg(tokens().faultTint.name(), tokens().fault.name())
            : QString("border: 0; background: transparent"));
    const auto count = [&](const char* stage) {
        return static_cast<int>(
            std::count_if(found.begin(), found.end(), [&](const auto& f) { return !f.left() && f.stage == stage; }));
    };
    rail_->setFindings(surveyStage, count("Survey"));
    rail_->setFindings(weaveStage, count("Weave"));
    rail_->setFindings(speakersStage, count("Speakers"));
    speakers_->loads()->rows().setFindings(found);
    surveyDeck_->table()->rows().setFindings(found);
}

void MainWindow::tick() {
    if (std::optional<Trouble> trouble; session_.bench().poll(trouble))
        benchIsReady(trouble);
    for (const auto& news : session_.bench().takeNews())
        session_.report(news.text, news.bad);
    if (!session_.bench().running())
        return;
    session_.bench().tend();
    if (stages_->currentIndex() == weaveStage)
        weave_->refresh();
    else if (stages_->currentIndex() == benchStage)
        bench_->refresh();
    deck_->refreshMeters();
}

void MainWindow::showStage(int stage) {
    if (stage < 0 || stage >= stages_->count())
        return;
    stages_->setCurrentIndex(stage);
    rail_->setCurrent(stage);
    bench_->refresh();
    lower_->setCurrentWidget(stage == surveyStage     ? static_cast<QWidget*>(surveyDeck_)
                             : stage == speakersStage ? static_cast<QWidget*>(speakersDeck_)
                                                      : deck_);
    lower_->setVisible(stage != siteStage); // Site has its own lower part
    refreshState();
    QWidget* first[] = {survey_->plan(), weave_, speakers_->plot(), bench_->findChild<LevelBoard*>(), site_->first()};
    if (first[stage])
        first[stage]->setFocus();
}

void MainWindow::showStage(const QString& name) {
    for (int s = 0; s < Rail::stages().size(); ++s)
        if (Rail::stages()[s].compare(name, Qt::CaseInsensitive) == 0)
            showStage(s);
}

void MainWindow::toggleBench() {
    const auto* d = session_.device();
    if (session_.bench().preparing())
        return;
    if (session_.bench().running())
        session_.bench().stop();
    else if (d)
        session_.bench().start(session_.project(), *d);
    else
        session_.report("There is no processor to run. Open a project first.");
    refreshState();
    bench_->refresh();
    weave_->update();
}

// The bench got ready on its worker: what was changed meanwhile goes in now.
void MainWindow::benchIsReady(const std::optional<Trouble>& trouble) {
    if (trouble)
        session_.report(q(trouble->text()));
    else if (session_.program())
        session_.bench().follow(session_.project(), *session_.device(), {project::Change::Kind::program});
    refreshState();
    bench_->refresh();
}

void MainWindow::listen() {
    auto& bench = session_.bench();
    const auto port = bench.listening() ? std::nullopt : weave_->chosenPort();
    if (!bench.listening() && !port)
        return session_.report("Choose a lane or a block first; Space listens there.");
    const QString trouble = bench.listen(port);
    if (!trouble.isEmpty())
        session_.report(trouble);
    bench_->refresh();
    strip_->refresh();
}

void MainWindow::record() {
    auto& bench = session_.bench();
    if (!bench.recording()) {
        const auto port = weave_->chosenPort();
        if (!bench.running() || !port)
            return session_.report("Start the bench (F5) and choose a lane; then F8 records it.");
        bench.record(*port);
        session_.report("Recording. F8 stops and saves.", false);
        return bench_->refresh();
    }
    const QString folder = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
    const QString file =
        QFileDialog::getSaveFileName(this, "Save the recording", folder + "/recording.wav", "WAV (*.wav)");
    if (file.isEmpty())
        return;
    auto done = bench.endRecording(file);
    session_.report(done ? QString("%1 s saved in %2").arg(*done, 0, 'f', 1).arg(file) : q(done.trouble().text()),
                    !done);
    bench_->refresh();
}

// Opens the list of findings, or closes it.
void MainWindow::showFindings() {
    const bool open = !panel_->isVisible();
    panel_->setVisible(open);
    if (!open)
        return weave_->setFocus();
    refreshFindings();
    panel_->takeFocus();
}

void MainWindow::goTo(const QString& block) {
    if (block.isEmpty())
        return;
    const auto* lane = session_.layout().laneOf(block.toStdString());
    showStage(weaveStage);
    session_.choose(lane ? q(lane->end) : block, lane && !lane->isEnd(block.toStdString()) ? block : QString());
    weave_->setFocus();
}

void MainWindow::saveDrawing(bool pdf) {
    const QString kind = pdf ? "PDF (*.pdf)" : "SVG (*.svg)", ending = pdf ? ".pdf" : ".svg";
    QString file = QFileDialog::getSaveFileName(this, "Save a drawing of the weave", {}, kind);
    if (file.isEmpty())
        return;
    if (!file.endsWith(ending))
        file += ending;
    pdf ? saveWeaveAsPdf(session_, *weave_, file) : saveWeaveAsSvg(session_, *weave_, file);
}

void MainWindow::chooseColour() {
    std::vector<Findable> colours;
    for (const auto& name : Theme::threadNames())
        colours.push_back({"colour the chosen lanes", name, "", [this, name] { weave_->colourChosen(name); }});
    colours.push_back({"colour the chosen lanes", "as it comes", "", [this] { weave_->colourChosen({}); }});
    finder_->open(std::move(colours));
}

// Begins to compare the chosen lane (or the program, if none or several are), or changes over.
void MainWindow::compare() {
    if (session_.comparison())
        return session_.flipComparison();
    if (!session_.program())
        return session_.report("There is no program to compare.");
    const QString lane = session_.lanes().size() == 1 ? session_.lane() : QString();
    session_.beginComparison(lane);
    session_.report("This is A now. Change what you like; F7 changes over, Shift+F7 stays with what you hear.", false);
}

bool MainWindow::mayLeave() {
    if (!session_.dirty())
        return true;
    const auto answer = QMessageBox::question(this, "Unsaved changes", "The project was changed since it was saved.",
                                              QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel);
    if (answer == QMessageBox::Save) {
        session_.path().isEmpty() ? saveFileAs() : void(session_.save());
        return !session_.dirty();
    }
    return answer == QMessageBox::Discard;
}

void MainWindow::openFile() {
    if (!mayLeave())
        return;
    const QString file = QFileDialog::getOpenFileName(this, "Open a project", {}, "Nimble Loom (*.loom project.json)");
    if (!file.isEmpty())
        session_.open(file.endsWith("project.json") ? QFileInfo(file).path() : file);
}

// For which processor is all that is asked.
void MainWindow::newProject() {
    if (!mayLeave())
        return;
    std::vector<Findable> models;
    for (const auto& m : project::catalogue())
        if (m.workBudget > 0)
            models.push_back({"new project with", q(m.name + " \u00b7 " + m.purpose), "", [this, id = q(m.id)] {
                                  if (session_.start(id))
                                      showStage(weaveStage);
                              }});
    models.push_back(
        {"new project with", "rooms first \u00b7 draw them, then choose processors from the shelf", "", [this] {
             session_.startEmpty();
             showStage(surveyStage);
         }});
    finder_->open(std::move(models));
}

void MainWindow::saveFileAs() {
    const QString file = QFileDialog::getSaveFileName(this, "Save the project", {}, "Nimble Loom (*.loom)");
    if (!file.isEmpty())
        session_.saveAs(file.endsWith(".loom") ? file : file + ".loom");
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
}

} // namespace loom::app
