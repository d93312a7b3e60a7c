// nimble-loom: the application.
#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include "project/catalogue.h"
#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
#include <QSettings>
#include <QStandardPaths>
#include <cstdio>

using namespace loom::app;

namespace {

// The demo is copied once to a folder of the user's, so that trying things out never touches the shipped one.
QString demoCopy() {
    const QString from = QString::fromStdString(loom::project::dataFolder()) + "/demo/marram-point";
    const QString to = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + "/marram-point";
    if (!QFile::exists(to + "/project.json")) {
        QDir().mkpath(to + "/assets");
        QFile::copy(from + "/project.json", to + "/project.json");
        for (const auto& asset : QDir(from + "/assets").entryList(QDir::Files))
            QFile::copy(from + "/assets/" + asset, to + "/assets/" + asset);
    }
    return to;
}

// Draws one view from the demo, with speech running for a moment so that meters show something true.
int shoot(MainWindow& window, const QString& stage, const QString& file, QSize size) {
    const QString demo = QString::fromStdString(loom::project::dataFolder()) + "/demo/marram-point";
    if (!window.session().open(demo)) {
        std::fprintf(stderr, "nimble-loom: %s cannot be opened\n", qPrintable(demo));
        return 2;
    }
    window.resize(size);
    window.show();
    emit Theme::get().changed(); // sizes follow the window
    window.showStage(stage);
    window.session().choose("chair", "chair.eq");
    window.toggleBench();
    QElapsedTimer clock;
    clock.start();
    while (!window.session().bench().running() && clock.elapsed() < 30000)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    clock.restart();
    while (clock.elapsed() < 2400)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
    window.refreshNow();
    const bool good = window.grab().save(file);
    window.session().bench().stop();
    if (!good)
        std::fprintf(stderr, "nimble-loom: %s cannot be written\n", qPrintable(file));
    return good ? 0 : 2;
}

} // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    QApplication::setApplicationName("nimble-loom");
    QApplication::setOrganizationName("nimble-loom");
    QApplication::setStyle("Fusion");
    Theme::loadFonts();
    QCommandLineParser words;
    words.setApplicationDescription("Nimble Loom: design, program and commission the sound of rooms");
    words.addHelpOption();
    words.addPositionalArgument("project", "A .loom file or a folder made from one");
    words.addOptions({{"demo", "Opens the demo library (a copy of your own)"},
                      {"shot", "Draws one stage of the demo: weave, bench", "stage"},
                      {"out", "The picture's file", "file"},
                      {"size", "The picture's size", "WxH", "1280x800"},
                      {"text-scale", "80 to 200", "percent"},
                      {"theme", "linen or night", "name"}});
    words.process(app);
    QSettings settings;
    const bool shot = words.isSet("shot");
    Theme::get().setPercent(words.isSet("text-scale") ? words.value("text-scale").toInt()
                            : shot                    ? 100
                                                      : settings.value("textScale", 100).toInt());
    Theme::get().setNight(words.isSet("theme") ? words.value("theme") == "night"
                                               : !shot && settings.value("night", false).toBool());
    MainWindow window;
    if (shot) {
        const auto size = words.value("size").split('x');
        return shoot(window, words.value("shot"), words.value("out"),
                     size.size() == 2 ? QSize(size[0].toInt(), size[1].toInt()) : QSize(1280, 800));
    }
    window.show();
    if (words.isSet("demo"))
        window.session().open(demoCopy());
    else if (!words.positionalArguments().isEmpty())
        window.session().open(words.positionalArguments().first());
    return QApplication::exec();
}
