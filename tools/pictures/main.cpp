// loom-pictures: draws one view of the demo into a file.
#include "app/shell/accessible.h"
#include "app/surfaces/surface_pictures.h"
#include "app/theme/theme.h"
#include "app/weave/weave_print.h"
#include "app/weave/weave_view.h"
#include "catalogue/catalogue.h"
#include "file/store.h"
#include "models.h"
#include "pictures/picture.h"
#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <cstdio>

using namespace loom;

void pictures::Scene::runFor(int ms) {
    QElapsedTimer clock;
    clock.start();
    while (clock.elapsed() < ms)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
}

bool pictures::Scene::open(const project::Project& project) {
    const QString file = folder.filePath("marram-point.loom");
    return project::saveProject(project, file.toStdString()) && session().open(file);
}

namespace {

bool save(app::MainWindow& window, const QString& file) {
    auto& weave = *window.findChild<app::WeaveView*>();
    if (file.endsWith(".pdf"))
        return app::saveWeaveAsPdf(window.session(), weave, file);
    if (file.endsWith(".svg"))
        return app::saveWeaveAsSvg(window.session(), weave, file);
    (void)window.grab(); // asks for the pictures that it shows
    app::settlePictures();
    return window.grab().save(file);
}

} // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    QApplication::setApplicationName("nimble-loom");
    QApplication::setOrganizationName("nimble-loom");
    QApplication::setStyle("Fusion");
    app::Theme::loadFonts();
    app::installAccessibility();
    auto views = pictures::designViews();
    views.merge(pictures::siteViews());
    QCommandLineParser words;
    words.setApplicationDescription("Draws one view of the demo: " +
                                    QStringList(QList<QString>::fromList([&] {
                                        QStringList names;
                                        for (const auto& [name, arrange] : views)
                                            names << name;
                                        return names;
                                    }()))
                                        .join(", ") +
                                    ", or deck-KIND for the deck of a kind of block");
    words.addHelpOption();
    words.addPositionalArgument("view", "Which one");
    words.addPositionalArgument("file", "PNG; PDF or SVG is a drawing of the weave");
    words.addOptions({{"size", "The picture's size", "WxH", "1280x800"},
                      {"text-scale", "80 to 200", "percent", "100"},
                      {"theme", "linen or night", "name", "linen"}});
    words.process(application);
    const auto named = words.positionalArguments();
    const auto size = words.value("size").split('x');
    if (named.size() != 2 || size.size() != 2 || !(views.count(named[0]) || named[0].startsWith("deck-"))) {
        std::fprintf(stderr, "loom-pictures: say which view and which file; --help lists the views\n");
        return 2;
    }
    app::Theme::get().setPercent(words.value("text-scale").toInt());
    app::Theme::get().setNight(words.value("theme") == "night");
    app::MainWindow window;
    pictures::Scene scene{window};
    const auto demo = test::load(project::dataFolder() + "/demo/marram-point");
    if (!demo || !scene.open(*demo)) {
        std::fprintf(stderr, "loom-pictures: the demo cannot be opened; is NIMBLE_LOOM_DATA right?\n");
        return 2;
    }
    window.resize(size[0].toInt(), size[1].toInt());
    window.show();
    emit app::Theme::get().changed(); // sizes follow the window
    const bool arranged =
        views.count(named[0]) ? views[named[0]](scene) : pictures::arrangeDeck(scene, named[0].mid(5));
    if (!arranged || !save(window, named[1])) {
        std::fprintf(stderr, "loom-pictures: %s cannot be %s\n", qPrintable(arranged ? named[1] : named[0]),
                     arranged ? "written" : "arranged");
        return 2;
    }
    window.session().bench().stop();
    return 0;
}
