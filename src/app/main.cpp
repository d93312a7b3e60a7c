// nimble-loom: the application.
#include "app/demo.h"
#include "app/shell/accessible.h"
#include "app/shell/end_signals.h"
#include "app/shell/main_window.h"
#include "app/site/embedded_rig.h"
#include "app/surfaces/surface_window.h"
#include "app/text.h"
#include "app/theme/theme.h"
#include "catalogue/catalogue.h"
#include "client/fleet.h"
#include "file/store.h"
#include "surface/surface_edit.h"
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

// Where to look for devices: as it is said, as at Site last, or around the first address of the plan.
std::optional<loom::site::Subnet> networkOf(const loom::project::Project& p, const QString& said) {
    for (const auto& text : {said, QSettings().value("adapter").toString()})
        if (const auto range = loom::site::readSubnet(text.toStdString()))
            return range;
    for (const auto& d : p.devices)
        if (const auto address = loom::site::readAddress(d.address))
            return loom::site::Subnet{*address & ~255u, 24};
    return {};
}

// Only a surface, on the computer of somebody who uses it: the design is behind it and cannot be reached. Values are
// those of the devices, where they are reached and this computer may.
int useSurface(const QCommandLineParser& words) {
    const auto fail = [](const QString& text) {
        std::fprintf(stderr, "nimble-loom: %s\n", text.toUtf8().constData());
        return 2;
    };
    if (words.positionalArguments().isEmpty())
        return fail("--surface needs a project: nimble-loom --surface NAME FILE");
    MainWindow window; // never shown
    auto& session = window.session();
    QString why;
    QObject::connect(&session, &Session::said, [&](const QString& text, bool bad) { why = bad ? text : why; });
    if (!session.open(words.positionalArguments().first()))
        return fail(why);
    const auto& p = session.project();
    const auto surface = loom::project::surfaceSaid(p, words.value("surface").toStdString());
    if (!surface) {
        QStringList names;
        for (const auto& s : p.surfaces)
            names << q(s.name);
        return fail(
            QString("there is no surface \"%1\" in it; it has: %2").arg(words.value("surface"), names.join(", ")));
    }
    std::string role;
    if (words.isSet("as")) {
        for (const auto& r : (*surface)->roles)
            if (r.id == words.value("as").toStdString() || r.name == words.value("as").toStdString())
                role = r.id;
        if (role.empty())
            return fail(QString("%1 has no role \"%2\"").arg(q((*surface)->name), words.value("as")));
    }
    if (auto* fleet = session.fleet()) {
        if (const auto range = networkOf(p, words.value("network")))
            fleet->look(*range);
        fleet->setLive(true);
    }
    auto* shown = new SurfaceWindow(session, (*surface)->id, nullptr, SurfaceWindow::For::operators);
    shown->be(role);
    auto manner = shown->manner();
    manner.full = manner.full || words.isSet("full-screen");
    manner.bare = manner.bare || words.isSet("bare");
    manner.noPointer = manner.noPointer || words.isSet("hide-pointer");
    shown->setManner(manner);
    return QApplication::exec();
}

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
                      {"theme", "linen or night", "name"},
                      {"surface", "Opens only this touch surface of the project, for those who use it", "name"},
                      {"as", "With --surface: the role of who uses it", "role"},
                      {"network", "With --surface: where its devices are, if not where the plan says", "range"},
                      {"full-screen", "With --surface: it fills the screen"},
                      {"bare", "With --surface: without a frame"},
                      {"hide-pointer", "With --surface: without the mouse's pointer"}});
    words.process(app);
    QSettings settings;
    Theme::get().setPercent(
        (words.isSet("text-scale") ? words.value("text-scale") : settings.value("textScale", "100")).toInt());
    Theme::get().setNight(words.isSet("theme") ? words.value("theme") == "night"
                                               : settings.value("night", false).toBool());
    if (words.isSet("surface"))
        return useSurface(words);
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
