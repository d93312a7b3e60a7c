// nimble-loom: the application.
#include "app/demo.h"
#include "app/shell/accessible.h"
#include "app/shell/end_signals.h"
#include "app/shell/main_window.h"
#include "app/site/embedded_rig.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include "file/store.h"
#include <QApplication>
#include <QCommandLineParser>
#include <QSettings>
#include <QStandardPaths>

using namespace loom::app;

namespace {

// The demo's devices, simulated in this process; they hear the demo's speech.
std::unique_ptr<EmbeddedRig> demoRig(const QString& folder, const loom::project::Catalogue& models) {
    const auto demo = loom::project::loadProject(loom::project::dataFolder() + "/demo/marram-point", models);
    if (!demo)
        return nullptr;
    return std::make_unique<EmbeddedRig>(models, *demo, folder.toStdString());
}

// Painting leaves the wide registers in use.
class Application : public QApplication {
  public:
    using QApplication::QApplication;
    bool notify(QObject* to, QEvent* event) override {
        loom::dsp::freshRegisters();
        return QApplication::notify(to, event);
    }
};

} // namespace

int main(int argc, char** argv) {
    Application app(argc, argv);
    QApplication::setApplicationName("nimble-loom");
    QApplication::setOrganizationName("nimble-loom");
    QApplication::setStyle("Fusion");
    Theme::loadFonts();
    installAccessibility();
    QCommandLineParser words;
    words.setApplicationDescription("Nimble Loom: design, program and commission the sound of rooms");
    words.addHelpOption();
    words.addPositionalArgument("project", "A .loom file or a folder made from one");
    words.addOptions({{"demo", "Opens the demo library (a copy of your own)"},
                      {"leave-after-first-picture", "Ends once the window is drawn (to time the start)"},
                      {"text-scale", "80 to 200", "percent"},
                      {"theme", "linen or night", "name"}});
    words.process(app);
    QSettings settings;
    Theme::get().setPercent(
        (words.isSet("text-scale") ? words.value("text-scale") : settings.value("textScale", "100")).toInt());
    Theme::get().setNight(words.isSet("theme") ? words.value("theme") == "night"
                                               : settings.value("night", false).toBool());
    MainWindow window;
    window.showStage(settings.value("stage").toString()); // where it was left; without one where the work begins
    window.show();
    keepWorkOnSignals(window.session());
    std::unique_ptr<EmbeddedRig> rig;
    if (words.isSet("demo")) {
        rig = demoRig(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + "/rig",
                      window.session().models());
        window.session().open(demoCopy());
    }
    if (!words.isSet("demo") && !words.positionalArguments().isEmpty())
        window.session().open(words.positionalArguments().first());
    else if (!words.isSet("demo") && !words.isSet("leave-after-first-picture"))
        window.session().recoverUnnamed();
    if (words.isSet("leave-after-first-picture"))
        QTimer::singleShot(0, &window, [&window] {
            window.grab(); // every widget has painted when this returns
            QApplication::quit();
        });
    return QApplication::exec();
}
