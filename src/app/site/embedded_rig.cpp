#include "app/site/embedded_rig.h"
#include <QDebug>

namespace loom::app {

EmbeddedRig::EmbeddedRig(const project::ModelSource& models, std::vector<rig::DeviceSetup> devices, quint16 port)
    : fill_([devices = std::move(devices)](rig::Rig& rig) -> Result<Done> {
          for (const auto& d : devices)
              if (auto done = rig.add(d); !done)
                  return done;
          return Done{};
      }),
      models_(models), port_(port) {
    start();
}

EmbeddedRig::EmbeddedRig(const project::ModelSource& models, const project::Project& project, std::string folder,
                         quint16 port)
    : fill_([project, folder = std::move(folder)](rig::Rig& rig) {
          return rig.play(site::deliveredFor(project), &project, &project, folder);
      }),
      models_(models), port_(port) {
    start();
}

EmbeddedRig::EmbeddedRig(const project::ModelSource& models, const std::string& scenario, std::string folder,
                         quint16 port)
    : fill_([scenario, folder = std::move(folder)](rig::Rig& rig) { return rig.playFile(scenario, folder); }),
      models_(models), port_(port) {
    start();
}

EmbeddedRig::~EmbeddedRig() {
    quit();
    wait();
}

void EmbeddedRig::with(const std::function<void(rig::Rig&)>& what) {
    while (!rig_ && isRunning())
        msleep(5);
    if (auto* rig = rig_.load())
        QMetaObject::invokeMethod(
            rig, [&] { what(*rig); }, Qt::BlockingQueuedConnection);
}

void EmbeddedRig::run() {
    rig::Rig rig(models_, port_);
    if (const auto done = fill_(rig); !done)
        qWarning("rig: %s", done.error().text().c_str());
    if (const QString error = rig.open(); !error.isEmpty()) // another rig answers there, which serves as well
        qWarning("rig: %s", qPrintable(error));
    rig_ = &rig;
    exec();
    rig_ = nullptr;
}

} // namespace loom::app
