// loom-rig: simulated devices as a process of their own.
#include "project/render.h"
#include "project/store.h"
#include "rig/server.h"
#include <QCommandLineParser>
#include <QCoreApplication>
#include <QStandardPaths>
#include <cstdio>

using namespace loom;

int main(int argc, char** argv) {
    QCoreApplication app(argc, argv);
    QCoreApplication::setApplicationName("loom-rig");
    QCommandLineParser words;
    words.setApplicationDescription("A simulated Heddle 16 on a loopback address.\nExample: loom-rig --address "
                                    "127.20.4.10 --hears demo/marram-point");
    words.addHelpOption();
    words.addOptions({{"address", "Address to listen at", "ip", "127.20.4.10"},
                      {"port", "Port", "number", QString::number(rig::rigPort)},
                      {"serial", "Serial number", "text", "00A3F1"},
                      {"store", "Folder of its store", "folder",
                       QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation)},
                      {"hears", "Project whose stand-in sound its inputs hear", "project"}});
    words.process(app);
    rig::DeviceSetup setup;
    setup.serial = words.value("serial").toStdString();
    setup.folder = words.value("store").toStdString();
    if (words.isSet("hears")) {
        auto project = project::loadProject(words.value("hears").toStdString());
        if (!project || project->devices.empty()) {
            std::fprintf(stderr, "loom-rig: %s\n",
                         project ? "the project has no device" : project.trouble().text().c_str());
            return 2;
        }
        setup.resources = project::resourcesOf(*project, project->devices[0], true);
    }
    rig::Server server(std::move(setup));
    const QString trouble =
        server.listen(QHostAddress(words.value("address")), static_cast<quint16>(words.value("port").toUInt()));
    if (!trouble.isEmpty()) {
        std::fprintf(stderr, "loom-rig: %s\n", qPrintable(trouble));
        return 2;
    }
    std::printf("Heddle 16 at ws://%s:%d\n", qPrintable(words.value("address")), server.port());
    std::fflush(stdout);
    return QCoreApplication::exec();
}
