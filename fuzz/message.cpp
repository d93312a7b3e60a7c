// A message to a simulated device: every one gets an answer that is JSON; to a sealed one, it changes nothing.
#include "rig/server.h"
#include "site/config.h"
#include <QCoreApplication>
#include <QTemporaryDir>
#include <cstdlib>

namespace {

loom::rig::DeviceSetup setupFor(const char* model, const char* serial) {
    static QTemporaryDir folder;
    loom::rig::DeviceSetup s;
    s.folder = folder.path().toStdString(), s.model = model, s.serial = serial;
    return s;
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    static int argc = 1;
    static char name[] = "fuzz";
    static char* argv[] = {name, nullptr};
    static QCoreApplication app(argc, argv);
    static loom::rig::Server server(setupFor("heddle-16", "OPEN")), board(setupFor("spindle-3x6", "BOARD")),
        sealed(setupFor("heddle-16", "SEALED"));
    static const std::string before = [] {
        if (!sealed.setFault("password", "only for the fuzzer"))
            std::abort();
        return loom::site::fingerprint(sealed.device().running()) + sealed.device().store().lock();
    }();
    const std::string message(reinterpret_cast<const char*>(data), size);
    for (auto* s : {&server, &board, &sealed})
        if (!nlohmann::json::accept(s->front().answerInTheOpen(message)))
            std::abort();
    const auto& device = sealed.device();
    if (loom::site::fingerprint(device.running()) + device.store().lock() != before ||
        !device.store().audioKey().empty() || !device.store().revisions().empty() || device.identifying() ||
        !device.tools().empty())
        std::abort();
    return 0;
}
