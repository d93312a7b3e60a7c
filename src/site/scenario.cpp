#include "site/scenario.h"
#include "project/catalogue.h"
#include "project/json.h"
#include "project/json_reader.h"
#include "project/safe_file.h"
#include "site/config.h"
#include "site/found.h"
#include <cctype>

namespace loom::site {

using nlohmann::json;
using project::Reader;

Scenario deliveredFor(const project::Project& p) {
    Scenario s;
    s.name = "Delivery for " + p.name;
    std::size_t sockets = 0;
    for (const auto& d : p.devices) {
        const auto* m = project::findModel(d.model);
        if (!m || !(m->usb || (m->network && readAddress(d.address))))
            continue;
        ScenarioDevice one;
        one.serial = d.serial;
        if (one.serial.empty())
            for (const char c : checksum(d.id).substr(0, 6))
                one.serial += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
        if (m->usb && sockets == usbSockets().size())
            continue;
        one.model = d.model, one.address = m->usb ? usbSockets()[sockets++] : d.address, one.as = d.id,
        one.prepared = false;
        s.devices.push_back(one);
    }
    return s;
}

Result<Scenario> scenarioFromJson(const json& j) {
    Reader r(j, "");
    Scenario s;
    s.name = r.text("name"), s.project = r.text("project"), s.sound = r.text("sound");
    const auto faultsOf = [&](Reader& from, const std::string& place) {
        const json* f = from.find("faults", false);
        if (f && !f->is_object())
            r.take({"must be an object", place + "/faults", ""});
        return f && f->is_object() ? *f : json::object();
    };
    r.each("devices", [&](const json& one, const std::string& place) {
        Reader d(one, place);
        ScenarioDevice device;
        device.serial = d.id("serial"), device.model = d.text("model", true), device.name = d.text("name");
        device.address = d.text("address", true), device.firmware = d.text("firmware"), device.as = d.text("as");
        device.prepared = d.flag("prepared", true), device.author = d.text("author");
        device.faults = faultsOf(d, place);
        if (!d.failed() && !readAddress(device.address))
            d.fail("address", "must be four numbers such as 127.20.4.10");
        if (d.failed())
            r.take(d.trouble());
        s.devices.push_back(std::move(device));
    });
    if (!r.failed() && s.devices.size() > 300)
        r.fail("devices", "are more than 300");
    r.each("steps", [&](const json& one, const std::string& place) {
        Reader d(one, place);
        Step step;
        step.name = d.text("name"), step.device = d.text("device", true);
        if (d.find("at", false))
            step.at = d.number("at", 0, 0, 1e6);
        step.faults = faultsOf(d, place);
        if (d.failed())
            r.take(d.trouble());
        s.steps.push_back(std::move(step));
    });
    if (!r.failed() && s.steps.size() > 10000)
        r.fail("steps", "are more than 10000");
    if (r.failed())
        return r.trouble();
    return s;
}

Result<Scenario> readScenario(const std::string& path) {
    const auto text = project::readWhole(path, 8 << 20);
    if (!text)
        return text.trouble();
    const auto j = project::parseJson(*text, path);
    if (!j)
        return j.trouble();
    auto s = scenarioFromJson(*j);
    if (!s)
        return Trouble{s.trouble().message, path + s.trouble().place, s.trouble().remedy};
    return s;
}

} // namespace loom::site
