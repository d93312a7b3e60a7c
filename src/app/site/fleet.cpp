#include "app/site/fleet.h"
#include "app/text.h"
#include "project/catalogue.h"
#include "project/json.h"
#include "site/vitals.h"
#include <QHostInfo>
#include <algorithm>

namespace loom::app {

using nlohmann::json;
using site::Take;

namespace {

constexpr int pollMs = 50, pollTurns = 20, meterMs = 50; // every device once a second, not all at once

int revisionOf(const json& state, const char* which) {
    const auto part = state.is_object() ? state.value(which, json()) : json();
    const auto r = part.is_object() ? part.value("revision", json()) : json();
    return r.is_number_integer() ? r.get<int>() : -1;
}

std::string printOf(const json& state, const char* which) {
    const auto part = state.is_object() ? state.value(which, json()) : json();
    const auto r = part.is_object() ? part.value("fingerprint", json()) : json();
    return r.is_string() ? r.get<std::string>() : std::string();
}

std::string textOf(const json& j, const char* key) {
    const auto v = j.is_object() ? j.value(key, json()) : json();
    return v.is_string() ? v.get<std::string>().substr(0, 120) : std::string();
}

bool onNetwork(const project::Device& d) {
    const auto* m = project::findModel(d.model);
    return m && m->network;
}

} // namespace

int Fleet::Member::runningRevision() const {
    return revisionOf(state, "running");
}
int Fleet::Member::keptRevision() const {
    return revisionOf(state, "kept");
}
site::Standing Fleet::Member::standing() const {
    const int revision = runningRevision();
    if (revision < 0)
        return site::Standing::nothing;
    const bool fellBack = !agreedBoot.empty() && textOf(state, "boot") != agreedBoot;
    if (revision >= agreedRevision && !fellBack)
        return site::Standing::current;
    return state["running"].value("turned", json()) == true ? site::Standing::mixed : site::Standing::older;
}
bool Fleet::Member::kept() const {
    return printOf(state, "running") == printOf(state, "kept");
}

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
            auto d = site::plannedFrom(with, f, room);
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
    return static_cast<int>(std::count_if(all.begin(), all.end(), onNetwork));
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
                                            one.serial = serial, one.identity = identity;
                                        }));
    note(device, me(), q((replaces ? "Replaced by " : "Paired with ") + serial + "."));
}

