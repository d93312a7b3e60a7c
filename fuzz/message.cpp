// A message on an encrypted line to a simulated device: every one gets an answer, or ends the line; what ran is whole
// still; to a sealed device, and on a line in the open, it changes nothing.
#include "../tests/client/stranger.h"
#include "models.h"
#include "rig/device.h"
#include "site/config.h"
#include <cstdlib>
#include <filesystem>

using namespace loom;
using test::Stranger;

namespace {

double now = 0;

struct Station {
    rig::Device device;
    rig::Front front{device, [] { return now; }};
    std::unique_ptr<Stranger> who;
    bool leaves = false;
    Station(const char* model, const char* serial, const std::string& folder) : device(setup(model, serial, folder)) {
        front.moveTo = [this](const std::string&) { leaves = true; };
        front.restart = [this](int) { leaves = true; };
    }
    static rig::DeviceSetup setup(const char* model, const char* serial, const std::string& folder) {
        rig::DeviceSetup s;
        s.models = test::models();
        s.folder = folder, s.model = model, s.serial = serial;
        return s;
    }
    std::string all() const { return site::fingerprint(device.running()) + device.store().lock(); }
    // False: it got neither an answer nor an end.
    bool say(const std::string& message, bool encrypted) {
        now += 0.01;
        if (!who || who->dropped) {
            who = std::make_unique<Stranger>(front);
            if (encrypted)
                who->secure();
        }
        const bool answered = who->say(message).is_object() || who->dropped;
        if (std::exchange(leaves, false)) { // as the server does
            front.closeAll();
            device.powerOff(), device.powerOn();
        }
        return answered;
    }
};

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    static const std::string folder = [] {
        std::string name = (std::filesystem::temp_directory_path() / "loom-fuzz-XXXXXX").string();
        if (!mkdtemp(name.data()))
            std::abort();
        return name;
    }();
    static Station free("heddle-16", "OPEN", folder), board("spindle-3x6", "BOARD", folder),
        sealed("heddle-16", "SEALED", folder), open("heddle-16", "PLAIN", folder);
    static const std::string before = [] {
        if (!sealed.front.setPassword("only for the fuzzer"))
            std::abort();
        return sealed.all();
    }();
    static const std::string plain = open.all();
    const std::string message(reinterpret_cast<const char*>(data), size);
    for (auto* s : {&free, &board}) {
        if (!s->say(message, true))
            std::abort();
        if (!s->device.store().lock().empty() && !s->front.setPassword(""))
            std::abort();
    }
    if (!sealed.say(message, true) || !open.say(message, false) || sealed.all() != before || open.all() != plain)
        std::abort();
    for (const auto* s : {&sealed, &open})
        if (!s->device.store().audioKey().empty() || !s->device.store().revisions().empty() ||
            s->device.identifying() || !s->device.tools().empty())
            std::abort();
    return 0;
}
