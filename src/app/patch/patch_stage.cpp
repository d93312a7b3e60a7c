// Patch, as the window knows it: sound between devices.
#include "app/patch/hear_view.h"
#include "app/patch/patch_deck.h"
#include "app/patch/patch_page.h"
#include "app/patch/wire_view.h"
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include <QLineEdit>
#include <QPainter>
#include <QPainterPath>

namespace loom::app {
namespace {

std::vector<Command> commandsOf(PatchPage* page, PatchDeck* deck) {
    auto& state = page->state();
    const std::vector<QWidget*> hears{page->hears()}, wires{page->wires()};
    const auto rows = [&state] {
        return state.rows().empty() ? QString("Choose a stream on the left first.") : QString();
    };
    const auto stream = [&state] { return state.offer() ? QString() : QString("Choose a stream on the left first."); };
    const auto thread = [&state] {
        return state.thread().empty() ? QString("Choose a thread, or an input that hears something, first.")
                                      : QString();
    };
    const auto wire = [&state] {
        return state.wire().empty() ? QString("Choose a cable first, under How it is wired.") : QString();
    };
    return {
        Command("patch.hears", "Who hears whom", [page] { page->showWiring(false); }).byMouse("Who hears whom"),
        Command("patch.wires", "How it is wired", [page] { page->showWiring(true); }).byMouse("How it is wired"),
        Command("patch.offer", "Offer a stream", [page] { page->offer(); })
            .on("O", hears)
            .inMenus("Offer a stream\u2026")
            .byMouse("Offer a stream"),
        Command("patch.send", "Lead the chosen streams to a device by words",
                [page] {
                    page->showWiring(false);
                    page->phrase()->setText("> ");
                    page->phrase()->setFocus();
                })
            .unless(rows)
            .byMouse("drag a stream onto a device or an input"),
        Command("patch.drop", "Take the chosen receiver off", [&state] { state.drop(); })
            .on("Del Backspace", hears)
            .unless(thread)
            .inMenus("Take this receiver off")
            .byMouse("right click"),
        Command("patch.dropAll", "Take off all that hear the chosen stream", [&state] { state.dropAll(); })
            .unless(stream)
            .inMenus("Take off all that hear it")
            .byMouse("right click"),
        Command("patch.dropDevice", "Take off all that the chosen device hears", [page] { page->dropDevice(); })
            .inMenus("Take off all that this device hears\u2026")
            .byMouse("right click"),
        Command("patch.choice", "Another stream that the chosen receiver can switch to", [page] { page->addChoice(); })
            .unless(thread)
            .inMenus("Another stream to switch to\u2026")
            .byMouse("right click"),
        Command("patch.withdraw", "Withdraw the chosen stream", [&state] { state.withdraw(); })
            .on("Shift+Del", hears)
            .unless(stream)
            .inMenus("Withdraw the stream")
            .byMouse("right click"),
        Command("patch.align", "Give all that hear the stream the same delay", [&state] { state.align(); })
            .unless(stream)
            .inMenus("Give all the same delay")
            .byMouse("Give all the same delay"),
        Command("patch.save", "Save the stream's description as SDP", [deck] { deck->saveDescription(); })
            .unless(stream)
            .inMenus("Save as SDP\u2026")
            .byMouse("Save as SDP"),
        Command("patch.bring", "Bring the chosen port to this computer, to hear and see it", [page] { page->bring(); })
            .on("L", hears)
            .inMenus("Bring it to this computer")
            .byMouse("right click"),
        Command("patch.bringPort", "Bring any port to this computer, or to an output", [page] { page->bringPort(); })
            .on("Shift+L", hears)
            .inMenus("Bring a port here\u2026"),
        Command("patch.giveBack", "Give back the port that was brought", [page] { page->giveBack(); })
            .on("G", {page->hears(), page->wires()})
            .unless([page] { return page->brought() ? QString() : QString("No port was brought to this computer."); })
            .inMenus("Give it back")
            .byMouse("Give back"),
        Command("patch.announced", "Take a stream that others announce", [page] { page->announced(); })
            .inMenus("Streams of others\u2026")
            .byMouse("right click"),
        Command("patch.paste", "Take a stream of others by its description (SDP)", [page] { page->paste(); })
            .on("Ctrl+V", hears)
            .inMenus("Paste a description")
            .byMouse("drop the file"),
        Command("patch.everything", "All transports", [&state] { state.showTransport({}); }).byMouse("Everything"),
        Command("patch.rooms", "Streams of all rooms", [&state] { state.showRoom(""); }).byMouse("All rooms"),
        Command("patch.network", "The packet network alone",
                [&state] { state.showTransport(project::Transport::network); })
            .byMouse("Packet network"),
        Command("patch.ringOnly", "The audio ring alone", [&state] { state.showTransport(project::Transport::ring); })
            .byMouse("Ring A"),
        Command("patch.pairs", "Pair links alone", [&state] { state.showTransport(project::Transport::pair); })
            .byMouse("Pair links"),
        Command("patch.cables", "Analogue cables alone", [&state] { state.showTransport(project::Transport::cable); })
            .byMouse("Cables"),
        Command("patch.lay", "Draw a cable", [page] { page->lay(); })
            .on("C", wires)
            .inMenus("Draw a cable\u2026")
            .byMouse("drag from device to device"),
        Command("patch.unwire", "Take the chosen cable away",
                [&state] { state.run(project::removeWires(state.project(), {state.wire()})); })
            .on("Del Backspace", wires)
            .unless(wire)
            .inMenus("Take it away")
            .byMouse("right click"),
        Command("patch.ring", "Put the ring in order", [page] { page->orderRing(); })
            .inMenus("Order of the ring\u2026")
            .byMouse("drag a device of the ring onto another"),
        Command("patch.cut", "Cut here, for a try, or mend it", [page] { page->cutHere(); })
            .on("X", wires)
            .unless([&state] {
                return state.wire().empty() && state.taker().empty()
                           ? QString("Choose a cable or a switch first, under How it is wired.")
                           : QString();
            })
            .inMenus("Cut here, or mend it")
            .byMouse("Cut here"),
        Command("patch.relieve", "Relieve the chosen cable: lead its sound over the ring", [page] { page->relieve(); })
            .unless(wire)
            .inMenus("Relieve it over the ring\u2026")
            .byMouse("right click"),
        Command("patch.mend", "Mend all that is cut", [&state] { state.mend(); })
            .unless([&state] { return state.cut().none() ? QString("Nothing is cut.") : QString(); })
            .inMenus("Mend all")
            .byMouse("Mend all"),
    };
}

void findIn(MainWindow& window, PatchPage* page, std::vector<Findable>& all) {
    auto& state = page->state();
    for (const auto& o : state.patched().offers) {
        const auto go = [&window, page, key = o.key] {
            window.showStage("patch");
            page->showWiring(false);
            page->state().chooseRow(key);
        };
        all.push_back({"stream", q(o.device->name + " \u00b7 " + o.stream->name), "", go});
        for (const auto& f : project::streamFields(state.project(), o.key))
            all.push_back({"value", q(o.stream->name + " \u00b7 " + f.label), "", go,
                           [page, key = o.key, field = f.id](const QString& text) {
                               auto& s = page->state();
                               s.run(project::setStreamField(s.project(), key, field, text.toStdString()));
                           }});
    }
    for (const auto& w : state.project().wires)
        all.push_back({"cable", q((w.number.empty() ? w.id : w.number) + " \u00b7 " + w.from + " to " + w.to), "",
                       [&window, page, id = w.id] {
                           window.showStage("patch");
                           page->showWiring(true);
                           page->state().chooseWire(id);
                       }});
}

} // namespace

Stage patch_stage(MainWindow& window) {
    auto& session = window.session();
    auto* page = new PatchPage(session, window.commands());
    auto* deck = new PatchDeck(page->state(), page->ear());
    QObject::connect(page, &PatchPage::wiringShown, deck, &PatchDeck::showWiring);
    QObject::connect(deck, &PatchDeck::wantsBack, page, &PatchPage::takeFocus);

    Stage stage;
    stage.id = "patch";
    stage.name = "Patch";
    stage.order = 3;
    stage.icon = [](QPainter& p, QPointF m) { // a thread from one end to another
        p.drawEllipse(m + QPointF(px(-9), px(-7)), px(2), px(2));
        p.drawEllipse(m + QPointF(px(9), px(7)), px(2), px(2));
        QPainterPath thread(m + QPointF(px(-7), px(-7)));
        thread.cubicTo(m + QPointF(px(5), px(-7)), m + QPointF(px(-5), px(7)), m + QPointF(px(7), px(7)));
        p.drawPath(thread);
    };
    stage.page = page;
    stage.deck = deck;
    stage.focus = [page] { page->takeFocus(); };
    stage.show = [page](const Target& place) { // a stream, receiver or cable of a finding, or a device
        auto& state = page->state();
        if (!place.room.empty()) { // filters what is looked at; else it is the plan's
            if (!page->isVisible())
                return false;
            state.showRoom(state.filter().rooms.count(place.room) ? "" : place.room);
            return true;
        }
        const std::string key = place.device + "/" + place.block;
        for (const auto& w : state.project().wires)
            if (w.id == place.block) {
                page->showWiring(true);
                state.chooseWire(w.id);
                return true;
            }
        if (state.patched().offer(key)) {
            page->showWiring(false);
            state.chooseRow(key);
            return true;
        }
        for (const auto& t : state.board().threads)
            if (t.receiver == key) {
                page->showWiring(false);
                state.chooseThread(t);
                return true;
            }
        if (place.stage != "Patch")
            return false;
        state.chooseTaker(place.device);
        return true;
    };
    stage.room = [page]() -> std::string {
        const auto& rooms = page->state().filter().rooms;
        return rooms.empty() ? "" : *rooms.begin();
    };
    QObject::connect(&page->state(), &PatchState::changed, &window, &MainWindow::refreshRooms);
    stage.find = [&window, page](std::vector<Findable>& all) { findIn(window, page, all); };
    stage.empty = [&session]() -> QString {
        const auto& p = session.project();
        const bool none = std::none_of(p.devices.begin(), p.devices.end(), [](const auto& d) {
            const auto* m = d.spec();
            return m && (!m->inputs.empty() || !m->outputs.empty());
        });
        return none ? "Here sound goes from device to device: streams over the network, rings and cables. There is no "
                      "device yet that sends or takes sound."
                    : "";
    };
    stage.firstSteps = {"go.survey", "demo"};
    stage.commands = commandsOf(page, deck);
    return stage;
}

} // namespace loom::app
