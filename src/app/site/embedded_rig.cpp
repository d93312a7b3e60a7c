#include "app/site/embedded_rig.h"

namespace loom::app {

EmbeddedRig::EmbeddedRig(rig::DeviceSetup setup, QString address)
    : setup_(std::move(setup)), address_(std::move(address)) {
    start();
}

EmbeddedRig::~EmbeddedRig() {
    quit();
    wait();
}

void EmbeddedRig::run() {
    rig::Server server(setup_);
    if (server.listen(QHostAddress(address_)).isEmpty()) // taken: another rig answers there, which serves as well
        exec();
}

} // namespace loom::app
