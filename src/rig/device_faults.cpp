// What goes wrong at a simulated device, and what people at it do, by command.
#include "rig/device.h"
#include <cmath>

namespace loom::rig {

using nlohmann::json;

void Device::setNetFault(const std::function<void(NetFaults&)>& how) {
    if (!setup_.sound)
        return;
    auto faults = setup_.sound->faults();
    how(faults);
    setup_.sound->setFaults(faults);
}

Result<Done> Device::setFault(const std::string& name, const json& value) {
    const auto wrong = [&](const std::string& what) { return Error{what, "fault " + name, ""}; };
    if (name == "temperature") {
        if (!value.is_number() || value < 0 || value > 200)
            return wrong("takes degrees Celsius, 0 for as it is");
        faults_.celsius = value.get<double>();
    } else if (name == "clip" || name == "clock") {
        if (!value.is_boolean())
            return wrong("takes true or false");
        (name == "clip" ? faults_.clip : faults_.clockLost) = value.get<bool>();
        setNetFault([this](NetFaults& f) { f.free = faults_.clockLost; }); // who lost its clock follows nobody
    } else if (name == "jitter" || name == "reorder" || name == "drift" || name == "ahead") {
        const double most = name == "jitter" ? 1000 : name == "reorder" ? 1 : name == "drift" ? 1000 : 10000;
        const bool bothWays = name == "drift" || name == "ahead";
        if (!value.is_number() || value > most || value < (bothWays ? -most : 0.0))
            return wrong(name == "jitter"    ? "takes milliseconds, 0 to 1000"
                         : name == "reorder" ? "takes a share, 0 to 1"
                         : name == "drift"   ? "takes parts per million, -1000 to 1000"
                                             : "takes milliseconds, -10000 to 10000");
        setNetFault([&](NetFaults& f) {
            if (name == "drift")
                f.driftPpm = value.get<double>();
            else
                (name == "jitter" ? f.jitterMs : name == "reorder" ? f.reorder : f.aheadMs) = value.get<double>();
        });
    } else if (name == "output") {
        if (!value.is_object())
            return wrong("takes ports with open, short or good");
        for (const auto& [port, how] : value.items())
            if (how == "open" || how == "short")
                faults_.outputs[port] = how.get<std::string>();
            else if (how == "good")
                faults_.outputs.erase(port);
            else
                return wrong("takes ports with open, short or good");
    } else if (name == "store") {
        if (value != "good" && value != "full" && value != "failing" && value != "corrupt")
            return wrong("takes good, full, failing or corrupt");
        store_.fault = value == "good"      ? Store::Fault::none
                       : value == "full"    ? Store::Fault::full
                       : value == "corrupt" ? Store::Fault::corrupt
                                            : Store::Fault::failing;
    } else if (name == "turn" || name == "setUp") { // somebody changes a value at the device
        if (!value.is_object())
            return wrong("takes paths with values");
        for (const auto& [path, v] : value.items()) {
            if (name == "turn" && v.is_number()) {
                if (auto done = set(path, v.get<double>(), "front panel"); !done)
                    return done.error();
            } else if (name == "setUp" && v.is_string()) {
                if (auto done = setUp(path, v.get<std::string>(), "front panel"); !done)
                    return done;
            } else {
                return wrong("takes paths with values");
            }
        }
    } else if (name == "knob") {
        if (!value.is_object())
            return wrong("takes knobs with 0 to 1");
        for (const auto& [id, at] : value.items())
            if (auto done = turnKnob(id, at.is_number() ? at.get<double>() : -1); !done)
                return done;
    } else if (name == "contact") {
        if (!value.is_object())
            return wrong("takes contacts with true for closed");
        for (const auto& [id, closed] : value.items())
            if (!closed.is_boolean())
                return wrong("takes contacts with true for closed");
            else if (auto done = setContact(id, closed.get<bool>()); !done)
                return done;
    } else if (name == "computer" || name == "line" || name == "exchange") { // people far away
        if (!setup_.far)
            return Error{"nobody is on its USB or its lines", "fault " + name, ""};
        return name == "computer" ? setup_.far->setComputer(value)
               : name == "line"   ? setup_.far->setLine(value)
                                  : setup_.far->setExchange(value);
    } else if (name == "secret") { // of its lines' account, typed at the device
        if (!value.is_string())
            return wrong("takes a text");
        return setLineSecret(value.get<std::string>());
    } else if (name == "time") { // of day, as its time server tells it
        if (!value.is_number() || !(std::abs(value.get<double>()) <= 3.2e8))
            return wrong("takes seconds by which its time is ahead, at most ten years");
        faults_.ahead = static_cast<std::int64_t>(value.get<double>() * 1000);
    } else if (name == "button") {
        if (!value.is_boolean())
            return wrong("takes true while it is held down");
        holdButton(value.get<bool>());
    } else if (name == "press") {
        pressButton();
    } else if (name == "reset") {
        factoryReset();
    } else {
        return wrong("there is no such fault");
    }
    return Done{};
}

} // namespace loom::rig