int Fleet::pairAll(const std::vector<site::PairBy>& ways) {
    std::vector<std::unique_ptr<project::Edit>> edits;
    for (const auto& m : site::matches(session_.project(), found(), ways)) {
        edits.push_back(project::changeDevice(
            m.device, "Pair",
            [serial = m.serial, identity = sweep_.found().at(m.serial).identity](project::Device& one) {
                project::unpair(one);
                one.serial = serial, one.identity = identity;
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
        return [serial = from.serial, identity = from.identity, sent = from.lastSent, kept = from.lastKept,
                setUp = from.lastSetUp, revision = from.lastRevision, boot = from.lastBoot](project::Device& to) {
            to.serial = serial, to.identity = identity;
            to.lastSent = sent, to.lastKept = kept, to.lastSetUp = setUp; // what was sent to it goes with it
            to.lastRevision = revision, to.lastBoot = boot;
        };
    };
    std::vector<std::unique_ptr<project::Edit>> edits;
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
            m->agreed = site::lastSentOf(d), m->agreedRevision = d.lastRevision, m->agreedBoot = d.lastBoot;
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
    m.link.open(address, sweep_.port(), d ? d->identity : "", opened_++ % 300 * 2);
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
        raw->state = state;
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
    if (method != "changed" || !m.config)
        return;
    const bool mine = who == me();
    const auto value = params.value("value", json());
    const std::string path = textOf(params, "path"), id = textOf(params, "setUp");
    if (!id.empty() && value.is_string()) {
        m.config->setUp[id] = value.get<std::string>();
        if (!mine)
            note(m.device, who, q(project::setUpLabel(id) + " changed to \"" + value.get<std::string>() + "\"."));
        if (live_ && m.agreed)
            m.agreedBoot = textOf(m.state, "boot"), m.agreed->setUp[id] = value.get<std::string>();
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
                m.agreedBoot = textOf(m.state, "boot"), b->values[at.param] = value.get<double>();
        if (live_ && !mine) {
            if (auto edit = project::setValue(session_.project(), m.device + "/" + path, value.get<double>(), true))
                session_.edit(std::move(edit));
        }
    }
    m.print = site::fingerprint(*m.config);
    compare(m);
}

void Fleet::identify(const std::string& serial, bool on) {
    auto* link = linkTo(serial);
    if (!link)
        return session_.report("That device is not on the network any more. Look again.");
    const auto ask = [this, link, on] {
        link->call("identify", {{"on", on}}, [this, on](const json&, const QString& trouble) {
            session_.report(!trouble.isEmpty() ? trouble
                            : on               ? QString("Its lamp blinks and its lane is mute while you hold.")
                                               : QString("Its lamp is as before."),
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

// ---- settling ----

void Fleet::choose(const std::string& device, const std::string& key, Take take) {
    if (auto* m = member(device)) {
        m->choices[key] = take;
        compare(*m);
    }
}

void Fleet::chooseAll(const std::vector<std::string>& devices, Take take, bool openOnly) {
    for (const auto& id : devices)
        if (auto* m = member(id)) {
            for (const auto& r : m->rows)
                if (!openOnly || r.take == Take::open)
                    m->choices[r.key] = take;
            if (take == Take::open)
                m->choices.clear();
            compare(*m);
        }
}

void Fleet::tryNow(const std::vector<std::string>& devices) {
    std::vector<AllOrNone::Part> parts;
    std::map<std::string, site::Config> sent;
    std::map<std::string, int> numbers;
    int open = 0, lost = 0;
    for (const auto& id : devices) {
        auto* m = member(id);
        const auto* d = session_.project().device(id);
        if (!m || !d)
            continue;
        if (!m->link.up() || m->locked || !m->config) {
            ++lost;
            continue;
        }
        open += m->open();
        if (m->rows.empty() && m->runningRevision() >= 0)
            continue; // it runs the design
        auto config = site::settled(site::designOf(*d), *m->config, m->rows);
        const int revision =
            std::max({0, m->runningRevision(), m->keptRevision(), config.program ? config.program->revision : 0}) + 1;
        if (config.program)
            config.program->revision = revision;
        sent[id] = config, numbers[id] = revision;
        AllOrNone::Part p;
        p.device = id, p.name = q(d->name), p.link = &m->link;
        p.prepare = {"stage", {{"config", site::toJson(config)}, {"author", me()}, {"revision", revision}}};
        p.unprepare = {"discard"}, p.commit = {"commit"}, p.uncommit = {"revert"};
        parts.push_back(std::move(p));
    }
    if (open > 0)
        return session_.report(QString(open == 1 ? "%1 value changed on both sides or was never sent from here: choose "
                                                   "a side before going on."
                                                 : "%1 values changed on both sides or were never sent from here: "
                                                   "choose sides before going on.")
                                   .arg(open));
    if (parts.empty())
        return session_.report(
            lost > 0 ? QString("None of them can be reached.") : QString("They run the design already."), lost > 0);
    const auto count = parts.size();
    work_.start("Try", std::move(parts), [this, sent, numbers, count, lost](const QString& trouble) {
        if (!trouble.isEmpty()) {
            note("", me(), "Try: " + trouble, true);
            return session_.report(trouble + " No device was changed.");
        }
        std::map<std::string, std::optional<project::Device>> changed;
        for (const auto& [id, config] : sent)
            if (const auto* d = session_.project().device(id)) {
                auto n = *d;
                n.program = config.program;
                project::adoptSetUp(n, config.setUp);
                n.lastSent = config.program, n.lastSetUp = config.setUp, n.lastRevision = numbers.at(id),
                n.lastBoot.clear();
                changed[id] = n;
                if (auto* m = member(id)) {
                    m->choices.clear();
                    m->print.clear(); // read back with the next look
                    m->agreed = m->config = config, m->agreedRevision = numbers.at(id), m->agreedBoot.clear();
                    askState(*m);
                }
                note(id, me(),
                     "Tried" + (config.program ? QString(": revision %1 runs.").arg(config.program->revision)
                                               : QString(".")));
            }
        session_.edit(project::setDevices(std::move(changed), "Note what was tried"));
        session_.report(QString(count == 1 ? "%1 device runs it. It is lost at power-off until it is kept."
                                           : "%1 devices run it. It is lost at power-off until it is kept.")
                                .arg(count) +
                            (lost > 0 ? QString(" %1 could not be reached.").arg(lost) : QString()),
                        false);
    });
}

void Fleet::keep(const std::vector<std::string>& devices) {
    std::vector<AllOrNone::Part> parts;
    for (const auto& id : devices)
        if (auto* m = member(id); m && m->link.up() && !m->locked && m->runningRevision() >= 0 && !m->kept()) {
            AllOrNone::Part p;
            p.device = id, p.name = q(nameOf(id)), p.link = &m->link;
            p.commit = {"keep"};
            p.uncommit = {"bootWith", {{"revision", std::max(0, m->keptRevision())}}};
            parts.push_back(std::move(p));
        }
    if (parts.empty())
        return session_.report("There is nothing to keep: what runs is kept, or nothing was tried.", false);
    std::vector<std::string> ids;
    for (const auto& p : parts)
        ids.push_back(p.device);
    work_.start("Keep", std::move(parts), [this, ids](const QString& trouble) {
        if (!trouble.isEmpty()) {
            note("", me(), "Keep: " + trouble, true);
            return session_.report(trouble + " Every device keeps what it kept before.");
        }
        std::vector<std::unique_ptr<project::Edit>> edits;
        for (const auto& id : ids)
            if (auto* m = member(id)) {
                m->agreedBoot.clear(); // what was changed live is kept with it
                askState(*m);
                note(id, me(), "Kept: it survives power-off.");
                if (m->config && m->config->program && session_.project().device(id))
                    edits.push_back(project::changeDevice(
                        id, "Note", [kept = *m->config->program](auto& d) { d.lastKept = kept; }));
            }
        if (!edits.empty())
            session_.edit(project::together(std::move(edits), "Note what was kept"));
        session_.report(QString(ids.size() == 1 ? "%1 device keeps it: it survives power-off."
                                                : "%1 devices keep it: it survives power-off.")
                            .arg(ids.size()),
                        false);
    });
}

void Fleet::goBack(const std::string& device, int revision) {
    auto* m = member(device);
    if (!m)
        return;
    m->link.call("goBack", {{"revision", revision}}, [this, device, revision](const json&, const QString& trouble) {
        if (!trouble.isEmpty())
            return session_.report(trouble);
        note(device, me(), QString("Went back to revision %1.").arg(revision));
        session_.report(QString("Revision %1 runs again. Where it differs from the design is listed.").arg(revision),
                        false);
        if (auto* now = member(device))
            askState(*now);
    });
}

void Fleet::takeFrom(const std::vector<std::string>& devices) {
    std::map<std::string, std::optional<project::Device>> changed;
    for (const auto& id : devices) {
        const auto* m = member(id);
        const auto* d = session_.project().device(id);
        if (!m || !d || !m->config || m->rows.empty())
            continue;
        auto n = *d;
        if (m->config->program) // one that runs none takes nothing away
            n.program = m->config->program;
        project::adoptSetUp(n, m->config->setUp);
        n.lastSent = m->config->program, n.lastSetUp = m->config->setUp; // both sides agree on it now
        n.lastRevision = std::max(0, m->runningRevision()), n.lastBoot = textOf(m->state, "boot");
        changed[id] = n;
        auto* now = member(id);
        now->agreed = m->config, now->agreedRevision = n.lastRevision, now->agreedBoot = n.lastBoot;
    }
    if (changed.empty())
        return session_.report("Nothing differs: there is nothing to take.", false);
    session_.edit(project::setDevices(std::move(changed), "Take all values from the device"));
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

// ---- live ----

void Fleet::noteAgreed() {
    std::map<std::string, std::optional<project::Device>> changed;
    for (const auto& [id, m] : members_) {
        const auto* d = session_.project().device(id);
        if (!d || !m->agreed)
            continue;
        auto n = *d;
        n.lastSent = m->agreed->program, n.lastSetUp = m->agreed->setUp, n.lastRevision = m->agreedRevision,
        n.lastBoot = m->agreedBoot;
        if (!(n == *d))
            changed[id] = n;
    }
    if (!changed.empty())
        session_.edit(project::setDevices(std::move(changed), "Note what was changed live"));
}

void Fleet::setLive(bool on) {
    if (live_ && !on)
        noteAgreed();
    live_ = on;
    const auto* working = session_.device();
    const auto* m = working ? member(working->id) : nullptr;
    tools_.setLive(live_ && m && m->link.up());
    live_ ? meterTimer_.start(meterMs) : meterTimer_.stop();
    int differing = 0;
    for (const auto& [_, one] : members_) {
        differing += static_cast<int>(one->rows.size());
        one->meters = nullptr;
    }
    if (live_ && differing > 0)
        session_.report(QString(differing == 1 ? "Live: what you change from now on reaches the devices. %1 value "
                                                 "differs from before; Try it sends it."
                                               : "Live: what you change from now on reaches the devices. %1 values "
                                                 "differ from before; Try it sends them.")
                            .arg(differing),
                        false);
    emit liveChanged();
}

void Fleet::followChange(const project::Change& change) {
    using Kind = project::Change::Kind;
    if (live_)
        for (auto& [id, m] : members_)
            if ((change.device.empty() || change.device == id) && m->link.up())
                sendChange(*m, change.kind == Kind::value ? change.block : std::string());
    for (auto& [id, m] : members_)
        if (const auto* d = session_.project().device(id))
            m->designSetUp = project::setUpOf(*d);
    if (change.kind != Kind::value) {
        const auto before = members_.size();
        sync();
        if (members_.size() != before || change.kind == Kind::project)
            emit foundChanged();
        if (session_.project().devices.empty() && live_)
            setLive(false);
    }
    for (auto& [id, m] : members_)
        if (change.device.empty() || change.device == id)
            compare(*m);
}

// What an edit changed just now reaches the device; what differed before waits for Try.
void Fleet::sendChange(Member& m, const std::string& block) {
    const auto* d = session_.project().device(m.device);
    if (!d || !m.config)
        return;
    const auto send = [this, &m](const char* method, json params) {
        params["author"] = me();
        m.print.clear(); // taken for done, and read back with the next look: the device may refuse, or the line be lost
        m.link.call(method, params, [this](const json&, const QString& trouble) {
            if (!trouble.isEmpty())
                session_.report(trouble);
        });
    };
    if (!block.empty() && d->program && m.config->program) {
        const auto* mine = d->program->find(block);
        auto* there = m.config->program->find(block);
        if (mine && there && there->kind == mine->kind) { // an entry may switch its section on as well
            const engine::BlockView now(*mine), was(*there);
            for (std::size_t i = 0; now.shape == was.shape && i < now.values.size(); ++i)
                if (now.values[i] != was.values[i]) {
                    const std::string id = now.table->specs()[i].id;
                    send("set", {{"path", block + "." + id}, {"value", now.values[i]}});
                    there->values[id] = now.values[i];
                }
        }
    }
    for (const auto& [id, value] : project::setUpOf(*d))
        if (const auto it = m.designSetUp.find(id); it != m.designSetUp.end() && it->second != value &&
                                                    m.config->setUp.count(id) && m.config->setUp[id] != value) {
            send("setUp", {{"id", id}, {"value", value}});
            m.config->setUp[id] = value;
        }
}

// ---- sealing ----

void Fleet::unlock(const std::string& password) {
    password_ = password;
    int asked = 0;
    for (auto& [_, m] : members_) {
        if (!m->locked || !m->link.up())
            continue;
        ++asked;
        m->link.call("unlock", {{"password", password}}, [this, raw = m.get()](const json&, const QString& trouble) {
            raw->locked = !trouble.isEmpty();
            if (raw->locked) {
                session_.report(q(nameOf(raw->device)) + ": " + trouble);
                note(raw->device, me(), trouble, true);
                password_.clear();
            } else {
                askState(*raw);
            }
            changedSoon(raw->device);
        });
    }
    if (asked == 0)
        session_.report("No device waits for a password.", false);
}

void Fleet::seal(const std::vector<std::string>& devices, const std::string& password) {
    std::vector<AllOrNone::Part> parts;
    for (const auto& id : devices)
        if (auto* m = member(id); m && m->link.up() && !m->locked) {
            AllOrNone::Part p;
            p.device = id, p.name = q(nameOf(id)), p.link = &m->link;
            p.commit = {"seal", {{"password", password}}};
            if (!m->sealed)
                p.uncommit = {"unseal", {{"password", password}}};
            parts.push_back(std::move(p));
        }
    if (parts.empty())
        return session_.report("None of them can be reached.");
    std::vector<std::string> ids;
    for (const auto& p : parts)
        ids.push_back(p.device);
    work_.start("Seal", std::move(parts), [this, ids, password](const QString& trouble) {
        if (!trouble.isEmpty())
            return session_.report(trouble + " Those that were open are open again.");
        password_ = password;
        for (const auto& id : ids)
            if (auto* m = member(id)) {
                m->sealed = true, m->locked = false;
                note(id, me(), "Sealed with the room's password.");
                changedSoon(id);
            }
        session_.report(QString(ids.size() == 1 ? "%1 device is sealed." : "%1 devices are sealed.").arg(ids.size()),
                        false);
    });
}

void Fleet::unseal(const std::vector<std::string>& devices, const std::string& password) {
    for (const auto& id : devices) {
        auto* m = member(id);
        if (!m || !m->sealed || !m->link.up())
            continue;
        m->link.call("unseal", {{"password", password}}, [this, raw = m](const json&, const QString& trouble) {
            if (!trouble.isEmpty()) {
                note(raw->device, me(), trouble, true);
                return session_.report(q(nameOf(raw->device)) + ": " + trouble);
            }
            raw->sealed = raw->locked = false;
            note(raw->device, me(), "Opened: no password is needed any more.");
            session_.report(q(nameOf(raw->device)) + " needs no password any more.", false);
            changedSoon(raw->device);
        });
    }
}

// Devices that have an address can be looked for; what is not on a network has no state to tell.
void Fleet::tellHealth() {
    project::SiteHealth health;
    for (const auto& d : session_.project().devices) {
        if (!onNetwork(d) || !(looked_ || !members_.empty()))
            continue;
        project::DeviceReport r;
        r.paired = !d.serial.empty();
        if (const auto* m = member(d.id)) {
            r.reachable = m->link.up(), r.locked = m->locked, r.vitals = m->vitals;
            r.hasProgram = !d.program || (m->config && m->config->program);
            r.differing = static_cast<int>(m->rows.size());
            r.kept = m->kept();
        }
        health[d.id] = project::wordOf(r);
    }
    session_.setHealth(std::move(health));
}

} // namespace loom::app
