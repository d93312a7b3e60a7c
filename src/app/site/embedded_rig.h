// Simulated devices that the application brings along: the same rig as loom-rig, in a thread of its own.
#pragma once
#include "rig/rig.h"
#include <QThread>
#include <atomic>

namespace loom::app {

class EmbeddedRig : public QThread {
  public:
    // models: what it can put up.
    EmbeddedRig(const project::ModelSource& models, std::vector<rig::DeviceSetup> devices, quint16 port = rig::rigPort);
    // What a dealer would deliver for a project, which they hear.
    EmbeddedRig(const project::ModelSource& models, const project::Project& project, std::string folder,
                quint16 port = rig::rigPort);
    // The devices of a scenario's file.
    EmbeddedRig(const project::ModelSource& models, const std::string& scenario, std::string folder,
                quint16 port = rig::rigPort);
    ~EmbeddedRig() override;
    // Runs something with the rig on its own thread, and waits for it.
    void with(const std::function<void(rig::Rig&)>& what);

  protected:
    void run() override;

  private:
    std::function<Result<Done>(rig::Rig&)> fill_;
    project::ModelSource models_;
    quint16 port_;
    std::atomic<rig::Rig*> rig_ = nullptr;
};

} // namespace loom::app
