// What a device has to do with touch surfaces: their values, pictures and PINs.
#include "engine/block_kind.h"
#include "rig/device.h"
#include "site/pin.h"

namespace loom::rig {

std::optional<double> Device::valueNow(const project::Drive& d) const {
    if (d.kind != project::Drive::Kind::reading) {
        const auto v = get(d.block + "." + d.param);
        return v ? std::optional(*v) : std::nullopt;
    }
    if (!runner_ || !running_.program)
        return {};
    if (d.readout >= 0) {
        const auto kernel = runner_->schedule() ? runner_->schedule()->kernel(d.block) : nullptr;
        return kernel ? std::optional<double>(kernel->readout(d.readout)) : std::nullopt;
    }
    const auto* b = running_.program->find(d.block);
    if (!b)
        return {};
    const auto at = project::levelAt(*running_.program, *b);
    return at ? std::optional<double>(runner_->meter(*at).peakDb) : std::nullopt;
}

SurfaceSide::Owner Device::surfaceOwner() {
    SurfaceSide::Owner o;
    o.now = [this](const project::Drive& d) { return powered_ ? valueNow(d) : std::nullopt; };
    o.set = [this](const std::string& param, double value, const std::string& who) {
        return bool(set(param, value, who));
    };
    o.state = [this](const std::string& signal) {
        return powered_ ? rules_.valueHere(signal, std::nullopt) : std::nullopt;
    };
    o.setState = [this](const std::string& signal, double value, const std::string& who) {
        return rules_.setHere(signal, std::nullopt, value, who);
    };
    o.line = [this](const std::string& port) {
        for (const auto& l : lines())
            if (l.port == port)
                return l.how;
        return std::string();
    };
    o.call = [this](const std::string& port, const std::string& does, const std::string& number) {
        if (const auto done = call(port, does, number); !done)
            note("A touch surface", done.error().text(), true);
    };
    o.note = [this](const std::string& who, const std::string& what, bool bad) { note(who, what, bad); };
    o.pinPrint = [this](const std::string& surface, const std::string& role) {
        const auto& all = store_.pins();
        const auto it = all.find(surface + "/" + role);
        return it == all.end() ? std::string() : it->second;
    };
    o.give = [this](const std::string& moment) { return rules_.give(moment); };
    return o;
}

void Device::surfacesTold() {
    surfaces_.told(running_);
    if (showsOthers)
        showsOthers();
}

Result<Done> Device::setPin(const site::PinAsk& ask) {
    std::string print;
    if (!ask.pin.empty()) {
        const auto made = site::pinPrint(ask.pin);
        if (!made)
            return made.error();
        print = *made;
    }
    if (auto done = store_.setPin(ask.surface + "/" + ask.role, print); !done)
        return done;
    const bool surface = ask.surface != project::accessPins;
    if (!surface)
        access_.pinsChanged();
    const std::string of = surface ? "of a touch surface" : "for control from outside";
    note("a computer", print.empty() ? "A PIN " + of + " was taken away." : "A PIN " + of + " was set.");
    return Done{};
}

std::vector<std::string> Device::pins() const {
    std::vector<std::string> all;
    for (const auto& [who, _] : store_.pins())
        all.push_back(who);
    return all;
}

} // namespace loom::rig
