// Finding devices, and what is wrong with where they are.
#include "client/fleet.h"
#include "site/calls.h"
#include <QHostAddress>
#include <QHostInfo>
#include <algorithm>

namespace loom::client {

namespace {
constexpr int reachMs = 6000; // for a line that is wanted for one question
}

void Fleet::look(const site::Subnet& range) {
    looked_ = true;
    discovery_.look(range);
    announcements_.listen(range.base >> 24 == 127);
    tellHealth();
    emit foundChanged();
}

void Fleet::addAddress(const std::string& address) {
    if (const auto number = site::readAddress(address)) {
        if (!discovery_.looking())
            look({*number & ~255u, 24});
        return discovery_.addAddress(address);
    }
    // Digits and dots that are no address are not to be read as one in some other way (127.020.4.10).
    if (address.empty() || address.find(' ') != std::string::npos ||
        address.find_first_not_of("0123456789.") == std::string::npos)
        return design_.say("\"" + address + "\" is no address and no name. Type 127.20.4.10, or a host's name.");
    QHostInfo::lookupHost(QString::fromStdString(address), this, [this, address](const QHostInfo& info) {
        for (const auto& a : info.addresses())
            if (a.protocol() == QAbstractSocket::IPv4Protocol)
                return addAddress(a.toString().toStdString());
        design_.say("\"" + address + "\" is not known on this network. Type its address in numbers.");
    });
}

std::map<std::string, project::Vitals> Fleet::vitals() const {
    std::map<std::string, project::Vitals> all;
    for (const auto& [id, m] : members_)
        if (m->link.up() && !m->locked)
            all[id] = m->vitals;
    return all;
}

std::vector<site::SiteFinding> Fleet::findings() const {
    if (!looked_)
        return {};
    std::vector<std::string> lost;
    for (const auto& [_, m] : members_)
        if (!m->link.up() && !discovery_.found().count(m->serial))
            lost.push_back(m->serial);
    const auto& p = design_.project();
    auto all = site::siteFindings(p, found(), discovery_.range(), lost);
    const auto calls = site::callFindings(p, vitals());
    all.insert(all.end(), calls.begin(), calls.end());
    std::erase_if(all, [&](const auto& f) {
        return std::any_of(p.dismissed.begin(), p.dismissed.end(),
                           [&](const auto& l) { return l.code == f.id() && l.device == f.device; });
    });
    return all;
}

void Fleet::onceUp(const std::string& serial, std::function<void(DeviceSession*, const std::string&)> then) {
    for (auto& [_, m] : members_)
        if (m->serial == serial && m->link.up())
            return then(&m->link, "");
    const auto it = discovery_.found().find(serial);
    if (it == discovery_.found().end())
        return then(nullptr, "That device is not on the network any more. Look again.");
    auto& loose = loose_[serial];
    if (loose.session && loose.session->up())
        return then(loose.session.get(), "");
    loose.waiting.push_back(std::move(then));
    if (loose.session)
        return;
    const auto& f = it->second;
    loose.session = std::make_unique<DeviceSession>(network_);
    const auto tell = [this, serial](const std::string& error) {
        const auto at = loose_.find(serial);
        if (at == loose_.end())
            return;
        at->second.patience->stop();
        auto* session = error.empty() ? at->second.session.get() : nullptr;
        for (const auto& one : std::exchange(at->second.waiting, {}))
            one(session, error);
    };
    loose.patience = std::make_unique<Timer>(network_.here(), Timer::Mode::once, [this, serial, tell] {
        tell(serial + " does not answer. Look at its cable, and look again.");
        loose_.erase(serial);
    });
    loose.session->changed = [this, serial, tell] {
        const auto at = loose_.find(serial);
        if (at == loose_.end() || !at->second.session->up())
            return;
        auto& session = *at->second.session;
        if (!session.about().sealed || !password_ || !isPaired(serial, session.identity()))
            return tell("");
        client::unlock(network_, session, password_, false,
                       [self = QPointer(this), serial, tell](const Reply<site::Unlocked>& done) {
                           if (self)
                               tell(done ? "" : serial + ": " + done.error);
                       });
    };
    loose.session->impostor = [this, serial, tell](const std::string&) {
        tell("Another device than " + serial + " answers there. Look at the addresses.");
        network_.here().post([self = QPointer(this), serial] {
            if (self)
                self->loose_.erase(serial);
        });
    };
    loose.patience->start(reachMs);
    // Where it answers whatever its address is; through a remote rig only its own address leads there.
    loose.session->open(f.asked.empty() && !f.reachedAt.empty() ? f.reachedAt : f.address, discovery_.port(),
                        {f.identity, tickets_.of(f.identity)});
}

bool Fleet::isPaired(const std::string& serial, const std::string& identity) const {
    const auto& all = design_.project().devices;
    return std::any_of(all.begin(), all.end(),
                       [&](const auto& d) { return d.serial == serial && d.known.identity == identity; });
}

void Fleet::readdress(const std::string& serial, const std::string& address) {
    if (!site::readAddress(address))
        return design_.say("\"" + address + "\" is not an address. Type four numbers such as 127.20.4.10.");
    for (const auto& f : found())
        if (f.address == address && f.serial != serial)
            return design_.say(address + " is the address of " + f.modelName + " " + f.serial +
                               " already. Choose another one.");
    onceUp(serial, [this, serial, address](DeviceSession* session, const std::string& error) {
        if (!session)
            return design_.say(error);
        session->call(site::message::address, {address},
                      [self = QPointer(this), serial, address](const Reply<site::AddressAsk>& taken) {
                          if (!self)
                              return;
                          const std::string what = "Gave " + serial + " the address " + address + ".";
                          self->note("", self->me(), taken ? what : taken.error, !taken);
                          self->design_.say(taken ? what : serial + ": " + taken.error, !taken);
                          self->loose_.erase(serial); // all its lines end now
                          self->network_.here().after(150, [self] {
                              if (self)
                                  self->discovery_.askAgain();
                          });
                      });
    });
}

void Fleet::cure(const site::SiteFinding& f) {
    using Cure = site::SiteFinding::Cure;
    if (f.cure == Cure::readdress)
        readdress(f.serial, f.address);
    else if (f.cure == Cure::replace)
        pair(f.device, f.serial);
    else if (f.cure == Cure::add)
        addToPlan({f.serial}, "");
    else if (f.cure == Cure::firmware)
        update(f.device, false);
    else if (discovery_.range())
        look(*discovery_.range());
}

void Fleet::addToPlan(const std::vector<std::string>& serials, const std::string& room) {
    std::map<std::string, std::optional<project::Device>> coming;
    project::Project with = design_.project();
    for (const auto& f : found())
        if (std::find(serials.begin(), serials.end(), f.serial) != serials.end()) {
            auto d = site::plannedFrom(with, f, room.empty() ? site::likelyRoom(with, f) : room);
            with.devices.push_back(d);
            coming[d.id] = d;
        }
    if (coming.empty())
        return design_.say("None of them is on the network any more.");
    const auto count = coming.size();
    if (design_.edit(project::setDevices(std::move(coming), "Put found devices into the plan")))
        design_.say(std::to_string(count) +
                        (count == 1 ? " device is in the plan now; take its values where it differs."
                                    : " devices are in the plan now; take their values where they differ."),
                    false);
}

void Fleet::identify(const std::string& serial, bool on, Sign sign) {
    onceUp(serial, [this, on, tone = sign == Sign::tone](DeviceSession* session, const std::string& error) {
        if (!session)
            return design_.say(error);
        session->call(site::message::identify, {on, tone},
                      [self = QPointer(this), on, tone](const Reply<site::Blinks>& blinks) {
                          if (self)
                              self->design_.say(!blinks      ? blinks.error
                                                : on && tone ? "A quiet tone of 1 kHz sounds at every output of its "
                                                               "program."
                                                : on         ? "Its lamp blinks and its lane is mute while you hold."
                                                             : "It is as before.",
                                                !blinks);
                      });
    });
}

} // namespace loom::client
