#include "app/site/fleet.h"
#include "app/text.h"
#include "project/catalogue.h"
#include "project/json.h"
#include "site/vitals.h"
#include <QElapsedTimer>
#include <QHostInfo>
#include <algorithm>

namespace loom::app {

using nlohmann::json;
using site::Take;

namespace {

constexpr int pollMs = 50, pollTurns = 20, afterMs = 3000; // every device once a second, not all at once

} // namespace

Fleet::Fleet(Session& session, QObject* parent) : QObject(parent), session_(session) {
    connect(&sweep_, &Sweep::changed, this, [this] {
        sync();
        emit foundChanged();
    });
    connect(&session, &Session::changed, this, &Fleet::followChange);
    connect(&poll_, &QTimer::timeout, this, &Fleet::poll);
    poll_.start(pollMs);
    connect(&meterTimer_, &QTimer::timeout, this, [this] {
        for (auto& [_, m] : members_)
            if (m->link.up() && m->config && m->config->program && m->link.waiting() < 4)
                m->link.call("meters", json::object(), [member = m.get()](const json& meters, const QString& bad) {
                    if (bad.isEmpty())
                        member->meters = meters;
                });
        emit metersCame();
    });
    connect(&bySlices_, &QTimer::timeout, this, [this] {
        constexpr int atOnceMs = 5;
        QElapsedTimer clock;
        clock.start();
        while (!toCompare_.empty() && clock.elapsed() < atOnceMs)
            if (auto* m = member(toCompare_.extract(toCompare_.begin()).value()))
                compare(*m);
        while (!toAsk_.empty() && clock.elapsed() < atOnceMs)
            if (auto* m = member(toAsk_.extract(toAsk_.begin()).value()); m && m->link.up())
                askState(*m);
        if (toCompare_.empty() && toAsk_.empty())
            bySlices_.stop();
    });
    connect(this, &Fleet::memberChanged, this, &Fleet::tellWatchers);
    connect(this, &Fleet::foundChanged, this, &Fleet::tellWatchers);
    connect(&turns_, &QTimer::timeout, this, [this] {
        const auto next = std::find_if(watchers_.begin(), watchers_.end(), [](const auto& w) { return w.waits; });
        if (next == watchers_.end())
            return turns_.stop();
        next->waits = false;
        if (next->who)
            next->tell();
    });
    illness_.setSingleShot(true); // a power-cycle is no illness
    connect(&illness_, &QTimer::timeout, this, &Fleet::tellIll);
    soon_.setSingleShot(true);
    soon_.setInterval(30); // many devices answer at once: views hear of it once
    connect(&soon_, &QTimer::timeout, this, [this] {
        tellHealth();
        const auto all = std::exchange(stale_, {});
        emit memberChanged(all.size() == 1 ? q(*all.begin()) : QString());
    });
    session.setDeviceTools(&tools_);
}

Fleet::~Fleet() = default;

std::string Fleet::me() const {
    const auto user = qEnvironmentVariable("USER", "somebody");
    return (user + " at " + QHostInfo::localHostName()).toStdString();
}

std::string Fleet::nameOf(const std::string& device) const {
    const auto* d = session_.project().device(device);
    return d ? d->name : device;
}

void Fleet::note(const std::string& device, const std::string& who, const QString& what, bool bad) {
    log_.add({site::utcNow(), device.empty() ? "" : nameOf(device), who, what.toStdString(), bad});
    emit logChanged();
}

void Fleet::changedSoon(const std::string& device) {
    stale_.insert(device);
    if (!soon_.isActive())
        soon_.start();
}

void Fleet::whenChanged(QObject* who, std::function<void()> tell) {
    watchers_.push_back({who, std::move(tell)});
}

void Fleet::tellWatchers() {
    for (auto& w : watchers_)
        w.waits = true;
    if (std::max({members_.size(), sweep_.found().size(), session_.project().devices.size()}) > few)
        return turns_.start(1);
    for (std::size_t i = 0; i < watchers_.size(); ++i)
        if (std::exchange(watchers_[i].waits, false) && watchers_[i].who)
            watchers_[i].tell();
}

// ---- finding ----

void Fleet::look(const site::Subnet& range) {
    looked_ = true;
    sweep_.look(range);
    tellHealth();
    emit foundChanged();
}

void Fleet::addAddress(const QString& address) {
    if (!QHostAddress(address).isNull() && site::readAddress(address.toStdString())) {
        if (!sweep_.looking())
            look({*site::readAddress(address.toStdString()) & ~255u, 24});
        return sweep_.addAddress(address);
    }
    if (address.isEmpty() || address.contains(' '))
        return session_.report("\"" + address + "\" is no address and no name. Type 127.20.4.10, or a host's name.");
    QHostInfo::lookupHost(address, this, [this, address](const QHostInfo& info) {
        for (const auto& a : info.addresses())
            if (a.protocol() == QAbstractSocket::IPv4Protocol)
                return addAddress(a.toString());
        session_.report("\"" + address + "\" is not known on this network. Type its address in numbers.");
    });
}

std::vector<site::SiteFinding> Fleet::findings() const {
    if (!looked_)
        return {};
    std::vector<std::string> lost;
    for (const auto& [_, m] : members_)
        if (!m->link.up() && !sweep_.found().count(m->serial))
            lost.push_back(m->serial);
    auto all = site::siteFindings(session_.project(), found(), sweep_.range(), lost);
    std::erase_if(all, [this](const auto& f) {
        return std::any_of(session_.project().left.begin(), session_.project().left.end(),
                           [&](const auto& l) { return l.code == f.code && l.device == f.device; });
    });
    return all;
}

void Fleet::readdress(const std::string& serial, const std::string& address) {
    if (!site::readAddress(address))
        return session_.report("\"" + q(address) + "\" is not an address. Type four numbers such as 127.20.4.10.");
    for (const auto& f : found())
        if (f.address == address && f.serial != serial)
            return session_.report(
                q(address + " is the address of " + f.modelName + " " + f.serial + " already. Choose another one."));
    for (auto& [id, m] : members_)
        if (m->serial == serial && m->link.up()) {
            call(id, "address", {{"address", address}});
            return;
        }
    sweep_.readdress(serial, address);
    note("", me(), "Gave " + q(serial) + " the address " + q(address) + ".");
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
    else if (sweep_.range())
        look(*sweep_.range());
}

void Fleet::addToPlan(const std::vector<std::string>& serials, const std::string& room) {
    std::map<std::string, std::optional<project::Device>> coming;
    project::Project with = session_.project();
    for (const auto& f : found())
        if (std::find(serials.begin(), serials.end(), f.serial) != serials.end()) {
            auto d = site::plannedFrom(with, f, room.empty() ? site::likelyRoom(with, f) : room);
            with.devices.push_back(d);
            coming[d.id] = d;
        }
    if (coming.empty())
        return session_.report("None of them is on the network any more.");
    const auto count = coming.size();
    if (session_.edit(project::setDevices(std::move(coming), "Put found devices into the plan")))
        session_.report(QString(count == 1 ? "%1 device is in the plan now; take its values where it differs."
                                           : "%1 devices are in the plan now; take their values where they differ.")
                            .arg(count),
                        false);
}

// ---- pairing ----

const Fleet::Member* Fleet::member(const std::string& device) const {
    const auto it = members_.find(device);
    return it == members_.end() ? nullptr : it->second.get();
}
Fleet::Member* Fleet::member(const std::string& device) {
    const auto it = members_.find(device);
    return it == members_.end() ? nullptr : it->second.get();
}

std::vector<const Fleet::Member*> Fleet::members() const {
    std::vector<const Member*> all;
    for (const auto& d : session_.project().devices)
        if (const auto* m = member(d.id))
            all.push_back(m);
    return all;
}

int Fleet::planned() const {
    const auto& all = session_.project().devices;
    return static_cast<int>(std::count_if(all.begin(), all.end(), site::onSite));
}

void Fleet::pair(const std::string& device, const std::string& serial) {
    const auto* d = session_.project().device(device);
    const auto it = sweep_.found().find(serial);
    if (!d || it == sweep_.found().end())
        return session_.report("That device is not on the network any more. Look again.");
    const auto& f = it->second;
    if (f.model != d->model)
        return session_.report(
            q("The planned " + d->name + " (" + d->model + ") cannot be paired with a " + f.modelName + "."));
    for (const auto& other : session_.project().devices)
        if (other.serial == serial && other.id != device)
            return session_.report(
                q(serial + " stands for " + other.name + " already. Swap them, or unpair it first."));
    const bool replaces = !d->serial.empty();
    session_.edit(project::changeDevice(device, (replaces ? "Replace " : "Pair ") + d->name + " with " + serial,
                                        [serial, identity = f.identity](project::Device& one) {
                                            project::unpair(one); // what was last sent went to another device
                                            one.serial = serial, one.known.identity = identity;
                                        }));
    note(device, me(), q((replaces ? "Replaced by " : "Paired with ") + serial + "."));
}

int Fleet::pairAll(const std::vector<site::PairBy>& ways) {
    std::vector<project::Edit> edits;
    for (const auto& m : site::matches(session_.project(), found(), ways)) {
        edits.push_back(project::changeDevice(
            m.device, "Pair",
            [serial = m.serial, identity = sweep_.found().at(m.serial).identity](project::Device& one) {
                project::unpair(one);
                one.serial = serial, one.known.identity = identity;
            }));
        note(m.device, me(), q("Paired with " + m.serial + ": " + m.why + "."));
    }
    const int count = static_cast<int>(edits.size());
    if (count > 0)
        session_.edit(project::together(std::move(edits), "Pair " + std::to_string(count) + " devices"));
    session_.report(count == 0 ? QString("No planned device matches a found one for certain. Draw a thread from one to "
                                         "the other.")
                               : QString(count == 1 ? "%1 device paired." : "%1 devices paired.").arg(count),
                    count == 0);
    return count;
}

void Fleet::unpair(const std::string& device) {
    if (const auto* d = session_.project().device(device); d && !d->serial.empty())
        session_.edit(project::changeDevice(device, "Unpair " + d->name, project::unpair));
}

void Fleet::swapPairs(const std::string& a, const std::string& b) {
    const auto *da = session_.project().device(a), *db = session_.project().device(b);
    if (!da || !db || da->model != db->model || (da->serial.empty() && db->serial.empty()))
        return session_.report("Choose two paired devices of one model to swap.");
    const auto give = [](const project::Device& from) {
        return [serial = from.serial, known = from.known](project::Device& to) {
            to.serial = serial, to.known = known; // what was sent to it goes with it
        };
    };
    std::vector<project::Edit> edits;
    edits.push_back(project::changeDevice(a, "Swap", give(*db)));
    edits.push_back(project::changeDevice(b, "Swap", give(*da)));
    session_.edit(project::together(std::move(edits), "Swap " + da->name + " and " + db->name));
}

// ---- lines ----

// A line for every paired device, to where it was found.
void Fleet::sync() {
    std::set<std::string> there;
    std::map<std::string, int> holders; // of each address
    for (const auto& [_, f] : sweep_.found())
        ++holders[f.address];
    for (const auto& d : session_.project().devices) {
        if (d.serial.empty())
            continue;
        there.insert(d.id);
        auto& m = members_[d.id];
        if (m && m->serial != d.serial)
            m.reset();
        if (!m) {
            m = std::make_unique<Member>();
            m->device = d.id, m->serial = d.serial, m->designSetUp = project::setUpOf(d);
            m->agreed = site::lastSentOf(d), m->agreedRevision = d.known.revision, m->agreedBoot = d.known.boot;
            connect(&m->link, &RigLink::changed, this, [this, raw = m.get()] { lineChanged(*raw); });
            connect(&m->link, &RigLink::told, this,
                    [this, raw = m.get()](const QString& method, const json& params) { told(*raw, method, params); });
            connect(&m->link, &RigLink::impostor, this, [this, id = d.id, serial = d.serial] {
                note(id, "", "Another device than " + q(serial) + " answers at its address.", true);
                session_.report(q(nameOf(id)) + ": another device than the paired one answers at its address. Look at "
                                                "the addresses, or pair it anew.");
            });
        }
        connectTo(*m, holders);
    }
    std::erase_if(members_, [&](const auto& m) { return !there.count(m.first); });
    std::erase_if(loose_, [&](const auto& l) { // gone, or paired now
        return !sweep_.found().count(l.first) || std::any_of(members_.begin(), members_.end(), [&](const auto& m) {
            return m.second->serial == l.first;
        });
    });
    const auto* working = session_.device();
    auto* m = working ? member(working->id) : nullptr;
    tools_.setLink(m ? &m->link : nullptr);
    tools_.setLive(live_ && m && m->link.up());
}

void Fleet::connectTo(Member& m, const std::map<std::string, int>& holders) {
    const auto it = sweep_.found().find(m.serial);
    if (it == sweep_.found().end())
        return;
    const auto& f = it->second;
    const QString address =
        q(f.asked.empty() || (sweep_.range() && sweep_.range()->holds(f.address)) ? f.address : f.asked);
    if (holders.at(f.address) > 1) // nobody can tell which would answer
        return;
    if (m.link.wanted() && m.link.address() == address)
        return;
    const auto* d = session_.project().device(m.device);
    m.link.open(address, sweep_.port(), d ? d->known.identity : "", opened_++ % 300 * 2);
}

void Fleet::lineChanged(Member& m) {
    if (!m.link.up()) {
        if (m.everUp) {
            note(m.device, "", "Connection lost.", true);
            m.everUp = false;
        }
        m.asking = false;
        m.meters = nullptr;
        if (session_.device() && m.device == session_.device()->id)
            tools_.setLive(false);
        return changedSoon(m.device);
    }
    m.everUp = true;
    m.locked = m.sealed; // a new line is not unlocked yet
    note(m.device, "", "Connected at " + m.link.address() + ".");
    if (session_.device() && m.device == session_.device()->id)
        tools_.setLive(live_);
    m.link.call("describe", json::object(), [this, raw = &m](const json& about, const QString& trouble) {
        if (!trouble.isEmpty())
            return;
        raw->sealed = about.is_object() && about.value("sealed", json()) == true;
        raw->locked = raw->sealed;
        if (raw->sealed && !password_.empty())
            raw->link.call("unlock", {{"password", password_}}, [this, raw](const json&, const QString& bad) {
                raw->locked = !bad.isEmpty();
                raw->locked ? changedSoon(raw->device) : askState(*raw);
            });
        if (!raw->sealed)
            askState(*raw);
        changedSoon(raw->device);
    });
}

void Fleet::poll() {
    ++tick_;
    int i = 0;
    for (auto& [_, m] : members_)
        if ((tick_ + i++) % pollTurns == 0 && m->link.up() && !m->locked && m->link.waiting() < 4)
            askState(*m);
}

void Fleet::askState(Member& m) {
    m.link.call("state", json::object(), [this, raw = &m](const json& state, const QString& trouble) {
        if (!trouble.isEmpty()) {
            if (raw->link.up() && !raw->locked && trouble.contains("sealed")) // somebody sealed it meanwhile
                raw->sealed = raw->locked = true;
            return changedSoon(raw->device);
        }
        const bool news = state != raw->state;
        if (turnedIn(state))
            noteFallBack(*raw);
        raw->state = state;
        raw->audioKey = textOf(state, "audioKey");
        if (!raw->config || textOf(state, "fingerprint") != raw->print)
            fetchConfig(*raw);
        if (news)
            raw->link.call("revisions", json::object(), [this, raw](const json& list, const QString& bad) {
                if (bad.isEmpty())
                    raw->revisions = list;
                changedSoon(raw->device);
            });
    });
    m.link.call("health", json::object(), [this, raw = &m](const json& health, const QString& trouble) {
        if (!trouble.isEmpty())
            return;
        const auto before = raw->vitals;
        raw->vitals = site::vitalsFromJson(health);
        const auto& v = raw->vitals;
        if (v.clip && !before.clip)
            note(raw->device, "", "It clips.", true);
        if (v.clockLost && !before.clockLost)
            note(raw->device, "", "It lost the clock of the audio network.", true);
        if (v.celsius >= project::hotCelsius && before.celsius < project::hotCelsius)
            note(raw->device, "", QString("It is %1 \u00b0C warm.").arg(v.celsius), true);
        for (const auto& [port, how] : v.outputs)
            if (how != "good" && (!before.outputs.count(port) || before.outputs.at(port) != how))
                note(raw->device, "", q(port + ": " + how + "."), true);
        auto now = v;
        now.uptime = before.uptime;
        if (!(now == before))
            changedSoon(raw->device);
    });
}

void Fleet::fetchConfig(Member& m) {
    if (m.asking)
        return;
    m.asking = true;
    m.link.call("config", json::object(), [this, raw = &m](const json& j, const QString& trouble) {
        raw->asking = false;
        if (!trouble.isEmpty())
            return;
        auto config = site::configFromJson(j);
        if (!config)
            return session_.report(
                q(nameOf(raw->device) + ": what it runs is not understood. " + config.trouble().text()));
        raw->config = *config;
        raw->print = site::fingerprint(*config);
        compare(*raw);
    });
}

void Fleet::compare(Member& m) {
    const auto* d = session_.project().device(m.device);
    if (d && m.config) {
        m.rows = site::rowsOf(site::designOf(*d), *m.config, m.agreed ? &*m.agreed : nullptr, m.standing(), m.choices);
        std::erase_if(m.choices, [&](const auto& c) {
            return std::none_of(m.rows.begin(), m.rows.end(), [&](const auto& r) { return r.key == c.first; });
        });
    }
    changedSoon(m.device);
}

// A device that fell back to what it was told holds nothing of anybody else's. Once somebody changes a value there,
// that can no longer be seen: so what it holds before is what both had last.
void Fleet::noteFallBack(Member& m) {
    if (m.standing() != site::Standing::older || m.turned() || !m.config || m.print.empty() ||
        m.print != textOf(m.state, "fingerprint"))
        return;
    m.agreed = m.config, m.agreedRevision = m.runningRevision(), m.agreedBoot.clear(), m.wentBack = false;
}

void Fleet::compareSoon(const std::string& device) {
    toCompare_.insert(device);
    if (!bySlices_.isActive())
        bySlices_.start(0);
}

void Fleet::askSoon(const std::string& device) {
    toAsk_.insert(device);
    if (!bySlices_.isActive())
        bySlices_.start(0);
}

void Fleet::compareNow(Member& m) {
    if (toCompare_.erase(m.device))
        compare(m);
}

// Changed at the device, or by another desk.
void Fleet::told(Member& m, const QString& method, const json& params) {
    const std::string who = textOf(params, "who");
    if (method == "pressed") {
        m.pressed = true;
        note(m.device, "at the device",
             params.value("muted", json()) == true ? "Its button was pressed: mute." : "Its button was pressed: live.");
        session_.report(q("The button of " + nameOf(m.device) + " was pressed."), false);
        QTimer::singleShot(4000, &m.link, [this, raw = &m] {
            raw->pressed = false;
            changedSoon(raw->device);
        });
        return changedSoon(m.device);
    }
    if (method == "event")
        return note(m.device, who, q(textOf(params, "what")), params.value("bad", json()) == true);
    if (method == "turned")
        emit turned(q(m.device), q(textOf(params, "knob")));
    if (method == "contact")
        return note(m.device, "at the device",
                    q(textOf(params, "contact")) + (params.value("closed", json()) == true ? " closed." : " opened."));
    if (method != "changed" || !m.config)
        return;
    noteFallBack(m);
    if (m.state.is_object() && m.state.contains("running") && m.state["running"].is_object())
        m.state["running"]["turned"] = true; // as its next state will say
    const bool mine = who == me();
    const auto value = params.value("value", json());
    const std::string path = textOf(params, "path"), id = textOf(params, "setUp");
    if (!id.empty() && value.is_string()) {
        m.config->setUp[id] = value.get<std::string>();
        if (!mine)
            note(m.device, who, q(project::setUpLabel(id) + " changed to \"" + value.get<std::string>() + "\"."));
        if (live_ && m.agreed)
            ++m.changedLive, m.agreedBoot = textOf(m.state, "boot"), m.agreed->setUp[id] = value.get<std::string>();
        if (live_ && !mine)
            session_.edit(project::changeDevice(m.device, "Changed at " + nameOf(m.device),
                                                [id, v = value.get<std::string>()](project::Device& d) {
                                                    project::adoptSetUp(d, {{id, v}});
                                                }));
    } else if (!path.empty() && value.is_number() && m.config->program) {
        const auto at = engine::findParameter(*m.config->program, path);
        if (!at.block)
            return fetchConfig(m);
        m.config->program->find(at.block->id)->values[at.param] = value.get<double>();
        if (!mine)
            note(m.device, who, q(path + " changed to " + std::to_string(value.get<double>()) + "."));
        if (live_ && m.agreed && m.agreed->program)
            if (auto* b = m.agreed->program->find(at.block->id))
                ++m.changedLive, m.agreedBoot = textOf(m.state, "boot"), b->values[at.param] = value.get<double>();
        if (live_ && !mine) {
            if (auto edit = project::setValue(session_.project(), m.device + "/" + path, value.get<double>(), true))
                session_.edit(std::move(edit));
        }
    }
    m.print = site::fingerprint(*m.config);
    compare(m);
}

void Fleet::identify(const std::string& serial, bool on, Sign sign) {
    auto* link = linkTo(serial);
    if (!link)
        return session_.report("That device is not on the network any more. Look again.");
    const auto ask = [this, link, on, tone = sign == Sign::tone] {
        link->call("identify", {{"on", on}, {"tone", tone}}, [this, on, tone](const json&, const QString& trouble) {
            session_.report(!trouble.isEmpty() ? trouble
                            : on && tone       ? QString("A quiet tone of 1 kHz sounds at every output of its program.")
                            : on               ? QString("Its lamp blinks and its lane is mute while you hold.")
                                               : QString("It is as before."),
                            !trouble.isEmpty());
        });
    };
    if (link->up())
        return ask();
    connect(
        link, &RigLink::changed, link,
        [link, ask] {
            if (link->up())
                ask();
        },
        Qt::SingleShotConnection);
}

RigLink* Fleet::linkTo(const std::string& serial) {
    for (auto& [_, m] : members_)
        if (m->serial == serial)
            return &m->link;
    const auto it = sweep_.found().find(serial);
    if (it == sweep_.found().end())
        return nullptr;
    auto& link = loose_[serial];
    if (!link) {
        link = std::make_unique<RigLink>();
        link->open(q(it->second.address), sweep_.port(), it->second.identity);
    }
    return link.get();
}

void Fleet::powerCycle(const std::vector<std::string>& devices) {
    for (const auto& id : devices)
        call(id, "powerCycle", json::object());
}

void Fleet::update(const std::string& device, bool back) {
    const auto* d = session_.project().device(device);
    const auto* model = d ? project::findModel(d->model) : nullptr;
    if (!model)
        return;
    back ? call(device, "rollBack", json::object()) : call(device, "update", {{"firmware", model->firmware}});
}

void Fleet::call(const std::string& device, const std::string& method, const json& params) {
    auto* m = member(device);
    if (!m)
        return session_.report("It is not paired yet.");
    m->link.call(method, params, [this, device, method](const json&, const QString& trouble) {
        const QString what = method == "powerCycle" ? "Power is off. It comes back with what it keeps."
                             : method == "address"  ? "It takes up its new address."
                                                    : "It starts anew.";
        note(device, me(), trouble.isEmpty() ? what : trouble, !trouble.isEmpty());
        session_.report(q(nameOf(device)) + ": " + (trouble.isEmpty() ? what : trouble), !trouble.isEmpty());
    });
}

// ---- health ----

// Devices that have an address can be looked for; what is not on a network has no state to tell.
void Fleet::tellHealth() {
    project::SiteHealth health;
    for (const auto& d : session_.project().devices) {
        if (!site::onSite(d) || !(looked_ || !members_.empty()))
            continue;
        project::DeviceReport r;
        r.paired = !d.serial.empty();
        if (const auto* m = member(d.id)) {
            if (m->link.up())
                seen_.insert(d.id);
            r.reachable = m->link.up(), r.locked = m->locked, r.vitals = m->vitals;
            r.hasProgram = !d.program || (m->config && m->config->program);
            r.differing = static_cast<int>(m->rows.size());
            r.kept = m->kept();
        }
        health[d.id] = project::wordOf(r);
    }
    for (const auto& [id, word] : health) {
        const auto before = session_.health().find(id);
        if (word.health == project::Health::bad && seen_.count(id) && before != session_.health().end() &&
            before->second.health != project::Health::bad)
            ill_.insert(id);
    }
    if (!ill_.empty() && !illness_.isActive())
        illness_.start(afterMs);
    session_.setHealth(std::move(health));
}

void Fleet::tellIll() {
    QStringList worse;
    for (const auto& id : std::exchange(ill_, {}))
        if (const auto it = session_.health().find(id);
            it != session_.health().end() && it->second.health == project::Health::bad)
            worse << q(nameOf(id)) + ": " + q(it->second.reason);
    if (worse.isEmpty())
        return;
    const QString text =
        worse.size() == 1 ? worse.front() : QString("%1 devices are not well. %2").arg(worse.size()).arg(worse.front());
    session_.report(text);
    emit alarm(text);
}

} // namespace loom::app
