// How long Survey's predictions take: a map of 100 loudspeakers at 10,000 places in eight octaves, and its first coarse
// picture; and a project of 200 rooms and 5,000 devices: opened, and painted as it is moved about.
#include "acoustics/map.h"
#include "acoustics/noise_curve.h"
#include "app/shell/command.h"
#include "app/survey/plan_view.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include "file/store.h"
#include "models.h"
#include "rooms/backdrop_edit.h"
#include "rooms/room_edit.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QMouseEvent>
#include <QPainter>
#include <QTemporaryDir>
#include <algorithm>
#include <cstdio>

using namespace loom;

namespace {

template <class Work> double median(int times, const Work& work) {
    std::vector<double> ms;
    for (int i = 0; i < times; ++i) {
        QElapsedTimer clock;
        clock.start();
        work(i);
        ms.push_back(static_cast<double>(clock.nsecsElapsed()) / 1e6);
    }
    std::sort(ms.begin(), ms.end());
    return ms[ms.size() / 2];
}

void maps() {
    const acoustics::Directivity pattern({360, 360, 300, 210, 160, 120, 90, 70},
                                         {360, 360, 300, 210, 160, 120, 90, 70});
    acoustics::Field f;
    const acoustics::Surface s[] = {{4000, acoustics::filled(0.3)}};
    f.room = acoustics::reverberation(12000, s);
    f.decay = f.room.eyring;
    f.noise = acoustics::noiseCriterion(35);
    for (int i = 0; i < 100; ++i)
        f.emitters.push_back({{4.0 * (i % 10) + 2, 4.0 * (i / 10) + 2, 4},
                              acoustics::aimed(0, -90),
                              acoustics::filled(75),
                              &pattern,
                              0});
    const acoustics::Prediction p(f);
    for (const auto& [places, what] : {std::pair{10000, "fine"}, {500, "coarse"}}) {
        std::vector<acoustics::Point> at;
        for (int i = 0; i < places; ++i)
            at.push_back({40.0 * (i % 100) / 100, 40.0 * (i / 100) / (places / 100), 1.2});
        const double one = median(3, [&](int) { (void)acoustics::mapOf(p, at, {}, nullptr, 1); });
        const double two = median(3, [&](int) { (void)acoustics::mapOf(p, at, {}, nullptr, 2); });
        std::printf("map of 100 loudspeakers, %5d places (%s): %.0f ms on one core, %.0f on two\n", places, what, one,
                    two);
    }
}

void large() {
    project::Project p;
    p.buildings = {{"b", "Building"}};
    const char* const models[] = {"bobbin-c6", "canopy-8", "slate-10", "tap", "reed-g40"};
    for (int r = 0; r < 200; ++r) {
        project::Room room;
        room.id = "room-" + std::to_string(r);
        room.name = "Room " + std::to_string(r);
        const double x = 11.0 * (r % 20), y = 9.0 * (r / 20);
        room.outline = acoustics::rectangle({x, y}, 10, 8);
        project::Seats seats;
        seats.id = "seats";
        seats.x = x + 5;
        seats.y = y + 4;
        seats.rows = 4;
        seats.across = 6;
        room.seats = {seats};
        p.buildings.change(0).rooms.push_back(room);
        for (int d = 0; d < 25; ++d) {
            project::Device device;
            device.models = test::models();
            device.id = room.id + "-" + std::to_string(d);
            device.name = "Device " + std::to_string(r * 25 + d);
            device.model = models[d % 5];
            device.room = room.id;
            device.address = "10." + std::to_string(r) + ".0." + std::to_string(d + 1);
            device.place = {x + 1 + (d % 5) * 2, y + 1 + (d / 5) * 1.5, 3, 0, -90, "", 0, true};
            p.devices.push_back(device);
        }
    }
    QTemporaryDir folder;
    const std::string file = folder.filePath("large.loom").toStdString();
    if (!project::saveProject(p, file))
        return;
    app::Session session;
    const double opened = median(3, [&](int) { session.open(QString::fromStdString(file)); });
    app::SurveyState state(session);
    QWidget window;
    app::Commands commands(&window);
    app::PlanView view(state, commands);
    view.resize(1280, 800);
    session.open(QString::fromStdString(file));
    QImage picture(1280, 800, QImage::Format_ARGB32_Premultiplied);
    const auto paint = [&] {
        QPainter painter(&picture);
        view.render(&painter);
    };
    view.fit();
    paint();
    for (QElapsedTimer clock; !clock.isValid() || (state.busy() && clock.elapsed() < 60000);) { // figures come first
        if (!clock.isValid())
            clock.start();
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    }
    const double whole = median(9, [&](int i) {
        view.zoomBy(i % 2 ? 1.01 : 0.99, {640, 400});
        paint();
    });
    view.zoomBy(8, {640, 400});
    const double near = median(9, [&](int i) {
        view.zoomBy(i % 2 ? 1.01 : 0.99, {640, 400});
        paint();
    });
    std::printf("200 rooms, 5,000 devices: opened in %.0f ms; painted whole in %.1f ms, near in %.1f ms\n", opened,
                whole, near);
    state.cancel();
}

// A DXF plan of 500,000 entities: read, and moved about as it lies below the plan.
void drawing() {
    std::string dxf = "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n";
    unsigned dice = 1;
    const auto upTo = [&](unsigned most) { return std::to_string((dice = dice * 1664525 + 1013904223) / 7 % most); };
    for (int n = 0; n < 500'000; ++n) {
        const std::string x = upTo(90000), y = upTo(60000);
        dxf += n % 10 ? "0\nLINE\n8\n0\n10\n" + x + "\n20\n" + y + "\n11\n" + upTo(90000) + "\n21\n" + y + "\n"
                      : "0\nARC\n8\n0\n10\n" + x + "\n20\n" + y + "\n40\n900\n50\n0\n51\n90\n";
    }
    dxf += "0\nENDSEC\n0\nEOF\n";
    const double read = median(3, [&](int) { (void)project::readDxfPlan(dxf, "plan"); });
    app::Session session;
    session.edit(
        project::addBackdrop(session.project(), "", "plan.dxf", std::vector<char>(dxf.begin(), dxf.end()), 0.001));
    app::SurveyState state(session);
    QWidget window;
    app::Commands commands(&window);
    app::PlanView view(state, commands);
    view.resize(1280, 800);
    QImage picture(1280, 800, QImage::Format_ARGB32_Premultiplied);
    double longest = 0;
    const auto paint = [&] {
        QElapsedTimer clock;
        clock.start();
        QPainter painter(&picture);
        view.render(&painter);
        longest = std::max(longest, static_cast<double>(clock.nsecsElapsed()) / 1e6);
    };
    const auto settle = [&] {
        do {
            QApplication::processEvents(QEventLoop::AllEvents, 20);
            paint();
        } while (view.backdrop().busy());
    };
    settle();
    view.fit();
    settle();
    view.zoomBy(4, {640, 400});
    settle();
    longest = 0;
    int frames = 0;
    const auto mouse = [&](QEvent::Type type, QPointF at, Qt::MouseButtons buttons) {
        QMouseEvent e(type, at, at, type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton, buttons, Qt::NoModifier);
        QApplication::sendEvent(&view, &e);
    };
    const QPointF before = view.toView({0, 0});
    QPointF at(1000, 600);
    mouse(QEvent::MouseButtonPress, at, Qt::LeftButton);
    for (; frames < 200; ++frames) { // the ground is dragged, while pictures are made beside it
        at -= QPointF(4, 2);
        mouse(QEvent::MouseMove, at, Qt::LeftButton);
        paint();
        QApplication::processEvents(QEventLoop::AllEvents, 5);
    }
    mouse(QEvent::MouseButtonRelease, at, Qt::NoButton);
    if (view.toView({0, 0}) == before)
        std::puts("it was not moved");
    std::printf("500,000 entities: read in %.0f ms; painted as it is moved in %.1f ms at most of %d frames\n", read,
                longest, frames);
    state.cancel();
}

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    app::Theme::loadFonts();
    maps();
    large();
    drawing();
}
