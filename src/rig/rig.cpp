#include "rig/rig.h"
#include "file/project_json.h"
#include "file/store.h"
#include "model/contact.h"
#include "program/file_prints.h"
#include "program/render.h"
#include "rig/clock.h"
#include "schema/json_text.h"
#include <QNetworkDatagram>
#include <QNetworkProxy>
#include <QRandomGenerator>
#include <QUdpSocket>
#include <algorithm>
#include <filesystem>
#include <sys/resource.h>

namespace loom::rig {

using nlohmann::json;

namespace {

// 300 devices with a line each need more open files than many systems grant at first.
void raiseFileLimit() {
    rlimit limit{};
    if (getrlimit(RLIMIT_NOFILE, &limit) == 0 && limit.rlim_cur < std::min<rlim_t>(limit.rlim_max, 8192)) {
        limit.rlim_cur = std::min<rlim_t>(limit.rlim_max, 8192);
        setrlimit(RLIMIT_NOFILE, &limit);
    }
}

bool toAll(const QHostAddress& to) { // the last address of a network, as far as one can tell from outside
    return to.isNull() || to == QHostAddress::Broadcast || (to.toIPv4Address() & 255) == 255;
}

constexpr qint64 longestDatagram = 2048;

} // namespace

Rig::Rig(const project::ModelSource& models, quint16 port, Reach reach, QObject* parent)
    : QObject(parent), models_(models), port_(port), reach_(reach), finder_(new QUdpSocket(this)),
      mouth_(new QUdpSocket(this)) {
    raiseFileLimit();
    for (auto* s : {finder_, mouth_})
        s->setProxy(QNetworkProxy::NoProxy);
    connect(finder_, &QUdpSocket::readyRead, this, [this] { heard(finder_); });
    connect(&beat_, &QTimer::timeout, this, &Rig::beat);
    beat_.setTimerType(Qt::PreciseTimer);
    beat_.start(20);
}

Rig::~Rig() = default;

QString Rig::open() {
    const auto all = reach_ == Reach::anywhere ? QHostAddress(QHostAddress::AnyIPv4) : QHostAddress("127.255.255.255");
    mouth_->bind(reach_ == Reach::anywhere ? all : QHostAddress("127.0.0.1"), 0);
    if (finder_->bind(all, port_, QAbstractSocket::ShareAddress | QAbstractSocket::ReuseAddressHint))
        return {};
    return QString("Port %1 (%2): nobody will find the devices. Choose another port.")
        .arg(port_)
        .arg(finder_->errorString());
}

Result<Done> Rig::add(DeviceSetup setup) {
    setup.models = models_;
    if (servers_.size() >= most)
        return Error{"a rig has at most 300 devices", setup.serial, ""};
    if (server(setup.serial))
        return Error{"there is a device of that serial number already", setup.serial, ""};
    auto s = std::make_unique<Server>(std::move(setup), reach_);
    if (const auto& error = s->device().store().error())
        return *error;
    connect(s.get(), &Server::asked, this, &Rig::heard);
    s->serial = [this](const std::string& path) {
        const auto it = serials_.find(path);
        return it == serials_.end() ? std::string() : it->second;
    };
    // What changes is told as soon as what changed it is done.
    s->device().values().news = [this, server = QPointer<Server>(s.get()), coming = std::make_shared<bool>(false)] {
        if (std::exchange(*coming, true))
            return;
        QTimer::singleShot(0, this, [this, server, coming] {
            *coming = false;
            if (server && server->device().powered() && server->device().values().link().hasSome())
                tellValues(*server);
        });
    };
    connect(s.get(), &Server::touched, this, [this, server = s.get()] {
        if (server->device().values().link().hasSome())
            tellValues(*server);
    });
    const auto& stored = s->device().store().address();
    const std::string address = stored.empty() ? s->device().made().address : stored;
    if (!site::readAddress(address))
        return Error{"has no address", s->device().made().serial, "Give four numbers such as 127.20.4.10."};
    (void)s->listen(QHostAddress(QString::fromStdString(address)), port_); // where it is taken, finding still hears it
    servers_.push_back(std::move(s));
    return Done{};
}

void Rig::remove(const std::string& serial) {
    std::erase_if(servers_, [&](const auto& s) { return s->device().made().serial == serial; });
}

Server* Rig::server(const std::string& serial) {
    for (const auto& s : servers_)
        if (s->device().made().serial == serial)
            return s.get();
    return nullptr;
}

Result<Done> Rig::setFault(const std::string& serial, const std::string& name, const json& value) {
    if (name == "cut") { // cables of the project, by id: of all devices at once
        if (!value.is_array() || !air_)
            return Error{air_ ? "takes a list of cables by id" : "no sound goes between devices", "fault cut", ""};
        std::set<std::string> wires;
        for (const auto& one : value)
            if (one.is_string())
                wires.insert(one.get<std::string>());
        air_->net().cut(std::move(wires));
        return Done{};
    }
    if (name == "wall")
        return moveWalls(value);
    if (name == "outside")
        return ailOutside(value);
    if (serial == "*") {
        for (const auto& s : servers_)
            if (auto done = s->setFault(name, value); !done)
                return done;
        return Done{};
    }
    auto* s = server(serial);
    if (!s)
        return Error{"there is no such device", serial, ""};
    return s->setFault(name, value);
}

void Rig::heard(QUdpSocket* at) {
    while (at->hasPendingDatagrams()) {
        const auto datagram = at->receiveDatagram(longestDatagram);
        const auto message = project::parseJson(datagram.data().toStdString(), "datagram");
        if (!message || !message->is_object())
            continue;
        if (message->value("loom", json()) == "mute") {
            const auto from = message->value("from", json());
            hand(from.is_string() ? from.get<std::string>() : std::string(), datagram.data().toStdString());
            continue;
        }
        if (message->value("loom", json()) == "values") {
            handValues(datagram.data().toStdString());
            continue;
        }
        if (message->value("loom", json()) != "who")
            continue;
        const QHostAddress to = datagram.destinationAddress();
        const auto port = static_cast<quint16>(datagram.senderPort());
        for (const auto& s : servers_)
            if (toAll(to) || QHostAddress(s->address()) == to)
                answer(*s, datagram.senderAddress(), port);
    }
}

void Rig::answer(Server& server, const QHostAddress& to, quint16 port) {
    if (!server.onWire() || QRandomGenerator::global()->generateDouble() < server.loss())
        return;
    const auto text = schema::toJson(server.about()).dump(-1, ' ', false, json::error_handler_t::replace);
    (server.finder() ? server.finder() : mouth_)->writeDatagram(QByteArray::fromStdString(text), to, port);
}

// ---- conversations ----

void Rig::beat() {
    const auto to = reach_ == Reach::anywhere ? QHostAddress(QHostAddress::Broadcast) : QHostAddress("127.255.255.255");
    for (const auto& s : servers_) {
        s->device().beatValues();
        if (s->device().powered() && s->device().values().speaks())
            tellValues(*s);
        if (!s->device().takesPart())
            continue;
        const auto texts = s->device().beat();
        for (const auto& text : texts)
            if (s->onWire() && QRandomGenerator::global()->generateDouble() >= s->loss())
                mouth_->writeDatagram(QByteArray::fromStdString(text), to, port_);
    }
}

void Rig::tellValues(Server& s) {
    const auto to = reach_ == Reach::anywhere ? QHostAddress(QHostAddress::Broadcast) : QHostAddress("127.255.255.255");
    for (const auto& text : s.device().values().link().take(secondsNow()))
        if (s.onWire() && QRandomGenerator::global()->generateDouble() >= s.loss())
            mouth_->writeDatagram(QByteArray::fromStdString(text), to, port_);
}

void Rig::handValues(const std::string& text) {
    for (const auto& s : servers_)
        if (s->onWire() && s->device().values().speaks() && QRandomGenerator::global()->generateDouble() >= s->loss()) {
            auto& link = s->device().values().link();
            if (link.heard(text, secondsNow()))
                s->device().heardValues();
            if (link.hasSome())
                tellValues(*s);
        }
}

void Rig::hand(const std::string& from, const std::string& text) {
    for (const auto& s : servers_)
        if (s->onWire() && s->device().takesPart() && s->device().made().serial != from &&
            QRandomGenerator::global()->generateDouble() >= s->loss())
            s->device().heardOfMute(text);
}

Result<Done> Rig::moveWalls(const json& walls) {
    const Error wrong{"takes walls by id, each open or closed", "fault wall", ""};
    if (!walls.is_object())
        return wrong;
    auto open = air_ ? air_->walls() : std::set<std::string>{};
    for (const auto& [id, how] : walls.items()) {
        if (how != "open" && how != "closed")
            return wrong;
        how == "open" ? void(open.insert(id)) : void(open.erase(id));
    }
    if (air_)
        air_->setWalls(open);
    for (const auto& s : servers_) // latches, as they are wired
        for (const auto& [contact, text] : s->device().running().setUp)
            if (const auto use = project::readContact(contact, text);
                use && use->kind == project::ContactUse::Kind::wall && walls.contains(use->wall))
                if (auto done = s->device().setContact(contact, !open.count(use->wall)); !done)
                    return done;
    return Done{};
}

// ---- outside devices ----

StandInDevice* Rig::standIn(const std::string& id) const {
    const auto it = standIns_.find(id);
    return it == standIns_.end() ? nullptr : it->second.get();
}

void Rig::putStandIns(const project::Project& p) {
    for (const auto& d : p.outside) {
        const auto* kind = p.outsideKind(d.kind);
        if (!kind || standIns_.count(d.id))
            continue;
        auto one = standInFor(*kind, d);
        if (!one)
            continue;
        if (!one->serial.empty())
            serials_[d.address] = one->serial;
        standIns_[d.id] = std::move(one);
    }
}

Result<Done> Rig::ailOutside(const json& how) {
    const Error wrong{"takes outside devices by id, each good, silent, slow, rubbish or flood", "fault outside", ""};
    if (!how.is_object())
        return wrong;
    static const std::map<std::string, StandInDevice::Fault> faults{{"good", StandInDevice::Fault::none},
                                                                    {"silent", StandInDevice::Fault::silent},
                                                                    {"slow", StandInDevice::Fault::slow},
                                                                    {"rubbish", StandInDevice::Fault::rubbish},
                                                                    {"flood", StandInDevice::Fault::flood}};
    for (const auto& [id, word] : how.items()) {
        const auto fault = word.is_string() ? faults.find(word.get<std::string>()) : faults.end();
        if (fault == faults.end())
            return wrong;
        auto* one = standIn(id);
        if (!one)
            return Error{"there is no such outside device on this rig", id, ""};
        one->fault = fault->second;
    }
    return Done{};
}

// ---- scenarios ----

Result<Done> Rig::playFile(const std::string& path, const std::string& folder) {
    const auto scenario = site::readScenario(path);
    if (!scenario)
        return scenario.error();
    const auto beside = std::filesystem::path(path).parent_path();
    std::optional<project::Project> planned, sound;
    for (auto* p : {&planned, &sound}) {
        const auto& name = p == &planned ? scenario->project : scenario->sound;
        if (name.empty())
            continue;
        auto loaded = project::loadProject((beside / name).string(), models_);
        if (!loaded)
            return loaded.error();
        *p = std::move(*loaded);
    }
    return play(*scenario, planned ? &*planned : nullptr, sound ? &*sound : planned ? &*planned : nullptr, folder);
}

Result<Done> Rig::play(const site::Scenario& scenario, const project::Project* project, const project::Project* sound,
                       const std::string& folder) {
    scenario_ = scenario;
    if (sound && !air_) {
        air_ = std::make_unique<Air>(48000, soundAdapter_);
        air_->lay(*sound);
        if (air_->empty())
            air_.reset();
    }
    if (project)
        putStandIns(*project);
    for (const auto& d : scenario.devices) {
        DeviceSetup setup;
        setup.model = d.model;
        setup.serial = d.serial;
        setup.name = d.name;
        setup.firmware = d.firmware;
        setup.address = d.address;
        setup.folder = folder;
        const auto* planned = project && !d.as.empty() ? project->device(d.as) : nullptr;
        if (!d.as.empty() && !planned)
            return Error{"is not a device of the project", "devices/" + d.serial + "/as " + d.as, ""};
        if (const auto* heard = sound && planned ? sound->device(d.as) : nullptr)
            setup.resources = project::resourcesOf(*sound, *heard, true);
        if (air_ && planned) {
            setup.sound = air_->side(d.as);
            setup.far = air_->farSide(d.as);
            setup.resources = air_->joined(std::move(setup.resources), d.as);
        }
        if (auto done = add(std::move(setup)); !done)
            return done;
        auto* s = server(d.serial);
        if (planned && d.prepared && s->device().store().revisions().empty()) { // as it left the workshop
            auto config = site::preparedFrom(*project, *planned);
            for (const auto& [id, _] : config.surfaces)
                if (const auto* surface = project->surface(id))
                    for (const auto& name : project::picturesOf(*surface))
                        if (const auto it = project->assets.find(name); it != project->assets.end())
                            (void)bool(s->device().store().addPicture(project::picturePrint(it->second), it->second));
            if (config.program)
                for (const auto& [name, print] : project::filePrints(*config.program))
                    if (const auto it = project->assets.find(name); it != project->assets.end())
                        (void)bool(s->device().store().addPicture(print, it->second));
            if (auto done = s->device().tryConfig(config, d.author, planned->program ? planned->program->revision : 1);
                !done)
                return done;
            if (auto done = s->device().keep(); !done)
                return done;
        }
        for (const auto& [name, value] : d.faults.items())
            if (auto done = s->setFault(name, value); !done)
                return done;
        if (planned && d.prepared && !s->device().keep()) // what was turned at it since is kept as well
            return Error{"could not keep what it was prepared with", d.serial, ""};
    }
    if (air_ && sound)
        air_->start(*sound);
    for (const auto& one : scenario.steps)
        if (one.at)
            QTimer::singleShot(static_cast<int>(*one.at * 1000), this, [this, one] { act(one); });
    return Done{};
}

void Rig::act(const site::Step& one) {
    for (const auto& [name, value] : one.faults.items())
        if (auto done = setFault(one.device, name, value); !done)
            said_.push_back(done.error().text());
}

Result<Done> Rig::step(const std::string& name) {
    bool any = false;
    for (const auto& one : scenario_.steps)
        if (one.name == name) {
            any = true;
            act(one);
        }
    if (!any)
        return Error{"there is no such step", name, ""};
    return Done{};
}

} // namespace loom::rig
