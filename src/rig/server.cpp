#include "rig/server.h"
#include "lines/outside_line.h"
#include "rig/clock.h"
#include "serve/access_server.h"
#include "serve/page_server.h"
#include <QDateTime>
#include <QNetworkProxy>
#include <QRandomGenerator>
#include <QTcpServer>
#include <QTcpSocket>
#include <QUdpSocket>
#include <QWebSocket>
#include <QWebSocketCorsAuthenticator>
#include <QWebSocketServer>
#include <chrono>

namespace loom::rig {

using nlohmann::json;

namespace {

constexpr int lostAgainMs = 200; // a lost packet of a stream comes again after a while
constexpr std::size_t mostShaking = 64, mostStuck = 100;
constexpr qint64 slack = 4096; // of a frame's head, and of what comes behind it

// 127.254.x.y of a serial number; `turn`: the next one, where that is taken.
QHostAddress linkAddress(const std::string& serial, int turn) {
    std::uint32_t h = 2166136261u; // FNV-1a, 32 bit
    for (const char c : serial)
        h = (h ^ static_cast<unsigned char>(c)) * 16777619u;
    h += static_cast<std::uint32_t>(turn);
    return QHostAddress(127u << 24 | 254u << 16 | (1 + (h >> 8) % 254) << 8 | (1 + h % 254));
}

} // namespace

Server::Server(DeviceSetup setup, Reach reach, QObject* parent)
    : QObject(parent), device_(std::make_unique<Device>(std::move(setup))),
      front_(std::make_unique<Front>(*device_, secondsNow)), reach_(reach), here_(new QTcpServer(this)),
      always_(new QTcpServer(this)), finder_(new QUdpSocket(this)),
      webSockets_(new QWebSocketServer("loom-rig", QWebSocketServer::NonSecureMode, this)) {
    for (auto* s : {here_, always_}) {
        s->setProxy(QNetworkProxy::NoProxy);
        connect(s, &QTcpServer::newConnection, this, [this, s] { hear(*s); });
    }
    finder_->setProxy(QNetworkProxy::NoProxy);
    webSockets_->setHandshakeTimeout(std::chrono::milliseconds(5000));
    // Browsers tell whose page asks; programs do not. No page may drive a device.
    connect(webSockets_, &QWebSocketServer::originAuthenticationRequired, this,
            [](QWebSocketCorsAuthenticator* page) { page->setAllowed(page->origin().isEmpty()); });
    connect(webSockets_, &QWebSocketServer::newConnection, this,
            [this] { take(webSockets_->nextPendingConnection()); });
    connect(finder_, &QUdpSocket::readyRead, this, [this] { emit asked(finder_); });
    connect(&tend_, &QTimer::timeout, this, [this] { device_->tend(); });
    if (device_->model() && device_->model()->workBudget > 0)
        tend_.start(100);
    connect(&second_, &QTimer::timeout, this, [this] { front_->tick(); });
    second_.start(1000);
    connect(&again_, &QTimer::timeout, this, [this] {
        if (onWire() && (here_->isListening() || here_->listen(address_, port_))) {
            again_.stop();
            servePages();
        }
    });
    pages_ = std::make_unique<serve::PageServer>(device_->surfaces().pages(), secondsNow);
    pages_->picture = [this](const std::string& print) { return device_->store().picture(print); };
    pages_->heard = [this] { emit touched(); };
    access_ = std::make_unique<serve::AccessServer>(device_->access().host(), secondsNow);
    access_->heard = [this] { emit touched(); };
    access_->odd = [this](const std::string& what) { device_->access().note(what, true); };
    device_->showsOthers = [this] { QTimer::singleShot(0, this, [this] { servePages(); }); };
    device_->outside().opens = [this](const auto& device, const auto& kind, OutsideSide::Ears ears) {
        return outsideLine(device, kind, std::move(ears));
    };
    front_->where = [this] { return address_.toString().toStdString(); };
    front_->reachedAt = [this] { return reachedAt_.toString().toStdString(); };
    front_->moveTo = [this](const std::string& to) {
        QTimer::singleShot(0, this, [this, to] { move(QString::fromStdString(to)); });
    };
    front_->restart = [this](int ms) { QTimer::singleShot(0, this, [this, ms] { powerCycle(ms); }); };
}

Server::~Server() {
    device_->showsOthers = nullptr;
    closeAll();
}

std::optional<OutsideSide::Line> Server::outsideLine(const project::OutsideDevice& device,
                                                     const project::OutsideKind& kind, OutsideSide::Ears ears) {
    auto address = project::readOutsideAddress(kind, device.address);
    if (!address)
        return {};
    if (!address->path.empty() && serial) {
        if (const auto there = serial(address->path); !there.empty())
            address->path = there;
        else if (reach_ == Reach::thisComputer) // lines of this computer are no business of its devices
            return {};
    }
    lines::OutsideLine::Told told{std::move(ears.connected), std::move(ears.heard), std::move(ears.whole),
                                  std::move(ears.refused)};
    std::shared_ptr<lines::OutsideLine> line =
        lines::openOutsideLine(kind, *address, std::move(told), reach_ == Reach::thisComputer);
    OutsideSide::Line out;
    out.send = [line = line.get()](const std::string& message) { line->send(message); };
    out.holds = line;
    return out;
}

// ---- addresses, power, cable ----

void Server::tellSound() {
    if (const auto& sound = device_->made().sound) {
        sound->powered = device_->powered();
        sound->plugged = onWire();
        sound->setAddress(address_.toString().toStdString());
    }
}

// Where its own address cannot be had it serves where it is always reached.
void Server::servePages() {
    const bool web = device_->access().access().web;
    pages_->api = nullptr, pages_->joins = nullptr;
    if (web) {
        pages_->api = [this](const auto& ask, const auto& source) { return access_->answer(ask, source); };
        pages_->joins = [this](QWebSocket* socket) { access_->join(socket); };
    }
    const bool should = onWire() && (web || device_->surfaces().shows());
    if (should == pages_->listening())
        return serveOthers();
    if (!should) {
        pages_->close();
        return serveOthers();
    }
    if (!here_->isListening() || !pages_->listen(address_, serve::pagePort).isEmpty())
        if (always_->isListening())
            (void)pages_->listen(reachedAt_, serve::pagePort);
    // Over TLS too, with a certificate of its own that outlives restarts; without one all goes on.
    const auto at = pages_->address().toString().toStdString();
    auto& store = device_->store();
    if (const auto own = serve::ownCertificate(store.certificate(), device_->made().serial, {at},
                                               [&](const std::string& text) { (void)store.keepCertificate(text); });
        own && pages_->listening())
        (void)pages_->listenTls(pages_->address(), *own);
    serveOthers();
}

void Server::serveOthers() {
    if (!onWire())
        return access_->close();
    const auto& access = device_->access().access();
    const auto wrong = access_->open(here_->isListening() ? address_ : reachedAt_, access);
    for (const auto& why : wrong)
        device_->access().note(why.toStdString(), true);
}

quint16 Server::linesPort() const {
    return access_->linesPort();
}

quint16 Server::oscPort() const {
    return access_->oscPort();
}

quint16 Server::pagePort() const {
    return pages_->listening() ? pages_->port() : 0;
}

quint16 Server::tlsPagePort() const {
    return pages_->tlsPort();
}

void Server::openReach() {
    for (int turn = 0; turn < 64 && !always_->isListening(); ++turn) {
        reachedAt_ = linkAddress(device_->made().serial, turn);
        always_->listen(reachedAt_, port_);
    }
}

QString Server::listen(const QHostAddress& address, quint16 port) {
    address_ = address;
    port_ = port;
    tellSound();
    if (!onWire())
        return {};
    const bool may = reach_ == Reach::anywhere || address.isLoopback();
    if (!may || !here_->listen(address, port)) {
        const QString why = may ? here_->errorString() : QString("devices of this rig stay on 127.0.0.0/8");
        if (may)
            again_.start(250);
        openReach();
        return QString("%1: the device cannot listen there (%2). Choose another address.").arg(address.toString(), why);
    }
    port_ = here_->serverPort();
    finder_->close();
    finder_->bind(address, port_, QAbstractSocket::ShareAddress | QAbstractSocket::ReuseAddressHint);
    openReach();
    servePages();
    return {};
}

QString Server::move(const QString& address) {
    closeAll();
    (void)bool(device_->store().setAddress(address.toStdString()));
    return listen(QHostAddress(address), port_);
}

bool Server::listening() const {
    return here_->isListening();
}

QUdpSocket* Server::finder() const {
    return finder_->state() == QAbstractSocket::BoundState ? finder_ : nullptr;
}

void Server::closeAll() {
    here_->close();
    always_->close();
    finder_->close();
    again_.stop();
    pages_->close();
    access_->close();
    dropAll();
}

void Server::dropAll() {
    front_->closeAll(); // drops every wire that has a line
    const auto wires = std::exchange(wires_, {});
    for (const auto& [socket, _] : wires) {
        socket->disconnect(this);
        socket->flush();
        socket->abort(); // a device without power says no goodbye
        socket->deleteLater();
    }
    for (const auto& s : std::exchange(shaking_, {}))
        if (s)
            s->abort();
}

void Server::setPower(bool on) {
    if (on == device_->powered())
        return;
    if (on) {
        device_->powerOn();
        (void)listen(address_, port_);
        return;
    }
    closeAll();
    device_->powerOff();
    tellSound();
}

void Server::powerCycle(int ms) {
    setPower(false);
    QTimer::singleShot(ms, this, [this] { setPower(true); });
}

Result<Done> Server::setFault(const std::string& name, const json& value) {
    const auto wrong = [&](const std::string& what) { return Error{what, "fault " + name, ""}; };
    if (name == "power") {
        if (value != "on" && value != "off")
            return wrong("takes on or off");
        setPower(value == "on");
    } else if (name == "cable") {
        if (value != "in" && value != "out")
            return wrong("takes in or out");
        cable_ = value == "in";
        tellSound();
        servePages();
        if (cable_)
            device_->plugged();
        for (auto* s : {here_, always_})
            if (s->isListening())
                cable_ ? s->resumeAccepting() : s->pauseAccepting();
        if (!cable_)
            return Done{};
        if (!here_->isListening() && onWire())
            (void)listen(address_, port_);
        std::vector<QWebSocket*> sockets;
        for (const auto& [socket, _] : wires_)
            sockets.push_back(socket);
        for (auto* socket : sockets) { // what was on its way arrives now, there and here
            const auto it = wires_.find(socket);
            if (it == wires_.end())
                continue;
            for (const auto& message : std::exchange(it->second.onWay, {}))
                put(it->second, message);
            for (const auto& [bytes, box] : std::exchange(it->second.stuck, {}))
                heard(socket, bytes, box);
        }
    } else if (name == "delay") {
        if (!value.is_number() || value < 0 || value > 10000)
            return wrong("takes milliseconds, 0 to 10000");
        delay_ = value.get<int>();
    } else if (name == "loss") {
        if (!value.is_number() || value < 0 || value > 0.5)
            return wrong("takes a share, 0 to 0.5");
        loss_ = value.get<double>();
        device_->setNetFault([this](NetFaults& f) { f.loss = loss_; });
    } else if (name == "address") {
        if (!value.is_string() || !site::readAddress(value.get<std::string>()))
            return wrong("takes an address");
        move(QString::fromStdString(value.get<std::string>()));
    } else if (name == "password") { // somebody sealed it; an empty one opens it
        if (!value.is_string())
            return wrong("takes a text");
        return front_->setPassword(value.get<std::string>());
    } else {
        return device_->setFault(name, value);
    }
    return Done{};
}

// ---- sockets ----

// Nothing of a socket is kept in memory beyond what a message may be long.
void Server::hear(QTcpServer& server) {
    while (auto* tcp = server.nextPendingConnection()) {
        tcp->setReadBufferSize(static_cast<qint64>(site::mostBeforeUnlocked) + slack);
        std::erase_if(shaking_, [](const auto& s) { return !s; });
        if (shaking_.size() >= mostShaking) {
            if (auto oldest = shaking_.front())
                oldest->abort();
            shaking_.pop_front();
        }
        shaking_.push_back(tcp);
        webSockets_->handleConnection(tcp);
    }
}

void Server::take(QWebSocket* socket) {
    if (!socket)
        return;
    wires_[socket].socket = socket;
    std::erase_if(shaking_, [&](const auto& s) { // these hands are shaken
        return !s || (s->peerPort() == socket->peerPort() && s->peerAddress() == socket->peerAddress());
    });
    socket->setParent(this);
    socket->setOutgoingFrameSize(site::mostFrame);
    connect(socket, &QWebSocket::textMessageReceived, this,
            [this, socket](const QString& text) { heard(socket, text.toUtf8(), false); });
    connect(socket, &QWebSocket::binaryMessageReceived, this,
            [this, socket](const QByteArray& box) { heard(socket, box, true); });
    connect(socket, &QWebSocket::disconnected, this, [this, socket] { forget(socket); });
    const int line = front_->opened(socket->peerAddress().toString().toStdString(),
                                    {[this, socket](const std::string& bytes, bool box) { send(socket, bytes, box); },
                                     [this, socket] { drop(socket); },
                                     [socket](std::size_t bytes) {
                                         const auto frame = std::min(bytes, site::mostFrame);
                                         socket->setMaxAllowedIncomingMessageSize(bytes);
                                         socket->setMaxAllowedIncomingFrameSize(frame);
                                         socket->setReadBufferSize(static_cast<qint64>(frame) + slack);
                                     }});
    if (const auto it = wires_.find(socket); it != wires_.end())
        it->second.line = line;
}

void Server::heard(QWebSocket* socket, const QByteArray& message, bool box) {
    const auto it = wires_.find(socket);
    if (it == wires_.end() || it->second.ends)
        return;
    if (!cable_) {
        if (it->second.stuck.size() < mostStuck)
            it->second.stuck.emplace_back(message, box);
        return;
    }
    front_->received(it->second.line, message.toStdString(), box);
}

// Late if the line is slow.
void Server::send(QWebSocket* socket, const std::string& bytes, bool box) {
    const auto it = wires_.find(socket);
    if (it == wires_.end() || it->second.ends)
        return;
    auto& wire = it->second;
    const Message message{QByteArray::fromStdString(bytes), box};
    if (!cable_) { // it waits for the cable, as a stream does
        if (wire.onWay.size() >= mostStuck)
            return drop(socket);
        return wire.onWay.push_back(message);
    }
    if (delay_ <= 0 && loss_ <= 0)
        return put(wire, message);
    const qint64 now = QDateTime::currentMSecsSinceEpoch();
    const bool lost = QRandomGenerator::global()->generateDouble() < loss_;
    wire.free = std::max(wire.free, now + delay_ + (lost ? lostAgainMs : 0));
    wire.onWay.push_back(message);
    QTimer::singleShot(static_cast<int>(wire.free - now), Qt::PreciseTimer, socket, [this, socket] {
        const auto on = wires_.find(socket);
        if (on == wires_.end() || on->second.onWay.empty() || !cable_)
            return;
        const auto first = on->second.onWay.front(); // never another one first, whatever the timers do
        on->second.onWay.pop_front();
        put(on->second, first);
    });
}

void Server::put(Wire& wire, const Message& message) {
    message.second ? wire.socket->sendBinaryMessage(message.first)
                   : wire.socket->sendTextMessage(QString::fromUtf8(message.first));
    if (wire.socket->bytesToWrite() > static_cast<qint64>(site::mostWaiting)) // it does not read
        drop(wire.socket);
}

// Whoever asks for it may be in the midst of that line: it ends a little later, and nothing comes in meanwhile.
void Server::drop(QWebSocket* socket) {
    const auto it = wires_.find(socket);
    if (it == wires_.end() || std::exchange(it->second.ends, true))
        return;
    QTimer::singleShot(0, socket, [socket] { socket->abort(); });
}

void Server::forget(QWebSocket* socket) {
    const auto it = wires_.find(socket);
    if (it == wires_.end())
        return;
    const int line = it->second.line;
    wires_.erase(it);
    front_->closed(line);
    socket->deleteLater();
}

} // namespace loom::rig
