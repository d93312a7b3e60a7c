// The lines to paired devices: which there are, what is heard on them.
#include "client/fleet.h"
#include "dsp/number.h"
#include "engine/block_kind.h"
#include "model/set_up.h"
#include "program/lane_edit.h"
#include "voicings/voicing_edit.h"
#include <algorithm>

namespace loom::client {

namespace {
constexpr int pollTurns = 20;        // every device once a second, not all at once
constexpr int lockedTurns = 20 * 20; // those that wait for a password: that they still do
constexpr std::size_t mostOnTheWay = 4;
constexpr int pressedMs = 4000;

template <class T> std::optional<T> read(const nlohmann::json& params) {
    auto t = schema::fromJson<T>(params);
    return t ? std::optional(std::move(*t)) : std::nullopt;
}
} // namespace

std::map<std::string, int> Fleet::holdersOfAddresses() const {
    std::map<std::string, int> all;
    for (const auto& [_, f] : discovery_.found())
        ++all[f.address];
    return all;
}

// A line for every paired device, to where it was found.
void Fleet::sync() {
    std::set<std::string> there;
    const auto holders = holdersOfAddresses();
    const bool many = design_.project().devices.size() > few;
    for (const auto& d : design_.project().devices) {
        if (d.serial.empty())
            continue;
        there.insert(d.id);
        auto& m = members_[d.id];
        if (m && m->serial != d.serial)
            m.reset();
        if (!m) {
            m = std::make_unique<Member>(network_);
            m->device = d.id;
            m->serial = d.serial;
            m->designSetUp = project::setUpOf(d);
            m->agreed = site::lastSentOf(d);
            m->agreedRevision = d.known.revision;
            m->agreedBoot = d.known.boot;
            m->link.changed = [this, raw = m.get()] { lineChanged(*raw); };
            m->link.told = [this, raw = m.get()](const std::string& method, const nlohmann::json& params) {
                told(*raw, method, params);
            };
            m->link.impostor = [this, id = d.id, serial = d.serial](const std::string& identity) {
                isAnother(id, serial, identity);
            };
        }
        if (many) {
            toConnect_.insert(d.id);
            goOn();
        } else
            connectTo(*m, holders);
    }
    for (auto it = members_.begin(); it != members_.end();)
        it = there.count(it->first) ? std::next(it) : members_.erase(it);
    std::erase_if(loose_,
                  [&](const auto& l) { return !discovery_.found().count(l.first) && l.second.waiting.empty(); });
    auto* m = member(design_.working());
    tools_.setLink(m ? &m->link : nullptr);
    tools_.setLive(live_ && m && m->link.up());
}

void Fleet::connectTo(Member& m, const std::map<std::string, int>& holders) {
    const auto it = discovery_.found().find(m.serial);
    if (it == discovery_.found().end())
        return;
    const auto& f = it->second;
    const std::string address =
        f.asked.empty() || (discovery_.range() && discovery_.range()->holds(f.address)) ? f.address : f.asked;
    if (holders.at(f.address) > 1) // nobody can tell which would answer
        return;
    if (m.link.wanted() && m.link.address() == address)
        return;
    const auto* d = design_.project().device(m.device);
    const std::string identity = d ? d->known.identity : "";
    m.link.open(address, discovery_.port(), {identity, tickets_.of(identity)}, opened_++ % 300 * 2);
}

void Fleet::isAnother(const std::string& device, const std::string& serial, const std::string& identity) {
    const auto* d = design_.project().device(device);
    const std::string now = site::printOf(identity), before = d ? site::printOf(d->known.identity) : "";
    note(device, "", "Another device than " + serial + " answers at its address: key " + now + ".", true);
    design_.say(nameOf(device) + ": another device than the paired one answers at its address (key " + now +
                ", paired was " + before +
                "). Look at the addresses and the device's label; if it was replaced or reset, pair it anew.");
}

// At the first meeting whoever answers is taken; from then on nobody else is.
void Fleet::pin(Member& m) {
    const auto* d = design_.project().device(m.device);
    if (!d || m.link.identity().empty())
        return;
    m.link.pin();
    if (d->known.identity == m.link.identity())
        return;
    design_.note(project::changeDevice(m.device, "Note its key",
                                       [key = m.link.identity()](project::Device& one) { one.known.identity = key; }));
    const std::string what = "Its key was taken: " + site::printOf(m.link.identity()) + ".";
    note(m.device, "", what + " Compare it with its label.");
    design_.say(nameOf(m.device) + ": " + what + " Compare it with the device's label.", false);
}

void Fleet::lineChanged(Member& m) {
    if (!m.link.up()) {
        if (m.everUp) {
            note(m.device, "", "Connection lost.", true);
            m.everUp = false;
        }
        m.asking = false;
        m.meters.clear();
        if (isWorking(m))
            tools_.setLive(false);
        return changedSoon(m.device);
    }
    m.everUp = true;
    m.sealed = m.locked = m.link.about().sealed; // a new line is not unlocked yet
    note(m.device, "", "Connected at " + m.link.address() + ".");
    if (isWorking(m))
        tools_.setLive(live_);
    const bool firstMeeting = !m.link.pinned();
    if (!m.sealed) {
        m.link.unlocked();
        askState(m);
    } else if (password_ && !firstMeeting) {
        unlockLine(m, {});
    }
    changedSoon(m.device);
    if (firstMeeting)
        pin(m); // the last: it changes the project, and with it who is a member
}

void Fleet::unlockLine(Member& m, std::function<void(Member&, const Reply<site::Unlocked>&)> then) {
    client::unlock(network_, m.link, password_, false,
                   answer<site::Unlocked>(m, [this, then](Member& one, const Reply<site::Unlocked>& done) {
                       one.locked = !done;
                       if (done) {
                           if (const auto kept = tickets_.keep(one.link.identity(), done->ticket); !kept)
                               note("", "", kept.error().text(), true);
                           askState(one);
                       }
                       changedSoon(one.device);
                       if (then)
                           then(one, done);
                   }));
}

void Fleet::poll() {
    ++tick_;
    int i = 0;
    for (auto& [_, m] : members_) {
        const int turn = tick_ + i++;
        if (!m->link.up() || m->link.waiting() >= mostOnTheWay)
            continue;
        if (!m->locked && turn % pollTurns == 0)
            askState(*m);
        else if (m->locked && turn % lockedTurns == 0)
            askAbout(*m);
    }
}

// One that waits for a password: somebody may have opened it; and a line that is silent for long ends.
void Fleet::askAbout(Member& m) {
    m.link.call(site::message::describe, {},
                answer<site::DiscoveredDevice>(m, [this](Member& one, const Reply<site::DiscoveredDevice>& about) {
                    if (!about || about->sealed)
                        return;
                    one.sealed = one.locked = false;
                    one.link.unlocked();
                    askState(one);
                    changedSoon(one.device);
                }));
}

namespace {

// Whether it has levels to tell.
bool sounds(const site::Config& config) {
    return config.program || std::any_of(config.setUp.begin(), config.setUp.end(),
                                         [](const auto& one) { return project::isSound(one.first); });
}

} // namespace

void Fleet::askMeters() {
    for (auto& [_, m] : members_)
        if (m->link.up() && !m->locked && m->config && sounds(*m->config) && m->link.waiting() < mostOnTheWay)
            m->link.call(site::message::meters, {},
                         answer<site::Meters>(*m, [](Member& one, const Reply<site::Meters>& meters) {
                             if (!meters)
                                 return;
                             one.meters = meters->peaks;
                             one.sent = meters->sent;
                             one.heard = meters->heard;
                         }));
    emit metersCame();
}

void Fleet::askState(Member& m) {
    m.link.call(site::message::state, {},
                answer<site::DeviceState>(m, [this](Member& one, const Reply<site::DeviceState>& state) {
                    if (!state) {
                        if (state.code == site::Code::locked && !one.locked) // somebody sealed it meanwhile
                            one.sealed = one.locked = true;
                        return changedSoon(one.device);
                    }
                    heardState(one, *state);
                }));
    m.link.call(site::message::health, {},
                answer<site::Vitals>(m, [this](Member& one, const Reply<site::Vitals>& health) {
                    if (!health)
                        return;
                    const auto before = std::exchange(one.vitals, *health);
                    const auto& v = one.vitals;
                    if (v.clip && !before.clip)
                        note(one.device, "", "It clips.", true);
                    if (v.clockLost && !before.clockLost)
                        note(one.device, "", "It lost the clock of the audio network.", true);
                    if (v.celsius >= project::hotCelsius && before.celsius < project::hotCelsius)
                        note(one.device, "", "It is " + shortText(v.celsius) + " \u00b0C warm.", true);
                    for (const auto& [port, how] : v.outputs)
                        if (how != "good" && (!before.outputs.count(port) || before.outputs.at(port) != how))
                            note(one.device, "", port + ": " + how + ".", true);
                    auto now = v;
                    now.uptime = before.uptime;
                    if (!(now == before))
                        changedSoon(one.device);
                }));
}

void Fleet::heardState(Member& m, const site::DeviceState& state) {
    const bool news = !m.state || !(state == *m.state);
    if (state.running && state.running->turned)
        noteFallBack(m);
    m.state = state;
    m.audioKey = state.audioKey;
    if (!m.config || state.fingerprint != m.print)
        fetchConfig(m);
    if (news)
        m.link.call(site::message::revisions, {}, answer<site::Revisions>(m, [this](Member& still, const auto& list) {
                        if (list)
                            still.revisions = list->revisions;
                        changedSoon(still.device);
                    }));
}

void Fleet::fetchConfig(Member& m) {
    if (m.asking)
        return;
    m.asking = true;
    m.link.call(site::message::config, {},
                answer<site::Config>(m, [this](Member& one, const Reply<site::Config>& config) {
                    one.asking = false;
                    if (!config) {
                        if (config.code == site::Code::refused)
                            design_.say(nameOf(one.device) + ": " + config.error);
                        return;
                    }
                    one.config = *config;
                    one.print = site::fingerprint(*config);
                    compare(one);
                }));
}

// ---- what devices tell ----

void Fleet::told(Member& m, const std::string& method, const nlohmann::json& params) {
    if (method == site::notice::pressed.name) {
        if (const auto what = read<site::Pressed>(params))
            pressedThere(m, *what);
    } else if (method == site::notice::event.name) {
        if (const auto what = read<site::Event>(params))
            note(m.device, what->who, what->what, what->bad);
    } else if (method == site::notice::turned.name) {
        if (const auto what = read<site::Turned>(params))
            emit turned(m.device, what->knob);
    } else if (method == site::notice::contact.name) {
        if (const auto what = read<site::ContactMoved>(params))
            note(m.device, "at the device", what->contact + (what->closed ? " closed." : " opened."));
    } else if (method == site::notice::changed.name) {
        if (const auto what = read<site::Changed>(params); what && m.config)
            changedThere(m, *what);
    }
}

void Fleet::pressedThere(Member& m, const site::Pressed& what) {
    m.pressed = true;
    note(m.device, "at the device", what.muted ? "Its button was pressed: mute." : "Its button was pressed: live.");
    design_.say("The button of " + nameOf(m.device) + " was pressed.", false);
    network_.here().after(pressedMs, [this, watch = m.link.watch(), id = m.device] {
        if (!watch.get())
            return;
        const auto it = members_.find(id);
        if (it == members_.end() || &it->second->link != watch.get())
            return;
        it->second->pressed = false;
        changedSoon(id);
    });
    changedSoon(m.device);
}

// Changed at the device, or by another computer.
void Fleet::changedThere(Member& m, const site::Changed& what) {
    noteFallBack(m);
    if (m.state && m.state->running)
        m.state->running->turned = true; // as its next state will say
    // What is on its way from here comes after it, and stays; and is what comes back then.
    const bool underWay = m.onTheWay.count(what.setUp.empty() ? what.path : "setUp/" + what.setUp) > 0;
    const bool mine = what.who == me() && underWay;
    const auto agree = [&] {
        ++m.changedLive;
        m.agreedBoot = m.state ? m.state->boot : "";
    };
    std::optional<project::Edit> taken;
    if (!what.setUp.empty()) {
        m.config->setUp[what.setUp] = what.text;
        if (!mine)
            note(m.device, what.who,
                 project::setUpLabel(what.setUp) + " changed to \"" + project::setUpWords(what.setUp, what.text) +
                     "\".");
        if (live_ && m.agreed) {
            agree();
            m.agreed->setUp[what.setUp] = what.text;
        }
        taken = project::changeDevice(m.device, "Changed at " + nameOf(m.device),
                                      [id = what.setUp, v = what.text](project::Device& d) {
                                          project::adoptSetUp(d, {{id, v}});
                                      });
    } else if (!what.path.empty() && m.config->program) {
        const auto at = engine::findParameter(*m.config->program, what.path);
        if (!at.block)
            return fetchConfig(m);
        const std::string block = at.block->id, param = at.param;
        m.config->program->find(block)->values[param] = what.value;
        if (!mine)
            note(m.device, what.who, what.path + " changed to " + shortText(what.value) + ".");
        if (live_ && m.agreed && m.agreed->program)
            if (auto* b = m.agreed->program->find(block)) {
                agree();
                b->values[param] = what.value;
            }
        if (live_ && !underWay)
            taken = project::setValue(design_.project(), m.device + "/" + what.path, what.value, true);
    } else {
        return;
    }
    m.print = site::fingerprint(*m.config);
    compare(m);
    if (live_ && !underWay && taken)
        design_.edit(std::move(*taken)); // the last: it changes the project, and with it who is a member
}

} // namespace loom::client
