// What a device has to do with rules: what they know and set of it besides its program, and what they remember.
#include "rig/clock.h"
#include "rig/device.h"
#include <algorithm>

namespace loom::rig {

using namespace project;

// A signal of the device: "contact:heddle/contact 3" is its contact 3.
std::optional<double> Device::stateNow(const std::string& signal) const {
    const auto rest = [&](const char* prefix) -> std::optional<std::string> {
        const auto all = behind(signal, prefix);
        return all ? std::optional(all->substr(std::min(all->size(), all->find('/') + 1))) : std::nullopt;
    };
    if (signal.rfind(outsidePrefix, 0) == 0)
        return outside_.value(signal);
    if (const auto wall = behind(signal, wallPrefix))
        return conversing_.openWalls().count(*wall) ? 1 : 0;
    if (const auto id = rest(contactPrefix)) {
        const auto it = conversing_.contacts().find(*id);
        return it != conversing_.contacts().end() && it->second ? 1 : 0;
    }
    if (const auto id = rest(relayPrefix))
        return conversing_.relay(*id) ? 1 : 0;
    if (const auto id = rest(knobPrefix)) {
        const auto it = knobs_.find(*id);
        return it == knobs_.end() ? std::nullopt : std::optional(it->second);
    }
    if (const auto space = behind(signal, mutePrefix)) {
        const auto muted = conversing_.muted(*space);
        return muted ? std::optional(*muted ? 1.0 : 0.0) : std::nullopt;
    }
    if (signal.rfind(devicePrefix, 0) == 0)
        return 1;
    if (const auto id = rest(hearsPrefix)) {
        const auto chosen = get("receiver." + *id + ".chosen");
        return chosen ? std::optional(*chosen) : std::nullopt;
    }
    if (const auto id = rest(streamPrefix)) {
        if (!setup_.sound)
            return {};
        const auto heard = setup_.sound->heard();
        for (const auto& r : soundNow().receivers)
            if (r.id == *id) {
                bool any = false;
                for (const auto& port : r.inputs)
                    if (const auto it = heard.find(port); it != heard.end()) {
                        if (it->second != "open" && it->second != "encrypted")
                            return 0;
                        any = true;
                    }
                return any ? std::optional(1.0) : std::nullopt;
            }
        return {};
    }
    return {};
}

bool Device::setState(const std::string& signal, double value, const std::string& who) {
    if (signal.rfind(outsidePrefix, 0) == 0)
        return outside_.set(signal, value);
    if (const auto all = behind(signal, hearsPrefix))
        return bool(set("receiver." + all->substr(std::min(all->size(), all->find('/') + 1)) + ".chosen", value, who));
    if (const auto space = behind(signal, mutePrefix))
        return bool(conversing_.mute(*space, value >= 0.5, who, secondsNow()));
    if (const auto all = behind(signal, relayPrefix)) {
        const auto id = all->substr(std::min(all->size(), all->find('/') + 1));
        const auto known = model_ ? model_->relays : 0;
        for (int n = 1; n <= known; ++n)
            if (id == "relay " + std::to_string(n)) {
                conversing_.setRelay(id, value >= 0.5);
                rules_.happenedHere(relayPrefix, id, value >= 0.5 ? 1 : 0);
                return true;
            }
    }
    return false;
}

RuleSide::Owner Device::ruleOwner() {
    RuleSide::Owner o;
    o.now = [this](const Drive& d) { return powered_ ? valueNow(d) : std::nullopt; };
    o.set = [this](const std::string& param, double value, const std::string& who) {
        return bool(set(param, value, who));
    };
    o.state = [this](const std::string& signal) { return powered_ ? stateNow(signal) : std::nullopt; };
    o.setState = [this](const std::string& signal, double value, const std::string& who) {
        return powered_ && setState(signal, value, who);
    };
    o.line = [this](const std::string& port) {
        for (const auto& l : lines())
            if (l.port == port)
                return l.how;
        const auto ports = model_ ? model_->ports(true) : std::vector<std::string>{};
        return std::find(ports.begin(), ports.end(), port) == ports.end() ? std::string()
                                                                          : lineStates().front(); // nobody is on it
    };
    o.call = [this](const std::string& port, const std::string& does, const std::string& number) {
        if (const auto done = call(port, does, number); !done)
            note("A rule", done.error().text(), true);
    };
    o.show = [this](const std::string& surface, const SurfaceOrder& order) { surfaces_.pages().obey(surface, order); };
    o.note = [this](const std::string& who, const std::string& what, bool bad) { note(who, what, bad); };
    o.memory = [this] { return store_.memory(); };
    o.remember = [this](const std::string& text) { store_.remember(text); };
    o.utc = [this] { return utcMillis() + faults_.ahead; };
    o.together = [this](const std::function<void()>& what) {
        if (!runner_)
            return what();
        const engine::Runner::Together together(*runner_);
        what();
    };
    return o;
}

void Device::rulesTold() {
    rules_.told(running_);
    outside_.told(rules_.pack());
    access_.told(rules_.pack());
}

AccessSide::Owner Device::accessOwner() {
    AccessSide::Owner o;
    o.now = [this](const std::string& signal, const std::optional<Drive>& drive) {
        return powered_ ? rules_.valueHere(signal, drive) : std::nullopt;
    };
    o.set = [this](const std::string& signal, const std::optional<Drive>& drive, double value, const std::string& who) {
        return powered_ && rules_.setHere(signal, drive, value, who);
    };
    o.give = [this](const std::string& moment) {
        return moment.rfind(outsidePrefix, 0) == 0 ? outside_.set(moment, 1) : rules_.give(moment);
    };
    o.call = [this](const std::string& port, const std::string& does, const std::string& number,
                    const std::string& who) -> Result<Done> {
        if (!powered_)
            return Error{"it is off", port, ""};
        auto done = call(port, does, number);
        if (done)
            note(who, port + ": " + does + (does == "dial" ? " " + number : std::string()), false);
        return done;
    };
    o.pinPrint = [this](const std::string& role) {
        const auto& all = store_.pins();
        const auto it = all.find(std::string(accessPins) + "/" + role);
        return it == all.end() ? std::string() : it->second;
    };
    o.note = [this](const std::string& what, bool bad) { note("Control from outside", what, bad); };
    return o;
}

void Device::heardValues() {
    if (powered_)
        rules_.hear();
}

void Device::beatValues() {
    if (!powered_)
        return;
    outside_.tick();
    rules_.tick();
}

} // namespace loom::rig
