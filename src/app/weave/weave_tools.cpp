// Tools at any thread of the running program, and the menu of what can be done at a place.
#include "app/bench/bench_engine.h"
#include "app/shell/ask.h"
#include "app/shell/command.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "app/weave/weave_view.h"
#include "patch/ways.h"
#include <QContextMenuEvent>
#include <QMenu>

namespace loom::app {

// What a tool is meant for: the thread whose menu is open, or the chosen one.
std::optional<engine::PortRef> WeaveView::toolPort() const {
    const auto port = menuPort_ ? menuPort_ : session_.chosenPort();
    if (!port)
        session_.report("Choose a lane or a block first: the tool goes to the thread behind it.");
    return port;
}

// Muted here, or no longer.
void WeaveView::putMute() {
    const auto port = toolPort();
    if (!port)
        return;
    for (const auto& t : session_.tools())
        if (t.kind == project::Tool::Kind::mute && t.at == *port)
            return session_.takeTool(t.number);
    session_.putTool({project::Tool::Kind::mute, *port});
}

void WeaveView::inject() {
    const auto port = toolPort();
    if (!port)
        return;
    QStringList signals_{"pink -20", "white -20", "sine 1000 -20", "sweep -20"};
    for (const auto& [name, bytes] : session_.project().assets)
        if (name.ends_with(".flac") || name.ends_with(".wav"))
            signals_ << "file " + q(name) + " 0";
    const auto said = askOne(
        this, "Inject",
        {"What is to sound at " + nameOf(port->block) + " (a level in dB may follow)", signals_.front(), signals_});
    if (!said)
        return;
    auto tool = project::readSignal(said->toStdString());
    if (!tool)
        return session_.report(q(tool.error().text()));
    tool->at = *port;
    session_.putTool(*tool);
}

void WeaveView::bridge() {
    const auto port = toolPort();
    if (!port)
        return;
    if (!session_.toolsReach())
        return session_.report("Neither the bench runs nor is a device live. F5 starts the bench.");
    if (!bridgeFrom_) {
        const auto* b = session_.program()->find(port->block);
        if (b && engine::outputsOf(*session_.program(), *b) == 0)
            return session_.report("Nothing leaves a destination. Begin the bridge at a source or a block.");
        bridgeFrom_ = port;
        session_.report("Now choose where the sound is to go as well, and press B again. Esc gives up.", false);
        return update();
    }
    project::Tool tool{project::Tool::Kind::bridge, *port, *bridgeFrom_};
    tool.levelDb = 0;
    bridgeFrom_.reset();
    session_.putTool(tool);
    update();
}

void WeaveView::pinChosen() {
    const auto port = toolPort();
    if (!port)
        return;
    if (!session_.bench().pin(*port))
        return session_.report(session_.bench().running()
                                   ? QString("%1 threads are measured already. Press E at one of them to free it.")
                                         .arg(BenchEngine::mostPins)
                                   : QString("The bench does not run. F5 starts it."));
    emit session_.atWorkChanged();
    update();
}

// From the chosen destination back; from anything else what comes out behind it.
void WeaveView::traceChosen() {
    if (trace_ && tracedEnd_ == session_.lane().toStdString()) {
        trace_.reset();
        emit session_.atWorkChanged();
        return update();
    }
    if (session_.lane().isEmpty())
        return session_.report("Choose the destination that is to be traced back.");
    tracedEnd_ = session_.lane().toStdString();
    trace_.emplace();
    heard_.clear();
    retrace();
    std::string text = trace_->text();
    const auto* first = trace_->steps.empty() ? nullptr : session_.program()->find(trace_->steps.back().at.block);
    if (first && first->texts.count("port")) // and on, across devices
        text += " " + project::cameBefore(session_.project(), session_.device()->id, first->texts.at("port"));
    session_.report(q(text), trace_->lostAt >= 0);
    emit session_.atWorkChanged();
    update();
}

void WeaveView::retrace() {
    if (!trace_)
        return;
    if (!session_.program() || !session_.program()->find(tracedEnd_))
        return trace_.reset();
    const std::string said = trace_->text();
    const auto& bench = session_.bench();
    project::LevelAt level;
    if (bench.running())
        level = [&](const engine::PortRef& port) { // held, so that a pause in speech is no loss
            const double now = bench.meter(port).peakDb;
            auto& held = heard_[port];
            if (now >= held.first || held.second.hasExpired()) {
                held.first = now;
                held.second.setRemainingTime(4000);
            }
            return std::optional(held.first);
        };
    trace_ = project::trace(*session_.program(), tracedEnd_, level, session_.tools());
    if (trace_->text() != said)
        emit session_.atWorkChanged(); // the strip tells it
}

void WeaveView::clearTools() {
    bridgeFrom_.reset();
    trace_.reset();
    session_.clearTools();
    update();
}

void WeaveView::contextMenuEvent(QContextMenuEvent* e) {
    const Hit at = hit(e->pos());
    if (!session_.program() || at.kind == Hit::Kind::knot) // a right click there mutes
        return;
    if (at.kind != Hit::Kind::none && !session_.lanes().contains(at.lane))
        choosePress(at, {});
    else if (at.kind == Hit::Kind::bead)
        session_.choose(at.lane, at.block);
    QMenu menu(this);
    menu.setObjectName("weaveMenu");
    const auto add = [&](const char* id, const QString& text = {}) { commands_.addTo(menu, id, text); };
    if (at.port) {
        for (const char* id : {"weave.listen", "weave.measure", "weave.putMute", "weave.inject"})
            add(id);
        add("weave.bridge", bridgeFrom_ ? "Bridge to here" : "");
        add("weave.trace");
        menu.addSeparator();
    }
    if (at.kind != Hit::Kind::none) {
        add("weave.insert");
        if (at.kind == Hit::Kind::bead || layout_.hubOf(at.lane.toStdString()))
            add("weave.swap");
        add("weave.defaults");
        if (session_.kept())
            add("weave.asKept");
        for (const char* id :
             {"weave.rename", "weave.note", "weave.protect", "weave.swatch", "surfaces.fromDesign", "weave.remove"})
            add(id);
        menu.addSeparator();
    }
    if (const auto ends = chosenEnds(); !ends.empty()) {
        auto* colours = menu.addMenu("Colour");
        for (const auto& name : Theme::threadNames()) {
            QPixmap spot(Theme::get().ipx(12), Theme::get().ipx(12));
            spot.fill(Theme::get().thread(name));
            connect(colours->addAction(spot, name), &QAction::triggered, this, [this, name] { colourChosen(name); });
        }
        connect(colours->addAction("as it comes"), &QAction::triggered, this, [this] { colourChosen({}); });
        add("weave.group");
        if (const auto* lane = layout_.laneOf(ends.front()); lane && !lane->group.empty())
            add(lane->folded ? "weave.unfold" : "weave.fold");
        if (ends.size() > 1)
            add("weave.link");
        if (!project::markOf(*session_.program()->find(ends.front()), "link").empty()) {
            add("weave.relink");
            add("weave.unlink");
        }
    }
    if (const auto* b = session_.program()->find(session_.lane().toStdString()); b && engine::isMatrix(*b))
        add("weave.mixMinus");
    menuPort_ = at.kind == Hit::Kind::lane ? at.port : std::nullopt; // a thread between beads
    if (!menu.isEmpty())
        menu.exec(e->globalPos());
    menuPort_.reset();
}

} // namespace loom::app
