// What a device has to do with conversations: mutes, contacts, lines.
#include "rig/clock.h"
#include "rig/device.h"

namespace loom::rig {

void Device::conversationTold() {
    conversing_.told(running_.setUp, running_.program, setup_.far, secondsNow());
    if (!setup_.far)
        return;
    const auto answers = project::setUpText(running_.setUp, "telAnswer");
    setup_.far->setAccount({project::setUpText(running_.setUp, "telServer"),
                            project::setUpText(running_.setUp, "telName"), store_.lineSecret()},
                           answers == "2"   ? 2
                           : answers == "5" ? 5
                                            : 0);
}

Result<Done> Device::setContact(const std::string& id, bool closed) {
    const auto known = model_ ? model_->contacts : 0;
    for (int n = 1; n <= known; ++n)
        if (id == "contact " + std::to_string(n)) {
            conversing_.setContact(id, closed, secondsNow());
            tellOf(site::notice::contact, {id, site::utcNow(), closed});
            rules_.happenedHere(project::contactPrefix, id, closed ? 1 : 0);
            if (const auto use = project::readContact(id, project::setUpText(running_.setUp, id));
                use && use->kind == project::ContactUse::Kind::wall)
                rules_.happened(project::wallPrefix + use->wall, closed ? 0 : 1);
            return Done{};
        }
    return Error{"it has no such contact", id.substr(0, 40),
                 known > 0 ? "It has contact 1 to contact " + std::to_string(known) + "." : "It has none."};
}

void Device::heardOfMute(const std::string& datagram) {
    if (powered_)
        (void)conversing_.heard(datagram, secondsNow());
}

std::vector<std::string> Device::beat() {
    if (!powered_)
        return {};
    conversing_.beat(secondsNow());
    return conversing_.take(secondsNow());
}

void Device::plugged() {
    conversing_.plugged(secondsNow());
}

Result<bool> Device::mute(const std::string& space, bool muted, const std::string& who) {
    return conversing_.mute(space, muted, who.empty() ? "Somebody" : who, secondsNow());
}

std::vector<site::LineState> Device::lines() const {
    std::vector<site::LineState> all;
    if (setup_.far)
        for (const auto& l : setup_.far->lines())
            all.push_back({l.port, l.how, l.number, l.codec, l.registered, !store_.lineSecret().empty(), l.seconds});
    return all;
}

Result<Done> Device::call(const std::string& port, const std::string& does, const std::string& number) {
    if (!setup_.far)
        return Error{"it has no telephone line", setup_.serial, ""};
    return setup_.far->call(port, does, number);
}

Result<Done> Device::setLineSecret(const std::string& secret) {
    if (auto done = store_.setLineSecret(secret); !done)
        return done;
    conversationTold();
    return Done{};
}

std::vector<float> Device::heardFarAway(const std::string& port) const {
    return setup_.far ? setup_.far->heard(port) : std::vector<float>{};
}

} // namespace loom::rig
