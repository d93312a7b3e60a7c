// What edits cost: a value dragged in a program of 5,000 blocks, steps kept by undo, one edit of 300 devices in the
// model and in a window. Prints a line each.
//   QT_QPA_PLATFORM=offscreen bench/edits
#include "app/session.h"
#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include "file/store.h"
#include "model/history.h"
#include "models.h"
#include "voicings/voicing_edit.h"
#include <QApplication>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <malloc.h>

using namespace loom;
using namespace loom::project;
using Clock = std::chrono::steady_clock;

namespace {

double since(Clock::time_point start) { // ms
    return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}
double median(std::vector<double> v) {
    std::sort(v.begin(), v.end());
    return v[v.size() / 2];
}
double taken() { // kB
    return static_cast<double>(mallinfo2().uordblks) / 1024;
}

// 1,000 lanes of a source, a high-pass, an equaliser, a compressor and a destination.
Project large() {
    engine::Program p;
    for (int i = 0; i < 1000; ++i) {
        const std::string n = std::to_string(i);
        const char* kinds[] = {"source", "highpass", "eq", "compressor", "destination"};
        for (int k = 0; k < 5; ++k) {
            p.blocks.push_back({kinds[k] + n, kinds[k], ""});
            if (k == 2)
                p.blocks.changeBack().values = {{"1.on", 1}, {"1.gain", 3}, {"2.on", 1}, {"2.hz", 900}};
            if (k > 0)
                p.connections.push_back({{kinds[k - 1] + n, 0}, {kinds[k] + n, 0}});
        }
    }
    Project project;
    Device d;
    d.models = test::models();
    d.id = d.name = "large";
    d.model = "heddle-16";
    d.program = std::move(p);
    project.devices.push_back(std::move(d));
    return project;
}

void drag() {
    Project p = large();
    History h(p);
    std::vector<double> times;
    const double before = taken();
    for (int i = 0; i < 10000; ++i) {
        const auto start = Clock::now();
        h.endMerge(); // each a step of its own
        if (!h.run(setValue(p, "large/eq" + std::to_string(i % 1000) + ".1.gain", i % 10)))
            std::printf("refused\n");
        times.push_back(since(start));
    }
    std::printf(
        "5,000 blocks, 10,000 values set: %.3f ms each, %.3f at most of all but ten; %.2f kB a step, %.1f MB in "
        "all\n",
        median(times), (std::sort(times.begin(), times.end()), times[times.size() - 11]), (taken() - before) / 10000,
        (taken() - before) / 1024);
    const auto start = Clock::now();
    while (h.canUndo())
        h.undo();
    std::printf("all undone: %.3f ms each\n", since(start) / 10000);
}

void steps(const Project& demo) {
    Project p = demo;
    History h(p);
    const double before = taken();
    const auto start = Clock::now();
    for (int i = 0; i < 1000; ++i) {
        h.endMerge();
        auto edit = i % 3 == 0   ? setValue(p, "heddle/delegate-3.eq.2.gain", i % 10)
                    : i % 3 == 1 ? changeDevice("column-l", "Move", [i](Device& d) { d.place.x = 1 + i % 5; })
                                 : changeDevice("heddle", "Insert", [i](Device& d) {
                                       d.program->blocks.push_back({"b" + std::to_string(i), "level", ""});
                                   });
        if (!h.run(edit))
            std::printf("refused\n");
    }
    std::printf("demo, 1,000 steps: %.3f ms each, %.2f kB each, %.1f MB in all\n", since(start) / 1000,
                (taken() - before) / 1000, (taken() - before) / 1024);
}

void devices() {
    Project p;
    for (int i = 0; i < 300; ++i) {
        Device d;
        d.models = test::models();
        d.id = "d" + std::to_string(i);
        d.name = "Device " + std::to_string(i);
        d.model = i % 2 ? "canopy-8" : "heddle-8";
        d.address = "10.1." + std::to_string(i / 200) + "." + std::to_string(1 + i % 200);
        if (i % 2 == 0)
            d.program.emplace().blocks = {{"in", "source", ""}, {"out", "destination", ""}};
        p.devices.push_back(std::move(d));
    }
    const auto all = [](const Project& now, int n) {
        std::map<std::string, std::optional<Device>> changed;
        for (Device d : now.devices) {
            d.notes = "note " + std::to_string(n);
            changed[d.id] = d;
        }
        return setDevices(std::move(changed), "Notes");
    };
    History h(p);
    std::vector<double> model, window;
    for (int i = 0; i < 21; ++i) {
        const auto edit = all(p, i);
        const auto start = Clock::now();
        if (!h.run(edit))
            std::printf("refused\n");
        model.push_back(since(start));
    }
    QTemporaryDir folder;
    const QString file = folder.filePath("many.loom");
    if (const auto done = saveProject(p, file.toStdString()); !done)
        return void(std::printf("%s\n", done.error().text().c_str()));
    for (const char* stage : {"survey", "weave", "site"}) {
        app::MainWindow w;
        w.resize(1280, 800);
        w.show();
        w.session().open(file);
        w.showStage(stage);
        QApplication::processEvents();
        window.clear();
        for (int i = 0; i < 21; ++i) {
            auto edit = all(w.session().project(), 100 + i);
            const auto start = Clock::now();
            w.session().edit(std::move(edit));
            window.push_back(since(start));
            for (int k = 0; k < 20; ++k)
                QApplication::processEvents();
        }
        std::printf("300 devices in one edit: model %.2f ms; the window with %s open is held up for %.2f ms, %.2f at "
                    "most\n",
                    median(model), stage, median(window), *std::max_element(window.begin(), window.end()));
        w.session().discard();
    }
}

} // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    QStandardPaths::setTestModeEnabled(true);
    QTemporaryDir settings;
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, settings.path());
    app::Theme::loadFonts();
    const auto demo = test::load(argc > 1 ? argv[1] : "demo/marram-point");
    if (!demo)
        return 2;
    drag();
    steps(*demo);
    devices();
}
