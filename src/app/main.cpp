// nimble-loom: the application.
#include "app/shell/accessible.h"
#include "app/shell/end_signals.h"
#include "app/shell/main_window.h"
#include "app/site/embedded_rig.h"
#include "app/site/site_page.h"
#include "app/site/site_shots.h"
#include "app/speakers/sheet_reader.h"
#include "app/speakers/speakers_page.h"
#include "app/speakers/voicing_plot.h"
#include "app/survey/plan_view.h"
#include "app/survey/survey_page.h"
#include "app/theme/theme.h"
#include "app/weave/weave_print.h"
#include "app/weave/weave_view.h"
#include "project/catalogue.h"
#include "project/marks.h"
#include "project/render.h"
#include "project/store.h"
#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <cstdio>

using namespace loom::app;

namespace {

// The demo is copied once to a folder of the user's, so that trying things out never touches the shipped one.
QString demoCopy() {
    const QString from = QString::fromStdString(loom::project::dataFolder()) + "/demo/marram-point";
    QString to = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + "/marram-point";
    if (!QFile::exists(to + "/project.json")) {
        QDir().mkpath(to + "/assets");
        QFile::copy(from + "/project.json", to + "/project.json");
        for (const auto& asset : QDir(from + "/assets").entryList(QDir::Files))
            QFile::copy(from + "/assets/" + asset, to + "/assets/" + asset);
    }
    return to;
}

// The demo's devices, simulated in this process; they hear the demo's speech.
std::unique_ptr<EmbeddedRig> demoRig(const QString& folder) {
    const auto demo = loom::project::loadProject(loom::project::dataFolder() + "/demo/marram-point");
    if (!demo)
        return nullptr;
    return std::make_unique<EmbeddedRig>(*demo, folder.toStdString());
}

void runFor(int ms) {
    QElapsedTimer clock;
    clock.start();
    while (clock.elapsed() < ms)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
}

// A hall said in phrases, with four lanes chosen.
void sayHall(MainWindow& window) {
    auto& session = window.session();
    session.start("heddle-16");
    const std::pair<const char*, const char*> phrases[] = {
        {"", "source Chair, Delegate x8, preamp 36 phantom highpass 90 eq 250 -3 3k1 +2 echo automixer"},
        {"", "source Far @usb1, level -3"},
        {"far", "> *reference"},
        {"", "destination Ceiling x2, Column x2, Loop, eq delay 8ms limiter -3, destination Send @usb1, Record @net1"},
        {"automixer", "> * -6"},
        {"far", "> c* -3"}};
    for (const auto& [lane, phrase] : phrases) {
        session.choose(lane);
        window.weave()->speak(phrase);
    }
    session.chooseLanes({"chair", "delegate-1", "delegate-2", "delegate-3"});
}

std::vector<std::string> lanesOf(const QStringList& lanes) {
    std::vector<std::string> all;
    for (const auto& l : lanes)
        all.push_back(l.toStdString());
    return all;
}

// Draws one view from the demo, with speech running for a moment so that meters show something true.
int shoot(MainWindow& window, const QString& stage, const QString& file, QSize size) {
    // A copy: nothing that a picture needs to be changed for may touch the shipped project.
    QTemporaryDir folder;
    const QString demo = folder.filePath("marram-point.loom");
    const auto shipped = loom::project::loadProject(loom::project::dataFolder() + "/demo/marram-point");
    if (!shipped || !loom::project::saveProject(*shipped, demo.toStdString()) || !window.session().open(demo)) {
        std::fprintf(stderr, "nimble-loom: the demo cannot be opened; is NIMBLE_LOOM_DATA right?\n");
        return 2;
    }
    window.resize(size);
    window.show();
    emit Theme::get().changed(); // sizes follow the window
    const QString kind = stage.startsWith("deck-") ? stage.mid(5) : QString();
    const bool ofWeave = !kind.isEmpty() || stage == "analysers" || stage == "matrix" || stage == "phrases" ||
                         stage == "linked" || stage == "tools";
    window.showStage(ofWeave ? "weave" : stage);
    window.session().choose("chair", "chair.eq");
    if (stage == "phrases")
        sayHall(window);
    if (stage == "matrix")
        window.session().choose("hall");
    if (stage == "linked") { // grouped, linked; one goes its own way
        auto& session = window.session();
        QStringList lanes;
        for (int i = 1; i <= 8; ++i)
            lanes << QString("delegate-%1").arg(i);
        session.setProgram(loom::project::groupLanes(*session.program(), lanesOf(lanes), "Delegates"), "Group");
        session.chooseLanes(lanes);
        window.weave()->linkChosen();
        session.choose("delegate-4", "delegate-4.preamp");
    }
    if (stage == "analysers") {
        window.weave()->speak("octave fft");
        window.session().choose("chair", "chair.octave");
    }
    if (!kind.isEmpty()) {
        const auto before = window.session().program()->blocks;
        window.weave()->speak(kind);
        for (const auto& b : window.session().program()->blocks) // the one that came
            if (std::none_of(before.begin(), before.end(), [&](const auto& a) { return a.id == b.id; })) {
                const auto* lane = window.session().layout().laneOf(b.id);
                const QString id = QString::fromStdString(b.id);
                lane ? window.session().choose(QString::fromStdString(lane->end), lane->isEnd(b.id) ? QString() : id)
                     : window.session().choose(id);
            }
    }
    if (stage.startsWith("survey") && stage != "survey-onsite") {
        window.showStage("survey");
        auto& state = window.survey()->state();
        const bool joined = stage.endsWith("joined"), hall = stage.endsWith("hall");
        runFor(200);
        state.setRoom(joined ? "tern" : "council");
        if (joined)
            state.setWallState("joined");
        if (joined || hall) {
            state.setMap(joined ? MapKind::level : MapKind::sti);
            state.choose({joined ? "device:tern-canopy" : "room:council"});
            window.survey()->plan()->fitRoom();
        }
        if (stage.endsWith("side"))
            window.survey()->showSide(true);
        if (stage.endsWith("rack"))
            state.choose({"device:treadle-4-hall"});
        runFor(6000);
        return window.grab().save(file) ? 0 : 2;
    }
    if (stage.startsWith("speakers")) {
        window.showStage("speakers");
        auto* page = window.speakers();
        page->state().choose("oakhaven-x2");
        if (stage.endsWith("phase"))
            page->plot()->setPhase(true);
        page->showView(stage.endsWith("loads")   ? SpeakersPage::loadsView
                       : stage.endsWith("sheet") ? SpeakersPage::sheetView
                                                 : SpeakersPage::curvesView);
        if (QFile sheet(QString::fromStdString(loom::project::dataFolder()) + "/demo/sheets/wickerwork-m2.txt");
            stage.endsWith("sheet") && sheet.open(QIODevice::ReadOnly))
            page->reader()->setText(QString::fromUtf8(sheet.readAll()));
        else
            page->plot()->choosePart(1);
        runFor(2500);
        return window.grab().save(file) ? 0 : 2;
    }
    QTemporaryDir store;
    std::unique_ptr<EmbeddedRig> rig;
    bool good = false;
    if (arrangeSite(window, stage, runFor, [&] { good = window.grab().save(file); }))
        return good ? 0 : 2;
    if (stage == "survey-onsite") { // found, paired, tried and kept; then two values changed here
        rig = demoRig(store.path());
        runFor(500);
        window.site()->look();
        runFor(1500);
        window.site()->pairAll();
        window.site()->fleet().pairAll({loom::site::PairBy::position});
        runFor(3000);
        window.site()->tryNow();
        runFor(3000);
        window.site()->keep();
        runFor(2500);
        window.session().set("delegate-3.eq", "5.gain", 3.2);
        window.session().set("ceiling-2.delay", "time", 16.1);
        runFor(5500); // until the last message has gone
        window.showStage("survey");
        runFor(2500);
        return window.grab().save(file) ? 0 : 2;
    }
    window.toggleBench();
    QElapsedTimer clock;
    clock.start();
    while (!window.session().bench().running() && clock.elapsed() < 30000)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    clock.restart();
    while (clock.elapsed() < 2400)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    if (stage == "tools") { // muted by a tool, measured, bridged, traced
        auto* weave = window.weave();
        window.session().choose("ceiling-2", "ceiling-2.eq");
        weave->putMute();
        window.session().choose("column-l");
        weave->pinChosen();
        window.session().choose("programme-l");
        weave->bridge();
        window.session().choose("loop");
        weave->bridge();
        window.session().choose("ceiling-2");
        weave->traceChosen();
        runFor(5000); // until what was heard before has gone
    }
    window.refreshNow();
    const bool drawing = file.endsWith(".pdf") || file.endsWith(".svg"); // the weave on paper
    if (drawing)
        file.endsWith(".pdf") ? saveWeaveAsPdf(window.session(), *window.weave(), file)
                              : saveWeaveAsSvg(window.session(), *window.weave(), file);
    good = drawing ? QFile::exists(file) : window.grab().save(file);
    window.session().bench().stop();
    if (!good)
        std::fprintf(stderr, "nimble-loom: %s cannot be written\n", qPrintable(file));
    return good ? 0 : 2;
}

} // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    QApplication::setApplicationName("nimble-loom");
    QApplication::setOrganizationName("nimble-loom");
    QApplication::setStyle("Fusion");
    Theme::loadFonts();
    installAccessibility();
    QCommandLineParser words;
    words.setApplicationDescription("Nimble Loom: design, program and commission the sound of rooms");
    words.addHelpOption();
    words.addPositionalArgument("project", "A .loom file or a folder made from one");
    words.addOptions({{"demo", "Opens the demo library (a copy of your own)"},
                      {"leave-after-first-picture", "Ends once the window is drawn (to time the start)"},
                      {"shot",
                       "Draws one view of the demo: survey, survey-joined, survey-hall, survey-side, survey-rack, "
                       "survey-onsite, speakers, speakers-phase, speakers-loads, speakers-sheet, "
                       "weave, bench, site, site-todo, site-device, site-board, site-seal, site-health, site-events, "
                       "site-60, analysers, "
                       "matrix, phrases, linked, "
                       "tools, or deck-KIND for the deck of a kind of block",
                       "stage"},
                      {"out", "The picture's file: PNG; PDF or SVG is a drawing of the weave", "file"},
                      {"size", "The picture's size", "WxH", "1280x800"},
                      {"text-scale", "80 to 200", "percent"},
                      {"theme", "linen or night", "name"}});
    words.process(app);
    QSettings settings;
    const bool shot = words.isSet("shot");
    Theme::get().setPercent(words.isSet("text-scale") ? words.value("text-scale").toInt()
                            : shot                    ? 100
                                                      : settings.value("textScale", 100).toInt());
    Theme::get().setNight(words.isSet("theme") ? words.value("theme") == "night"
                                               : !shot && settings.value("night", false).toBool());
    MainWindow window;
    if (shot) {
        const auto size = words.value("size").split('x');
        return shoot(window, words.value("shot"), words.value("out"),
                     size.size() == 2 ? QSize(size[0].toInt(), size[1].toInt()) : QSize(1280, 800));
    }
    window.show();
    keepWorkOnSignals(window.session());
    std::unique_ptr<EmbeddedRig> rig;
    if (words.isSet("demo")) {
        rig = demoRig(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + "/rig");
        window.session().open(demoCopy());
    }
    if (!words.isSet("demo") && !words.positionalArguments().isEmpty())
        window.session().open(words.positionalArguments().first());
    else if (!words.isSet("demo") && !words.isSet("leave-after-first-picture"))
        window.session().recoverUnnamed();
    if (words.isSet("leave-after-first-picture"))
        QTimer::singleShot(0, &window, [&window] {
            window.grab(); // every widget has painted when this returns
            QApplication::quit();
        });
    return QApplication::exec();
}
