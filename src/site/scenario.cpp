#include "site/scenario.h"
#include "disk/safe_file.h"
#include "file/project_json.h"
#include "schema/json_text.h"
#include "site/config.h"
#include "site/found.h"
#include <cctype>

namespace loom::site {

using nlohmann::json;

Scenario deliveredFor(const project::Project& p) {
    Scenario s;
    s.name = "Delivery for " + p.name;
    std::size_t sockets = 0;
    for (const auto& d : p.devices) {
        const auto* m = d.spec();
        if (!m || !(m->usb || (m->network && readAddress(d.address))))
            continue;
        ScenarioDevice one;
        one.serial = d.serial;
        if (one.serial.empty())
            for (const char c : checksum(d.id).substr(0, 6))
                one.serial += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
        if (m->usb && sockets == usbSockets().size())
            continue;
        one.model = d.model;
        one.address = m->usb ? usbSockets()[sockets++] : d.address;
        one.as = d.id;
        one.prepared = false;
        s.devices.push_back(one);
    }
    return s;
}

Result<Scenario> scenarioFromJson(const json& j) {
    return schema::fromJson<Scenario>(j);
}

Result<Scenario> readScenario(const std::string& path) {
    const auto text = project::readWhole(path, 8 << 20);
    if (!text)
        return text.error();
    const auto j = project::parseJson(*text, path);
    if (!j)
        return j.error();
    auto s = scenarioFromJson(*j);
    if (!s)
        return Error{s.error().message, path + s.error().place, s.error().remedy};
    return s;
}

} // namespace loom::site

namespace loom::schema {

using site::Scenario;
using site::ScenarioDevice;
using site::Step;

namespace {

Type<ScenarioDevice> deviceType() {
    Type<ScenarioDevice> t("device", "A simulated device, as it is delivered");
    t.add("serial", &ScenarioDevice::serial).id();
    t.add("model", &ScenarioDevice::model).needed().help("id in the catalogue");
    t.add("name", &ScenarioDevice::name);
    t.add("address", &ScenarioDevice::address)
        .pattern("^[0-9]+\\.[0-9]+\\.[0-9]+\\.[0-9]+$")
        .needed()
        .help("on the rig's own network, 127.0.0.0/8");
    t.add("firmware", &ScenarioDevice::firmware);
    t.add("as", &ScenarioDevice::as).help("id of the project's device whose sound it hears");
    t.add("prepared", &ScenarioDevice::prepared)
        .help("with `as`: it keeps what was last sent to that device, else its design");
    t.add("author", &ScenarioDevice::author).help("who prepared it");
    t.add("faults", &ScenarioDevice::faults).help("docs/protocol.md lists them");
    t.rule([](const ScenarioDevice& d, const At& at, Reading& r) {
        if (!site::readAddress(d.address))
            r.fail(At(at, "address"), "must be four numbers such as 127.20.4.10");
    });
    return t;
}

Type<Step> stepType() {
    Type<Step> t("step", "What happens to devices");
    t.add("name", &Step::name).help("steps may be played by name");
    t.add("at", &Step::at).range(0, 1e6).help("seconds after the start");
    t.add("device", &Step::device).needed().help("a serial, `*` for all");
    t.add("faults", &Step::faults);
    return t;
}

Type<Scenario> scenarioType() {
    Type<Scenario> t("scenario", "Which devices a rig has, and what happens to them when");
    t.add("name", &Scenario::name);
    t.add("project", &Scenario::project).help("from this file's folder");
    t.add("sound", &Scenario::sound).help("the project that is heard, if another");
    t.add("devices", &Scenario::devices).items(0, 300);
    t.add("steps", &Scenario::steps).items(0, 10000);
    return t;
}

} // namespace

LOOM_TYPE(ScenarioDevice, deviceType)
LOOM_TYPE(Step, stepType)
LOOM_TYPE(Scenario, scenarioType)

} // namespace loom::schema
