// How long Weave takes for programs of 10, 100 and 1,000 lanes: laying out, painting a window of it, and from an edit
// to its picture. Offscreen; each lane has three beads, a hundred lanes share a matrix mixer with sixteen destinations.
#include "app/shell/command.h"
#include "app/theme/theme.h"
#include "app/weave/weave_view.h"
#include "catalogue/catalogue.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QPainter>
#include <algorithm>
#include <cstdio>

using namespace loom;

namespace {

engine::Program lanes(int count) {
    engine::Program p;
    for (int i = 0; i < count; ++i) {
        const std::string id = "lane-" + std::to_string(i), hub = "hub-" + std::to_string(i / 100);
        if (i % 100 == 0) {
            const int ins = std::min(100, count - i);
            p.blocks.push_back({hub, "matrix", "", {{"inputs", ins}, {"outputs", 16}}, {{"1.1", 0}, {"2.3", -6}}});
            for (int o = 0; o < 16; ++o) {
                const std::string out = hub + "-out-" + std::to_string(o);
                p.blocks.push_back({out, "destination", ""});
                p.blocks.push_back({out + ".eq", "eq", ""});
                p.connections.push_back({{hub, o}, {out + ".eq", 0}});
                p.connections.push_back({{out + ".eq", 0}, {out, 0}});
            }
        }
        p.blocks.push_back({id, "source", "Lane " + std::to_string(i)});
        std::string at = id;
        for (const char* kind : {"preamp", "highpass", "eq"}) {
            p.blocks.push_back({id + "." + kind, kind, ""});
            p.connections.push_back({{at, 0}, {id + "." + kind, 0}});
            at = id + "." + kind;
        }
        p.connections.push_back({{at, 0}, {hub, i % 100}});
    }
    return p;
}

template <class Work> double median(const Work& work) {
    std::vector<double> ms;
    for (int i = 0; i < 7; ++i) {
        QElapsedTimer clock;
        clock.start();
        work(i);
        ms.push_back(static_cast<double>(clock.nsecsElapsed()) / 1e6);
    }
    std::sort(ms.begin(), ms.end());
    return ms[3];
}

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    app::Theme::loadFonts();
    for (const int count : {10, 100, 1000}) {
        app::Session session;
        session.start("heddle-16");
        const auto program = lanes(count);
        if (!session.setProgram(program, "Lanes"))
            return 1;
        QWidget window;
        app::Commands commands(&window);
        app::WeaveView view(session, commands);
        view.resize(view.sizeHint());
        QImage picture(1280, 800, QImage::Format_ARGB32_Premultiplied);
        const auto paint = [&] { // the middle of it
            QPainter p(&picture);
            const int top = std::max(0, view.height() / 2 - 400);
            view.render(&p, {}, QRegion(0, top, 1280, 800));
        };
        const double layout = median([&](int) { (void)engine::layOut(program); });
        const double painting = median([&](int) { paint(); });
        const double edit = median([&](int i) {
            session.set("lane-5.eq", "3.gain", i - 3);
            paint();
        });
        std::printf(
            "%5d lanes: layout %.2f ms, painting a window of 1280 x 800 %.1f ms, from an edit to its picture %.1f "
            "ms\n",
            count, layout, painting, edit);
    }
}
