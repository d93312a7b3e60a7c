// Surfaces, as the window knows it: touch pages for the people in the room.
#include "app/shell/finder.h"
#include "app/shell/main_window.h"
#include "app/surfaces/drive_list.h"
#include "app/surfaces/page_list.h"
#include "app/surfaces/page_share.h"
#include "app/surfaces/surface_canvas.h"
#include "app/surfaces/surface_pictures.h"
#include "app/surfaces/surface_window.h"
#include "app/surfaces/surfaces_deck.h"
#include "app/surfaces/surfaces_page.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "surface/bundle.h"
#include <QLineEdit>
#include <QPainter>

namespace loom::app {

using namespace project;

Stage surfaces_stage(MainWindow& window) {
    auto& session = window.session();
    auto* page = new SurfacesPage(session, window.commands());
    auto& state = page->state();
    auto* deck = new SurfacesDeck(state);

    Stage stage;
    stage.id = "surfaces";
    stage.name = "Surfaces";
    stage.order = 6;
    stage.icon = [](QPainter& p, QPointF m) { // a page with a fader and a button
        p.drawRoundedRect(QRectF(m + QPointF(px(-10), px(-7)), QSizeF(px(20), px(14))), px(2), px(2));
        p.drawLine(m + QPointF(px(-5), px(-3)), m + QPointF(px(-5), px(3)));
        p.drawLine(m + QPointF(px(-7), px(0)), m + QPointF(px(-3), px(0)));
        p.drawRect(QRectF(m + QPointF(px(1), px(-2)), QSizeF(px(5), px(4))));
    };
    stage.page = page;
    stage.deck = deck;
    stage.focus = [page] { page->canvas()->setFocus(); };
    stage.beat = [page] { page->canvas()->update(); };
    const auto none = [&state] {
        return state.surface() ? QString() : QString("There is no touch surface yet: New touch surface makes one.");
    };
    const auto chosen = [&state] {
        return state.chosen().empty() ? QString("Choose a control on the page first.") : QString();
    };
    const auto chosenPly = [&state] {
        return !state.page() ? QString("There is no page.") : !state.ply() ? QString("Choose a ply first.") : QString();
    };
    const std::vector<QWidget*> canvas{page->canvas()};
    stage.commands = {
        Command("surfaces.new", "New touch surface\u2026", [page] { page->newSurface(); }),
        Command("surfaces.removeSurface", "Take out the touch surface", [page] { page->removeSurface(); }).unless(none),
        Command("surfaces.newPage", "New page of the surface", [page] { page->newPage(); })
            .unless(none)
            .byMouse("New page"),
        Command("surfaces.makePage", "Make a page for a room, processor or group\u2026", [page] { page->makePage(); })
            .unless(none)
            .byMouse("Make a page\u2026"),
        Command("surfaces.makeFrom", "Make a page of what is chosen in the list", [page] { page->makeFromChosen(); })
            .unless(none)
            .byMouse("Page of it"),
        Command("surfaces.fromDesign", "Put the chosen lane or bead on the touch page", [page] { page->fromDesign(); })
            .unless(none)
            .inMenus("Put it on the touch page"),
        Command("surfaces.save", "Save the surface as a file of its own\u2026", [page] { page->saveSurface(); })
            .unless(none),
        Command("surfaces.bring", "Bring in a surface from a file\u2026", [page] { page->bringSurface(); })
            .byMouse("drop it on the page"),
        Command("surfaces.saveDrawing", "Save the page as a drawing\u2026", [page] { page->saveDrawing(); })
            .unless(none)
            .inMenus("Save as a drawing\u2026"),
        Command("surfaces.copyPage", "Copy the page",
                [&state] { state.edit(copyPage(state.project(), state.place().surface, state.place().page)); })
            .unless(none)
            .inMenus("Copy"),
        Command("surfaces.rename", "Rename the page\u2026", [page] { page->rename(); })
            .on("F2", canvas)
            .unless(none)
            .inMenus("Rename\u2026"),
        Command("surfaces.removePage", "Take out the page",
                [&state] { state.edit(removePage(state.project(), state.place().surface, state.place().page)); })
            .unless(none)
            .inMenus("Take out"),
        Command("surfaces.pageUp", "Move the page up",
                [&state] { state.edit(movePage(state.project(), state.place().surface, state.place().page, -1)); })
            .unless(none)
            .inMenus("Move up"),
        Command("surfaces.pageDown", "Move the page down",
                [&state] { state.edit(movePage(state.project(), state.place().surface, state.place().page, 1)); })
            .unless(none)
            .inMenus("Move down"),
        Command("surfaces.newPly", "New ply\u2026", [page] { page->newPly(); }).unless(none).byMouse("New ply"),
        Command("surfaces.plyLock", "Lock the ply here, or unlock it",
                [&state] {
                    state.edit(
                        setPlyField(state.place(), state.ply()->id, "locked", state.ply()->locked ? "no" : "yes"));
                })
            .unless(chosenPly)
            .inMenus("Lock, or unlock"),
        Command("surfaces.plyForward", "Bring the ply forward",
                [&state] { state.edit(movePly(state.place(), state.ply()->id, 1)); })
            .unless(chosenPly)
            .inMenus("Bring forward"),
        Command("surfaces.plyBack", "Send the ply back",
                [&state] { state.edit(movePly(state.place(), state.ply()->id, -1)); })
            .unless(chosenPly)
            .inMenus("Send back"),
        Command("surfaces.removePly", "Take out the ply with its controls",
                [&state] { state.edit(removePly(state.place(), state.ply()->id)); })
            .unless(chosenPly)
            .inMenus("Take out"),
        Command("surfaces.use", "Use the surface here, in a window of its own", [page] { page->useHere(); })
            .on("U", canvas)
            .unless(none)
            .byMouse("Use it here"),
        Command("surfaces.browser", "Open the surface in a browser", [page] { page->inBrowser(); })
            .on("B", canvas)
            .unless(none)
            .byMouse("In a browser"),
        Command("surfaces.phone", "Show the surface on a phone of this network, by a QR code",
                [page] { page->onPhone(); })
            .unless(none)
            .byMouse("On a phone\u2026"),
        Command("surfaces.stopServing", "Stop serving surfaces to browsers", [page] { page->share().stop(); })
            .unless(
                [page]() -> QString { return page->share().running() ? QString() : QString("Nothing is served."); }),
        Command("surfaces.picture", "A picture from a file\u2026", [page] { page->choosePicture(); })
            .on("P", canvas)
            .unless(none)
            .byMouse("drop it from the file manager"),
        Command("surfaces.paste", "Paste a picture", [page] { page->pastePicture(); })
            .on("Ctrl+V", canvas)
            .unless(none),
        Command("surfaces.scale", "Scale the chosen pictures to what is shown", [page] { page->scaler().scale(); })
            .unless(chosen)
            .inMenus("Scale to what is shown"),
        Command("surfaces.pin", "PIN of a role on the devices\u2026", [page] { page->setPin(); }).unless(none),
        Command("surfaces.keepScene", "Keep a scene of what the controls set now\u2026", [page] { page->keepScene(); })
            .unless(none)
            .inMenus("Keep a scene\u2026"),
        Command("surfaces.find", "Find what a control is driven from",
                [page] {
                    page->drives()->field()->setFocus();
                    page->drives()->field()->selectAll();
                })
            .on("/", canvas)
            .unless(none),
        Command("surfaces.add", "Put what is found on the page", [page] { page->drives()->addCurrent(); })
            .unless(none)
            .byMouse("drag it onto the page"),
        Command("surfaces.drive", "Drive the chosen controls from what is found",
                [page] { page->drives()->driveChosen(); })
            .unless(chosen)
            .inMenus("Drive from what is found")
            .byMouse("drag it onto a control"),
        Command("surfaces.repoint", "Drive this page from another room, device or lane\u2026",
                [page] { page->repoint(); })
            .unless(none)
            .byMouse("Re-point\u2026"),
        Command("surfaces.remove", "Take out the chosen controls",
                [&state] { state.edit(removeControls(state.place(), state.chosen())); })
            .on("Del Backspace", canvas)
            .unless(chosen)
            .inMenus("Take out"),
        Command("surfaces.copy", "Copy the chosen controls",
                [&state] { state.edit(copyControls(state.place(), state.chosen(), 16, 16)); })
            .on("Ctrl+D", canvas)
            .unless(chosen)
            .inMenus("Copy"),
        Command("surfaces.copyAs", "Copy the chosen controls as another kind\u2026", [page] { page->copyAs(); })
            .on("Ctrl+Shift+D", canvas)
            .unless(chosen)
            .inMenus("Copy as another kind\u2026"),
        Command("surfaces.all", "Choose all controls of the page", [page] { page->canvas()->chooseAll(); })
            .on("Ctrl+A", canvas)
            .unless(none)
            .inMenus("Choose all"),
        Command("surfaces.forward", "Bring the chosen controls forward",
                [&state] { state.edit(orderControls(state.place(), state.chosen(), 1)); })
            .on("Ctrl+Up", canvas)
            .unless(chosen)
            .inMenus("Bring forward"),
        Command("surfaces.back", "Send the chosen controls back",
                [&state] { state.edit(orderControls(state.place(), state.chosen(), -1)); })
            .on("Ctrl+Down", canvas)
            .unless(chosen)
            .inMenus("Send back"),
        Command("surfaces.group", "Group the chosen controls",
                [&state] { state.edit(groupControls(state.place(), state.chosen(), true)); })
            .on("G", canvas)
            .unless(chosen)
            .inMenus("Group"),
        Command("surfaces.part", "Part the group",
                [&state] { state.edit(groupControls(state.place(), state.chosen(), false)); })
            .on("Shift+G", canvas)
            .unless(chosen)
            .inMenus("Part"),
        Command("surfaces.toPly", "Put the chosen controls on another ply\u2026", [page] { page->askPly(); })
            .unless(chosen)
            .inMenus("To another ply\u2026"),
        Command("surfaces.look", "Give the chosen controls the look of the leading one",
                [&state] { state.edit(copyLook(state.place(), state.chosen().front(), state.chosen())); })
            .on("L", canvas)
            .unless(chosen)
            .inMenus("The leading one's look"),
        Command("surfaces.guideAcross", "An upright guide in the middle", [page] { page->canvas()->addGuide(true); })
            .unless(none)
            .byMouse("drag from the ruler on the left"),
        Command("surfaces.guideDown", "A level guide in the middle", [page] { page->canvas()->addGuide(false); })
            .unless(none)
            .byMouse("drag from the ruler above"),
        Command("surfaces.guidesOff", "Take out the guides of the page", [page] { page->canvas()->removeGuides(); })
            .unless(none)
            .byMouse("drag them off the page"),
    };
    for (const auto& k : arrangeKinds())
        stage.commands.push_back(
            Command("surfaces." + QString(k.id), QString(k.label) + ", by the leading one",
                    [&state, how = k.how] { state.edit(arrange(state.project(), state.place(), state.chosen(), how)); })
                .unless(chosen)
                .inMenus(k.label));
    const auto inUse = [page, &state]() -> QString {
        return state.surface() && page->window(state.surface()->id)
                   ? QString()
                   : QString("The surface is not in use here: U opens it.");
    };
    for (const auto& [id, text, part] :
         {std::tuple("front", "The surface in use: in front of other windows, or not", &SurfaceWindow::Manner::inFront),
          std::tuple("bare", "The surface in use: without a frame, or with", &SurfaceWindow::Manner::bare),
          std::tuple("full", "The surface in use: full screen, or not", &SurfaceWindow::Manner::full),
          std::tuple("pointer", "The surface in use: without the pointer, or with", &SurfaceWindow::Manner::noPointer)})
        stage.commands.push_back(Command("surfaces.window." + QString(id), text,
                                         [page, &state, part = part] {
                                             auto* w = page->window(state.surface()->id);
                                             auto manner = w->manner();
                                             manner.*part = !(manner.*part);
                                             w->setManner(manner);
                                         })
                                     .unless(inUse)
                                     .byMouse("Window\u2026 above it"));
    QObject::connect(page->canvas(), &SurfaceCanvas::wantsDeck, deck, &SurfacesDeck::takeFocus);
    QObject::connect(deck, &SurfacesDeck::wantsBack, page, [page] { page->canvas()->setFocus(); });
    stage.show = [page](const Target& place) {
        if (place.stage != "Surfaces")
            return false;
        auto& s = page->state();
        if (!s.project().surface(place.device))
            return false;
        const auto slash = place.block.find('/');
        s.choose(place.device, place.block.substr(0, slash));
        if (slash != std::string::npos)
            s.chooseControls({place.block.substr(slash + 1)}, true);
        return true;
    };
    stage.find = [&window, page](std::vector<Findable>& all) {
        if (page->state().surface())
            for (const auto& b : findBundles(page->state().project(), "", 2000))
                all.push_back(
                    {"onto the touch page", q(b.label + " \u00b7 " + b.detail), "", [&window, page, path = b.path] {
                         window.showStage("surfaces");
                         page->state().put({q(path)});
                     }});
        for (const auto& s : page->state().project().surfaces)
            for (const auto& p : s.pages)
                all.push_back(
                    {"surface page", q(s.name + " \u00b7 " + p.name), "", [&window, page, surface = s.id, id = p.id] {
                         window.showStage("surfaces");
                         page->state().choose(surface, id);
                     }});
    };
    stage.empty = [&state]() -> QString {
        return state.project().surfaces.empty()
                   ? "Here the pages are made that people in the room press: big buttons and faders, tried without any "
                     "device. There is no touch surface yet."
                   : "";
    };
    stage.firstSteps = {"surfaces.new", "go.survey", "demo"};
    return stage;
}

} // namespace loom::app
