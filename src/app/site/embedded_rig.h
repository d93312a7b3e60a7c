// The simulated processor that the demo brings along: the same server as loom-rig, in a thread of its own.
#pragma once
#include "rig/server.h"
#include <QThread>

namespace loom::app {

class EmbeddedRig : public QThread {
  public:
    EmbeddedRig(rig::DeviceSetup setup, QString address);
    ~EmbeddedRig() override;

  protected:
    void run() override;

  private:
    rig::DeviceSetup setup_;
    QString address_;
};

} // namespace loom::app
