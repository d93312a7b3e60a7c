// A message to a simulated device: every one gets an answer that is JSON.
#include "rig/server.h"
#include <QCoreApplication>
#include <QTemporaryDir>
#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    static int argc = 1;
    static char name[] = "fuzz";
    static char* argv[] = {name, nullptr};
    static QCoreApplication app(argc, argv);
    static QTemporaryDir folder;
    static loom::rig::DeviceSetup setup = [] {
        loom::rig::DeviceSetup s;
        s.folder = folder.path().toStdString();
        return s;
    }();
    static loom::rig::Server server(setup);
    const std::string reply = server.answer(std::string(reinterpret_cast<const char*>(data), size));
    if (!nlohmann::json::accept(reply))
        std::abort();
    return 0;
}
