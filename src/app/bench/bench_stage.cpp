// Bench, as the window knows it: the whole design runs here with sound, before anything hangs on a wall.
#include "app/bench/bench_control.h"
#include "app/bench/bench_engine.h"
#include "app/bench/bench_page.h"
#include "app/deck/deck.h"
#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include <QPainter>
#include <QPainterPath>

namespace loom::app {

Stage bench_stage(MainWindow& window) {
    auto& session = window.session();
    auto* control = new BenchControl(session, &window);
    auto* page = new BenchPage(session, window.commands());
    QObject::connect(control, &BenchControl::changed, &window, [&window, page] {
        window.refresh();
        page->refresh();
    });
    QObject::connect(control, &BenchControl::beat, &window, &MainWindow::beat);

    Stage stage;
    stage.id = "bench";
    stage.name = "Bench";
    stage.order = 8;
    stage.icon = [](QPainter& p, QPointF m) { // a pulse of sound
        QPainterPath pulse(m + QPointF(px(-11), 0));
        for (const auto& [x, y] : {std::pair{-5, 0}, {-2, -9}, {3, 8}, {5, 0}, {11, 0}})
            pulse.lineTo(m + QPointF(px(x), px(y)));
        p.drawPath(pulse);
    };
    stage.page = page;
    stage.deck = &window.deck();
    stage.focus = [page] { page->board()->setFocus(); };
    stage.shown = [page] { page->refresh(); };
    stage.beat = [page, deck = &window.deck()] {
        page->refresh();
        deck->refreshMeters();
    };
    stage.state = [&session]() -> std::optional<StateWord> {
        if (!session.bench().running())
            return {};
        return StateWord{"Bench running", tokens().saffron};
    };
    const auto noProcessor = [&session] {
        return session.device() ? QString() : "There is no processor to run. Open a project first.";
    };
    stage.empty = [&session]() -> QString {
        return session.device() ? ""
                                : "The bench runs a processor's program here, with sound. There is no processor yet.";
    };
    stage.firstSteps = {"new", "go.survey", "demo"};
    stage.commands = {
        Command("bench.run", "Run or stop the bench", [control] { control->toggle(); })
            .on("F5")
            .unless(noProcessor)
            .byMouse("Run the bench")
            .staying(),
        Command("bench.listen", "Listen to the chosen source or destination", [control] { control->listen(); })
            .on("Space", {page->board()})
            .byMouse("Listen to the chosen thread")
            .staying(),
        Command("bench.record", "Record the chosen thread to WAV", [control] { control->record(); })
            .on("F8")
            .byMouse("Record the chosen thread")
            .staying()};
    return stage;
}

} // namespace loom::app
