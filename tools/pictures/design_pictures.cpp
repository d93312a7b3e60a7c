// The views of a design, with speech running for a moment so that meters show something true.
#include "app/bench/bench_engine.h"
#include "app/patch/patch_page.h"
#include "app/rules/rules_page.h"
#include "app/site/embedded_rig.h"
#include "app/site/site_page.h"
#include "app/speakers/curve_reader.h"
#include "app/speakers/sheet_reader.h"
#include "app/speakers/speakers_page.h"
#include "app/speakers/voicing_plot.h"
#include "app/surfaces/surface_canvas.h"
#include "app/surfaces/surfaces_page.h"
#include "app/survey/plan_view.h"
#include "app/survey/survey_page.h"
#include "app/talk/talk_page.h"
#include "app/weave/weave_view.h"
#include "catalogue/catalogue.h"
#include "dsp/number.h"
#include "file/store.h"
#include "pictures/picture.h"
#include "program/marks.h"
#include "program/program_edit.h"
#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <cmath>

namespace loom::pictures {
namespace {

using namespace app;

bool runBench(Scene& s) {
    s.window.commands().run("bench.run");
    QElapsedTimer clock;
    clock.start();
    while (!s.session().bench().running() && clock.elapsed() < 30000)
        s.runFor(20);
    s.runFor(2400);
    return s.session().bench().running();
}

bool weave(Scene& s) {
    s.window.showStage("weave");
    s.session().choose("chair", "chair.eq");
    return true;
}

// A hall said in phrases, with four lanes chosen.
bool phrases(Scene& s) {
    weave(s);
    auto& session = s.session();
    session.start("heddle-16");
    const std::pair<const char*, const char*> said[] = {
        {"", "source Chair, Delegate x8, preamp 36 phantom highpass 90 eq 250 -3 3k1 +2 echo automixer"},
        {"", "source Far @usb1, level -3"},
        {"far", "> *reference"},
        {"", "destination Ceiling x2, Column x2, Loop, eq delay 8ms limiter -3, destination Send @usb1, Record @net1"},
        {"automixer", "> * -6"},
        {"far", "> c* -3"}};
    for (const auto& [lane, phrase] : said) {
        session.choose(lane);
        s.view<WeaveView>()->speak(phrase);
    }
    session.chooseLanes({"chair", "delegate-1", "delegate-2", "delegate-3"});
    return runBench(s);
}

// Grouped and linked lanes; one goes its own way.
bool linked(Scene& s) {
    weave(s);
    auto& session = s.session();
    QStringList lanes;
    std::vector<std::string> ids;
    for (int i = 1; i <= 8; ++i) {
        lanes << QString("delegate-%1").arg(i);
        ids.push_back(lanes.back().toStdString());
    }
    session.setProgram(project::groupLanes(*session.program(), ids, "Delegates"), "Group");
    session.chooseLanes(lanes);
    s.view<WeaveView>()->linkChosen();
    session.choose("delegate-4", "delegate-4.preamp");
    return runBench(s);
}

bool analysers(Scene& s) {
    weave(s);
    s.view<WeaveView>()->speak("octave fft");
    s.session().choose("chair", "chair.octave");
    return runBench(s);
}

bool matrix(Scene& s) {
    weave(s);
    s.session().choose("hall");
    return runBench(s);
}

// Muted by a tool, measured, bridged, traced.
bool tools(Scene& s) {
    weave(s);
    if (!runBench(s))
        return false;
    auto* view = s.view<WeaveView>();
    s.session().choose("ceiling-2", "ceiling-2.eq");
    view->putMute();
    s.session().choose("column-l");
    view->pinChosen();
    s.session().choose("programme-l");
    view->bridge();
    s.session().choose("loop");
    view->bridge();
    s.session().choose("ceiling-2");
    view->traceChosen();
    s.runFor(5000); // until what was heard before has gone
    return true;
}

bool bench(Scene& s) {
    s.session().choose("chair", "chair.eq");
    s.window.showStage("bench");
    return runBench(s);
}

Arrange survey(const std::string& room, const std::string& chosen, MapKind map, const std::string& walls = {}) {
    return [=](Scene& s) {
        s.window.showStage("survey");
        auto& state = s.view<SurveyPage>()->state();
        s.runFor(200);
        state.setRoom(room);
        if (!walls.empty())
            state.setWallState(walls);
        if (map != MapKind::none)
            state.setMap(map);
        if (!chosen.empty())
            state.choose({chosen});
        if (map != MapKind::none)
            s.view<PlanView>()->fitRoom();
        s.runFor(6000);
        return true;
    };
}

bool surveySide(Scene& s) {
    s.window.showStage("survey");
    s.view<SurveyPage>()->state().setRoom("council");
    s.view<SurveyPage>()->showSide(true);
    s.runFor(6000);
    return true;
}

// Found, paired, tried and kept; then two values changed here.
bool surveyOnSite(Scene& s) {
    s.kept.push_back(
        std::make_shared<EmbeddedRig>(s.session().models(), s.session().project(), s.folder.path().toStdString()));
    auto* site = s.view<SitePage>();
    s.runFor(500);
    site->look();
    s.runFor(1500);
    site->pairAll();
    site->fleet().pairAll({site::PairBy::position});
    s.runFor(3000);
    site->tryNow();
    s.runFor(3000);
    site->keep();
    s.runFor(2500);
    s.session().set("delegate-3.eq", "5.gain", 3.2);
    s.session().set("ceiling-2.delay", "time", 16.1);
    s.runFor(5500); // until the last message has gone
    s.window.showStage("survey");
    s.runFor(2500);
    return true;
}

// A stream with its receivers on the packet network; or the wiring with a ring and a cable cut.
bool patch(Scene& s) {
    s.window.showStage("patch");
    auto& state = s.view<PatchPage>()->state();
    state.showTransport(project::Transport::network);
    state.chooseRow("heddle/hall-mix");
    s.runFor(1500);
    return true;
}

bool waitFor(Scene& s, const std::function<bool()>& done) {
    for (int i = 0; i < 900 && !done(); ++i)
        s.runFor(100);
    return done();
}

// The hall's conversation, as it was shown to be.
bool talk(Scene& s) {
    s.window.showStage("talk");
    auto& state = s.view<TalkPage>()->state();
    state.prove();
    state.chooseMicrophone(2);
    return waitFor(s, [&] { return !state.proving(); }) && state.proof() != nullptr;
}

// What a first pass proposes for a hall whose group and canceller are not there yet.
bool talkFirst(Scene& s) {
    s.window.showStage("talk");
    auto& state = s.view<TalkPage>()->state();
    auto& session = s.window.session();
    for (const char* id : {"council-hall-microphones", "council-hall-echo-canceller"})
        if (auto rest = project::removeBlock(*session.program(), id))
            session.setProgram(*rest, "Take it out");
    session.set("delegate-5.preamp", "gain", 31);
    session.set("chair.highpass", "corner", 180);
    state.plan();
    return waitFor(s, [&] { return state.pass() && !state.planning(); });
}

std::function<bool(Scene&)> talkView(TalkPage::View view, const char* space = "") {
    return [view, space = std::string(space)](Scene& s) {
        s.window.showStage("talk");
        if (!space.empty())
            s.view<TalkPage>()->state().choose(space);
        s.view<TalkPage>()->show(view);
        s.runFor(200);
        return true;
    };
}

// Tern | Plover, its wall opened in a rehearsal.
bool rules(Scene& s) {
    s.window.showStage("rules");
    auto& state = s.view<RulesPage>()->state();
    state.chooseRoom("tern");
    state.begin("2026-11-30 07:00");
    for (const auto& [hour, what] : {std::pair(9.5, "wall:fold open"),
                                     {12.0, "wall:fold closed"},
                                     {14.0, "button:tern-tap pressed"},
                                     {14.1, "button:tern-tap released"},
                                     {15.5, "wall:fold open"},
                                     {18.0, "wall:fold closed"}}) {
        state.goTo(static_cast<project::Millis>((hour - 7) * 3600000));
        state.happen(what);
    }
    state.goTo(12 * 3600000);
    s.runFor(600);
    return waitFor(s, [&] { return state.figures() && state.tests(); });
}

// The page of a hall that made itself, with some of its controls chosen.
std::function<bool(Scene&)> rulesSide(const char* room, RulesPage::Side side) {
    return [=](Scene& s) {
        s.window.showStage("rules");
        auto* page = s.view<RulesPage>();
        page->state().chooseRoom(room);
        page->show(side);
        s.runFor(600);
        return true;
    };
}

// A page that shows what is no parameter.
bool surfacesRoom(Scene& s) {
    s.window.showStage("surfaces");
    s.view<SurfacesPage>()->state().choosePage("room");
    s.view<SurfaceCanvas>()->setFocus();
    s.runFor(300);
    return true;
}

bool surfaces(Scene& s) {
    s.window.showStage("surfaces");
    auto& state = s.view<SurfacesPage>()->state();
    std::vector<std::string> faders;
    for (const auto& ply : state.page()->plies)
        for (const auto& c : ply.controls)
            if (c.kind == "fader" && faders.size() < 3)
                faders.push_back(c.id);
    state.chooseControls(faders);
    s.view<SurfaceCanvas>()->setFocus();
    s.runFor(300);
    return faders.size() == 3;
}

bool patchWires(Scene& s) {
    s.window.showStage("patch");
    auto* page = s.view<PatchPage>();
    page->showWiring(true);
    page->state().toggleCut("w2");
    page->state().toggleCut("w15");
    page->state().chooseWire("w15");
    s.runFor(1500);
    return true;
}

Arrange speakers(SpeakersPage::View view, bool phase = false) {
    return [=](Scene& s) {
        s.window.showStage("speakers");
        auto* page = s.view<SpeakersPage>();
        page->state().choose("oakhaven-x2");
        page->plot()->setPhase(phase);
        page->showView(view);
        QFile sheet(QString::fromStdString(project::dataFolder()) + "/demo/sheets/wickerwork-m2.txt");
        if (view != SpeakersPage::sheetView)
            page->plot()->choosePart(1);
        else if (sheet.open(QIODevice::ReadOnly))
            page->reader()->setText(QString::fromUtf8(sheet.readAll()));
        s.runFor(2500);
        return true;
    };
}

// A response whose unit is asked, and a drawing with its layers and outlines: files of others before they are taken.
bool foreignCurve(Scene& s) {
    s.window.showStage("speakers");
    auto* page = s.view<SpeakersPage>();
    page->state().choose("oakhaven-x2");
    std::string text;
    for (double k = 0.02; k < 20.01; k *= 1.12)
        text +=
            print("%.5f", k) +
            print("\t%.3f\t%.2f\n", 92 - 12 * std::max(0.0, std::log2(0.05 / k)) - 9 * std::max(0.0, std::log2(k / 12)),
                  std::remainder(-k * 47, 360));
    const QString file = QDir::temp().filePath("horn.txt");
    QFile out(file);
    if (!out.open(QIODevice::WriteOnly) || out.write(QByteArray::fromStdString(text)) < 0)
        return false;
    out.close();
    page->openFile(file);
    s.runFor(1500);
    return page->curveReader()->isVisible();
}

bool foreignDrawing(Scene& s) {
    s.session().startEmpty();
    s.window.showStage("survey");
    auto* page = s.view<SurveyPage>();
    page->readBackdrop(QString::fromStdString(project::dataFolder()) + "/demo/plans/annex.dxf");
    s.runFor(2500);
    page->plan()->fit();
    s.runFor(1500);
    return true;
}

bool foreignPdf(Scene& s) {
    s.window.showStage("speakers");
    auto* page = s.view<SpeakersPage>();
    page->reader()->setText(
        "TEASEL 12                                     processing, issue 3\nManufacturer: Sedge & Rush\n\n"
        "Parameter             LF                      HF\nHigh-pass             46 Hz BW 24 dB/oct      1.2 kHz LR 24 "
        "dB/oct\nLow-pass              1.2 kHz LR 24 dB/oct    off\nEQ 1                  65 Hz +2.5 dB 1.6       1.9 "
        "kHz "
        "-2.0 dB 0.9\nEQ 2                  290 Hz -2.5 dB 1.2      not used\nPadding               0 dB               "
        "   "
        "  -8.0 dB\nDelay                 0.30 ms                 0 ms\nNoise power (AES)     350 W                   "
        "60 "
        "W\nSensitivity           96 dB                   108 dB\nPeak limit            92 V                    51 "
        "V\n");
    page->showView(SpeakersPage::sheetView);
    s.runFor(1500);
    return true;
}

} // namespace

bool arrangeDeck(Scene& s, const QString& kind) {
    weave(s);
    const auto before = s.session().program()->blocks;
    if (!s.view<WeaveView>()->speak(kind))
        return false;
    for (const auto& b : s.session().program()->blocks) // the one that came
        if (std::none_of(before.begin(), before.end(), [&](const auto& a) { return a.id == b.id; })) {
            const auto* lane = s.session().layout().laneOf(b.id);
            const QString id = QString::fromStdString(b.id);
            lane ? s.session().choose(QString::fromStdString(lane->end), lane->isEnd(b.id) ? QString() : id)
                 : s.session().choose(id);
        }
    return runBench(s);
}

std::map<QString, Arrange> designViews() {
    return {{"survey", survey("council", "", MapKind::none)},
            {"survey-joined", survey("tern", "device:tern-canopy", MapKind::level, "joined")},
            {"survey-hall", survey("council", "room:council", MapKind::sti)},
            {"survey-rack", survey("council", "device:treadle-4-hall", MapKind::none)},
            {"survey-side", surveySide},
            {"survey-onsite", surveyOnSite},
            {"weave", [](Scene& s) { return weave(s) && runBench(s); }},
            {"phrases", phrases},
            {"linked", linked},
            {"analysers", analysers},
            {"matrix", matrix},
            {"tools", tools},
            {"patch", patch},
            {"patch-wires", patchWires},
            {"talk", talk},
            {"talk-first", talkFirst},
            {"talk-mixes", talkView(TalkPage::View::mixes)},
            {"talk-mixes-joined", talkView(TalkPage::View::mixes, "tern+plover")},
            {"talk-mute", talkView(TalkPage::View::mute)},
            {"talk-whose", talkView(TalkPage::View::whose)},
            {"rules", rules},
            {"rules-outside", rulesSide("council", RulesPage::Side::outside)},
            {"rules-access", rulesSide("tern", RulesPage::Side::access)},
            {"surfaces", surfaces},
            {"surfaces-room", surfacesRoom},
            {"speakers", speakers(SpeakersPage::curvesView)},
            {"speakers-phase", speakers(SpeakersPage::curvesView, true)},
            {"speakers-loads", speakers(SpeakersPage::loadsView)},
            {"speakers-sheet", speakers(SpeakersPage::sheetView)},
            {"speakers-curve", foreignCurve},
            {"speakers-maker", foreignPdf},
            {"survey-drawing", foreignDrawing},
            {"bench", bench}};
}

} // namespace loom::pictures
