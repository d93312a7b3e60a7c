// 300 devices on site: how long until all are found, until every difference is known, until all run and keep the
// design; and how long the GUI thread is away while meters come 20 times a second. Prints a line each. Away is told
// twice: as the clock on the wall has it, with 300 simulated devices and ten sounding programs on the same machine, and
// as the thread's own work, which is what the window takes where the devices are boxes of their own.
//   QT_QPA_PLATFORM=offscreen bench/site_scale [devices]
#include "app/shell/main_window.h"
#include "app/site/embedded_rig.h"
#include "app/site/site_page.h"
#include "app/theme/theme.h"
#include "file/store.h"
#include "models.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <cstdio>

using namespace loom;
using namespace loom::app;

namespace {

constexpr quint16 port = 21400;

project::Project many(int count) {
    project::Project p;
    p.name = "Many";
    const char* models[] = {"canopy-8", "slate-10", "tap", "dial", "shuttle-8"};
    for (int i = 0; i < count; ++i) {
        project::Device d;
        d.models = test::models();
        d.id = "d" + std::to_string(i);
        d.name = "Device " + std::to_string(i);
        d.address = "127.20." + std::to_string(12 + i / 200) + "." + std::to_string(20 + i % 200);
        d.model = i < 10 ? "heddle-8" : models[i % 5];
        d.lampLive = "green";
        if (i < 10) { // a tone through an equaliser and a level: it sounds at three places
            engine::Program program;
            program.blocks = {{"tone", "generator", "Tone"},
                              {"eq", "eq", ""},
                              {"level", "level", ""},
                              {"out", "destination", "Out", {}, {}, {{"port", "out 1"}}}};
            program.connections = {{{"tone", 0}, {"eq", 0}}, {{"eq", 0}, {"level", 0}}, {{"level", 0}, {"out", 0}}};
            d.program = program;
        }
        p.devices.push_back(d);
    }
    return p;
}

double worked() { // this thread, ms
    timespec t;
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
    return static_cast<double>(t.tv_sec) * 1e3 + static_cast<double>(t.tv_nsec) / 1e6;
}

// How long the loop was away, at most and how often.
class Away : public QObject {
  public:
    Away() {
        startTimer(1, Qt::PreciseTimer);
        reset();
    }
    void reset() {
        longest_ = work_ = 0;
        over_ = workOver_ = turns_ = 0;
        clock_.start();
        before_ = worked();
    }
    void print() const {
        std::printf("GUI thread away %.1f ms at most, over 16 ms in %d of %d turns; its own work %.1f ms at most, over "
                    "16 ms in %d\n",
                    longest_, over_, turns_, work_, workOver_);
    }

  protected:
    void timerEvent(QTimerEvent*) override {
        const double ms = static_cast<double>(clock_.nsecsElapsed()) / 1e6, now = worked();
        clock_.restart();
        longest_ = std::max(longest_, ms);
        work_ = std::max(work_, now - before_);
        over_ += ms > 16;
        workOver_ += now - before_ > 16;
        ++turns_;
        before_ = now;
    }

  private:
    QElapsedTimer clock_;
    double longest_ = 0, work_ = 0, before_ = 0;
    int over_ = 0, workOver_ = 0, turns_ = 0;
};

template <class Until> double wait(Until until, int most = 60000) {
    QElapsedTimer clock;
    clock.start();
    while (!until() && clock.elapsed() < most)
        QApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents);
    return static_cast<double>(clock.elapsed()) / 1000;
}

} // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    QStandardPaths::setTestModeEnabled(true);
    QTemporaryDir folder;
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, folder.path());
    Theme::loadFonts();
    const int count = argc > 1 ? std::clamp(std::atoi(argv[1]), 1, 300) : 300;
    const auto p = many(count);
    const QString file = folder.filePath("many.loom");
    if (!project::saveProject(p, file.toStdString()))
        return 2;
    EmbeddedRig rig(test::models(), p, folder.path().toStdString(), port);
    rig.with([](rig::Rig& r) { std::printf("rig: %zu devices\n", r.servers().size()); });
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    window.session().open(file);
    window.showStage("site");
    auto& fleet = window.findChild<SitePage*>()->fleet();
    fleet.discovery().setPort(port);
    Away away;
    const auto all = [&](auto is) {
        const auto members = fleet.members();
        return static_cast<int>(members.size()) == count && std::all_of(members.begin(), members.end(), is);
    };
    fleet.look(*site::readSubnet("127.20.12.0/22"));
    std::printf("found, all: %.2f s\n",
                wait([&] { return static_cast<int>(fleet.discovery().found().size()) == count; }));
    wait([] { return false; }, 300); // who presses Pair has seen them
    away.reset();
    fleet.pairAll({site::PairBy::address});
    std::printf("paired and every difference known: %.2f s",
                wait([&] { return all([](const Fleet::Member* m) { return m->config && !m->rows.empty(); }); }));
    std::printf(", ");
    away.print();
    away.reset();
    QString last;
    QObject::connect(&window.session(), &Session::said, &app, [&](const QString& text) { last = text; });
    window.findChild<SitePage*>()->tryNow();
    std::printf("all run the design: %.2f s", wait([&] {
                    return all([](const Fleet::Member* m) { return m->runningRevision() > 0 && m->rows.empty(); });
                }));
    std::printf(", ");
    away.print();
    away.reset();
    window.findChild<SitePage*>()->keep();
    std::printf("all keep it: %.2f s", wait([&] { return all([](const Fleet::Member* m) { return m->kept(); }); }));
    std::printf(", ");
    away.print();
    int meters = 0;
    QObject::connect(&fleet, &Fleet::metersCame, &app, [&] { ++meters; });
    window.findChild<SitePage*>()->setLive(true);
    wait([] { return false; }, 1000);
    meters = 0;
    away.reset();
    wait([] { return false; }, 5000);
    int sounding = 0;
    for (const auto* m : fleet.members())
        sounding += !m->meters.empty();
    std::printf("live: meters of %d processors %.1f times a second, ", sounding, meters / 5.0);
    away.print();
    wait([] { return false; }, 11000); // longer than a silent one is remembered
    std::printf("still found: %zu\n", fleet.discovery().found().size());
    if (!last.isEmpty())
        std::printf("said last: %s\n", qPrintable(last));
    return 0;
}
