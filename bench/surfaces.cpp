// How long the pages of touch surfaces take in the window: a page of many controls painted, and the list of what drives
// them filled. Usage: bench_surfaces [CONTROLS]
#include "app/surfaces/surface_canvas.h"
#include "file/store.h"
#include "models.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QTemporaryDir>
#include <cstdio>
#include <cstdlib>

using namespace loom;

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    const int count = argc > 1 ? std::atoi(argv[1]) : 200;
    auto p = *test::load(project::dataFolder() + "/demo/marram-point");
    p.surfaces = {};
    auto made = project::addSurface(p, "Many", "")->make(p);
    std::vector<project::NewControl> all;
    for (const auto& d : project::findDrives(p, "", static_cast<std::size_t>(count))) {
        const auto i = all.size();
        all.push_back({project::usualKind(d).id, d.path, "", "", static_cast<double>(i % 20) * 62,
                       static_cast<double>(i / 20) * 78, 60, 76});
    }
    made = project::addControls({"many", "page-1"}, all).make(*made);
    if (!made) {
        std::fprintf(stderr, "%s\n", made.error().text().c_str());
        return 1;
    }
    QTemporaryDir folder;
    const auto file = folder.filePath("many.loom");
    app::Session session;
    if (!project::saveProject(*made, file.toStdString()) || !session.open(file))
        return 1;
    app::SurfacesState state(session);
    app::SurfaceCanvas canvas(state);
    canvas.resize(800, 500);
    QImage image(canvas.size(), QImage::Format_ARGB32_Premultiplied);
    QElapsedTimer clock;
    double most = 0;
    for (int i = 0; i < 20; ++i) {
        clock.start();
        canvas.render(&image);
        if (i > 0) // fonts are read at the first
            most = std::max(most, static_cast<double>(clock.nsecsElapsed()) / 1e6);
    }
    std::printf("%zu controls painted: %.1f ms at most\n", all.size(), most);
    for (const char* words : {"", "mute", "quite nothing"}) {
        clock.start();
        const auto found = project::findDrives(session.project(), words, 200);
        std::printf("what is found by \"%s\": %zu in %.1f ms\n", words, found.size(),
                    static_cast<double>(clock.nsecsElapsed()) / 1e6);
    }
    return 0;
}
