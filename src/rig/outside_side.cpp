#include "rig/outside_side.h"

namespace loom::rig {

using namespace project;

OutsideSide::OutsideSide(Owner owner, std::function<double()> clock)
    : owner_(std::move(owner)), clock_(std::move(clock)) {}

void OutsideSide::told(const RulePack& pack) {
    std::map<std::string, std::unique_ptr<One>> now;
    for (const auto& id : pack.outside) {
        const auto* d = pack.project.outsideDevice(id);
        const auto* kind = d ? pack.project.outsideKind(d->kind) : nullptr;
        if (!kind)
            continue;
        const auto was = all_.find(id);
        if (was != all_.end() && was->second->device == *d && was->second->talk.kind() == *kind)
            now[id] = std::move(was->second);
        else
            now[id] = std::make_unique<One>(One{*d, OutsideTalk(*kind)});
    }
    all_ = std::move(now);
}

void OutsideSide::off() {
    all_.clear();
}

void OutsideSide::tick() {
    const double t = clock_();
    for (auto& [id, held] : all_) {
        auto& one = *held;
        if (!one.line && opens && !one.refused) {
            Ears ears;
            ears.connected = [this, &one](bool is) { one.talk.connected(is, clock_()); };
            ears.heard = [this, &one](std::string_view bytes) { one.talk.heard(bytes, clock_()); };
            ears.whole = [this, &one](const std::string& answer) { one.talk.heardWhole(answer, clock_()); };
            ears.refused = [this, &one](const std::string& why) { owner_.note(one.device.name, why, true); };
            one.line = opens(one.device, one.talk.kind(), std::move(ears));
            one.refused = !one.line;
            if (one.refused)
                owner_.note(one.device.name, "There is no way to it at " + one.device.address + ".", true);
        }
        one.talk.step(t);
        for (const auto& message : one.talk.take())
            if (one.line)
                one.line->send(message);
        for (const auto& what : one.talk.takeNotes())
            owner_.note(one.device.name, what + ".", what != "answers");
        for (const auto& change : one.talk.takeChanges())
            owner_.happened(outsidePrefix + id + "/" + change.state, change.value);
    }
}

std::optional<double> OutsideSide::value(const std::string& signal) const {
    const auto rest = behind(signal, outsidePrefix);
    const auto slash = rest ? rest->find('/') : std::string::npos;
    if (slash == std::string::npos)
        return {};
    const auto* t = talk(rest->substr(0, slash));
    return t ? t->value(rest->substr(slash + 1)) : std::nullopt;
}

bool OutsideSide::set(const std::string& signal, double value) {
    const auto rest = behind(signal, outsidePrefix);
    const auto slash = rest ? rest->find('/') : std::string::npos;
    const auto it = slash == std::string::npos ? all_.end() : all_.find(rest->substr(0, slash));
    if (it == all_.end())
        return false;
    const auto what = rest->substr(slash + 1);
    auto& talk = it->second->talk;
    return talk.kind().command(what) ? bool(talk.say(what, clock_())) : bool(talk.set(what, value, clock_()));
}

const OutsideTalk* OutsideSide::talk(const std::string& device) const {
    const auto it = all_.find(device);
    return it == all_.end() ? nullptr : &it->second->talk;
}

} // namespace loom::rig
